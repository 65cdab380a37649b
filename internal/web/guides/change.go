package guides

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/chapter"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/guide/html"
	"coldtap/internal/web/site"
	"coldtap/internal/web/system"
)

// Change changes what a hand wrote in a guide: a block moved, left out of an edition, a text, a sentence, a figure.
func (s View) Change(c *gin.Context) {
	b, a, ok := s.begin(c)
	if !ok {
		return
	}
	a.Writing = a.May
	before, err := s.pages(c, b, a)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	op, wrong := s.operation(c, b, a, before.order())
	if wrong != nil {
		op = func(*plumbing.Model) (*edit.Done, error) { return nil, wrong }
	}
	id := c.PostForm("block")
	if c.GetHeader("HX-Request") == "" {
		system.View{Site: s.Site}.Carry(c, op, b.Link("guide", a.query())+"#b-"+id)
		return
	}
	from, err := strconv.ParseUint(c.PostForm("from"), 10, 64)
	if err != nil {
		from = b.Row.Revision
	}
	done, err := s.Edits.Change(c, c.Param("model"), from, site.By(c), op)
	if err != nil {
		s.refused(c, err)
		return
	}
	s.answer(c, b, a, before, done)
}

// answer sends what is other in the guide after a change, and nothing else.
func (s View) answer(c *gin.Context, b *site.Computed, a asked, before *pages, done *app.Changed) {
	rules, err := s.Store.HouseRules(c)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	with := strings.Join(c.QueryArray("with"), ",")
	if _, err := s.Builds.After(c, done.Row.Slug, done, with); err != nil {
		s.Trouble(c, err)
		return
	}
	after, err := s.Under(c, rules, done.Row, done.After, with)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	now, err := s.pages(c, after, a)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	var text bytes.Buffer
	others := ""
	if len(done.Others) > 0 {
		others = "taken together with what others changed meanwhile"
	}
	err = s.Write(&text, "guidesaid", site.Page{Model: after, Body: map[string]any{"Words": done.Words, "Others": others,
		"Revision": done.Row.Revision}})
	if err != nil {
		s.Trouble(c, err)
		return
	}
	changed(&text, before, now)
	if at := c.PostForm("focus"); at != "" {
		if to, err := json.Marshal(map[string]string{"guide-focus": at}); err == nil {
			c.Header("HX-Trigger-After-Settle", string(to))
		}
	}
	c.Header("HX-Reswap", "none")
	c.Data(http.StatusOK, "text/html; charset=utf-8", text.Bytes())
}

// changed writes what leads from the pieces of one page to those of another: pieces taken out, put in, in another
// place or other in themselves.
func changed(to *bytes.Buffer, before, now *pages) {
	if before.contents != now.contents {
		to.WriteString(strings.Replace(now.contents, "<nav ", `<nav hx-swap-oob="outerHTML" `, 1))
	}
	is := map[string]string{}
	for _, p := range before.pieces {
		is[p.ID] = p.HTML
	}
	order := before.order()
	take := func(i int) {
		fmt.Fprintf(to, `<div hx-swap-oob="delete:#b-%s"></div>`, order[i])
		order = slices.Delete(order, i, i+1)
	}
	has := map[string]bool{}
	for _, p := range now.pieces {
		has[p.ID] = true
	}
	for i := len(order) - 1; i >= 0; i-- {
		if !has[order[i]] {
			take(i)
		}
	}
	for i, p := range now.pieces {
		if i+1 < len(order) && order[i] != p.ID && order[i+1] == p.ID {
			take(i) // it went further down
		}
		if i < len(order) && order[i] == p.ID {
			if old, there := is[p.ID]; there && old != p.HTML {
				fmt.Fprintf(to, `<div hx-swap-oob="outerHTML:#b-%s"%s`, p.ID, strings.TrimPrefix(p.HTML, "<div"))
			}
			continue
		}
		if k := slices.Index(order, p.ID); k >= 0 {
			take(k)
		}
		put(to, now.pieces, i, order)
		order = slices.Insert(order, min(i, len(order)), p.ID)
	}
}

// put writes a piece where it stands now: behind the one before it, or before the first.
func put(to *bytes.Buffer, list []html.Piece, i int, order []string) {
	switch {
	case i > 0:
		fmt.Fprintf(to, `<div hx-swap-oob="afterend:#b-%s">%s</div>`, list[i-1].ID, list[i].HTML)
	case len(order) > 0:
		fmt.Fprintf(to, `<div hx-swap-oob="beforebegin:#b-%s">%s</div>`, order[0], list[i].HTML)
	}
}

// refused says beside the guide why nothing was changed; what was typed stays as it is.
func (s View) refused(c *gin.Context, err error) {
	var fe *edit.FaultError
	var held app.HeldError
	var why []string
	switch {
	case errors.As(err, &fe):
		for _, f := range fe.Faults {
			why = append(why, strings.TrimPrefix(f.Path+": ", ": ")+strings.TrimSuffix(f.Why, ".")+".")
		}
	case errors.As(err, &held):
		s.EditHeld()
		c.Header("HX-Redirect", fmt.Sprintf("/models/%s/held/%d", c.Param("model"), held.ID))
		c.Status(http.StatusOK)
		return
	case errors.As(err, new(*app.KeepError)):
		s.Trouble(c, err)
		return
	default:
		why = []string{site.UpperFirst(site.Words(err)) + "."}
	}
	var text bytes.Buffer
	if err := s.Write(&text, "guiderefused", site.Page{Body: why}); err != nil {
		s.Trouble(c, err)
		return
	}
	c.Header("HX-Retarget", "#guide-said")
	c.Header("HX-Reswap", "innerHTML")
	c.Data(http.StatusUnprocessableEntity, "text/html; charset=utf-8", text.Bytes())
}

// operation is what a form asks to be done.
func (s View) operation(c *gin.Context, b *site.Computed, a asked, order []string) (app.Operation, error) {
	change := edit.Chapter{Blocks: order}
	id := c.PostForm("block")
	at := slices.Index(order, id)
	near := func(i int) string {
		if i >= 0 && i < len(order) {
			return order[i]
		}
		return ""
	}
	move := func(before string) app.Operation {
		return func(m *plumbing.Model) (*edit.Done, error) { return change.Move(m, id, before) }
	}
	text := plumbing.Prose{Title: c.PostForm("title"), Text: c.PostForm("text"), Mode: c.PostForm("mode"),
		Photo: c.PostForm("photo")}
	switch do := c.PostForm("do"); do {
	case "up":
		return move(near(max(0, at-1))), nil
	case "down":
		return move(near(at + 2)), nil
	case "before":
		return move(c.PostForm("before")), nil
	case "hide", "show":
		return func(m *plumbing.Model) (*edit.Done, error) {
			return change.Hide(m, id, string(a.Edition), do == "hide")
		}, nil
	case "write", "rewrite":
		if err := s.known(c, b, a, text.Text); err != nil {
			return nil, err
		}
		if do == "write" {
			return func(m *plumbing.Model) (*edit.Done, error) { return change.Write(m, id, "", text) }, nil
		}
		return func(m *plumbing.Model) (*edit.Done, error) { return change.Write(m, "", id, text) }, nil
	case "restrict":
		to := plumbing.Condition{FromSerial: c.PostForm("from-serial"), ToSerial: c.PostForm("to-serial")}
		for _, o := range b.Doc.Options {
			switch c.PostForm("option." + o.ID) {
			case "with":
				to.With = append(to.With, o.ID)
			case "without":
				to.Without = append(to.Without, o.ID)
			}
		}
		return func(m *plumbing.Model) (*edit.Done, error) { return change.Restrict(m, id, to) }, nil
	case "take":
		return s.take(c, b, a, change)
	case "reword", "reword-back":
		return s.reword(c, b, a, change)
	case "figure", "figure-back":
		return s.setFigure(c, b, a, change)
	}
	return nil, faulty("Guide", "the form does not say what to do; load the page again")
}

func faulty(path, why string) error {
	return &edit.FaultError{Faults: []plumbing.Fault{{Path: path, Why: why}}}
}

// known refuses a text that stands for something that the model has not.
func (s View) known(c *gin.Context, b *site.Computed, a asked, text string) error {
	in, err := inputs(c, b, a, false)
	if err != nil {
		return err
	}
	for _, p := range chapter.Pieces(text) {
		if p.Ref != "" && in.Live(p.Ref).IsZero() {
			return faulty("Text", fmt.Sprintf("this model has nothing that [[%s]] stands for; choose from the list "+
				"below the text", p.Ref))
		}
	}
	return nil
}
