package bench

import (
	"context"
	"html/template"
	"net/http"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/compare"
	"coldtap/internal/core/state"
	"coldtap/internal/drawing"
	"coldtap/internal/web/site"
)

type compareBody struct {
	Models  []app.Model
	A, B    *site.Computed
	Changes []compare.Change
	Figures []site.ToldFigure
	SVGA    template.HTML
	SVGB    template.HTML
}

// compare shows in what two models or years differ, on the drawing too.
func (s View) Compare(c *gin.Context) {
	list, err := s.Store.Models(c)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	body := compareBody{Models: list}
	for _, side := range []struct {
		key string
		to  **site.Computed
	}{{"a", &body.A}, {"b", &body.B}} {
		slug := c.Query(side.key)
		if slug == "" {
			continue
		}
		row, rev, err := s.Store.Current(c, slug)
		if err != nil {
			s.NotFound(c, "There is no model “"+slug+"” to compare.")
			return
		}
		if *side.to, err = s.Worked(c, row, rev, ""); err != nil {
			s.Trouble(c, err)
			return
		}
	}
	if body.A != nil && body.B != nil {
		if body.Changes, err = compare.Documents(body.A.Model, body.B.Model); err != nil {
			s.Trouble(c, err)
			return
		}
		if body.Figures, body.SVGA, body.SVGB, err = Beside(c, body.A, body.B, body.Changes); err != nil {
			s.Trouble(c, err)
			return
		}
	}
	s.Show(c, http.StatusOK, "compare.html", site.Page{Title: "Compare", Body: body})
}

// Beside compares the figures of two builds and draws both with what changed.
func Beside(ctx context.Context, a, b *site.Computed,
	changes []compare.Change) (figures []site.ToldFigure, svgA, svgB template.HTML, err error) {
	x, err := a.Subject(ctx)
	if err != nil {
		return nil, "", "", err
	}
	y, err := b.Subject(ctx)
	if err != nil {
		return nil, "", "", err
	}
	if svgA, err = marked(ctx, a, changes, compare.Gone); err == nil {
		svgB, err = marked(ctx, b, changes, compare.Added)
	}
	return site.ToldFigures(compare.Figures(x, y), a.Sys(), b.Sys()), svgA, svgB, err
}

// marked draws a model with what changed and what only it has.
func marked(ctx context.Context, b *site.Computed, changes []compare.Change, own string) (template.HTML, error) {
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
