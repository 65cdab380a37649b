package drill

import (
	"maps"
	"slices"
	"strings"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/finding"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/record"
	"coldtap/internal/core/setting"
)

// slot is where a word is printed: a part's own label, or at a position of its
// handle.
type slot struct {
	part, position string
}

// labels asks which printed word lies: as the unit is labelled, and with one label
// exchanged.
func (k *maker) labels() error {
	n := k.Net
	as := finding.Labels(n, k.Plan)
	k.labelled("as-it-stands", fact.Of("drill.labels-stand"), as, slot{})
	var slots []slot
	words := finding.LabelWords()
	for _, l := range as {
		if at := (slot{l.Part.ID, l.Position}); !slices.Contains(slots, at) {
			slots = append(slots, at)
		}
		words = append(words, l.Word)
	}
	slices.Sort(words)
	words = slices.Compact(words)
	type change struct {
		slot
		word string
	}
	var list []change
	for _, s := range slots {
		for _, w := range words {
			list = append(list, change{s, w})
		}
	}
	for _, c := range some("label "+n.Model.ID, list, 4*Most) {
		if k.set.Count(Label) >= Most || k.ctx.Err() != nil {
			break
		}
		changed, err := relabelled(n, c.slot, c.word)
		if err != nil { // only what is printed is another: this can't be
			return err
		}
		labels := finding.Labels(changed, k.Plan)
		k.labelled(c.part+"."+c.position+"="+c.word, fact.Of("drill.labels-exchanged"), labels, c.slot)
	}
	return nil
}

// relabelled is the network of a model with another word printed in one place.
func relabelled(n *plumbing.Network, at slot, word string) (*plumbing.Network, error) {
	m := *n.Model
	m.Parts = slices.Clone(m.Parts)
	p := m.Part(at.part)
	if at.position == "" {
		p.Label = word
		return plumbing.NewNetwork(&m)
	}
	p.Reading.Says = maps.Clone(p.Reading.Says)
	if p.Reading.Says[at.position] != "" {
		p.Reading.Says[at.position] = word
	}
	p.Selector = slices.Clone(p.Selector)
	for i := range p.Selector {
		if p.Selector[i].ID == at.position && p.Selector[i].Label != "" {
			p.Selector[i].Label = word
		}
	}
	return plumbing.NewNetwork(&m)
}

// labelled asks which of some labels lies; of the changed ones the part at is to
// lie, of those as they stand any one.
func (k *maker) labelled(key string, told fact.Fact, labels []finding.Label, at slot) {
	byPart := map[string][]finding.Label{}
	for _, l := range labels {
		byPart[l.Part.ID] = append(byPart[l.Part.ID], l)
	}
	var lying, honest []string
	for _, id := range slices.Sorted(maps.Keys(byPart)) {
		if slices.ContainsFunc(byPart[id], func(l finding.Label) bool { return !l.Lies.IsZero() }) {
			lying = append(lying, id)
		} else {
			honest = append(honest, id)
		}
	}
	if at.part != "" { // others that lie already are not shown
		if !slices.Contains(lying, at.part) {
			k.refuse(NoneLies)
			return
		}
		lying = []string{at.part}
	}
	switch {
	case len(labels) == 0:
		return
	case len(lying) == 0:
		k.refuse(NoneLies)
		return
	case len(lying) > 1:
		k.refuse(ManyLie)
		return
	case len(honest) == 0:
		k.refuse(FewWrong)
		return
	}
	lies := lying[0]
	x := Exercise{Key: key, Ask: fact.Of("drill.ask.label"), Told: []fact.Fact{told}, Hard: 2, About: []string{lies},
		Reasons: map[string]Reason{}, Inputs: []record.Input{{Kind: record.Plumbing}, ofSetting(setting.Everyday)}}
	x.Right = []string{lies}
	for _, id := range append(some(key, honest, wrongs), lies) {
		own := byPart[id]
		var printed []any
		for i, l := range own {
			if slices.ContainsFunc(own[:i], func(o finding.Label) bool {
				return o.Word == l.Word && o.Position == l.Position
			}) {
				continue // a plate has it at its position and at the handle
			}
			switch {
			case l.Position == "":
				printed = append(printed, fact.Of("drill.printed", l.Word))
			case l.Part.Reading.Says[l.Position] == l.Word: // the position's own words have it
				printed = append(printed, plumbing.Standing{Part: l.Part, Position: l.Position})
			default:
				printed = append(printed, fact.Of("drill.printed-at", l.Word,
					plumbing.Standing{Part: l.Part, Position: l.Position}))
			}
		}
		x.Options = append(x.Options, Option{ID: id, Said: fact.Of("drill.labelled", own[0].Part, printed),
			Parts: []string{id}})
		r := Reason{Parts: []string{id}}
		for _, l := range own {
			if !l.Lies.IsZero() {
				r.Said = append(r.Said, l.Lies)
			}
		}
		if r.Said == nil {
			r.Said = []fact.Fact{fact.Of("drill.label-true", own[0].Part)}
		}
		x.Reasons[id] = r
	}
	slices.SortFunc(x.Options, func(a, b Option) int { return strings.Compare(a.ID, b.ID) })
	x.Hard = 1 + len(x.Options)/2
	x.Hints = []fact.Fact{fact.Of("drill.hint.not", k.Net.Model.Part(some(key, honest, 1)[0]))}
	k.add(x)
}
