package amount

import (
	"math"
	"slices"
	"strings"

	"coldtap/internal/core/constant"
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

// Shape gives the area of a tank's water surface, in m², at a height above its
// bottom, in m.
type Shape func(height float64) float64

// Prism is a tank with upright walls.
func Prism(area float64) Shape { return func(float64) float64 { return area } }

// DrainTime is how long a tank takes to run out by gravity through an opening,
// from one height of water above it to another:
// ∫ A(h)/(Cd·a·√(2·g·h)) dh, for a prism t = A/(Cd·a)·√(2/g)·(√h₀−√h₁).
func DrainTime(rec *record.Recorder, shape Shape, bore quantity.Millimetre, from, to quantity.Metre) quantity.Second {
	a := math.Pi / 4 * math.Pow(float64(bore)/1000, 2)
	if a <= 0 || from <= to {
		return 0
	}
	// With u = √h the integrand has no pole at nought: dh/√h = 2·du. Simpson's rule.
	u0, u1 := math.Sqrt(math.Max(0, float64(to))), math.Sqrt(float64(from))
	const steps = 400
	f := func(u float64) float64 {
		return 2 * shape(u*u) / (constant.Orifice.Of(rec) * a * math.Sqrt(2*constant.Gravity.Of(rec)))
	}
	h := (u1 - u0) / steps
	sum := f(u0) + f(u1)
	for i := 1; i < steps; i++ {
		sum += f(u0+float64(i)*h) * float64(2+2*(i%2))
	}
	return quantity.Second(sum * h / 3)
}

// TankDrain is how long tanks that are joined below the water take to run out
// through the drain of one of them, from full to their heels; what is missing
// to know it, if anything is.
func TankDrain(n *plumbing.Network, tanks []*plumbing.Part, at, drain *plumbing.Part) (quantity.Second, []Missing) {
	var missing []Missing
	area, heel := 0.0, 0.0
	height := quantity.Millimetre(0)
	for _, t := range tanks {
		h := plumbing.Field(n, &t.Data.InsideHeight).Value()
		if h <= 0 {
			missing = append(missing, lacks(t, "inside-height"))
			continue
		}
		area += float64(plumbing.Field(n, &t.Data.Capacity).Value()) / float64(h)
		heel += float64(plumbing.Field(n, &t.Data.Heel).Value()) / 1000
		height = max(height, h)
	}
	bore := DrainBore(n, at, drain)
	if bore <= 0 {
		missing = append(missing, lacks(drain, "bore"))
	}
	if missing != nil || area <= 0 {
		return 0, missing
	}
	return DrainTime(n.Recorder(), Prism(area), bore, quantity.Metre(height/1000), quantity.Metre(heel/area)), nil
}

// DrainBore is the narrower bore of a tank and its drain, of those that are
// given; 0 where none is.
func DrainBore(n *plumbing.Network, tank, drain *plumbing.Part) quantity.Millimetre {
	a, b := plumbing.Field(n, &tank.Data.Bore).Value(), plumbing.Field(n, &drain.Data.Bore).Value()
	if a <= 0 || b > 0 && b < a {
		return b
	}
	return a
}

// FillTime is how long a volume takes to come in.
func FillTime(v quantity.Litre, q quantity.LitrePerMinute) quantity.Second {
	if q <= 0 {
		return 0
	}
	return quantity.Second(float64(v) / float64(q) * 60)
}

// WarmUp is how long a power takes to warm water up.
func WarmUp(rec *record.Recorder, v quantity.Litre, from, to quantity.Celsius, power quantity.Kilowatt) quantity.Second {
	if power <= 0 || to <= from {
		return 0
	}
	kilograms := float64(v) * constant.WaterDensity.Of(rec)
	kilojoules := kilograms * constant.WaterHeat.Of(rec) * float64(to-from)
	return quantity.Second(kilojoules / (float64(power) * constant.Efficiency.Of(rec)))
}

// HeatLoss is what a storage heater loses for each degree above the air, in
// watts: through its jacket, λ·A/t with λ = 0.04 W/(m·K) of foam and the
// surface of an upright cylinder as wide as it is high, and 1 W/K by pipes and
// flue. A jacket that nobody gave is taken to be 20 mm thick. However thin it
// is, still air takes no more than 10 W/(m²·K) from a surface.
func HeatLoss(rec *record.Recorder, v quantity.Litre, jacket quantity.Millimetre) float64 {
	foam, film, rest := constant.Foam.Of(rec), constant.StillAir.Of(rec), constant.HeaterPipes.Of(rec)
	d := math.Cbrt(4 * float64(v) / 1000 / math.Pi)
	return min(foam/(float64(jacket)/1000), film)*1.5*math.Pi*d*d + rest
}

// CoolDown is how long a heater takes to cool by itself until it may be
// opened, in air of 20 °C: m·c/k·ln(ΔT₀/ΔT₁). Drawing cold water through it is
// much faster.
func CoolDown(rec *record.Recorder, v quantity.Litre, jacket quantity.Millimetre, from, to quantity.Celsius) quantity.Second {
	room := constant.Room.Of(rec)
	if from <= to || to <= room {
		return 0
	}
	tau := float64(v) * constant.WaterDensity.Of(rec) * constant.WaterHeat.Of(rec) * 1000 / HeatLoss(rec, v, jacket)
	return quantity.Second(tau * math.Log(float64(from-room)/float64(to-room)))
}

// TimeOf sums the times up whose ids begin alike.
func TimeOf(n *plumbing.Network, list []Figure, prefix string) (t quantity.Second) {
	for _, f := range list {
		if strings.HasPrefix(f.ID, prefix) {
			t += f.cell.Of(n).takes
		}
	}
	return t
}

// TimeByID is the time of an id; 0 where it is not known.
func TimeByID(n *plumbing.Network, list []Figure, id string) quantity.Second {
	for _, f := range list {
		if f.ID == id {
			return f.cell.Of(n).takes
		}
	}
	return 0
}

// OutletTime is how long it takes to draw a volume through the outlets one
// after another with the pump, whose flow falls to half with one tap open, and
// to walk from one outlet to the next, a minute each.
func OutletTime(n *plumbing.Network, drawn quantity.Litre, rules house.House) quantity.Second {
	walk := quantity.Second(60 * len(n.PartsOf(plumbing.RoleOutlet)))
	return Duty(FillTime(drawn, pumpFlow(n)*0.5), rules) + walk
}

// UnknownOf is what is missing for the times whose ids begin alike; nothing if
// all is known.
func UnknownOf(list []Figure, prefixes ...string) fact.Fact {
	for _, f := range list {
		for _, p := range prefixes {
			if strings.HasPrefix(f.ID, p) && len(f.Missing) > 0 {
				return missingSaid(f.Missing)
			}
		}
	}
	return fact.Fact{}
}

// timing collects the times of a model.
type timing struct {
	n     *plumbing.Network
	rules house.House
	sys   quantity.System
	list  []Figure

	bodies figure.Cell[[]flow.Body] // of tank water, as the handles normally stand
}

// lasting is how long something takes, how that was worked out, or what is
// missing for it.
type lasting struct {
	takes   quantity.Second
	steps   []figure.Line
	missing []Missing
}

// Lines implements figure.Sheet.
func (l lasting) Lines() []figure.Line { return l.steps }

// add works a time out.
func (t *timing) add(id string, title fact.Fact, work func() lasting) {
	value := func(l lasting) figure.Value {
		if l.missing != nil {
			return figure.AtLeast{Missing: l.missing}
		}
		return figure.Of(l.takes)
	}
	c := figure.Work(t.n, "time/"+id, value, work)
	l := c.Value()
	f := Figure{ID: id, Title: title, Value: neat(l.takes), Takes: l.takes, Steps: l.steps, cell: c}
	if l.missing != nil {
		f.Value, f.Missing = fact.Of("figure.not-known", missingSaid(l.missing)), l.missing
	}
	t.list = append(t.list, f)
}

// step is a lasting with one line of working.
func (t *timing) step(takes quantity.Second, part string, what fact.Fact, how string, inputs fact.Fact) lasting {
	return t.stepFrom(takes, part, what, how, inputs, fact.Of("source."+how))
}

// stepFrom is step with a source of its own.
func (t *timing) stepFrom(takes quantity.Second, part string, what fact.Fact, how string, inputs,
	source fact.Fact) lasting {
	return lasting{takes: takes,
		steps: []figure.Line{line(part, what, fact.Of("formula."+how), inputs, neat(takes), source)}}
}

// Times works out how long things take on a model.
func Times(n *plumbing.Network, rules house.House) []Figure {
	t := &timing{n: n, rules: rules, sys: n.Model.System(), bodies: bodiesOf(n, nil)}
	for _, b := range t.bodies.Value() {
		t.fill(b.Tanks)
		t.drain(b.Tanks)
	}
	t.pumps()
	for _, h := range n.PartsOf(plumbing.RoleHeater) {
		t.heater(h)
	}
	return t.list
}

func (t *timing) fill(tanks []*plumbing.Part) {
	t.add("fill-"+tanks[0].ID, fact.Of("time.fill", tanks), func() lasting {
		q, where := house.SupplyFlow.Of(t.rules), fact.Of("inputs.hose")
		for _, f := range t.n.PartsOf(plumbing.RoleFill) {
			if own := plumbing.Field(t.n, &f.Data.Flow); !own.IsZero() && own.Value() < q {
				q, where = own.Value(), itself(f)
			}
		}
		v := t.holds(tanks)
		holds := both(v)
		if len(tanks) == 1 {
			holds = given(tanks[0].Data.Capacity)
		}
		return t.step(FillTime(v, q), tanks[0].ID, together(tanks), "fill", fact.Of("inputs.fill", holds, q, where))
	})
}

// holds is what some tanks hold in all.
func (t *timing) holds(tanks []*plumbing.Part) (sum quantity.Litre) {
	t.bodies.Of(t.n) // which tanks are one body
	for _, x := range tanks {
		sum += plumbing.Field(t.n, &x.Data.Capacity).Value()
	}
	return sum
}

// drain takes the first drain that any of the joined tanks has.
func (t *timing) drain(tanks []*plumbing.Part) {
	for _, tank := range tanks {
		for _, d := range t.n.PartsOf(plumbing.RoleDrain) {
			if !joinsPort(t.n, tank.ID+".drain", d) && !joinsPort(t.n, tank.ID+".bung", d) {
				continue
			}
			t.add("drain-"+tanks[0].ID, fact.Of("time.drain", tanks), func() lasting {
				t.bodies.Of(t.n)
				takes, missing := TankDrain(t.n, tanks, tank, d)
				if missing != nil {
					return lasting{missing: missing}
				}
				return t.step(takes, d.ID, itself(d), "drain",
					fact.Of("inputs.drain", tank.Data.InsideHeight, DrainBore(t.n, tank, d), tank.Data.Heel.Value()))
			})
			return
		}
	}
}

// pumps tells how long each pump takes to empty each body of water that it
// draws from, and to prime.
func (t *timing) pumps() {
	bodies, supplies := t.bodies.Value(), setting.Supplies(t.n)
	for _, b := range bodies {
		for _, s := range supplies {
			if !slices.ContainsFunc(b.Tanks, func(x *plumbing.Part) bool { return slices.Contains(s.Tanks, x) }) {
				continue
			}
			id, title := "pump-out", fact.Of("time.pump-out")
			if len(bodies) > 1 || len(supplies) > 1 {
				id, title = id+"-"+b.Tanks[0].ID+"-"+s.Pump.ID, fact.Of("time.pump-out-by", b.Tanks, s.Pump)
			}
			t.pumpOut(id, title, b.Tanks, s.Pump)
		}
	}
	for _, p := range t.n.Pumps {
		t.prime(p, "prime-"+p.ID, "prime", plumbing.RoleTank)
		t.prime(p, "prime-jug-"+p.ID, "prime-jug", plumbing.RolePickUp, plumbing.RoleJoint)
	}
}

func (t *timing) pumpOut(id string, title fact.Fact, tanks []*plumbing.Part, pump *plumbing.Part) {
	t.add(id, title, func() lasting {
		holds, flow := t.holds(tanks), plumbing.Field(t.n, &pump.Data.Flow)
		if flow.IsZero() {
			return lasting{missing: []Missing{lacks(pump, "free-flow")}}
		}
		run := FillTime(holds, flow.Value())
		takes := Duty(run, t.rules)
		on, off := house.PumpOn.Of(t.rules), house.PumpOff.Of(t.rules)
		return lasting{takes: takes, steps: []figure.Line{
			line("", fact.Of("row.pump-out"), fact.Of("formula.pump-out"),
				fact.Of("inputs.pump-out", holds, flow.Value()), neat(run), fact.Of("source.pump-out")),
			line("", fact.Of("row.duty"), fact.Of("formula.duty"), fact.Of("inputs.duty", on, off), neat(takes),
				source(t.rules, "pump-on")),
		}}
	})
}

// prime is how long a pump takes to fill the way to it from a kind of source.
func (t *timing) prime(pump *plumbing.Part, id, what string, from ...plumbing.Role) {
	path := suction(t.n, pump, from...)
	if path == nil {
		return
	}
	t.add(id, fact.Of("time."+what, pump), func() lasting {
		v, flow := t.n.HoldsOf(pump), plumbing.Field(t.n, &pump.Data.Flow)
		var missing []Missing
		for _, li := range suction(t.n, pump, from...) {
			v += t.n.Content(&t.n.Links[li])
			missing = append(missing, missingOf(t.n, &t.n.Links[li])...)
		}
		if flow.IsZero() {
			missing = append(missing, lacks(pump, "free-flow"))
		}
		if missing != nil {
			return lasting{missing: missing}
		}
		return t.step(FillTime(v, flow.Value()), pump.ID, fact.Of("row."+what), "prime",
			fact.Of("inputs.prime", v, flow))
	})
}

// flowTo is the free flow of the largest pump that gets to a heater, or
// a trickle where none does.
func flowTo(n *plumbing.Network, h *plumbing.Part) (q quantity.LitrePerMinute) {
	for _, s := range setting.Supplies(n) {
		if slices.Contains(s.Heaters, h) {
			q = max(q, plumbing.Field(n, &s.Pump.Data.Flow).Value())
		}
	}
	if q == 0 { // a portable one that is not coupled, or one that only an inlet feeds
		return pumpFlow(n)
	}
	return q
}

// suction is the shortest way from a tank, or from the mouth of a port where
// a container is joined, to a pump, however the handles stand.
func suction(n *plumbing.Network, pump *plumbing.Part, from ...plumbing.Role) []plumbing.LinkID {
	every := state.State{Handles: make([]plumbing.Positions, len(n.Handles))}
	for i, h := range n.AllHandles() {
		every.Handles[i] = h.Every()
	}
	var nodes []plumbing.NodeID
	for _, p := range n.PartsOf(from...) {
		port := ".mouth"
		if p.Role() == plumbing.RoleTank {
			port = ".supply"
		}
		nodes = append(nodes, n.Node(p.ID+port))
	}
	return flow.Reach(n, every, flow.Query{From: nodes}).Path(n.Node(pump.ID + ".in"))
}

func (t *timing) heater(h *plumbing.Part) {
	capacity := func() quantity.Litre { return plumbing.Field(t.n, &h.Data.Capacity).Value() }
	t.add("heater-fill-"+h.ID, fact.Of("time.heater-fill", h), func() lasting {
		q := flowTo(t.n, h) * 0.5
		return t.step(FillTime(capacity(), q), h.ID, itself(h), "heater-fill",
			fact.Of("inputs.heater-fill", h.Data.Capacity, q))
	})
	if !h.Storage() {
		return
	}
	if plumbing.Field(t.n, &h.Data.Gas).Value()+plumbing.Field(t.n, &h.Data.Electric).Value() > 0 {
		t.add("warm-"+h.ID, fact.Of("time.warm", h), func() lasting {
			power := plumbing.Field(t.n, &h.Data.Gas).Value() + plumbing.Field(t.n, &h.Data.Electric).Value()
			from, to := house.WaterTemp.Of(t.rules), house.HotTemp.Of(t.rules)
			return t.step(WarmUp(t.n.Recorder(), capacity(), from, to, power), h.ID, itself(h), "warm",
				fact.Of("inputs.warm", h.Data.Capacity, from, to, power))
		})
	}
	t.add("cool-"+h.ID, fact.Of("time.cool", h), func() lasting {
		rec := t.n.Recorder()
		own, source := plumbing.Field(t.n, &h.Data.Insulation), fact.Of("source.cool")
		jacket := own.Or(constant.Jacket.Of(rec))
		if own.IsZero() {
			source = fact.Of("source.cool.assumed")
		}
		v, from, to := capacity(), house.HotTemp.Of(t.rules), house.SafeTemp.Of(t.rules)
		return t.stepFrom(CoolDown(rec, v, jacket, from, to), h.ID, itself(h), "cool",
			fact.Of("inputs.cool", h.Data.Capacity, jacket, quantity.Figure(HeatLoss(rec, v, jacket), 2, 2), from, to,
				constant.Room.Of(rec)), source)
	})
}

// joinsPort reports whether a line joins a port to a part, or the part sits on it.
func joinsPort(n *plumbing.Network, port string, p *plumbing.Part) bool {
	node := n.Node(port)
	if node < 0 {
		return false
	}
	for _, li := range n.Nodes[node].Links {
		if l := &n.Links[li]; (l.Line != nil || l.Seat) && n.Nodes[n.Links[li].Other(node)].Part == p {
			return true
		}
	}
	return false
}
