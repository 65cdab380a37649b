package setting

import (
	"cmp"
	"maps"
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// stowed is a portable heater uncoupled: gas first, then the water off and its
// pressure out, then the couplings, the lower first.
func (e *equipment) stowed() Mode {
	m := Mode{ID: Stowed, Fluid: state.Water, Group: Use, Fixed: maps.Clone(e.shut)}
	var heaters []*plumbing.Part
	for _, h := range e.heaters {
		if h.Data.Type == "portable" {
			heaters = append(heaters, h)
		}
	}
	if len(heaters) == 0 {
		m.LeftOut = fact.Of("left-out.no-portable-heater")
		return m
	}
	m.Source = heaters[0]
	for _, h := range heaters {
		m.does(e.net, e.heaterOff(h, state.Cold))
	}
	e.parted(&m, plumbing.RoleGas)
	m.does(e.net, e.switched(e.pumps, state.Off)...)
	for _, c := range slices.Concat(e.cities, e.barrels) {
		m.does(e.net, state.Act{Verb: state.Part, Part: c})
	}
	coupled := surveyWith(e.net, plumbing.RoleCoupling, "together")
	r := coupled.reach(coupled.nodes(heaters, "hot"))
	for _, s := range coupled.sides {
		if r.Node(s.node) && s.part.Role() == plumbing.RoleOutlet { // the pressure goes out at one of its taps
			m.does(e.net, state.Act{Verb: state.Open, Part: s.part, Sides: e.net.SidesOf(s.part)})
			break
		}
	}
	e.parted(&m, plumbing.RoleCoupling)
	m.From = e.standing()
	e.noStanding(&m)
	return m
}

// parted parts the couplings of a role, the lower first.
func (e *equipment) parted(m *Mode, role plumbing.Role) {
	list := e.net.PartsOf(role)
	slices.SortStableFunc(list, func(a, b *plumbing.Part) int {
		return cmp.Compare(plumbing.Field(e.net, &a.Place.Height).Value(),
			plumbing.Field(e.net, &b.Place.Height).Value())
	})
	for _, p := range list {
		h := e.net.HandleOf(p.ID)
		m.Fixed[h] = e.net.Handles[h].Index("apart")
		m.does(e.net, state.Act{Verb: state.Turn, Part: p, To: "apart"})
	}
}

// hotCycle is the hot cycle of its own that a hydronic heater has instead of
// chlorine.
func (e *equipment) hotCycle() Mode {
	m := Mode{ID: HotCycle, Group: Clean}
	i := slices.IndexFunc(e.heaters, func(h *plumbing.Part) bool { return h.Data.Type == "hydronic" })
	if i < 0 {
		m.LeftOut = fact.Of("left-out.no-hydronic-heater")
		return m
	}
	h := e.heaters[i]
	if m = e.fromTank(HotCycle, state.Water, Clean); m.LeftOut.ID != "" {
		return m
	}
	e.heated(&m)
	a := state.Act{Verb: state.HeatOn, Part: h, Until: state.CycleRan}
	a.At, a.Control = e.net.ControlOf(h)
	if by := h.HeatBy(); len(by) > 0 {
		a.By = by[0]
	}
	m.does(e.net, a)
	return m
}
