package amounts

import (
	"fmt"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/house"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/report"
	"coldtap/internal/web/site"
)

// asked is what a request wants to know instead of what the model and the
// house's rules say. Nothing of it is kept.
type asked struct {
	State, Order, Way        string
	Day, Start, Ready        string // as typed
	Anode, AnodeOn, AnodeNew string // as typed
	AnodeWas, AnodeCore      string // weights
	Typed                    string // a dose that somebody wrote
	Doubt                    string // what may be wrong with it
	Query                    string // to ask the same again
	What                     bool   // something is asked

	rules house.House
	ask   report.Ask
	typed map[string]string // by rule
	wrong string
}

// Line states and orders by what addresses call them.
var lineStates = map[string]amount.LineState{"drained": amount.Drained, "full": amount.Full, "blown": amount.Blown}

const usualStart = "09:00"

// byAsker is whose rules are that somebody asks for, as figures say it.
const byAsker = "what if"

// readAsked reads what is asked of a model. What can't be used is left out
// and said in wrong.
func readAsked(c *gin.Context, b *site.Computed) asked {
	a := asked{Day: strings.TrimSpace(c.Query("day")), State: c.DefaultQuery("state", "drained"),
		Order: c.DefaultQuery("order", "far"), Way: c.DefaultQuery("way", "0"),
		Start: strings.TrimSpace(c.Query("from")), Ready: strings.TrimSpace(c.Query("by")),
		Typed: strings.TrimSpace(c.Query("typed")), rules: b.House, typed: map[string]string{}}
	q := url.Values{}
	for key, v := range c.Request.URL.Query() {
		if key != "with" && len(v) > 0 && strings.TrimSpace(v[0]) != "" {
			q.Set(key, v[0])
		}
	}
	for _, r := range house.Rules() {
		v := strings.TrimSpace(c.Query(r.ID))
		if v == "" || v == b.House.Text(r.ID, b.Sys()) {
			q.Del(r.ID)
			continue
		}
		a.typed[r.ID] = v
	}
	a.Query, a.What = q.Encode(), len(a.typed) > 0
	var err error
	if a.rules, err = b.House.With(byAsker, a.typed); err != nil {
		a.wrong, a.rules = err.Error(), b.House
	}
	a.ask.State = lineStates[a.State]
	if a.Order == "near" {
		a.ask.Order = amount.NearestFirst
	}
	if n, err := strconv.Atoi(a.Way); err == nil && n > 0 && n <= 3 {
		a.ask.Way = n
	}
	a.times(time.Now())
	a.look(c, time.Now())
	return a
}

// times reads the day and the clock times; a day that isn't said is today, or
// tomorrow for what is to be ready. The times have no zone: they are those of
// the wall clock where the work is done.
func (a *asked) times(now time.Time) {
	day := time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, time.UTC)
	if a.Ready != "" {
		day = day.AddDate(0, 0, 1)
	}
	var err error
	if a.Day != "" {
		if day, err = time.Parse(time.DateOnly, a.Day); err != nil {
			a.wrong = fmt.Sprintf("“%s” is not a day; write it as 2027-04-03", a.Day)
			return
		}
	}
	if a.Ready != "" {
		if a.ask.Ready, err = amount.Clock(a.Ready, day); err == nil {
			return
		}
		a.wrong = err.Error()
	}
	start := a.Start
	if start == "" {
		start = usualStart
	}
	if a.ask.Start, err = amount.Clock(start, day); err != nil {
		a.wrong = err.Error()
		a.ask.Start, _ = amount.Clock(usualStart, day)
	}
}

// look reads a look at the anode.
func (a *asked) look(c *gin.Context, now time.Time) {
	a.Anode, a.AnodeOn, a.AnodeNew = strings.TrimSpace(c.Query("anode-now")), strings.TrimSpace(c.Query("anode-on")),
		strings.TrimSpace(c.Query("anode-new"))
	if a.Anode == "" {
		return
	}
	a.ask.Anode.On = now
	a.AnodeWas, a.AnodeCore = strings.TrimSpace(c.Query("anode-was")), strings.TrimSpace(c.Query("anode-core"))
	var err error
	if a.AnodeWas == "" {
		a.ask.Anode.Diameter, err = quantity.Parse[quantity.Millimetre](a.Anode)
	} else {
		a.ask.Anode.Weight, err = quantity.Parse[quantity.Kilogram](a.Anode)
		for text, to := range map[string]*quantity.Kilogram{a.AnodeWas: &a.ask.Anode.New,
			a.AnodeCore: &a.ask.Anode.Core} {
			if err == nil && text != "" {
				*to, err = quantity.Parse[quantity.Kilogram](text)
			}
		}
	}
	if err != nil {
		a.wrong, a.ask.Anode = "Anode: "+err.Error(), report.Look{}
		return
	}
	for _, day := range []struct {
		text string
		to   *time.Time
	}{{a.AnodeOn, &a.ask.Anode.On}, {a.AnodeNew, &a.ask.Anode.NewOn}} {
		if day.text == "" {
			continue
		}
		if *day.to, err = time.Parse(time.DateOnly, day.text); err != nil {
			a.wrong = fmt.Sprintf("“%s” is not a day; write it as 2027-04-03", day.text)
		}
	}
}

// measures are the units of small amounts, by how people write them.
var measures = map[string]string{"tbsp": "tablespoons", "tsp": "teaspoons", "fl oz": "fluid ounces",
	"oz": "fluid ounces", "cup": "cups", "cups": "cups", "l": "litres", "gal": "gallons", "ml": "millilitres"}

// mostDose is the largest amount that is taken for one of bleach; what is
// larger is taken for antifreeze.
const mostDose = quantity.Litre(1)

// doubt looks at an amount that somebody typed beside the one worked out.
func (a *asked) doubt(r *report.Report) {
	if a.Typed == "" {
		return
	}
	v, err := quantity.Parse[quantity.Litre](a.Typed)
	if err != nil {
		a.Doubt = err.Error()
		return
	}
	unit := strings.TrimSpace(strings.TrimLeft(a.Typed, "0123456789.,/¼½¾⅓⅔⅛ \u00a0"))
	if name := measures[strings.ToLower(unit)]; name != "" {
		unit = name
	}
	switch {
	case v >= mostDose && r.Chosen != nil:
		a.Doubt = quantity.Both(v, r.Sys) + " of antifreeze. " + fits(v, unit, r.Chosen.Total)
	case r.Dose.Why.IsZero():
		a.Doubt = a.doubtDose(v, unit, &r.Dose)
	}
}

// fits says whether an amount fits what was worked out, or what may have been
// mixed up.
func fits(v quantity.Litre, unit string, workedOut quantity.Litre) string {
	if why := amount.Confusion(v, unit, workedOut); !why.IsZero() {
		return site.Tell(why, quantity.US)
	}
	if v > workedOut*0.88 && v < workedOut*1.12 {
		return "It fits what was worked out."
	}
	return quantity.Both(workedOut, quantity.US) + " was worked out."
}

func (a *asked) doubtDose(v quantity.Litre, unit string, d *amount.DosePlan) string {
	gives := amount.Strength(v, d.Tank, d.Product)
	words := quantity.Show(v, quantity.SI) + " of bleach comes to " + site.Strength(gives) + " in the tank. "
	switch {
	case gives > d.Ceiling:
		words += "That is above the ceiling of " + site.Strength(d.Ceiling) + ". "
	case gives < d.Target:
		words += "That is weaker than " + site.Strength(d.Target) + ". "
	}
	return words + fits(v, unit, d.Measured.Litre)
}
