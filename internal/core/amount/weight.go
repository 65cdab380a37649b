package amount

import (
	"cmp"
	"slices"
	"strconv"

	"coldtap/internal/core/constant"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/figure"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/record"
)

// Weigh is the weight of water.
func Weigh(rec *record.Recorder, v quantity.Litre) quantity.Kilogram {
	return quantity.Kilogram(float64(v) * constant.WaterDensity.Of(rec))
}

// Level is one reading of a tank's probes.
type Level struct {
	Tank      *plumbing.Part
	Reading   fact.Fact
	Height    quantity.Metre // of the probe above the ground; 0 where it is not known
	Low, High quantity.Litre // what it means for the whole body of water, at least and at most
	Weight    quantity.Kilogram
	Left      quantity.Kilogram // of the carrying capacity, heater, lines and other tanks full
	Missing   []Missing         // figures without which it is not known

	cell figure.Cell[figure.Band[quantity.Litre]]
}

// probe is a place in a tank at which water is told.
type probe struct {
	name  fact.Fact
	share float64 // of the tank's height
}

// probesOf are the probes of a tank where they are described, in the order of
// their height, and where none are four at thirds of it.
func probesOf(n *plumbing.Network, t *plumbing.Part) (list []probe, missing []Missing) {
	tall := float64(plumbing.Field(n, &t.Data.InsideHeight).Value())
	for _, p := range n.PartsOf(plumbing.RoleProbe) {
		if plumbing.Field(n, &p.Data.Serves) != t.ID {
			continue
		}
		if tall <= 0 {
			missing = []Missing{lacks(t, "inside-height")}
		}
		list = append(list, probe{fact.Of("it", cmp.Or(p.Label, p.Name)),
			min(1, float64(plumbing.Field(n, &p.Data.At).Value())/max(tall, 1))})
	}
	if list == nil {
		return []probe{{fact.Of("probe.empty"), 0}, {fact.Of("probe.third"), 1. / 3},
			{fact.Of("probe.two-thirds"), 2. / 3}, {fact.Of("probe.full"), 0.97}}, nil
	}
	slices.SortFunc(list, func(a, b probe) int {
		return cmp.Or(cmp.Compare(a.share, b.share), cmp.Compare(a.name.Key(), b.name.Key()))
	})
	if list[0].share > 0 {
		list = slices.Insert(list, 0, probe{fact.Of("probe.none-lit"), 0})
	}
	return list, missing
}

// Levels are the bands of each tank's probes: where they are described, or
// else four at thirds of its height. A probe tells that water is at its height,
// not how much above. Tanks
// that are joined below the water stand equally high above the ground, not
// equally full.
func Levels(n *plumbing.Network) []Level {
	bodies := bodiesOf(n, nil)
	rest := figure.Work(n, "weight/all", figure.Of, func() quantity.Litre { return AllWater(n) })
	var list []Level
	for i, body := range bodies.Value() {
		for _, t := range body.Tanks {
			probes, unknown := probesOf(n, t)
			for k, p := range probes {
				l := Level{Tank: t, Reading: p.name}
				l.Height, _, l.Missing = upTo(n, body, t, p.share)
				l.Missing = append(l.Missing, unknown...)
				l.band(n, bodies, i, k)
				l.weigh(n, bodies, i, rest)
				list = append(list, l)
			}
		}
	}
	return list
}

// band is what the probe at a place among a tank's means.
func (l *Level) band(n *plumbing.Network, bodies figure.Cell[[]flow.Body], body, place int) {
	id := "level/" + l.Tank.ID + "/" + strconv.Itoa(place)
	c := figure.Work(n, id, func(b figure.Band[quantity.Litre]) figure.Value {
		if l.Missing != nil {
			return figure.AtLeast{Missing: l.Missing}
		}
		return b
	}, func() (b figure.Band[quantity.Litre]) {
		probes, _ := probesOf(n, l.Tank)
		next := 1.0
		if place+1 < len(probes) {
			next = probes[place+1].share
		}
		_, b.Low, _ = upTo(n, bodies.Of(n)[body], l.Tank, probes[place].share)
		_, b.High, _ = upTo(n, bodies.Of(n)[body], l.Tank, next)
		return b
	})
	l.Low, l.High, l.cell = c.Value().Low, c.Value().High, c
}

// weigh is what all water weighs at most at the reading.
func (l *Level) weigh(n *plumbing.Network, bodies figure.Cell[[]flow.Body], body int,
	whole figure.Cell[quantity.Litre]) {
	id := l.cell.ID()
	weight := figure.Work(n, id+"/weight", figure.Of, func() quantity.Kilogram {
		var all quantity.Litre
		for _, t := range bodies.Of(n)[body].Tanks {
			all += plumbing.Field(n, &t.Data.Capacity).Value()
		}
		return Weigh(n.Recorder(), l.cell.Of(n).High+whole.Of(n)-all)
	})
	l.Weight = weight.Value()
	if !n.Model.Carrying.IsZero() {
		l.Left = figure.Work(n, id+"/left", figure.Of, func() quantity.Kilogram {
			return plumbing.Field(n, &n.Model.Carrying).Value() - weight.Of(n)
		}).Value()
	}
}

// upTo is what a body holds when the water stands in one of its tanks at
// a share of its height: as high above the ground in each of them.
func upTo(n *plumbing.Network, body flow.Body, in *plumbing.Part,
	share float64) (quantity.Metre, quantity.Litre, []Missing) {
	bottom := func(t *plumbing.Part) float64 { return float64(plumbing.Field(n, &t.Place.Height).Value()) }
	tall := func(t *plumbing.Part) float64 { return float64(plumbing.Field(n, &t.Data.InsideHeight).Value()) / 1000 }
	height := quantity.Metre(0)
	if tall(in) > 0 && !plumbing.Field(n, &in.Place.Height).IsZero() {
		height = quantity.Metre(bottom(in) + share*tall(in))
	}
	if len(body.Tanks) == 1 {
		return height, plumbing.Field(n, &in.Data.Capacity).Value() * quantity.Litre(share), nil
	}
	var sum quantity.Litre
	var missing []Missing
	for _, t := range body.Tanks {
		switch {
		case tall(t) <= 0:
			missing = append(missing, lacks(t, "inside-height"))
		case plumbing.Field(n, &t.Place.Height).IsZero():
			missing = append(missing, lacks(t, "height"))
		default:
			sum += plumbing.Field(n, &t.Data.Capacity).Value() * quantity.Litre(min(1,
				max(0, (float64(height)-bottom(t))/tall(t))))
		}
	}
	return height, sum, missing
}

// fixedWater is what the heater and the lines hold whatever the tank's level.
func fixedWater(n *plumbing.Network) (v quantity.Litre) {
	for _, h := range n.PartsOf(plumbing.RoleHeater) {
		if plumbing.Field(n, &h.Data.Type) != "portable" {
			v += plumbing.Field(n, &h.Data.Capacity).Value()
		}
	}
	return v + Contents(n, n.Model.System()).Total
}

// Weight is the weight of all water, and what it leaves of the carrying capacity
// where that is given.
type Weight struct {
	Figure
	Left quantity.Kilogram
}

// Weights is the weight of all water against the carrying capacity.
func Weights(n *plumbing.Network) Weight {
	tank, rest := tankVolume(n), fixedWater(n)
	cell := figure.Work(n, "weight", figure.Of, func() quantity.Kilogram { return Weigh(n.Recorder(), AllWater(n)) })
	total := cell.Value()
	f := Weight{Figure: Figure{ID: "weight", Title: fact.Of("figure.weight"), Value: both(total)}}
	f.weigh("fresh-tanks", both(tank), both(Weigh(nil, tank)))
	f.weigh("heater-and-lines", both(rest), both(Weigh(nil, rest)))
	if n.Model.Carrying.IsZero() {
		return f
	}
	left := figure.Work(n, "weight/left", figure.Of, func() quantity.Kilogram {
		return plumbing.Field(n, &n.Model.Carrying).Value() - cell.Of(n)
	}).Value()
	f.Left = left
	c := n.Model.Carrying.Value()
	f.weigh("carrying-left", fact.Of("inputs.carrying", n.Model.Carrying, total), both(left))
	if total > c {
		f.Findings = append(f.Findings, fact.Of("weight.over", total, c))
	} else if total > c*0.6 {
		f.Findings = append(f.Findings, fact.Of("weight.much", quantity.Percent(100*float64(total/c)), c, left))
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
	Findings   []fact.Fact
}

// PressureCeiling is the lowest rating of any part, and the air pressure that
// the house chose against it.
func PressureCeiling(n *plumbing.Network, rules house.House) Ceiling {
	ceiling := figure.Work(n, "air/ceiling", func(c Ceiling) figure.Value { return figure.Of(c.Air) }, func() Ceiling {
		c := Ceiling{Air: constant.MostAir.Of(n.Recorder())}
		for _, p := range n.AllParts() {
			r := plumbing.Field(n, &p.Data.Rating).Value()
			if r > 0 && p.Role() != plumbing.RoleTank && (c.By == nil || r < c.Water || r == c.Water &&
				p.ID < c.By.ID) {
				c.Water, c.By = r, p
			}
		}
		if c.By != nil {
			c.Air = min(c.Air, c.Water)
		}
		return c
	})
	c := ceiling.Value()
	c.Chosen = figure.Work(n, "air", figure.Of, func() quantity.Kilopascal {
		return min(house.Air.Of(rules), ceiling.Of(n).Air)
	}).Value()
	most := constant.MostAir.Of(nil)
	if asked := house.Air.Of(rules); asked > c.Air {
		why := fact.Of("air.never-over", most)
		if c.By != nil && c.Water < most {
			why = fact.Of("air.weakest", c.By)
		}
		c.Findings = append(c.Findings, fact.Of("air.over", asked, c.Air, why))
	}
	for _, in := range n.PartsOf(plumbing.RoleInlet) {
		if r := in.Data.Regulator.Value(); c.By != nil && r > c.Water {
			c.Findings = append(c.Findings, fact.Of("air.regulated-over", in, r, c.Water, c.By))
		}
	}
	return c
}
