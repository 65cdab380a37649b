package setting

import (
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// switched is the act of switching each of some pumps, after the battery.
func (e *equipment) switched(pumps []*plumbing.Part, v state.Verb) []state.Act {
	var list []state.Act
	if v == state.On && len(pumps) > 0 {
		for _, i := range e.net.PartsOf(plumbing.RoleIsolator) {
			list = append(list, state.Act{Verb: state.On, Part: i})
		}
	}
	for _, p := range pumps {
		a := state.Act{Verb: v, Part: p}
		a.At, a.Control = e.net.ControlOf(p)
		list = append(list, a)
	}
	return list
}

// joined is the act of joining what usually feeds a port.
func joined(p *plumbing.Part, f state.Fluid, until state.Until) state.Act {
	return state.Act{Verb: state.Join, Part: p, With: state.Usual(p, f), Until: until}
}
