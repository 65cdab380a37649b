package settings

import (
	"cmp"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
	"coldtap/internal/web/site"
)

// cardColumn is a setting and every mode that it serves.
type cardColumn struct {
	Links   []modeTab
	answers []*setting.Answer // of its modes; the first is that of the setting
}

// cardRow is a handle and how it stands in each column.
type cardRow struct {
	Part   *plumbing.Part
	Number int
	Cells  []cardCell
}

type cardCell struct {
	Position string
	Either   bool
	Changed  bool // from everyday
}

type cardBody struct {
	View    string
	Columns []cardColumn
	Rows    []cardRow
	Notes   []string
	Left    []modeTab // modes without a setting, and why
}

// newCard gathers the modes that share a setting into columns. Rows are the
// handles that stand otherwise in some column; the others are left out.
func newCard(b *site.Computed) cardBody {
	var body cardBody
	at := map[string]int{}
	plan := setting.Unroll(b.Plan)
	for i := range plan {
		a := &plan[i]
		id, _, _ := strings.Cut(a.Mode.ID, "/")
		tab := modeTab{ID: id, Name: b.Words().Tell(a.Mode.Name), link: link{Href: b.Link("settings", "mode="+id)},
			Why: b.Words().Tell(a.Why), OK: a.OK}
		switch {
		case a.Mode.Measure:
		case !a.OK && a.Kept == nil && !(a.Mode.Drains && a.Has()):
			body.Left = append(body.Left, tab)
		case a.SameAs != "":
			c := &body.Columns[at[a.SameAs]]
			c.answers, c.Links = append(c.answers, a), append(c.Links, tab)
		default:
			at[a.Mode.ID] = len(body.Columns)
			body.Columns = append(body.Columns, cardColumn{[]modeTab{tab}, []*setting.Answer{a}})
		}
	}
	for i, h := range b.Net.AllHandles() {
		row := cardRow{Part: h.Part, Number: b.Number(h.Part.ID)}
		moves := false
		for _, c := range body.Columns {
			cell := cardCell{Position: h.Positions[c.answers[0].State.Position(i)],
				Either: slices.Contains(c.answers[0].Either, i)}
			cell.Changed = c.answers[0].State.Handles[i] != body.Columns[0].answers[0].State.Handles[i]
			moves = moves || cell.Changed
			row.Cells = append(row.Cells, cell)
		}
		if !moves {
			continue
		}
		body.Rows = append(body.Rows, row)
		for _, m := range b.Net.Motors(h) {
			note := m.Name + " does not move when the battery is flat"
			if m.Tool != "" {
				note += ": turn it with the " + m.Tool
			}
			body.Notes = append(body.Notes, note+".")
		}
	}
	for _, c := range body.Columns {
		for i, a := range c.answers {
			if a.Kept != nil {
				body.Notes = append(body.Notes, fmt.Sprintf("%s: set by hand, %s: %s.", c.Links[i].Name, a.Kept.By,
					strings.TrimRight(a.Kept.Reason, ".")))
			}
		}
	}
	findings := b.Findings
	for _, d := range b.Accepted { // the reader is told all the same
		findings = append(slices.Clip(findings), d.Finding)
	}
	for _, f := range findings {
		if f.Code == "label-misleads" {
			body.Notes = append(body.Notes, b.Told(f).Words)
		}
	}
	// What is set day by day before what is opened once a year.
	everyday := setting.ByID(setting.Modes(b.Net), setting.Everyday)
	slices.SortStableFunc(body.Rows, func(x, y cardRow) int {
		return cmp.Compare(yearly(b, everyday, x.Part), yearly(b, everyday, y.Part))
	})
	return body
}

// Matrix is all positions of all ways of use.
func (s View) Matrix(c *gin.Context) {
	b := s.Model(c)
	if b == nil {
		return
	}
	body := newCard(b)
	body.View = "matrix"
	s.Show(c, http.StatusOK, "matrix.html", site.Page{Title: "Valve positions: " + b.Model.Title(), Model: b, Tab: "settings",
		Body: body})
}

// yearly is 1 for a handle that everyday use never turns, 0 for the others.
func yearly(b *site.Computed, everyday *setting.Mode, p *plumbing.Part) int {
	if _, fixed := everyday.Fixed[b.Net.HandleOf(p.ID)]; fixed {
		return 1
	}
	return 0
}
