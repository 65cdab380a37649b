package amount

import (
	"fmt"
	"math"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
)

// FlushWay is one way of getting the sanitizer out again.
type FlushWay struct {
	Name     string
	Short    string
	Refills  int                   // of the tank
	Left     []quantity.MgPerLitre // after each refill; upper bounds
	Water    quantity.Litre        // that is used
	Waste    quantity.Litre        // into the grey tank, as far as outlets drain there
	Loads    int                   // of the grey tank
	Stages   []Stage
	Time     quantity.Second // of the stages
	Findings []string
}

// FlushPlan compares the ways.
type FlushPlan struct {
	From    quantity.MgPerLitre
	Limit   quantity.MgPerLitre // to which it is flushed
	Supply  quantity.MgPerLitre
	Share   float64 // r: what stays of tank and lines when both are drained
	Parts   []Row   // what r is made of
	Ways    []FlushWay
	Refused string // why the limit can't be reached; "" if it can
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
	tank := tankVolume(n)
	p := FlushPlan{From: from, Supply: house.SupplyChlorine.Of(rules), Limit: house.SupplyChlorine.Of(rules) + house.FlushAbove.Of(rules)}
	if p.Limit <= p.Supply {
		p.Refused = fmt.Sprintf("A limit of %s is not above the supply's own %s: no amount of flushing reaches it.", quantity.Show(p.Limit, quantity.SI), quantity.Show(p.Supply, quantity.SI))
		return p
	}
	bodies := flushed(n, plan, rules)
	var lines quantity.Litre
	pushed := 0.0
	for _, b := range bodies {
		name := ""
		if len(bodies) > 1 {
			name = b.name + ": "
		}
		p.Parts = append(p.Parts, Row{What: name + "Heel of the tank", Formula: "heel", Litre: b.heel, Source: "data of the part"},
			Row{What: name + "Stays in the lines", Formula: b.how, Litre: b.stays, Source: "drained by height"},
			Row{What: name + "Film", Formula: "share · what ran out", Inputs: quantity.Show(quantity.Percent(house.Film.Of(rules)*100), n.Model.System()), Litre: b.film, Source: source(rules, "film")},
			Row{What: name + "Tank and lines", Formula: "V + lines", Litre: b.tank + b.lines, Source: "data and line list"})
		lines += b.lines
		p.Share = max(p.Share, float64((b.heel+b.stays+b.film)/(b.tank+b.lines)))
		pushed = max(pushed, float64((b.heel+b.lines*quantity.Litre(house.Smear.Of(rules)))/(b.tank+b.lines)))
	}
	whole := tank + lines
	times := Times(n, rules)
	tankFill, tankDrain := TimeOf(times, "fill-"), TimeOf(times, "drain-")
	unknown := UnknownOf(times, "fill-", "drain-")
	pump := pumpFlow(n)
	out := func(v quantity.Litre) quantity.Second {
		return Duty(quantity.Second(float64(v/quantity.Litre(pump))*60), rules)
	}
	grey := wasteVolume(n, "grey")
	loads := func(v quantity.Litre) int {
		if grey == 0 {
			return 0
		}
		return quantity.RoundUp(float64(v / grey))
	}
	steps := func(name, short string, r float64, waste func(n int) quantity.Litre) FlushWay {
		w := FlushWay{Name: name, Short: short, Refills: Refills(from, p.Supply, p.Limit, r)}
		for i := 1; i <= max(w.Refills, 0); i++ {
			w.Left = append(w.Left, Washed(from, p.Supply, r, i))
		}
		w.Water = quantity.Litre(w.Refills) * whole
		w.Waste = waste(w.Refills)
		w.Loads = loads(w.Waste)
		outlets := OutletTime(n, w.Waste/quantity.Litre(max(1, w.Refills)), rules)
		for i := range max(0, w.Refills) {
			w.Stages = append(w.Stages, Stage{Name: fmt.Sprintf("Flush %d: drain", i+1), Lasts: tankDrain, Unknown: unknown})
			w.Time += tankDrain
			w.stage(fmt.Sprintf("Flush %d: refill and run every outlet", i+1), tankFill+outlets, true)
		}
		return w
	}
	p.Ways = append(p.Ways,
		steps("Drain tank and lines, refill, run every outlet", "tank and lines drained", p.Share, func(n int) quantity.Litre { return quantity.Litre(n) * lines }),
		steps("Drain the tank only, refill, push the lines through", "tank drained, lines pushed", pushed, func(n int) quantity.Litre { return quantity.Litre(n) * lines * quantity.Litre(1+house.Smear.Of(rules)) }))
	v := Through(from, p.Supply, p.Limit)
	w := FlushWay{Name: "Fill while pumping out", Short: "filled while pumped out", Refills: int(math.Ceil(v)), Water: tank * quantity.Litre(v), Waste: tank * quantity.Litre(v)}
	for i := 1; i <= w.Refills; i++ {
		w.Left = append(w.Left, p.Supply+(from-p.Supply)*quantity.MgPerLitre(math.Exp(-math.Min(float64(i), v))))
	}
	w.Loads = loads(w.Waste)
	w.stage("Flush: fill while pumping out at every outlet", out(w.Waste), true)
	p.Ways = append(p.Ways, w)
	for i := range p.Ways {
		if p.Ways[i].Loads > 1 && grey > 0 {
			p.Ways[i].Findings = append(p.Ways[i].Findings, fmt.Sprintf("The grey tank of %s is filled %d times: an open sewer connection, or emptying in between.", quantity.Both(grey, n.Model.System()), p.Ways[i].Loads))
		}
	}
	return p
}

func (w *FlushWay) stage(name string, lasts quantity.Second, attended bool) {
	w.Stages = append(w.Stages, Stage{Name: name, Lasts: lasts, Attended: attended})
	w.Time += lasts
}

// flushedBody is what a body of tank water and the lines it feeds hold, and
// what stays of it when they have been drained.
type flushedBody struct {
	name                           string
	tank, heel, lines, stays, film quantity.Litre
	how                            string
}

// flushed works out what a refill leaves, body by body: of the stretches that
// the sanitizer came to. A heater that is passed by and the insides of outlets
// are no part of it, and only what ran out leaves a film.
func flushed(n *plumbing.Network, plan []setting.Answer, rules house.House) []flushedBody {
	a := setting.Of(plan, setting.Flush)
	if !a.Has() {
		a = setting.Of(plan, setting.Everyday)
	}
	if !a.Has() {
		return nil
	}
	s := a.State
	left := leftBefore(n, plan, Drained, rules)
	var list []flushedBody
	for _, body := range flow.Bodies(n, s) {
		b := flushedBody{how: "what stays when they are drained"}
		var from []plumbing.NodeID
		for i, t := range body.Tanks {
			if i > 0 {
				b.name += " and "
			}
			b.name += t.Name
			b.tank += t.Data.Capacity.Value()
			b.heel += t.Data.Heel.Value()
			for _, port := range []string{"supply", "drain", "link"} {
				from = append(from, n.NodesOf(t, port)...)
			}
		}
		r := flow.Reach(n, s, flow.Query{From: from})
		counts := func(li plumbing.LinkID) bool {
			l := &n.Links[li]
			return r.Link(s, li) && !n.FillHose(li) && (l.Line == nil || l.Line.Side != plumbing.Air) && (l.Part == nil || l.Part.Role() != plumbing.RoleHeater)
		}
		for i := range n.AllLinks() {
			if counts(i) {
				b.lines += n.Links[i].Content
			}
		}
		if !setting.Of(plan, setting.DrainDown).Has() {
			b.stays, b.how = b.lines, "lines full: they are pushed through, not drained"
			list = append(list, b)
			continue
		}
		for _, p := range left.Pieces {
			if p.InLink() && counts(p.Link) {
				b.stays += p.Stays()
				b.film += (p.Holds() - p.Stays()) * quantity.Litre(house.Film.Of(rules))
			}
		}
		list = append(list, b)
	}
	return list
}

// Unknown tells what is missing to know how long the way takes; "" if nothing
// is.
func (w *FlushWay) Unknown() string {
	for _, s := range w.Stages {
		if s.Unknown != "" {
			return s.Unknown
		}
	}
	return ""
}

// Quickest is the way that takes the least time; nil where none reaches the
// limit.
func (p *FlushPlan) Quickest() (best *FlushWay) {
	for i := range p.Ways {
		if w := &p.Ways[i]; w.Refills >= 0 && (best == nil || w.Time < best.Time) {
			best = w
		}
	}
	return best
}

// pumpFlow is the free flow of the largest pump, or a trickle where there is
// none.
func pumpFlow(n *plumbing.Network) (q quantity.LitrePerMinute) {
	for _, p := range n.PartsOf(plumbing.RolePump) {
		q = max(q, p.Data.Flow.Value())
	}
	return max(q, 0.1)
}

// Duty is how long a run takes whose pump must rest by its duty cycle.
func Duty(run quantity.Second, rules house.House) quantity.Second {
	if house.PumpOn.Of(rules) <= 0 || house.PumpOff.Of(rules) <= 0 {
		return run
	}
	rests := float64(quantity.RoundUp(float64(run/house.PumpOn.Of(rules))) - 1)
	return run + quantity.Second(max(0, rests))*house.PumpOff.Of(rules)
}
