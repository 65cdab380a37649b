package web

import (
	"html/template"
	"net/http"

	"coldtap/internal/app"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/compare"
	"coldtap/internal/core/state"
	"coldtap/internal/drawing"
)

type compareBody struct {
	Models  []app.Model
	A, B    *bench
	Changes []compare.Change
	Figures []compare.Figure
	SVGA    template.HTML
	SVGB    template.HTML
}

// compare shows in what two models or years differ, on the drawing too.
func (s *Server) compare(c *gin.Context) {
	list, err := s.store.Models(c)
	if err != nil {
		s.trouble(c, err)
		return
	}
	body := compareBody{Models: list}
	for _, side := range []struct {
		key string
		to  **bench
	}{{"a", &body.A}, {"b", &body.B}} {
		slug := c.Query(side.key)
		if slug == "" {
			continue
		}
		row, rev, err := s.store.Current(c, slug)
		if err != nil {
			s.notFound(c, "There is no model “"+slug+"” to compare.")
			return
		}
		if *side.to, err = s.worked(c, row, rev, ""); err != nil {
			s.trouble(c, err)
			return
		}
	}
	if body.A != nil && body.B != nil {
		if body.Changes, err = compare.Documents(body.A.Model, body.B.Model); err != nil {
			s.trouble(c, err)
			return
		}
		body.Figures = compare.Figures(body.A.subject(), body.B.subject())
		body.SVGA, body.SVGB = marked(body.A, body.Changes, compare.Gone), marked(body.B, body.Changes, compare.Added)
	}
	s.show(c, http.StatusOK, "compare.html", page{Title: "Compare", Body: body})
}

// marked draws a model with what changed and what only it has.
func marked(b *bench, changes []compare.Change, own string) template.HTML {
	show := drawing.Show{State: state.Normal(b.Net), Mark: map[string]string{}, Title: "Schematic of " + b.Model.Title()}
	for _, c := range changes {
		if c.What == own || c.What == compare.Changed {
			show.Mark[c.ID] = c.What
		}
	}
	return template.HTML(b.Schematic.SVG(show))
}
