package amount

import (
	"fmt"
	"math"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
)

// DosePlan is a dose of sanitizer that allows for what is drawn off through
// the outlets and topped up with plain water.
type DosePlan struct {
	Target   quantity.MgPerLitre
	Ceiling  quantity.MgPerLitre // the lowest limit of any part
	Product  quantity.Percent
	Tank     quantity.Litre // filled
	Start    quantity.Litre // in the tank before it is dosed
	Lines    Worksheet      // what is drawn off through: lines, canister, accumulator, overrun
	Drawn    quantity.Litre // through the outlets until the sanitizer is there
	Exact    quantity.Litre // of bleach
	Measured quantity.Measured
	Filled   quantity.MgPerLitre // in the tank when it has been filled, and in the lines
	Final    quantity.MgPerLitre // in the tank after topping up: the weakest place
	Batches  []Batch
	Pockets  []LeftOut // lines that fill without being dosed
	Why      string    // why no dose can be given; "" if one can
}

// Batch is a container of thinned bleach.
type Batch struct {
	Bleach   quantity.Litre
	Water    quantity.Litre
	Strength quantity.MgPerLitre
	Count    int
}

// lowestLimit is the lowest strength that a part stands: the house's ceiling.
func lowestLimit(house House) quantity.MgPerLitre { return house.BatchCeiling }

// TopUp is the strength of a tank of volume V at strength c after d has been
// drawn off and replaced by water of strength w.
func TopUp(c quantity.MgPerLitre, v, d quantity.Litre, w quantity.MgPerLitre) quantity.MgPerLitre {
	return c + (w-c)*quantity.MgPerLitre(d/v)
}

// StartStrength is what a tank must have before d is drawn off and topped up
// with plain water, so that it keeps a target: target·V/(V − d).
func StartStrength(target quantity.MgPerLitre, v, d quantity.Litre) quantity.MgPerLitre {
	return target * quantity.MgPerLitre(v/(v-d))
}

// PlanDose works the dose out for a model: the weakest place comes to the
// target or above, the strongest stays below every limit.
func PlanDose(n *plumbing.Network, a *setting.Answer, house House) DosePlan {
	sys := n.Model.System()
	p := DosePlan{Target: house.TargetStrength, Ceiling: lowestLimit(house), Product: house.Bleach, Tank: tankVolume(n), Lines: Worksheet{Title: "Drawn off through the outlets"}}
	p.Start = max(heelVolume(n), p.Tank*quantity.Litre(house.StartLevel))
	s := a.Setting
	s.PumpOn = a.Mode.PumpOn
	outlets, drains := ends(n, a)
	swept := sweptFrom(n, s, a.Mode.From, append(outlets, drains...))
	for i, yes := range swept {
		if l := &n.Links[i]; yes && l.Content > 0 {
			p.Lines.add(linkRow(n, l, sys))
		}
	}
	for _, o := range outlets {
		p.Lines.add(Row{Part: n.Nodes[o].Part.ID, What: fmt.Sprintf("%s, %s: until the sanitizer is there", n.Nodes[o].Part.Name, n.Nodes[o].Port), Formula: "overrun",
			Inputs: quantity.Show(house.Overrun, sys), Litre: house.Overrun, Source: house.source("overrun")})
	}
	p.Drawn = p.Lines.Total
	for i := range n.Links {
		if l := &n.Links[i]; l.Line != nil && l.Line.Side == plumbing.Supply && !swept[i] {
			p.Pockets = append(p.Pockets, LeftOut{l.Line.ID, LineName(n, l), "fills with plain water: pour dosed water through it, or empty it"})
		}
	}
	if p.Drawn >= p.Tank {
		p.Why = fmt.Sprintf("The lines take %s, more than the tank's %s: dose them from a container instead.", quantity.Both(p.Drawn, sys), quantity.Both(p.Tank, sys))
		return p
	}
	first := StartStrength(p.Target, p.Tank, p.Drawn)
	p.Exact = Bleach(first, p.Tank, p.Product)
	p.measure(house, sys)
	if p.Filled > p.Ceiling {
		p.Why = fmt.Sprintf("%s in the tank is above the ceiling of %s for tanks and seals; choose a lower strength.", quantity.Show(p.Filled, sys), quantity.Show(p.Ceiling, sys))
	}
	return p
}

// measure rounds the dose up to the coarsest household measure that stays
// within the house's margin and below the ceiling, and splits it into batches.
func (p *DosePlan) measure(house House, sys quantity.System) {
	over := house.OverMeasure
	if most := float64(Bleach(p.Ceiling, p.Tank, p.Product) / p.Exact); most >= 1 {
		over = min(over, most-1)
	}
	p.Measured = quantity.Household(p.Exact, over, sys)
	p.Filled = Strength(p.Measured.Litre, p.Tank, p.Product)
	p.Final = TopUp(p.Filled, p.Tank, p.Drawn, 0)
	p.Batches = Batches(p.Measured.Litre, p.Product, house.Container, house.BatchCeiling)
}

// Batches splits bleach over containers so that none is stronger than the
// ceiling: as few as will do, all alike.
func Batches(bleach quantity.Litre, product quantity.Percent, container quantity.Litre, ceiling quantity.MgPerLitre) []Batch {
	most := Bleach(ceiling, container, product)
	count := max(1, int(math.Ceil(float64(bleach/most)-1e-9)))
	each := bleach / quantity.Litre(count)
	return []Batch{{Bleach: each, Water: container - each, Strength: Strength(each, container, product), Count: count}}
}

// LineBatch is a batch for the lines alone, at the strength of the tank.
func LineBatch(lines quantity.Litre, house House, sys quantity.System) (bleach quantity.Measured, water quantity.Litre, really quantity.MgPerLitre) {
	water = house.Container * quantity.Litre(math.Ceil(float64(lines/house.Container)-1e-9))
	bleach = quantity.Household(Bleach(house.TargetStrength, water, house.Bleach), house.OverMeasure, sys)
	return bleach, water, Strength(bleach.Litre, water, house.Bleach)
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
