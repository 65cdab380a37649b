package system

import (
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/compare"
	"coldtap/internal/core/merge"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/web/bench"
	"coldtap/internal/web/site"
)

type historyBody struct {
	frame
	Title   string
	Days    []day
	Pick    string // what a click on the line picks next
	A, B    uint64
	Changes []compare.Change
	Figures []site.ToldFigure
	NameA   string
	NameB   string
	SVGA    template.HTML
	SVGB    template.HTML
	Settled []settled
}

// settled is a change that came too late, and what became of it.
type settled struct {
	app.Held
	Lost []conflict
}

// settledEdits are the changes that came too late and were merged or dropped.
func (s View) settledEdits(c *gin.Context, slug string, rev *app.Revision) (list []settled, err error) {
	held, err := s.Store.SettledEdits(c, slug)
	if err != nil || len(held) == 0 {
		return nil, err
	}
	doc, err := rev.Read()
	if err != nil {
		return nil, err
	}
	for _, h := range held {
		one := settled{Held: h}
		for _, x := range h.Conflicts() {
			one.Lost = append(one.Lost, conflict{x, called(doc, x.Thing, x.ID)})
		}
		list = append(list, one)
	}
	return list, nil
}

// day is the states that were made on one day, by those who made them.
type day struct {
	Date   string
	Groups []stretch
}

// stretch is states that one person made one after the other.
type stretch struct {
	Author string
	States []point
}

// point is a state on the line of time.
type point struct {
	app.Revision
	Link    string // picks it
	Chosen  string // "a" or "b", "" for neither
	Between bool   // it lies between the two that are picked
}

// days groups states by day and person, the newest first.
func (body *historyBody) days(list []app.Revision) {
	for _, r := range list {
		p := point{Revision: r, Link: body.pick(r.Number), Between: body.A < r.Number && r.Number < body.B}
		switch r.Number {
		case body.A:
			p.Chosen = "a"
		case body.B:
			p.Chosen = "b"
		}
		date := r.CreatedAt.Format("Monday, 2 January 2006")
		if n := len(body.Days); n == 0 || body.Days[n-1].Date != date {
			body.Days = append(body.Days, day{Date: date})
		}
		d := &body.Days[len(body.Days)-1]
		if n := len(d.Groups); n == 0 || d.Groups[n-1].Author != r.Author {
			d.Groups = append(d.Groups, stretch{Author: r.Author})
		}
		g := &d.Groups[len(d.Groups)-1]
		g.States = append(g.States, p)
	}
}

// pick is the address that picks a state: the first of two, or the second, in the order
// of time.
func (body *historyBody) pick(number uint64) string {
	a, b := number, uint64(0)
	if body.A > 0 && body.B == 0 && body.A != number {
		a, b = min(body.A, number), max(body.A, number)
	}
	link := fmt.Sprintf("%s/history?a=%d", body.Base, a)
	if b > 0 {
		link += fmt.Sprintf("&b=%d", b)
	}
	return link
}

// Followed tells what followed in figures from the change that made a state.
func (s View) Followed(c *gin.Context) {
	b := s.Model(c)
	if b == nil {
		return
	}
	number, err := strconv.ParseUint(c.Param("number"), 10, 64)
	if err != nil || number < 2 {
		s.NotFound(c, "There is no such state of this model.")
		return
	}
	n := new(notice)
	var states [2]*site.Computed
	for i, at := range []uint64{number - 1, number} {
		rev, err := s.Store.StateOf(c, b.Row.Slug, at)
		if err == nil {
			states[i], err = s.Worked(c, b.Row, rev, "")
		}
		if errors.Is(err, app.ErrNotFound) {
			s.NotFound(c, "There is no such state of this model.")
			return
		}
		if err != nil { // one of them can't be worked out
			s.Show(c, http.StatusOK, "followed", site.Page{Model: b, Body: n})
			return
		}
	}
	if err := n.follow(c, states[0], states[1]); err != nil {
		s.Trouble(c, err)
		return
	}
	s.Show(c, http.StatusOK, "followed", site.Page{Model: b, Body: n})
}

// History lists the states of a model along time, and compares two of them.
func (s View) History(c *gin.Context) {
	row, rev := s.Newest(c, s.Store.Current)
	if row == nil {
		return
	}
	// A state that can't be worked out has a history all the same.
	b, err := s.Worked(c, row, rev, strings.Join(c.QueryArray("with"), ","))
	if err != nil {
		if errors.As(err, new(*app.KeepError)) || c.Err() != nil {
			s.Trouble(c, err)
			return
		}
		b = nil
	}
	list, err := s.Store.Revisions(c, row.Slug)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	body := historyBody{frame: newFrame("history", "", "")}
	body.From, body.Base = row.Revision, "/models/"+url.PathEscape(row.Slug)
	body.A, _ = strconv.ParseUint(c.Query("a"), 10, 64)
	body.B, _ = strconv.ParseUint(c.Query("b"), 10, 64)
	body.days(list)
	if body.Settled, err = s.settledEdits(c, row.Slug, rev); err != nil {
		s.Trouble(c, err)
		return
	}
	switch {
	case body.A == 0 || body.B > 0:
		body.Pick = "the state before"
	default:
		body.Pick = "the state after"
	}
	if body.A > 0 && body.B > 0 {
		if err := s.compareStates(c, row, &body); err != nil {
			if errors.Is(err, app.ErrNotFound) {
				s.NotFound(c, "There is no such state of this model.")
			} else {
				s.Trouble(c, err)
			}
			return
		}
	}
	body.Title = fmt.Sprintf("%s (%d)", row.Name, row.Year)
	s.Show(c, http.StatusOK, "history.html", site.Page{Title: "History: " + body.Title, Model: b, Tab: "system",
		Body: body})
}

func (s View) compareStates(c *gin.Context, row *app.Model, body *historyBody) error {
	var states [2]*site.Computed
	for i, number := range []uint64{body.A, body.B} {
		rev, err := s.Store.StateOf(c, row.Slug, number)
		if err != nil {
			return err
		}
		if states[i], err = s.Worked(c, row, rev, ""); err != nil {
			return err
		}
	}
	a, b := states[0], states[1]
	var err error
	if body.Changes, err = compare.Documents(a.Doc, b.Doc); err != nil {
		return err
	}
	body.NameA, body.NameB = fmt.Sprintf("state %d", body.A), fmt.Sprintf("state %d", body.B)
	body.Figures, body.SVGA, body.SVGB, err = bench.Beside(c, a, b, body.Changes)
	return err
}

// restoreForm makes an earlier state the newest again.
func (s View) RestoreForm(c *gin.Context) (app.Operation, error) {
	number, err := strconv.ParseUint(c.Param("number"), 10, 64)
	if err != nil {
		return nil, errors.New("there is no such state")
	}
	return s.Edits.Restore(c, c.Param("model"), number)
}

type heldBody struct {
	Held      *app.Held
	Base      string
	From      uint64
	Mine      []compare.Change
	Theirs    []compare.Change
	Conflicts []conflict
	Others    string // who changed the model meanwhile
	Taken     []merge.Change
	Cant      string // why they can't be merged
}

// conflict is a value that both changed, and what the thing is called.
type conflict struct {
	merge.Conflict
	Name string
}

// called is what people call a part or a line.
func called(m *plumbing.Model, thing, id string) string {
	if p := m.Part(id); thing == "part" && p != nil {
		return p.Name
	}
	if thing == "line" {
		return "Line " + id
	}
	return m.Title()
}

// Held shows an edit that came too late beside what was changed meanwhile.
func (s View) Held(c *gin.Context) {
	w, b := s.waiting(c)
	if w == nil {
		return
	}
	body := heldBody{Held: w.Held, Base: "/models/" + url.PathEscape(b.Row.Slug), From: b.Row.Revision}
	var err error
	if body.Mine, err = compare.Documents(w.From, w.Mine); err == nil {
		body.Theirs, err = compare.Documents(w.From, b.Doc)
	}
	if err != nil {
		s.Trouble(c, err)
		return
	}
	others, err := s.Store.AuthorsSince(c, b.Row.Slug, w.Base)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	body.Others = names(others)
	if r, err := merge.Merge(w.From, w.Mine, b.Doc); err != nil {
		body.Cant = err.Error()
	} else {
		body.Taken = r.Taken
		for _, x := range r.Conflicts {
			body.Conflicts = append(body.Conflicts, conflict{x, called(w.From, x.Thing, x.ID)})
		}
	}
	s.Show(
		c,
		http.StatusConflict,
		"held.html",
		site.Page{Title: "Two changes at once", Model: b, Tab: "system", Body: body},
	)
}

// names lists people by name.
func names(list []app.By) string {
	var names []string
	for _, by := range list {
		names = append(names, by.Name)
	}
	slices.Sort(names)
	return strings.Join(slices.Compact(names), " and ")
}

// waiting reads the request's held edit; it answers the request and gives nil
// where there is none.
func (s View) waiting(c *gin.Context) (*app.Waiting, *site.Computed) {
	b := s.Model(c)
	if b == nil {
		return nil, nil
	}
	id, err := strconv.ParseUint(c.Param("id"), 10, 64)
	var w *app.Waiting
	if err == nil {
		w, err = s.Edits.Waiting(c, b.Row.Slug, id)
	}
	var number *strconv.NumError
	switch {
	case errors.Is(err, app.ErrNotFound) || errors.As(err, &number):
		s.NotFound(c, "This change does not wait any more: it was merged or dropped.")
		return nil, nil
	case err != nil:
		s.Trouble(c, err)
		return nil, nil
	case w.SettledAt != nil:
		s.NotFound(c, "This change does not wait any more: "+w.SettledBy+" "+w.Outcome+" it. History has what it held.")
		return nil, nil
	case !w.By().Is(site.By(c)):
		s.Show(c, http.StatusForbidden, "message.html", site.Page{Title: "Not yours", Body: site.Say("Not yours",
			"This change waits for "+w.Person+", who alone merges or drops it.")})
		return nil, nil
	}
	return w, b
}

// settle merges what does not collide, or drops a held edit.
func (s View) Settle(c *gin.Context) {
	w, b := s.waiting(c)
	if w == nil {
		return
	}
	back := "/models/" + url.PathEscape(b.Row.Slug)
	if act := c.PostForm("act"); act == "merge" || act == "mine" {
		if err := s.Edits.Merge(c, b.Row.Slug, w, site.By(c), act == "mine"); err != nil {
			back = fmt.Sprintf("%s/held/%d", back, w.ID) // shown anew, against the newest state
		}
		c.Redirect(http.StatusSeeOther, back)
		return
	}
	if err := s.Edits.Drop(c, b.Row.Slug, w, site.By(c)); err != nil {
		s.Trouble(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, back)
}
