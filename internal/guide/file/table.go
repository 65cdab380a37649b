package file

import (
	"context"
	"encoding/csv"
	"fmt"
	"html/template"
	"io"

	"coldtap/internal/core/chapter"
	"coldtap/internal/core/words"
	"coldtap/internal/drawing"
	"coldtap/internal/guide/doc"
	"coldtap/internal/guide/html"
	"coldtap/internal/guide/md"
)

// Table is the figures of several models with what they were made of.
type Table struct {
	Doc   *doc.Document
	All   []chapter.Inputs
	Print Print // nil for none
}

// Write writes the table in a format.
func (t *Table) Write(ctx context.Context, to io.Writer, f Format) error {
	g := Guide{Doc: t.Doc, Print: t.Print}
	switch f {
	case HTML:
		return html.Page(to, t.Doc, html.Options{Style: template.CSS(drawing.CSS())})
	case PDF:
		return g.pdf(ctx, to)
	case MD:
		return md.Write(to, t.Doc, &doc.Pictures{Alone: drawing.Alone})
	case CSV:
		return t.csv(to)
	case JSON:
		return t.json(to)
	}
	return fmt.Errorf("the figures of all models are written as html, md, pdf, csv and json, not as %q", f)
}

// csv has a row for each figure of each model.
func (t *Table) csv(to io.Writer) error {
	w := csv.NewWriter(to)
	_ = w.Write([]string{"Model", "Kind", "Figure", "Name", "Value"}) // told by Error
	for i := range t.All {
		in := &t.All[i]
		tell := words.English(in.Net.Model.System())
		for _, f := range chapter.Families() {
			for _, x := range in.InFamily(f.ID) {
				_ = w.Write([]string{in.Net.Model.Title(), tell.Tell(f.Name), x.ID, tell.Tell(x.Name), tell.Tell(x.Value)})
			}
		}
	}
	w.Flush()
	return w.Error()
}

func (t *Table) json(to io.Writer) error {
	var list []map[string]any
	for i := range t.All {
		g := Guide{In: t.All[i]}
		list = append(list, map[string]any{"model": g.In.Net.Model.ID, "title": g.In.Net.Model.Title(), "figures": g.figures()})
	}
	return indented(to, list)
}
