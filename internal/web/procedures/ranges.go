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
	b := s.Model(c)
	if b == nil {
		return
	}
	end := s.Turn(c)
	d, ok := s.find(c, b)
	if !ok || d.Procedure == nil {
		end()
		if ok {
			s.NotFound(c, "This model can't have that procedure.")
		}
		return
	}
	p, pr := carriedOut(c, b, d)
	var list []proof.Ranged
	err := c.Err()
	if pr != nil {
		list, err = proof.InRanges(c, b.Net, p, pr)
	}
	end()
	if err != nil {
		s.Trouble(c, err)
		return
	}
	s.Show(c, http.StatusOK, "ranges", site.Page{Model: b, Body: rangesBody{corners(b, list)}})
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
