package guides

import (
	"cmp"
	"net/http"
	"slices"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/web/site"
)

// formBody is a form for a block: a text after it or in its place, or for which units it holds.
type formBody struct {
	ID, What string
	From     uint64
	To       string // where it goes
	Preview  string
	Text     plumbing.Prose // of a hand's own
	Only     plumbing.Condition
	Options  []optionChoice
	Modes    []choice // in which the schematic can be drawn
	Photos   []choice
	Refs     []refChoice
}

// refChoice is something that a text can have in it that follows the model.
type refChoice struct{ ID, Name, Is string }

// optionChoice is an option that a block can be said to hold with, or without.
type optionChoice struct {
	choice
	With, Without bool
}

// choice is something to choose.
type choice struct{ ID, Name string }

// Form is a form for a block, fetched when it is opened.
func (s View) Form(c *gin.Context) {
	b, a, ok := s.begin(c)
	if !ok {
		return
	}
	a.Writing = true
	body := formBody{ID: c.Query("block"), What: c.Query("what"), From: b.Row.Revision, To: b.Link("guide", a.query()),
		Preview: b.Link("guide/preview", a.query())}
	if !slices.Contains([]string{"write", "rewrite", "restrict"}, body.What) {
		s.NotFound(c, "There is no such form.")
		return
	}
	if w := b.Doc.Chapter; w != nil {
		if body.Only = w.Only[body.ID]; body.What == "rewrite" {
			body.Text = w.Prose[body.ID]
		}
	}
	for _, o := range b.Doc.Options {
		body.Options = append(body.Options, optionChoice{choice{o.ID, o.Name}, slices.Contains(body.Only.With, o.ID),
			slices.Contains(body.Only.Without, o.ID)})
	}
	tell := b.Words()
	for i := range b.Plan {
		if p := &b.Plan[i]; p.Has() && !p.Mode.Measure {
			body.Modes = append(body.Modes, choice{p.Mode.ID, tell.Tell(p.Mode.Name)})
		}
	}
	for _, p := range a.album(b) {
		body.Photos = append(body.Photos, choice{p.ID, cmp.Or(p.Caption, "photograph "+p.ID)})
	}
	in, err := inputs(c, b, a, false)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	for _, r := range in.AllRefs() {
		body.Refs = append(body.Refs, refChoice{r.ID, tell.Tell(r.Name), tell.Tell(r.Is)})
	}
	name := "guideform.html"
	if c.GetHeader("HX-Request") != "" {
		name = "guideform"
	}
	s.Show(c, http.StatusOK, name, site.Page{Title: "Guide: " + b.Model.Title(), Model: b, Tab: "guide", Body: body})
}
