package quantity

import (
	"math"
	"strconv"
)

// Measured is an amount in whole household measures.
type Measured struct {
	Count float64 // in steps of the measure's fraction
	Name  string  // "cup", "fl oz", "mL" …
	Litre Litre   // what it really is
}

func (m Measured) String() string {
	if m.Name == "mL" || m.Name == "L" {
		return strconv.FormatFloat(m.Count, 'f', -1, 64) + "\u00a0" + m.Name
	}
	name := m.Name
	if whole := math.Floor(m.Count / 3); name == "tsp" && whole >= 1 {
		// Nobody counts 22 teaspoons: three make a tablespoon.
		words := Fraction(whole) + "\u00a0tbsp"
		if rest := m.Count - 3*whole; rest > 1e-9 {
			words += " + " + Fraction(rest) + "\u00a0tsp"
		}
		return words
	}
	if name == "cup" && m.Count > 1 {
		name = "cups"
	}
	return Fraction(m.Count) + "\u00a0" + name
}

// Fraction writes a number in halves, thirds or quarters as a cook would:
// "¼", "1½", "3".
func Fraction(n float64) string {
	whole, rest := math.Modf(n)
	for _, f := range []struct {
		v float64
		s string
	}{{.25, "¼"}, {1. / 3, "⅓"}, {.5, "½"}, {2. / 3, "⅔"}, {.75, "¾"}} {
		if math.Abs(rest-f.v) < 1e-9 {
			if whole == 0 {
				return f.s
			}
			return strconv.Itoa(int(whole)) + f.s
		}
	}
	return strconv.FormatFloat(n, 'f', -1, 64)
}

type spoon struct {
	name string
	size Litre   // of one
	step float64 // smallest share of it that is used
}

// Coarsest first, each with the least share of it that people measure out.
var usSpoons = []spoon{
	{"cup", Cup, 1}, {"cup", Cup, .5}, {"cup", Cup, .25}, {"fl oz", FluidOunce, 1},
	{"tbsp", Tablespoon, 1}, {"tsp", Teaspoon, 1}, {"tsp", Teaspoon, .5}, {"tsp", Teaspoon, .25},
}

var siSpoons = []spoon{
	{"mL", 0.001, 250}, {"mL", 0.001, 100}, {"mL", 0.001, 50}, {"mL", 0.001, 25},
	{"mL", 0.001, 10}, {"mL", 0.001, 5}, {"mL", 0.001, 1},
}

func spoons(sys System) []spoon {
	if sys == SI {
		return siSpoons
	}
	return usSpoons
}

// Household rounds v up to the coarsest household measure that stays within
// the given share above v (0.1 for ten per cent). Where none does, the finest
// measure is rounded up.
func Household(v Litre, over float64, sys System) Measured {
	var m Measured
	for _, s := range spoons(sys) {
		unit := float64(s.size) * s.step
		n := math.Ceil(float64(v)/unit - 1e-9)
		m = Measured{Count: n * s.step, Name: s.name, Litre: Litre(n * unit)}
		if float64(m.Litre) <= float64(v)*(1+over) {
			break
		}
	}
	return m
}
