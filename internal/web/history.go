package web

import (
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"coldtap/internal/app"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/compare"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/merge"
	"coldtap/internal/core/plumbing"
)

type historyBody struct {
	Revisions []app.Revision
	From      uint64
	Base      string
	A, B      uint64
	Changes   []compare.Change
	Figures   []compare.Figure
	NameA     string
	NameB     string
	SVGA      template.HTML
	SVGB      template.HTML
}

// history lists the states of a model, and compares two of them.
func (s *Server) history(c *gin.Context) {
	b := s.model(c)
	if b == nil {
		return
	}
	list, err := s.store.Revisions(c, b.Row.Slug)
	if err != nil {
		s.trouble(c, err)
		return
	}
	body := historyBody{Revisions: list, From: b.Row.Revision, Base: "/models/" + url.PathEscape(b.Row.Slug)}
	body.A, _ = strconv.ParseUint(c.Query("a"), 10, 64)
	body.B, _ = strconv.ParseUint(c.Query("b"), 10, 64)
	if body.A > 0 && body.B > 0 {
		if err := s.compareStates(c, b.Row, &body); err != nil {
			if errors.Is(err, app.ErrNotFound) {
				s.notFound(c, "There is no such state of this model.")
			} else {
				s.trouble(c, err)
			}
			return
		}
	}
	s.show(c, http.StatusOK, "history.html", page{Title: "History: " + b.Model.Title(), Model: b, Tab: "system", Body: body})
}

func (s *Server) compareStates(c *gin.Context, row *app.Model, body *historyBody) error {
	var benches [2]*bench
	for i, number := range []uint64{body.A, body.B} {
		rev, err := s.store.Numbered(c, row.Slug, number)
		if err != nil {
			return err
		}
		if benches[i], err = newBench(c, row, rev, benches[0], func(m *plumbing.Model) []string { return m.StandardOptions() }); err != nil {
			return err
		}
		if benches[i], err = s.house(c, benches[i]); err != nil {
			return err
		}
	}
	a, b := benches[0], benches[1]
	var err error
	if body.Changes, err = compare.Documents(a.Doc, b.Doc); err != nil {
		return err
	}
	body.Figures = compare.Figures(a.subject(), b.subject())
	body.NameA, body.NameB = fmt.Sprintf("state %d", body.A), fmt.Sprintf("state %d", body.B)
	body.SVGA, body.SVGB = marked(a, body.Changes, compare.Gone), marked(b, body.Changes, compare.Added)
	return nil
}

// restoreForm makes an earlier state the newest again.
func (s *Server) restoreForm(c *gin.Context) (operation, error) {
	number, err := strconv.ParseUint(c.Param("number"), 10, 64)
	if err != nil {
		return nil, errors.New("there is no such state")
	}
	rev, err := s.store.Numbered(c, c.Param("model"), number)
	if err != nil {
		return nil, err
	}
	doc, err := rev.Read()
	if err != nil {
		return nil, err
	}
	return func(*plumbing.Model) (*edit.Done, error) {
		return &edit.Done{Model: doc, Words: fmt.Sprintf("restored state %d", number)}, nil
	}, nil
}

type heldBody struct {
	Held      *app.Held
	Base      string
	From      uint64
	Mine      []compare.Change
	Theirs    []compare.Change
	Conflicts []merge.Conflict
	Taken     []merge.Change
	Cant      string // why they can't be merged
}

// held shows an edit that came too late beside what was changed meanwhile.
func (s *Server) held(c *gin.Context) {
	h, base, mine, b := s.heldEdit(c)
	if h == nil {
		return
	}
	body := heldBody{Held: h, Base: "/models/" + url.PathEscape(b.Row.Slug), From: b.Row.Revision}
	var err error
	if body.Mine, err = compare.Documents(base, mine); err == nil {
		body.Theirs, err = compare.Documents(base, b.Doc)
	}
	if err != nil {
		s.trouble(c, err)
		return
	}
	if r, err := merge.Merge(base, mine, b.Doc); err != nil {
		body.Cant = err.Error()
	} else {
		body.Conflicts, body.Taken = r.Conflicts, r.Taken
	}
	s.show(c, http.StatusConflict, "held.html", page{Title: "Two changes at once", Model: b, Tab: "system", Body: body})
}

// heldEdit reads a held edit with the state it started from; it answers the
// request and gives nil where there is none.
func (s *Server) heldEdit(c *gin.Context) (h *app.Held, base, mine *plumbing.Model, b *bench) {
	if b = s.model(c); b == nil {
		return nil, nil, nil, nil
	}
	id, err := strconv.ParseUint(c.Param("id"), 10, 64)
	if err == nil {
		h, err = s.store.HeldEdit(c, b.Row.Slug, id)
	}
	var rev *app.Revision
	if err == nil {
		rev, err = s.store.Numbered(c, b.Row.Slug, h.Base)
	}
	if err == nil {
		base, err = rev.Read()
	}
	if err == nil {
		mine, err = plumbing.Read(strings.NewReader(h.Document))
	}
	var number *strconv.NumError
	switch {
	case errors.Is(err, app.ErrNotFound) || errors.As(err, &number):
		s.notFound(c, "This change does not wait any more: it was merged or dropped.")
		return nil, nil, nil, nil
	case err != nil:
		s.trouble(c, err)
		return nil, nil, nil, nil
	}
	return h, base, mine, b
}

// settle merges what does not collide, or drops a held edit.
func (s *Server) settle(c *gin.Context) {
	h, base, mine, b := s.heldEdit(c)
	if h == nil {
		return
	}
	back := "/models/" + url.PathEscape(b.Row.Slug)
	if c.PostForm("act") == "merge" {
		r, err := merge.Merge(base, mine, b.Doc)
		if err == nil && len(r.Taken) > 0 {
			words := h.Reason + " (merged)"
			_, err = s.store.Save(c, r.Model, b.Row.Revision, who(c).Name, words)
		}
		if err != nil {
			c.Redirect(http.StatusSeeOther, fmt.Sprintf("%s/held/%d", back, h.ID)) // shown anew, against the newest state
			return
		}
	}
	if err := s.store.Release(c, h.ID); err != nil {
		s.trouble(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, back)
}
