package guide

import (
	"coldtap/internal/core/chapter"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/words"
	"coldtap/internal/guide/doc"
)

// Figures are the figures of several models in one table.
func Figures(list []chapter.Inputs) *doc.Document {
	d := &doc.Document{Language: "en"}
	t := doc.Table{Class: "allfigures"}
	for i := range list {
		in := &list[i]
		m := in.Net.Model
		tell := words.English(m.System())
		if i == 0 {
			d.Maker, d.Title = maker(in), tell.Tell(fact.Of("guide.sub.figures"))
			t.Name, t.Head = d.Title, []string{tell.Tell(fact.Of("head.model"))}
			for _, f := range chapter.Families() {
				t.Head = append(t.Head, tell.Tell(f.Name))
			}
			d.Foot = (&writer{teller: newTeller(in, "")}).foot()
		}
		row := doc.Row{Cells: []doc.Cell{cell(doc.Of(m.Title()))}}
		for k, f := range chapter.Families() {
			c := doc.Cell{Label: t.Head[k+1]}
			all := in.InFamily(f.ID)
			for _, x := range all {
				value := doc.Line{Spans: []doc.Span{{Style: doc.Live, Text: tell.Tell(x.Value), Ref: x.ID}}}
				if len(all) > 1 {
					value = value.And(doc.Span{Style: doc.Soft, Text: " " + partName(m, x)})
				}
				c.Lines = append(c.Lines, value)
			}
			row.Cells = append(row.Cells, c)
		}
		t.Rows = append(t.Rows, row)
	}
	d.Sections = []doc.Section{{ID: "figures", Title: d.Title, Kind: doc.Reference, Nodes: []doc.Node{t}}}
	return d
}

// partName is the name of the part that a figure is of; "" for one of the whole.
func partName(m *plumbing.Model, f chapter.Figure) string {
	for _, a := range f.Name.Args {
		if p, ok := a.(*plumbing.Part); ok {
			return p.Name
		}
	}
	return ""
}
