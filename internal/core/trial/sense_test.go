package trial

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/quantity"
)

// Figures by the definitions of the units: a psi is 6.894757 kPa, a US gallon 3.785412 L.
func TestUnitsMeanWhatTheyMean(t *testing.T) {
	t.Parallel()
	for _, x := range []struct {
		unit   Unit
		figure float64
		is     float64
	}{
		{gallon, 2, 7.570824}, {ounce, 10, 0.2957353}, {litre, 3, 3}, {second, 90, 90}, {minute, 1.5, 90}, {hour, 0.5, 1800},
		{galMin, 1, 3.785412}, {perMin, 9, 9}, {psi, 40, 275.79}, {bar, 2.5, 250}, {kpa, 300, 300}, {celsius, 21, 21},
		{fahren, 32, 0}, {fahren, 212, 100}, {fahren, -40, -40}, {perCent, 25, 0.25}, {mg, 50, 50}, {times, 3, 3}, {mm, 12, 12},
		{inch, 0.5, 12.7},
	} {
		assert.InDelta(t, x.is, x.unit.Value(x.figure), math.Abs(x.is)*1e-5+1e-9, "%v %s", x.figure, x.unit.Word)
		assert.InDelta(t, x.figure, x.unit.Figure(x.unit.Value(x.figure)), 1e-9, x.unit.Word)
	}
}

func TestWhatIsSensibleOfEachKind(t *testing.T) {
	t.Parallel()
	for _, x := range []struct {
		kind      Kind
		most      float64
		low, high float64
		us, si    string // the unit that stands first
	}{
		{"clock", 0, 0, 172800, "s", "s"}, {Rest, 600, 0, 600, "s", "s"},
		{"jug", 0, 0, 200, "gal", "L"}, {"caught", 8, 0, 8, "gal", "L"},
		{"level", 9, 0, 1, "%", "%"}, {StartLevel, 0, 0, 1, "%", "%"}, {Anode, 0, 0, 1, "%", "%"},
		{"strip", 0, 0, 1000, "mg/L", "mg/L"}, {Chlorine, 20, 0, 20, "mg/L", "mg/L"},
		{HoseFlow, 5, 1, 80, "gal/min", "L/min"}, {Pressure, 0, 0, 1000, "psi", "bar"}, {Pressure, 420, 0, 420, "psi", "bar"},
		{Temperature, 9, -5, 95, "°F", "°C"}, {Outside, 9, -45, 50, "°F", "°C"}, {"refills", 9, 0, 20, "times", "times"},
		{Note, 0, math.Inf(-1), math.Inf(1), "times", "times"},
	} {
		us, si := RangeOf(x.kind, x.most, quantity.US), RangeOf(x.kind, x.most, quantity.SI)
		assert.Equal(t, []float64{x.low, x.high}, []float64{us.Low, us.High}, x.kind)
		assert.Equal(t, []float64{x.low, x.high}, []float64{si.Low, si.High}, x.kind)
		assert.Equal(t, x.us, us.Units[0].Word, x.kind)
		assert.Equal(t, x.si, si.Units[0].Word, x.kind)
		assert.ElementsMatch(t, us.Units, si.Units, "%s: the same units in another order", x.kind)
		assert.True(t, us.Has(x.low) && us.Has(x.high), x.kind)
		if !math.IsInf(x.low, -1) {
			assert.False(t, us.Has(x.low-0.001) || us.Has(x.high+0.001), x.kind)
		}
	}
	rod := Diameter(19, quantity.US)
	assert.Equal(t, Range{0.5, 19, []Unit{inch, mm}}, rod)
	assert.Equal(t, []Unit{mm, inch}, Diameter(19, quantity.SI).Units)
}

func TestTheUnitThatWasMeantIsOffered(t *testing.T) {
	t.Parallel()
	r := RangeOf(Pressure, 0, quantity.SI)
	assert.Empty(t, r.Likely(2.5, bar), "it is sensible as typed")
	assert.Equal(t, []Unit{psi, kpa}, func() []Unit {
		u := RangeOf(Pressure, 0, quantity.US)
		return u.Likely(40, bar)
	}(), "40 bar can't be: psi, or kPa")
	assert.Empty(t, r.Likely(1e6, bar), "in no unit")
	assert.Empty(t, r.Likely(math.NaN(), bar))
}
