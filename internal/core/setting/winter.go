package setting

import (
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// drainDown opens every drain and turns the other handles so that the least
// water stays.
func (e *equipment) drainDown() Mode {
	m := Mode{ID: DrainDown, Fluid: "water", Group: Winter, Drains: true,
		Fixed: map[plumbing.HandleID]plumbing.Position{}}
	open := map[plumbing.NodeID]bool{}
	for i, h := range e.net.AllHandles() {
		_, fixed := e.shut[i]
		if !fixed {
			continue
		}
		m.Fixed[i] = h.Normal
		if h.Part.Lets() || h.Part.Role() == plumbing.RoleSelector {
			pos := mostOpen(e.net, i)
			m.Fixed[i] = pos
			for _, l := range e.net.Links {
				if l.Handle == i && l.Open.Has(pos) {
					open[l.A], open[l.B] = true, true
				}
			}
		}
	}
	var mouths []plumbing.NodeID
	for i, n := range e.net.AllNodes() {
		if n.Outside && open[i] {
			mouths = append(mouths, i)
		}
	}
	if len(mouths) == 0 {
		m.LeftOut = fact.Of("left-out.no-drain")
		return m
	}
	// Tanks and heaters must be able to run out; what stays in them and in the
	// lines is judged in litres. Where nothing could ever let one run out, it is
	// told as what stays instead.
	every := undecided(e.net, m.Fixed, 0)
	out := func(target *plumbing.Part, from []plumbing.NodeID) {
		r := flow.Reach(e.net, every, flow.Query{From: from})
		if hitNode(r, mouths) >= 0 {
			m.Clauses = append(m.Clauses, Clause{Aim: RunsOut, Must: true, From: from, Target: target, To: mouths})
		}
	}
	for _, t := range e.tanks {
		out(t, e.partNodes(t))
	}
	for _, h := range e.heaters {
		out(h, e.partNodes(h))
	}
	e.heatOff(&m, state.Cold)
	m.does(e.net, e.switched(e.pumps, state.Off)...)
	for _, c := range slices.Concat(e.cities, e.barrels) {
		m.does(e.net, state.Act{Verb: state.Part, Part: c})
		if c.Fitted() == plumbing.Screen && c.Data.CheckValve { // nothing else empties what stands ahead of it
			m.does(e.net, state.Act{Verb: state.TakeOut, Part: c})
		}
	}
	for _, o := range e.net.PartsOf(plumbing.RoleOutlet) {
		if sides := e.net.SidesOf(o); sides != nil {
			m.does(e.net, state.Act{Verb: state.Open, Part: o, Sides: sides})
		}
	}
	return m
}

// mostOpen is the position of a drain or a drain lever that opens most.
func mostOpen(n *plumbing.Network, h plumbing.HandleID) plumbing.Position {
	best, most := n.Handles[h].Normal, -1
	for pos := range n.Handles[h].Positions {
		pos, count := plumbing.Position(pos), 0
		for _, l := range n.Links {
			if l.Handle == h && l.Open.Has(pos) {
				count++
			}
		}
		if count > most {
			best, most = pos, count
		}
	}
	return best
}

func (e *equipment) blow() Mode {
	m := e.airPort(Mode{ID: Blow, Fluid: state.Air, Group: Winter, Fixed: e.shut})
	m.Start.Open = state.EverySide(e.net)
	if m.LeftOut.ID == "" {
		// What sprays holds back air, and the dirt that air drives ahead.
		for _, s := range e.sides {
			if f := s.part.Fitted(); f != "" && !slices.ContainsFunc(m.Acts, func(a state.Act) bool {
				return a.Part == s.part
			}) {
				m.does(e.net, state.Act{Verb: state.TakeOut, Part: s.part})
			}
		}
	}
	if m.LeftOut.ID == "" {
		e.pastHeaterFrom(&m)
	}
	return m
}

// airPort lets air in at an inlet that feeds outlets, or where there is none at
// a threaded and rated port: no other holds a connector, or is known to stand
// the pressure.
func (e *equipment) airPort(m Mode) Mode {
	feeding, _ := e.feeders(e.cities)
	if len(feeding) > 0 {
		return e.fedAt(m, feeding[0], state.Compressed)
	}
	var ports []*plumbing.Part
	for _, p := range slices.Concat(e.barrels, e.net.PartsOf(plumbing.RolePickUp)) {
		if p.Thread != "" && !plumbing.Field(e.net, &p.Data.Rating).IsZero() {
			ports = append(ports, p)
		}
	}
	switch at := e.blowable(ports); {
	case at != nil:
		return e.fedAt(m, at, state.Compressed)
	case len(ports) > 0:
		m.LeftOut = fact.Of("left-out.no-air-to-outlet", ports[0])
	case len(e.cities) > 0:
		m.LeftOut = fact.Of("left-out.no-air-port", e.cities[0])
	default:
		m.LeftOut = fact.Of("left-out.no-inlet-for-air", e.called("inlet"))
	}
	return m
}

// blowable finds the first port from which air gets to an outlet while the
// pumps stand still.
func (e *equipment) blowable(ports []*plumbing.Part) *plumbing.Part {
	for _, p := range ports {
		r := flow.Reach(e.net, undecided(e.net, e.shut, 0), flow.Query{From: e.nodes([]*plumbing.Part{p}, "mouth")})
		if slices.ContainsFunc(e.sides, func(s side) bool { return r.Node(s.node) }) {
			return p
		}
	}
	return nil
}

func (e *equipment) handPump() Mode {
	m := e.fromCity(HandPump, "antifreeze", Winter, state.HandPump)
	if m.LeftOut.ID == "" {
		e.pastHeaterFrom(&m)
	}
	return m
}

// pastHeaterFrom serves every outlet from the mode's source, heater and tank
// left out.
func (e *equipment) pastHeaterFrom(m *Mode) {
	e.serve(m)
	e.heaterOut(m)
	e.keepFrom(m, m.From)
}

func (e *equipment) antifreeze() Mode {
	m := e.fromPort(Antifreeze, "antifreeze", Winter, e.sideNodes())
	if m.LeftOut.ID == "" {
		e.pastHeater(&m)
	}
	return m
}

// pastHeater asks for every outlet, and that nothing gets into heater or tank.
func (e *equipment) pastHeater(m *Mode) {
	e.serve(m)
	e.heaterOut(m)
	e.onlyFromPort(m)
}

// onlyFromPort keeps what a port draws out of the tanks, and the tanks' water
// out of the pump.
func (e *equipment) onlyFromPort(m *Mode) {
	e.keepFrom(m, m.From)
	e.noStanding(m)
	e.suctionFrom(m, e.nodes(e.tanks, "supply"))
}

// throughHeater is what antifreeze by the pump comes to where the heater is
// left in: the measure of what a bypass saves.
func (e *equipment) throughHeater() Mode {
	m := e.fromPort(ThroughHeater, "antifreeze", Winter, e.sideNodes())
	m.Measure = true
	if m.LeftOut.ID == "" && len(e.heaters) == 0 {
		m.LeftOut = fact.Of("left-out.no-heater")
	}
	if m.LeftOut.ID != "" {
		return m
	}
	e.serve(&m)
	e.heated(&m)
	e.onlyFromPort(&m)
	return m
}

// storage keeps what stands in the lines over the winter where it is: out of
// the heater, the tank and the open.
func (e *equipment) storage() Mode {
	m := Mode{ID: Storage, Fluid: "antifreeze", Group: Winter, Base: Antifreeze, Fixed: e.shut}
	for _, s := range e.sides {
		m.From = append(m.From, s.node)
	}
	if len(m.From) == 0 {
		m.LeftOut = fact.Of("left-out.no-outlet-of-this-model")
		return m
	}
	m.Source = e.sides[0].part
	e.heaterOut(&m)
	e.keepFrom(&m, m.From)
	m.does(e.net, e.switched(e.pumps, state.Off)...)
	for _, c := range slices.Concat(e.cities, e.barrels) {
		m.does(e.net, state.Act{Verb: state.Cap, Part: c})
	}
	for _, p := range e.pickups {
		m.does(e.net, state.Act{Verb: state.Cap, Part: p.part})
	}
	return m
}
