package amount

import (
	"cmp"
	"fmt"
	"slices"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// Weigh is the weight of water.
func Weigh(v quantity.Litre) quantity.Kilogram {
	return quantity.Kilogram(float64(v) * quantity.WaterDensity)
}

// Level is one reading of a tank's probes.
type Level struct {
	Tank      *plumbing.Part
	Reading   string
	Height    quantity.Metre // of the probe above the ground; 0 where it is not known
	Low, High quantity.Litre // what it means for the whole body of water, at least and at most
	Weight    quantity.Kilogram
	Left      quantity.Kilogram // of the carrying capacity, heater, lines and other tanks full
	Missing   []Missing         // figures without which it is not known
}

// probe is a place in a tank at which water is told.
type probe struct {
	name  string
	share float64 // of the tank's height
}

// probesOf are the probes of a tank where they are described, in the order of
// their height, and where none are four at thirds of it.
func probesOf(n *plumbing.Network, t *plumbing.Part) (list []probe, missing []Missing) {
	tall := float64(t.Data.InsideHeight.Value())
	for _, p := range n.PartsOf(plumbing.RoleProbe) {
		if p.Data.Serves != t.ID {
			continue
		}
		if tall <= 0 {
			missing = []Missing{{t.ID, t.Name, "inside height"}}
		}
		list = append(list, probe{cmp.Or(p.Label, p.Name), min(1, float64(p.Data.At.Value())/max(tall, 1))})
	}
	if list == nil {
		return []probe{{"empty", 0}, {"⅓", 1. / 3}, {"⅔", 2. / 3}, {"full", 0.97}}, nil
	}
	slices.SortFunc(list, func(a, b probe) int { return cmp.Or(cmp.Compare(a.share, b.share), cmp.Compare(a.name, b.name)) })
	if list[0].share > 0 {
		list = slices.Insert(list, 0, probe{"none lit", 0})
	}
	return list, missing
}

// Levels are the bands of each tank's probes: where they are described, or
// else four at thirds of its height. A probe tells that water is at its height,
// not how much above. Tanks
// that are joined below the water stand equally high above the ground, not
// equally full.
func Levels(n *plumbing.Network) []Level {
	whole, rest := tankVolume(n), fixedWater(n)
	carrying := n.Model.Carrying.Value()
	var list []Level
	for _, body := range flow.Bodies(n, state.Normal(n)) {
		var all quantity.Litre
		for _, t := range body.Tanks {
			all += t.Data.Capacity.Value()
		}
		for _, t := range body.Tanks {
			probes, unknown := probesOf(n, t)
			for i, p := range probes {
				next := 1.0
				if i+1 < len(probes) {
					next = probes[i+1].share
				}
				l := Level{Tank: t, Reading: p.name}
				l.Height, l.Low, l.Missing = upTo(body, t, p.share)
				l.Missing = append(l.Missing, unknown...)
				_, l.High, _ = upTo(body, t, next)
				l.Weight = Weigh(l.High + whole - all + rest)
				if carrying > 0 {
					l.Left = carrying - l.Weight
				}
				list = append(list, l)
			}
		}
	}
	return list
}

// upTo is what a body holds when the water stands in one of its tanks at
// a share of its height: as high above the ground in each of them.
func upTo(body flow.Body, in *plumbing.Part, share float64) (quantity.Metre, quantity.Litre, []Missing) {
	bottom := func(t *plumbing.Part) float64 { return float64(t.Place.Height.Value()) }
	tall := func(t *plumbing.Part) float64 { return float64(t.Data.InsideHeight.Value()) / 1000 }
	height := quantity.Metre(0)
	if tall(in) > 0 && !in.Place.Height.IsZero() {
		height = quantity.Metre(bottom(in) + share*tall(in))
	}
	if len(body.Tanks) == 1 {
		return height, in.Data.Capacity.Value() * quantity.Litre(share), nil
	}
	var sum quantity.Litre
	var missing []Missing
	for _, t := range body.Tanks {
		switch {
		case tall(t) <= 0:
			missing = append(missing, Missing{t.ID, t.Name, "inside height"})
		case t.Place.Height.IsZero():
			missing = append(missing, Missing{t.ID, t.Name, "height above the ground"})
		default:
			sum += t.Data.Capacity.Value() * quantity.Litre(min(1, max(0, (float64(height)-bottom(t))/tall(t))))
		}
	}
	return height, sum, missing
}

// fixedWater is what the heater and the lines hold whatever the tank's level.
func fixedWater(n *plumbing.Network) (v quantity.Litre) {
	for _, h := range n.PartsOf(plumbing.RoleHeater) {
		if h.Data.Type != "portable" {
			v += h.Data.Capacity.Value()
		}
	}
	return v + Contents(n, n.Model.System()).Total
}

// Weights is the weight of all water against the carrying capacity.
func Weights(n *plumbing.Network) Figure {
	sys := n.Model.System()
	tank, rest := tankVolume(n), fixedWater(n)
	total := Weigh(AllWater(n))
	f := Figure{ID: "weight", Title: "Water, all full", Value: quantity.Both(total, sys)}
	f.step("", "Fresh tanks", "V · 0.998 kg/L", quantity.Both(tank, sys), quantity.Both(Weigh(tank), sys), "water at 20 °C")
	f.step("", "Heater and lines", "V · 0.998 kg/L", quantity.Both(rest, sys), quantity.Both(Weigh(rest), sys), "water at 20 °C")
	if c := n.Model.Carrying.Value(); c > 0 {
		f.step("", "Carrying capacity left", "capacity − water", fmt.Sprintf("%s − %s", n.Model.Carrying, quantity.Show(total, sys)), quantity.Both(c-total, sys), "data of the model")
		if total > c {
			f.finding("The water alone, %s, is more than the carrying capacity of %s.", quantity.Both(total, sys), quantity.Both(c, sys))
		} else if total > c*0.6 {
			f.finding("Water takes %s of the carrying capacity of %s: %s are left for everything else.", quantity.Show(quantity.Percent(100*float64(total/c)), sys), quantity.Both(c, sys), quantity.Both(c-total, sys))
		}
	}
	return f
}

// AllWater is what tanks, heaters and lines hold when all are full.
func AllWater(n *plumbing.Network) quantity.Litre { return tankVolume(n) + fixedWater(n) }

// Loads is how many containers fill a tank, and what is left in the last.
func Loads(tank, container quantity.Litre) (count int, left quantity.Litre) {
	if container <= 0 {
		return 0, 0
	}
	count = quantity.RoundUp(float64(tank / container))
	return count, quantity.Litre(count)*container - tank
}

// Ceilings of pressure on a model.
type Ceiling struct {
	Water, Air quantity.Kilopascal
	By         *plumbing.Part // the weakest part
	Chosen     quantity.Kilopascal
	Findings   []string
}

const mostAir = 345 // kPa, 50 psi: never over

// PressureCeiling is the lowest rating of any part, and the air pressure that
// the house chose against it.
func PressureCeiling(n *plumbing.Network, rules house.House) Ceiling {
	c := Ceiling{Chosen: house.Air.Of(rules)}
	for i := range n.Model.Parts {
		p := &n.Model.Parts[i]
		r := p.Data.Rating.Value()
		if r > 0 && p.Role() != plumbing.RoleTank && (c.By == nil || r < c.Water || r == c.Water && p.ID < c.By.ID) {
			c.Water, c.By = r, p
		}
	}
	c.Air = mostAir
	if c.By != nil {
		c.Air = min(c.Air, c.Water)
	}
	sys := n.Model.System()
	if c.Chosen > c.Air {
		why := "50 psi is never exceeded"
		if c.By != nil && c.Water < mostAir {
			why = c.By.Name + " stands no more"
		}
		c.Findings = append(c.Findings, fmt.Sprintf("Air at %s is over this model's ceiling of %s: %s.", quantity.Both(c.Chosen, sys), quantity.Both(c.Air, sys), why))
		c.Chosen = c.Air
	}
	for _, in := range n.PartsOf(plumbing.RoleInlet) {
		if r := in.Data.Regulator.Value(); c.By != nil && r > c.Water {
			c.Findings = append(c.Findings, fmt.Sprintf("%s is regulated to %s, over the %s that %s stands.", in.Name, quantity.Both(r, sys), quantity.Both(c.Water, sys), c.By.Name))
		}
	}
	return c
}
