package quantity

import (
	"encoding/json"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestParseReadsWhatPeopleType(t *testing.T) {
	vol := map[string]float64{
		"43 gal": 162.772706712, "162.8 L": 162.8, "2 1/2 gal": 9.46352946, "¼ cup": 0.0591470591,
		"1 1/2 tsp": 0.00739338239, "8,5 L": 8.5, "1 imp gal": 4.54609, "2½ qt": 2.36588236, "5 fl oz": 0.14786765,
		"1/2 cup": 0.11829412, "0,125 L": 0.125, "12 mL": 0.012, "3 tbsp": 0.04436029,
	}
	for in, want := range vol {
		got, err := Parse[Litre](in)
		require.NoError(t, err, in)
		assert.InDelta(t, want, float64(got), 1e-7, in)
	}
	length := map[string]float64{
		"12 ft 6 in": 3810, "7'4\"": 2235.2, "3.8 m": 3800, "19 mm": 19, "12 ft 6 1/2 in": 3822.7, "3/8 in": 9.525,
	}
	for in, want := range length {
		got, err := Parse[Millimetre](in)
		require.NoError(t, err, in)
		assert.InDelta(t, want, float64(got), 1e-7, in)
	}
	psi, err := Parse[Kilopascal]("45 psi")
	require.NoError(t, err)
	assert.InDelta(t, 310.264, float64(psi), 1e-3)
	bar, err := Parse[Kilopascal]("3.1 bar")
	require.NoError(t, err)
	assert.InDelta(t, 310, float64(bar), 1e-9)
	f, err := Parse[Celsius]("-30 °F")
	require.NoError(t, err)
	assert.InDelta(t, -34.444, float64(f), 1e-3)
	h, err := Parse[Metre]("-80 mm")
	require.NoError(t, err)
	assert.InDelta(t, -0.08, float64(h), 1e-12)
	d, err := Parse[Second]("1 h 30 min")
	require.NoError(t, err)
	assert.Equal(t, Second(5400), d)
}

func TestParseRefusesWithTheInputAndExamples(t *testing.T) {
	for in, why := range map[string]string{
		"": "nothing given", "43": "unit is missing", "gal": "no number", "43 furlong": "not a unit of volume",
		"-3 gal": "can't be negative", "1,500 L": "thousands", "1/ gal": "lower part", "1/0 gal": "lower part",
		"3 L 2 gal": "do not belong together", "1.2.3 L": "two decimal marks", "99999999999999999 L": "too many digits",
	} {
		_, err := Parse[Litre](in)
		var pe *ParseError
		require.ErrorAs(t, err, &pe, in)
		assert.Contains(t, err.Error(), why, in)
		assert.Contains(t, err.Error(), "43 gal", in)
		assert.Equal(t, in, pe.Input)
	}
}

func TestShowPicksUnitAndDigits(t *testing.T) {
	nb := func(s string) string { return strings.ReplaceAll(s, " ", "\u00a0") }
	assert.Equal(t, nb("43.0 gal"), Show(43*USGallon, US))
	assert.Equal(t, nb("163 L"), Show(43*USGallon, SI))
	assert.Equal(t, nb("5.0 fl oz"), Show(5*FluidOunce, US))
	assert.Equal(t, nb("148 mL"), Show(5*FluidOunce, SI))
	assert.Equal(t, nb("−22 °F"), Show(Celsius(-30), US))
	assert.Equal(t, nb("12.5 ft"), Show(Millimetre(3810), US))
	assert.Equal(t, nb("0 mL"), Show(Litre(-1e-9), SI), "no minus before nought")
	assert.Equal(t, nb("1 gal"), Neat(USGallon, US))
	assert.Equal(t, nb("100 L"), Neat(Litre(100), SI))
	assert.Equal(t, "43.0\u00a0gal (163\u00a0L)", Both(43*USGallon, US))
	assert.Equal(t, nb("7.5 A"), Both(Ampere(7.5), US), "one system's unit is not repeated")
}

func roundTrip[U Unit](t *testing.T, values ...U) {
	t.Helper()
	for _, v := range values {
		for _, sys := range []System{US, SI} {
			g := Of(v, sys)
			tolerance := math.Max(math.Abs(float64(v))*0.02, 0.02)
			assert.InDelta(t, float64(v), float64(g.Value()), tolerance, g.String())
		}
	}
}

func TestWhatIsShownReadsBack(t *testing.T) {
	roundTrip[Litre](t, 0, 0.001, 0.2, 0.95, 1, 12, 163, 1234)
	roundTrip[Millimetre](t, 12.3, 305, 3800)
	roundTrip[Metre](t, -0.3, 0, 1.25)
	roundTrip[Kilopascal](t, 310, 55)
	roundTrip[LitrePerMinute](t, 2, 11.4)
	roundTrip[Second](t, 10, 100, 7200)
	roundTrip[Kilogram](t, 0.4, 12, 540)
	roundTrip[Kilowatt](t, 0.44, 1.4, 3.5)
	for _, v := range []Celsius{-30, 0, 60} {
		assert.InDelta(t, float64(v), float64(Of(v, US).Value()), 0.5)
	}
}

func TestGivenKeepsTheTextAndFindsPairsThatDisagree(t *testing.T) {
	var g Given[Litre]
	require.NoError(t, json.Unmarshal([]byte(`"38 gal (118 L)"`), &g))
	assert.InDelta(t, 143.846, float64(g.Value()), 1e-3)
	assert.InDelta(t, (143.846-118)/143.846, g.Disagreement(), 1e-4)
	out, err := json.Marshal(g)
	require.NoError(t, err)
	assert.JSONEq(t, `"38 gal (118 L)"`, string(out))

	good, err := Read[Litre]("43 gal (163 L)")
	require.NoError(t, err)
	assert.Less(t, good.Disagreement(), 0.02)
	assert.Error(t, json.Unmarshal([]byte(`43`), &g), "a bare number has no unit")
	_, err = Read[Litre]("43 gal (163 L")
	assert.ErrorContains(t, err, "bracket")
	assert.True(t, Given[Litre]{}.IsZero())
	assert.Equal(t, Litre(7), Given[Litre]{}.Or(7))
}

func TestHouseholdTakesTheCoarsestWithinTheShare(t *testing.T) {
	m := Household(0.1391, 0.10, US)
	assert.Equal(t, "5\u00a0fl oz", m.String())
	assert.InDelta(t, 0.14787, float64(m.Litre), 1e-5)
	assert.Equal(t, "½\u00a0cup", Household(0.115, 0.10, US).String())
	assert.Equal(t, "1½\u00a0cups", Household(0.35, 0.10, US).String())
	assert.Equal(t, "150\u00a0mL", Household(0.1391, 0.10, SI).String())
	assert.Equal(t, "¼\u00a0tsp", Household(0.0001, 0.10, US).String(), "the finest there is")
	assert.Equal(t, "7\u00a0tbsp + 1\u00a0tsp", Household(22*Teaspoon, 0.01, US).String(), "nobody counts 22 teaspoons")
}

func FuzzParse(f *testing.F) {
	for _, s := range []string{"43 gal", "2 1/2 gal", "7'4\"", "8,5 L", "-30 °F", "½", "1/", "(", "1e9 L",
		"3 ft 3 ft"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		if v, err := Parse[Litre](s); err == nil && (v < 0 || math.IsNaN(float64(v)) || math.IsInf(float64(v), 0)) {
			t.Errorf("Parse(%q) = %v", s, v)
		}
		if v, err := Parse[Metre](s); err == nil && math.IsNaN(float64(v)) {
			t.Errorf("Parse(%q) = %v", s, v)
		}
		if g, err := Read[Celsius](s); err == nil && g.String() != s {
			t.Errorf("text %q became %q", s, g.String())
		}
	})
}

func TestCountsRoundUp(t *testing.T) {
	for count, want := range map[float64]int{0: 0, 0.2: 1, 1: 1, 1.0001: 2, 2.9999: 3, 3 * (1 / 3.0) * 2: 2,
		3.0000000001: 3} {
		assert.Equal(t, want, RoundUp(count), "%v", count)
	}
}

func TestFractionsOfACup(t *testing.T) {
	for v, want := range map[float64]string{0.25: "¼", 1. / 3: "⅓", 0.5: "½", 2. / 3: "⅔", 0.75: "¾", 1 + 2./3: "1⅔",
		2.25: "2¼", 3: "3"} {
		assert.Equal(t, want, Fraction(v), "%v", v)
	}
}
