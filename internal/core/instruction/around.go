package instruction

import (
	"cmp"
	"slices"
	"time"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
)

// meets reports whether a fluid of a kind is used anywhere in the procedure.
func (w *writer) meets(is func(run.Mix) bool) bool {
	for i := range w.proc.Steps {
		s := &w.proc.Steps[i]
		if slices.ContainsFunc(s.Pour, func(p run.Pour) bool { return is(p.Mix) }) {
			return true
		}
		for _, a := range s.Acts {
			if a.Verb == state.Join && a.With.Kind.Gives() && is(w.proc.Start.Fluids[a.With.Fluid]) {
				return true
			}
		}
	}
	return false
}

func strong(m run.Mix) bool { return m.Chlorine > 10 }
func frosty(m run.Mix) bool { return m.Glycol > 0 }
func sour(m run.Mix) bool   { return m.Acid > 0 }

// cityWater reports whether water under pressure comes to outlets by an inlet, not into a tank alone.
func cityWater(n *plumbing.Network) bool {
	s := state.Undecided(n)
	for _, p := range n.PartsOf(plumbing.RoleInlet) {
		reached := flow.Reach(n, s, flow.Query{From: n.NodesOf(p, "mouth")})
		if slices.ContainsFunc(n.PartsOf(plumbing.RoleOutlet), reached.Part) {
			return true
		}
	}
	return false
}

// site is what must hold before the first step.
func (w *writer) site() {
	add := func(f fact.Fact) {
		if !f.IsZero() {
			w.Site = append(w.Site, f)
		}
	}
	end := w.proof.Systems[len(w.proof.Systems)-1].Account()
	var water quantity.Litre
	for i := range w.proof.Outcomes {
		for at, v := range inOrder(w.proof.Outcomes[i].Drew) {
			if k := w.joined(i, at).Kind; k == state.Supply {
				water += v
			}
		}
		for _, p := range w.proc.Steps[i].Pour {
			if p.Mix == w.proc.Start.Supply {
				water += p.Litre
			}
		}
	}
	add(fact.If(water > 1, fact.Of("site.water", water)))
	start := w.proof.Systems[0].Account()
	list := map[string]quantity.Litre{}
	for sink, sum := range sinks(end.Out) {
		if sink.Tank != "" {
			list[sink.Tank] += sum.Liquid - start.Out[sink].Liquid
		}
	}
	for _, t := range w.n.PartsOf(plumbing.RoleWaste) {
		v := list[t.ID]
		holds := plumbing.Field(w.n, &t.Data.Capacity).Value()
		switch {
		case v < 0.5:
		case holds > 0 && v > holds:
			add(fact.Of("site.waste-over", t, v, holds))
		default:
			add(fact.Of("site.waste", t, v))
		}
	}
	var ground quantity.Litre
	for sink, sum := range sinks(end.Out) {
		if sink.To.Open() {
			ground += sum.Liquid - start.Out[sink].Liquid
		}
	}
	add(fact.If(ground > 1, fact.Of("site.ground", ground)))
	if w.meets(strong) || w.meets(sour) || w.meets(frosty) {
		add(fact.Of("site.taps"))
	}
	add(fact.Of("site.time", span(w.Elapsed), span(w.Attended)))
}

// span is a time in whole minutes, of more than an hour in steps of five.
func span(t quantity.Second) time.Duration {
	step := time.Minute
	if t > 3600 {
		step = 5 * time.Minute
	}
	return max(time.Minute, time.Duration(float64(t)*float64(time.Second)).Round(step))
}

// joined is what is joined to a port while a step goes on.
func (w *writer) joined(i int, at plumbing.NodeID) state.Connection {
	for _, a := range w.proc.Steps[i].Acts {
		if a.Verb == state.Join && w.n.Node(a.Part.ID+".mouth") == at {
			return a.With
		}
	}
	return w.proof.Systems[i].State.Joined[at]
}

// hand is what to have at hand, in the amounts that the run took.
func (w *writer) hand() {
	var antifreeze, vinegar quantity.Litre
	bleach := 0.0 // mg
	for i := range w.proc.Steps {
		if i >= len(w.proof.Outcomes) {
			break
		}
		for at, v := range inOrder(w.proof.Outcomes[i].Drew) {
			c := w.joined(i, at)
			m := w.proc.Start.Fluids[c.Fluid]
			switch {
			case frosty(m):
				antifreeze += v
			case sour(m):
				vinegar += v
			case strong(m):
				bleach += float64(v) * float64(m.Chlorine)
			}
		}
		for _, p := range w.proc.Steps[i].Pour {
			switch {
			case frosty(p.Mix):
				antifreeze += p.Litre
			case sour(p.Mix):
				vinegar += p.Litre
			case p.Mix.Chlorine > w.proc.Start.Supply.Chlorine+someChlorine:
				bleach += float64(p.Litre) * float64(p.Mix.Chlorine-w.proc.Start.Supply.Chlorine)
			}
		}
	}
	add := func(holds bool, f fact.Fact) {
		if holds {
			w.Hand = append(w.Hand, f)
		}
	}
	jug := house.Jug.Of(w.rules)
	jugs := quantity.RoundUp(float64((antifreeze + house.JugHeel.Of(w.rules)) / jug))
	if antifreeze > 0 {
		w.Takes = append(w.Takes, fact.Of("takes.antifreeze", jugs, antifreeze))
		w.Used = append(w.Used, Used{What: UsedAntifreeze, Litre: antifreeze})
	}
	add(antifreeze > 0, fact.Of("hand.antifreeze", jugs, jug, antifreeze, house.Antifreeze.Of(w.rules)))
	product := house.Bleach.Of(w.rules)
	if bleach > 0 {
		measured := quantity.Household(quantity.Litre(bleach/(float64(product)*10_000)), 0.1, w.n.System())
		add(true, fact.Of("hand.bleach", measured, product))
		w.Takes = append(w.Takes, fact.Of("takes.bleach", measured))
		w.Used = append(w.Used, Used{What: UsedBleach, Litre: quantity.Litre(bleach / (float64(product) * 10_000))})
		if n := w.strips(); n > 0 {
			add(true, fact.Of("hand.strips", n, max(w.proc.Goal.Target, w.proc.Goal.SteepLeast.Chlorine)))
			w.Used = append(w.Used, Used{What: UsedStrips, Count: n})
		}
	}
	if vinegar > 0 {
		w.Takes = append(w.Takes, fact.Of("takes.vinegar", vinegar))
		w.Used = append(w.Used, Used{What: UsedVinegar, Litre: vinegar})
	}
	add(vinegar > 0, fact.Of("hand.vinegar", vinegar))
	var hose, air, pumped bool
	var tools []string
	for i := range w.proc.Steps {
		for _, a := range w.proc.Steps[i].Acts {
			hose = hose || a.Verb == state.Join && a.With.Kind == state.Supply
			air = air || a.Verb == state.Join && a.With.Kind == state.Compressed
			pumped = pumped || a.Verb == state.Join && a.With.Kind == state.HandPump
		}
		for _, t := range w.Steps[min(i, len(w.Steps)-1)].Tools {
			if t.ID == "tool.own" && !slices.Contains(tools, t.Args[0].(string)) {
				tools = append(tools, t.Args[0].(string))
			}
		}
	}
	add(hose, fact.Of("hand.hose"))
	add(air, fact.Of("hand.air", w.proc.Limit.Air))
	add(pumped, fact.Of("hand.hand-pump"))
	add(w.uses(state.Catch), fact.Of("hand.bucket"))
	add(w.meets(strong) || w.meets(sour), fact.Of("hand.gloves"))
	slices.Sort(tools)
	add(len(tools) > 0, fact.Of("hand.tools", tools))
}

// strips is how many test strips are read: one wherever a step waits for what a strip tells.
func (w *writer) strips() (n int) {
	for i := range w.proc.Steps {
		u := &w.proc.Steps[i].Until
		if u.Sense == run.Strong || u.Sense == run.Clear && u.Gone == state.Sanitizer {
			n++
		}
	}
	return n
}

// uses reports whether a step has an act of a verb.
func (w *writer) uses(v state.Verb) bool {
	for i := range w.proc.Steps {
		if slices.ContainsFunc(w.proc.Steps[i].Acts, func(a state.Act) bool { return a.Verb == v }) {
			return true
		}
	}
	return false
}

// tags are what is hung up so that nobody does harm who was not there.
func (w *writer) tags() {
	end := w.proof.Systems[len(w.proof.Systems)-1]
	for _, v := range end.Vessels() {
		if v.Closed && v.Liquid.Litre < v.Holds*0.9 {
			w.Tags = append(w.Tags, fact.Of("tag.heater-empty", v.Part))
		}
	}
	glycol := 0.0
	for _, p := range end.Pieces() {
		glycol = max(glycol, p.Mix.Glycol)
	}
	if glycol > 0.1 {
		w.Tags = append(w.Tags, fact.Of("tag.winterized"))
	}
	for i, o := range w.proof.Outcomes {
		if o.Waited < alone {
			continue
		}
		for _, p := range w.proof.Systems[i+1].Pieces() {
			switch {
			case p.Liquid() > 0.01 && strong(p.Mix):
				w.Tags = append(w.Tags, fact.Of("tag.sanitizer"))
			case p.Liquid() > 0.01 && p.Mix.Acid > 0.01:
				w.Tags = append(w.Tags, fact.Of("tag.vinegar"))
			default:
				continue
			}
			break
		}
	}
	w.Tags = slices.CompactFunc(w.Tags, func(a, b fact.Fact) bool { return a.Key() == b.Key() })
}

// Caution is a warning that stands at the step where it first matters.
type Caution struct {
	Level proof.Severity
	Said  fact.Fact
}

// cautions are those that a step is the first to need.
func (w *writer) cautions(i int) (list []Caution) {
	s, o, before := &w.proc.Steps[i], w.proof.Outcomes[i], w.proof.Systems[i]
	add := func(level proof.Severity, id string, about ...any) {
		if !w.said[id] {
			w.said[id] = true
			list = append(list, Caution{level, fact.Of("caution."+id, about...)})
		}
	}
	for _, a := range s.Acts {
		switch a.Verb {
		case state.HeatOff:
			if a.Until == state.Cold && before.Hot(a.Part) {
				add(proof.Danger, "scald")
			}
			if len(a.Part.HeatBy()) > 0 {
				add(proof.Note, "licensed")
			}
		case state.HeatOn:
			add(proof.Danger, "never-dry")
			if w.outdoors(a.Part) {
				add(proof.Danger, "outdoors")
			}
			if len(a.Part.HeatBy()) > 0 {
				add(proof.Note, "licensed")
			}
		case state.Join:
			w.joins(a, add)
		case state.Rinse, state.Dump:
			add(proof.Note, "disposal")
		case state.Turn:
			w.turns(a, add)
		case state.TakeOut:
			if a.Part.Role() == plumbing.RoleFilter {
				add(proof.Wrong, "pressure-bowl")
			}
		}
	}
	for _, p := range s.Pour {
		w.cautionOf(p.Mix, add)
	}
	if s.Until.Sense == run.Full || s.Until.Sense == run.Silent && w.hoseOn(i) {
		if cityWater(w.n) {
			add(proof.Wrong, "attended")
		} else {
			add(proof.Wrong, "attended.filling")
		}
	}
	if s.Until.Sense == run.Full && len(o.Drew) > 0 {
		var in quantity.Litre
		for _, v := range inOrder(o.Drew) {
			in += v
		}
		add(proof.Note, "weight", quantity.Kilogram(float64(in)*quantity.WaterDensity))
	}
	if w.proc.Goal.Drinkable > 0 && len(s.Pour) > 0 {
		add(proof.Wrong, "drinking", w.proc.Goal.Drinkable)
	}
	slices.SortStableFunc(list, func(a, b Caution) int { return cmp.Compare(b.Level, a.Level) })
	return list
}

// hoseOn reports whether a supply is joined while a step goes on.
func (w *writer) hoseOn(i int) bool {
	for at := range w.n.Nodes {
		if w.joined(i, plumbing.NodeID(at)).Kind == state.Supply {
			return true
		}
	}
	return false
}

// joins are the cautions of what is joined to a port.
func (w *writer) joins(a state.Act, add func(proof.Severity, string, ...any)) {
	switch a.With.Kind {
	case state.Compressed:
		add(proof.Danger, "air", w.proc.Limit.Air)
	case state.Supply:
		add(proof.Note, "hoses")
	}
	if m, ok := w.proc.Start.Fluids[a.With.Fluid]; ok {
		w.cautionOf(m, add)
	}
}

// cautionOf are the cautions of a fluid that is handled.
func (w *writer) cautionOf(m run.Mix, add func(proof.Severity, string, ...any)) {
	switch {
	case frosty(m):
		add(proof.Danger, "potable-only")
		add(proof.Wrong, "no-thinning")
	case sour(m):
		add(proof.Danger, "vinegar")
	case strong(m):
		add(proof.Danger, "chlorine")
		add(proof.Wrong, "plain-bleach")
	}
}

// outdoors reports whether a heater is lit outdoors only: it has a flame, and is hung up outside by its couplings.
func (w *writer) outdoors(h *plumbing.Part) bool {
	flame := slices.ContainsFunc(h.HeatBy(), func(by plumbing.Heat) bool { return by == plumbing.Gas || by == plumbing.Diesel })
	return flame && slices.ContainsFunc(w.n.PartsOf(plumbing.RoleCoupling), func(c *plumbing.Part) bool {
		return w.n.Beside(c, h)
	})
}

// turns are the cautions of a handle that is turned.
func (w *writer) turns(a state.Act, add func(proof.Severity, string, ...any)) {
	if a.Part.Role() == plumbing.RoleGas {
		add(proof.Danger, "gas")
	}
	for _, h := range w.n.PartsOf(plumbing.RoleHeater) {
		if a.Part.Role() == plumbing.RoleCoupling && w.n.Beside(a.Part, h) && a.To == "together" && w.outdoors(h) {
			add(proof.Danger, "outdoors")
		}
	}
	if !a.Part.Lets() {
		return
	}
	for _, h := range w.n.PartsOf(plumbing.RoleHeater) {
		if w.n.Beside(a.Part, h) {
			add(proof.Danger, "pressure")
		}
	}
	if a.Part.ReachedUnder() {
		switch v := w.n.Model.Vehicle(); {
		case v.Floats:
			add(proof.Note, "under-boat", v.Under)
		case v.Wheels:
			add(proof.Note, "under-wheels")
		default:
			add(proof.Note, "under-jacks")
		}
	}
}
