package web

import (
	"context"
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
	A, B    *computed
	Changes []compare.Change
	Figures []toldFigure
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
		to  **computed
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
		if body.Figures, body.SVGA, body.SVGB, err = beside(c, body.A, body.B, body.Changes); err != nil {
			s.trouble(c, err)
			return
		}
	}
	s.show(c, http.StatusOK, "compare.html", page{Title: "Compare", Body: body})
}

// beside compares the figures of two builds and draws both with what changed.
func beside(ctx context.Context, a, b *computed,
	changes []compare.Change) (figures []toldFigure, svgA, svgB template.HTML, err error) {
	x, err := a.subject(ctx)
	if err != nil {
		return nil, "", "", err
	}
	y, err := b.subject(ctx)
	if err != nil {
		return nil, "", "", err
	}
	if svgA, err = marked(ctx, a, changes, compare.Gone); err == nil {
		svgB, err = marked(ctx, b, changes, compare.Added)
	}
	return toldFigures(compare.Figures(x, y), a.Sys(), b.Sys()), svgA, svgB, err
}

// marked draws a model with what changed and what only it has.
func marked(ctx context.Context, b *computed, changes []compare.Change, own string) (template.HTML, error) {
	show := drawing.Show{State: state.Normal(b.Net), Mark: map[string]string{},
		Title: "Schematic of " + b.Model.Title()}
	for _, c := range changes {
		if c.What == own || c.What == compare.Changed {
			show.Mark[c.ID] = c.What
		}
	}
	sch, err := b.Schematic(ctx)
	if err != nil {
		return "", err
	}
	return template.HTML(sch.SVG(show)), nil // drawn by us, texts escaped
}
