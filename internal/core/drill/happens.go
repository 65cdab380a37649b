package drill

import (
	"fmt"
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/fault"
	"coldtap/internal/core/record"
	"coldtap/internal/core/setting"
)

// happens asks what one thing wrong in a mode leads to, beside what others lead
// to in the same mode.
func (k *maker) happens() error {
	type one struct {
		a       *setting.Answer
		entries []fault.Entry
		at, of  int
		reads   []record.Input
	}
	var traps, list []one
	for i := range k.Plan {
		a := &k.Plan[i]
		if !a.OK || a.Mode.Measure {
			continue
		}
		var entries []fault.Entry
		var err error
		reads := k.reads(func() { entries, err = fault.InMode(k.ctx, k.Net, a, k.Plan) })
		if err != nil {
			return err
		}
		reads = with(reads, ofSetting(a.Mode.ID), record.Input{Kind: record.Plumbing})
		for e := range entries {
			for f := range entries[e].Faults {
				x := one{a, entries, e, f, reads}
				if len(k.meets(aboutOf(k, &entries[e], f))) > 0 {
					traps = append(traps, x)
				} else {
					list = append(list, x)
				}
			}
		}
	}
	name := "happens " + k.Net.Model.ID
	for _, x := range append(some(name, traps, Most/2), some(name, list, 2*Most)...) {
		if k.set.Count(Happens) >= Most {
			break
		}
		k.happensIf(x.a, x.entries, x.at, x.of, x.reads)
	}
	return nil
}

func aboutOf(k *maker, e *fault.Entry, of int) (ids []string) {
	ids = append(ids, e.Faults[of].Part.ID)
	for i := range e.Effects {
		ids = append(ids, e.Effects[i].Parts(k.Net)...)
	}
	return ids
}

// alike is the same for effects that read alike but for their figures.
func alike(e *fault.Effect) string {
	part := ""
	if e.Part != nil {
		part = e.Part.ID
	}
	return fmt.Sprintln(e.What, part, e.Sides)
}

// among reports whether some effect of a list is one of another's.
func among(list, of []fault.Effect) bool {
	return slices.ContainsFunc(list, func(a fault.Effect) bool {
		return slices.ContainsFunc(of, func(b fault.Effect) bool { return alike(&a) == alike(&b) })
	})
}

func (k *maker) happensIf(a *setting.Answer, entries []fault.Entry, at, of int, reads []record.Input) {
	e := &entries[at]
	f := &e.Faults[of]
	x := Exercise{Key: a.Mode.ID + "/" + f.ID(), Ask: fact.Of("drill.ask.happens", a.Mode.Name, f.Said), Hard: 2,
		About: aboutOf(k, e, of), Inputs: reads, Reasons: map[string]Reason{}}
	x.Mode = a.Mode.ID
	x.Right = []string{f.ID()}
	x.Options = []Option{{ID: f.ID(), Effects: e.Effects}}
	x.Reasons[f.ID()] = Reason{Effects: e.Effects, Parts: x.About}
	var others []int
	for i := range entries {
		if i != at && !among(entries[i].Effects, e.Effects) && !among(e.Effects, entries[i].Effects) {
			others = append(others, i)
		}
	}
	// What is of the same kind elsewhere is likelier taken for it.
	near := func(i int) bool {
		return slices.ContainsFunc(entries[i].Effects, func(o fault.Effect) bool {
			return slices.ContainsFunc(e.Effects, func(m fault.Effect) bool { return o.What == m.What })
		})
	}
	others = some(x.Key, others, len(others))
	far := slices.DeleteFunc(slices.Clone(others), near)
	others = slices.DeleteFunc(others, func(i int) bool { return !near(i) })
	for _, i := range append(others, far...) {
		if len(x.Options) > wrongs {
			break
		}
		if slices.ContainsFunc(x.Options, func(o Option) bool { return among(entries[i].Effects, o.Effects) }) {
			continue
		}
		id := entries[i].Faults[0].ID()
		x.Options = append(x.Options, Option{ID: id, Effects: entries[i].Effects})
		x.Reasons[id] = Reason{Said: []fact.Fact{fact.Of("drill.follows-from", entries[i].Faults[0].Said)},
			Parts: []string{entries[i].Faults[0].Part.ID}}
		if near(i) {
			x.Hard = 3
		}
	}
	if len(x.Options) <= wrongs {
		k.refuse(FewWrong)
		return
	}
	chance(x.Key).Shuffle(len(x.Options), func(i, j int) { x.Options[i], x.Options[j] = x.Options[j], x.Options[i] })
	x.Hints = []fact.Fact{fact.Of("drill.hint.part", f.Part)}
	if e.Severity >= fault.Damage {
		x.Hints = append(x.Hints, fact.Of("drill.hint.grave", fact.Word("severity."+e.Severity.String())))
	}
	k.add(x)
}
