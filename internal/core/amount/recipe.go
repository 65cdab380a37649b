package amount

import (
	"cmp"
	"math"
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/house"
	"coldtap/internal/core/quantity"
)

// Recipe is a dose as people quote it: so much bleach to so much water.
type Recipe struct {
	ID      string
	Bleach  quantity.Litre
	Water   quantity.Litre
	Product quantity.Percent // the bleach it was written for
	Keep    bool             // meant to keep water fresh for drinking
}

// Quoted lists the recipes that go round, for bleach of 5.25 %.
func Quoted() []Recipe {
	return []Recipe{
		{"quarter-cup", quantity.Cup / 4, 15 * quantity.USGallon, 5.25, false},
		{"half-cup", quantity.Cup / 2, 25 * quantity.USGallon, 5.25, false},
		{"three-tbsp", 3 * quantity.Tablespoon, 10 * quantity.USGallon, 5.25, false},
		{"one-ml", 0.001, 1, 5.25, false},
		{"one-cup", quantity.Cup, 12 * quantity.USGallon, 5.25, false},
		{"two-tsp", 2 * quantity.Teaspoon, 25 * quantity.USGallon, 5.25, true},
	}
}

// Said is the recipe as it is quoted.
func (r Recipe) Said() fact.Fact { return fact.Of("recipe." + r.ID) }

// Judged is a recipe on the scale of strength.
type Judged struct {
	Recipe
	Strength quantity.MgPerLitre
	Refused  fact.Fact // why it is not offered; nothing if it is
	Warning  fact.Fact
}

// Judge puts a recipe on the scale with the bleach that is at hand.
func (r Recipe) Judge(product quantity.Percent, rules house.House) Judged {
	j := Judged{Recipe: r, Strength: Strength(r.Bleach, r.Water, product)}
	if product != r.Product {
		j.Warning = fact.Of("recipe.other-bleach", r.Product, product, j.Strength,
			Strength(r.Bleach, r.Water, r.Product))
	}
	switch {
	case j.Strength > house.Ceiling.Of(rules):
		j.Refused = fact.Of("recipe.above-ceiling", j.Strength, house.Ceiling.Of(rules))
	case r.Keep && j.Strength > house.Drinking.Of(rules):
		j.Warning = fact.Of("recipe.above-drinking", j.Strength, house.Drinking.Of(rules), j.Warning)
	}
	return j
}

// Scale puts recipes in the order of their strength, the strongest first.
func Scale(list []Recipe, product quantity.Percent, rules house.House) []Judged {
	var out []Judged
	for _, r := range list {
		out = append(out, r.Judge(product, rules))
	}
	slices.SortStableFunc(out, func(a, b Judged) int { return cmp.Compare(b.Strength, a.Strength) })
	return out
}

// School is a strength with its soak.
type School struct {
	ID        string
	Low, High quantity.MgPerLitre
	SoakLow   quantity.Second
	SoakHigh  quantity.Second
}

// Said is the school's name.
func (s School) Said() fact.Fact { return fact.Of("school." + s.ID) }

// For is what the school is for.
func (s School) For() fact.Fact { return fact.Of("school." + s.ID + ".for") }

// Schools of sanitizing, side by side.
func Schools() []School {
	return []School{
		{"short", 50, 65, 3 * 3600, 4 * 3600},
		{"lived-in", 50, 55, 4 * 3600, 8 * 3600},
		{"overnight", 50, 65, 8 * 3600, 12 * 3600},
		{"stood-idle", 50, 50, 12 * 3600, 24 * 3600},
		{"on-the-road", 50, 55, 8 * 3600, 10 * 3600},
	}
}

// Contact is strength × time in mg·h/L, from the mildest to the strongest
// reading of the school.
func (s School) Contact() (low, high float64) {
	return float64(s.Low) * float64(s.SoakLow) / 3600, float64(s.High) * float64(s.SoakHigh) / 3600
}

// mixUps are the confusions that happen: what was written for what was meant,
// and by how much that is off.
var mixUps = []struct {
	wrote, meant string  // units in the catalogue of words
	ratio        float64 // what was written over what was meant
}{
	{"tablespoons", "fluid ounces", 0.5},
	{"fluid ounces", "tablespoons", 2},
	{"teaspoons", "tablespoons", 1. / 3},
	{"tablespoons", "teaspoons", 3},
	{"fluid ounces", "cups", 1. / 8},
	{"cups", "fluid ounces", 8},
	{"litres", "gallons", 1 / float64(quantity.USGallon)},
	{"gallons", "litres", float64(quantity.USGallon)},
	{"millilitres", "fluid ounces", 1 / (float64(quantity.FluidOunce) * 1000)},
}

// Confusion looks at a dose or volume that was typed in a unit where another
// amount was worked out, and names the confusion of units that would explain
// it, best one of that unit; nothing if it fits, or if nothing explains it.
func Confusion(typed quantity.Litre, unit string, workedOut quantity.Litre) (best fact.Fact) {
	const close = 0.12
	if typed <= 0 || workedOut <= 0 || math.Abs(float64(typed/workedOut)-1) <= close {
		return fact.Fact{}
	}
	least := close
	for _, m := range mixUps {
		off := math.Abs(float64(typed/workedOut)/m.ratio - 1)
		switch {
		case off > least:
		case unit == m.wrote:
			return fact.Of("confusion.meant", workedOut, fact.Word("units."+m.meant), fact.Word("units."+m.wrote))
		case unit == "" || unit == m.meant:
			best, least = fact.Of("confusion.written", workedOut, fact.Word("units."+m.wrote),
				fact.Word("units."+m.meant)), off
		}
	}
	return best
}
