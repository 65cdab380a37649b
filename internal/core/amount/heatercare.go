package amount

import (
	"errors"
	"math"
	"time"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/figure"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// AnodeUsed is the share of an anode that is used, from its diameter now, when
// new, and of its core wire: 1 − (d²−c²)/(D²−c²).
func AnodeUsed(now, fresh, core quantity.Millimetre) (float64, error) {
	switch {
	case fresh <= core || core <= 0:
		return 0, errors.New("an anode is thicker than its core wire when new")
	case now > fresh:
		return 0, errors.New("an anode is not thicker than when it was new; was the diameter read in another unit?")
	}
	sq := func(d quantity.Millimetre) float64 { return float64(d) * float64(d) }
	return min(1, 1-(sq(now)-sq(core))/(sq(fresh)-sq(core))), nil // down into the core it is all used
}

// AnodeUsedByWeight is the same from weights: of the rod now, when new, and of
// its core with the plug.
func AnodeUsedByWeight(now, fresh, core quantity.Kilogram) (float64, error) {
	if fresh <= core || core < 0 || now > fresh {
		return 0, errors.New("the rod weighs at most what it weighed when new, and more than its core then")
	}
	return max(0, min(1, float64((fresh-now)/(fresh-core)))), nil
}

// Advice is what to do about an anode.
type Advice string

// Advices, by how much of it is used.
const (
	ReplaceNow  Advice = "replace-now" // its core wire shows
	Replace     Advice = "replace"
	LookSoon    Advice = "look-soon"
	LookInAYear Advice = "look-in-a-year"
)

// Said is the advice in the catalogue of words.
func (a Advice) Said() fact.Fact { return fact.If(a != "", fact.Of("anode."+string(a))) }

// AnodeAdvice says what to do at a share used, by the house's school.
func AnodeAdvice(used, replaceAt float64) Advice {
	switch {
	case used >= 1:
		return ReplaceNow
	case used >= replaceAt:
		return Replace
	case used >= 0.5:
		return LookSoon
	}
	return LookInAYear
}

// NextChange is when an anode will be used to a share, from two looks; false
// where it does not wear.
func NextChange(first, second time.Time, usedFirst, usedSecond, at float64) (time.Time, bool) {
	days := second.Sub(first).Hours() / 24
	if days <= 0 || usedSecond <= usedFirst {
		return time.Time{}, false
	}
	left := (at - usedSecond) / (usedSecond - usedFirst) * days
	return second.AddDate(0, 0, int(math.Round(left))), true
}

// Vinegar is a descaling bath: so much vinegar of a strength, topped up with
// water.
type Vinegar struct {
	Strength quantity.Percent // of acid in the bath, g per 100 mL
	Scale    quantity.Kilogram
	Caution  fact.Fact
}

// Descale works out a bath in a heater: its strength after topping up, and
// the scale it can dissolve (120.1 g acetic acid to 100.1 g of CaCO₃).
func Descale(vinegar quantity.Litre, bought quantity.Percent, heater quantity.Litre) (Vinegar, error) {
	switch {
	case vinegar <= 0 || vinegar > heater:
		return Vinegar{}, errors.New("more vinegar than the heater holds, or none")
	case bought < 3 || bought > 40:
		return Vinegar{}, errors.New("vinegar is sold from 5 to 40 percent; anything else is another product")
	}
	acid := float64(vinegar) * 10 * float64(bought) / 1000 // kg
	v := Vinegar{Strength: quantity.Percent(float64(bought) * float64(vinegar/heater)),
		Scale: quantity.Kilogram(acid * 100.1 / 120.1)}
	if bought > 10 {
		v.Caution = fact.Of("caution.vinegar-strong")
	} else {
		v.Caution = fact.Of("caution.vinegar")
	}
	return v, nil
}

// KeepFresh is the bleach that keeps a tank of drinking water at a strength,
// and whether that is above the drinking limit.
func KeepFresh(tank quantity.Litre, at quantity.MgPerLitre, product quantity.Percent, rules house.House,
	sys quantity.System) (quantity.Measured, quantity.MgPerLitre, bool) {
	m := quantity.Household(Bleach(at, tank, product), 0.1, sys)
	really := Strength(m.Litre, tank, product)
	return m, really, really > house.Drinking.Of(rules)
}

// Keep is the dose that keeps the water of a body fresh.
type Keep struct {
	Measured quantity.Measured
	Really   quantity.MgPerLitre
	Over     bool // the drinking limit
}

// KeepFreshOf is KeepFresh at half the drinking limit for a body of tank
// water.
func KeepFreshOf(n *plumbing.Network, d *DosePlan, rules house.House) Keep {
	return figure.Work(n, "keep-fresh", func(k Keep) figure.Value { return measureValue(k.Measured) }, func() (k Keep) {
		k.Measured, k.Really, k.Over = KeepFresh(d.tank.Of(n), house.Drinking.Of(rules)/2, house.Bleach.Of(rules),
			rules, n.System())
		return k
	}).Value()
}
