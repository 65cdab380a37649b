package system

import (
	"bytes"
	"context"
	"fmt"
	"html/template"
	"net/http"
	"slices"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/chapter"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/guide"
	"coldtap/internal/web/site"
)

// guideTools are beside a block, for who writes the guide.
type guideTools struct {
	guide.Item
	To       string // where its forms go
	From     uint64
	Edition  string
	Mine     bool // a hand wrote it
	HasOwner bool // the owner's edition has it
	First    bool
	Last     bool
}

// edition is the edition that a request asks for, whether who asks may write it, and does.
func edition(c *gin.Context) (e chapter.Edition, may, writing bool) {
	e = chapter.Owner
	if c.Query("edition") == string(chapter.Dealer) {
		e = chapter.Dealer
	}
	user := site.Who(c)
	may = user != nil && user.Role == "author"
	return e, may, may && c.Query("edit") == "yes"
}

// Guide is the guide as it is read, or where somebody writes it with what a block can be done with beside it.
func (s View) Guide(c *gin.Context) {
	b := s.Model(c)
	if b == nil {
		return
	}
	e, may, writing := edition(c)
	name := fmt.Sprintf("guide %s %t %t %d", e, may, writing, b.Row.Revision)
	leaf, err := s.Leaf(c, b.Named(name), func(to *bytes.Buffer) error {
		front, err := guide.NewFront(context.WithoutCancel(c), b.Inputs(), e, writing) // others may wait for it
		if err != nil {
			return err
		}
		front.Slot = template.HTML(fmt.Sprintf(`<div id="g-procedures" hx-get="%s" hx-trigger="load" hx-swap="innerHTML" `+
			`role="status"><p>The procedures are being carried out… <a href="%[1]s">Open them</a></p></div>`,
			template.HTMLEscapeString(b.Link("guide/procedures", "edition="+string(e))))) // an address of ours
		if err := s.guideHead(to, b, e, may, writing); err != nil {
			return err
		}
		if writing {
			if err := s.tools(front, b, e); err != nil {
				return err
			}
		}
		return front.WriteArticle(to)
	})
	if err != nil {
		s.Trouble(c, err)
		return
	}
	s.ShowLeaf(c, site.Page{Title: "Guide: " + b.Model.Title(), Model: b, Tab: "guide"}, leaf)
}

// guideHead is above a guide: its editions, and the way to writing it.
func (s View) guideHead(to *bytes.Buffer, b *site.Computed, e chapter.Edition, may, writing bool) error {
	return s.Write(to, "guidehead", site.Page{Model: b, Body: map[string]any{
		"Owner": b.Link("guide", ""), "Dealer": b.Link("guide", "edition=dealer"), "Edition": string(e),
		"Writing": writing, "May": may,
		"Write": b.Link("guide", "edit=yes&edition="+string(e)), "Read": b.Link("guide", "edition="+string(e)),
		"From": b.Row.Revision, "Slug": b.Row.Slug}})
}

// tools puts what can be done with each block beside it.
func (s View) tools(front *guide.Owner, b *site.Computed, e chapter.Edition) error {
	for i := range front.List {
		x := &front.List[i]
		var text bytes.Buffer
		t := guideTools{Item: *x, To: b.Link("guide", "edition="+string(e)), From: b.Row.Revision, Edition: string(e),
			Mine: x.Written != (plumbing.Prose{}), First: i == 0, Last: i == len(front.List)-1}
		if err := s.Write(&text, "guidetools", site.Page{Model: b, Body: t}); err != nil {
			return err
		}
		x.Tools = template.HTML(text.String()) // written by a template of ours
	}
	return nil
}

// WriteGuide changes what a hand wrote in a guide: a block moved, left out of an edition, a text.
func (s View) WriteGuide(c *gin.Context) {
	b := s.Model(c)
	if b == nil {
		return
	}
	e, _, _ := edition(c)
	list, err := chapter.Draft(c, b.Inputs())
	if err != nil {
		s.Trouble(c, err)
		return
	}
	var change edit.Chapter
	for i := range list {
		change.Blocks = append(change.Blocks, list[i].ID)
	}
	id := c.PostForm("block")
	at := slices.Index(change.Blocks, id)
	near := func(i int) string {
		if i >= 0 && i < len(change.Blocks) {
			return change.Blocks[i]
		}
		return ""
	}
	text := plumbing.Prose{Title: c.PostForm("title"), Text: c.PostForm("text")}
	var op app.Operation
	switch c.PostForm("do") {
	case "up":
		op = func(m *plumbing.Model) (*edit.Done, error) { return change.Move(m, id, near(max(0, at-1))) }
	case "down":
		op = func(m *plumbing.Model) (*edit.Done, error) { return change.Move(m, id, near(at+2)) }
	case "hide", "show":
		hide := c.PostForm("do") == "hide"
		op = func(m *plumbing.Model) (*edit.Done, error) { return change.Hide(m, id, string(e), hide) }
	case "write":
		op = func(m *plumbing.Model) (*edit.Done, error) { return change.Write(m, id, "", text) }
	case "rewrite":
		op = func(m *plumbing.Model) (*edit.Done, error) { return change.Write(m, "", id, text) }
	default:
		op = func(*plumbing.Model) (*edit.Done, error) {
			return nil, &edit.FaultError{Faults: []plumbing.Fault{{Path: "Guide",
				Why: "the form does not say what to do; load the page again"}}}
		}
	}
	s.Carry(c, op, b.Link("guide", "edit=yes&edition="+string(e))+"#b-"+id)
}

// GuideProcedures are the procedures of an edition, which take longer than the rest of it.
func (s View) GuideProcedures(c *gin.Context) {
	b := s.Model(c)
	if b == nil {
		return
	}
	e, _, _ := edition(c)
	s.ShowSlow(c, b, "guide procedures "+string(e), func(ctx context.Context, to *bytes.Buffer) error {
		list, err := guide.NewProcedures(ctx, b.Inputs(), e)
		if err != nil {
			return err
		}
		return list.WriteProcedures(to)
	})
}

// File is the model file.
func (s View) File(c *gin.Context) {
	_, rev := s.Newest(c, s.Store.Current)
	if rev == nil {
		return
	}
	site.Download(c, "application/json", c.Param("model")+".json")
	c.Data(http.StatusOK, "application/json", []byte(rev.Document))
}
