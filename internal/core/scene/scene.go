// Package scene tells what goes on in a system as it stands: what is wet with
// what, what flows where and how much, what stays when it is drained or blown.
package scene

import (
	"context"
	"slices"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// Scene is a system as it stands while a mode is looked at.
type Scene struct {
	Net  *plumbing.Network
	Mode *setting.Mode
	state.State
}

// AsMeant is a mode as it is meant: its handles, its switches and hookups, and
// where no outlet is open in it, one that is, so that something runs.
func AsMeant(n *plumbing.Network, m *setting.Mode, handles []plumbing.Positions) *Scene {
	sc := &Scene{Net: n, Mode: m, State: m.State(handles)}
	if sc.Open != nil || m.Drains {
		return sc
	}
	var first *plumbing.Part
	for _, c := range m.Clauses {
		if c.Aim == setting.Served && (first == nil || c.Target == first) {
			first = c.Target
			sc.State = sc.WithOpen(c.To[0], true)
		}
	}
	return sc
}

// Observation is what a state leads to.
type Observation struct {
	Wet    map[plumbing.LinkID]state.Fluid // of lines
	Flow   *flow.Steady                    // nil where nothing flows steadily
	Left   *flow.Drained                   // what stays, of a mode that drains or blows
	Why    []flow.Reason                   // for each piece of Left; nil after a blow
	Broken []setting.Breach
	Keeps  []setting.Keep // of a mode that drains: tanks and heaters that don't run empty
}

// Observe works out the picture of a scene, by the house's rules of what a blow
// leaves.
func Observe(ctx context.Context, sc *Scene, plan []setting.Answer, rules house.House) (*Observation, error) {
	n, m := sc.Net, sc.Mode
	p := &Observation{Wet: map[plumbing.LinkID]state.Fluid{}, Broken: setting.Judge(n, m, sc.State)}
	switch {
	case m.Drains:
		p.Left = flow.Drain(n, sc.State)
		p.Why = p.Left.Reasons(n, sc.State)
		p.Keeps = setting.KeptFull(n, p.Left)
		return p, nil
	case m.Fluid == state.Air:
		p.Left = blown(sc, plan, house.Film.Of(rules))
	}
	for _, src := range sc.sources() {
		r := flow.Reach(n, sc.State, flow.Query{From: []plumbing.NodeID{src.node}})
		for i, l := range n.AllLinks() {
			if l.Line != nil && r.Link(sc.State, i) && l.Line.Side != plumbing.Air {
				p.Wet[i] = src.fluid
			}
		}
	}
	if m.Fluid == state.Air || m.ID == setting.Storage {
		return p, nil
	}
	var err error
	p.Flow, err = flow.SteadyFlow(ctx, n, sc.State)
	return p, err
}

// blown drains the system as its drain-down mode says, then blows it out.
func blown(sc *Scene, plan []setting.Answer, film float64) *flow.Drained {
	a := setting.ForMode(plan, setting.DrainDown)
	if !a.Has() || sc.Mode.LeftOut.ID != "" {
		return nil
	}
	return flow.Blow(sc.Net, sc.State, flow.Drain(sc.Net, a.Last()), film)
}

type source struct {
	node  plumbing.NodeID
	fluid state.Fluid
}

// sources lists where something comes from, as the scene stands: what the mode
// is fed from within goes last, so that it is what is seen where several meet.
func (sc *Scene) sources() []source {
	var list []source
	for node, c := range sc.Joined {
		if c.Kind.Gives() {
			list = append(list, source{node, c.Fluid})
		}
	}
	slices.SortFunc(list, func(a, b source) int { return int(a.node - b.node) })
	for _, f := range sc.Mode.From {
		if !sc.Net.Nodes[f].Outside {
			list = append(list, source{f, sc.Mode.Fluid})
		}
	}
	return list
}
