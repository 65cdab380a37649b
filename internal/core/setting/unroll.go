package setting

import (
	"fmt"
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/state"
)

// Unroll gives a plan with each turn of a sequence as a setting of its own, to
// be printed one after the other: "Drain down, turn 2".
func Unroll(plan []Answer) []Answer {
	var list []Answer
	now := map[string]string{} // a mode to its first turn, in which the handles stand as they do in the mode
	for i := range plan {
		a := plan[i]
		if first, ok := now[a.SameAs]; ok {
			a.SameAs = first
		}
		if a.Turns == nil {
			list = append(list, a)
			continue
		}
		for k := range a.Turns {
			t := a.turn(k)
			if k == 0 {
				now[a.Mode.ID] = t.Mode.ID
			} else if slices.Equal(t.State.Handles, a.Turns[0].State.Handles) {
				t.SameAs = now[a.Mode.ID]
			}
			list = append(list, t)
		}
	}
	return list
}

// turn is a turn of a sequence as a setting of its own.
func (a *Answer) turn(k int) Answer {
	t := &a.Turns[k]
	one := *a
	one.Mode.ID, one.Mode.Name = fmt.Sprintf("%s/%d", a.Mode.ID, k+1), fact.Of("mode.turn", k+1, a.Mode.Name)
	one.OK, one.State, one.Either, one.Turns, one.Broken = true, t.State, nil, nil, nil
	if k > 0 || !a.OK {
		one.SameAs = ""
	}
	if t.Acts != nil {
		one.Mode.Acts = slices.Clone(t.Acts)
		for _, x := range a.Mode.Acts {
			if x.Verb != state.On && x.Verb != state.Join {
				one.Mode.Acts = append(one.Mode.Acts, x)
			}
		}
	}
	return one
}
