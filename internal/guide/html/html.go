// Package html writes a guide as a page, for screen and print.
package html

import (
	"embed"
	"encoding/base64"
	"fmt"
	"html/template"
	"io"
	"strings"

	"coldtap/internal/guide/doc"
)

// Options are what stands around and beside a guide.
type Options struct {
	Tools   func(*doc.Section) (template.HTML, error) // beside a section, for who writes; nil for none
	Slot    template.HTML                             // above the sections, while something is being worked out
	Writing bool                                      // sentences can be reworded
	Cover   bool                                      // a page of its own with what the guide is for
	Pages   map[string]int                            // of print, by the ids of blocks; nil where they are not known
	Style   template.CSS                              // beside the guide's own, where the page stands alone
}

//go:embed guide.css
var css string

// CSS is the style sheet of guides, for screen and print.
func CSS() string { return css }

//go:embed page.html
var text string

//go:embed fonts/*.woff2
var fonts embed.FS

// Faces are the fonts as they stand in the style sheet of a page that loads nothing.
func Faces() (string, error) {
	var b strings.Builder
	for _, weight := range []string{"400", "700"} {
		raw, err := fonts.ReadFile("fonts/atkinson-hyperlegible-next-latin-" + weight + "-normal.woff2")
		if err != nil {
			return "", err
		}
		fmt.Fprintf(&b, `@font-face { font-family: "Atkinson Hyperlegible Next"; font-weight: %s; `+
			`src: url(data:font/woff2;base64,%s) format("woff2"); }`+"\n", weight, base64.StdEncoding.EncodeToString(raw))
	}
	return b.String(), nil
}

// view is a document as the templates see it.
type view struct {
	*doc.Document
	Options
}

// group is a part of the guide with its sections.
type group struct {
	Title    string
	Sections []doc.Section
}

// Groups are the sections of this edition by the parts that they are in, for the contents.
func (v view) Groups() (list []group) {
	for _, s := range v.Sections {
		if s.Left || s.Title == "" {
			continue
		}
		if n := len(list); n == 0 || list[n-1].Title != s.Part {
			list = append(list, group{Title: s.Part})
		}
		g := &list[len(list)-1]
		g.Sections = append(g.Sections, s)
	}
	return list
}

// Page is the page of print on which a section begins, 0 where that is not known.
func (v view) Page(id string) int { return v.Pages["b-"+id] }

// block is a section where it stands.
type block struct {
	*doc.Section
	Begins bool          // it is the first of a part of the guide
	Beside template.HTML // for who writes
}

// Block is the section of an index.
func (v view) Block(i int) (block, error) {
	b := block{Section: &v.Sections[i]}
	b.Begins = b.Part != "" && (i == 0 || v.Sections[i-1].Part != b.Part)
	if v.Tools == nil {
		return b, nil
	}
	var err error
	b.Beside, err = v.Tools(b.Section)
	return b, err
}

// Piece is a part of a guide's page by itself.
type Piece struct{ ID, HTML string }

// Pieces are the contents and the sections of a guide, each by itself.
func Pieces(d *doc.Document, o Options) (contents string, list []Piece, err error) {
	v := view{d, o}
	var b strings.Builder
	if err := templates.ExecuteTemplate(&b, "contents", v); err != nil {
		return "", nil, err
	}
	contents = b.String()
	for i := range d.Sections {
		b.Reset()
		one, err := v.Block(i)
		if err != nil {
			return "", nil, err
		}
		if err := templates.ExecuteTemplate(&b, "block", one); err != nil {
			return "", nil, err
		}
		list = append(list, Piece{d.Sections[i].ID, b.String()})
	}
	return contents, list, nil
}

var templates = parsed()

// parsed is the set of templates; one of their functions looks into the set.
func parsed() *template.Template {
	t := template.New("html")
	node := func(n doc.Node) (template.HTML, error) {
		var b strings.Builder
		err := t.ExecuteTemplate(&b, "node-"+n.Shape(), n)
		return template.HTML(b.String()), err // written by a template of ours
	}
	return template.Must(t.Funcs(template.FuncMap{
		"node": node,
		"css":  func() template.CSS { return template.CSS(css) },
		"svg":  func(s string) template.HTML { return template.HTML(s) }, // drawn by us, texts escaped
		"safe": func(s string) template.HTML { return template.HTML(s) }, // sanitized where it was made
		"line": inline,
		"source": func(p *doc.Photo) template.URL {
			if p.Address != "" {
				return template.URL(p.Address) // an address of ours
			}
			return template.URL("data:image/jpeg;base64," + base64.StdEncoding.EncodeToString(p.JPEG))
		},
		"small": func(p *doc.Photo) template.URL { return template.URL(p.Small) }, // an address of ours
	}).Parse(text + walkText))
}

// inline writes a line, with what its sentence is known by.
func inline(l doc.Line) template.HTML {
	var b strings.Builder
	if l.Key != "" {
		class := "said"
		if l.Own {
			class += " own"
		}
		fmt.Fprintf(&b, `<span class="%s" data-key="%s">`, class, template.HTMLEscapeString(l.Key))
	}
	for _, s := range l.Spans {
		b.WriteString(span(s))
	}
	if l.Key != "" {
		b.WriteString("</span>")
	}
	return template.HTML(b.String()) // texts escaped
}

func span(s doc.Span) string {
	t := template.HTMLEscapeString(s.Text)
	switch s.Style {
	case doc.Strong:
		return "<b>" + t + "</b>"
	case doc.Soft:
		return "<small>" + t + "</small>"
	case doc.Plate:
		return ` <span class="plate">` + t + "</span>"
	case doc.Number:
		return `<span class="no">` + t + "</span> "
	case doc.Blank:
		return `<span class="blank"></span>`
	case doc.Box:
		return `<span class="box" aria-hidden="true"></span>`
	case doc.Live:
		return `<span class="live" data-ref="` + template.HTMLEscapeString(s.Ref) + `">` + t + "</span>"
	case doc.Lost:
		return `<mark class="lost">` + t + "</mark>"
	}
	return t
}

// Article writes a guide as an article element, for a page around it.
func Article(w io.Writer, d *doc.Document, o Options) error {
	return templates.ExecuteTemplate(w, "article", view{d, o})
}

// Around writes a guide around its pieces, as Pieces gave them.
func Around(w io.Writer, d *doc.Document, o Options, contents string, list []Piece) error {
	if err := templates.ExecuteTemplate(w, "articlehead", view{d, o}); err != nil {
		return err
	}
	parts := []string{contents}
	for _, p := range list {
		parts = append(parts, p.HTML)
	}
	for _, p := range parts {
		if _, err := io.WriteString(w, p); err != nil {
			return err
		}
	}
	return templates.ExecuteTemplate(w, "articlefoot", view{d, o})
}

// Page writes a guide as a page that stands alone: its fonts, styles and drawings are in it.
func Page(w io.Writer, d *doc.Document, o Options) error {
	own, err := Faces()
	if err != nil {
		return err
	}
	o.Style = template.CSS(own) + o.Style + template.CSS(running(d))
	return templates.ExecuteTemplate(w, "page", view{d, o})
}

// Checklist writes it as an article to be ticked off.
func Checklist(w io.Writer, d *doc.Document) error {
	return templates.ExecuteTemplate(w, "checklist", view{Document: d})
}

// running are the running heads and page numbers of a document's print.
func running(d *doc.Document) string {
	quoted := func(s string) string {
		return `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`, "<", "\\3c ", "\n", " ").Replace(s) + `"`
	}
	return fmt.Sprintf(`@media print { @page { margin: 20mm 15mm 18mm; font: 9pt "Atkinson Hyperlegible Next", sans-serif; `+
		`@top-left { content: %s; } @top-right { content: %s; } @bottom-right { content: counter(page) " / " counter(pages); } `+
		`@bottom-left { content: %s; } } @page :first { @top-left { content: none; } @top-right { content: none; } `+
		`@bottom-left { content: none; } @bottom-right { content: none; } } }`, quoted(d.Title), quoted(d.Sub),
		quoted(d.Maker))
}
