package guide

import (
	"fmt"
	"html"
	"strings"

	"coldtap/internal/core/chapter"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/guide/doc"
)

// written writes a text of a hand's own, with the drawing or the photograph that belongs to it.
func (w *writer) written(s *doc.Section, b chapter.Written) error {
	if b.Text != "" {
		s.Nodes = append(s.Nodes, w.prose(b.Text))
	}
	if b.Mode != "" && w.o.Draw != nil {
		svg, err := w.o.Draw(w.ctx, b.Mode)
		switch {
		case w.ctx.Err() != nil:
			return w.ctx.Err()
		case err != nil: // the way of use was there when it was chosen
			s.Nodes = append(s.Nodes, w.lost(b.Mode)...)
		default:
			s.Nodes = append(s.Nodes, doc.Figure{Picture: doc.Picture{Class: "schematic-of", SVG: svg,
				Alt: w.say("guide.schematic", w.modeName(b.Mode))}, Below: []doc.Line{doc.Of(w.modeName(b.Mode))}})
		}
	}
	for i := range w.in.Photos {
		if w.in.Photos[i].ID == b.Photo {
			return w.photo(s, &w.in.Photos[i])
		}
	}
	if b.Photo != "" {
		s.Nodes = append(s.Nodes, w.lost("photograph "+b.Photo)...)
	}
	return nil
}

// lost marks, for who writes, what is no longer there; readers see nothing of it.
func (w *writer) lost(what string) []doc.Node {
	if !w.o.Writing {
		return nil
	}
	return []doc.Node{doc.Para{Line: doc.Line{Spans: []doc.Span{{Style: doc.Lost, Text: w.say("guide.lost", what)}}}}}
}

func (w *writer) modeName(id string) string {
	for i := range w.in.Plan {
		if w.in.Plan[i].Mode.ID == id {
			return w.Tell(w.in.Plan[i].Mode.Name)
		}
	}
	return id
}

// album writes all photographs.
func (w *writer) album(s *doc.Section, b chapter.Album) error {
	for i := range b.Photos {
		if err := w.photo(s, &b.Photos[i]); err != nil {
			return err
		}
	}
	return nil
}

// photo writes a photograph with its marks by the numbers of the plan, and what is marked below it.
func (w *writer) photo(s *doc.Section, p *chapter.Photo) error {
	if w.o.Photo == nil {
		return nil
	}
	taken, err := w.o.Photo(w.ctx, p.ID)
	if err != nil {
		return fmt.Errorf("photograph %s: %w", p.ID, err)
	}
	f := doc.Figure{Picture: doc.Picture{Class: "photo-of", Alt: p.Caption, Photo: taken, SVG: w.marks(p)}}
	if p.Caption != "" {
		f.Below = append(f.Below, doc.Of(p.Caption))
	}
	for _, m := range p.Marks {
		f.Below = append(f.Below, doc.Line{Spans: w.part(m.Part)})
	}
	s.Nodes = append(s.Nodes, f)
	return nil
}

// marks are what lies over a photograph: a ring around each part, with its number.
func (w *writer) marks(p *chapter.Photo) string {
	width, height := 400.0, 300.0
	if p.Width > 0 && p.Height > 0 {
		height = width * float64(p.Height) / float64(p.Width)
	}
	var b strings.Builder
	fmt.Fprintf(&b, `<svg class="marks" viewBox="0 0 %.0f %.0f" aria-hidden="true">`, width, height)
	for _, m := range p.Marks {
		x, y := m.X*width, m.Y*height
		fmt.Fprintf(&b, `<circle class="ring" cx="%.1f" cy="%.1f" r="22"/>`, x, y)
		if n := w.numbers[m.Part.ID]; n > 0 {
			x, y = min(x+20, width-10), max(y-18, 10)
			fmt.Fprintf(&b, `<circle class="no-of" cx="%.1f" cy="%.1f" r="9"/><text x="%.1f" y="%.1f" text-anchor="middle">%s</text>`,
				x, y, x, y+4, html.EscapeString(itoa(n)))
		}
	}
	b.WriteString("</svg>")
	return b.String()
}

// only is for which units a block holds, as far as that goes beyond the build that the guide is of; who writes is told
// the options too.
func (w *writer) only(c plumbing.Condition, writing bool) string {
	var all []fact.Fact
	m := w.in.Net.Model
	for _, id := range c.With {
		if o := m.Option(id); o != nil && writing {
			all = append(all, fact.Of("builds.with", o.Name))
		}
	}
	for _, id := range c.Without {
		if o := m.Option(id); o != nil && writing {
			all = append(all, fact.Of("builds.without", o.Name))
		}
	}
	switch {
	case c.FromSerial != "" && c.ToSerial != "":
		all = append(all, fact.Of("only.serials", c.FromSerial, c.ToSerial))
	case c.FromSerial != "":
		all = append(all, fact.Of("only.from-serial", c.FromSerial))
	case c.ToSerial != "":
		all = append(all, fact.Of("only.to-serial", c.ToSerial))
	}
	if all == nil {
		return ""
	}
	return w.Tell(fact.Of("builds.only", fact.Of("names.and", all)))
}

// warranty is the sentence that the house has at a procedure.
func (w *writer) warranty(t chapter.Task) []doc.Node {
	text := ""
	switch {
	case t.Part == chapter.Winter || t.Part == chapter.Spring:
		text = house.WarrantyWinter.Of(w.in.House)
	case t.ID == "sanitize" || t.ID == "sanitize-lines":
		text = house.WarrantyClean.Of(w.in.House)
	case strings.Contains(t.ID, "heater"):
		text = house.WarrantyHeater.Of(w.in.House)
	}
	if text == "" {
		return nil
	}
	return []doc.Node{doc.Para{Class: "warranty", Line: doc.Bold(w.Tell(fact.Of("guide.warranty"))).And(
		doc.Span{Text: " " + text})}}
}
