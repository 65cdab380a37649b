package setting

import (
	"slices"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// Answer is what was found for one mode.
type Answer struct {
	Mode    Mode
	OK      bool
	Setting flow.Setting
	SameAs  string // id of an earlier mode with the same positions
	Why     string // if not OK: why no setting meets the goal, or why the mode is left out
	Either  []int  // handles that may all be turned at once, in any combination
}

// Proof shows that a clause holds: for a must the links of a path from the
// source, for a must-not the smallest set of shut passages that separates.
type Proof struct {
	Clause Clause
	Start  int // node where the path begins
	Path   []int
	Cut    []int
}

// Plan finds the setting of every mode. Everyday is the fewest changes from
// the handles' stated normal positions, every other mode the fewest from
// everyday, or from the mode that it follows.
func Plan(n *plumbing.Network) []Answer {
	base := flow.Normal(n)
	var plan []Answer
	for _, m := range Modes(n) {
		a := Answer{Mode: m, Why: m.LeftOut}
		if m.LeftOut == "" {
			base := base
			if from := Of(plan, m.Base); from != nil && from.OK {
				base = from.Setting
			}
			a.Setting, a.OK = Find(n, &m, base)
			if a.OK && m.Drains {
				a.Setting = Least(n, &m, a.Setting)
			}
			if a.OK {
				a.Either = Either(n, &m, a.Setting)
			} else {
				a.Why = Explain(n, &m, base)
			}
		}
		if a.OK {
			if m.ID == Everyday {
				base = a.Setting
			}
			for _, earlier := range plan {
				if earlier.OK && earlier.SameAs == "" && slices.Equal(earlier.Setting.Handles, a.Setting.Handles) {
					a.SameAs = earlier.Mode.ID
					break
				}
			}
		}
		plan = append(plan, a)
	}
	return plan
}

// Of finds a mode's answer in a plan; nil if there is none.
func Of(plan []Answer, id string) *Answer {
	for i := range plan {
		if plan[i].Mode.ID == id {
			return &plan[i]
		}
	}
	return nil
}

// Prove shows for every clause of a goal that it holds in a setting.
func Prove(n *plumbing.Network, m *Mode, s flow.Setting) []Proof {
	s.PumpOn = m.PumpOn
	g := newGoal(n, m)
	var list []Proof
	for i := range m.Clauses {
		c := &m.Clauses[i]
		if !c.Must {
			list = append(list, Proof{Clause: *c, Cut: flow.Cut(n, s, flow.Query{From: c.From, Without: c.Without}, c.To)})
			continue
		}
		r := g.reach(i, s, flow.Can)
		hit := hitNode(r, c.To)
		path := r.Path(hit)
		start := hit
		for _, li := range slices.Backward(path) {
			start = n.Links[li].Other(start)
		}
		list = append(list, Proof{Clause: *c, Start: start, Path: path})
	}
	return list
}

// Either finds handles that may be turned without breaking the goal, all at
// once and in any combination. A handle joins the set if every must still
// holds with what the set passes in all positions, and every must-not with
// what it passes in any; that is enough, though not always needed.
func Either(n *plumbing.Network, m *Mode, s flow.Setting) []int {
	g := newGoal(n, m)
	s.PumpOn = m.PumpOn
	var list []int
	for i, h := range n.Handles {
		if _, fixed := m.Fixed[i]; fixed {
			continue
		}
		free := s
		free.Handles = slices.Clone(s.Handles)
		free.Handles[i] = 1<<len(h.Positions) - 1
		if g.certain(free) {
			s = free
			list = append(list, i)
		}
	}
	return list
}

// Least turns the handles of a setting that meets the mode's goal, one at a
// time and again, so that less water stays when it is drained; a handle that
// makes no difference is left alone.
func Least(n *plumbing.Network, m *Mode, s flow.Setting) flow.Setting {
	const worth = quantity.Litre(0.001) // less than this is no reason to turn a handle
	s.PumpOn = m.PumpOn
	left := flow.Drain(n, s, flow.Openings(n, s, nil)).Total()
	for turned := true; turned; {
		turned = false
		for i, h := range n.Handles {
			if _, fixed := m.Fixed[i]; fixed {
				continue
			}
			for pos := range h.Positions {
				next := s.With(i, pos)
				if pos == s.Position(i) {
					continue
				}
				total := flow.Drain(n, next, flow.Openings(n, next, nil)).Total()
				if total < left-worth && len(Judge(n, m, next)) == 0 {
					s, left, turned = next, total, true
				}
			}
		}
	}
	return s
}
