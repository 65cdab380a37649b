package trial

import (
	"math"
	"slices"

	"coldtap/internal/core/quantity"
)

// Unit is a way of writing a quantity: what is typed, times a factor, and an offset.
type Unit struct {
	Word   string  `json:"word"`
	Factor float64 `json:"factor"`
	Offset float64 `json:"offset,omitempty"`
}

// Value is what is meant by a figure in this unit.
func (u Unit) Value(figure float64) float64 { return figure*u.Factor + u.Offset }

// Figure is how a value is written in it.
func (u Unit) Figure(value float64) float64 { return (value - u.Offset) / u.Factor }

// Range is what is sensible of a quantity, with the units that somebody may
// type it in; the usual one stands first.
type Range struct {
	Low   float64 `json:"low"`
	High  float64 `json:"high"`
	Units []Unit  `json:"units"`
}

// Has reports whether a value is sensible.
func (r *Range) Has(v float64) bool { return v >= r.Low-1e-9 && v <= r.High+1e-9 }

// Likely are the units in which a figure would be sensible that is not in the
// one that it was typed in, the usual first; none where it is sensible, or in
// no unit is.
func (r *Range) Likely(figure float64, typed Unit) (list []Unit) {
	if math.IsNaN(figure) || r.Has(typed.Value(figure)) {
		return nil
	}
	for _, u := range r.Units {
		if u != typed && r.Has(u.Value(figure)) {
			list = append(list, u)
		}
	}
	return list
}

// Units of what is typed, by the system that stands first.
var (
	litre   = Unit{"L", 1, 0}
	gallon  = Unit{"gal", float64(quantity.USGallon), 0}
	ounce   = Unit{"fl oz", float64(quantity.FluidOunce), 0}
	second  = Unit{"s", 1, 0}
	minute  = Unit{"min", 60, 0}
	hour    = Unit{"h", 3600, 0}
	perMin  = Unit{"L/min", 1, 0}
	galMin  = Unit{"gal/min", float64(quantity.USGallon), 0}
	psi     = Unit{"psi", float64(quantity.PSI), 0}
	bar     = Unit{"bar", 100, 0}
	kpa     = Unit{"kPa", 1, 0}
	celsius = Unit{"°C", 1, 0}
	fahren  = Unit{"°F", 5. / 9, -160. / 9}
	perCent = Unit{"%", 0.01, 0}
	mg      = Unit{"mg/L", 1, 0}
	times   = Unit{"times", 1, 0}
	mm      = Unit{"mm", 1, 0}
	inch    = Unit{"in", float64(quantity.Inch), 0}
)

// RangeOf is what is sensible of a kind of entry, where at most so much is
// possible; 0 for the usual.
func RangeOf(k Kind, most float64, sys quantity.System) Range {
	pick := func(us, si []Unit) []Unit {
		if sys == quantity.SI {
			return slices.Concat(si, us)
		}
		return slices.Concat(us, si)
	}
	or := func(usual float64) float64 {
		if most > 0 {
			return most
		}
		return usual
	}
	switch k {
	case "clock", Rest:
		return Range{0, or(48 * 3600), []Unit{second, minute, hour}}
	case "jug", "caught":
		return Range{0, or(200), pick([]Unit{gallon, ounce}, []Unit{litre})}
	case "level", StartLevel, Anode:
		return Range{0, 1, []Unit{perCent}}
	case "strip", Chlorine:
		return Range{0, or(1000), []Unit{mg}}
	case HoseFlow:
		return Range{1, 80, pick([]Unit{galMin}, []Unit{perMin})}
	case Pressure:
		return Range{0, or(1000), pick([]Unit{psi}, []Unit{bar, kpa})}
	case Temperature:
		return Range{-5, 95, pick([]Unit{fahren}, []Unit{celsius})}
	case Outside:
		return Range{-45, 50, pick([]Unit{fahren}, []Unit{celsius})}
	case "refills":
		return Range{0, 20, []Unit{times}}
	}
	return Range{math.Inf(-1), math.Inf(1), []Unit{times}}
}

// Diameter is what is sensible of an anode, from its core to when it was new.
func Diameter(fresh quantity.Millimetre, sys quantity.System) Range {
	r := Range{0.5, float64(fresh), []Unit{inch, mm}}
	if sys == quantity.SI {
		r.Units = []Unit{mm, inch}
	}
	return r
}
