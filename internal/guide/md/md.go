// Package md writes a guide as Markdown, its drawings as SVG files beside it.
package md

import (
	"fmt"
	"io"
	"regexp"
	"strings"

	"coldtap/internal/guide/doc"
)

// Folder is where the drawings are, seen from the text.
const Folder = "pictures/"

// Write writes a guide; its drawings are added to pictures.
func Write(to io.Writer, d *doc.Document, pictures *doc.Pictures) error {
	w := &writer{pictures: pictures}
	w.say("# %s\n\n%s\n\n", escaped(d.Title), escaped(d.Sub))
	if d.Maker != "" {
		w.say("%s\n\n", escaped(d.Maker))
	}
	if d.Caution != "" {
		w.say("> **%s**\n\n", escaped(d.Caution))
	}
	w.list(d.About, false)
	part := ""
	for i := range d.Sections {
		s := &d.Sections[i]
		if s.Left {
			continue
		}
		if s.Part != part && s.Part != "" {
			part = s.Part
			w.say("*%s*\n\n", escaped(part))
		}
		if s.Title != "" {
			w.say("## %s\n\n", escaped(s.Title))
		}
		if s.Only != "" {
			w.say("**%s**\n\n", escaped(s.Only))
		}
		for _, n := range s.Nodes {
			w.node(n)
		}
	}
	w.say("---\n\n")
	for _, l := range d.Foot {
		w.say("%s\n\n", inline(l))
	}
	_, err := io.WriteString(to, w.text.String())
	return err
}

type writer struct {
	text     strings.Builder
	pictures *doc.Pictures
}

func (w *writer) say(format string, args ...any) { fmt.Fprintf(&w.text, format, args...) }

var marks = strings.NewReplacer("\\", "\\\\", "*", "\\*", "_", "\\_", "`", "\\`", "<", "&lt;", "&", "&amp;", "#", "\\#",
	"|", "\\|", "[", "\\[", "]", "\\]", "~", "\\~", "\n", " ")

// What would make a numbered list of a text that begins so, and a list, a quotation or a rule.
var (
	numbered = regexp.MustCompile(`^(\d{1,9})([.)](?:\s|$))`)
	marked   = regexp.MustCompile(`^(?:[-+](?:\s|$)|--|[=>])`)
)

// escaped is text that Markdown takes as it is.
func escaped(s string) string { return marks.Replace(s) }

// inline is a line with its styles.
func inline(l doc.Line) string {
	var b strings.Builder
	for _, s := range l.Spans {
		t := escaped(s.Text)
		switch s.Style {
		case doc.Strong:
			t = "**" + t + "**"
		case doc.Plate:
			t = " `" + strings.ReplaceAll(s.Text, "`", "'") + "`"
		case doc.Number:
			t = "(" + t + ") "
		case doc.Blank:
			t = "\\_\\_\\_\\_\\_\\_\\_\\_"
		case doc.Box:
			t = "[ ] "
		}
		b.WriteString(t)
	}
	text := numbered.ReplaceAllString(strings.TrimLeft(b.String(), " "), `$1\$2`)
	if marked.MatchString(text) {
		return `\` + text
	}
	return text
}

func (w *writer) node(n doc.Node) {
	switch n := n.(type) {
	case doc.Para:
		w.say("%s\n\n", inline(n.Line))
	case doc.Heading:
		w.say("### %s\n\n", escaped(n.Text))
	case doc.List:
		w.list(n.Items, n.Ordered)
	case doc.Table:
		w.table(n)
	case doc.Figure:
		w.say("![%s](%s)\n\n", escaped(n.Alt), w.source(&n.Picture))
		w.list(n.Below, false)
	case doc.Caution:
		w.caution("", n)
		w.list(n.Items, false)
	case doc.Needs:
		for _, x := range n.Lists {
			w.say("### %s\n\n", escaped(x.Title))
			w.list(x.Items, false)
		}
	case doc.Steps:
		w.steps(n)
	case doc.Prose:
		w.say("%s\n\n", n.Markdown)
	}
}

// source is where a picture is.
func (w *writer) source(p *doc.Picture) string {
	if p.Photo != nil {
		return Folder + w.pictures.Photo(p.Photo)
	}
	return Folder + w.pictures.Name(p)
}

func (w *writer) list(items []doc.Line, ordered bool) {
	for i, l := range items {
		mark := "-"
		if ordered {
			mark = fmt.Sprintf("%d.", i+1)
		}
		w.say("%s %s\n", mark, inline(l))
	}
	if items != nil {
		w.say("\n")
	}
}

func (w *writer) caution(indent string, c doc.Caution) {
	w.say("%s> **%s** %s\n\n", indent, escaped(c.Head), inline(c.Line))
}

func (w *writer) table(t doc.Table) {
	width := len(t.Head)
	for _, r := range t.Rows {
		width = max(width, len(r.Cells))
	}
	row := func(cells []string) {
		for len(cells) < width {
			cells = append(cells, "")
		}
		w.say("| %s |\n", strings.Join(cells, " | "))
	}
	var head, rule []string
	for _, h := range t.Head {
		head = append(head, strings.ReplaceAll(escaped(strings.ReplaceAll(h, "\n", "\x00")), "\x00", "<br>"))
	}
	row(head)
	for range width {
		rule = append(rule, "---")
	}
	row(rule)
	for _, r := range append(t.Rows[:len(t.Rows):len(t.Rows)], t.Foot...) {
		var cells []string
		for _, c := range r.Cells {
			cells = append(cells, w.cell(c))
		}
		row(cells)
	}
	w.say("\n")
}

func (w *writer) cell(c doc.Cell) string {
	var all []string
	if c.Picture != nil {
		all = append(all, fmt.Sprintf("![%s](%s)", escaped(c.Picture.Alt), w.source(c.Picture)))
	}
	for _, l := range c.Lines {
		all = append(all, inline(l))
	}
	for _, l := range c.Items {
		all = append(all, "• "+inline(l))
	}
	return strings.Join(all, "<br>")
}

func (w *writer) steps(s doc.Steps) {
	for i, x := range s.List {
		for _, c := range x.Cautions {
			w.caution("", c)
		}
		box := ""
		if s.Boxes {
			box = "[ ] "
		}
		w.say("%d. %s%s", i+1, box, inline(x.Do))
		if x.Until.Spans != nil {
			w.say(" *%s*", inline(x.Until))
		}
		w.say("\n")
		for _, l := range x.Does {
			w.say("   - %s\n", inline(l))
		}
		for _, t := range x.Turns {
			w.say("   - ![%s](%s) %s\n", escaped(t.Picture.Alt), w.source(&t.Picture), inline(doc.Join(t.Lines, ", ")))
		}
		for _, l := range x.After {
			w.say("   - %s\n", inline(l))
		}
		for _, l := range []doc.Line{x.Then, x.Notes, x.Who, x.Tools} {
			if l.Spans != nil {
				w.say("   - %s\n", inline(l))
			}
		}
		w.say("\n")
	}
	if s.Signed {
		w.say("Done by ________ Date ________ Unit ________\n\n")
	}
}
