package setting

import (
	"slices"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
)

// Answer is what was found for one mode.
type Answer struct {
	Mode    Mode
	OK      bool
	Setting flow.Setting
	SameAs  string  // id of an earlier mode with the same positions
	Why     string  // if not OK: why no setting meets the goal, or why the mode is left out
	Proofs  []Proof // if OK: a path for every must
}

// Proof shows that a target is reached: the links of a path from the source.
type Proof struct {
	Clause Clause
	Start  int // node
	Path   []int
}

// Plan finds the setting of every mode. Everyday is the fewest changes from
// the handles' stated normal positions, every other mode the fewest from
// everyday.
func Plan(n *plumbing.Network) []Answer {
	base := flow.Normal(n)
	var plan []Answer
	for _, m := range Modes(n) {
		a := Answer{Mode: m, Why: m.LeftOut}
		if m.LeftOut == "" {
			a.Setting, a.OK = Find(n, &m, base)
			if a.OK {
				a.Proofs = prove(n, &m, a.Setting)
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

func prove(n *plumbing.Network, m *Mode, s flow.Setting) []Proof {
	g := newGoal(n, m)
	var list []Proof
	for i := range m.Clauses {
		c := &m.Clauses[i]
		if !c.Must {
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
