package guide

import (
	"bytes"
	"fmt"
	"html/template"
	"strings"

	"github.com/microcosm-cc/bluemonday"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/parser"
	"github.com/yuin/goldmark/text"
	"github.com/yuin/goldmark/util"

	"coldtap/internal/core/chapter"
	"coldtap/internal/guide/doc"
)

// Marks that a text can't have, around the number of what follows the model in it.
const (
	refBegins = "\ue000"
	refEnds   = "\ue001"
)

// prose is a text that a hand wrote, with what follows the model in it as it is now.
func (w *writer) prose(written string) doc.Prose {
	written = strings.NewReplacer(refBegins, "", refEnds, "").Replace(written)
	var spans []doc.Span
	var p doc.Prose
	held := ""
	for _, x := range chapter.Pieces(written) {
		if held += x.Text; x.Ref == "" {
			continue
		}
		held += fmt.Sprintf("%s%d%s", refBegins, len(spans), refEnds)
		spans = append(spans, w.ref(x.Ref))
		if spans[len(spans)-1].Style == doc.Lost {
			p.Lost = append(p.Lost, x.Ref)
		}
	}
	p.Markdown, p.HTML = held, string(markdown(held))
	for i, s := range spans {
		mark := fmt.Sprintf("%s%d%s", refBegins, i, refEnds)
		p.Markdown = strings.ReplaceAll(p.Markdown, mark, s.Text)
		class := "live"
		if s.Style == doc.Lost {
			class = "live lost"
		}
		p.HTML = strings.ReplaceAll(p.HTML, mark, fmt.Sprintf(`<span class="%s" data-ref="%s">%s</span>`, class,
			template.HTMLEscapeString(s.Ref), template.HTMLEscapeString(s.Text)))
	}
	return p
}

// markdown is a text as HTML that does nothing and loads nothing: no script, no handler, no picture from elsewhere, no
// address that is none. Its headings stand below the block's own.
func markdown(written string) template.HTML {
	var b bytes.Buffer
	below := parser.WithASTTransformers(util.Prioritized(lowered{}, 100))
	if err := goldmark.New(goldmark.WithParserOptions(below)).Convert([]byte(written), &b); err != nil {
		return template.HTML(template.HTMLEscapeString(written))
	}
	p := bluemonday.NewPolicy()
	p.AllowElements("p", "em", "strong", "ul", "ol", "li", "blockquote", "code", "pre", "hr", "br", "h3", "h4", "h5",
		"h6")
	p.AllowStandardURLs()
	p.AllowAttrs("href").OnElements("a")
	return template.HTML(p.SanitizeBytes(b.Bytes())) // sanitized
}

// lowered puts headings two levels lower.
type lowered struct{}

func (lowered) Transform(doc *ast.Document, _ text.Reader, _ parser.Context) {
	for n := doc.FirstChild(); n != nil; n = n.NextSibling() {
		if h, ok := n.(*ast.Heading); ok {
			h.Level = min(6, h.Level+2)
		}
	}
}

// Prose is a text that a hand wrote as it will be read.
func Prose(in chapter.Inputs, written string) doc.Prose {
	w := &writer{teller: newTeller(&in, "")}
	return w.prose(written)
}
