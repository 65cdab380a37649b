package system

import (
	"cmp"
	"html/template"
	"net/http"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/drawing"
	"coldtap/internal/people"
	"coldtap/internal/web/site"
)

type layoutBody struct {
	frame
	Plan, Side template.HTML
	Groups     []placeGroup
	Unplaced   []placeRow // parts whose place nobody gave
	Inputs     []input    // of the chosen part's place
	Stretch    float64
	Notice     *notice
	Chosen     *plumbing.Part
}

// placeGroup is what stands behind one panel or is reached from one place.
type placeGroup struct {
	Reach, Behind string
	Places        []placeRow
}

type placeRow struct {
	drawing.Place
	Link   string
	Chosen bool
}

// rail says what the rail of the layout shows.
func (body *layoutBody) rail(b *site.Computed, typed map[string]string) {
	body.Grip = "Where things are"
	if p := b.Doc.Part(body.ChosenID); p != nil && body.Chosen != nil {
		f := &form{What: "part", ID: p.ID, Assumed: p.Assumed,
			Groups: []group{{Inputs: placeInputs(p, "above "+b.Model.Vehicle().Datum)}}}
		f.fill(b.Doc, edit.OfPart, typed)
		body.Inputs, body.Grip = f.Groups[0].Inputs, p.Name
		body.Tabs = append(body.Tabs, site.Pane{ID: "place", Name: "Place"})
	}
	if len(body.Unplaced) > 0 {
		body.Tabs = append(body.Tabs, site.Pane{ID: "tray", Name: "Not placed", Count: len(body.Unplaced)})
	}
	body.Tabs = append(body.Tabs, site.Pane{ID: "where", Name: "Where things are"})
}

// Layout is where everything is.
func (s View) Layout(c *gin.Context) { s.showLayout(c, http.StatusOK, "layout.html", nil) }

func (s View) showLayout(c *gin.Context, status int, name string, n *notice) {
	b := s.Model(c)
	if b == nil {
		return
	}
	chosen := c.Query("part")
	if v := c.PostForm("part"); v != "" {
		chosen = v
	}
	l := drawing.NewLayout(b.Model)
	body := layoutBody{frame: newFrame("layout", "#layoutboard", chosen), Plan: template.HTML(l.Plan(chosen)),
		Side: template.HTML(l.Side(chosen)), Stretch: drawing.Stretch, Notice: n, Chosen: b.Model.Part(chosen)}
	body.Back = "layout"
	if site.Who(c).Role == people.Author {
		if err := s.steps(c, b, &body.frame); err != nil {
			s.Trouble(c, err)
			return
		}
	}
	for _, p := range l.Places() {
		reach, behind := cmp.Or(p.Part.Place.Reach, "how to reach it is not described"), p.Part.Place.Behind
		if key := p.Part.Place.Key; key != "" {
			behind = strings.TrimPrefix(behind+", key: "+key, ", ")
		}
		i := slices.IndexFunc(body.Groups, func(g placeGroup) bool { return g.Reach == reach && g.Behind == behind })
		if i < 0 {
			i = len(body.Groups)
			body.Groups = append(body.Groups, placeGroup{Reach: reach, Behind: behind})
		}
		body.Groups[i].Places = append(body.Groups[i].Places, placeRow{p, b.Link("layout", "part="+p.Part.ID),
			p.Part.ID == chosen})
	}
	for _, p := range drawing.Unplaced(b.Model) {
		body.Unplaced = append(body.Unplaced, placeRow{p, b.Link("layout", "part="+p.Part.ID), p.Part.ID == chosen})
	}
	var typed map[string]string
	if n.refused() {
		var err error
		if typed, err = fieldsOf(c); err != nil {
			s.Trouble(c, err)
			return
		}
	}
	body.rail(b, typed)
	s.Show(
		c,
		status,
		name,
		site.Page{Title: "Layout: " + b.Model.Title(), Model: b, Tab: "layout", Framed: "rail", Body: body},
	)
}
