package procedures

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/house"
	"coldtap/internal/core/instruction"
	"coldtap/internal/core/planner"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/web/site"
)

// asked is what somebody plans for.
type asked struct {
	Units, People int
	At            string // a moment as forms write it
	Ready         bool   // all is to be ready then; else it begins then
	moment        time.Time
}

// formTime is how forms write a moment.
const formTime = "2006-01-02T15:04"

// most units and people that are planned for at once.
const (
	mostUnits  = 50
	mostPeople = 20
)

// readPlan reads what a request plans for; without anything it is one unit, by one person, tomorrow at nine.
func readPlan(c *gin.Context, now time.Time) (asked, error) {
	a := asked{Units: 1, People: 1, Ready: c.Query("by") == "ready", At: c.Query("at")}
	for name, to := range map[string]*int{"units": &a.Units, "people": &a.People} {
		most := map[string]int{"units": mostUnits, "people": mostPeople}[name]
		if text := c.Query(name); text != "" {
			v, err := strconv.Atoi(text)
			if err != nil || v < 1 || v > most {
				return a, fmt.Errorf("%s: a number from 1 to %d", name, most)
			}
			*to = v
		}
	}
	if a.At == "" {
		a.At = now.AddDate(0, 0, 1).Format("2006-01-02") + "T09:00"
	}
	var err error
	if a.moment, err = time.Parse(formTime, a.At); err != nil {
		return a, errors.New("the time: a day and an hour, like 2027-04-01T09:00")
	}
	return a, nil
}

// begin is when the first slot begins.
func (a asked) begin(slots []planner.Slot) time.Time {
	if a.Ready {
		return planner.Begin(slots, a.moment)
	}
	return a.moment
}

// planBody is a procedure on the clock.
type planBody struct {
	row
	Back   string
	Asked  asked
	Wrong  string
	Slots  []slotRow
	Begins string
	Ends   string
	Order  []string
	File   string
	Busy   []string // by person
}

type slotRow struct {
	Unit, Person  int
	From, To, Day string
	Words         string
	Busy          bool
	Left, Width   float64 // hundredths of the whole
}

// Plan lays a procedure out for some units.
func (s View) Plan(c *gin.Context) {
	b := s.Model(c)
	if b == nil {
		return
	}
	d, ok := s.find(c, b)
	if !ok {
		return
	}
	body := planBody{row: head(b, d), Back: b.Link("procedures/"+d.ID, "")}
	status := http.StatusOK
	var err error
	if body.Asked, err = readPlan(c, time.Now()); err != nil {
		body.Wrong, status = site.UpperFirst(err.Error())+".", http.StatusUnprocessableEntity
	}
	if d.Procedure != nil && err == nil {
		p, pr := carriedOut(c, b, d)
		if pr == nil {
			s.Trouble(c, c.Err())
			return
		}
		body.lay(b, instruction.Of(b.Net, b.House, p, pr))
		q := url.Values{"units": {strconv.Itoa(body.Asked.Units)}, "people": {strconv.Itoa(body.Asked.People)},
			"at": {body.Asked.At}}
		if body.Asked.Ready {
			q.Set("by", "ready")
		}
		body.File = b.Link("procedures/"+d.ID+"/file/ics", q.Encode())
	}
	s.Show(c, status, "plan.html", site.Page{Title: "Plan: " + body.Name + ": " + b.Model.Title(), Model: b,
		Tab: "procedures", Body: body})
}

// lay puts the slots on the clock.
func (body *planBody) lay(b *site.Computed, in *instruction.Instruction) {
	slots := planner.Lay(planner.Blocks(in), body.Asked.Units, body.Asked.People)
	begin, whole := body.Asked.begin(slots), planner.Whole(slots)
	at := func(t quantity.Second) time.Time { return begin.Add(time.Duration(float64(t) * float64(time.Second))) }
	busy := make([]quantity.Second, body.Asked.People)
	day := ""
	for _, s := range slots {
		r := slotRow{Unit: s.Unit, Person: s.Person, From: at(s.From).Format("15:04"), To: at(s.To).Format("15:04"),
			Words: slotWords(b.Words(), in, s), Busy: s.Busy, Left: 100 * float64(s.From/whole),
			Width: max(0.4, 100*float64((s.To-s.From)/whole))}
		if d := at(s.From).Format("Monday 2 January"); d != day {
			r.Day, day = d, d
		}
		if s.Person > 0 {
			busy[s.Person-1] += s.Takes
		}
		body.Slots = append(body.Slots, r)
	}
	body.Begins, body.Ends = begin.Format("Monday 2 January, 15:04"), at(whole).Format("Monday 2 January, 15:04")
	for i, t := range busy {
		body.Busy = append(body.Busy, fmt.Sprintf("Person %d is busy for %s.", i+1, span(t)))
	}
	body.Order = order(b, in, body.Asked.Units)
}

// order is what to order for some units.
func order(b *site.Computed, in *instruction.Instruction, units int) []string {
	tell, jug := b.Words(), house.Jug.Of(b.House)
	var list []string
	for _, f := range in.Used {
		v := f.Litre * quantity.Litre(units)
		switch f.What {
		case instruction.UsedAntifreeze:
			list = append(list, tell.Tell(fact.Of("order.antifreeze",
				quantity.RoundUp(float64((v+house.JugHeel.Of(b.House)*quantity.Litre(units))/jug)), jug, v)))
		case instruction.UsedBleach:
			list = append(list, tell.Tell(fact.Of("order.bleach", v, house.Bleach.Of(b.House))))
		case instruction.UsedStrips:
			list = append(list, tell.Tell(fact.Of("order.strips", f.Count*units)))
		case instruction.UsedVinegar:
			list = append(list, tell.Tell(fact.Of("order.vinegar", v)))
		}
	}
	once := func(s string) {
		if !slices.Contains(list, s) {
			list = append(list, s)
		}
	}
	for _, t := range in.TakenOff {
		if t.Cartridge {
			once(tell.Tell(fact.Of("order.cartridge", units, t.Part, numbered(b.Net, "cartridge", t.Part))))
		}
		for _, h := range b.Net.PartsOf(plumbing.RoleHeater) { // the rod comes out with its plug
			if !h.Data.AnodeNew.IsZero() && b.Net.Beside(t.Part, h) {
				once(tell.Tell(fact.Of("order.rod", units, h, numbered(b.Net, "anode", h, t.Part))))
			}
		}
	}
	return list
}

// numbered is the order number of what is used up at a part, nothing where nobody gave one.
func numbered(n *plumbing.Network, what string, at ...*plumbing.Part) fact.Fact {
	for _, c := range n.Model.Consumables {
		if c.What == what && c.Order != "" && slices.ContainsFunc(at, func(p *plumbing.Part) bool { return p.ID == c.Part }) {
			return fact.Of("order.number", c.Order)
		}
	}
	return fact.Fact{}
}
