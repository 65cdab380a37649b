package guide

import (
	"coldtap/internal/core/chapter"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/words"
	"coldtap/internal/drawing"
	"coldtap/internal/guide/doc"
)

// teller puts facts in words, as a hand reworded them where one did.
type teller struct {
	*words.Printer
	in      *chapter.Inputs
	numbers map[string]int // of places, by part
	units   quantity.System
}

func newTeller(in *chapter.Inputs, units Units) *teller {
	m := in.Net.Model
	t := &teller{Printer: words.English(units.of(m)), in: in, numbers: map[string]int{}, units: units.of(m)}
	for _, p := range drawing.Places(m) {
		t.numbers[p.Part.ID] = p.Number
	}
	return t
}

// line is a fact as a line that can be reworded.
func (t *teller) line(f fact.Fact) doc.Line {
	if f.IsZero() {
		return doc.Line{}
	}
	l := doc.Of(t.Tell(f))
	l.Key = chapter.Key(f)
	if t.in.By == nil {
		return l
	}
	own, ok := t.in.By.Words[l.Key]
	if !ok {
		return l
	}
	filled, err := t.Fill(own, f)
	if err != nil { // it was right when it was written; the sentence is about less now
		return l
	}
	return doc.Line{Spans: t.live(filled), Key: l.Key, Own: true}
}

func (t *teller) lines(list []fact.Fact) (all []doc.Line) {
	for _, f := range list {
		if !f.IsZero() {
			all = append(all, t.line(f))
		}
	}
	return all
}

// live puts what follows the model in a text.
func (t *teller) live(text string) (spans []doc.Span) {
	for _, p := range chapter.Pieces(text) {
		if p.Ref != "" {
			spans = append(spans, t.ref(p.Ref))
		} else {
			spans = append(spans, doc.Span{Text: p.Text})
		}
	}
	return spans
}

// ref is what a reference stands for, or a mark where the model has no such thing.
func (t *teller) ref(ref string) doc.Span {
	if f := t.in.Live(ref); !f.IsZero() {
		return doc.Span{Style: doc.Live, Text: t.Tell(f), Ref: ref}
	}
	return doc.Span{Style: doc.Lost, Text: "[" + ref + "]", Ref: ref}
}

// named is a part with its number in the plan and what is printed there, and below it where it is.
func (t *teller) named(p *plumbing.Part) []doc.Line {
	head := doc.Line{}
	if n := t.numbers[p.ID]; n > 0 {
		head = head.And(doc.Span{Style: doc.Number, Text: itoa(n)})
	}
	head = head.And(doc.Span{Text: p.Name})
	if p.Label != "" {
		head = head.And(doc.Span{Style: doc.Plate, Text: p.Label})
	}
	list := []doc.Line{head}
	if at := t.Place(p.Place); at != "" {
		list = append(list, soft(at))
	}
	return list
}

// handle is a handle as it stands, drawn and told.
func (t *teller) handle(p *plumbing.Part, position string) (doc.Picture, doc.Line) {
	said := t.Position(p, position)
	return doc.Picture{Class: "handle", Alt: said, SVG: drawing.Handle(p, position)}, doc.Of(said)
}

func soft(text string) doc.Line {
	return doc.Line{Spans: []doc.Span{{Style: doc.Soft, Text: text}}}
}
