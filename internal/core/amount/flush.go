package amount

import (
	"math"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/figure"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
)

// FlushWay is one way of getting the sanitizer out again.
type FlushWay struct {
	ID       string // "drained", "lines-pushed", "through"
	Name     fact.Fact
	Short    fact.Fact
	Refills  int                   // of the tank
	Left     []quantity.MgPerLitre // after each refill; upper bounds
	Water    quantity.Litre        // that is used
	Waste    quantity.Litre        // into the grey tank, as far as outlets drain there
	Loads    int                   // of the grey tank
	Stages   []Stage
	Time     quantity.Second // of the stages
	Findings []fact.Fact

	refills figure.Cell[int]
	time    figure.Cell[quantity.Second]
	chosen  figure.Cell[int] // as the quickest
}

// FlushPlan compares the ways.
type FlushPlan struct {
	From    quantity.MgPerLitre
	Limit   quantity.MgPerLitre // to which it is flushed
	Supply  quantity.MgPerLitre
	Share   float64 // r: what stays of tank and lines when both are drained
	Parts   []Row   // what r is made of
	Ways    []FlushWay
	Refused fact.Fact // why the limit can't be reached; nothing if it can
}

// Washed is the strength after n refills that each leave a share r of what was
// there: C_s + (C₀ − C_s)·rⁿ. It is an upper bound: water from the lines is
// pushed out ahead of the refill.
func Washed(c0, cs quantity.MgPerLitre, r float64, n int) quantity.MgPerLitre {
	return cs + (c0-cs)*quantity.MgPerLitre(math.Pow(r, float64(n)))
}

// Refills is the least number after which the strength is at a limit or below;
// -1 if it never is.
func Refills(c0, cs, limit quantity.MgPerLitre, r float64) int {
	switch {
	case c0 <= limit:
		return 0
	case limit <= cs || r >= 1:
		return -1
	case r <= 0:
		return 1
	}
	return quantity.RoundUp(math.Log(float64((limit-cs)/(c0-cs))) / math.Log(r))
}

// Through is how many tank volumes go through while it is filled and pumped
// out at once, until a well mixed tank is at a limit: C·e^(−V/V₀).
func Through(c0, cs, limit quantity.MgPerLitre) float64 {
	if limit <= cs {
		return math.Inf(1)
	}
	return math.Log(float64((c0 - cs) / (limit - cs)))
}

// PlanFlush compares three ways of flushing from the strength that stands.
func PlanFlush(n *plumbing.Network, plan []setting.Answer, from quantity.MgPerLitre, rules house.House) FlushPlan {
	return planFlush(n, plan, figure.Given(from), Times(n, rules), rules)
}

// PlanFlushOf is PlanFlush from the strongest of some doses.
func PlanFlushOf(n *plumbing.Network, plan []setting.Answer, doses []DosePlan, times []Figure,
	rules house.House) FlushPlan {
	strongest := figure.Work(n, "flush/from", figure.Of, func() (most quantity.MgPerLitre) {
		for i := range doses {
			most = max(most, doses[i].filled.Of(n))
		}
		return most
	})
	return planFlush(n, plan, strongest, times, rules)
}

func planFlush(n *plumbing.Network, plan []setting.Answer, from figure.Cell[quantity.MgPerLitre], times []Figure,
	rules house.House) FlushPlan {
	limit := figure.Work(n, "flush/limit", figure.Of, func() quantity.MgPerLitre {
		return house.SupplyChlorine.Of(rules) + house.FlushAbove.Of(rules)
	})
	p := FlushPlan{From: from.Value(), Supply: house.SupplyChlorine.Of(rules), Limit: limit.Value()}
	if p.Limit <= p.Supply {
		p.Refused = fact.Of("flush.refused", p.Limit, p.Supply)
		return p
	}
	f := flushing{n: n, rules: rules, times: times, from: from, limit: limit}
	f.lines = figure.Work(n, "flush/lines", figure.Of, func() (sum quantity.Litre) {
		for _, b := range linesOf(n, plan) {
			sum += b.lines
		}
		return sum
	})
	f.whole = figure.Work(n, "flush/whole", figure.Of, func() quantity.Litre {
		return tankVolume(n) + f.lines.Of(n)
	})
	share := figure.Work(n, "flush/share", shareValue, func() (most float64) {
		bodies := flushed(n, plan, rules)
		p.Parts = nil
		for i := range bodies {
			b := &bodies[i]
			p.Parts = append(p.Parts, b.rows(len(bodies) > 1, rules)...)
			most = max(most, float64((b.heel+b.stays+b.film)/(b.tank+b.lines)))
		}
		return most
	})
	pushed := figure.Work(n, "flush/pushed", shareValue, func() (most float64) {
		for _, b := range linesOf(n, plan) {
			most = max(most, float64((b.heel+b.lines*quantity.Litre(house.Smear.Of(rules)))/(b.tank+b.lines)))
		}
		return most
	})
	p.Share = share.Value()
	p.Ways = append(p.Ways,
		f.refills("drained", share,
			func() quantity.Litre { return f.lines.Of(n) }),
		f.refills("lines-pushed", pushed,
			func() quantity.Litre { return f.lines.Of(n) * quantity.Litre(1+house.Smear.Of(rules)) }),
		f.through())
	grey := wasteVolume(n, "grey")
	for i := range p.Ways {
		if p.Ways[i].Loads > 1 && grey > 0 {
			p.Ways[i].Findings = append(p.Ways[i].Findings, fact.Of("flush.grey-loads", p.Ways[i].Loads, grey))
		}
	}
	return p
}

func shareValue(v float64) figure.Value { return figure.Share(v) }

func countValue(v int) figure.Value { return figure.Count(v) }

// flushing is what the ways of flushing have in common.
type flushing struct {
	n     *plumbing.Network
	rules house.House
	times []Figure
	from  figure.Cell[quantity.MgPerLitre]
	limit figure.Cell[quantity.MgPerLitre]
	whole figure.Cell[quantity.Litre] // tanks and lines
	lines figure.Cell[quantity.Litre]
}

// refills is a way that drains and refills, each time leaving a share of what
// was there and running some water out through the outlets.
func (f *flushing) refills(id string, share figure.Cell[float64], out func() quantity.Litre) FlushWay {
	n := f.n
	w := newWay(id)
	id = "flush/" + id + "/"
	times := figure.Work(n, id+"refills", countValue, func() int {
		return Refills(f.from.Of(n), house.SupplyChlorine.Of(f.rules), f.limit.Of(n), share.Of(n))
	})
	w.Refills = times.Value()
	for i := 1; i <= max(w.Refills, 0); i++ {
		w.Left = append(w.Left, Washed(f.from.Value(), house.SupplyChlorine.Of(f.rules), share.Value(), i))
	}
	w.Water = figure.Work(n, id+"water", figure.Of, func() quantity.Litre {
		return quantity.Litre(times.Of(n)) * f.whole.Of(n)
	}).Value()
	waste := figure.Work(n, id+"waste", figure.Of, func() quantity.Litre { return quantity.Litre(times.Of(n)) * out() })
	w.Waste, w.Loads = waste.Value(), f.loads(id, waste)
	unknown := UnknownOf(f.times, "fill-", "drain-")
	w.refills = times
	w.time = figure.Work(n, id+"time", figure.Of, func() (sum quantity.Second) {
		drain, fill := TimeOf(n, f.times, "drain-"), TimeOf(n, f.times, "fill-")
		outlets := OutletTime(n, waste.Of(n)/quantity.Litre(max(1, times.Of(n))), f.rules)
		for i := range max(0, times.Of(n)) {
			w.Stages = append(w.Stages, Stage{Name: fact.Of("stage.flush-drain", i+1), Lasts: drain, Unknown: unknown})
			w.stage(fact.Of("stage.flush-refill", i+1), fill+outlets, true)
			sum += drain + fill + outlets
		}
		return sum
	})
	w.Time = w.time.Value()
	return w
}

// through is the way that fills while it pumps out.
func (f *flushing) through() FlushWay {
	n := f.n
	const id = "flush/through/"
	volumes := figure.Work(n, id+"volumes", shareValue, func() float64 {
		return Through(f.from.Of(n), house.SupplyChlorine.Of(f.rules), f.limit.Of(n))
	})
	v := volumes.Value()
	w := newWay("through")
	w.Refills = int(math.Ceil(v))
	supply := house.SupplyChlorine.Of(f.rules)
	for i := 1; i <= w.Refills; i++ {
		w.Left = append(w.Left, supply+(f.from.Value()-supply)*quantity.MgPerLitre(math.Exp(-math.Min(float64(i), v))))
	}
	water := figure.Work(n, id+"water", figure.Of, func() quantity.Litre {
		return tankVolume(n) * quantity.Litre(volumes.Of(n))
	})
	w.Water, w.Waste, w.Loads = water.Value(), water.Value(), f.loads(id, water)
	w.refills = figure.Work(n, id+"refills", countValue, func() int { return int(math.Ceil(volumes.Of(n))) })
	w.time = figure.Work(n, id+"time", figure.Of, func() quantity.Second {
		run := quantity.Second(float64(water.Of(n)/quantity.Litre(pumpFlow(n))) * 60)
		w.stage(fact.Of("stage.flush-through"), Duty(run, f.rules), true)
		return w.Time
	})
	return w
}

// loads is how often what goes through the outlets fills the grey tanks.
func (f *flushing) loads(id string, waste figure.Cell[quantity.Litre]) int {
	return figure.Work(f.n, id+"loads", countValue, func() int {
		grey := wasteVolume(f.n, "grey")
		if grey == 0 {
			return 0
		}
		return quantity.RoundUp(float64(waste.Of(f.n) / grey))
	}).Value()
}

func (w *FlushWay) stage(name fact.Fact, lasts quantity.Second, attended bool) {
	w.Stages = append(w.Stages, Stage{Name: name, Lasts: lasts, Attended: attended})
	w.Time += lasts
}

// rows say what a refill leaves of a body, and of how much.
func (b *flushedBody) rows(several bool, rules house.House) []Row {
	name := fact.If(several, fact.Of("row.of", b.tanks))
	return []Row{
		{What: fact.Of("row.heel", name), Formula: fact.Of("formula.heel"), Litre: b.heel,
			Source: fact.Of("source.part")},
		{What: fact.Of("row.stays", name), Formula: fact.Of("formula." + b.how), Litre: b.stays,
			Source: fact.Of("source.drained")},
		{What: fact.Of("row.film", name), Formula: fact.Of("formula.film"),
			Inputs: shown(quantity.Percent(house.Film.Of(rules) * 100)), Litre: b.film, Source: source(rules, "film")},
		{What: fact.Of("row.tank-and-lines", name), Formula: fact.Of("formula.tank-and-lines"), Litre: b.tank + b.lines,
			Source: fact.Of("source.data-and-lines")},
	}
}

// flushedBody is what a body of tank water and the lines it feeds hold, and
// what stays of it when they have been drained.
type flushedBody struct {
	tanks                          []*plumbing.Part
	tank, heel, lines, stays, film quantity.Litre
	how                            string
	counts                         map[plumbing.LinkID]bool // as its lines
}

// flushed works out what a refill leaves, body by body: of the stretches that
// the sanitizer came to. A heater that is passed by and the insides of outlets
// are no part of it, and only what ran out leaves a film.
func flushed(n *plumbing.Network, plan []setting.Answer, rules house.House) []flushedBody {
	list := linesOf(n, plan)
	drained := answer(n, plan, setting.DrainDown).Has()
	for i := range list {
		b := &list[i]
		if b.how = "stays"; !drained {
			b.stays, b.how = b.lines, "stays-full"
			continue
		}
		for _, p := range leftBefore(n, plan, Drained, rules).Pieces {
			if p.InLink() && b.counts[p.Link] {
				b.stays += p.Stays()
				b.film += (p.Holds() - p.Stays()) * quantity.Litre(house.Film.Of(rules))
			}
		}
	}
	return list
}

// linesOf are the bodies of tank water and what the lines hold that the
// sanitizer came to from each.
func linesOf(n *plumbing.Network, plan []setting.Answer) (list []flushedBody) {
	a := answer(n, plan, setting.Flush)
	if !a.Has() {
		a = answer(n, plan, setting.Everyday)
	}
	if !a.Has() {
		return nil
	}
	for _, body := range flow.Bodies(n, a.State) {
		b := flushedBody{tanks: body.Tanks, counts: map[plumbing.LinkID]bool{}}
		var from []plumbing.NodeID
		for _, t := range body.Tanks {
			b.tank += plumbing.Field(n, &t.Data.Capacity).Value()
			b.heel += plumbing.Field(n, &t.Data.Heel).Value()
			for _, port := range []string{"supply", "drain", "link"} {
				from = append(from, n.NodesOf(t, port)...)
			}
		}
		r := flow.Reach(n, a.State, flow.Query{From: from})
		for i, l := range n.AllLinks() {
			if r.Link(a.State, i) && !n.FillHose(i) && (l.Line == nil || l.Line.Side != plumbing.Air) &&
				(l.Part == nil || l.Part.Role() != plumbing.RoleHeater) {
				b.counts[i] = true
				b.lines += n.Content(l)
			}
		}
		list = append(list, b)
	}
	return list
}

// Unknown is what is missing to know how long the way takes; nothing if all is
// known.
func (w *FlushWay) Unknown() fact.Fact {
	for _, s := range w.Stages {
		if !s.Unknown.IsZero() {
			return s.Unknown
		}
	}
	return fact.Fact{}
}

// newWay is a way by its id.
func newWay(id string) FlushWay {
	return FlushWay{ID: id, Name: fact.Of("flush." + id), Short: fact.Of("flush." + id + ".short")}
}

// QuickestOf is the way that takes the least time, as a figure, or the way that somebody asked for by its number, from
// 1; nil where none reaches the limit.
func (p *FlushPlan) QuickestOf(n *plumbing.Network, asked int) *FlushWay {
	if asked > 0 && asked <= len(p.Ways) {
		return &p.Ways[asked-1]
	}
	if !p.Refused.IsZero() {
		return nil
	}
	which := figure.Work(n, "flush/quickest", countValue, func() int {
		_, i := p.quickest(func(w *FlushWay) (int, quantity.Second) { return w.refills.Of(n), w.time.Of(n) })
		return i
	})
	if which.Value() < 0 {
		return nil
	}
	w := p.Ways[which.Value()]
	w.chosen = which
	return &w
}

func (p *FlushPlan) quickest(of func(*FlushWay) (refills int, lasts quantity.Second)) (best *FlushWay, which int) {
	which = -1
	var least quantity.Second
	for i := range p.Ways {
		if refills, lasts := of(&p.Ways[i]); refills >= 0 && (which < 0 || lasts < least) {
			best, which, least = &p.Ways[i], i, lasts
		}
	}
	return best, which
}

// pumpFlow is the free flow of the largest pump, or a trickle where there is
// none.
func pumpFlow(n *plumbing.Network) (q quantity.LitrePerMinute) {
	for _, p := range n.PartsOf(plumbing.RolePump) {
		q = max(q, plumbing.Field(n, &p.Data.Flow).Value())
	}
	return max(q, 0.1)
}

// Duty is how long a run takes whose pump must rest by its duty cycle.
func Duty(run quantity.Second, rules house.House) quantity.Second {
	on := house.PumpOn.Of(rules)
	if on <= 0 || run <= on {
		return run
	}
	rests := quantity.RoundUp(float64(run/on)) - 1
	return run + quantity.Second(rests)*house.PumpOff.Of(rules)
}
