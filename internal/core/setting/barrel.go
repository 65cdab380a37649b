package setting

import (
	"maps"
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// fromBarrel is everyday use from a barrel whose own pump feeds the lines.
func (e *equipment) fromBarrel() Mode {
	m := Mode{ID: FromBarrel, Fluid: state.Water, Group: Use, Fixed: e.shut}
	feeding, filling := e.feeders(e.barrels)
	switch {
	case len(e.barrels) == 0:
		m.LeftOut = fact.Of("left-out.no-socket-for-a-barrels")
		return m
	case len(feeding) == 0:
		m.LeftOut = fact.Of("left-out.only-fills", filling[0])
		return m
	}
	m = e.fedAt(m, feeding[0], state.Supply)
	e.serve(&m)
	e.heated(&m)
	e.keepFrom(&m, m.From)
	return m
}

// fillFromBarrel fills the tank by a barrel's own pump.
func (e *equipment) fillFromBarrel() Mode {
	m := Mode{ID: FillBarrel}
	if len(e.barrels) == 0 {
		m.LeftOut = fact.Of("left-out.no-socket-for-a-barrels")
	}
	return e.fillAt(m, e.barrels, e.untilFull(e.barrels))
}

// untilFull is how a fill under pressure ends: by itself where every way from
// the inlets into a tank runs through a float valve.
func (e *equipment) untilFull(inlets []*plumbing.Part) state.Until {
	floats := e.net.PartsOf(plumbing.RoleFloat)
	r := e.reachWithout(e.nodes(inlets, "mouth"), floats)
	for _, t := range e.tanks {
		if slices.ContainsFunc(e.partNodes(t), r.Node) {
			return state.TankFull
		}
	}
	if len(floats) == 0 {
		return state.TankFull
	}
	return state.FloatShuts
}

// fillByHatch fills a tank by its hatch, from jugs.
func (e *equipment) fillByHatch() Mode {
	m := Mode{ID: FillHatch}
	var at []*plumbing.Part
	for _, p := range e.net.PartsOf(plumbing.RoleHatch) {
		if e.net.Joined(e.net.Node(p.ID + ".in")) {
			at = append(at, p)
		}
	}
	if len(at) == 0 {
		m.LeftOut = fact.Of("left-out.no-hatch-in-a-tank")
		return m
	}
	c := *e
	c.shut = maps.Clone(e.shut)
	for _, p := range at {
		h := e.net.HandleOf(p.ID)
		c.shut[h] = e.net.Handles[h].Index("open")
		m.Acts = append(m.Acts, state.Act{Verb: state.Turn, Part: p, To: "open"})
	}
	m = c.fillAt(m, at, state.TankFull)
	// The hatches are open to be poured in at, above the water.
	m.Clauses = slices.DeleteFunc(m.Clauses, func(c Clause) bool {
		return c.Aim == NoSpill && slices.Contains(at, c.Target)
	})
	return m
}
