package golden

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"coldtap/internal/core/fault"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
)

// Faults tries everything that can be wrong in every mode that has a setting, one
// at a time, and lists what makes a difference: the gravest first, faults with
// the same effects together, nothing told twice.
func Faults(ctx context.Context, n *plumbing.Network, plan []setting.Answer) ([]fault.Entry, error) {
	var all []fault.Entry
	for i := range plan {
		a := &plan[i]
		if (a.OK || a.Mode.Drains && a.Has()) && !a.Mode.Measure {
			list, err := fault.InMode(ctx, n, a, plan)
			if err != nil {
				return nil, err
			}
			all = append(all, list...)
		}
	}
	return joined(all), nil
}

// joined joins entries of several modes in which the same faults lead to the
// same.
func joined(all []fault.Entry) []fault.Entry {
	index := map[string]int{}
	var list []fault.Entry
	for _, e := range all {
		key := ""
		for i := range e.Effects {
			key += e.Effects[i].Key()
		}
		for _, f := range e.Faults {
			key += fmt.Sprintln(f.Part.ID, f.Link, f.Turns, f.Off)
		}
		if i, ok := index[key]; ok {
			list[i].Modes = append(list[i].Modes, e.Modes...)
			continue
		}
		index[key] = len(list)
		list = append(list, e)
	}
	slices.SortStableFunc(list, func(x, y fault.Entry) int { return cmp.Compare(y.Severity, x.Severity) })
	return list
}
