package web

import (
	"fmt"
	"log/slog"
	"net/http"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/compare"
	"coldtap/internal/core/finding"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/spreadsheet"
)

// benchRow is a model in the list.
type benchRow struct {
	Slug, Name, Kind        string
	Year                    int
	Tank, Lines, Antifreeze string
	Modes                   string // how many of the modes have a setting
	Errors, Warnings, Notes int
	Trouble                 string // why nothing could be computed
	Found                   []foundThing
}

// foundThing is a part or line that a search hit, with its words.
type foundThing struct{ Name, Words, Link string }

type benchBody struct {
	Query string
	Rows  []benchRow
	Parts int // things hit in all
	Total int // models there are
}

func (s *Server) bench(c *gin.Context) {
	list, err := s.store.Models(c)
	if err != nil {
		s.trouble(c, err)
		return
	}
	body := benchBody{Query: strings.TrimSpace(c.Query("q")), Total: len(list)}
	for i := range list {
		row, rev, err := s.store.Current(c, list[i].Slug)
		if err != nil {
			s.trouble(c, err)
			return
		}
		r := benchRow{Slug: row.Slug, Name: row.Name, Kind: row.Kind, Year: row.Year}
		b, err := s.worked(c, row, rev, "")
		if err != nil {
			r.Trouble = "Nothing can be worked out: " + err.Error()
		} else {
			r.fill(b)
			r.search(b, body.Query)
		}
		own := matches(body.Query, r.Name, r.Kind, fmt.Sprint(r.Year))
		if body.Query == "" || own || len(r.Found) > 0 {
			body.Rows = append(body.Rows, r)
			body.Parts += len(r.Found)
		}
	}
	name := "bench.html"
	if c.GetHeader("HX-Request") != "" {
		name = "models"
	}
	s.show(c, http.StatusOK, name, page{Title: "Bench", Body: body})
}

// matches reports whether some text contains the words searched for.
func matches(query string, texts ...string) bool {
	return query != "" && slices.ContainsFunc(texts, func(t string) bool {
		return strings.Contains(strings.ToLower(t), strings.ToLower(query))
	})
}

// search looks for names, ids, kinds and what is printed on the unit.
func (r *benchRow) search(b *bench, query string) {
	for i := range b.Model.Parts {
		p := &b.Model.Parts[i]
		texts := []string{p.Name, p.ID, p.Label, p.Kind.Info().Name}
		for _, c := range p.Selector {
			texts = append(texts, c.Label)
		}
		for _, says := range p.Reading.Says {
			texts = append(texts, says)
		}
		if matches(query, texts...) {
			words := p.Kind.Info().Name
			if p.Label != "" {
				words += ", marked “" + p.Label + "”"
			}
			r.Found = append(r.Found, foundThing{p.Name, words, b.Link("", "part="+p.ID)})
		}
	}
	for i := range b.Model.Lines {
		if l := &b.Model.Lines[i]; matches(query, l.ID, l.Size) {
			r.Found = append(r.Found, foundThing{l.ID, "line, " + l.Size, b.Link("", "part="+l.ID)})
		}
	}
}

func (r *benchRow) fill(b *bench) {
	var tank quantity.Litre
	for _, t := range b.Net.PartsOf(plumbing.RoleTank) {
		tank += t.Data.Capacity.Value()
	}
	r.Tank = quantity.Both(tank, b.Sys())
	r.Lines = quantity.Both(amount.Contents(b.Net, b.Sys()).Total, b.Sys())
	r.Antifreeze = "no setting"
	if a := setting.Of(b.Plan, setting.Antifreeze); a != nil && a.OK {
		sheet := amount.Antifreeze(b.Net, a, amount.Drained, b.House)
		r.Antifreeze = quantity.Both(sheet.Total, b.Sys())
	}
	met, all := 0, 0
	for _, a := range b.Plan {
		if a.Mode.Measure {
			continue
		}
		all++
		if a.OK {
			met++
		}
	}
	r.Modes = fmt.Sprintf("%d of %d", met, all)
	for _, f := range b.Findings {
		switch f.Severity {
		case finding.Error:
			r.Errors++
		case finding.Warning:
			r.Warnings++
		default:
			r.Notes++
		}
	}
}

type figuresBody struct {
	Query  string
	Models []*bench
	Names  []string
	Rows   [][]string
}

// figures shows chosen models side by side; all where none is chosen.
func (s *Server) figures(c *gin.Context) {
	body, err := s.sideBySide(c)
	if err != nil {
		s.trouble(c, err)
		return
	}
	s.show(c, http.StatusOK, "figures.html", page{Title: "Figures side by side", Body: body})
}

func (s *Server) sideBySide(c *gin.Context) (*figuresBody, error) {
	list, err := s.store.Models(c)
	if err != nil {
		return nil, err
	}
	body := &figuresBody{Query: c.Request.URL.RawQuery}
	chosen := c.QueryArray("m")
	var subjects []compare.Subject
	for i := range list {
		if len(chosen) > 0 && !slices.Contains(chosen, list[i].Slug) {
			continue
		}
		row, rev, err := s.store.Current(c, list[i].Slug)
		if err != nil {
			return nil, err
		}
		b, err := s.worked(c, row, rev, "")
		if err != nil {
			continue // the bench says why
		}
		body.Models = append(body.Models, b)
		subject, err := b.subject(c)
		if err != nil {
			return nil, err
		}
		subjects = append(subjects, subject)
	}
	body.Names, body.Rows = compare.Sheet(subjects)
	return body, nil
}

// figuresFile is the same as CSV or XLSX.
func (s *Server) figuresFile(c *gin.Context) {
	body, err := s.sideBySide(c)
	if err != nil {
		s.trouble(c, err)
		return
	}
	t := spreadsheet.Table{Name: "Figures", Head: []string{"Figure"}}
	for _, b := range body.Models {
		t.Head = append(t.Head, b.Model.Title())
	}
	for i, name := range body.Names {
		cells := []any{name}
		for _, v := range body.Rows[i] {
			cells = append(cells, v)
		}
		t.Rows = append(t.Rows, cells)
	}
	switch c.Param("kind") {
	case "csv":
		download(c, "text/csv; charset=utf-8", "figures.csv")
		if err := spreadsheet.WriteCSV(c.Writer, []spreadsheet.Table{t}); err != nil {
			slog.Error("csv", "error", err)
		}
	case "xlsx":
		sendXLSX(c, "figures", []spreadsheet.Table{t})
	default:
		s.notFound(c, "Figures are written as csv and xlsx.")
	}
}
