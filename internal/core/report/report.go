// Package report puts together every amount that is worked out for one model:
// for the house's rules and for what is asked beside them.
package report

import (
	"time"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// Ask is what somebody wants to know that is neither in the model nor in the
// house's rules. The zero value asks for drained lines and the way of flushing
// that takes the least time.
type Ask struct {
	State amount.LineState
	Order amount.Order // of the outlets
	Way   int          // of flushing, from 1; 0 for the quickest
	Start time.Time    // zero where Ready is asked for
	Ready time.Time    // zero where Start is asked for
	Anode Look
}

// Look is a look at an anode rod.
type Look struct {
	Diameter quantity.Millimetre // where it is thinnest; 0 if it was weighed, or for no look
	Weight   quantity.Kilogram   // 0 if it was measured
	New      quantity.Kilogram   // what it weighed when new
	Core     quantity.Kilogram   // what core and plug weigh
	On       time.Time
	NewOn    time.Time // when it was put in; zero where that isn't known
}

// Report is all that was worked out.
type Report struct {
	Sys        quantity.System
	House      house.House
	Content    amount.Worksheet
	NoBypass   string                   // why antifreeze has no setting that meets its goal
	HeaterTook bool                     // antifreeze can't be kept out of the heater
	Antifreeze []amount.AntifreezeSheet // by the pump, in each state of the lines
	Chosen     *amount.AntifreezeSheet  // of the state that was asked for; nil where there is no setting
	HeaterIn   *amount.AntifreezeSheet  // the same with the heater left in; nil where that can't be
	Winter     []amount.WinterSchool
	Stops      []amount.JugStop

	Dose    amount.DosePlan   // of the first body of tank water
	Doses   []amount.DosePlan // of each body of tank water
	NoDose  string            // why sanitizing has no setting that meets its goal
	Chlored bool              // the heater can't be kept out of the sanitizer
	Recipes []amount.Judged
	Schools []amount.School
	Batch   Batch

	Flush    amount.FlushPlan
	Way      *amount.FlushWay // that the schedule takes; nil where none reaches the limit
	Schedule amount.Schedule

	Times    []amount.Figure
	Weight   amount.Figure
	Levels   []amount.Level
	Loads    []Loads // of each body of tank water
	Supplies []setting.Supply
	Products []amount.ProductDose
	Used     []plumbing.Consumable // up, and ordered again
	Pressure amount.Ceiling
	Care     Care
	Findings []string
}

// Batch is a container of sanitizer mixed for the lines alone.
type Batch struct {
	Bleach quantity.Measured
	Water  quantity.Litre
	Really quantity.MgPerLitre
	Wrong  string // what is wrong with it beside the tank's dose
}

// Loads is how many containers fill the fresh tanks of one body of water.
type Loads struct {
	Tanks     string
	Container quantity.Litre
	Count     int
	Left      quantity.Litre
}

// Care is what the heaters and the water that stands in the tank need.
type Care struct {
	Baths      []Bath
	Anodes     []Anode
	Keep       quantity.Measured
	KeepReally quantity.MgPerLitre
	KeepOver   bool // the drinking limit
}

// Anode is what a look at a heater's anode says.
type Anode struct {
	Heater *plumbing.Part
	Used   float64 // share
	Advice string
	Next   time.Time // when it will be used up to the house's share; zero where that can't be told
	Wrong  string    // why the look can't be right
}

// Bath is a heater filled with vinegar and water.
type Bath struct {
	Heater  *plumbing.Part
	Vinegar quantity.Litre
	Bought  quantity.Percent
	Result  amount.Vinegar
}

// New works everything out for a build with its settings.
func New(n *plumbing.Network, plan []setting.Answer, rules house.House, ask Ask) Report {
	r := Report{Sys: n.Model.System(), House: rules, Content: amount.Contents(n, n.Model.System()), Schools: amount.Schools()}
	r.winter(n, plan, ask)
	r.sanitizer(n, plan)
	r.flush(n, plan, ask)
	r.Times = amount.Times(n, rules)
	r.schedule(n, ask)
	r.Weight, r.Levels, r.Pressure = amount.Weights(n), amount.Levels(n), amount.PressureCeiling(n, rules)
	r.Supplies = setting.Supplies(n)
	r.Products, r.Used = amount.ProductDoses(n, r.Doses, rules), n.Model.Consumables
	for _, b := range flow.Bodies(n, state.Normal(n)) {
		l := Loads{Container: house.Container.Of(rules)}
		var holds quantity.Litre
		for i, t := range b.Tanks {
			holds += t.Data.Capacity.Value()
			if i > 0 {
				l.Tanks += " and "
			}
			l.Tanks += t.Name
		}
		l.Count, l.Left = amount.Loads(holds, house.Container.Of(rules))
		r.Loads = append(r.Loads, l)
	}
	r.care(n, ask.Anode)
	r.Findings = append(r.Findings, r.Weight.Findings...)
	r.Findings = append(r.Findings, r.Pressure.Findings...)
	return r
}

func (r *Report) winter(n *plumbing.Network, plan []setting.Answer, ask Ask) {
	r.Winter = amount.WinterSchools(n, plan, r.House)
	if in := setting.Of(plan, setting.ThroughHeater); in.Has() && in.OK {
		sheet := amount.Antifreeze(n, in, ask.State, r.House)
		r.HeaterIn = &sheet
	}
	a := setting.Of(plan, setting.Antifreeze)
	if a != nil && !a.OK {
		r.NoBypass, r.HeaterTook = a.Why, a.Breaks(setting.HeaterOut)
	}
	if !a.Has() {
		return
	}
	for _, state := range amount.LineStates() {
		sheet := amount.Antifreeze(n, a, state, r.House)
		r.Antifreeze = append(r.Antifreeze, sheet)
		if state == ask.State {
			r.Chosen = &sheet
		}
	}
	r.Stops = amount.JugStops(n, a, ask.Order, r.House)
	if w, err := amount.WeakestPoint(n, plan, a, ask.State, r.House); err == nil && !w.Enough {
		r.Findings = append(r.Findings, w.Words(n.Model.DesignLow.String(), r.Sys))
	}
}

func (r *Report) sanitizer(n *plumbing.Network, plan []setting.Answer) {
	r.Recipes = amount.Scale(amount.Quoted(), house.Bleach.Of(r.House), r.House)
	a := setting.Of(plan, setting.Sanitize)
	if a != nil && !a.OK {
		r.NoDose, r.Chlored = a.Why, a.Breaks(setting.HeaterOut)
	}
	if !a.Has() {
		r.Dose.Why = "No setting carries sanitizer to every outlet."
		return
	}
	r.Doses = amount.PlanDoses(n, a, r.House)
	r.Dose = r.Doses[0]
	for _, d := range r.Doses[1:] {
		if d.Why != "" {
			r.Findings = append(r.Findings, d.Why)
		}
	}
	if r.Dose.Why != "" {
		r.Findings = append(r.Findings, r.Dose.Why)
		return
	}
	b := &r.Batch
	b.Bleach, b.Water, b.Really = amount.LineBatch(r.Dose.Drawn, r.House, r.Sys)
	b.Wrong = amount.CompareBatch(b.Really, r.Dose.Filled, r.Dose.Ceiling)
}

func (r *Report) flush(n *plumbing.Network, plan []setting.Answer, ask Ask) {
	if r.Dose.Why != "" || r.Dose.Tank == 0 {
		r.Flush.Refused = "There is no dose to flush out."
		return
	}
	strongest := r.Dose.Filled
	for _, d := range r.Doses {
		strongest = max(strongest, d.Filled)
	}
	r.Flush = amount.PlanFlush(n, plan, strongest, r.House)
	if r.Flush.Refused != "" {
		r.Findings = append(r.Findings, r.Flush.Refused)
	}
	if r.Way = r.Flush.Quickest(); ask.Way > 0 && ask.Way <= len(r.Flush.Ways) {
		r.Way = &r.Flush.Ways[ask.Way-1]
	}
	if r.Way != nil {
		r.Findings = append(r.Findings, r.Way.Findings...)
	}
}

// schedule sets a sanitizing on the clock, with the longest soak of the
// house's rules.
func (r *Report) schedule(n *plumbing.Network, ask Ask) {
	if r.Way == nil {
		return
	}
	stages := amount.SanitizeStages(r.Times, amount.OutletTime(n, r.Dose.Drawn, r.House), house.SoakHigh.Of(r.House), r.Way)
	if ask.Ready.IsZero() {
		r.Schedule = amount.Forwards(stages, ask.Start)
	} else {
		r.Schedule = amount.Backwards(stages, ask.Ready)
	}
}

// care works the descaling baths out, half household vinegar of 5 %, and the
// dose that keeps drinking water fresh.
func (r *Report) care(n *plumbing.Network, look Look) {
	const household = quantity.Percent(5)
	for _, h := range n.PartsOf(plumbing.RoleHeater) {
		if v := h.Data.Capacity.Value(); v > 0 {
			half := v / 2
			if bath, err := amount.Descale(half, household, v); err == nil {
				r.Care.Baths = append(r.Care.Baths, Bath{h, half, household, bath})
			}
		}
	}
	r.anodes(n, look)
	if r.Dose.Tank > 0 {
		at := house.Drinking.Of(r.House) / 2
		r.Care.Keep, r.Care.KeepReally, r.Care.KeepOver = amount.KeepFresh(r.Dose.Tank, at, house.Bleach.Of(r.House), r.House, r.Sys)
	}
}

func (r *Report) anodes(n *plumbing.Network, look Look) {
	if look.Diameter <= 0 && look.Weight <= 0 {
		return
	}
	for _, h := range n.PartsOf(plumbing.RoleHeater) {
		if h.Data.AnodeNew.IsZero() || h.Data.AnodeCore.IsZero() {
			continue
		}
		a := Anode{Heater: h}
		used, err := amount.AnodeUsed(look.Diameter, h.Data.AnodeNew.Value(), h.Data.AnodeCore.Value())
		if look.Weight > 0 {
			used, err = amount.AnodeUsedByWeight(look.Weight, look.New, look.Core)
		}
		if err != nil {
			a.Wrong = err.Error()
		} else {
			a.Used, a.Advice = used, amount.AnodeAdvice(used, house.Anode.Of(r.House))
			if next, ok := amount.NextChange(look.NewOn, look.On, 0, used, house.Anode.Of(r.House)); ok && !look.NewOn.IsZero() {
				a.Next = next
			}
		}
		r.Care.Anodes = append(r.Care.Anodes, a)
	}
}

// AirSchool is a pressure that is taught for blowing out.
type AirSchool struct {
	Pressure string
	Over     bool // this model's ceiling
}

// AirSchools are the pressures that are taught, against this model's ceiling.
func (r *Report) AirSchools() (list []AirSchool) {
	for _, text := range house.RuleByID("air").Schools {
		if p, err := quantity.Parse[quantity.Kilopascal](text); err == nil {
			list = append(list, AirSchool{quantity.Both(p, r.Sys), p > r.Pressure.Air+1e-6})
		}
	}
	return list
}

// OpenBypass is how much more antifreeze it takes with the heater left in.
func (r *Report) OpenBypass() quantity.Litre {
	if r.HeaterIn == nil || r.Chosen == nil {
		return 0
	}
	return r.HeaterIn.Total - r.Chosen.Total
}
