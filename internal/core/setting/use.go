package setting

import (
	"maps"
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// fromTank begins a mode in which the pump draws from the tank.
func (e *equipment) fromTank(id string, fluid state.Fluid, group Group) Mode {
	m := Mode{ID: id, Fluid: fluid, Group: group, Start: state.State{Pumps: state.AllPumps(e.net)}, Fixed: e.shut}
	switch {
	case len(e.tanks) == 0:
		m.LeftOut = fact.Of("left-out.no-fresh-tank")
		return m
	case len(e.pumps) == 0:
		m.LeftOut = fact.Of("left-out.no-pump-to-draw-from")
		return m
	}
	m.Source, m.From = e.tanks[0], e.nodes(e.tanks, "supply")
	m.does(e.net, e.switched(e.pumps, state.On)...)
	e.serve(&m)
	e.keepFrom(&m, e.nodes(e.pumps, "out"))
	e.noStanding(&m)
	e.suctionFrom(&m, e.portMouths(), e.nodes(e.cities, "mouth"), e.nodes(e.barrels, "mouth"))
	return m
}

func (e *equipment) everyday() Mode {
	m := e.fromTank(Everyday, "water", Use)
	if m.LeftOut.ID == "" {
		e.heated(&m)
	}
	return m
}

// pastHeaterFromTank is a mode that serves every outlet from the tank and
// leaves the heater out.
func (e *equipment) pastHeaterFromTank(id string, fluid state.Fluid, group Group) Mode {
	m := e.fromTank(id, fluid, group)
	if m.LeftOut.ID == "" {
		e.heaterOut(&m)
	}
	return m
}

func (e *equipment) bypassed() Mode {
	if len(e.heaters) == 0 {
		return Mode{ID: Bypassed, Group: Use, LeftOut: fact.Of("left-out.no-heater")}
	}
	return e.pastHeaterFromTank(Bypassed, "water", Use)
}

// coupled is everyday use with a portable heater on its quick couplings.
func (e *equipment) coupled() Mode {
	return e.coupledBy(Mode{ID: Coupled, Group: Use}, func(c *equipment) Mode {
		return c.fromTank(Coupled, "water", Use)
	})
}

// cityCoupled is city water with a portable heater on its quick couplings.
func (e *equipment) cityCoupled() Mode {
	return e.coupledBy(Mode{ID: CityCoupled, Group: Use}, func(c *equipment) Mode {
		m := c.fromCity(CityCoupled, "water", Use, state.Supply)
		if m.LeftOut.ID == "" {
			c.serve(&m)
			c.keepFrom(&m, m.From)
		}
		return m
	})
}

// coupledBy makes a mode of a system whose couplings are together.
func (e *equipment) coupledBy(m Mode, begin func(c *equipment) Mode) Mode {
	if !slices.ContainsFunc(e.heaters, func(h *plumbing.Part) bool { return h.Data.Type == "portable" }) {
		m.LeftOut = fact.Of("left-out.no-portable-heater")
		return m
	}
	c := surveyWith(e.net, plumbing.RoleCoupling, "together")
	if m = begin(c); m.LeftOut.ID != "" {
		return m
	}
	c.heated(&m)
	for _, p := range e.net.PartsOf(plumbing.RoleCoupling) {
		m.does(e.net, state.Act{Verb: state.Turn, Part: p, To: "together"})
	}
	m.Fixed = maps.Clone(m.Fixed)
	for i, h := range e.net.AllHandles() {
		if h.Part.Role() == plumbing.RoleGas { // water first, gas last
			m.Fixed[i] = h.Index("together")
			m.does(e.net, state.Act{Verb: state.Turn, Part: h.Part, To: "together"})
		}
	}
	return m
}

// feeders splits inlets into those that feed outlets and those that only fill
// a tank.
func (e *equipment) feeders(inlets []*plumbing.Part) (feeding, filling []*plumbing.Part) {
	for _, c := range inlets {
		r := e.reach(e.nodes([]*plumbing.Part{c}, "mouth"))
		if slices.ContainsFunc(e.sides, func(s side) bool { return r.Node(s.node) }) {
			feeding = append(feeding, c)
		} else {
			filling = append(filling, c)
		}
	}
	return feeding, filling
}

// fromCity begins a mode fed at the city water inlet with the pump off.
func (e *equipment) fromCity(id string, fluid state.Fluid, group Group, kind state.ConnectionKind) Mode {
	m := Mode{ID: id, Fluid: fluid, Group: group, Fixed: e.shut}
	feeding, filling := e.feeders(e.cities)
	switch {
	case len(e.cities) == 0:
		m.LeftOut = fact.Of("left-out.no-inlet", e.called("inlet"))
		return m
	case len(feeding) == 0:
		m.LeftOut = fact.Of("left-out.only-fills", filling[0])
		return m
	}
	return e.fedAt(m, feeding[0], kind)
}

// fedAt feeds a mode at a port, its pumps off.
func (e *equipment) fedAt(m Mode, at *plumbing.Part, kind state.ConnectionKind) Mode {
	m.Source, m.From = at, e.nodes([]*plumbing.Part{at}, "mouth")
	join := joined(at, m.Fluid, state.Done)
	join.With.Kind = kind
	m.does(e.net, join)
	m.does(e.net, e.switched(e.pumps, state.Off)...)
	e.noStanding(&m)
	return m
}

func (e *equipment) city() Mode {
	m := e.fromCity(City, "water", Use, state.Supply)
	if m.LeftOut.ID == "" {
		e.serve(&m)
		e.heated(&m)
		e.keepFrom(&m, m.From)
	}
	return m
}

// tanksTogether begins a mode about how several tanks are joined, as everyday
// use otherwise. It gives the low ports of each tank.
func (e *equipment) tanksTogether(id string) (m Mode, low [][]plumbing.NodeID) {
	m = e.fromTank(id, state.Water, Use)
	if m.LeftOut.ID != "" {
		return m, nil
	}
	if len(e.tanks) < 2 {
		m.LeftOut = fact.Of("left-out.one-fresh-tank")
		return m, nil
	}
	e.heated(&m)
	joined := false
	for i, t := range e.tanks {
		low = append(low, e.lowPorts(t))
		r := e.reachIn(m.Fixed, low[i])
		for k := range i {
			joined = joined || hitNode(r, low[k]) >= 0
		}
	}
	if !joined {
		m.LeftOut = fact.Of("left-out.no-way-joins-the-tanks")
	}
	return m, low
}

// lowPorts lists the ports at a tank's bottom.
func (e *equipment) lowPorts(t *plumbing.Part) []plumbing.NodeID {
	var list []plumbing.NodeID
	for _, i := range e.partNodes(t) {
		if t.IsLow(e.net.Nodes[i].Port) {
			list = append(list, i)
		}
	}
	return list
}

// tanksJoined asks that every tank's water gets to the first tank and back.
func (e *equipment) tanksJoined() Mode {
	m, low := e.tanksTogether(TanksJoined)
	if m.LeftOut.ID != "" {
		return m
	}
	for i := 1; i < len(low); i++ {
		m.Clauses = append(m.Clauses,
			Clause{Aim: Joined, Must: true, From: low[0], Target: e.tanks[i], To: low[i]},
			Clause{Aim: Joined, Must: true, From: low[i], Target: e.tanks[0], To: low[0]})
	}
	return m
}

// tanksApart asks that no tank's water gets to another tank.
func (e *equipment) tanksApart() Mode {
	m, low := e.tanksTogether(TanksApart)
	if m.LeftOut.ID != "" {
		return m
	}
	for i := range low {
		for k := range low {
			if i != k {
				m.Clauses = append(m.Clauses, Clause{Aim: Apart, From: low[i], Target: e.tanks[k], To: low[k]})
			}
		}
	}
	return m
}

// filterPassed is everyday use with the filters left out that can be.
func (e *equipment) filterPassed() Mode {
	m := e.fromTank(FilterPassed, state.Water, Use)
	if m.LeftOut.ID != "" {
		return m
	}
	filters := e.net.PartsOf(plumbing.RoleFilter)
	if len(filters) == 0 {
		m.LeftOut = fact.Of("left-out.no-filter")
		return m
	}
	passable := e.passable(&m)
	for _, f := range passable {
		m.Clauses = append(m.Clauses, Clause{Aim: FilterOut, From: m.From, Target: f, To: e.partNodes(f)})
	}
	if len(passable) == 0 {
		m.LeftOut = fact.Of("left-out.no-filter-can-be-passed.2")
		return m
	}
	e.heated(&m)
	return m
}
