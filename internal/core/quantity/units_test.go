package quantity

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// means holds what one of each unit is in the unit inside, by NIST Handbook 44 and the Weights and Measures Act.
func means[U Unit](t *testing.T, table map[string]float64) {
	t.Helper()
	d := dimensionOf[U]()
	seen := map[string]bool{}
	for words, is := range table {
		for word := range strings.SplitSeq(words, "|") {
			v, err := Parse[U]("1 " + word)
			require.NoError(t, err, word)
			assert.InDelta(t, is, float64(v), math.Abs(is)*1e-6, "1 %s", word)
			seen[word] = true
			_, known := d.units[word]
			assert.True(t, known, "%s is listed as it stands", word)
		}
	}
	for word := range d.units {
		assert.True(t, seen[word], "%s stands in no table", word)
	}
}

func TestEachUnitMeansWhatItMeans(t *testing.T) {
	t.Parallel()
	means[Litre](t, map[string]float64{
		"l|litre|litres|liter|liters|ltr|dm³": 1, "cl": 0.01, "dl": 0.1, "m³": 1000,
		"ml|millilitre|millilitres|milliliter|milliliters|cc|cm³":        0.001,
		"gal|gals|gallon|gallons|us gal|us gallon|us gallons|gal us|usg": 3.785411784,
		"imp gal|imp gallon|imp gallons|imp. gal|uk gal|gal imp":         4.54609,
		"qt|quart|quarts": 0.946352946,
		"pt|pint|pints":   0.473176473,
		"fl oz|floz|fl. oz|oz|ounce|ounces|fluid ounce|fluid ounces|us fl oz": 0.0295735296,
		"cup|cups":                        0.2365882365,
		"tbsp|tbs|tablespoon|tablespoons": 0.0147867648,
		"tsp|teaspoon|teaspoons":          0.0049289216,
	})
	length := func(per float64) map[string]float64 {
		return map[string]float64{"mm|millimetre|millimetres|millimeter|millimeters": per,
			"cm|centimetre|centimetres": 10 * per, "m|metre|metres|meter|meters": 1000 * per,
			"in|inch|inches|\"|″|”|''": 25.4 * per, "ft|foot|feet|'|′|’": 304.8 * per, "yd|yard|yards": 914.4 * per}
	}
	means[Millimetre](t, length(1))
	means[Metre](t, length(0.001))
	means[Kilopascal](t, map[string]float64{"kpa": 1, "psi|psig|lb/in²": 6.894757, "bar|bars": 100, "mbar": 0.1, "MPa": 1000,
		"Pa": 0.001, "mh₂o|m h₂o": 9.80665})
	means[Celsius](t, map[string]float64{"°c|c|deg c|degc|celsius|ºc": 1,
		"°f|f|deg f|degf|fahrenheit|ºf": -17.2222222})
	means[LitrePerMinute](t, map[string]float64{"l/min|lpm|litres/min|l per min|litres per minute": 1,
		"l/h|l/hour": 1. / 60, "l/s": 60, "m³/h": 16.6666667, "gal/min|gpm|gallons per minute|us gal/min": 3.785411784,
		"gal/h|gph": 0.0630901964})
	means[MgPerLitre](t, map[string]float64{"mg/l|ppm|g/m³": 1, "g/l": 1000})
	means[Second](t, map[string]float64{"s|sec|secs|second|seconds": 1, "min|mins|minute|minutes": 60,
		"h|hr|hrs|hour|hours": 3600, "d|day|days": 86400})
	means[Kilogram](t, map[string]float64{"kg|kilogram|kilograms": 1, "g|gram|grams": 0.001, "t": 1000,
		"lb|lbs|pound|pounds": 0.45359237, "oz|ounce|ounces": 0.0283495231})
	means[Kilowatt](t, map[string]float64{"kw": 1, "w": 0.001, "btu/h|btu/hr|btuh|btu": 0.00029307107})
	means[Ampere](t, map[string]float64{"a|amp|amps|ampere": 1})
	means[Percent](t, map[string]float64{"%|percent|per cent": 1})
}

// What a hand writes and no table has: capitals, full stops, brackets of feet and inches, signs, vulgar fractions.
func TestParseTakesHowPeopleWrite(t *testing.T) {
	t.Parallel()
	for in, want := range map[string]float64{"43 Gal.": 162.7727067, "2 L": 2, "3 QT": 2.8390588, "⅛ cup": 0.0295735296,
		"⅜ cup": 0.0887205887, "⅝ cup": 0.1478676478, "⅞ cup": 0.2070147069, "⅕ l": 0.2, "⅙ l": 1. / 6,
		"1 ⅓ l": 4. / 3, "2⅔ l": 8. / 3,
		"1 gal 2 qt": 5.678117676, "1,5 l": 1.5, "0,750 l": 0.75, "3\u00a0gal": 11.356235352,
		"999999999999999 ml": 999999999999.999,
		"12 /4 l":            math.NaN(), "1 1/2 1/2 l": math.NaN(), "1e3 l": math.NaN(), "− 3 l": math.NaN(), "1 gal 1 gal": math.NaN(),
		"1000000001 m³": math.NaN(), "1234567890123456 ml": math.NaN(), "12,500 l": math.NaN(), "3/ l": math.NaN(),
		"1 2/0 l": math.NaN(),
		"1 2/ l":  math.NaN(), ".5.5 l": math.NaN(), "l": math.NaN(), "-": math.NaN()} {
		got, err := Parse[Litre](in)
		if math.IsNaN(want) {
			assert.Error(t, err, in)
			continue
		}
		require.NoError(t, err, in)
		assert.InDelta(t, want, float64(got), math.Abs(want)*1e-7, in)
	}
	for in, want := range map[string]float64{"7'-4\"": 2235.2, "7 ft - 4 in": 2235.2, "-0 mm": 0, "5 ft 6 in": 1676.4} {
		got, err := Parse[Millimetre](in)
		require.NoError(t, err, in)
		assert.InDelta(t, want, float64(got), 1e-6, in)
	}
	for in, want := range map[string]float64{"−30 °C": -30, "– 22 °F": -30, "-40 f": -40} {
		got, err := Parse[Celsius](in)
		require.NoError(t, err, in)
		assert.InDelta(t, want, float64(got), 1e-6, in)
	}
	head, err := Parse[Kilopascal]("2.5 mH2O")
	require.NoError(t, err)
	assert.InDelta(t, 24.5166, float64(head), 1e-4)
	_, err = Parse[Celsius]("3 °C 4 °F")
	assert.ErrorContains(t, err, "do not belong together")
}

// Whole measures hold at least what is wanted, and no coarser measure would do within the share.
func TestHouseholdIsTheCoarsestThatDoes(t *testing.T) {
	t.Parallel()
	rng := rand.New(rand.NewPCG(1, 1))
	for range 3000 {
		v, over := Litre(math.Exp(rng.Float64()*9-8)), []float64{0.02, 0.05, 0.1, 0.25}[rng.IntN(4)]
		for _, sys := range []System{US, SI} {
			m := Household(v, over, sys)
			assert.GreaterOrEqual(t, float64(m.Litre), float64(v)-1e-9*float64(v))
			list := spoons(sys)
			for i, s := range list {
				step := float64(s.size) * s.step
				would := math.Ceil(float64(v)/step-1e-9) * step
				if would <= float64(v)*(1+over) || i == len(list)-1 {
					assert.InDelta(t, would, float64(m.Litre), 1e-12, "%v over %v", v, over)
					assert.Equal(t, s.name, m.Name)
					assert.InDelta(t, would/float64(s.size), m.Count, 1e-9)
					break
				}
			}
		}
	}
	for count, says := range map[float64]string{1: "1\u00a0tsp", 3: "1\u00a0tbsp", 3.5: "1\u00a0tbsp + ½\u00a0tsp",
		2.75: "2¾\u00a0tsp",
		6:    "2\u00a0tbsp"} {
		assert.Equal(t, says, Measured{Count: count, Name: "tsp"}.String())
	}
	assert.Equal(t, "1\u00a0cup", Measured{Count: 1, Name: "cup"}.String())
	assert.Equal(t, "1½\u00a0cups", Measured{Count: 1.5, Name: "cup"}.String())
	assert.Equal(t, "2½\u00a0L", strings.ReplaceAll(Measured{Count: 2.5, Name: "L"}.String(), "2.5", "2½"),
		"as a scale has it")
}
