package setting

import (
	"maps"
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// jumperOn is everyday use with the jumper hose on: what it leads to gets
// water as well, the piece ahead of an inlet's check valve for one.
func (e *equipment) jumperOn() Mode {
	m := Mode{ID: JumperOn, Group: Use}
	hoses := slices.DeleteFunc(e.net.PartsOf(plumbing.RoleJumper), func(p *plumbing.Part) bool {
		return len(p.Ends) == 0
	})
	if len(hoses) == 0 {
		m.LeftOut = fact.Of("left-out.no-jumper-hose")
		return m
	}
	for _, p := range hoses {
		if foul := FoulEnd(e.net.Model, p); foul != nil {
			m.LeftOut = fact.Of("left-out.foul", p, foul)
			return m
		}
	}
	c := *e
	c.shut = maps.Clone(e.shut)
	var ends []plumbing.NodeID
	for _, p := range hoses {
		h := e.net.HandleOf(p.ID)
		c.shut[h] = e.net.Handles[h].Index("joined")
		for _, end := range p.Ends {
			ends = append(ends, e.net.Node(end))
		}
	}
	c.mouths = slices.DeleteFunc(slices.Clone(e.mouths), func(i plumbing.NodeID) bool {
		return slices.Contains(ends, i)
	})
	m = c.fromTank(JumperOn, state.Water, Use)
	if m.LeftOut.ID != "" {
		return m
	}
	c.heated(&m)
	m.Clauses = slices.DeleteFunc(m.Clauses, func(x Clause) bool {
		return x.Aim == OneSource && slices.Contains(ends, x.From[0])
	})
	for _, p := range hoses {
		m.does(e.net, state.Act{Verb: state.Turn, Part: p, To: "joined"})
		for _, end := range p.Ends {
			node := e.net.Node(end)
			m.Clauses = append(m.Clauses, Clause{Aim: Served, Must: true, From: m.From, Target: e.net.Nodes[node].Part,
				To: []plumbing.NodeID{node}})
		}
	}
	return m
}

// FoulEnd is what a jumper hose leads to that drinking water must not be
// joined to; nil for none.
func FoulEnd(m *plumbing.Model, hose *plumbing.Part) *plumbing.Part {
	for _, end := range hose.Ends {
		id, _ := plumbing.PartOf(end)
		if p := m.Part(id); p != nil && (p.Role() == plumbing.RoleRinse || p.Role() == plumbing.RoleWaste) {
			return p
		}
	}
	return nil
}

// passable lists the filters that water can be made to run past.
func (e *equipment) passable(m *Mode) []*plumbing.Part {
	var list []*plumbing.Part
	for _, f := range e.net.PartsOf(plumbing.RoleFilter) {
		past := flow.Reach(e.net, undecided(e.net, m.Fixed, m.Start.Pumps),
			flow.Query{From: m.From, Without: []*plumbing.Part{f}})
		if e.reachIn(m.Fixed, m.From).Part(f) && !slices.ContainsFunc(e.sides, func(s side) bool {
			return !past.Node(s.node)
		}) {
			list = append(list, f)
		}
	}
	return list
}

// filterThrough is everyday use with the filters left in that can be passed.
func (e *equipment) filterThrough() Mode {
	m := e.fromTank(FilterThrough, state.Water, Use)
	if m.LeftOut.ID != "" {
		return m
	}
	filters := e.passable(&m)
	switch {
	case len(e.net.PartsOf(plumbing.RoleFilter)) == 0:
		m.LeftOut = fact.Of("left-out.no-filter")
		return m
	case len(filters) == 0:
		m.LeftOut = fact.Of("left-out.no-filter-can-be-passed")
		return m
	}
	for _, f := range filters {
		m.Clauses = append(m.Clauses, Clause{Aim: FilterIn, Must: true, From: m.From, Target: f, To: e.partNodes(f)})
		behind := e.reachIn(m.Fixed, e.nodes([]*plumbing.Part{f}, "out"))
		for _, s := range e.sides {
			if behind.Node(s.node) {
				m.Clauses = append(m.Clauses, Clause{Aim: OnlyByFilter, From: m.From, Target: s.part, Side: s.port,
					To: []plumbing.NodeID{s.node}, Without: []*plumbing.Part{f}})
			}
		}
	}
	e.heated(&m)
	return m
}

// kept has what a mode's antifreeze or sanitizer runs out of caught, where it
// would run into the open, and the black tank emptied before it gets any
// sanitizer.
func kept(n *plumbing.Network, m *Mode, s state.State) []state.Act {
	if m.Fluid != state.Antifreeze && m.Fluid != state.Sanitizer || m.Base != "" || m.Measure {
		return nil
	}
	r := flow.Reach(n, s, flow.Query{From: m.From})
	reached := func(p *plumbing.Part) bool {
		return slices.ContainsFunc(p.Ports(), func(i plumbing.PortInfo) bool {
			return r.Node(n.Node(p.ID + "." + i.Name))
		})
	}
	var list []state.Act
	black := map[string]bool{}
	for _, p := range n.PartsOf(plumbing.RoleOutlet, plumbing.RoleMachine, plumbing.RoleDrain) {
		if !reached(p) {
			continue
		}
		black[p.Data.Waste] = true
		if to := n.Model.WasteOf(p); to.Open() {
			list = append(list, state.Act{Verb: state.Catch, Part: p, For: m.Fluid, To: string(to)})
		}
	}
	for _, w := range n.PartsOf(plumbing.RoleWaste) {
		if m.Fluid == state.Sanitizer && w.Data.Type == "black" && black[w.ID] {
			list = append(list, state.Act{Verb: state.Rinse, Part: w, For: m.Fluid})
		}
	}
	return list
}
