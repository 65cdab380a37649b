// Package guides shows the guide of a model as it is read, and where somebody
// writes it with what can be done with each block and sentence.
package guides

import (
	"bytes"
	"cmp"
	"context"
	"fmt"
	"hash/fnv"
	"html/template"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/chapter"
	"coldtap/internal/guide"
	"coldtap/internal/guide/doc"
	"coldtap/internal/guide/html"
	"coldtap/internal/web/site"
)

// View answers the requests of these pages.
type View struct{ *site.Site }

// asked is what a request asks of a guide.
type asked struct {
	Edition chapter.Edition
	May     bool // write it
	Writing bool
	All     bool   // builds together
	address string // where the code on a card leads; "" for what is no card
	alone   bool   // it becomes a file
	photos  []app.Photo
}

// begin finds the request's model and what is asked of its guide; it answers the request where that fails.
func (s View) begin(c *gin.Context) (*site.Computed, asked, bool) {
	b := s.Model(c)
	if b == nil {
		return nil, asked{}, false
	}
	a, ok := s.ask(c, b)
	return b, a, ok
}

// ask reads what a request asks, with the photographs that there are; it answers the request where that fails.
func (s View) ask(c *gin.Context, b *site.Computed) (asked, bool) {
	a := asked{Edition: chapter.Owner}
	if c.Query("edition") == string(chapter.Dealer) {
		a.Edition = chapter.Dealer
	}
	user := site.Who(c)
	a.May = user != nil && user.Role == "author"
	a.All = c.Query("builds") == "all"
	a.Writing = a.May && c.Query("edit") == "yes" && !a.All
	list, err := s.Store.AllPhotos(c, b.Row.Slug)
	if err != nil {
		s.Trouble(c, err)
		return a, false
	}
	a.photos = list
	return a, true
}

// album are the photographs as a guide has them: those that were not taken away, with the parts that this build has.
func (a asked) album(b *site.Computed) (list []chapter.Photo) {
	for _, p := range a.photos {
		if p.RemovedAt != nil {
			continue
		}
		x := chapter.Photo{ID: strconv.FormatUint(p.ID, 10), Caption: p.Caption, Width: p.Width, Height: p.Height}
		for _, m := range p.Marks {
			if part := b.Net.Model.Part(m.Part); part != nil {
				x.Marks = append(x.Marks, chapter.Mark{Part: part, X: m.X, Y: m.Y})
			}
		}
		if len(x.Marks) > 0 || p.Part == "" {
			list = append(list, x)
		}
	}
	return list
}

// seen is the same as long as the photographs are.
func (a asked) seen() string {
	sum := fnv.New64a()
	for _, p := range a.photos {
		fmt.Fprintln(sum, p.ID, p.Caption, p.RemovedAt != nil, p.Marks)
	}
	return strconv.FormatUint(sum.Sum64(), 36)
}

// query is the part of an address that asks the same.
func (a asked) query() string {
	q := "edition=" + string(a.Edition)
	switch {
	case a.Writing:
		return "edit=yes&" + q
	case a.All:
		return "builds=all&" + q
	}
	return q
}

// name tells the guide from others of the same build.
func (a asked) name() string {
	return fmt.Sprintf("guide %s %t %t %t %s", a.Edition, a.May, a.Writing, a.All, a.seen())
}

// inputs are what a guide is drafted from, with the procedures that are at hand; whole waits for them.
func inputs(ctx context.Context, b *site.Computed, a asked, whole bool) (chapter.Inputs, error) {
	in := chapter.Inputs{Inputs: b.Inputs(), Edition: a.Edition, By: b.Doc.Chapter, Tasks: b.TasksNow(b.House),
		Photos: a.album(b)}
	var err error
	if in.Report, err = b.Report(ctx, b.House); err != nil || in.Tasks != nil || !whole {
		return in, err
	}
	in.Tasks, err = b.Tasks(ctx, b.House)
	return in, err
}

// pages is a guide's page in pieces.
type pages struct {
	doc      *doc.Document
	contents string
	pieces   []html.Piece
}

// order are the ids of its blocks.
func (p *pages) order() (ids []string) {
	for _, x := range p.pieces {
		ids = append(ids, x.ID)
	}
	return ids
}

// pages makes the pieces of a guide, once for each state of its model.
func (s View) pages(ctx context.Context, b *site.Computed, a asked) (*pages, error) {
	name := app.GuidePart + a.name() + b.House.Fingerprint() + b.Chosen()
	return app.Of(ctx, b.Build, name, func(ctx context.Context) (*pages, error) {
		d, _, err := s.document(ctx, b, a)
		if err != nil {
			return nil, err
		}
		p := &pages{doc: d}
		p.contents, p.pieces, err = html.Pieces(d, s.options(b, a))
		return p, err
	})
}

// document is the guide of a build, or of all that the options allow, with what the first was drafted from.
func (s View) document(ctx context.Context, b *site.Computed, a asked) (*doc.Document, chapter.Inputs, error) {
	in, err := inputs(ctx, b, a, true)
	if err != nil {
		return nil, in, err
	}
	d, err := guide.New(ctx, in, guide.Options{Writing: a.Writing, With: b.With, Draw: s.draw(b), Photo: s.photo(b, a)})
	if err != nil || !a.All {
		return d, in, err
	}
	var list []guide.Variant
	rules, err := s.Store.HouseRules(ctx)
	if err != nil {
		return nil, in, err
	}
	for _, with := range b.Doc.Builds() {
		other, err := s.Under(ctx, rules, b.Row, b.Rev, cmp.Or(strings.Join(with, ","), "none"))
		if err != nil {
			return nil, in, err
		}
		in, err := inputs(ctx, other, a, true)
		if err != nil {
			return nil, in, err
		}
		d, err := guide.New(ctx, in, guide.Options{With: other.With, Draw: s.draw(other), Photo: s.photo(other, a)})
		if err != nil {
			return nil, in, err
		}
		list = append(list, guide.Variant{With: with, Doc: d})
	}
	return guide.Together(b.Doc, list), in, nil
}

// options are what stands around and beside a guide on its page.
func (s View) options(b *site.Computed, a asked) html.Options {
	if !a.Writing {
		return html.Options{}
	}
	return html.Options{Writing: true, Tools: func(x *doc.Section) (template.HTML, error) {
		var text bytes.Buffer
		t := tools{Section: x, To: b.Link("guide", a.query()),
			Form: b.Link("guide/form", a.query()+"&block="+url.QueryEscape(x.ID)+"&what=")}
		if b.Doc.Chapter != nil {
			t.Limited = !b.Doc.Chapter.Only[x.ID].IsZero()
		}
		err := s.Write(&text, "guidetools", site.Page{Model: b, Body: t})
		return template.HTML(text.String()), err // written by a template of ours
	}}
}

// tools are what can be done with a block.
type tools struct {
	*doc.Section
	To      string // where its forms go
	Form    string // where its larger forms come from
	Limited bool   // it does not hold for all units
}

// Guide is the guide as it is read, or where somebody writes it with what a block can be done with beside it. While
// its procedures are being carried out the rest is there.
func (s View) Guide(c *gin.Context) {
	b, a, ok := s.begin(c)
	if !ok {
		return
	}
	ready := b.TasksNow(b.House) != nil && !a.All
	leaf, err := s.Leaf(c, b.Named(fmt.Sprint(a.name(), ready, b.Row.Revision)), func(to *bytes.Buffer) error {
		return s.write(context.WithoutCancel(c), to, b, a, ready) // others may wait for it
	})
	if err != nil {
		s.Trouble(c, err)
		return
	}
	s.ShowLeaf(c, site.Page{Title: "Guide: " + b.Model.Title(), Model: b, Tab: "guide"}, leaf)
}

// write writes a guide's page.
func (s View) write(ctx context.Context, to *bytes.Buffer, b *site.Computed, a asked, ready bool) error {
	head := headBody{asked: a, Build: b.BuildName(), Slug: b.Row.Slug, From: b.Row.Revision,
		Owner: b.Link("guide", "edition=owner"), Dealer: b.Link("guide", "edition=dealer"),
		One: b.Link("guide", "edition="+string(a.Edition)), Together: b.Link("guide", "builds=all&edition="+string(a.Edition)),
		Options: len(b.Doc.Options) > 0, Other: b.Link("guide/read", "edition="+string(a.Edition)),
		Files: filesOf(b, a), Write: b.Link("guide", "edit=yes&edition="+string(a.Edition)),
		Read: b.Link("guide", "edition="+string(a.Edition))}
	if err := s.Write(to, "guidehead", site.Page{Model: b, Body: head}); err != nil {
		return err
	}
	to.WriteString(`<div id="guide">`)
	defer to.WriteString(`</div>`)
	if ready {
		return s.article(ctx, to, b, a)
	}
	in, err := inputs(ctx, b, a, false)
	if err != nil {
		return err
	}
	d, err := guide.New(ctx, in, guide.Options{Writing: a.Writing, With: b.With, Photo: s.photo(b, a)})
	if err != nil {
		return err
	}
	if a.All { // what stands here is of one build
		d.Sections = nil
	}
	whole := template.HTMLEscapeString(b.Link("guide/whole", a.query()))
	return html.Article(to, d, html.Options{Slot: template.HTML(fmt.Sprintf(`<p class="hint" role="status" hx-get="%s" `+
		`hx-trigger="load" hx-target="#guide" hx-swap="innerHTML">The procedures are being carried out… `+
		`<a href="%[1]s">Open the whole guide</a></p>`, whole))}) // an address of ours
}

// article writes a guide with its procedures.
func (s View) article(ctx context.Context, to *bytes.Buffer, b *site.Computed, a asked) error {
	p, err := s.pages(ctx, b, a)
	if err != nil {
		return err
	}
	return html.Around(to, p.doc, s.options(b, a), p.contents, p.pieces)
}

// headBody is above a guide: its editions, and the way to writing it.
type headBody struct {
	asked
	Build, Slug                string
	From                       uint64
	Owner, Dealer, Write, Read string
	One, Together, Other       string
	Options                    bool // builds differ
	Files                      []fileLink
}

// fileLink leads to a guide as a file.
type fileLink struct{ Name, Href string }

func filesOf(b *site.Computed, a asked) (list []fileLink) {
	add := func(name, kind, more string) {
		list = append(list, fileLink{name, b.Link("guide/file/"+kind, a.query()+more)})
	}
	add("PDF, A4", "pdf", "&paper=A4")
	add("PDF, Letter", "pdf", "&paper=Letter")
	add("A page that stands alone", "html", "")
	add("Markdown with its drawings", "md", "")
	add("DITA topics", "dita", "")
	add("Figures as CSV", "csv", "")
	add("Figures as JSON", "json", "")
	add("Everything in one archive", "zip", "")
	list = append(list, fileLink{"Valve card", b.Link("guide/card/card", "")},
		fileLink{"Quick card", b.Link("guide/card/quick", "")}, fileLink{"Tags to hang up", b.Link("guide/card/tags", "")},
		fileLink{"Figures of all models", "/figures"})
	return list
}

// Whole is the guide with its procedures, which take longer than the rest of it.
func (s View) Whole(c *gin.Context) {
	b, a, ok := s.begin(c)
	if !ok {
		return
	}
	if a.Writing { // what is changed must be what there is
		var text bytes.Buffer
		if err := s.article(c, &text, b, a); err != nil {
			s.Trouble(c, err)
			return
		}
		c.Data(http.StatusOK, "text/html; charset=utf-8", text.Bytes())
		return
	}
	p := site.Page{Title: "Guide: " + b.Model.Title(), Model: b, Tab: "guide"}
	s.ShowSlow(c, p, a.name(), func(ctx context.Context, to *bytes.Buffer) error { return s.article(ctx, to, b, a) })
}

// photo gives photographs: by their address for a page of ours, with their bytes for what stands alone.
func (s View) photo(b *site.Computed, a asked) func(context.Context, string) (*doc.Photo, error) {
	return func(ctx context.Context, id string) (*doc.Photo, error) {
		p := &doc.Photo{Name: "photo-" + id + ".jpg"}
		if !a.alone {
			p.Address = b.Link("photos/"+id+"/image", "")
			return p, nil
		}
		n, err := strconv.ParseUint(id, 10, 64)
		if err != nil {
			return nil, err
		}
		taken, err := s.Store.Photo(ctx, b.Row.Slug, n)
		if err != nil {
			return nil, err
		}
		p.JPEG = taken.Image
		return p, nil
	}
}

// draw draws the schematic of a build as it is in a way of use.
func (s View) draw(b *site.Computed) guide.Draw {
	return func(ctx context.Context, mode string) (string, error) {
		drawn, err := b.Schematic(ctx)
		if err != nil {
			return "", err
		}
		return guide.DrawMode(ctx, b.Inputs(), drawn, mode)
	}
}
