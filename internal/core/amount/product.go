package amount

import (
	"coldtap/internal/core/fact"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// ProductDose is what a body of tank water takes of a sanitizer as it is sold.
type ProductDose struct {
	Product  *plumbing.Consumable
	Tanks    fact.Fact
	Measured quantity.Measured // of a liquid
	Count    int               // of tablets, or measures of powder
	Strength quantity.MgPerLitre
	Unknown  bool      // what strength it gives is not printed
	Wrong    fact.Fact // why it is not to be used so
}

// ProductDoses works the doses out for each sanitizer that a model names and
// each body of water that can be dosed: of a liquid by its strength, of
// tablets and powder by the dose that is printed on them, whole ones.
func ProductDoses(n *plumbing.Network, doses []DosePlan, rules house.House) []ProductDose {
	var list []ProductDose
	sys := n.Model.System()
	for i := range n.Model.Consumables {
		c := &n.Model.Consumables[i]
		if c.What != "sanitizer" {
			continue
		}
		for k := range doses {
			if d := &doses[k]; d.Tank > 0 {
				p := ProductDose{Product: c, Tanks: d.Name()}
				p.dose(d, rules, sys)
				list = append(list, p)
			}
		}
	}
	return list
}

func (p *ProductDose) dose(d *DosePlan, rules house.House, sys quantity.System) {
	c := p.Product
	if c.Form == "liquid" {
		strength := quantity.Percent(c.Strength)
		first, ok := StartStrength(d.Target, d.Tank, d.Drawn)
		if !ok {
			p.Wrong = d.Why
			return
		}
		exact := Bleach(first, d.Tank, strength)
		p.Measured = quantity.Household(exact, overMeasure(exact, Bleach(d.Ceiling, d.Tank, strength), rules), sys)
		p.Strength = Strength(p.Measured.Litre, d.Tank, strength)
	} else {
		p.Count = quantity.RoundUp(float64(d.Tank / c.Treats.Value()))
		p.Unknown = c.Gives.IsZero()
		p.Strength = c.Gives.Value() * quantity.MgPerLitre(quantity.Litre(p.Count)*c.Treats.Value()/d.Tank)
	}
	switch {
	case p.Unknown:
	case p.Strength > d.Ceiling:
		p.Wrong = fact.Of("product.above-ceiling", p.Strength, d.Ceiling)
	case p.Strength < d.Target:
		p.Wrong = fact.Of("product.below", p.Strength, d.Target)
	}
}

// Said is the dose: "3 tablets", "1/4 cup".
func (p *ProductDose) Said() fact.Fact {
	switch {
	case p.Product.Form == "liquid":
		return fact.Of("it", p.Measured)
	case p.Product.Measure != "":
		return fact.Of("product.count", p.Count, p.Product.Measure)
	}
	return fact.Of("product."+p.Product.Form, p.Count)
}
