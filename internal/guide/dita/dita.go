// Package dita writes a guide as topics of the Darwin Information Typing
// Architecture (OASIS): a map with concepts, tasks and references, valid by the
// document types of DITA 1.2.
package dita

import (
	"cmp"
	"encoding/xml"
	"fmt"
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"coldtap/internal/guide/doc"
)

// Folder is where the drawings are, seen from the map and the topics.
const Folder = "pictures/"

// MapName is the name of the map's file.
const MapName = "guide.ditamap"

// File is a file of the topics, by its name.
type File struct{ Name, Text string }

// Write makes the map and a topic for each section; drawings are added to pictures.
func Write(d *doc.Document, pictures *doc.Pictures) []File {
	var files []File
	m := &writer{pictures: pictures}
	m.say(xml.Header)
	m.say(`<!DOCTYPE map PUBLIC "-//OASIS//DTD DITA Map//EN" "map.dtd">` + "\n")
	m.say(`<map xml:lang="%s"><title>%s</title>`, text(d.Language), text(d.Title+": "+d.Sub))
	m.say("\n"+`<topicmeta><data name="maker" value="%s"/><data name="caution" value="%s"/></topicmeta>`+"\n",
		text(d.Maker), text(d.Caution))
	part, open := "", false
	for i := range d.Sections {
		s := &d.Sections[i]
		if s.Left {
			continue
		}
		if s.Part != part || !open {
			if open {
				m.say("</topichead>\n")
			}
			part, open = s.Part, true
			m.say(`<topichead navtitle="%s">`+"\n", text(cmp.Or(part, d.Title)))
		}
		w := &writer{pictures: pictures}
		kind := w.topic(d, s)
		name := id(s.ID) + ".dita"
		files = append(files, File{name, w.String()})
		m.say(`<topicref href="%s" type="%s"/>`+"\n", name, kind)
	}
	if open {
		m.say("</topichead>\n")
	}
	m.say("</map>\n")
	return append([]File{{MapName, m.String()}}, files...)
}

type writer struct {
	strings.Builder
	pictures *doc.Pictures
}

func (w *writer) say(format string, args ...any) { fmt.Fprintf(w, format, args...) }

// text is text as XML takes it.
func text(s string) string {
	var b strings.Builder
	_ = xml.EscapeText(&b, []byte(s)) // a string builder fails at nothing
	return strings.NewReplacer("&#xA;", " ", "&#x9;", " ").Replace(b.String())
}

// id is a section's id as XML takes it.
func id(s string) string {
	return strings.Map(func(r rune) rune {
		if r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' || r >= '0' && r <= '9' || r == '-' {
			return r
		}
		return '_'
	}, "t-"+s)
}

// topic writes a section as a topic and gives its type.
func (w *writer) topic(d *doc.Document, s *doc.Section) string {
	kind := map[doc.Kind]string{doc.Task: "task", doc.Concept: "concept"}[s.Kind]
	kind = cmp.Or(kind, "reference")
	name := map[string]string{"task": "Task", "concept": "Concept", "reference": "Reference"}[kind]
	w.say(xml.Header)
	w.say(`<!DOCTYPE %s PUBLIC "-//OASIS//DTD DITA %s//EN" "%[1]s.dtd">`+"\n", kind, name)
	w.say(`<%s id="%s" xml:lang="%s"><title>%s</title>`+"\n", kind, id(s.ID), text(d.Language), text(cmp.Or(s.Title, d.Title)))
	switch kind {
	case "task":
		w.task(s)
	case "concept":
		w.say("<conbody>\n")
		w.body(s)
		w.say("</conbody>\n")
	default:
		w.say("<refbody><section>\n")
		w.body(s)
		w.say("</section></refbody>\n")
	}
	w.say("</%s>\n", kind)
	return kind
}

// body writes what a section has, in its order.
func (w *writer) body(s *doc.Section) {
	if s.Only != "" {
		w.say("<p><b>%s</b></p>\n", text(s.Only))
	}
	for _, n := range s.Nodes {
		w.node(n)
	}
}

// task writes a procedure: what is needed before it, its steps, and what follows them.
func (w *writer) task(s *doc.Section) {
	w.say("<taskbody>\n")
	var before, after []doc.Node
	var steps *doc.Steps
	for _, n := range s.Nodes {
		switch x := n.(type) {
		case doc.Steps:
			steps = &x
		default:
			if steps == nil {
				before = append(before, n)
			} else {
				after = append(after, n)
			}
		}
	}
	if before != nil || s.Only != "" {
		w.say("<prereq>\n")
		w.body(&doc.Section{Only: s.Only, Nodes: before})
		w.say("</prereq>\n")
	}
	if steps != nil && len(steps.List) > 0 {
		w.say("<steps>\n")
		for i := range steps.List {
			w.step(&steps.List[i])
		}
		w.say("</steps>\n")
	}
	if after != nil {
		w.say("<postreq>\n")
		w.body(&doc.Section{Nodes: after})
		w.say("</postreq>\n")
	}
	w.say("</taskbody>\n")
}

func (w *writer) step(s *doc.Step) {
	w.say("<step>")
	for _, c := range s.Cautions {
		w.note(c)
	}
	w.say("<cmd>%s", inline(s.Do))
	if s.Until.Spans != nil {
		w.say(" <i>%s</i>", inline(s.Until))
	}
	w.say("</cmd>\n")
	for _, l := range s.Does {
		w.say("<info>%s</info>\n", inline(l))
	}
	info := s.After[:len(s.After):len(s.After)]
	for _, t := range s.Turns {
		w.say("<info>")
		w.image(&t.Picture)
		w.say(" %s</info>\n", inline(doc.Join(t.Lines, ", ")))
	}
	for _, l := range []doc.Line{s.Then, s.Notes, s.Who, s.Tools} {
		if l.Spans != nil {
			info = append(info, l)
		}
	}
	for _, l := range info {
		w.say("<info>%s</info>\n", inline(l))
	}
	w.say("</step>\n")
}

// note writes a caution.
func (w *writer) note(c doc.Caution) {
	kind := map[string]string{"danger": "danger", "warning": "caution"}[c.Level]
	w.say(`<note type="%s">%s`, cmp.Or(kind, "note"), inline(c.Line))
	w.items("ul", c.Items)
	w.say("</note>\n")
}

// inline is a line with its styles.
func inline(l doc.Line) string {
	var b strings.Builder
	for _, s := range l.Spans {
		t := text(s.Text)
		switch s.Style {
		case doc.Strong:
			t = "<b>" + t + "</b>"
		case doc.Plate:
			t = ` <ph outputclass="plate">` + t + "</ph>"
		case doc.Number:
			t = `<ph outputclass="place">(` + t + ")</ph> "
		case doc.Blank:
			t = "__________"
		case doc.Box:
			t = "☐ "
		case doc.Live:
			t = `<ph outputclass="live">` + t + `<data name="ref" value="` + text(s.Ref) + `"/></ph>`
		}
		b.WriteString(t)
	}
	return b.String()
}

func (w *writer) node(n doc.Node) {
	switch n := n.(type) {
	case doc.Para:
		w.say("<p>%s</p>\n", inline(n.Line))
	case doc.Heading:
		w.say("<p><b>%s</b></p>\n", text(n.Text))
	case doc.List:
		w.items(map[bool]string{true: "ol", false: "ul"}[n.Ordered], n.Items)
	case doc.Table:
		w.table(n)
	case doc.Figure:
		w.say("<fig>")
		w.image(&n.Picture)
		w.say("</fig>\n")
		w.items("ul", n.Below)
	case doc.Caution:
		n.Spans = append([]doc.Span{{Style: doc.Strong, Text: n.Head}, {Text: " "}}, n.Spans...)
		w.note(n)
	case doc.Needs:
		for _, x := range n.Lists {
			w.say("<p><b>%s</b></p>\n", text(x.Title))
			w.items("ul", x.Items)
		}
	case doc.Prose:
		w.prose(n.HTML)
	}
}

func (w *writer) items(kind string, items []doc.Line) {
	if len(items) == 0 {
		return
	}
	w.say("<%s>\n", kind)
	for _, l := range items {
		w.say("<li>%s</li>\n", inline(l))
	}
	w.say("</%s>\n", kind)
}

func (w *writer) image(p *doc.Picture) {
	name := ""
	if p.Photo != nil {
		name = w.pictures.Photo(p.Photo)
	} else {
		name = w.pictures.Name(p)
	}
	w.say(`<image href="%s"><alt>%s</alt></image>`, text(Folder+name), text(p.Alt))
}

func (w *writer) table(t doc.Table) {
	width := max(len(t.Head), 1)
	rows := append(t.Rows[:len(t.Rows):len(t.Rows)], t.Foot...)
	for _, r := range rows {
		width = max(width, len(r.Cells))
	}
	if len(rows) == 0 {
		return
	}
	w.say("<table><title>%s</title>\n<tgroup cols=\"%d\">", text(t.Name), width)
	for i := range width {
		w.say(`<colspec colname="c%d"/>`, i+1)
	}
	if t.Head != nil {
		w.say("\n<thead><row>")
		for i := range width {
			h := ""
			if i < len(t.Head) {
				h = t.Head[i]
			}
			w.say("<entry>%s</entry>", text(h))
		}
		w.say("</row></thead>\n")
	}
	w.say("<tbody>\n")
	for _, r := range rows {
		w.say("<row>")
		for i := range width {
			w.say("<entry>")
			if i < len(r.Cells) {
				w.cell(r.Cells[i])
			}
			w.say("</entry>")
		}
		w.say("</row>\n")
	}
	w.say("</tbody></tgroup></table>\n")
}

func (w *writer) cell(c doc.Cell) {
	if c.Picture != nil {
		w.say("<p>")
		w.image(c.Picture)
		w.say("</p>")
	}
	for _, l := range c.Lines {
		w.say("<p>%s</p>", inline(l))
	}
	w.items("ul", c.Items)
}

// prose writes sanitized HTML.
func (w *writer) prose(sanitized string) {
	around := &html.Node{Type: html.ElementNode, Data: "div", DataAtom: atom.Div}
	nodes, err := html.ParseFragment(strings.NewReader(sanitized), around)
	if err != nil {
		w.say("<p>%s</p>\n", text(sanitized))
		return
	}
	for _, n := range nodes {
		if n.Type == html.TextNode {
			if t := strings.TrimSpace(n.Data); t != "" {
				w.say("<p>%s</p>", text(t))
			}
			continue
		}
		w.element(n)
	}
	w.say("\n")
}

// plain are elements of HTML by those of DITA that say the same.
var plain = map[string]string{"p": "p", "em": "i", "strong": "b", "ul": "ul", "ol": "ol", "li": "li", "blockquote": "lq",
	"code": "codeph", "pre": "pre"}

func (w *writer) element(n *html.Node) {
	if n.Type == html.TextNode {
		inList := n.Parent != nil && (n.Parent.Data == "ul" || n.Parent.Data == "ol")
		if !inList {
			w.say("%s", text(n.Data))
		}
		return
	}
	inside := func() {
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			w.element(c)
		}
	}
	switch {
	case n.Data == "code" && n.Parent != nil && n.Parent.Data == "pre":
		inside()
	case plain[n.Data] != "":
		w.say("<%s>", plain[n.Data])
		inside()
		w.say("</%s>", plain[n.Data])
	case strings.HasPrefix(n.Data, "h") && len(n.Data) == 2 && n.Data != "hr":
		w.say("<p><b>")
		inside()
		w.say("</b></p>")
	case n.Data == "a":
		w.say(`<xref href="%s" format="html" scope="external">`, text(attr(n, "href")))
		inside()
		w.say("</xref>")
	case n.Data == "br":
		w.say(" ")
	case n.Data == "span":
		w.say(`<ph outputclass="live">`)
		inside()
		w.say("</ph>")
	case n.Data != "hr":
		inside()
	}
}

func attr(n *html.Node, key string) string {
	for _, a := range n.Attr {
		if a.Key == key {
			return a.Val
		}
	}
	return ""
}
