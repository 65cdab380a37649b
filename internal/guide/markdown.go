package guide

import (
	"bytes"
	"html/template"

	"github.com/microcosm-cc/bluemonday"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/parser"
	"github.com/yuin/goldmark/text"
	"github.com/yuin/goldmark/util"
)

// markdown is a text as HTML that does nothing and loads nothing: no script, no handler, no picture from elsewhere, no
// address that is none. Its headings stand below the block's own.
func markdown(written string) template.HTML {
	var b bytes.Buffer
	below := parser.WithASTTransformers(util.Prioritized(lowered{}, 100))
	if err := goldmark.New(goldmark.WithParserOptions(below)).Convert([]byte(written), &b); err != nil {
		return template.HTML(template.HTMLEscapeString(written))
	}
	p := bluemonday.NewPolicy()
	p.AllowElements("p", "em", "strong", "ul", "ol", "li", "blockquote", "code", "pre", "hr", "br", "h3", "h4", "h5", "h6")
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
