package guide

import (
	"coldtap/internal/core/chapter"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/drawing"
	"coldtap/internal/guide/doc"
)

// say is the words of a head or a label.
func (w *writer) say(id string, about ...any) string { return w.Tell(fact.Of(id, about...)) }

func (w *writer) heads(ids ...string) (list []string) {
	for _, id := range ids {
		list = append(list, w.say("head."+id))
	}
	return list
}

func cell(lines ...doc.Line) doc.Cell {
	var c doc.Cell
	for _, l := range lines {
		if !l.Empty() {
			c.Lines = append(c.Lines, l)
		}
	}
	return c
}

func (w *writer) places(b chapter.Places) []doc.Node {
	plan := drawing.NewLayout(w.in.Net.Model).Sided(house.SideNames(w.in.House)).Plan("")
	f := doc.Figure{Picture: doc.Picture{Class: "plan", Alt: w.say("guide.plan"), SVG: plan}}
	for _, p := range b.Parts {
		if w.numbers[p.ID] == 0 {
			continue
		}
		l := doc.Line{Spans: []doc.Span{{Style: doc.Number, Text: itoa(w.numbers[p.ID])}, {Text: p.Name}}}
		if at := w.Place(p.Place); at != "" {
			l = l.And(doc.Span{Text: " "}, doc.Span{Style: doc.Soft, Text: at})
		}
		f.Below = append(f.Below, l)
	}
	return []doc.Node{f}
}

func (w *writer) points(name string, b chapter.Points) []doc.Node {
	t := doc.Table{Class: "points", Name: name, Head: w.heads("where", "what-for", "shut-by", "joined-by")}
	for _, p := range b.Rows {
		shuts := cell(w.line(p.Shuts), w.line(p.Cap))
		if p.Part.Tool != "" {
			shuts.Lines = append(shuts.Lines, soft(w.say("guide.tool", p.Part.Tool)))
		}
		joins := cell()
		if p.Part.Thread != "" {
			joins.Lines = append(joins.Lines, doc.Of(p.Part.Thread))
		}
		if p.Part.Adapter != "" {
			joins.Lines = append(joins.Lines, soft(p.Part.Adapter))
		}
		t.Rows = append(t.Rows, doc.Row{Cells: []doc.Cell{cell(w.named(p.Part)...), cell(w.line(p.For), w.beside(p.Ends)),
			shuts, joins}})
	}
	return []doc.Node{t}
}

// beside is a sentence that stands beside the matter.
func (w *writer) beside(f fact.Fact) doc.Line {
	l := w.line(f)
	for i := range l.Spans {
		if l.Spans[i].Style == doc.Plain {
			l.Spans[i].Style = doc.Soft
		}
	}
	return l
}

func (w *writer) bypass(name string, b chapter.Bypass) []doc.Node {
	heads := w.heads("handle", "heater-in", "heater-bypassed")
	t := doc.Table{Class: "bypass", Name: name, Head: heads}
	for _, h := range b.Handles {
		row := doc.Row{Cells: []doc.Cell{cell(w.named(h.Part)...)}}
		for i, position := range []string{h.In, h.Out} {
			picture, said := w.handle(h.Part, position)
			row.Cells = append(row.Cells, doc.Cell{Picture: &picture, Lines: []doc.Line{said}, Label: heads[i+1]})
		}
		t.Rows = append(t.Rows, row)
	}
	return []doc.Node{t, doc.List{Items: w.lines(b.See)}}
}

// valves are two tables: handles by ways of use, and ways of use by what stands beside the handles in each.
func (w *writer) valves(name string, b chapter.Valves) []doc.Node {
	t := doc.Table{Class: "valves", Name: name, Head: w.heads("handle")}
	beside := doc.Table{Class: "beside", Name: w.say("head.beside"), Head: w.heads("way", "beside")}
	for _, c := range b.Columns {
		head := w.Tell(c.Name)
		for _, also := range c.Also {
			head += "\n" + w.say("guide.same", w.Tell(also.Name))
		}
		t.Head = append(t.Head, head)
		for _, x := range append([]chapter.Column{c}, c.Also...) {
			acts := w.acts(x)
			if acts == nil {
				acts = []doc.Line{doc.Of(w.say("guide.nothing"))}
			}
			beside.Rows = append(beside.Rows, doc.Row{Cells: []doc.Cell{cell(doc.Of(w.Tell(x.Name))), {Items: acts}}})
		}
	}
	for _, r := range b.Rows {
		row := doc.Row{Cells: []doc.Cell{cell(w.named(r.Part)...)}}
		for i, c := range r.Cells {
			picture, said := w.handle(r.Part, c.Position)
			row.Cells = append(row.Cells, doc.Cell{Picture: &picture, Lines: []doc.Line{said}, Marked: c.Differs,
				Label: w.Tell(b.Columns[i].Name)})
		}
		t.Rows = append(t.Rows, row)
	}
	return []doc.Node{t, doc.Para{Class: "hint", Line: w.line(fact.Of("guide.marked"))},
		doc.Heading{Text: w.say("head.beside")}, beside}
}

// acts are what stands beside the handles in a way of use.
func (w *writer) acts(c chapter.Column) (list []doc.Line) {
	if !c.Kept.IsZero() {
		list = append(list, w.line(c.Kept))
	}
	for _, f := range c.Best {
		list = append(list, w.line(fact.Of("guide.best", f)))
	}
	for _, a := range c.Acts {
		list = append(list, doc.Of(a.Part.Name+": "+w.Act(a)))
	}
	return list
}

func (w *writer) calendar(name string, b chapter.Calendar) []doc.Node {
	t := doc.Table{Class: "calendar", Name: name, Head: w.heads("when", "what", "see")}
	for _, d := range b.Rows {
		see := cell()
		if d.Task != "" {
			see = cell(doc.Of(w.say("procedure." + d.Task)))
		}
		t.Rows = append(t.Rows, doc.Row{Cells: []doc.Cell{cell(w.line(d.When)), cell(w.line(d.What)), see}})
	}
	return []doc.Node{t}
}

func (w *writer) stuff(b chapter.Stuff) []doc.Node {
	l := doc.List{Items: w.lines(b.Used)}
	for _, t := range b.Tools {
		l.Items = append(l.Items, w.line(fact.Of("stuff.tool", t.Name, t.Parts)))
	}
	return []doc.Node{l}
}

func (w *writer) troubles(name string, b chapter.Troubles) []doc.Node {
	t := doc.Table{Class: "trouble", Name: name, Head: w.heads("notice", "may-be")}
	for i := range b.Rows {
		s := &b.Rows[i]
		head := cell(w.line(s.Said))
		if s.Effect != nil {
			head = cell(doc.Of(w.Effect(w.in.Net, s.Effect)))
		}
		if s.Modes != nil {
			head.Lines = append(head.Lines, soft(w.when(s.Modes)))
		}
		var causes doc.Cell
		for k := range s.Causes {
			c := &s.Causes[k]
			var l doc.Line
			if only := s.Only(c); only != nil {
				l = l.And(doc.Span{Text: w.Tell(fact.Of("guide.only", only))})
			}
			said := w.line(c.Said)
			l.Key, l.Own = said.Key, said.Own
			l = l.And(said.Spans...).And(doc.Span{Text: ". "}, doc.Span{Style: doc.Strong, Text: w.Tell(c.Do) + "."})
			causes.Items = append(causes.Items, l)
		}
		t.Rows = append(t.Rows, doc.Row{Cells: []doc.Cell{head, causes}})
	}
	return []doc.Node{t}
}

// when are ways of use in which something is so.
func (w *writer) when(modes []fact.Fact) string {
	if len(modes) == 1 {
		return w.Tell(modes[0])
	}
	return w.Tell(fact.Of("guide.when", modes[0], modes[1:]))
}

func (w *writer) mistakes(name string, b chapter.Mistakes) []doc.Node {
	t := doc.Table{Class: "mistakes", Name: name, Head: w.heads("at", "left-so", "leads-to", "costs")}
	for i := range b.Rows {
		m := &b.Rows[i]
		t.Rows = append(t.Rows, doc.Row{Cells: []doc.Cell{cell(doc.Of(w.Tell(m.Mode))), {Items: w.lines(m.Said)},
			cell(doc.Of(w.Effects(w.in.Net, m.Effects))), cell(w.line(m.Costs))}})
	}
	return []doc.Node{t}
}

// apart is, by way of use, what is looked at to find what is wrong.
func (w *writer) apart(b chapter.Apart) (list []doc.Node) {
	for i := range b.Modes {
		of := &b.Modes[i]
		said := w.Tell(of.Said)
		t := doc.Table{Class: "apart", Name: said, Head: w.heads("looks-show", "it-is")}
		for _, r := range of.Rows {
			t.Rows = append(t.Rows, doc.Row{Cells: []doc.Cell{{Items: w.lines(r.Looks)}, cell(w.lines(r.Faults)...)}})
		}
		list = append(list, doc.Heading{Text: said}, t)
	}
	return list
}

func (w *writer) times(name string, b chapter.Times) []doc.Node {
	t := doc.Table{Class: "times", Name: name, Head: w.heads("procedure", "from-to", "busy", "uses")}
	for _, x := range b.Tasks {
		r := x.Read
		uses := cell(w.lines(r.Takes)...)
		t.Rows = append(t.Rows, doc.Row{Cells: []doc.Cell{cell(doc.Of(w.Tell(r.Name))),
			cell(doc.Of(w.Tell(fact.Of("it", r.Elapsed)))), cell(doc.Of(w.Tell(fact.Of("it", r.Attended)))), uses}})
	}
	return []doc.Node{t}
}

func (w *writer) figures(name string, b chapter.FigureTable) []doc.Node {
	t := doc.Table{Class: "figures", Name: name, Head: w.heads("figure", "value", "note")}
	for _, f := range b.Rows {
		note := w.line(f.Note)
		t.Rows = append(t.Rows, doc.Row{Cells: []doc.Cell{cell(w.line(f.Name)),
			cell(doc.Line{Spans: []doc.Span{{Style: doc.Live, Text: w.Tell(f.Value), Ref: f.ID}}}), cell(note)}})
	}
	return []doc.Node{t}
}

func (w *writer) sheets(b chapter.Sheets) (list []doc.Node) {
	for _, s := range b.Rows {
		name := w.Tell(s.Name)
		t := doc.Table{Class: "sheet-lines", Name: name, Head: w.heads("line", "formula", "inputs", "result", "source")}
		for _, l := range s.Lines {
			var row doc.Row
			for _, f := range []fact.Fact{l.What, l.Formula, l.Inputs, l.Result, l.Source} {
				row.Cells = append(row.Cells, cell(doc.Of(w.Tell(f))))
			}
			t.Rows = append(t.Rows, row)
		}
		list = append(list, doc.Heading{Text: w.say("guide.sheet", name, w.Tell(s.Value))}, t)
	}
	return list
}

// part is a part's name in a line, with its number.
func (w *writer) part(p *plumbing.Part) (spans []doc.Span) {
	if n := w.numbers[p.ID]; n > 0 {
		spans = append(spans, doc.Span{Style: doc.Number, Text: itoa(n)})
	}
	return append(spans, doc.Span{Text: p.Name})
}
