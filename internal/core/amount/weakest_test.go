package amount

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/house"
	"coldtap/internal/core/quantity"
)

// What is weakest says how weak it is, and what cold the model is made for where it is made for one.
func TestTheWeakestPlaceSaysHowWeak(t *testing.T) {
	t.Parallel()
	made := quantity.Of(quantity.Celsius(-30), quantity.SI)
	name := fact.Of("it", "Basin")
	for want, w := range map[string]Weakest{"weakest.plain": {Name: name, Left: 2}, "weakest.none": {Name: name, Share: 0.05,
		Burst: Protected{None: true}}, "weakest.burst": {Name: name, Share: 0.2, Burst: Protected{Temp: -20}}} {
		said, bare := w.Said(made), w.Said(quantity.Given[quantity.Celsius]{})
		assert.Equal(t, want, said.ID)
		assert.Equal(t, fact.Of("weakest.made-for", made), said.Args[len(said.Args)-1], want)
		assert.Equal(t, fact.Fact{}, bare.Args[len(bare.Args)-1], want)
		assert.Equal(t, name, said.Args[0])
	}
}

// What was typed in one unit and meant in another is told with both; what fits, or is off by anything else, is not.
func TestUnitsThatAreTakenForOneAnother(t *testing.T) {
	t.Parallel()
	for pair, ratio := range map[[2]string]float64{ // what was written over what was meant, by the sizes of the measures
		{"tablespoons", "fluid ounces"}: 1. / 2, {"fluid ounces", "tablespoons"}: 2, {"teaspoons", "tablespoons"}: 1. / 3,
		{"tablespoons", "teaspoons"}: 3, {"fluid ounces", "cups"}: 1. / 8, {"cups", "fluid ounces"}: 8,
		{"litres", "gallons"}: 1 / 3.785412, {"gallons", "litres"}: 3.785412, {"millilitres", "fluid ounces"}: 1 / 29.57353} {
		wrote, meant := fact.Word("units."+pair[0]), fact.Word("units."+pair[1])
		right := quantity.Litre(0.4)
		typed := right * quantity.Litre(ratio)
		for _, off := range []quantity.Litre{0.89, 1, 1.11} {
			assert.Equal(t, fact.Of("confusion.meant", right, meant, wrote), Confusion(off*typed, pair[0], right), "%v", pair)
		}
		assert.Equal(t, fact.Of("confusion.written", right, wrote, meant), Confusion(typed, pair[1], right), "%v", pair)
		assert.Equal(t, fact.Fact{}, Confusion(typed*0.87, pair[0], right), "%v", pair)
		assert.Equal(t, fact.Fact{}, Confusion(typed*1.13, pair[0], right), "%v", pair)
	}
	assert.Equal(t, fact.Fact{}, Confusion(0, "", 1))
	assert.Equal(t, fact.Fact{}, Confusion(1, "", 0))
	assert.Equal(t, fact.Fact{}, Confusion(1.12, "", 1))
	best := Confusion(0.4*0.48, "", 0.4) // half, or a third off by more
	assert.Equal(t, fact.Word("units.tablespoons"), best.Args[1])
}

// Water for a batch is whole containers that hold what the lines take.
func TestABatchIsWholeContainers(t *testing.T) {
	t.Parallel()
	rules := house.Container.With(house.Usual(quantity.SI), 4)
	for lines, want := range map[quantity.Litre]quantity.Litre{0.5: 4, 4: 4, 4.1: 8, 9: 12} {
		assert.InDelta(t, float64(want), float64(batchWater(lines, rules)), 1e-9, "%v", lines)
	}
}

// A body's rows are what its tanks and lines keep, with the film that was worked with.
func TestRowsOfABodySayTheFilm(t *testing.T) {
	t.Parallel()
	rows := (&flushedBody{heel: 1, film: 0.3, tank: 90, lines: 8}).rows(false, house.Film.With(house.Usual(quantity.SI), 0.04))
	assert.Equal(t, shown(quantity.Percent(4)), rows[2].Inputs)
	assert.InDelta(t, 0.3, float64(rows[2].Litre), 1e-12)
	assert.InDelta(t, 98, float64(rows[3].Litre), 1e-12)
}
