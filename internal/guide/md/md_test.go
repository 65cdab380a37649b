package md_test

import (
	"bytes"
	"html"
	"math/rand/v2"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"

	"coldtap/internal/guide/doc"
	"coldtap/internal/guide/md"
	"coldtap/internal/sample"
)

func written(t *testing.T, d *doc.Document) (text, shown string, pictures *doc.Pictures) {
	t.Helper()
	pictures = &doc.Pictures{Alone: func(svg string) string { return "alone " + svg }}
	var out, page bytes.Buffer
	require.NoError(t, md.Write(&out, d, pictures))
	require.NoError(t, goldmark.New(goldmark.WithExtensions(extension.Table)).Convert(out.Bytes(), &page))
	return out.String(), page.String(), pictures
}

var tagRE = regexp.MustCompile(`<[^>]*>`)

// plain is what a reader sees of a page.
func plain(page string) string {
	return strings.Join(strings.Fields(html.UnescapeString(tagRE.ReplaceAllString(page, " "))), " ")
}

// Whatever a text is made of, a reader of the Markdown sees that text and nothing else.
func TestTextsComeThroughMarkdown(t *testing.T) {
	t.Parallel()
	pieces := []string{"a", "b1", " ", "*", "_", "`", "<b>", "&amp;", "#", "|", "[x](y)", "!",
		"\\", "-", "+", "1.", "2)", ">", "~~",
		"=", "\n", "---", "http://x", "ü", "½", ":", "\""}
	for _, seed := range sample.Seeds(t, 300, 5000) {
		rng := rand.New(rand.NewPCG(seed, 1))
		var b strings.Builder
		for range 1 + rng.IntN(8) {
			b.WriteString(pieces[rng.IntN(len(pieces))])
		}
		text := b.String()
		d := &doc.Document{Title: "T", Sub: "S", Sections: []doc.Section{{Title: "Head", Nodes: []doc.Node{
			doc.Para{Line: doc.Of(text)},
			doc.List{Items: []doc.Line{doc.Of(text)}},
			doc.Table{Head: []string{"h"}, Rows: []doc.Row{{Cells: []doc.Cell{{Lines: lines(text)}}}}},
		}}}}
		_, page, _ := written(t, d)
		want := strings.Join(strings.Fields(text), " ")
		assert.Equal(t, strings.Join(strings.Fields("T S Head "+want+" "+want+" h "+want), " "), plain(page), "%q", text)
	}
}

// A guide with one of everything: each kind of node comes out as what it is, in its order.
func TestEachNodeIsWritten(t *testing.T) {
	t.Parallel()
	drawn := doc.Picture{Alt: "the valve", SVG: "<svg/>"}
	photo := doc.Picture{Alt: "its place", Photo: &doc.Photo{Name: "7.jpg", JPEG: []byte("jpeg")}}
	d := &doc.Document{Title: "Gneiss 24", Sub: "Water system", Maker: "Strata", Caution: "Read this first.",
		About: lines("for all units"), Foot: lines("the end"),
		Sections: []doc.Section{
			{Part: "Spring", Title: "Sanitize", Only: "With a filter only", Nodes: []doc.Node{
				doc.Heading{Text: "Before"},
				doc.Caution{Level: "danger", Head: "DANGER", Line: doc.Of("Gas off."), Items: lines("at the bottle")},
				doc.Needs{Lists: []doc.Need{{Title: "To hand", Items: lines("a jug")}}},
				doc.List{Ordered: true, Items: lines("one", "two")},
				doc.Figure{Picture: photo, Below: lines("seen from below")},
				doc.Steps{Boxes: true, Signed: true, List: []doc.Step{{
					Cautions: []doc.Caution{{Head: "NOTE", Line: doc.Of("It drips.")}},
					Do:       doc.Of("Open the tap"), Until: doc.Of("until it runs clear"), Does: lines("hot"),
					Turns: []doc.Turn{{Picture: drawn, Lines: lines("lever up", "across")}},
					Then:  doc.Of("shut it"), Notes: doc.Of("cold first"), Who: doc.Of("the dealer"), Tools: doc.Of("13 mm"),
				}}},
				doc.Prose{Markdown: "As *typed*."},
			}},
			{Part: "Spring", Title: "Figures", Nodes: []doc.Node{doc.Table{Head: []string{"part", "holds\nat most"},
				Rows: []doc.Row{{Cells: []doc.Cell{{Lines: lines("tank"), Picture: &drawn},
					{Lines: lines("43 gal", "163 L"), Items: lines("with its heel")}}}},
				Foot: []doc.Row{{Cells: []doc.Cell{{Lines: lines("all")}}}}}}},
			{Part: "Autumn", Title: "Left", Left: true, Nodes: []doc.Node{doc.Para{Line: doc.Of("out of this edition")}}},
			{Part: "Autumn", Nodes: []doc.Node{doc.Para{Line: doc.Bold("Plate").And(doc.Span{Style: doc.Plate, Text: "A`B"},
				doc.Span{Style: doc.Number, Text: "3"}, doc.Span{Style: doc.Blank, Text: "x"},
				doc.Span{Style: doc.Box, Text: "x"})}}},
		}}
	text, page, pictures := written(t, d)
	at := 0
	for _, want := range []string{"# Gneiss 24\n\nWater system\n\nStrata\n\n> **Read this first.**\n\n- for all units\n\n",
		"*Spring*\n\n## Sanitize\n\n**With a filter only**\n\n### Before\n\n> **DANGER** Gas off.\n\n- at the bottle\n\n",
		"### To hand\n\n- a jug\n\n1. one\n2. two\n\n![its place](pictures/7.jpg)\n\n- seen from below\n\n",
		"> **NOTE** It drips.\n\n1. [ ] Open the tap *until it runs clear*\n   - hot\n   - ![the valve](pictures/",
		"lever up, across\n   - shut it\n   - cold first\n   - the dealer\n   - 13 mm\n\nDone by ________",
		"As *typed*.\n\n## Figures\n\n| part | holds<br>at most |\n| --- | --- |\n| ![the valve](pictures/",
		"<br>tank | 43 gal<br>163 L<br>• with its heel |\n| all |  |\n\n",
		"*Autumn*\n\n**Plate** `A'B`(3) " + strings.Repeat(`\_`, 8) + "[ ] \n\n---\n\nthe end\n\n"} {
		i := strings.Index(text[at:], want)
		require.GreaterOrEqual(t, i, 0, "%q is missing in\n%s", want, text[at:])
		at += i
	}
	assert.NotContains(t, text, "out of this edition")
	assert.Equal(t, 1, strings.Count(text, "*Spring*"), "the part is named once")
	assert.Len(t, pictures.Names, 2, "one drawing and one photograph, each once")
	assert.Equal(t, "jpeg", pictures.Files["7.jpg"])
	assert.Contains(t, pictures.Files, pictures.Names[1])
	assert.Equal(t, "alone <svg/>", pictures.Files[pictures.Names[1]])
	assert.Contains(t, page, "<table>")
}

func lines(texts ...string) (list []doc.Line) {
	for _, t := range texts {
		list = append(list, doc.Of(t))
	}
	return list
}
