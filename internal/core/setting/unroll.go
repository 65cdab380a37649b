package setting

import (
	"fmt"
	"slices"

	"coldtap/internal/core/state"
)

// Unroll gives a plan with each turn of a sequence as a setting of its own, to
// be printed one after the other: "Drain down, turn 2".
func Unroll(plan []Answer) []Answer {
	var list []Answer
	for i := range plan {
		a := &plan[i]
		if a.Turns == nil {
			list = append(list, *a)
			continue
		}
		first := len(list)
		for k := range a.Turns {
			list = append(list, a.turn(k))
			at := &list[len(list)-1]
			if k > 0 && slices.Equal(at.State.Handles, list[first].State.Handles) {
				at.SameAs = list[first].Mode.ID
			}
		}
		for k := i + 1; k < len(plan); k++ { // what stood as this mode stands as its first turn
			if plan[k].SameAs == a.Mode.ID && a.OK && !a.Mode.Drains {
				plan = slices.Clone(plan)
				plan[k].SameAs = list[first].Mode.ID
			}
		}
	}
	return list
}

// turn is a turn of a sequence as a setting of its own.
func (a *Answer) turn(k int) Answer {
	t := &a.Turns[k]
	one := *a
	one.Mode.ID, one.Mode.Name = fmt.Sprintf("%s/%d", a.Mode.ID, k+1), fmt.Sprintf("%s, turn %d", a.Mode.Name, k+1)
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
