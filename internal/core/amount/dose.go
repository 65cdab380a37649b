package amount

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
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
	Why      string    // why no dose can be given; "" if one can
}

// TankDose is what one tank of a body gets.
type TankDose struct {
	Tank     *plumbing.Part
	Volume   quantity.Litre
	Measured quantity.Measured
	Filled   quantity.MgPerLitre
}

// Name names the tanks of the body.
func (p *DosePlan) Name() string {
	var names []string
	for _, t := range p.Tanks {
		names = append(names, t.Tank.Name)
	}
	return strings.Join(names, " and ")
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
	for _, b := range flow.Bodies(n, a.State) {
		p, swept := planDose(n, a, b, rules)
		for i, yes := range swept {
			treated[i] = treated[i] || yes
		}
		list = append(list, p)
	}
	if list != nil {
		list[0].Pockets = plainLines(n, treated)
	}
	if list == nil {
		list = append(list, DosePlan{Why: "This model has no fresh tank to dose."})
	}
	return list
}

// planDose works the dose of one body out: the weakest place comes to the
// target or above, the strongest stays below every limit.
func planDose(n *plumbing.Network, a *setting.Answer, body flow.Body, rules house.House) (DosePlan, []bool) {
	sys := n.Model.System()
	p := DosePlan{Target: house.Target.Of(rules), Ceiling: lowestLimit(rules), Product: house.Bleach.Of(rules), Lines: Worksheet{Title: "Drawn off through the outlets"}}
	var heel quantity.Litre
	own := *a // the mode as this body alone feeds it
	own.Mode.From = nil
	for _, t := range body.Tanks {
		p.Tanks = append(p.Tanks, TankDose{Tank: t, Volume: t.Data.Capacity.Value()})
		p.Tank += t.Data.Capacity.Value()
		heel += t.Data.Heel.Value()
		if f := n.Node(t.ID + ".supply"); slices.Contains(a.Mode.From, f) && n.Joined(f) {
			own.Mode.From = append(own.Mode.From, f)
		}
	}
	p.Start = max(heel, p.Tank*quantity.Litre(house.Start.Of(rules)))
	swept := p.draw(n, &own, rules)
	first, ok := StartStrength(p.Target, p.Tank, p.Drawn)
	if !ok {
		p.Why = fmt.Sprintf("The lines take %s, more than the tank's %s: dose them from a container instead.", quantity.Both(p.Drawn, sys), quantity.Both(p.Tank, sys))
		return p, swept
	}
	p.Exact = Bleach(first, p.Tank, p.Product)
	p.measure(rules, sys)
	if p.strongest() > p.Ceiling {
		p.Why = fmt.Sprintf("%s in the tank is above the ceiling of %s for tanks and seals; choose a lower strength.", quantity.Show(p.strongest(), sys), quantity.Show(p.Ceiling, sys))
	}
	return p, swept
}

// plainLines lists the lines to and from tanks that the sanitizer of no body
// comes to.
func plainLines(n *plumbing.Network, treated []bool) (list []LeftOut) {
	for i := range n.AllLinks() {
		if l := &n.Links[i]; l.Line != nil && l.Line.Side == plumbing.Supply && !treated[i] && !n.FillHose(i) {
			list = append(list, LeftOut{l.Line.ID, LineName(n, l), "fills with plain water: pour dosed water through it, or empty it"})
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
			p.Lines.add(accumulatorRow(acc, rules))
		}
	}
	for _, o := range outlets {
		p.Lines.add(Row{Part: n.Nodes[o].Part.ID, What: fmt.Sprintf("%s, %s: until the sanitizer is there", n.Nodes[o].Part.Name, n.Nodes[o].Port), Formula: "overrun",
			Inputs: quantity.Show(house.Overrun.Of(rules), sys), Litre: house.Overrun.Of(rules), Source: source(rules, "overrun")})
	}
	p.Drawn = p.Lines.Total
	return swept
}

// accumulatorRow is what enters an accumulator.
func accumulatorRow(p *plumbing.Part, rules house.House) Row {
	return Row{Part: p.ID, What: p.Name, Formula: "share · capacity", Inputs: fmt.Sprintf("%.0f %% of %s", house.Accumulator.Of(rules)*100, p.Data.Capacity),
		Litre: p.Data.Capacity.Value() * quantity.Litre(house.Accumulator.Of(rules)), Source: source(rules, "accumulator")}
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
func (p *DosePlan) measure(rules house.House, sys quantity.System) {
	over := overMeasure(p.Exact, Bleach(p.Ceiling, p.Tank, p.Product), rules)
	var poured quantity.Litre
	p.Filled = quantity.MgPerLitre(math.MaxFloat64)
	for i := range p.Tanks {
		t := &p.Tanks[i]
		t.Measured = quantity.Household(p.Exact*t.Volume/p.Tank, over, sys)
		t.Filled = Strength(t.Measured.Litre, t.Volume, p.Product)
		poured += t.Measured.Litre
		p.Filled = min(p.Filled, t.Filled)
		p.Batches = append(p.Batches, Batches(t.Measured.Litre, p.Product, house.Container.Of(rules), house.Ceiling.Of(rules))...)
	}
	p.Measured = quantity.Household(poured, 0, sys) // of one tank the same again
	p.Final = TopUp(p.Filled, p.Tank, p.Drawn, 0)
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
func Batches(bleach quantity.Litre, product quantity.Percent, container quantity.Litre, ceiling quantity.MgPerLitre) []Batch {
	most := Bleach(ceiling, container, product)
	count := max(1, quantity.RoundUp(float64(bleach/most)))
	each := bleach / quantity.Litre(count)
	return []Batch{{Bleach: each, Water: container - each, Strength: Strength(each, container, product), Count: count}}
}

// LineBatch is a batch for the lines alone, at the strength of the tank.
func LineBatch(lines quantity.Litre, rules house.House, sys quantity.System) (bleach quantity.Measured, water quantity.Litre, really quantity.MgPerLitre) {
	water = house.Container.Of(rules) * quantity.Litre(quantity.RoundUp(float64(lines/house.Container.Of(rules))))
	bleach = quantity.Household(Bleach(house.Target.Of(rules), water, house.Bleach.Of(rules)), house.Over.Of(rules), sys)
	return bleach, water, Strength(bleach.Litre, water, house.Bleach.Of(rules))
}

// CompareBatch says what is wrong with a batch for the lines that was mixed
// apart from the tank's dose; "" if nothing is.
func CompareBatch(batch, tank, ceiling quantity.MgPerLitre) string {
	switch {
	case batch > ceiling:
		return fmt.Sprintf("The batch comes to %s, above the ceiling of %s for parts.", quantity.Show(batch, quantity.SI), quantity.Show(ceiling, quantity.SI))
	case batch > tank*1.5:
		return fmt.Sprintf("The batch comes to %s, %s times as strong as the tank's %s.", quantity.Show(batch, quantity.SI), quantity.Figure(float64(batch/tank), 2, 1), quantity.Show(tank, quantity.SI))
	case batch < tank/1.5:
		return fmt.Sprintf("The batch comes to %s, weaker than the tank's %s.", quantity.Show(batch, quantity.SI), quantity.Show(tank, quantity.SI))
	}
	return ""
}
