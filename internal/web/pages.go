package web

import (
	"html/template"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/guide"
)

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
