package procedures

import (
	"net/http"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/proof"
	"coldtap/internal/web/site"
)

// rangesBody is a procedure in the corners of what a unit and a site may be like.
type rangesBody struct{ Corners []cornerRow }

type cornerRow struct {
	Name  string
	Wrong []string
}

// Ranges is what a procedure breaks where the tank is low, the supply weak, or the camper off level.
func (s View) Ranges(c *gin.Context) {
	s.lookInto(c, "ranges", func(b *site.Computed, p *proof.Procedure, pr *proof.Proof) (any, error) {
		list, err := proof.InRanges(c, b.Net, p, pr)
		return rangesBody{corners(b, list)}, err
	})
}

// lookInto shows what more is worked out of a procedure that was carried out.
func (s View) lookInto(c *gin.Context, name string,
	work func(*site.Computed, *proof.Procedure, *proof.Proof) (any, error)) {
	b := s.Model(c)
	if b == nil {
		return
	}
	end := s.Turn(c)
	defer end()
	d, ok := s.find(c, b)
	if !ok {
		return
	}
	if d.Procedure == nil {
		s.NotFound(c, "This model can't have that procedure.")
		return
	}
	p, pr := carriedOut(c, b, d)
	if pr == nil {
		s.Trouble(c, c.Err())
		return
	}
	body, err := work(b, p, pr)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	s.Show(c, http.StatusOK, name, site.Page{Model: b, Body: body})
}

// corners tell of each corner what breaks in it.
func corners(b *site.Computed, list []proof.Ranged) (rows []cornerRow) {
	for _, r := range list {
		row := cornerRow{Name: b.Words().Tell(r.Said)}
		for _, x := range r.Breaches {
			row.Wrong = append(row.Wrong, b.Words().Tell(x.Said))
		}
		rows = append(rows, row)
	}
	return rows
}
