package setting

import (
	"slices"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// serve asks for water at every outlet side, and at the hot ones only through
// a heater, where there is one.
func (e *equipment) serve(m *Mode) {
	for _, s := range e.sides {
		m.Clauses = append(m.Clauses, Clause{Aim: Served, Must: true, From: m.From, Target: s.part, Side: s.port,
			To: []plumbing.NodeID{s.node}, Untempered: true})
	}
}

func (e *equipment) heated(m *Mode) {
	all := e.reach(e.sources())
	for _, h := range e.heaters {
		if !all.Part(h) {
			continue // a portable one that is not coupled
		}
		m.Clauses = append(m.Clauses, Clause{Aim: HeaterIn, Must: true, From: m.From, Target: h, To: e.partNodes(h)})
	}
	if len(e.heaters) == 0 {
		return
	}
	for _, s := range e.sides {
		if s.port == "hot" {
			m.Clauses = append(m.Clauses, Clause{Aim: OnlyByHeater, From: m.From, Target: s.part, Side: s.port,
				To: []plumbing.NodeID{s.node}, Without: e.heaters, Untempered: true})
		}
	}
}

// keepFrom forbids what every mode forbids: water back into a tank that the
// mode does not fill, and water out at an open end.
func (e *equipment) keepFrom(m *Mode, from []plumbing.NodeID) {
	for _, t := range e.tanks {
		m.Clauses = append(m.Clauses, Clause{Aim: TankOut, From: from, Target: t, To: e.partNodes(t)})
	}
	e.noSpill(m, from)
}

// noStanding forbids that standing tank water gets into the open. Where
// a joint is taken apart on the way and nothing could shut the tank off, the
// end of its hose is held up and plugged instead.
func (e *equipment) noStanding(m *Mode) {
	from := e.standing()
	always := flow.Reach(e.net, undecided(e.net, m.Fixed, m.Start.Pumps), flow.Query{From: from, View: state.Must})
	for _, mouth := range e.mouths {
		node := e.net.Nodes[mouth]
		if node.Part.Role() == plumbing.RoleJoint && node.Port == "loose" && always.Node(mouth) {
			m.does(e.net, state.Act{Verb: state.Plug, Part: node.Part})
			continue
		}
		m.Clauses = append(m.Clauses, Clause{Aim: NoSpill, From: from, Target: node.Part, To: []plumbing.NodeID{mouth}})
	}
}

func (e *equipment) noSpill(m *Mode, from []plumbing.NodeID) {
	for _, mouth := range e.mouths {
		own := false
		for _, f := range from {
			own = own || f == mouth
		}
		if !own {
			m.Clauses = append(m.Clauses, Clause{Aim: NoSpill, From: from, Target: e.net.Nodes[mouth].Part,
				To: []plumbing.NodeID{mouth}})
		}
	}
}

// suctionFrom forbids that sources other than the mode's own get to a pump's
// suction, where a port not in use lets air in.
func (e *equipment) suctionFrom(m *Mode, others ...[]plumbing.NodeID) {
	// A pump that the mode's own source can't get to draws for itself.
	own := e.reachIn(m.Fixed, m.From)
	var pumps []plumbing.NodeID
	for _, in := range e.nodes(e.pumps, "in") {
		if own.Node(in) {
			pumps = append(pumps, in)
		}
	}
	for _, other := range others {
		for _, n := range other {
			m.Clauses = append(m.Clauses, Clause{Aim: OneSource, From: []plumbing.NodeID{n},
				Target: e.net.Nodes[n].Part, To: pumps})
		}
	}
}

func (e *equipment) heaterOut(m *Mode) {
	for _, h := range e.heaters {
		m.Clauses = append(m.Clauses, Clause{Aim: HeaterOut, From: m.From, Target: h, To: e.partNodes(h)})
	}
	e.heatOff(m, state.Done)
}

// spare keeps what a part shuns out of its inside.
func (e *equipment) spare(m *Mode) {
	if m.LeftOut.ID != "" {
		return
	}
	for i := range e.net.Model.Parts {
		p := &e.net.Model.Parts[i]
		if info := p.Kind.Info(); info.Inside != "" && slices.Contains(info.Shuns, string(m.Fluid)) {
			m.Clauses = append(m.Clauses, Clause{Aim: Spared, From: m.From, Target: p,
				To: []plumbing.NodeID{e.net.Node(p.ID + "." + info.Inside)}})
		}
	}
}

// heatOff switches every heater off: one that is left out of the water, or
// drained, is ruined by its heat.
func (e *equipment) heatOff(m *Mode, until state.Until) {
	for _, h := range e.heaters {
		if e.wet.Part(h) {
			m.does(e.net, e.heaterOff(h, until))
		}
	}
}

// heaterOff is the act of switching a heater off.
func (e *equipment) heaterOff(h *plumbing.Part, until state.Until) state.Act {
	a := state.Act{Verb: state.HeatOff, Part: h, Until: until}
	a.At, a.Control = e.net.ControlOf(h)
	return a
}
