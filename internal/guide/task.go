package guide

import (
	"strings"

	"coldtap/internal/core/chapter"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/house"
	"coldtap/internal/core/instruction"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/state"
	"coldtap/internal/core/words"
	"coldtap/internal/guide/doc"
)

// task writes a procedure; one that is signed has boxes to tick.
func (w *writer) task(t chapter.Task, signed bool) (list []doc.Node) {
	if t.Read == nil {
		return []doc.Node{doc.Caution{Level: "warning", Head: w.say("guide.cant"), Line: w.line(t.Why)}}
	}
	if t.Wrong != nil {
		list = append(list, doc.Caution{Level: "warning", Head: w.say("guide.wrong"), Items: w.lines(t.Wrong)})
	}
	return append(list, w.instruction(t.Read, signed)...)
}

func (w *writer) instruction(in *instruction.Instruction, signed bool) (list []doc.Node) {
	var needs doc.Needs
	for _, n := range []struct {
		head string
		said []fact.Fact
	}{{"site", in.Site}, {"hand", in.Hand}, {"ranges", in.Ranges}} {
		if n.said != nil {
			needs.Lists = append(needs.Lists, doc.Need{Title: w.say("head." + n.head), Items: w.lines(n.said)})
		}
	}
	if needs.Lists != nil {
		list = append(list, needs)
	}
	steps := doc.Steps{Boxes: signed, Signed: signed}
	for i := range in.Steps {
		steps.List = append(steps.List, w.step(&in.Steps[i]))
	}
	list = append(list, steps)
	if off := w.off(in); off != nil {
		list = append(list, doc.Heading{Text: w.say("head.off")}, doc.List{Class: "off", Items: off})
	}
	if in.Tags != nil {
		list = append(list, doc.Heading{Text: w.say("head.tags")}, doc.List{Class: "tags", Items: w.lines(in.Tags)})
	}
	return list
}

// off is what was taken off, to be ticked when it is back.
func (w *writer) off(in *instruction.Instruction) (off []doc.Line) {
	for _, t := range in.TakenOff {
		if t.Back == t.At {
			continue
		}
		l := doc.Line{Spans: w.part(t.Part)}
		said := w.say("guide.off", t.At)
		if t.Back > 0 {
			said = w.say("guide.off-back", t.At, itoa(t.Back))
		}
		off = append(off, l.And(doc.Span{Text: said}, doc.Span{Style: doc.Blank}))
	}
	return off
}

// step writes a step: what it is for can be reworded, its acts stay.
func (w *writer) step(s *instruction.Step) doc.Step {
	one := *s
	var turns []doc.Turn
	var after []state.Act
	one.Acts = nil
	for _, a := range s.Acts {
		switch {
		case a.Verb == state.Turn:
			turns = append(turns, w.turn(a.Part, a.To))
		case turns != nil:
			after = append(after, a)
		default:
			one.Acts = append(one.Acts, a)
		}
	}
	told := w.Step(&one)
	step := doc.Step{Do: w.line(s.Head), Turns: turns}
	if step.Do.Own {
		told.Head = step.Do.Text()
	} else {
		step.Do.Spans = []doc.Span{{Text: told.Head}}
	}
	step.Do = step.Do.And(doc.Span{Text: "."})
	for _, c := range s.Cautions {
		step.Cautions = append(step.Cautions, w.caution(c))
	}
	if told.Until != "" {
		step.Until = doc.Of(w.say("guide.until", told.Until))
	}
	deeds := func(list []words.Beside) (lines []doc.Line) {
		for _, d := range list {
			lines = append(lines, doc.Bold(d.Names()).And(doc.Span{Text: ": " + d.What}))
		}
		return lines
	}
	step.Does, step.After = deeds(told.Does), append(deeds(w.Together(after)), w.lines(s.Pour)...)
	step.Then = w.then(told.Then)
	if told.Notes != nil && house.Tone.Of(w.in.House) != house.ToneTerse {
		step.Notes = doc.Of(strings.Join(told.Notes, "; ") + ".")
	}
	step.Who = w.line(s.Who)
	if told.Tools != nil {
		step.Tools = doc.Of(w.say("guide.tools", strings.Join(told.Tools, "; ")))
	}
	return step
}

func (w *writer) then(list []words.Beside) doc.Line {
	if list == nil {
		return doc.Line{}
	}
	l := doc.Of(w.say("guide.then"))
	for i, t := range list {
		if i > 0 {
			l = l.And(doc.Span{Text: "; "})
		}
		if names := t.Names(); names != "" {
			l = l.And(doc.Span{Style: doc.Strong, Text: names}, doc.Span{Text: ": "})
		}
		l = l.And(doc.Span{Text: t.What})
	}
	return l.And(doc.Span{Text: "."})
}

func (w *writer) caution(c instruction.Caution) doc.Caution {
	level := map[proof.Severity]string{proof.Danger: "danger", proof.Wrong: "warning", proof.Note: "note"}[c.Level]
	return doc.Caution{Level: level, Head: w.say("level." + level), Line: w.line(c.Said)}
}

func (w *writer) turn(p *plumbing.Part, position string) doc.Turn {
	picture, said := w.handle(p, position)
	head := doc.Line{}
	if n := w.numbers[p.ID]; n > 0 {
		head = head.And(doc.Span{Style: doc.Number, Text: itoa(n)})
	}
	head = head.And(doc.Span{Style: doc.Strong, Text: p.Name})
	if p.Label != "" {
		head = head.And(doc.Span{Style: doc.Plate, Text: p.Label})
	}
	t := doc.Turn{Picture: picture, Lines: []doc.Line{head, said}}
	if p.Place.Reach != "" {
		t.Lines = append(t.Lines, soft(p.Place.Reach))
	}
	return t
}

// Checklist is one procedure as somebody ticks it off.
func Checklist(in chapter.Inputs, read *instruction.Instruction, pr *proof.Proof) *doc.Document {
	w := &writer{teller: newTeller(&in, "")}
	t := chapter.Task{ID: read.ID, Read: read, Proof: pr}
	for _, b := range pr.Breaches {
		if b.Severity > proof.Note {
			t.Wrong = append(t.Wrong, b.Said)
		}
	}
	m := in.Net.Model
	return &doc.Document{Language: "en", Maker: maker(&in), Title: m.Title(),
		Sub:      w.say("guide.checklist"),
		Sections: []doc.Section{{ID: read.ID, Title: w.Tell(read.Name), Kind: doc.Task, Nodes: w.task(t, false)}},
		Foot:     w.foot()}
}
