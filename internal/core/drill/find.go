package drill

import (
	"fmt"

	"coldtap/internal/core/diagnose"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/record"
	"coldtap/internal/core/setting"
)

// Shown is what a look shows.
type Shown struct {
	Look fact.Fact
	Seen []fact.Fact
}

// mostModes is in how many ways of use faults are looked for.
const mostModes = 4

// faults hides each thing that can be wrong in a way of use.
func (k *maker) faults() error {
	modes := 0
	for i := range k.Plan {
		a := &k.Plan[i]
		if !a.OK || a.Mode.Measure || a.Mode.Group != setting.Use || modes == mostModes {
			continue
		}
		var study *diagnose.Study
		var err error
		reads := k.reads(func() {
			limit := draft.NewMaker(k.Inputs.Inputs).Limits()
			study, err = diagnose.New(k.ctx, diagnose.Case{Net: k.Net, Mode: a, Limit: limit})
		})
		if err != nil {
			return err
		}
		if len(study.Classes) < 2 {
			continue
		}
		modes++
		k.faultsOf(a, study, with(reads, ofSetting(a.Mode.ID), record.Input{Kind: record.Plumbing}))
	}
	return nil
}

func (k *maker) faultsOf(a *setting.Answer, s *diagnose.Study, reads []record.Input) {
	for range s.Silent {
		k.refuse(NothingShown)
	}
	splits := s.Splits()
	type one struct{ class, complaint int }
	var list []one
	for c := range s.Classes {
		complaints := s.Complaints(c)
		if len(complaints) == 0 {
			k.refuse(NoComplaint)
			continue
		}
		for _, l := range complaints {
			list = append(list, one{c, l})
		}
	}
	name := fmt.Sprint("fault ", k.Net.Model.ID, a.Mode.ID)
	list = some(name, list, len(list))
	asked := map[int]int{}
	var first, later []one // every fault once, before any a second time
	for _, x := range list {
		if asked[x.class]++; asked[x.class] == 1 {
			first = append(first, x)
		} else {
			later = append(later, x)
		}
	}
	for _, x := range append(first, later...) {
		if k.set.Count(Fault) >= Most {
			return
		}
		k.hide(a, s, splits, x.class, x.complaint, reads)
	}
}

// hide asks what is wrong after a complaint.
func (k *maker) hide(a *setting.Answer, s *diagnose.Study, splits *diagnose.Splits, class, complaint int,
	reads []record.Input) {
	f := s.Classes[class][0]
	left := s.Alike(class, complaint)
	plan := splits.Fewest(left)
	x := Exercise{Key: a.Mode.ID + "/" + s.Faults[f].ID() + "/" + s.Looks[complaint].ID(), Inputs: reads,
		Ask: fact.Of("drill.ask.fault", a.Mode.Name), Reasons: map[string]Reason{}}
	x.Mode = a.Mode.ID
	x.Fewest = plan.Looks(splits, class)
	x.Told = []fact.Fact{fact.Of("drill.complaint", s.Looks[complaint].Said(k.Net), said(s.Seen[f][complaint]))}
	for i := range s.Looks {
		l := &s.Looks[i]
		of := LookOf{ID: l.ID(), Kind: string(l.Kind), Free: i == complaint}
		if l.Part != nil {
			of.Part = l.Part.ID
		}
		seen := s.Seen[f][i]
		if len(seen.Dangers) > 0 {
			of.Danger = true
			r := reasonOf(seen.Dangers)
			r.Danger = true
			x.Reasons[DangerOf(of.ID)] = r
		}
		x.Looks = append(x.Looks, of)
		x.Shows = append(x.Shows, Shown{Look: l.Said(k.Net), Seen: facts(seen)})
	}
	for c, faults := range s.Classes {
		id := s.Faults[faults[0]].ID()
		var names []any
		for _, o := range faults {
			names = append(names, s.Faults[o].Said)
		}
		x.Options = append(x.Options, Option{ID: id, Said: fact.Of("drill.one-of", names),
			Parts: []string{s.Faults[faults[0]].Part.ID}})
		if c == class {
			x.Right = []string{id}
			x.Reasons[id] = Reason{Said: []fact.Fact{fact.Of("drill.one-of", names)},
				Parts: []string{s.Faults[f].Part.ID}}
			continue
		}
		x.Reasons[id] = k.wouldShow(s, f, faults[0])
	}
	x.About = []string{s.Faults[f].Part.ID}
	x.Hard = 1 + min(3, x.Fewest)
	if x.Fewest > 0 {
		x.Hints = append(x.Hints, fact.Of("drill.hint.looks", s.Looks[plan.Root.Look].Said(k.Net)))
	}
	for _, c := range some(x.Key, left, 2) {
		if c != class {
			x.Hints = append(x.Hints, fact.Of("drill.hint.not-that", s.Faults[s.Classes[c][0]].Said))
			break
		}
	}
	k.add(x)
}

// wouldShow is a look that tells the fault that was named from the one that is
// there.
func (k *maker) wouldShow(s *diagnose.Study, is, named int) Reason {
	r := Reason{Parts: []string{s.Faults[named].Part.ID}}
	for l := range s.Looks {
		if s.Harmless(l) && s.Seen[is][l].Apart(s.Seen[named][l]) {
			r.Said = []fact.Fact{fact.Of("drill.would-show", s.Faults[named].Said, s.Looks[l].Said(k.Net),
				said(s.Seen[named][l]), said(s.Seen[is][l]))}
			return r
		}
	}
	return r
}

func facts(s *diagnose.Seen) (list []fact.Fact) {
	for i := range s.Signs {
		list = append(list, s.Signs[i].Said())
	}
	return list
}

// said is what is seen, as the argument of a fact.
func said(s *diagnose.Seen) (list []any) {
	for _, f := range facts(s) {
		list = append(list, f)
	}
	return list
}
