package setting

import (
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

func (e *equipment) sanitize() Mode {
	return e.pastHeaterFromTank(Sanitize, "sanitizer", Clean)
}

func (e *equipment) flush() Mode {
	return e.pastHeaterFromTank(Flush, "water", Clean)
}

func (e *equipment) tankFromContainer() Mode {
	m := e.tankFrom(DoseTank, "sanitizer", Clean)
	if m.LeftOut.ID == "" {
		// The batch is strong until it is in the tank: nothing else gets it.
		e.heaterOut(&m)
		for _, s := range e.sides {
			m.Clauses = append(m.Clauses, Clause{Aim: KeptOff, From: m.From, Target: s.part, Side: s.port,
				To: []plumbing.NodeID{s.node}})
		}
	}
	return m
}

// linesFromContainer doses the lines alone, past the heater.
func (e *equipment) linesFromContainer() Mode {
	m := e.fromPort(DoseLines, "sanitizer", Clean, e.sideNodes())
	if m.LeftOut.ID == "" {
		e.pastHeater(&m)
	}
	return m
}

// heaterAlone shuts a heater off from the lines, to flush or descale it
// through its own drain.
func (e *equipment) heaterAlone() Mode {
	m := Mode{ID: HeaterAlone, Group: Clean}
	kinds := []string{"storage-steel", "storage-clad", "combi"}
	i := slices.IndexFunc(e.heaters, func(h *plumbing.Part) bool { return slices.Contains(kinds, h.Data.Type) })
	if i < 0 {
		m.LeftOut = fact.Of("left-out.no-storage-heater")
		return m
	}
	h := e.heaters[i]
	m = e.fromTank(HeaterAlone, "water", Clean)
	if m.LeftOut.ID != "" {
		return m
	}
	// The heater's plug is out and vinegar or rinsing water goes in there, while
	// the lines may stay under pressure.
	e.heaterOut(&m)
	m.Acts = slices.DeleteFunc(m.Acts, func(a state.Act) bool { return a.Verb == state.HeatOff && a.Part == h })
	m.does(e.net, e.heaterOff(h, state.Cold))
	return m
}
