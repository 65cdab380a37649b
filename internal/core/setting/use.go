package setting

import (
	"slices"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// fromTank begins a mode in which the pump draws from the tank.
func (e *equipment) fromTank(id, name string, fluid state.Fluid, group Group) Mode {
	m := Mode{ID: id, Name: name, Fluid: fluid, Group: group, Start: state.State{Pumps: state.AllPumps(e.net)}, Fixed: e.shut}
	switch {
	case len(e.tanks) == 0:
		m.LeftOut = "This model has no fresh tank."
		return m
	case len(e.pumps) == 0:
		m.LeftOut = "This model has no pump to draw from the tank."
		return m
	}
	m.Source, m.From = e.tanks[0], e.nodes(e.tanks, "supply")
	m.does(e.net, switched(e.pumps, state.On)...)
	e.serve(&m)
	e.keepFrom(&m, e.nodes(e.pumps, "out"))
	e.noStanding(&m)
	e.suctionFrom(&m, e.portMouths(), e.nodes(e.cities, "mouth"))
	return m
}

func (e *equipment) everyday() Mode {
	m := e.fromTank(Everyday, "Everyday, from the tank", "water", Use)
	if m.LeftOut == "" {
		e.heated(&m)
	}
	return m
}

// pastHeaterFromTank is a mode that serves every outlet from the tank and
// leaves the heater out.
func (e *equipment) pastHeaterFromTank(id, name string, fluid state.Fluid, group Group) Mode {
	m := e.fromTank(id, name, fluid, group)
	if m.LeftOut == "" {
		e.heaterOut(&m)
	}
	return m
}

func (e *equipment) bypassed() Mode {
	if len(e.heaters) == 0 {
		return Mode{ID: Bypassed, Name: "Heater bypassed", Group: Use, LeftOut: "This model has no heater."}
	}
	return e.pastHeaterFromTank(Bypassed, "From the tank, heater bypassed", "water", Use)
}

// coupled is everyday use with a portable heater on its quick couplings.
func (e *equipment) coupled() Mode {
	m := Mode{ID: Coupled, Name: "Portable heater coupled", Group: Use}
	if !slices.ContainsFunc(e.heaters, func(h *plumbing.Part) bool { return h.Data.Type == "portable" }) {
		m.LeftOut = "This model has no portable heater."
		return m
	}
	c := surveyWith(e.net, plumbing.RoleCoupling, "together")
	m = c.fromTank(Coupled, "From the tank, portable heater coupled", "water", Use)
	if m.LeftOut != "" {
		return m
	}
	c.heated(&m)
	for _, p := range e.net.PartsOf(plumbing.RoleCoupling) {
		m.does(e.net, state.Act{Verb: state.Turn, Part: p, To: "together"})
	}
	return m
}

// inlets splits the city water inlets into those that feed outlets and those
// that only fill a tank.
func (e *equipment) inlets() (feeding, filling []*plumbing.Part) {
	for _, c := range e.cities {
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
func (e *equipment) fromCity(id, name string, fluid state.Fluid, group Group, kind state.ConnectionKind) Mode {
	m := Mode{ID: id, Name: name, Fluid: fluid, Group: group, Fixed: e.shut}
	feeding, filling := e.inlets()
	switch {
	case len(e.cities) == 0:
		m.LeftOut = "This model has no city water inlet."
		return m
	case len(feeding) == 0:
		m.LeftOut = filling[0].Name + " leads to no outlet: it only fills the tank."
		return m
	}
	m.Source, m.From = feeding[0], e.nodes(feeding[:1], "mouth")
	join := joined(feeding[0], fluid, state.Done)
	join.With.Kind = kind
	m.does(e.net, join)
	m.does(e.net, switched(e.pumps, state.Off)...)
	e.noStanding(&m)
	return m
}

func (e *equipment) city() Mode {
	m := e.fromCity(City, "On city water", "water", Use, state.Supply)
	if m.LeftOut == "" {
		e.serve(&m)
		e.heated(&m)
		e.keepFrom(&m, m.From)
	}
	return m
}
