package amount

import (
	"fmt"

	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// ProductDose is what a body of tank water takes of a sanitizer as it is sold.
type ProductDose struct {
	Product  *plumbing.Consumable
	Tanks    string
	Measured quantity.Measured // of a liquid
	Count    int               // of tablets, or measures of powder
	Strength quantity.MgPerLitre
	Unknown  bool   // what strength it gives is not printed
	Wrong    string // why it is not to be used so
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
		p.Wrong = fmt.Sprintf("%s is above the ceiling of %s for tanks and seals.", quantity.Show(p.Strength, sys), quantity.Show(d.Ceiling, sys))
	case p.Strength < d.Target:
		p.Wrong = fmt.Sprintf("%s is below the %s that are asked for: it keeps water fresh, it does not disinfect.", quantity.Show(p.Strength, sys), quantity.Show(d.Target, sys))
	}
}

// Words tell the dose: "3 tablets", "1/4 cup".
func (p *ProductDose) Words() string {
	if p.Product.Form == "liquid" {
		return p.Measured.String()
	}
	measure := p.Product.Measure
	if measure == "" {
		measure = map[string]string{"tablets": "tablet", "powder": "measure"}[p.Product.Form]
	}
	if p.Count != 1 {
		measure += "s"
	}
	return fmt.Sprintf("%d %s", p.Count, measure)
}
