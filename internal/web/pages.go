package web

import (
	"fmt"
	"html/template"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/drawing"
	"coldtap/internal/guide"
)

// benchRow is a model in the list.
type benchRow struct {
	Slug, Name, Kind string
	Year             int
	Tank, Lines      string
	Antifreeze       string
	Modes            string // how many of the modes have a setting
	Note             string
	Revision         uint64
}

func (s *Server) bench(c *gin.Context) {
	list, err := s.store.Models(c)
	if err != nil {
		s.trouble(c, err)
		return
	}
	var rows []benchRow
	for i := range list {
		row, rev, err := s.store.Current(c, list[i].Slug)
		if err != nil {
			s.trouble(c, err)
			return
		}
		r := benchRow{Slug: row.Slug, Name: row.Name, Kind: row.Kind, Year: row.Year, Revision: row.Revision}
		if b, err := s.benches.get(row, rev); err != nil {
			r.Note = err.Error()
		} else {
			r.fill(b)
		}
		rows = append(rows, r)
	}
	s.show(c, http.StatusOK, "bench.html", page{Title: "Bench", Body: rows})
}

func (r *benchRow) fill(b *bench) {
	var tank quantity.Litre
	for _, t := range b.Net.PartsOf(plumbing.Tank) {
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
		} else if r.Note == "" {
			r.Note = a.Mode.Name + ": " + a.Why
		}
	}
	r.Modes = fmt.Sprintf("%d of %d", met, all)
}

type systemBody struct {
	SVG   template.HTML
	Lines []lineRow
	Parts []*plumbing.Part
	Total string
}

type lineRow struct {
	Line          *plumbing.Line
	From, To      string
	Inside, Holds string
}

func (s *Server) system(c *gin.Context) {
	b := s.model(c)
	if b == nil {
		return
	}
	body := systemBody{SVG: template.HTML(b.Schematic.SVG(drawing.Show{Setting: flow.Normal(b.Net), Title: "Schematic of " + b.Model.Title()}))}
	for i := range b.Net.Links {
		l := &b.Net.Links[i]
		if l.Line == nil {
			continue
		}
		d, _ := l.Line.InsideDiameter()
		inside := quantity.Figure(float64(d/quantity.Inch), 3, 3) + " in"
		if b.Sys() == quantity.SI {
			inside = quantity.Figure(float64(d), 3, 1) + " mm"
		}
		body.Lines = append(body.Lines, lineRow{l.Line, b.Net.Nodes[l.A].Part.Name, b.Net.Nodes[l.B].Part.Name, inside, quantity.Both(l.Content, b.Sys())})
	}
	body.Total = quantity.Both(amount.Contents(b.Net, b.Sys()).Total, b.Sys())
	for i := range b.Model.Parts {
		body.Parts = append(body.Parts, &b.Model.Parts[i])
	}
	s.show(c, http.StatusOK, "system.html", page{Title: b.Model.Title(), Model: b, Tab: "system", Body: body})
}

type amountsBody struct {
	Sys      quantity.System
	Content  amount.Worksheet
	Sheets   []amount.AntifreezeSheet
	NoBypass string
	Dose     amount.Dose
	DoseWhy  string
	Target   quantity.MgPerLitre
	Products []product
	Targets  []target
}

type product struct {
	Value  string
	Words  string
	Chosen bool
}

type target = product

func (s *Server) amounts(c *gin.Context) {
	b := s.model(c)
	if b == nil {
		return
	}
	body := amountsBody{Sys: b.Sys(), Content: amount.Contents(b.Net, b.Sys())}
	for _, id := range []string{setting.Antifreeze, setting.ThroughHeater} {
		a := setting.Of(b.Plan, id)
		if !a.OK {
			if id == setting.Antifreeze {
				body.NoBypass = a.Why
			}
			continue
		}
		for _, state := range []amount.LineState{amount.Drained, amount.Full} {
			body.Sheets = append(body.Sheets, amount.Antifreeze(b.Net, a, state, b.House))
		}
	}
	bleach, strength := chosenProduct(c, b.House.Bleach), chosenTarget(c, b.House.TargetStrength)
	for _, p := range amount.Products {
		body.Products = append(body.Products, product{Value: quantity.Figure(float64(p), 3, 2), Words: quantity.Show(p, b.Sys()), Chosen: p == bleach})
	}
	for _, t := range targets {
		body.Targets = append(body.Targets, target{Value: quantity.Figure(float64(t), 3, 0), Words: quantity.Show(t, b.Sys()), Chosen: t == strength})
	}
	a := setting.Of(b.Plan, setting.Sanitize)
	if !a.OK {
		body.DoseWhy = a.Why
		a = setting.Of(b.Plan, setting.Everyday)
	}
	if a.OK {
		body.Dose = amount.Sanitizer(b.Net, a, strength, bleach, b.House)
	}
	name := "amounts.html"
	if c.GetHeader("HX-Request") != "" {
		name = "dose"
	}
	s.show(c, http.StatusOK, name, page{Title: "Amounts: " + b.Model.Title(), Model: b, Tab: "amounts", Body: body})
}

var targets = []quantity.MgPerLitre{50, 55, 65, 100, 250}

func chosenProduct(c *gin.Context, or quantity.Percent) quantity.Percent {
	if v, err := quantity.Parse[quantity.Percent](c.Query("bleach") + " %"); err == nil && v > 0 {
		return v
	}
	return or
}

func chosenTarget(c *gin.Context, or quantity.MgPerLitre) quantity.MgPerLitre {
	if v, err := quantity.Parse[quantity.MgPerLitre](c.Query("target") + " mg/L"); err == nil && v > 0 {
		return v
	}
	return or
}

func (s *Server) guide(c *gin.Context) {
	b := s.model(c)
	if b == nil {
		return
	}
	var article strings.Builder
	if err := guide.NewOwner(b.inputs()).WriteArticle(&article); err != nil {
		s.trouble(c, err)
		return
	}
	s.show(c, http.StatusOK, "guide.html", page{Title: "Owner guide: " + b.Model.Title(), Model: b, Tab: "guide", Body: template.HTML(article.String())})
}

func (s *Server) file(c *gin.Context) {
	_, rev, err := s.store.Current(c, c.Param("model"))
	if err != nil {
		s.notFound(c, "There is no such model.")
		return
	}
	c.Header("Content-Disposition", `attachment; filename="`+c.Param("model")+`.json"`)
	c.Data(http.StatusOK, "application/json", []byte(rev.Document))
}
