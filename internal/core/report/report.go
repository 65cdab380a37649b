// Package report puts together every amount that is worked out for one model:
// for the house's rules and for what is asked beside them.
package report

import (
	"time"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/figure"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/record"
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
	NoBypass   fact.Fact                // why antifreeze has no setting that meets its goal
	HeaterTook bool                     // antifreeze can't be kept out of the heater
	Antifreeze []amount.AntifreezeSheet // by the pump, in each state of the lines
	Chosen     *amount.AntifreezeSheet  // of the state that was asked for; nil where there is no setting
	HeaterIn   *amount.AntifreezeSheet  // the same with the heater left in; nil where that can't be
	Winter     []amount.WinterSchool
	Stops      []amount.JugStop

	Dose    amount.DosePlan   // of the first body of tank water
	Doses   []amount.DosePlan // of each body of tank water
	NoDose  fact.Fact         // why sanitizing has no setting that meets its goal
	Chlored bool              // the heater can't be kept out of the sanitizer
	Recipes []amount.Judged
	Schools []amount.School
	Batch   Batch

	Flush    amount.FlushPlan
	Way      *amount.FlushWay // that the schedule takes; nil where none reaches the limit
	Soak     figure.Band[quantity.Second]
	Schedule amount.Schedule

	Times    []amount.Figure
	Weight   amount.Weight
	Levels   []amount.Level
	Loads    []Loads // of each body of tank water
	Supplies []setting.Supply
	Products []amount.ProductDose
	Used     []plumbing.Consumable // up, and ordered again
	Pressure amount.Ceiling
	Care     Care
	Findings []fact.Fact

	Figures []figure.Figure // all that was computed, in the order in which that was done

	net   *plumbing.Network
	rules house.House // as the figures read them
}

// Batch is a container of sanitizer mixed for the lines alone.
type Batch struct {
	Bleach quantity.Measured
	Water  quantity.Litre
	Really quantity.MgPerLitre
	Wrong  fact.Fact // what is wrong with it beside the tank's dose
}

// Loads is how many containers fill the fresh tanks of one body of water.
type Loads struct {
	Tanks     []*plumbing.Part
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
	Advice amount.Advice
	Next   time.Time // when it will be used up to the house's share; zero where that can't be told
	Wrong  error     // why the look can't be right
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
	rec := &record.Recorder{}
	r := Report{Sys: n.Model.System(), House: rules, Schools: amount.Schools(), net: n.Recorded(rec),
		rules: rules.Recorded(rec)}
	r.work(plan, ask)
	r.Figures = figure.List(rec)
	return r
}

// work works everything out, each figure by itself.
func (r *Report) work(plan []setting.Answer, ask Ask) {
	n, rules := r.net, r.rules
	r.Content = figure.Work(n, "content", sheetValue, func() amount.Worksheet {
		return amount.Contents(n, r.Sys)
	}).Value()
	r.winter(n, plan, ask)
	r.sanitizer(n, plan)
	r.Times = amount.Times(n, rules)
	r.flush(n, plan, ask)
	r.schedule(n, ask)
	r.Weight, r.Levels, r.Pressure = amount.Weights(n), amount.Levels(n), amount.PressureCeiling(n, rules)
	r.Supplies = setting.Supplies(n)
	r.Products, r.Used = amount.ProductDoses(n, r.Doses, rules), n.Model.Consumables
	r.loads()
	r.care(n, ask.Anode)
	r.Findings = append(r.Findings, r.Weight.Findings...)
	r.Findings = append(r.Findings, r.Pressure.Findings...)
}

func sheetValue(w amount.Worksheet) figure.Value { return figure.Or(w.Total, w.Missing) }

// loads are how many containers fill each body of tank water.
func (r *Report) loads() {
	for _, b := range flow.Bodies(r.net, state.Normal(r.net)) {
		count := func(l Loads) figure.Value { return figure.Count(l.Count) }
		l := figure.Work(r.net, "loads/"+b.Tanks[0].ID, count, func() Loads {
			l := Loads{Container: house.Container.Of(r.rules)}
			var holds quantity.Litre
			for _, t := range b.Tanks {
				holds += plumbing.Field(r.net, &t.Data.Capacity).Value()
			}
			l.Count, l.Left = amount.Loads(holds, l.Container)
			return l
		}).Value()
		l.Tanks = b.Tanks
		r.Loads = append(r.Loads, l)
	}
}

func (r *Report) winter(n *plumbing.Network, plan []setting.Answer, ask Ask) {
	r.Winter = amount.WinterSchools(n, plan, r.rules)
	if in := setting.ForMode(plan, setting.ThroughHeater); in.Has() && in.OK {
		sheet := amount.Antifreeze(n, in, ask.State, r.rules)
		r.HeaterIn = &sheet
	}
	a := setting.ForMode(plan, setting.Antifreeze)
	if a != nil && !a.OK {
		r.NoBypass, r.HeaterTook = a.Why, a.Breaks(setting.HeaterOut)
	}
	if !a.Has() {
		return
	}
	for _, state := range amount.LineStates() {
		sheet := amount.Antifreeze(n, a, state, r.rules)
		r.Antifreeze = append(r.Antifreeze, sheet)
		if state == ask.State {
			r.Chosen = &sheet
		}
	}
	r.Stops = amount.JugStops(n, a, ask.Order, r.rules)
	if w, err := amount.WeakestPoint(n, plan, a, ask.State, r.rules); err == nil && !w.Enough {
		r.Findings = append(r.Findings, w.Said(plumbing.Field(n, &n.Model.DesignLow)))
	}
}

func (r *Report) sanitizer(n *plumbing.Network, plan []setting.Answer) {
	r.Recipes = amount.Scale(amount.Quoted(), house.Bleach.Of(r.rules), r.rules)
	a := setting.ForMode(plan, setting.Sanitize)
	if a != nil && !a.OK {
		r.NoDose, r.Chlored = a.Why, a.Breaks(setting.HeaterOut)
	}
	if !a.Has() {
		r.Dose.Why = fact.Of("dose.no-setting")
		return
	}
	r.Doses = amount.PlanDoses(n, a, r.rules)
	r.Dose = r.Doses[0]
	for _, d := range r.Doses[1:] {
		if !d.Why.IsZero() {
			r.Findings = append(r.Findings, d.Why)
		}
	}
	if !r.Dose.Why.IsZero() {
		r.Findings = append(r.Findings, r.Dose.Why)
		return
	}
	b := &r.Batch
	b.Bleach, b.Water, b.Really = amount.LineBatchOf(n, &r.Dose, r.rules)
	b.Wrong = amount.CompareBatch(b.Really, r.Dose.Filled, r.Dose.Ceiling)
}

func (r *Report) flush(n *plumbing.Network, plan []setting.Answer, ask Ask) {
	if !r.Dose.Why.IsZero() || r.Dose.Tank == 0 {
		r.Flush.Refused = fact.Of("flush.no-dose")
		return
	}
	r.Flush = amount.PlanFlushOf(n, plan, r.Doses, r.Times, r.rules)
	if !r.Flush.Refused.IsZero() {
		r.Findings = append(r.Findings, r.Flush.Refused)
	}
	r.Way = r.Flush.QuickestOf(n, ask.Way)
	if r.Way != nil {
		r.Findings = append(r.Findings, r.Way.Findings...)
	}
}

// schedule sets a sanitizing on the clock, with the longest soak of the
// house's rules.
func (r *Report) schedule(n *plumbing.Network, ask Ask) {
	r.Soak = figure.Work(n, "soak", func(b figure.Band[quantity.Second]) figure.Value {
		return b
	}, func() figure.Band[quantity.Second] {
		return figure.Band[quantity.Second]{Low: house.SoakLow.Of(r.rules), High: house.SoakHigh.Of(r.rules)}
	}).Value()
	if r.Way == nil {
		return
	}
	var stages []amount.Stage
	figure.Work(n, "sanitizing", figure.Of, func() (sum quantity.Second) {
		stages = amount.SanitizeStages(n, r.Times, r.Dose.OutletTime(n, r.rules), house.SoakHigh.Of(r.rules), r.Way)
		for _, s := range stages {
			sum += s.Lasts
		}
		return sum
	})
	if ask.Ready.IsZero() {
		r.Schedule = amount.Forwards(stages, ask.Start)
	} else {
		r.Schedule = amount.Backwards(stages, ask.Ready)
	}
}

// care works the descaling baths out, by the house's share of its vinegar, and the
// dose that keeps drinking water fresh.
func (r *Report) care(n *plumbing.Network, look Look) {
	bought := house.Vinegar.Of(r.rules)
	for _, h := range n.PartsOf(plumbing.RoleHeater) {
		if h.Data.Capacity.IsZero() {
			continue
		}
		vinegar := figure.Work(n, "descale/"+h.ID, figure.Of, func() quantity.Litre {
			return plumbing.Field(n, &h.Data.Capacity).Value() * quantity.Litre(house.VinegarShare.Of(r.rules))
		}).Value()
		if bath, err := amount.Descale(vinegar, bought, h.Data.Capacity.Value()); err == nil {
			r.Care.Baths = append(r.Care.Baths, Bath{h, vinegar, bought, bath})
		}
	}
	r.anodes(n, look)
	if r.Dose.Tank > 0 {
		k := amount.KeepFreshOf(n, &r.Dose, r.rules)
		r.Care.Keep, r.Care.KeepReally, r.Care.KeepOver = k.Measured, k.Really, k.Over
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
		var err error
		used := figure.Work(n, "anode/"+h.ID, func(v float64) figure.Value {
			return figure.Share(v)
		}, func() (used float64) {
			if look.Weight > 0 {
				used, err = amount.AnodeUsedByWeight(look.Weight, look.New, look.Core)
			} else {
				used, err = amount.AnodeUsed(look.Diameter, plumbing.Field(n, &h.Data.AnodeNew).Value(),
					plumbing.Field(n, &h.Data.AnodeCore).Value())
			}
			return used
		})
		if err != nil {
			a.Wrong = err
		} else {
			a.Used = used.Value()
			a.Advice = figure.Work(n, "anode/"+h.ID+"/advice", func(a amount.Advice) figure.Value {
				return figure.Choice(string(a))
			}, func() amount.Advice {
				return amount.AnodeAdvice(used.Of(n), house.Anode.Of(r.rules))
			}).Value()
			if next, ok := amount.NextChange(look.NewOn, look.On, 0, a.Used, house.Anode.Of(r.rules)); ok &&
				!look.NewOn.IsZero() {
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

// Drinking is the limit of chlorine in drinking water.
func (r *Report) Drinking() quantity.MgPerLitre { return house.Drinking.Of(r.House) }

// Container is what bleach is thinned in.
func (r *Report) Container() quantity.Litre { return house.Container.Of(r.House) }
