package amount

import (
	"fmt"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
)

// Bleach is the volume of bleach that brings treated water to a strength:
// target × treated ÷ (10 000 × available chlorine in g per 100 mL).
func Bleach(target quantity.MgPerLitre, treated quantity.Litre, product quantity.Percent) quantity.Litre {
	return quantity.Litre(float64(target) * float64(treated) / (10000 * float64(product)))
}

// Strength is what bleach in water comes to: the inverse of Bleach.
func Strength(bleach, treated quantity.Litre, product quantity.Percent) quantity.MgPerLitre {
	if treated == 0 {
		return 0
	}
	return quantity.MgPerLitre(float64(bleach) * 10000 * float64(product) / float64(treated))
}

// Dose is a sanitizer dose for the tank and everything fed from it.
type Dose struct {
	Treated  Worksheet
	Target   quantity.MgPerLitre
	Product  quantity.Percent
	Exact    quantity.Litre
	Measured quantity.Measured
	Really   quantity.MgPerLitre // what the rounded measure gives
	Ceiling  quantity.MgPerLitre
	Premix   quantity.Litre // least water that thins one measure below the ceiling
	Why      string         // why no dose can be given; "" if one can
}

// Sanitizer works out the dose for the tanks and every line between them and
// the outlets in the setting of the answer.
func Sanitizer(n *plumbing.Network, a *setting.Answer, target quantity.MgPerLitre, product quantity.Percent, house House) Dose {
	sys := n.Model.System()
	d := Dose{Treated: Worksheet{Title: "Water that is treated"}, Target: target, Product: product, Ceiling: house.BatchCeiling}
	for _, t := range n.PartsOf(plumbing.Tank) {
		d.Treated.add(Row{Part: t.ID, What: t.Name + ", filled", Formula: "capacity", Inputs: t.Data.Capacity.String(), Litre: t.Data.Capacity.Value(), Source: "data of the part"})
	}
	s := a.Setting
	s.PumpOn = a.Mode.PumpOn
	outlets, drains := ends(n, a)
	for i, yes := range sweptFrom(n, s, a.Mode.From, append(outlets, drains...)) {
		if l := &n.Links[i]; yes && l.Content > 0 {
			d.Treated.add(linkRow(n, l, sys))
		}
	}
	d.Exact = Bleach(target, d.Treated.Total, product)
	d.Measured = quantity.Household(d.Exact, house.OverMeasure, sys)
	d.Really = Strength(d.Measured.Litre, d.Treated.Total, product)
	if d.Really > house.BatchCeiling {
		d.Why = fmt.Sprintf("%s is above the ceiling of %s for tanks and seals; choose a lower strength.",
			quantity.Show(d.Really, sys), quantity.Show(house.BatchCeiling, sys))
	}
	if d.Measured.Count > 0 {
		one := d.Measured.Litre / quantity.Litre(d.Measured.Count)
		d.Premix = quantity.Litre(float64(one) * 10000 * float64(product) / float64(house.BatchCeiling))
	}
	return d
}
