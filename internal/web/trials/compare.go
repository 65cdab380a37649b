package trials

import (
	"cmp"
	"context"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"math"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/cause"
	"coldtap/internal/core/measure"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
	"coldtap/internal/core/trial"
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

type remark struct{ When, Who, Head, Text, Photo string }

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
	Runs     bool
	Corrects bool
	Wrong    string
	Effects  *effectsBody
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
	if err := s.written(c, body); err != nil {
		s.Trouble(c, err)
		return
	}
	s.Show(c, status, "compare-trial.html", site.Page{Title: "Trial on " + t.Serial, Model: b, Tab: "trials", Body: body})
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
	heads := map[string]string{}
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
		heads[m.Probe] = strings.TrimSpace(r.What + ": " + m.Head + " " + m.Name)
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

// lead says how much longer one of some lines is; of one alone, which.
func (b *compareBody) lead(got *app.Compared, p *words.Printer) {
	least, most := math.Inf(1), math.Inf(-1)
	for _, f := range got.Ranking.Class {
		if f.Kind == cause.Line {
			least, most = min(least, f.Size), max(most, f.Size)
		}
	}
	way := "longer"
	if most < 0 {
		way, least, most = "shorter", -most, -least
	}
	sys := got.Subject.Net.System()
	by := "about " + quantity.Both(quantity.Millimetre(most), sys)
	if most > 1.1*least {
		by = quantity.Neat(quantity.Millimetre(least), sys) + " to " + quantity.Neat(quantity.Millimetre(most), sys)
	}
	switch len(b.Lines) {
	case 0:
	case 1:
		b.Lead = fmt.Sprintf("One line is %s %s than listed", by, way)
	default:
		b.Lead = fmt.Sprintf("One of these %d lines is %s %s than listed", len(b.Lines), by, way)
	}
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

// probe is a measurement in words.
func (s View) probe(t *app.Trial, id string) string {
	for _, step := range t.What().Steps {
		for _, m := range step.Probes {
			name := strings.TrimSpace(string(m.Kind) + " " + step.Key + " " + m.Of)
			if name == id {
				return strings.TrimSpace(fmt.Sprintf("%s at “%s” %s", strings.ToLower(kindNames[m.Kind]), step.Head, m.Name))
			}
		}
	}
	return id
}

// what is what a correction would change, in words.
func what(got *app.Compared, x cause.Correction) string {
	if x.Where == cause.InRule {
		return fmt.Sprintf("%s: %s instead of %s", ruleName(x.Of), x.After, x.Before)
	}
	name := x.Of
	if x.Kind == cause.Line {
		name = "Line " + words.English(quantity.US).Tell(cause.NameOfLine(got.Subject.Net, x.Of))
	} else if p := got.Subject.Net.Model.Part(x.Of); p != nil {
		name = p.Name
	}
	return fmt.Sprintf("%s, %s: %s instead of %s", name, words.English(quantity.US).Field(x.Path), x.After,
		cmp.Or(x.Before, "nothing"))
}

// written tells what was written down beside measurements.
func (s View) written(ctx context.Context, body *compareBody) error {
	all, err := s.Trials.Entries(ctx, body.Trial)
	if err != nil {
		return err
	}
	x := body.Trial.What()
	heads, names := map[string]string{}, map[string]string{}
	for _, st := range x.Steps {
		heads[st.Key] = st.Head
		for _, list := range [][]app.TrialOf{st.Drains, st.Pumps, st.Anodes} {
			for _, o := range list {
				names[o.ID] = o.Name
			}
		}
	}
	for _, o := range x.Tanks {
		names[o.ID] = o.Name
	}
	body.Steps = len(x.Steps)
	seen := map[string]bool{}
	for _, e := range all {
		if e.Who != "" && !seen[e.Who] {
			seen[e.Who] = true
			body.People = append(body.People, e.Who)
		}
	}
	for _, e := range trial.Holds(all) {
		r := remark{When: moment(e.At), Who: e.Who, Head: heads[e.Step], Text: e.Text}
		switch e.Kind {
		case trial.Done:
			body.Done++
		case trial.Instead:
			body.Instead = append(body.Instead, r)
		case trial.Note:
			body.Notes = append(body.Notes, r)
		case trial.Photo:
			r.Photo = "/trials/" + body.Trial.Code + "/photo/" + e.ID
			body.Notes = append(body.Notes, r)
		default:
			if text := said(e, names, x.Units); text != "" {
				if e.Step != "" {
					r.Text = text
					body.Notes = append(body.Notes, r)
				} else {
					body.Like = append(body.Like, text)
				}
			}
		}
	}
	if body.Few, err = s.few(ctx, body.Trial); err != nil {
		return err
	}
	if body.Reports, err = s.reports(ctx, body.Trial.ModelID, body.Trial.Task, x); err != nil {
		return err
	}
	made, err := s.Store.CorrectionsOf(ctx, body.Trial.ModelID)
	for _, m := range made {
		if m.TrialID == body.Trial.ID {
			body.Made = append(body.Made, m)
		}
	}
	return err
}

// enough is how many trials of a procedure there are to go by.
const enough = 3

// few says how few trials of a procedure there are to go by.
func (s View) few(ctx context.Context, t *app.Trial) (string, error) {
	list, err := s.Store.TrialsOf(ctx, t.ModelID, app.Scope{All: true})
	units := map[uint64]bool{}
	for _, x := range list {
		if x.Task == t.Task && x.State == app.TrialFinished {
			units[x.UnitID] = true
		}
	}
	switch n := len(units); {
	case n < 2:
		return "One trial tells of one unit. A second on another unit tells whether it is this unit or the model.", err
	case n < enough:
		return fmt.Sprintf("Only %d units were tried so far: few to tell the model by.", n), err
	}
	return "", err
}

// warmth are how warm a pump is, in words.
var warmth = []string{"cold", "hand-warm", "hot", "too hot to touch"}

// said is an entry that is no measurement, in words; "" for one that says nothing by itself.
func said(e trial.Entry, names map[string]string, units string) string {
	sys := quantity.US
	if units == "si" {
		sys = quantity.SI
	}
	name := cmp.Or(names[e.Of], e.Of)
	switch e.Kind {
	case trial.StartLevel:
		return fmt.Sprintf("%s was %.0f %% full", name, 100*e.Value)
	case trial.HoseFlow:
		return "The hose gave " + quantity.Both(quantity.LitrePerMinute(e.Value), sys)
	case trial.Chlorine:
		return "The supply had " + quantity.Show(quantity.MgPerLitre(e.Value), sys)
	case trial.Helper:
		if e.Value > 0 {
			return "Somebody stood at the low points"
		}
		return "Nobody stood at the low points"
	case trial.Left:
		return "This step was left out"
	case trial.Shut:
		return name + " was not opened"
	case trial.Outside:
		return "It was " + quantity.Both(quantity.Celsius(e.Value), sys) + " outside"
	case trial.Pressure:
		return strings.TrimSpace(quantity.Both(quantity.Kilopascal(e.Value), sys) + " " + e.Text)
	case trial.Temperature:
		return strings.TrimSpace(quantity.Both(quantity.Celsius(e.Value), sys) + " " + e.Text)
	case trial.Warm:
		return name + " was " + warmth[max(0, min(3, int(e.Value)))]
	case trial.CutOut:
		return name + " stopped by itself"
	case trial.Rest:
		return "The pump rested for " + quantity.Both(quantity.Second(e.Value), sys)
	case trial.Anode:
		return fmt.Sprintf("The anode of %s is %.0f %% used, %s", name, 100*e.Value, e.Text)
	case trial.Smelt:
		if e.Value > 0 {
			return cmp.Or(e.Text, "somebody") + " smelt it"
		}
		return cmp.Or(e.Text, "somebody") + " did not smell it, and used a strip"
	}
	return ""
}

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

// File writes a trial as CSV or JSON.
func (s View) File(c *gin.Context) {
	t := s.trial(c)
	if t == nil {
		return
	}
	all, err := s.Trials.Entries(c, t)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	name := "trial-" + app.SerialKey(t.Serial) + "-" + t.Task
	switch c.Param("kind") {
	case "json":
		site.Download(c, "application/json", name+".json")
		e := json.NewEncoder(c.Writer)
		e.SetIndent("", "  ")
		_ = e.Encode(fileOf(t, all))
	case "csv":
		site.Download(c, "text/csv; charset=utf-8", name+".csv")
		w := csv.NewWriter(c.Writer)
		_ = w.Write([]string{"time", "who", "step", "kind", "of", "value", "unit", "text", "holds"})
		holds := map[string]bool{}
		for _, e := range trial.Holds(all) {
			holds[e.ID] = true
		}
		for _, e := range all {
			value := strconv.FormatFloat(e.Value, 'f', -1, 64)
			_ = w.Write([]string{time.UnixMilli(e.At).UTC().Format(time.RFC3339), plainCell(e.Who), e.Step, string(e.Kind),
				e.Of,
				value, unitOf(e.Kind), plainCell(e.Text), strconv.FormatBool(holds[e.ID])})
		}
		w.Flush()
	default:
		s.NotFound(c, "Trials are written as csv and json.")
	}
}

// plainCell is a text that no spreadsheet takes for a formula.
func plainCell(text string) string {
	if text != "" && strings.ContainsRune("=+-@\t\r", rune(text[0])) {
		return "'" + text
	}
	return text
}

// unitOf is the unit that values of a kind have.
func unitOf(k trial.Kind) string {
	switch k {
	case "jug", "caught":
		return "L"
	case "clock", trial.Rest:
		return "s"
	case "strip", trial.Chlorine:
		return "mg/L"
	case "level", trial.StartLevel, trial.Anode:
		return "share"
	case trial.HoseFlow:
		return "L/min"
	case trial.Outside, trial.Temperature:
		return "°C"
	case trial.Pressure:
		return "kPa"
	}
	return ""
}

// trialFile is a trial as it is written as JSON.
type trialFile struct {
	Format   string         `json:"format"`
	Model    string         `json:"model"`
	State    uint64         `json:"model_state"`
	Serial   string         `json:"serial"`
	Build    string         `json:"build"`
	Task     string         `json:"procedure"`
	Place    string         `json:"place,omitempty"`
	Weather  string         `json:"weather,omitempty"`
	Begun    time.Time      `json:"begun"`
	By       string         `json:"by"`
	Finished *time.Time     `json:"finished,omitempty"`
	Steps    app.TrialSteps `json:"measured_at"`
	Entries  []trial.Entry  `json:"entries"`
}

func fileOf(t *app.Trial, all []trial.Entry) trialFile {
	return trialFile{"coldtap-trial/1", t.Slug, t.Number, t.Serial, t.Build, t.Task, t.Place, t.Weather, t.CreatedAt,
		t.ByName,
		t.FinishedAt, t.What(), all}
}

// effect is what a correction changes of one model, in words.
type effect struct {
	Href, Title string
	Figures     []struct{ Name, Before, After string }
	Guides      []app.GuideEffect
	Trouble     string
}

type effectsBody struct {
	Slug    string
	Trial   *app.Trial
	Index   int
	Said    string
	What    string
	List    []effect
	Lowers  string
	Job     *app.Job
	Trouble string
	Judge   bool
	Wrong   string
}

// Effects shows what a correction would change, of every model and every published guide, before it is made.
func (s View) Effects(c *gin.Context) { s.effects(c, http.StatusOK, "") }

// asked finds the correction that a request is of; it answers the request and gives nil where there is none.
func (s View) asked(c *gin.Context) (*app.Trial, *app.Compared, int) {
	t := s.trial(c)
	if t == nil {
		return nil, nil, 0
	}
	job, err := s.Trials.Comparison(c, t)
	if err == nil {
		job.Wait(c, 15*time.Second)
		err = job.Err()
	}
	if err != nil {
		s.Trouble(c, err)
		return nil, nil, 0
	}
	i, err := strconv.Atoi(c.Param("cause"))
	got, ok := job.Result().(*app.Compared)
	if !ok || err != nil || i < 0 || i >= len(got.Asks) {
		s.NotFound(c, "The trial does not ask for this any more.")
		return nil, nil, 0
	}
	return t, got, i
}

// work begins to work out what a correction changes.
func (s View) work(t *app.Trial, got *app.Compared, i int) *app.Job {
	ask := got.Asks[i]
	key := fmt.Sprintf("effects %s %s %s %s", t.Code, got.Basis, ask.ID(), ask.After)
	return s.Jobs.Find(key, "What a correction changes", "", 0, func(ctx context.Context, step func()) (any, error) {
		return s.Trials.Effects(ctx, t.Slug, ask, step)
	})
}

func (s View) effects(c *gin.Context, status int, wrong string) {
	t, got, i := s.asked(c)
	if t == nil {
		return
	}
	c.Params = append(c.Params, gin.Param{Key: "model", Value: t.Slug})
	b := s.Model(c)
	if b == nil {
		return
	}
	p := words.English(got.Subject.Net.System())
	body := &effectsBody{Slug: t.Slug, Trial: t, Index: i, What: what(got, got.Asks[i]), Wrong: wrong,
		Said: site.UpperFirst(p.Tell(got.Ranking.Class[i].Said(got.Subject))), Judge: site.Who(c).Role == people.Reviewer}
	job := s.work(t, got, i)
	switch {
	case !job.Wait(c, waits):
		body.Job = job
	case job.Err() != nil:
		body.Trouble = site.UpperFirst(site.Words(job.Err()))
	default:
		list := job.Result().([]app.Effect)
		body.Lowers = lowered(list, p)
		for _, e := range list {
			one := effect{Href: "/models/" + url.PathEscape(e.Slug) + "/review", Title: e.Title, Guides: e.Guides,
				Trouble: e.Trouble}
			for _, f := range e.Figures {
				one.Figures = append(one.Figures, struct{ Name, Before, After string }{p.Tell(f.Name), p.Tell(f.Before),
					p.Tell(f.After)})
			}
			body.List = append(body.List, one)
		}
	}
	s.Show(c, status, "trial-effects.html", site.Page{Title: "What a correction changes", Model: b, Tab: "trials",
		Body: body})
}

// lowered is what a correction lowers of any model that keeps people and lines safe, each once.
func lowered(list []app.Effect, p *words.Printer) string {
	var said []string
	for _, e := range list {
		for _, f := range e.Lowers {
			if text := p.Tell(f); !slices.Contains(said, text) {
				said = append(said, text)
			}
		}
	}
	text := strings.Join(said, "; ")
	if r := []rune(text); len(r) > 390 {
		text = string(r[:389]) + "…"
	}
	return text
}

// Correct makes a correction, or asks the reviewer for it.
func (s View) Correct(c *gin.Context) {
	t, got, i := s.asked(c)
	if t == nil {
		return
	}
	job := s.work(t, got, i)
	if !job.Wait(c, 15*time.Second) || job.Err() != nil {
		s.effects(c, http.StatusUnprocessableEntity, "It is not worked out yet what it changes: look at that first.")
		return
	}
	lowers := lowered(job.Result().([]app.Effect), words.English(got.Subject.Net.System()))
	_, err := s.Trials.Ask(c, site.Who(c), t, got.Asks[i], lowers)
	s.decided(c, t.Code, err, func(words string) { s.effects(c, http.StatusUnprocessableEntity, words) })
}

// decided answers what somebody did with a correction.
func (s View) decided(c *gin.Context, code string, err error, again func(words string)) {
	var no *app.RefusedError
	switch {
	case errors.As(err, &no):
		again(no.Words)
	case errors.Is(err, app.ErrStale), errors.Is(err, app.ErrNotYours), errors.As(err, new(app.HeldError)),
		errors.As(err, new(*app.RuleStaleError)):
		again("Somebody else changed it in the meantime: look at the trial again.")
	case errors.Is(err, app.ErrNotFound):
		s.NotFound(c, "There is no such correction.")
	case err != nil:
		s.Trouble(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/trials/"+code+"/compare#made")
	}
}

// Decide takes a correction over, takes it back, or turns it down.
func (s View) Decide(c *gin.Context) {
	id, err := strconv.ParseUint(c.Param("id"), 10, 64)
	if err != nil {
		s.NotFound(c, "There is no such correction.")
		return
	}
	x, err := s.Store.Correction(c, id)
	var t *app.Trial
	if err == nil {
		t, err = s.Store.Trial(c, x.TrialID)
	}
	if err != nil {
		s.decided(c, "", err, nil)
		return
	}
	who := site.Who(c)
	switch c.PostForm("do") {
	case "take":
		err = s.Trials.TakeOver(c, who, id)
	case "undo":
		err = s.Trials.Undo(c, who, id)
	case "no":
		err = s.Trials.TurnDown(c, who, id)
	default:
		err = &app.RefusedError{Words: "Choose what becomes of it."}
	}
	c.Params = append(c.Params, gin.Param{Key: "code", Value: t.Code})
	s.decided(c, t.Code, err, func(words string) { s.compare(c, http.StatusUnprocessableEntity, words) })
}
