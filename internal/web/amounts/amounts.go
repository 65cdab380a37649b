package amounts

import (
	"bytes"
	"fmt"
	"html/template"
	"log/slog"
	"net/http"
	"time"

	ics "github.com/arran4/golang-ical"
	"github.com/gin-gonic/gin"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/report"
	"coldtap/internal/core/words"
	"coldtap/internal/drawing/chart"
	"coldtap/internal/spreadsheet"
	"coldtap/internal/tables"
	"coldtap/internal/web/site"
)

type amountsBody struct {
	*report.Report
	Several      bool // doses for tanks that are not joined, or several tanks to pour into
	SeveralTanks bool
	CarryingLeft string // "" where the capacity is not given
	Untreated    []amount.Pocket
	Asked        asked
	Rules        []site.RuleGroup
	Wrong        string // what can't be used of what was asked
	Charts       charts
}

// charts are the drawings of a report.
type charts struct{ Strengths, Refills, Clock, Weights template.HTML }

// amounts shows every figure of a model, by the house's rules and by what the
// request asks instead.
func (s View) Page(c *gin.Context) {
	b := s.Model(c)
	if b == nil {
		return
	}
	if c.GetHeader("HX-Request") != "" {
		body, asked := s.body(c, b)
		c.Header("HX-Replace-Url", b.Link("amounts", asked))
		s.Show(c, http.StatusOK, "worked", page(b, body))
		return
	}
	// Times are those of the day where nobody asks for another.
	name := b.Named(fmt.Sprintf("amounts of state %d of %s on %s by %s", b.Row.Revision, b.Row.Slug,
		time.Now().Format(time.DateOnly), c.Request.URL.RawQuery))
	leaf, err := s.Leaf(c, name, func(to *bytes.Buffer) error {
		body, _ := s.body(c, b)
		return s.Write(to, "amountspage", page(b, body))
	})
	if err != nil {
		s.Trouble(c, err)
		return
	}
	s.ShowLeaf(c, page(b, nil), leaf)
}

func page(b *site.Computed, body any) site.Page {
	return site.Page{Title: "Amounts: " + b.Model.Title(), Model: b, Tab: "amounts", Body: body}
}

// body is the figures of a build by what a request asks, and what of that is asked.
func (s View) body(c *gin.Context, b *site.Computed) (amountsBody, string) {
	a := readAsked(c, b)
	r := report.New(b.Net, b.Plan, a.rules, a.ask)
	a.doubt(&r)
	body := amountsBody{Report: &r, Asked: a, Wrong: a.wrong, Rules: site.RuleGroups(a.rules, b.Sys(), a.typed)}
	tanks := 0
	for _, d := range r.Doses {
		tanks += len(d.Tanks)
	}
	body.Several = tanks > 1
	body.SeveralTanks = len(b.Net.PartsOf(plumbing.RoleTank)) > 1
	for _, w := range r.Winter {
		if w.ID == "pump" && w.Weakest != nil {
			body.Untreated = w.Weakest.Pockets
		}
	}
	if !b.Model.Carrying.IsZero() {
		body.CarryingLeft = site.Both(r.Weight.Left, r.Sys)
	}
	body.Charts = draw(&r, b.Net)
	return body, a.Query
}

// draw makes the drawings of a report. They hold nothing that is not in it.
func draw(r *report.Report, n *plumbing.Network) charts {
	var c charts
	if r.Dose.Why.IsZero() {
		c.Strengths = template.HTML(chart.Strengths(strengths(r), float64(r.Dose.Ceiling)))
		var courses []chart.Course
		for _, w := range r.Flush.Ways {
			course := chart.Course{Name: site.Tell(w.Short, r.Sys), At: []float64{float64(r.Flush.From)}}
			for _, v := range w.Left {
				course.At = append(course.At, float64(v))
			}
			courses = append(courses, course)
		}
		if len(courses) > 0 {
			c.Refills = template.HTML(chart.Refills(courses, float64(r.Flush.Limit)))
		}
	}
	var list []chart.Stretch
	for _, s := range r.Schedule.Stages {
		list = append(list, chart.Stretch{From: s.From, To: s.To, Attended: s.Attended})
	}
	c.Clock = template.HTML(chart.Clock(list))
	var bars []chart.Bar
	for _, l := range r.Levels {
		bars = append(bars, chart.Bar{Name: levelName(l, n, r.Sys), Value: float64(l.Weight),
			Note: site.Both(l.Weight, r.Sys)})
	}
	c.Weights = template.HTML(chart.Weights(bars, float64(n.Model.Carrying.Value())))
	return c
}

// levelName names a reading, with its tank where there are several.
func levelName(l amount.Level, n *plumbing.Network, sys quantity.System) string {
	if len(n.PartsOf(plumbing.RoleTank)) > 1 {
		return l.Tank.Name + " " + site.Tell(l.Reading, sys)
	}
	return site.Tell(l.Reading, sys)
}

func strengths(r *report.Report) []chart.Strength {
	rows := []chart.Strength{{Name: "this model, tank and lines", Low: float64(r.Dose.Final),
		High: float64(r.Dose.Filled), Note: fmt.Sprintf("%.1f–%.1f mg/L", r.Dose.Final, r.Dose.Filled), Chosen: true}}
	for _, s := range r.Schools {
		low, high := s.Contact()
		rows = append(rows, chart.Strength{Name: "school: " + site.Tell(s.Said(), r.Sys), Low: float64(s.Low),
			High: float64(s.High), Note: fmt.Sprintf("%.0f–%.0f mg·h/L", low, high)})
	}
	for _, j := range r.Recipes {
		rows = append(rows, chart.Strength{Name: site.Tell(j.Said(), r.Sys), Low: float64(j.Strength),
			High: float64(j.Strength), Note: site.Strength(j.Strength), Refused: !j.Refused.IsZero()})
	}
	return rows
}

// amountsFile is the worksheets as CSV, XLSX or, for the schedule, iCalendar.
func (s View) File(c *gin.Context) {
	b := s.Model(c)
	if b == nil {
		return
	}
	a := readAsked(c, b)
	if a.wrong != "" {
		s.Show(c, http.StatusUnprocessableEntity, "message.html",
			site.Page{Title: "Amounts", Model: b, Body: site.Say("This can't be worked out", a.wrong)})
		return
	}
	r := report.New(b.Net, b.Plan, a.rules, a.ask)
	name := b.Row.Slug + "-amounts"
	switch c.Param("kind") {
	case "csv":
		site.Download(c, "text/csv; charset=utf-8", name+".csv")
		if err := spreadsheet.WriteCSV(c.Writer, site.Sheets(tables.Of(&r))); err != nil {
			slog.Error("csv", "error", err)
		}
	case "xlsx":
		site.SendXLSX(c, name, site.Sheets(tables.Of(&r)))
	case "ics":
		if len(r.Schedule.Stages) == 0 {
			s.NotFound(c, "There is no schedule: the sanitizer can't be flushed out to the limit.")
			return
		}
		site.Download(c, "text/calendar; charset=utf-8", b.Row.Slug+"-sanitizing.ics")
		fmt.Fprint(c.Writer, calendar(b.Words(), b.Model.Title(), b.Row.Slug, r.Schedule, time.Now()))
	default:
		s.NotFound(c, "Amounts are written as csv, xlsx and ics.")
	}
}

// calendar writes a schedule as an iCalendar of one event a stage, at the
// clock times of wherever it is read.
func calendar(p *words.Printer, title, slug string, s amount.Schedule, now time.Time) string {
	const floating = "20060102T150405"
	cal := ics.NewCalendar()
	cal.SetProductId("-//Cold Tap//amounts//EN")
	for i, st := range s.Stages {
		e := cal.AddEvent(fmt.Sprintf("%s-%s-%d@coldtap", slug, s.Start.Format(floating), i+1))
		e.SetDtStampTime(now)
		e.SetProperty(ics.ComponentPropertyDtStart, st.From.Format(floating))
		e.SetProperty(ics.ComponentPropertyDtEnd, st.To.Format(floating))
		e.SetSummary(title + ": " + p.Tell(st.Name))
		switch {
		case !st.Unknown.IsZero():
			e.SetDescription("How long it lasts is not known: " + p.Tell(st.Unknown) + ".")
		case !st.Attended:
			e.SetDescription("Nobody has to be there.")
		}
	}
	return cal.Serialize()
}
