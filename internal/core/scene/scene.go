// Package scene tells what goes on in a system as it stands: what is wet with
// what, what flows where and how much, what stays when it is drained or blown.
package scene

import (
	"context"
	"slices"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
)

// Joint is what is joined to a port.
type Joint string

// What may be joined to a port.
const (
	Closed Joint = "closed" // capped, or shut by itself
	Hose   Joint = "hose"   // water under pressure
	Jug    Joint = "jug"    // a container of the mode's fluid
	Bare   Joint = "bare"   // open to the air
)

// Joints lists what a port can be joined to, Closed first.
func Joints(p *plumbing.Part) []Joint {
	switch p.Kind {
	case plumbing.CityInlet:
		return []Joint{Closed, Hose, Bare}
	case plumbing.GravityFill, plumbing.RinseInlet:
		return []Joint{Closed, Hose}
	case plumbing.ContainerPort:
		return []Joint{Closed, Jug, Bare}
	}
	return nil
}

// State is a system as it stands while a mode is looked at.
type State struct {
	Net     *plumbing.Network
	Mode    *setting.Mode
	Setting flow.Setting
	Pump    bool
	Open    map[plumbing.NodeID]bool  // outlet sides, by node
	At      map[plumbing.NodeID]Joint // by the node of a port's mouth
}

// Begin is a mode as it is meant: its handles, its hookups, and one outlet
// open so that something runs, or all of them where it is drained or blown.
func Begin(n *plumbing.Network, m *setting.Mode, s flow.Setting) *State {
	st := &State{Net: n, Mode: m, Setting: s, Pump: m.PumpOn, Open: map[plumbing.NodeID]bool{}, At: map[plumbing.NodeID]Joint{}}
	for _, f := range m.From {
		if p := n.Nodes[f].Part; n.Nodes[f].Outside {
			if kinds := Joints(p); len(kinds) > 1 {
				st.At[f] = kinds[1]
			} else {
				st.At[f] = Jug
			}
		}
	}
	if m.Drains || m.Fluid == "air" {
		for node := range flow.Everyone(n) {
			if n.Nodes[node].Part.Kind == plumbing.Outlet || m.Fluid == "air" {
				st.Open[node] = true
			}
		}
		return st
	}
	var first *plumbing.Part
	for _, c := range m.Clauses {
		if c.Aim == setting.Served && (first == nil || c.Target == first) {
			first = c.Target
			st.Open[c.To[0]] = true
		}
	}
	return st
}

// Picture is what a state leads to.
type Picture struct {
	Wet    map[plumbing.LinkID]string // line's link to fluid
	Flow   *flow.Steady               // nil where nothing flows steadily
	Left   *flow.Drained              // what stays, of a mode that drains or blows
	Why    []flow.Reason              // for each piece of Left; nil after a blow
	Broken []setting.Breach
	Keeps  []setting.Keep // of a mode that drains: tanks and heaters that don't run empty
}

// Look works out the picture of a state.
func Look(ctx context.Context, st *State, plan []setting.Answer) (*Picture, error) {
	n := st.Net
	p := &Picture{Wet: map[plumbing.LinkID]string{}, Broken: setting.Judge(n, st.Mode, st.Setting)}
	set := st.Setting
	set.PumpOn = st.Pump
	switch {
	case st.Mode.Drains:
		at := flow.Openings(n, set, st.Open)
		p.Left = flow.Drain(n, set, at)
		p.Why = p.Left.Reasons(n, set, at)
		p.Keeps = setting.KeptFull(n, p.Left)
		return p, nil
	case st.Mode.Fluid == "air":
		p.Left = blown(st, set, plan)
	}
	for _, src := range st.sources() {
		r := flow.Reach(n, set, flow.Query{From: []plumbing.NodeID{src.node}})
		for i := range n.AllLinks() {
			if n.Links[i].Line != nil && r.Link(set, i) && n.Links[i].Line.Side != plumbing.Air {
				p.Wet[i] = src.fluid
			}
		}
	}
	if st.Mode.Fluid == "air" || st.Mode.ID == setting.Storage {
		return p, nil
	}
	var err error
	p.Flow, err = flow.SteadyFlow(ctx, n, st.flowScene())
	return p, err
}

// blown drains the system as its drain-down mode says, then blows it out.
func blown(st *State, set flow.Setting, plan []setting.Answer) *flow.Drained {
	a := setting.Of(plan, setting.DrainDown)
	if !a.Has() || len(st.Mode.From) == 0 {
		return nil
	}
	d := flow.Drain(st.Net, a.Setting, flow.Openings(st.Net, a.Setting, nil))
	var to []plumbing.NodeID
	for node, open := range st.Open {
		if open {
			to = append(to, node)
		}
	}
	slices.Sort(to)
	return flow.Blow(st.Net, set, d, st.Mode.From[0], to, flow.Film)
}

type source struct {
	node  plumbing.NodeID
	fluid string
}

// sources lists where something comes from, as the state stands: what the mode
// is fed from goes last, so that it is what is seen where several meet.
func (st *State) sources() []source {
	var list []source
	for node, j := range st.At {
		if j == Closed || j == Bare {
			continue
		}
		fluid := "water"
		if j == Jug || slices.Contains(st.Mode.From, node) {
			fluid = st.Mode.Fluid
		}
		list = append(list, source{node, fluid})
	}
	slices.SortFunc(list, func(a, b source) int { return int(a.node - b.node) })
	for _, f := range st.Mode.From {
		if !st.Net.Nodes[f].Outside {
			list = append(list, source{f, st.Mode.Fluid})
		}
	}
	return list
}

func (st *State) flowScene() *flow.Scene {
	sc := &flow.Scene{Setting: st.Setting, Open: st.Open, At: map[plumbing.NodeID]flow.Attached{}}
	sc.PumpOn = st.Pump
	for node, j := range st.At {
		switch j {
		case Hose:
			sc.At[node] = setting.Joined(st.Net.Nodes[node].Part)
		case Jug:
			sc.At[node] = flow.Attached{Kind: flow.Container}
		case Bare:
			sc.At[node] = flow.Attached{Kind: flow.Air}
		}
	}
	return sc
}
