package amount

import (
	"fmt"
	"math"
	"strings"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

const (
	gravity     = 9.80665 // m/s²
	orificeCd   = 0.62    // sharp-edged opening
	waterHeat   = 4.186   // kJ/(kg·K)
	looseLoss   = 0.85    // share of a burner's or element's heat that gets into the water
	coolPerHour = 0.12    // share of the difference to the air that a jacketed heater loses in an hour
)

// Shape gives the area of a tank's water surface, in m², at a height above its
// bottom, in m.
type Shape func(height float64) float64

// Prism is a tank with upright walls.
func Prism(area float64) Shape { return func(float64) float64 { return area } }

// DrainTime is how long a tank takes to run out by gravity through an opening,
// from one height of water above it to another:
// ∫ A(h)/(Cd·a·√(2·g·h)) dh, for a prism t = A/(Cd·a)·√(2/g)·(√h₀−√h₁).
func DrainTime(shape Shape, bore quantity.Millimetre, from, to quantity.Metre) quantity.Second {
	a := math.Pi / 4 * math.Pow(float64(bore)/1000, 2)
	if a <= 0 || from <= to {
		return 0
	}
	// With u = √h the integrand has no pole at nought: dh/√h = 2·du. Simpson's rule.
	u0, u1 := math.Sqrt(math.Max(0, float64(to))), math.Sqrt(float64(from))
	const steps = 400
	f := func(u float64) float64 { return 2 * shape(u*u) / (orificeCd * a * math.Sqrt(2*gravity)) }
	h := (u1 - u0) / steps
	sum := f(u0) + f(u1)
	for i := 1; i < steps; i++ {
		sum += f(u0+float64(i)*h) * float64(2+2*(i%2))
	}
	return quantity.Second(sum * h / 3)
}

// TankDrain is how long a model's tank takes to run out, from full to its heel.
func TankDrain(t *plumbing.Part, drain *plumbing.Part) quantity.Second {
	d := t.Data
	area := float64(d.Capacity.Value()) / 1000 / math.Max(0.01, float64(d.InsideHeight.Value())/1000)
	bore := d.Bore.Or(drain.Data.Bore.Value())
	if b := drain.Data.Bore.Value(); b > 0 && b < bore {
		bore = b
	}
	heel := quantity.Metre(float64(d.Heel.Value()) / 1000 / area)
	return DrainTime(Prism(area), bore, quantity.Metre(d.InsideHeight.Value()/1000), heel)
}

// FillTime is how long a volume takes to come in.
func FillTime(v quantity.Litre, q quantity.LitrePerMinute) quantity.Second {
	if q <= 0 {
		return 0
	}
	return quantity.Second(float64(v) / float64(q) * 60)
}

// WarmUp is how long a power takes to warm water up.
func WarmUp(v quantity.Litre, from, to quantity.Celsius, power quantity.Kilowatt) quantity.Second {
	if power <= 0 || to <= from {
		return 0
	}
	return quantity.Second(float64(v) * quantity.WaterDensity * waterHeat * float64(to-from) / (float64(power) * looseLoss))
}

// CoolDown is how long a jacketed heater takes to cool by itself until it may
// be opened, in air of 20 °C: a start value; drawing cold water through it is
// much faster.
func CoolDown(from, to quantity.Celsius) quantity.Second {
	const air = 20
	if from <= to || to <= air {
		return 0
	}
	return quantity.Second(3600 * math.Log(float64(from-air)/float64(to-air)) / coolPerHour)
}

// TimeOf sums the times up whose ids begin alike.
func TimeOf(list []Figure, prefix string) (t quantity.Second) {
	for _, f := range list {
		if strings.HasPrefix(f.ID, prefix) {
			t += f.Takes
		}
	}
	return t
}

// OutletTime is how long it takes to draw a volume through the outlets one
// after another with the pump, whose flow falls to half with one tap open, and
// to walk from one outlet to the next, a minute each.
func OutletTime(n *plumbing.Network, drawn quantity.Litre, house House) quantity.Second {
	walk := quantity.Second(60 * len(n.PartsOf(plumbing.Outlet)))
	return Duty(FillTime(drawn, pumpFlow(n)*0.5), house) + walk
}

// Times works out how long things take on a model.
func Times(n *plumbing.Network, house House) []Figure {
	sys := n.Model.System()
	var list []Figure
	add := func(id, title string, t quantity.Second, rules []string, steps ...FigureStep) {
		list = append(list, Figure{ID: id, Title: title, Value: quantity.Neat(t, sys), Takes: t, Steps: steps, Rules: rules})
	}
	for _, t := range n.PartsOf(plumbing.Tank) {
		q := house.SupplyFlow
		where := "the house's hose"
		rules := []string{"supply-flow"}
		for _, f := range n.PartsOf(plumbing.GravityFill) {
			if own := f.Data.Flow.Value(); own > 0 && own < q {
				q, where, rules = own, f.Name, nil
			}
		}
		v := t.Data.Capacity.Value()
		add("fill-"+t.ID, "Filling: "+t.Name, FillTime(v, q), rules, FigureStep{t.ID, t.Name, "capacity ÷ flow", fmt.Sprintf("%s ÷ %s, %s", t.Data.Capacity, quantity.Both(q, sys), where), quantity.Neat(FillTime(v, q), sys), "data of the part"})
		for _, d := range n.PartsOf(plumbing.LowPoint) {
			if t.Data.InsideHeight.IsZero() || !joinsPort(n, t.ID+".drain", d) {
				continue
			}
			time := TankDrain(t, d)
			if time > 0 {
				add("drain-"+t.ID, "Draining by gravity: "+t.Name, time, nil, FigureStep{d.ID, d.Name, "A/(Cd·a)·√(2/g)·(√h₀−√h₁)",
					fmt.Sprintf("%s high, bore %s, Cd 0.62, to its heel of %s", t.Data.InsideHeight, boreOf(t, d), quantity.Both(t.Data.Heel.Value(), sys)), quantity.Neat(time, sys), "orifice, prismatic tank"})
			}
		}
	}
	if tank := tankVolume(n); tank > 0 && len(n.PartsOf(plumbing.Pump)) > 0 {
		run := FillTime(tank, pumpFlow(n))
		add("pump-out", "Pumping the tank out", Duty(run, house), []string{"pump-on", "pump-off"}, FigureStep{"", "Running", "V ÷ free flow", fmt.Sprintf("%s ÷ %s", quantity.Both(tank, sys), quantity.Both(pumpFlow(n), sys)), quantity.Neat(run, sys), "data of the pump"},
			FigureStep{"", "With rests", "duty cycle", fmt.Sprintf("%s on, %s off", quantity.Neat(house.PumpOn, sys), quantity.Neat(house.PumpOff, sys)), quantity.Neat(Duty(run, house), sys), house.source("pump-on")})
		for _, p := range n.PartsOf(plumbing.Pump) {
			v := suctionContent(n, p)
			t := FillTime(v, p.Data.Flow.Value())
			add("prime-"+p.ID, "Priming: "+p.Name, t, nil, FigureStep{p.ID, "Suction line, strainer and pump", "content ÷ free flow", fmt.Sprintf("%s ÷ %s", quantity.Both(v, sys), p.Data.Flow), quantity.Neat(t, sys), "line list"})
		}
	}
	for _, h := range n.PartsOf(plumbing.Heater) {
		v := h.Data.Capacity.Value()
		q := pumpFlow(n) * 0.5
		add("heater-fill-"+h.ID, "Filling: "+h.Name, FillTime(v, q), nil, FigureStep{h.ID, h.Name, "capacity ÷ half the pump's flow", fmt.Sprintf("%s ÷ %s", h.Data.Capacity, quantity.Both(q, sys)), quantity.Neat(FillTime(v, q), sys), "one hot tap open"})
		power := h.Data.Gas.Value() + h.Data.Electric.Value()
		if storage := h.Data.Type == "storage-steel" || h.Data.Type == "storage-clad" || h.Data.Type == "combi"; storage {
			if power > 0 {
				t := WarmUp(v, house.WaterTemp, house.HotTemp, power)
				add("warm-"+h.ID, "Warming up: "+h.Name, t, []string{"water-temp", "hot-temp"}, FigureStep{h.ID, h.Name, "m·c·ΔT ÷ (0.85·P)", fmt.Sprintf("%s from %s to %s with %s", h.Data.Capacity, quantity.Show(house.WaterTemp, sys), quantity.Show(house.HotTemp, sys), quantity.Both(power, sys)), quantity.Neat(t, sys), "c = 4.186 kJ/(kg·K)"})
			}
			t := CoolDown(house.HotTemp, house.SafeTemp)
			add("cool-"+h.ID, "Cooling before it may be opened: "+h.Name, t, []string{"hot-temp", "safe-temp"}, FigureStep{h.ID, h.Name, "ln(ΔT₀/ΔT₁) ÷ 0.12 per hour", fmt.Sprintf("from %s to %s in air of %s", quantity.Show(house.HotTemp, sys), quantity.Show(house.SafeTemp, sys), quantity.Show(quantity.Celsius(20), sys)), quantity.Neat(t, sys), "start value; cold water drawn through it is faster"})
		}
	}
	return list
}

func boreOf(t, d *plumbing.Part) string {
	if b := d.Data.Bore; !b.IsZero() && (t.Data.Bore.IsZero() || b.Value() < t.Data.Bore.Value()) {
		return b.String()
	}
	return t.Data.Bore.String()
}

// joinsPort reports whether a line joins a port to a part.
func joinsPort(n *plumbing.Network, port string, p *plumbing.Part) bool {
	node := n.Node(port)
	if node < 0 {
		return false
	}
	for _, li := range n.Nodes[node].Links {
		if n.Links[li].Line != nil && n.Nodes[n.Links[li].Other(node)].Part == p {
			return true
		}
	}
	return false
}

// suctionContent is what stands between the tank and a pump, the pump
// included.
func suctionContent(n *plumbing.Network, pump *plumbing.Part) (v quantity.Litre) {
	in := n.Node(pump.ID + ".in")
	seen := map[int]bool{}
	queue := []int{in}
	v = pump.Holds()
	nodes := map[int]bool{in: true}
	for len(queue) > 0 {
		at := queue[0]
		queue = queue[1:]
		for _, li := range n.Nodes[at].Links {
			l := &n.Links[li]
			other := l.Other(at)
			p := n.Nodes[other].Part
			if seen[li] || p == pump || l.Part == pump {
				continue
			}
			seen[li] = true
			v += l.Content
			if p.Kind == plumbing.Tank || p.Kind == plumbing.ContainerPort || nodes[other] {
				continue
			}
			nodes[other] = true
			queue = append(queue, other)
		}
	}
	return v
}
