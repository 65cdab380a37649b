package system

import (
	"cmp"
	"html/template"
	"net/http"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/drawing"
	"coldtap/internal/web/site"
)

type layoutBody struct {
	Plan, Side template.HTML
	Groups     []placeGroup
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
	body := layoutBody{Plan: template.HTML(l.Plan(chosen)), Side: template.HTML(l.Side(chosen)),
		Stretch: drawing.Stretch, Notice: n, Chosen: b.Model.Part(chosen)}
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
	s.Show(c, status, name, site.Page{Title: "Layout: " + b.Model.Title(), Model: b, Tab: "layout", Body: body})
}
