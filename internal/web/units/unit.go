package units

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/care"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/words"
	"coldtap/internal/guide/frozen"
	"coldtap/internal/web/site"
)

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
	Keeps, All, Slow     bool
	Plate                template.HTML
	Link                 string
	Mark                 string
	Form                 map[string]string
}

// carryingOut is how long a page waits for what its model has that is cared for.
const carryingOut = 8 * time.Second

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
	if body.Builds, err = s.builds(c, u.Slug); err != nil {
		return err
	}
	if body.Dealers, err = s.Store.Dealers(c); err != nil {
		return err
	}
	for _, d := range body.Dealers {
		if d.ID == u.DealerID {
			body.Dealer = d.Name
		}
	}
	ctx, end := context.WithTimeout(c, carryingOut)
	defer end()
	s.Units.Soon() // what was changed of its model since is worked out meanwhile
	spec, names, err := s.Units.Spec(ctx, u)
	switch {
	case errors.Is(err, context.DeadlineExceeded) && c.Request.Context().Err() == nil:
		body.Slow, names = true, map[string]string{} // the log is there all the same
	case err != nil:
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
	body.Plate, err = site.Code(body.Link, "Code with the link to this unit’s log")
	return err
}

func plural(n int) string {
	if n == 1 {
		return ""
	}
	return "s"
}

// builds are the builds of a model, each by its name and by what is fitted.
func (s View) builds(ctx context.Context, slug string) (list []choice, err error) {
	p, err := s.Publishing.Present(ctx, slug)
	if err != nil {
		return nil, err
	}
	for _, with := range p.Doc.Builds() {
		var fitted []string
		for _, id := range with {
			if o := p.Doc.Option(id); o != nil {
				fitted = append(fitted, o.Name)
			}
		}
		list = append(list, choice{frozen.Name(with), cmp.Or(strings.Join(fitted, ", "), "no options")})
	}
	return list, nil
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
