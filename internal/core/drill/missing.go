package drill

import (
	"slices"

	"coldtap/internal/core/amend"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/proof"
)

// around is how many steps are shown before and behind a gap.
const around = 4

// wrongs is how many wrong answers stand beside the right one.
const wrongs = 3

// missing takes a step out of a procedure. Only steps are asked without which a
// rule breaks, beside others that do not mend it in the same place.
func (k *maker) missing() error {
	var gaps, traps []window
	for _, t := range k.proven() {
		for at := range t.Done.Steps {
			if !does(&t.Done.Steps[at].Step) {
				continue
			}
			if len(k.meets(partsOf(t, at))) > 0 {
				traps = append(traps, window{t, at})
			} else {
				gaps = append(gaps, window{t, at})
			}
		}
	}
	name := "missing " + k.Net.Model.ID
	for _, w := range append(some(name, traps, Most/2), some(name, gaps, 2*Most)...) {
		if k.set.Count(Missing) >= Most {
			break
		}
		if err := k.missingAt(w); err != nil {
			return err
		}
	}
	return nil
}

func (k *maker) missingAt(w window) error {
	t, at := w.task, w.at
	out := func(with ...proof.Step) []proof.Step {
		return slices.Concat(t.Done.Steps[:at], with, t.Done.Steps[at+1:])
	}
	pr, err := rerun(k.ctx, k.Net, t, at, out(), at+3)
	if err != nil {
		return err
	}
	broken := t.fresh(pr)
	if len(broken) == 0 {
		k.refuse(NotMissed)
		return nil
	}
	keys := amend.Keys(t.Done.Steps)
	x := Exercise{Key: t.ID + "/" + keys[at], Ask: fact.Of("drill.ask.missing", t.Read.Name), Task: t.ID, Hard: 2,
		Inputs: taskReads(t), Reasons: map[string]Reason{}}
	right := Option{ID: keys[at], Said: t.Read.Steps[at].Head, Parts: partsOf(t, at)}
	x.Right, x.Options = []string{right.ID}, []Option{right}
	r := reasonOf(broken)
	x.Reasons[right.ID] = Reason{Said: append([]fact.Fact{fact.Of("drill.without-it")}, r.Said...), Parts: r.Parts}
	x.About = append(partsOf(t, at), r.Parts...)
	said := map[string]bool{right.Said.Key(): true}
	for _, s := range t.Read.Steps { // what is shown is not missing
		said[s.Head.Key()] = true
	}
	for _, o := range some(x.Key, k.others(t), 24) {
		if len(x.Options) > wrongs {
			break
		}
		head := o.task.Read.Steps[o.at].Head
		if said[head.Key()] {
			continue
		}
		pr, err := rerun(k.ctx, k.Net, t, at, out(o.task.Done.Steps[o.at]), at+3)
		if err != nil {
			return err
		}
		still := t.fresh(pr)
		if len(still) == 0 {
			continue // it mends it too
		}
		said[head.Key()] = true
		id := o.task.ID + "/" + amend.Keys(o.task.Done.Steps)[o.at]
		x.Options = append(x.Options, Option{ID: id, Said: head, Parts: partsOf(o.task, o.at)})
		why := reasonOf(still)
		why.Said = append([]fact.Fact{fact.Of("drill.with-it-still")}, why.Said...)
		x.Reasons[id] = why
	}
	if len(x.Options) <= wrongs {
		k.refuse(FewWrong)
		return nil
	}
	chance(x.Key).Shuffle(len(x.Options), func(i, j int) { x.Options[i], x.Options[j] = x.Options[j], x.Options[i] })
	from := max(0, at-around)
	x.Gap = at - from
	for i := from; i < min(len(t.Read.Steps), at+1+around); i++ {
		if i != at {
			x.Steps = append(x.Steps, t.Read.Steps[i].Head)
		}
	}
	x.Hints = []fact.Fact{fact.Of("drill.hint.place", x.Gap), fact.Of("drill.hint.breaks", r.Said[0])}
	if x.Gap == 0 {
		x.Hints[0] = fact.Of("drill.hint.place-first")
	}
	if len(broken) == 1 {
		x.Hard = 3
	}
	k.add(x)
	return nil
}

// others are steps that could be taken for missing ones: of the same procedure's
// kind, and of others.
func (k *maker) others(not *Task) (list []window) {
	for i := range k.Tasks {
		t := &k.Tasks[i]
		for at := range t.Done.Steps {
			if t != not && does(&t.Done.Steps[at].Step) {
				list = append(list, window{t, at})
			}
		}
	}
	return list
}
