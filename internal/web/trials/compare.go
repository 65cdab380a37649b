package trials

import (
	"cmp"
	"context"
	"fmt"
	"html/template"
	"math"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/cause"
	"coldtap/internal/core/measure"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
	"coldtap/internal/core/words"
	"coldtap/internal/drawing"
	"coldtap/internal/people"
	"coldtap/internal/web/site"
)

// row is a measurement beside what is computed.
type row struct {
	What, Head, Name   string
	Measured, Computed string
	Spread             string
	Verdict            string  // in words
	Off                bool    // more than noise explains
	At                 float64 // where it lies on the scale, 0 to 100; 50 is as computed
}

// named is a cause in words, with what it asks for.
type named struct {
	Said  string
	Ask   *cause.Correction
	Index int
	What  string // that would be corrected
	Off   string // how well it fits
}

type compareBody struct {
	Trial    *app.Trial
	Slug     string
	Job      *app.Job
	Trouble  string
	Rows     []row
	Lost     int
	Verdict  string
	Kind     cause.Verdict
	Class    []named
	Lines    []named // of them: lines of which any one may be longer
	Lead     string  // what is said of these
	Drawing  template.HTML
	Others   []named
	Decide   string
	Few      string // how few trials there are to go by; \"\" for enough
	Probe    string // that would decide
	Notes    []remark
	Instead  []remark
	Like     []string // what the trial was really like
	Done     int
	Steps    int
	People   []string
	Reports  []reportsOf
	Made     []app.Correction
	Signed   []app.DrillSignoff
	Signs    []app.Person // whom a trainer may sign off
	Runs     bool
	Corrects bool
	Wrong    string
}

// Compare shows what a trial measured beside what is computed, and what could be the cause.
func (s View) Compare(c *gin.Context) { s.compare(c, http.StatusOK, "") }

// waits is how long a page waits for a comparison before it says how far that is.
const waits = 4 * time.Second

func (s View) compare(c *gin.Context, status int, wrong string) {
	t := s.trial(c)
	if t == nil {
		return
	}
	c.Params = append(c.Params, gin.Param{Key: "model", Value: t.Slug})
	b := s.Model(c)
	if b == nil {
		return
	}
	who := site.Who(c)
	body := &compareBody{Trial: t, Slug: t.Slug, Runs: runs(who), Wrong: wrong,
		Corrects: who.Role == people.Author || who.Role == people.Reviewer}
	job, err := s.Trials.Comparison(c, t)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	if !job.Wait(c, waits) {
		body.Job = job
	} else if err := job.Err(); err != nil {
		body.Trouble = site.UpperFirst(site.Words(err))
	} else if err := s.fill(c, body, job.Result().(*app.Compared)); err != nil {
		s.Trouble(c, err)
		return
	}
	err = s.written(c, body)
	if err == nil {
		err = s.signed(c, body, who)
	}
	if err != nil {
		s.Trouble(c, err)
		return
	}
	s.Show(c, status, "compare-trial.html", site.Page{Title: "Trial on " + t.Serial, Model: b, Tab: "trials", Body: body})
}

// signed are who was seen to do a trial as it is written, and whom a trainer may sign off: those of its dealer.
func (s View) signed(c *gin.Context, body *compareBody, who *app.Person) (err error) {
	if body.Signed, err = s.Store.DrillSignoffsOf(c, body.Trial.ID); err != nil {
		return err
	}
	if !who.Trains() || body.Trial.State != app.TrialFinished {
		return nil
	}
	all, err := s.Store.People(c)
	for _, p := range all {
		signed := slices.ContainsFunc(body.Signed, func(x app.DrillSignoff) bool { return x.PersonID == p.ID })
		if p.Role == people.Technician && p.Active && p.DealerID == body.Trial.DealerID && !signed {
			body.Signs = append(body.Signs, p)
		}
	}
	return err
}

// Standard deviations: from which on a measurement is told to lie beside the computed, and which end the scale that is
// drawn.
const (
	beside = 3
	scale  = 8
)

// fill tells a comparison in words.
func (s View) fill(ctx context.Context, body *compareBody, got *app.Compared) (err error) {
	sys := got.Subject.Net.System()
	p := words.English(sys)
	body.Lost = len(got.Lost)
	for _, m := range got.Rows {
		r := row{What: kindNames[m.Kind], Head: m.Head, Name: m.Name, Measured: Show(m.Kind, m.Value, sys),
			Computed: Show(m.Kind, m.Computed, sys), Spread: "± " + Show(m.Kind, m.Spread, sys)}
		r.At = 50 + 50*math.Max(-1, math.Min(1, m.Off/scale))
		r.Off, r.Verdict = math.Abs(m.Off) > beside, "as computed"
		switch {
		case m.Off > beside:
			r.Verdict = "more than computed"
		case m.Off < -beside:
			r.Verdict = "less than computed"
		}
		if m.Kind == measure.Refills {
			r.Spread = ""
		}
		body.Rows = append(body.Rows, r)
	}
	k := got.Ranking
	body.Kind, body.Verdict = k.Verdict, p.Tell(k.Verdict.Said())
	for i, f := range k.Class {
		n := named{Said: site.UpperFirst(p.Tell(f.Said(got.Subject))), Index: i}
		ask := got.Asks[i]
		if ask.Where == cause.InModel || ask.Where == cause.InRule {
			n.Ask, n.What = &ask, what(got, ask)
		} else if ask.Where == cause.OnUnit {
			n.What = "The unit is to be repaired; the model stays as it is."
		} else {
			n.What = "The model stays as it is: repeat the trial with this put right."
		}
		if f.Kind == cause.Line {
			l := got.Subject.Net.Model.Line(f.Of)
			n.Said, n.Off = site.UpperFirst(p.Tell(cause.NameOfLine(got.Subject.Net, f.Of))), quantity.Neat(l.Length.Value(),
				sys)
			body.Lines = append(body.Lines, n)
			continue
		}
		body.Class = append(body.Class, n)
	}
	body.lead(got, p)
	for _, f := range k.Others {
		body.Others = append(body.Others, named{Said: site.UpperFirst(p.Tell(f.Said(got.Subject)))})
	}
	if len(k.Class) > 0 {
		if body.Drawing, err = s.drawn(ctx, got); err != nil {
			return err
		}
		body.Decide, body.Probe = p.Tell(k.Deciding.Look.Said()), ""
		if k.Deciding.Look == cause.ByProbe {
			body.Probe = s.probe(body.Trial, k.Deciding.Probe)
		}
	}
	return nil
}

// drawn is the system with what a class of causes is at picked out.
func (s View) drawn(ctx context.Context, got *app.Compared) (template.HTML, error) {
	mark := map[string]string{}
	for _, f := range got.Ranking.Class {
		for _, id := range strings.Fields(f.Of) {
			mark[id] = "breach"
		}
	}
	drawn, _, err := got.Build.SchematicSoon(ctx, drawingWait)
	if err != nil || drawn == nil {
		return "", err
	}
	return template.HTML(drawn.SVG(drawing.Show{Title: "Where the cause may be", Mark: mark,
		State: state.Normal(got.Build.Net)})), nil // drawn by us
}

// drawingWait is how long a page waits for its drawing.
const drawingWait = 500 * time.Millisecond

// reportsOf are owners' reports on one step that are alike.
type reportsOf struct {
	Task  string
	Step  int
	Said  string
	Open  []app.Report
	Ended []app.Report
	First uint64
}

// reports are what owners say of the steps of a procedure, those of one step together; of all procedures for "".
func (s View) reports(ctx context.Context, modelID uint64, task string, x app.TrialSteps) (list []reportsOf,
	err error) {
	all, err := s.Store.ReportsOf(ctx, modelID)
	at := map[string]int{}
	for _, r := range all {
		if task != "" && r.Task != task {
			continue
		}
		key := fmt.Sprint(r.Task, " ", r.Step)
		i, ok := at[key]
		if !ok {
			i = len(list)
			at[key] = i
			list = append(list, reportsOf{Task: r.Task, Step: r.Step, Said: r.Said, First: r.ID})
		}
		if r.State == app.ReportOpen {
			list[i].Open = append(list[i].Open, r)
		} else {
			list[i].Ended = append(list[i].Ended, r)
		}
	}
	slices.SortStableFunc(list, func(a, b reportsOf) int {
		return cmp.Or(len(b.Open)-len(a.Open), cmp.Compare(a.Task, b.Task), a.Step-b.Step)
	})
	return list, err
}
