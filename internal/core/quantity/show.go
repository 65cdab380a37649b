package quantity

import (
	"math"
	"strconv"
	"strings"
)

// scale is one unit to show a quantity in, from a least size upwards.
type scale struct {
	least  float64 // inside units; used for |v| ≥ least
	factor float64
	word   string
	digits int // significant digits wanted
	most   int // decimals at most
}

// Show writes v in the given system with practical rounding: about three
// digits, in the unit that suits the size ("43.0 gal", "5.1 fl oz", "163 L").
func Show[U Unit](v U, sys System) string {
	return showIn(float64(v), scalesOf[U](sys))
}

// Both writes v in the given system with the other one in brackets.
func Both[U Unit](v U, sys System) string {
	first, second := Show(v, sys), Show(v, 1-sys)
	if first == second {
		return first
	}
	return first + " (" + second + ")"
}

// Rough is Both to two digits, for what is known no better: flows, and what
// follows from them.
func Rough[U Unit](v U, sys System) string {
	first, second := About(v, sys), About(v, 1-sys)
	if first == second {
		return first
	}
	return first + " (" + second + ")"
}

// About is Show to two digits.
func About[U Unit](v U, sys System) string {
	var two []scale
	for _, s := range scalesOf[U](sys) {
		s.digits = 2
		two = append(two, s)
	}
	return showIn(float64(v), two)
}

// Neat is Show without noughts after the point: "1 gal", for sizes that are
// round by nature.
func Neat[U Unit](v U, sys System) string {
	figure, word, _ := strings.Cut(Show(v, sys), "\u00a0")
	if strings.Contains(figure, ".") {
		figure = strings.TrimRight(strings.TrimRight(figure, "0"), ".")
	}
	return figure + "\u00a0" + word
}

func showIn(v float64, scales []scale) string {
	sc := scales[len(scales)-1]
	for _, s := range scales {
		if math.Abs(v) >= s.least {
			sc = s
			break
		}
	}
	offset := 0.0
	if sc.word == "°F" {
		offset = 32
	}
	n := v/sc.factor + offset
	return Figure(n, sc.digits, sc.most) + "\u00a0" + strings.ReplaceAll(sc.word, " ", "\u00a0")
}

// Figure writes n with the given number of significant digits, but no more
// than most decimals, and never loses digits before the point.
func Figure(n float64, digits, most int) string {
	before := 1
	if a := math.Abs(n); a > 1e-9 {
		before = int(math.Floor(math.Log10(a)+1e-12)) + 1
	}
	decimals := func() int { return min(max(digits-before, 0), most) }
	if math.Abs(n)+0.5*math.Pow10(-decimals()) >= math.Pow10(before) {
		before++ // 9.996 is 10.0, not 10.00
	}
	s := strconv.FormatFloat(n, 'f', decimals(), 64)
	if strings.Trim(s, "-0.") == "" {
		s = strings.TrimPrefix(s, "-")
	}
	return strings.Replace(s, "-", "−", 1)
}

func scalesOf[U Unit](sys System) []scale {
	us := sys == US
	pick := func(a, b []scale) []scale {
		if us {
			return a
		}
		return b
	}
	one := func(factor float64, word string, digits, most int) []scale {
		return []scale{{0, factor, word, digits, most}}
	}
	var zero U
	switch any(zero).(type) {
	case Litre:
		return pick(
			[]scale{{float64(USGallon) / 4, float64(USGallon), "gal", 3, 2}, {0, float64(FluidOunce), "fl oz", 2, 1}},
			[]scale{{0.9995, 1, "L", 3, 2}, {0, 0.001, "mL", 3, 0}})
	case Millimetre:
		return pick(
			[]scale{{float64(Foot), float64(Foot), "ft", 3, 1}, {0, float64(Inch), "in", 3, 2}},
			[]scale{{1000, 1000, "m", 3, 2}, {0, 1, "mm", 3, 1}})
	case Metre:
		return pick(one(0.0254, "in", 3, 1), one(1, "m", 3, 2))
	case Kilopascal:
		return pick(one(float64(PSI), "psi", 2, 0), one(1, "kPa", 3, 0))
	case Celsius:
		return pick(one(5./9, "°F", 2, 0), one(1, "°C", 2, 0))
	case LitrePerMinute:
		return pick(one(float64(USGallon), "gal/min", 3, 2), one(1, "L/min", 3, 1))
	case MgPerLitre:
		return one(1, "mg/L", 3, 1)
	case Second:
		return []scale{{5400, 3600, "h", 2, 1}, {90, 60, "min", 2, 1}, {0, 1, "s", 2, 0}}
	case Kilogram:
		return pick(one(float64(Pound), "lb", 3, 1), []scale{{1, 1, "kg", 3, 1}, {0, 0.001, "g", 3, 0}})
	case Kilowatt:
		return pick([]scale{{2.5, float64(BTUPerHour), "BTU/h", 3, 0}, {1, 1, "kW", 3, 2}, {0, 0.001, "W", 3, 0}},
			[]scale{{1, 1, "kW", 3, 2}, {0, 0.001, "W", 3, 0}})
	case Ampere:
		return one(1, "A", 3, 1)
	default:
		return one(1, "%", 3, 2)
	}
}
