package amount

import (
	"math"
	"slices"
	"strings"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/figure"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// DosePlan is a dose of sanitizer for one body of tank water that allows for
// what is drawn off through the outlets and topped up with plain water.
type DosePlan struct {
	Target   quantity.MgPerLitre
	Ceiling  quantity.MgPerLitre // the lowest limit of any part
	Product  quantity.Percent
	Tanks    []TankDose     // each by its share: nothing mixes through a link by itself
	Tank     quantity.Litre // filled, all tanks of the body
	Start    quantity.Litre // in the tanks before they are dosed
	Lines    Worksheet      // what is drawn off through: lines, canister, accumulator, overrun
	Drawn    quantity.Litre // through the outlets until the sanitizer is there
	Exact    quantity.Litre // of bleach
	Measured quantity.Measured
	Filled   quantity.MgPerLitre // in the tank when it has been filled, and in the lines
	Final    quantity.MgPerLitre // in the tank after topping up: the weakest place
	Batches  []Batch
	Pockets  []LeftOut // of the first body: lines that fill without being dosed from any
	Why      fact.Fact // why no dose can be given; nothing if one can

	tank   figure.Cell[quantity.Litre]
	drawn  figure.Cell[quantity.Litre]
	filled figure.Cell[quantity.MgPerLitre]
}

// TankDose is what one tank of a body gets.
type TankDose struct {
	Tank     *plumbing.Part
	Volume   quantity.Litre
	Measured quantity.Measured
	Filled   quantity.MgPerLitre
}

// Name names the tanks of the body.
func (p *DosePlan) Name() fact.Fact {
	var tanks []*plumbing.Part
	for _, t := range p.Tanks {
		tanks = append(tanks, t.Tank)
	}
	return together(tanks)
}

// Batch is a container of thinned bleach.
type Batch struct {
	Bleach   quantity.Litre
	Water    quantity.Litre
	Strength quantity.MgPerLitre
	Count    int
}

// lowestLimit is the lowest strength that a part stands: the house's ceiling.
func lowestLimit(rules house.House) quantity.MgPerLitre { return house.Ceiling.Of(rules) }

// TopUp is the strength of a tank of volume V at strength c after d has been
// drawn off and replaced by water of strength w.
func TopUp(c quantity.MgPerLitre, v, d quantity.Litre, w quantity.MgPerLitre) quantity.MgPerLitre {
	return c + (w-c)*quantity.MgPerLitre(d/v)
}

// StartStrength is what a tank must have before d is drawn off and topped up
// with plain water, so that it keeps a target: target·V/(V − d). It reports
// false where all of it is drawn off.
func StartStrength(target quantity.MgPerLitre, v, d quantity.Litre) (start quantity.MgPerLitre, ok bool) {
	if d >= v {
		return start, false
	}
	return target * quantity.MgPerLitre(v/(v-d)), true
}

// PlanDoses works the doses out for a model, one for each body of tank water
// as the mode joins them.
func PlanDoses(n *plumbing.Network, a *setting.Answer, rules house.House) []DosePlan {
	var list []DosePlan
	treated := make([]bool, len(n.Links))
	bodies := bodiesOf(n, a)
	for i := range bodies.Value() {
		p, swept := planDose(n, a, bodies, i, rules)
		for i, yes := range swept {
			treated[i] = treated[i] || yes
		}
		list = append(list, p)
	}
	if list != nil {
		list[0].Pockets = plainLines(n, treated)
	}
	if list == nil {
		list = append(list, DosePlan{Why: fact.Of("dose.no-tank")})
	}
	return list
}

// bodiesOf are the bodies of tank water in a mode's setting, or as the handles
// normally stand.
func bodiesOf(n *plumbing.Network, a *setting.Answer) figure.Cell[[]flow.Body] {
	id, s := "bodies", state.Normal(n)
	if a != nil {
		id, s = "bodies/"+a.Mode.ID, a.State
	}
	names := func(list []flow.Body) figure.Value {
		var words []string
		for _, b := range list {
			for _, t := range b.Tanks {
				words = append(words, t.ID)
			}
			words = append(words, ";")
		}
		return figure.Choice(strings.Join(words, " "))
	}
	return figure.Work(n, id, names, func() []flow.Body {
		read(n, a)
		return flow.Bodies(n, s)
	})
}

// planDose works the dose of one body out: the weakest place comes to the
// target or above, the strongest stays below every limit.
func planDose(n *plumbing.Network, a *setting.Answer, bodies figure.Cell[[]flow.Body], which int,
	rules house.House) (DosePlan, []bool) {
	body := bodies.Value()[which]
	p := DosePlan{Target: house.Target.Of(rules), Ceiling: lowestLimit(rules), Product: house.Bleach.Of(rules),
		Lines: Worksheet{Title: fact.Of("sheet.drawn")}}
	id := "dose/" + body.Tanks[0].ID + "/"
	own := *a // the mode as this body alone feeds it
	own.Mode.From = nil
	tank := figure.Work(n, id+"tank", figure.Of, func() (sum quantity.Litre) {
		for _, t := range bodies.Of(n)[which].Tanks {
			sum += plumbing.Field(n, &t.Data.Capacity).Value()
		}
		return sum
	})
	for _, t := range body.Tanks {
		p.Tanks = append(p.Tanks, TankDose{Tank: t, Volume: plumbing.Field(n, &t.Data.Capacity).Value()})
		if f := n.Node(t.ID + ".supply"); slices.Contains(a.Mode.From, f) && n.Joined(f) {
			own.Mode.From = append(own.Mode.From, f)
		}
	}
	p.Tank, p.tank = tank.Value(), tank
	p.Start = figure.Work(n, id+"start", figure.Of, func() quantity.Litre {
		var heel quantity.Litre
		for _, t := range bodies.Of(n)[which].Tanks {
			heel += plumbing.Field(n, &t.Data.Heel).Value()
		}
		return max(heel, tank.Of(n)*quantity.Litre(house.Start.Of(rules)))
	}).Value()
	var swept []bool
	drawn := figure.Work(n, id+"drawn", figure.Of, func() quantity.Litre {
		bodies.Of(n) // from whose tanks it is drawn
		swept = p.draw(n, &own, rules)
		return p.Drawn
	})
	ok := true
	exact := figure.Work(n, id+"bleach", figure.Of, func() quantity.Litre {
		var first quantity.MgPerLitre
		first, ok = StartStrength(house.Target.Of(rules), tank.Of(n), drawn.Of(n))
		return Bleach(first, tank.Of(n), house.Bleach.Of(rules))
	})
	if !ok {
		p.Why = fact.Of("dose.lines-take-more", p.Drawn, p.Tank)
		return p, swept
	}
	p.Exact, p.drawn = exact.Value(), drawn
	p.measure(n, id, exact, drawn, tank, rules)
	if p.strongest() > p.Ceiling {
		p.Why = fact.Of("dose.above-ceiling", p.strongest(), p.Ceiling)
	}
	return p, swept
}

// plainLines lists the lines to and from tanks that the sanitizer of no body
// comes to.
func plainLines(n *plumbing.Network, treated []bool) (list []LeftOut) {
	for i := range n.AllLinks() {
		if l := &n.Links[i]; l.Line != nil && l.Line.Side == plumbing.Supply && !treated[i] && !n.FillHose(i) {
			list = append(list, LeftOut{l.Line.ID, LineName(n, l), fact.Of("left-out.plain")})
		}
	}
	return list
}

// draw adds up what is drawn off through the outlets that a body feeds, and
// marks the links on the way.
func (p *DosePlan) draw(n *plumbing.Network, a *setting.Answer, rules house.House) []bool {
	sys := n.Model.System()
	if len(a.Mode.From) == 0 {
		return make([]bool, len(n.Links))
	}
	c := courseOf(n, a)
	outlets, drains := ends(n, a)
	swept := c.swept(a.Mode.From, slices.Concat(outlets, drains))
	for i, l := range n.AllLinks() {
		if swept[i] {
			p.Lines.addLink(n, l, sys)
		}
	}
	for _, acc := range n.PartsOf(plumbing.RoleAccumulator) {
		if c.part(acc) {
			p.Lines.add(accumulatorRow(n, acc, rules))
		}
	}
	for _, o := range outlets {
		p.Lines.add(Row{Part: n.Nodes[o].Part.ID, What: fact.Of("row.until-sanitizer", n.Nodes[o].Part,
			plumbing.Side(n.Nodes[o].Port)), Formula: fact.Of("formula.overrun"),
			Inputs: shown(house.Overrun.Of(rules)), Litre: house.Overrun.Of(rules), Source: source(rules, "overrun")})
	}
	p.Drawn = p.Lines.Total
	return swept
}

// accumulatorRow is what enters an accumulator.
func accumulatorRow(n *plumbing.Network, p *plumbing.Part, rules house.House) Row {
	return Row{Part: p.ID, What: itself(p), Formula: fact.Of("formula.share-capacity"),
		Inputs: share(house.Accumulator.Of(rules), plumbing.Field(n, &p.Data.Capacity)),
		Litre:  plumbing.Field(n, &p.Data.Capacity).Value() * quantity.Litre(house.Accumulator.Of(rules)),
		Source: source(rules, "accumulator")}
}

// strongest is the strength of the strongest tank of the body when it is full:
// a small tank's share may be less than the finest measure.
func (p *DosePlan) strongest() (most quantity.MgPerLitre) {
	for _, t := range p.Tanks {
		most = max(most, t.Filled)
	}
	return most
}

// measure rounds the dose up to the coarsest household measure that stays
// within the house's margin and below the ceiling, for each tank by its share,
// and splits it into batches. The weakest tank tells what is left at the end.
func (p *DosePlan) measure(n *plumbing.Network, id string, exact, drawn, tank figure.Cell[quantity.Litre],
	rules house.House) {
	var poured []figure.Cell[quantity.Measured]
	var strengths []figure.Cell[quantity.MgPerLitre]
	for i := range p.Tanks {
		t := &p.Tanks[i]
		volume := func() quantity.Litre { return plumbing.Field(n, &t.Tank.Data.Capacity).Value() }
		measured := figure.Work(n, id+"measured/"+t.Tank.ID, measureValue, func() quantity.Measured {
			all := tank.Of(n)
			over := overMeasure(exact.Of(n), Bleach(lowestLimit(rules), all, house.Bleach.Of(rules)), rules)
			return quantity.Household(exact.Of(n)*volume()/all, over, n.System())
		})
		filled := figure.Work(n, id+"filled/"+t.Tank.ID, figure.Of, func() quantity.MgPerLitre {
			return Strength(measured.Of(n).Litre, volume(), house.Bleach.Of(rules))
		})
		batches := figure.Work(n, id+"batches/"+t.Tank.ID, batchValue, func() []Batch {
			return Batches(measured.Of(n).Litre, house.Bleach.Of(rules), house.Container.Of(rules),
				house.Ceiling.Of(rules))
		})
		t.Measured, t.Filled = measured.Value(), filled.Value()
		p.Batches = append(p.Batches, batches.Value()...)
		poured, strengths = append(poured, measured), append(strengths, filled)
	}
	p.Measured = figure.Work(n, id+"measured", measureValue, func() quantity.Measured {
		var sum quantity.Litre
		for _, c := range poured {
			sum += c.Of(n).Litre
		}
		return quantity.Household(sum, 0, n.System()) // of one tank the same again
	}).Value()
	weakest := figure.Work(n, id+"filled", figure.Of, func() quantity.MgPerLitre {
		least := quantity.MgPerLitre(math.MaxFloat64)
		for _, c := range strengths {
			least = min(least, c.Of(n))
		}
		return least
	})
	p.Filled, p.filled = weakest.Value(), weakest
	p.Final = figure.Work(n, id+"final", figure.Of, func() quantity.MgPerLitre {
		return TopUp(weakest.Of(n), tank.Of(n), drawn.Of(n), 0)
	}).Value()
}

func measureValue(m quantity.Measured) figure.Value { return figure.Measure{V: m} }

// batchValue is how strong the batches are: how many is told by their count.
func batchValue(list []Batch) figure.Value {
	return figure.Band[quantity.MgPerLitre]{Low: list[0].Strength,
		High: list[0].Strength * quantity.MgPerLitre(list[0].Count)}
}

// overMeasure is the share that a measure may lie above an exact dose: the
// house's, and no more than the most that may be poured in.
func overMeasure(exact, most quantity.Litre, rules house.House) float64 {
	if share := float64(most / exact); share >= 1 {
		return min(house.Over.Of(rules), share-1)
	}
	return house.Over.Of(rules)
}

// Batches splits bleach over containers so that none is stronger than the
// ceiling: as few as will do, all alike.
func Batches(bleach quantity.Litre, product quantity.Percent, container quantity.Litre,
	ceiling quantity.MgPerLitre) []Batch {
	most := Bleach(ceiling, container, product)
	count := max(1, quantity.RoundUp(float64(bleach/most)))
	each := bleach / quantity.Litre(count)
	return []Batch{{Bleach: each, Water: container - each, Strength: Strength(each, container, product), Count: count}}
}

// batchWater is whole containers that hold what the lines take.
func batchWater(lines quantity.Litre, rules house.House) quantity.Litre {
	container := house.Container.Of(rules)
	return container * quantity.Litre(quantity.RoundUp(float64(lines/container)))
}

func batchBleach(water quantity.Litre, rules house.House, sys quantity.System) quantity.Measured {
	return quantity.Household(Bleach(house.Target.Of(rules), water, house.Bleach.Of(rules)), house.Over.Of(rules), sys)
}

// LineBatchOf is a batch for what a dose draws off, at the strength of the tank, each of it a figure.
func LineBatchOf(n *plumbing.Network, d *DosePlan,
	rules house.House) (bleach quantity.Measured, water quantity.Litre, really quantity.MgPerLitre) {
	w := figure.Work(n, "batch/water", figure.Of, func() quantity.Litre { return batchWater(d.drawn.Of(n), rules) })
	m := figure.Work(n, "batch/bleach", measureValue, func() quantity.Measured {
		return batchBleach(w.Of(n), rules, n.System())
	})
	s := figure.Work(n, "batch/strength", figure.Of, func() quantity.MgPerLitre {
		return Strength(m.Of(n).Litre, w.Of(n), house.Bleach.Of(rules))
	})
	return m.Value(), w.Value(), s.Value()
}

// OutletTime is OutletTime of what the dose draws off.
func (p *DosePlan) OutletTime(n *plumbing.Network, rules house.House) quantity.Second {
	return OutletTime(n, p.drawn.Of(n), rules)
}

// CompareBatch says what is wrong with a batch for the lines that was mixed
// apart from the tank's dose; nothing if that is right.
func CompareBatch(batch, tank, ceiling quantity.MgPerLitre) fact.Fact {
	switch {
	case batch > ceiling:
		return fact.Of("batch.above-ceiling", batch, ceiling)
	case batch > tank*1.5:
		return fact.Of("batch.stronger", batch, quantity.Figure(float64(batch/tank), 2, 1), tank)
	case batch < tank/1.5:
		return fact.Of("batch.weaker", batch, tank)
	}
	return fact.Fact{}
}
