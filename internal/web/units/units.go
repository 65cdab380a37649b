// Package units keeps the logs of the campers that were built: what was done on
// each, what is due, what it will need.
package units

import (
	"cmp"
	"encoding/csv"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"
	"github.com/gin-gonic/gin"
	"rsc.io/qr"

	"coldtap/internal/app"
	"coldtap/internal/core/care"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/words"
	"coldtap/internal/people"
	"coldtap/internal/web/site"
)

// View answers the requests of these pages.
type View struct{ *site.Site }

// Names of what is done and due, of why, and of how units are used.
var (
	done = map[care.Kind]string{care.Sanitized: "Sanitized", care.Winterized: "Made ready for the winter",
		care.DeWinterized: "Taken out of storage", care.Changed: "Changed", care.AnodeLook: "Looked at the anode",
		care.AnodeNew: "New anode", care.Descaled: "Descaled", care.HotCycle: "Hot cycle",
		care.Repaired: "Repaired: lines were opened",
		care.Tried:    "Trial", care.Noted: "Note"}
	toDo = map[care.Kind]string{care.Sanitized: "Sanitize", care.Winterized: "Make ready for the winter",
		care.DeWinterized: "Take out of storage", care.Changed: "Change", care.AnodeLook: "Look at the anode",
		care.AnodeNew: "Change the anode", care.Descaled: "Descale", care.HotCycle: "Let the hot cycle run"}
	why = map[care.Reason]string{care.Never: "never done", care.Interval: "it is time again",
		care.Opened:  "lines were opened",
		care.Storage: "it stood in storage", care.Frost: "before it freezes", care.Spring: "before it is used again",
		care.Wear: "two looks say how it wears", care.WornOut: "the last look says so", care.FirstLook: "first look"}
	uses = map[care.Use]string{care.Stored: "stored for most of the year", care.Holidays: "on holidays",
		care.LivedIn: "lived in"}
)

type choice struct{ ID, Name string }

func useChoices() (list []choice) {
	for _, u := range care.Uses() {
		list = append(list, choice{string(u), uses[u]})
	}
	return list
}

// dueRow is something that is due, in words.
type dueRow struct {
	Href, Serial, Model string
	What, Why           string
	On                  time.Time
	Late                bool
	Task                string // id of its procedure
}

type listBody struct {
	Find    string
	Wrong   string
	Said    string
	Due     []dueRow
	Count   int64
	Ahead   int // days
	Kind    care.Kind
	Kinds   []choice
	Units   []unitRow
	Job     *app.Job
	Keeps   bool
	Dealers []app.Dealer
	Own     string // the dealer of who looks; "" where they see all
	None    bool   // they belong to no dealer
	Models  []app.Model
	Uses    []choice
	New     newUnit
}

type unitRow struct {
	Href, Serial, Model, Use, Dealer string
}

type newUnit struct{ Serial, Slug, Use, Made, Dealer string }

// keeps reports whether somebody keeps logs.
func keeps(p *app.Person) bool {
	return p.Role.In([]people.Role{people.Author, people.Reviewer, people.Trainer, people.Technician})
}

// most rows of a list.
const most = 200

// waits is how long a page waits for what is due to be worked out again.
const waits = 300 * time.Millisecond

// List finds units and lists what is due.
func (s View) List(c *gin.Context) {
	scope := site.Who(c).Scope()
	if text := strings.TrimSpace(c.Query("find")); text != "" {
		u, err := s.Units.Find(c, scope, text)
		if err == nil {
			c.Redirect(http.StatusSeeOther, fmt.Sprintf("/units/%d", u.ID))
			return
		}
		if !errors.Is(err, app.ErrNotFound) {
			s.Trouble(c, err)
			return
		}
	}
	s.list(c, http.StatusOK, listBody{Find: strings.TrimSpace(c.Query("find")), Said: c.Query("said")})
}

func (s View) list(c *gin.Context, status int, body listBody) {
	who := site.Who(c)
	scope := who.Scope()
	body.Keeps, body.Uses = keeps(who), useChoices()
	if job := s.Units.Soon(); job != nil && !job.Wait(c, waits) {
		body.Job = job
	}
	body.Ahead, _ = strconv.Atoi(c.DefaultQuery("ahead", "30"))
	body.Ahead = max(0, min(400, body.Ahead))
	body.Kind = care.Kind(c.Query("kind"))
	for _, k := range care.Kinds() {
		if toDo[k] != "" {
			body.Kinds = append(body.Kinds, choice{string(k), toDo[k]})
		}
	}
	var err error
	if body.Dealers, err = s.Store.Dealers(c); err != nil {
		s.Trouble(c, err)
		return
	}
	names := map[uint64]string{}
	for _, d := range body.Dealers {
		names[d.ID] = d.Name
	}
	if !scope.All {
		body.Own, body.None = names[scope.Dealer], scope.Dealer == 0
	}
	titles, err := s.titles(c, &body)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	now := time.Now().UTC()
	until := now.AddDate(0, 0, body.Ahead)
	rows, err := s.Store.Dues(c, scope, until, body.Kind, most)
	if err == nil {
		body.Count, err = s.Store.CountDues(c, scope, until)
	}
	if err != nil {
		s.Trouble(c, err)
		return
	}
	for _, r := range rows {
		body.Due = append(body.Due, dueRow{Href: fmt.Sprintf("/units/%d", r.UnitID), Serial: r.Serial, Model: titles[r.Slug],
			What: s.what(r.UnitDue, nil), Why: why[r.Why], On: r.On, Late: r.On.Before(now)})
	}
	if key := app.SerialKey(body.Find); key != "" || body.Count == 0 {
		list, err := s.Store.Units(c, scope, key, 50)
		if err != nil {
			s.Trouble(c, err)
			return
		}
		for _, u := range list {
			body.Units = append(body.Units, unitRow{fmt.Sprintf("/units/%d", u.ID), u.Serial, titles[u.Slug], uses[u.Use],
				names[u.DealerID]})
		}
		if key != "" && len(list) == 0 {
			body.Wrong = "There is no unit whose serial number begins like this among those that you keep."
			body.New.Serial = body.Find
		}
	}
	s.Show(c, status, "units.html", site.Page{Title: "Units", Body: body})
}

// titles are what models are called, by their slugs.
func (s View) titles(c *gin.Context, body *listBody) (map[string]string, error) {
	models, err := s.Store.Models(c)
	titles := map[string]string{}
	for _, m := range models {
		titles[m.Slug] = fmt.Sprintf("%s (%d)", m.Name, m.Year)
	}
	body.Models = models
	return titles, err
}

// what is what is due, in words; names are of parts and consumables.
func (s View) what(d app.UnitDue, names map[string]string) string {
	text := toDo[d.Kind]
	if name := names[d.Of]; name != "" && d.Kind != care.Winterized {
		if d.Kind == care.Changed {
			return text + ": " + name
		}
		return text + " (" + name + ")"
	}
	if d.Kind == care.Changed {
		return text + ": " + d.Of
	}
	return text
}

// Add keeps a unit.
func (s View) Add(c *gin.Context) {
	who := site.Who(c)
	n := newUnit{Serial: c.PostForm("serial"), Slug: c.PostForm("model"), Use: c.PostForm("use"),
		Made:   c.PostForm("made"),
		Dealer: c.PostForm("dealer")}
	dealer, _ := strconv.ParseUint(n.Dealer, 10, 64)
	if who.Role == people.Technician {
		dealer = who.DealerID
	}
	made, err := day(n.Made)
	var u *app.Unit
	if err == nil {
		u, err = s.Units.Add(c, who.By(), who.Scope(), app.NewUnit{Serial: n.Serial, Slug: n.Slug, Dealer: dealer,
			Use: care.Use(n.Use), MadeOn: made})
	}
	var no *app.RefusedError
	switch {
	case errors.As(err, &no):
		s.list(c, http.StatusUnprocessableEntity, listBody{Wrong: no.Words, New: n})
	case err != nil:
		s.Trouble(c, err)
	default:
		c.Redirect(http.StatusSeeOther, fmt.Sprintf("/units/%d", u.ID))
	}
}

// day reads a day as forms write it; nothing is the zero time.
func day(text string) (time.Time, error) {
	if text == "" {
		return time.Time{}, nil
	}
	t, err := time.Parse(time.DateOnly, text)
	if err != nil {
		return t, &app.RefusedError{Words: "A day is written like 2027-04-01."}
	}
	return t, nil
}

// entryRow is an entry of a log in words.
type entryRow struct {
	app.UnitEntry
	What, Detail, Trial string
}

// needRow is what a unit needs in a year, in words.
type needRow struct{ Name, Order, Count, From string }

type unitBody struct {
	*app.Unit
	Model, Href, UseName string
	Dealer               string
	Dealers              []app.Dealer
	Due                  []dueRow
	Log                  []entryRow
	Needs                []needRow
	Jugs                 string
	Kinds                []choice
	Changes              []choice // consumables
	Anodes               []choice
	Uses                 []choice
	Builds               []choice
	Trials               []app.Trial
	Today                string
	Wrong, Said          string
	Keeps, All           bool
	Plate                template.HTML
	Link                 string
	Mark                 string
	Form                 map[string]string
}

// unit is the unit of a request; it answers the request and gives nil where there is none that is seen.
func (s View) unit(c *gin.Context) *app.Unit {
	id, err := strconv.ParseUint(c.Param("id"), 10, 64)
	var u *app.Unit
	if err == nil {
		u, err = s.Units.Get(c, site.Who(c).Scope(), id)
	}
	var number *strconv.NumError
	switch {
	case errors.Is(err, app.ErrNotFound), errors.As(err, &number):
		s.NotFound(c, "There is no such unit among those that you keep.")
		return nil
	case err != nil:
		s.Trouble(c, err)
		return nil
	}
	return u
}

// Unit is the log of a unit, and what is due.
func (s View) Unit(c *gin.Context) { s.show(c, http.StatusOK, c.Query("said"), "") }

func (s View) show(c *gin.Context, status int, said, wrong string) {
	u := s.unit(c)
	if u == nil {
		return
	}
	who := site.Who(c)
	body := &unitBody{Unit: u, UseName: uses[u.Use], Uses: useChoices(), Keeps: keeps(who), All: who.Scope().All,
		Said:  said,
		Wrong: wrong, Today: time.Now().UTC().Format(time.DateOnly), Mark: app.NewCode(), Form: map[string]string{}}
	for _, name := range []string{"kind", "of", "on", "value", "words"} {
		body.Form[name] = c.PostForm(name)
	}
	if err := s.fill(c, body); err != nil {
		s.Trouble(c, err)
		return
	}
	s.Show(c, status, "unit.html", site.Page{Title: "Unit " + u.Serial, Body: body})
}

func (s View) fill(c *gin.Context, body *unitBody) error {
	u := body.Unit
	row, _, err := s.Store.Head(c, u.Slug)
	if err != nil {
		return err
	}
	body.Model, body.Href = fmt.Sprintf("%s (%d)", row.Name, row.Year), "/models/"+u.Slug
	if body.Dealers, err = s.Store.Dealers(c); err != nil {
		return err
	}
	for _, d := range body.Dealers {
		if d.ID == u.DealerID {
			body.Dealer = d.Name
		}
	}
	spec, names, err := s.Units.Spec(c, u)
	if err != nil {
		return err
	}
	for _, x := range spec.Consumables {
		names[x.ID] = x.Name
		body.Changes = append(body.Changes, choice{x.ID, x.Name})
	}
	for _, id := range spec.Anodes {
		body.Anodes = append(body.Anodes, choice{id, names[id]})
	}
	for _, k := range care.Kinds() {
		if offered(k, spec) {
			body.Kinds = append(body.Kinds, choice{string(k), done[k]})
		}
	}
	dues, err := s.Store.DuesOf(c, u.ID)
	if err != nil {
		return err
	}
	now := time.Now().UTC()
	for _, d := range dues {
		body.Due = append(body.Due, dueRow{What: s.what(d, names), Why: why[d.Why], On: d.On, Late: d.On.Before(now),
			Task: task(d, spec)})
	}
	log, err := s.Store.UnitEntries(c, u.ID)
	if err != nil {
		return err
	}
	for _, e := range log {
		body.Log = append(body.Log, entryRow{UnitEntry: e, What: done[e.Kind], Detail: detail(e, names)})
	}
	entries := app.EntriesOf(log)
	for _, n := range care.Year(spec, u.Use, entries) {
		body.Needs = append(body.Needs, needRow{n.Name, n.Order, countOf(n), basis[n.From]})
	}
	if jugs, from, winters := care.Jugs(spec, entries); spec.Winter != "" && jugs > 0 {
		body.Jugs = fmt.Sprintf("%d jug%s of antifreeze, as computed: no winter of this unit is written down yet.", jugs,
			plural(jugs))
		if from == care.ByLog {
			body.Jugs = fmt.Sprintf("%d jug%s of antifreeze, by what it took in %d winter%s; computed are %d.", jugs,
				plural(jugs),
				winters, plural(winters), spec.Jugs)
		}
	}
	if body.Trials, err = s.Store.TrialsOfUnit(c, u.ID); err != nil {
		return err
	}
	body.Link = site.Origin(c) + "/u/" + u.Code
	code, err := qr.Encode(body.Link, qr.M)
	if err != nil {
		return err
	}
	body.Plate = drawnCode(code)
	return nil
}

func plural(n int) string {
	if n == 1 {
		return ""
	}
	return "s"
}

// basis is what a need is taken from, in words.
var basis = map[care.Basis]string{care.ByLife: "by how long one lasts", care.ByUse: "by how it is used",
	care.ByLog: "by what it took before", care.ByComputed: "as computed"}

// countOf is how many are needed in a year, in words.
func countOf(n care.Need) string {
	if n.Count >= 1 {
		return strconv.FormatFloat(n.Count, 'g', 3, 64)
	}
	if n.Count > 0 {
		return fmt.Sprintf("one in %.0f years", 1/n.Count)
	}
	return "none"
}

// task is the procedure of what is due.
func task(d app.UnitDue, spec care.Spec) string {
	switch d.Kind {
	case care.Sanitized:
		return "sanitize"
	case care.Winterized:
		return spec.Winter
	case care.DeWinterized:
		return "de-winterize"
	case care.Descaled:
		return "descale-heater"
	case care.HotCycle:
		return "hot-cycle"
	case care.AnodeLook, care.AnodeNew:
		return "heater-care"
	}
	return ""
}

// offered reports whether something can be done on a unit of a kind.
func offered(k care.Kind, spec care.Spec) bool {
	switch k {
	case care.Sanitized:
		return spec.Sanitize
	case care.Winterized, care.DeWinterized:
		return spec.Winter != ""
	case care.Changed:
		return len(spec.Consumables) > 0
	case care.AnodeLook, care.AnodeNew:
		return len(spec.Anodes) > 0
	case care.HotCycle:
		return len(spec.HotCycles) > 0
	case care.Descaled:
		return len(spec.Descale) > 0
	}
	return true
}

// detail is what an entry says beside what was done.
func detail(e app.UnitEntry, names map[string]string) string {
	var list []string
	switch e.Kind {
	case care.Winterized:
		if e.Of != "" {
			list = append(list, words.English(quantity.US).Tell(fact.Of("procedure."+e.Of)))
		}
		if e.Value > 0 {
			list = append(list, fmt.Sprintf("%.0f jug%s", e.Value, plural(int(e.Value))))
		}
	case care.AnodeLook:
		list = append(list, names[e.Of], fmt.Sprintf("%.0f %% used", 100*e.Value))
	case care.Changed, care.AnodeNew, care.Descaled, care.HotCycle:
		list = append(list, cmp.Or(names[e.Of], e.Of))
	}
	if e.Words != "" && !slices.Contains(list, e.Words) {
		list = append(list, e.Words)
	}
	return strings.Join(list, ", ")
}

// Write writes in a unit's log, takes an entry back, or changes what the unit is.
func (s View) Write(c *gin.Context) {
	u := s.unit(c)
	if u == nil {
		return
	}
	who := site.Who(c)
	var err error
	said := ""
	switch c.PostForm("do") {
	case "write":
		var e app.UnitEntry
		if e, err = entryOf(c); err == nil {
			err = s.Units.Write(c, who.By(), who.Scope(), u.ID, e)
		}
		said = "It stands in the log."
	case "take-back":
		err = s.Units.TakeBack(c, who.By(), who.Scope(), u.ID, c.PostForm("mark"))
		said = "It is taken back."
	case "change":
		dealer, _ := strconv.ParseUint(c.PostForm("dealer"), 10, 64)
		var made time.Time
		if made, err = day(c.PostForm("made")); err == nil {
			err = s.Units.Change(c, who.By(), who.Scope(), u.ID, func(x *app.Unit) {
				x.Use, x.Note = care.Use(c.PostForm("use")), strings.TrimSpace(c.PostForm("note"))
				if !made.IsZero() {
					x.MadeOn = made
				}
				if who.Scope().All {
					x.DealerID = dealer
				}
			})
		}
		said = "The unit is changed."
	default:
		err = &app.RefusedError{Words: "Choose what to write."}
	}
	var no *app.RefusedError
	switch {
	case errors.As(err, &no):
		s.show(c, http.StatusUnprocessableEntity, "", no.Words)
	case errors.Is(err, app.ErrNotFound):
		s.NotFound(c, "This is not there any more.")
	case err != nil:
		s.Trouble(c, err)
	default:
		c.Redirect(http.StatusSeeOther, fmt.Sprintf("/units/%d?said=%s", u.ID, strings.ReplaceAll(said, " ", "+")))
	}
}

// entryOf reads an entry of a form.
func entryOf(c *gin.Context) (app.UnitEntry, error) {
	e := app.UnitEntry{Mark: c.PostForm("mark"), Kind: care.Kind(c.PostForm("kind")), Words: c.PostForm("words")}
	on, err := day(c.PostForm("on"))
	if err != nil {
		return e, err
	}
	e.On = on
	number := func(name, unit string, by float64) error {
		text := strings.TrimSuffix(strings.TrimSpace(strings.ReplaceAll(c.PostForm(name), ",", ".")), unit)
		if text == "" {
			return nil
		}
		v, err := strconv.ParseFloat(strings.TrimSpace(text), 64)
		if err != nil {
			return &app.RefusedError{Words: fmt.Sprintf("%q is no number.", c.PostForm(name))}
		}
		e.Value = v * by
		return nil
	}
	switch e.Kind {
	case care.Winterized:
		err = number("jugs", "", 1)
	case care.AnodeLook:
		e.Of = c.PostForm("anode")
		if c.PostForm("share") == "" {
			return e, &app.RefusedError{Words: "Say how much of the anode is used, in per cent."}
		}
		err = number("share", "%", 0.01)
	case care.AnodeNew:
		e.Of = c.PostForm("anode")
	case care.Changed:
		e.Of = c.PostForm("of")
	}
	return e, err
}

// ByCode leads from the link on a unit's plate to its log.
func (s View) ByCode(c *gin.Context) {
	u, err := s.Store.UnitByCode(c, c.Param("code"))
	if err == nil && !site.Who(c).Scope().Sees(u.DealerID) {
		err = app.ErrNotFound
	}
	switch {
	case errors.Is(err, app.ErrNotFound):
		s.NotFound(c, "There is no such unit among those that you keep.")
	case err != nil:
		s.Trouble(c, err)
	default:
		c.Redirect(http.StatusSeeOther, fmt.Sprintf("/units/%d", u.ID))
	}
}

// Calendar is what is due on a unit, for calendars.
func (s View) Calendar(c *gin.Context) {
	u := s.unit(c)
	if u == nil {
		return
	}
	dues, err := s.Store.DuesOf(c, u.ID)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	_, names, err := s.Units.Spec(c, u)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	cal := ics.NewCalendar()
	cal.SetProductId("-//Cold Tap//care//EN")
	for _, d := range dues {
		e := cal.AddEvent(fmt.Sprintf("%s-%s-%s@coldtap", u.SerialKey, d.Kind, d.Of))
		e.SetDtStampTime(time.Now())
		e.SetAllDayStartAt(d.On)
		e.SetAllDayEndAt(d.On.AddDate(0, 0, 1))
		e.SetSummary(u.Serial + ": " + s.what(d, names))
		e.SetDescription(site.UpperFirst(why[d.Why]) + ".")
	}
	site.Download(c, "text/calendar; charset=utf-8", "care-"+u.SerialKey+".ics")
	fmt.Fprint(c.Writer, cal.Serialize())
}

// DueFile is what is due on all units that are seen, as CSV or for calendars.
func (s View) DueFile(c *gin.Context) {
	until := time.Now().UTC().AddDate(1, 0, 0)
	rows, err := s.Store.Dues(c, site.Who(c).Scope(), until, "", 5000)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	switch c.Param("kind") {
	case "csv":
		site.Download(c, "text/csv; charset=utf-8", "due.csv")
		w := csv.NewWriter(c.Writer)
		_ = w.Write([]string{"day", "serial", "model", "what", "of", "why"})
		for _, r := range rows {
			_ = w.Write([]string{r.On.Format(time.DateOnly), r.Serial, r.Slug, string(r.Kind), r.Of, string(r.Why)})
		}
		w.Flush()
	case "ics":
		cal := ics.NewCalendar()
		cal.SetProductId("-//Cold Tap//care//EN")
		for _, r := range rows {
			e := cal.AddEvent(fmt.Sprintf("%s-%s-%s@coldtap", app.SerialKey(r.Serial), r.Kind, r.Of))
			e.SetDtStampTime(time.Now())
			e.SetAllDayStartAt(r.On)
			e.SetAllDayEndAt(r.On.AddDate(0, 0, 1))
			e.SetSummary(r.Serial + ": " + s.what(r.UnitDue, nil))
		}
		site.Download(c, "text/calendar; charset=utf-8", "due.ics")
		fmt.Fprint(c.Writer, cal.Serialize())
	default:
		s.NotFound(c, "What is due is written as csv and ics.")
	}
}

// drawnCode is a QR code as a drawing.
func drawnCode(code *qr.Code) template.HTML {
	const quiet = 4
	var path strings.Builder
	for y := range code.Size {
		for x := range code.Size {
			if code.Black(x, y) {
				fmt.Fprintf(&path, "M%d %dh1v1h-1z", x+quiet, y+quiet)
			}
		}
	}
	n := code.Size + 2*quiet
	return template.HTML(fmt.Sprintf( // figures alone
		`<svg class="code" viewBox="0 0 %d %d" role="img" aria-label="Code with the link to this unit’s log"><path fill="#fff" d="M0 0h%dv%dH0z"/><path fill="#000" d="%s"/></svg>`,
		n, n, n, n, path.String()))
}
