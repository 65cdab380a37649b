package setting

import (
	"cmp"
	"math/bits"
	"slices"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
)

// Find gives the setting that meets the mode's goal with the fewest handles
// turned away from base; ties leave the handles with the earlier ids alone.
// It reports false if no setting meets the goal.
func Find(n *plumbing.Network, m *Mode, base flow.Setting) (flow.Setting, bool) {
	return find(n, m, base, nil)
}

// find is Find for the clauses that count; nil for all.
func find(n *plumbing.Network, m *Mode, base flow.Setting, counts []bool) (flow.Setting, bool) {
	s := search{goal: newGoal(n, m), base: base, counts: counts, best: len(n.Handles) + 1}
	start := undecided(n, m.Fixed, m.PumpOn)
	s.try(start, 0, 0)
	return s.found, s.best <= len(n.Handles)
}

type search struct {
	goal   *goal
	base   flow.Setting
	counts []bool
	best   int
	found  flow.Setting
}

// try decides handle i and those after it, given the changes made so far.
// Leaving a handle as it stands is tried first, so that of two answers with
// as many changes the one that leaves the earlier handles alone is found first.
func (s *search) try(at flow.Setting, i, changes int) {
	if changes >= s.best || !s.goal.possible(at, s.counts) {
		return
	}
	for i < len(at.Handles) && bits.OnesCount32(uint32(at.Handles[i])) == 1 {
		i++
	}
	if i == len(at.Handles) {
		s.best, s.found = changes, at
		return
	}
	stay := s.base.Position(i)
	if at.Handles[i]&(1<<stay) != 0 {
		s.try(at.With(i, stay), i+1, changes)
	}
	for p := range s.goal.net.Handles[i].Positions {
		if p != stay && at.Handles[i]&(1<<p) != 0 {
			s.try(at.With(i, p), i+1, changes+1)
		}
	}
}

// byTelling orders clauses for taking away: those that tell a reader least go
// first, so that what is left names the heater and a hot tap if it can.
func byTelling(clauses []Clause) []int {
	tell := func(c Clause) int {
		switch {
		case c.Aim == HeaterOut:
			return 3
		case c.Aim == Served && c.Side == "hot":
			return 2
		case c.Aim == Served, c.Aim == OnlyByHeater, c.Aim == HeaterIn:
			return 1
		}
		return 0
	}
	order := make([]int, len(clauses))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(tell(clauses[a]), tell(clauses[b])) })
	return order
}

// Conflict gives a smallest set of the mode's clauses that no setting can
// meet together: taking any one of them away makes the rest possible. It is
// nil if the goal can be met.
func Conflict(n *plumbing.Network, m *Mode, base flow.Setting) []Clause {
	counts := make([]bool, len(m.Clauses))
	for i := range counts {
		counts[i] = true
	}
	if _, ok := find(n, m, base, counts); ok {
		return nil
	}
	for _, i := range byTelling(m.Clauses) {
		counts[i] = false
		if _, ok := find(n, m, base, counts); ok {
			counts[i] = true
		}
	}
	var core []Clause
	for i, c := range m.Clauses {
		if counts[i] {
			core = append(core, c)
		}
	}
	return core
}
