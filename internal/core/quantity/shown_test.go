package quantity

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// shows is how values are shown in both systems, with ordinary spaces.
func shows[U Unit](t *testing.T, table map[U][2]string) {
	t.Helper()
	for v, want := range table {
		for sys, text := range want {
			assert.Equal(t, text, strings.ReplaceAll(Show(v, System(sys)), "\u00a0", " "), "%v", v)
		}
	}
}

// Each unit at the value where another begins, just below and just above it.
func TestEachAmountIsShownInTheUnitOfItsSize(t *testing.T) {
	t.Parallel()
	shows(t, map[Litre][2]string{0: {"0.0 fl oz", "0 mL"}, 0.94: {"32 fl oz", "940 mL"}, 0.95: {"0.25 gal", "950 mL"},
		0.9994: {"0.26 gal", "999 mL"}, 0.9996: {"0.26 gal", "1.00 L"}, 0.05: {"1.7 fl oz", "50 mL"},
		37.85: {"10.0 gal", "37.9 L"},
		3785:  {"1000 gal", "3785 L"}})
	shows(t, map[Millimetre][2]string{304: {"12.0 in", "304 mm"}, 305: {"1.0 ft", "305 mm"}, 999: {"3.3 ft", "999 mm"},
		1000: {"3.3 ft", "1.00 m"}, 9.52: {"0.37 in", "9.5 mm"}, 12345: {"40.5 ft", "12.3 m"}})
	shows(t, map[Metre][2]string{0.62: {"24.4 in", "0.62 m"}, -0.08: {"−3.1 in", "−0.08 m"}, 12.5: {"492 in", "12.5 m"}})
	shows(t, map[Kilopascal][2]string{310: {"45 psi", "310 kPa"}, 6.9: {"1 psi", "7 kPa"}, 1000: {"145 psi", "1000 kPa"}})
	shows(t, map[Celsius][2]string{-30: {"−22 °F", "−30 °C"}, 0: {"32 °F", "0 °C"}, 60: {"140 °F", "60 °C"},
		-17.8: {"0 °F", "−18 °C"}})
	shows(t, map[LitrePerMinute][2]string{11.4: {"3.01 gal/min", "11.4 L/min"}, 0.5: {"0.13 gal/min", "0.5 L/min"},
		378: {"99.9 gal/min", "378 L/min"}})
	shows(t, map[MgPerLitre][2]string{50: {"50.0 mg/L", "50.0 mg/L"}, 0.5: {"0.5 mg/L", "0.5 mg/L"},
		1234: {"1234 mg/L", "1234 mg/L"}})
	shows(t, map[Second][2]string{9: {"9 s", "9 s"}, 89: {"89 s", "89 s"}, 90: {"1.5 min", "1.5 min"},
		5399: {"90 min", "90 min"},
		5400: {"1.5 h", "1.5 h"}, 43200: {"12 h", "12 h"}})
	shows(t, map[Kilogram][2]string{0.4: {"0.9 lb", "400 g"}, 0.999: {"2.2 lb", "999 g"}, 1: {"2.2 lb", "1.0 kg"},
		540: {"1190 lb", "540 kg"}})
	shows(t, map[Kilowatt][2]string{0.44: {"440 W", "440 W"}, 1: {"1.00 kW", "1.00 kW"}, 2.4: {"2.40 kW", "2.40 kW"},
		2.5: {"8530 BTU/h", "2.50 kW"}, 0.999: {"999 W", "999 W"}})
	shows(t, map[Ampere][2]string{7.5: {"7.5 A", "7.5 A"}, 0.25: {"0.2 A", "0.2 A"}, 100: {"100 A", "100 A"}})
	shows(t, map[Percent][2]string{6: {"6.00 %", "6.00 %"}, 12.34: {"12.3 %", "12.3 %"}, 0.5: {"0.50 %", "0.50 %"}})
}

// Figures keep so many digits, no more decimals than most, and never lose one before the point.
func TestFiguresKeepTheirDigits(t *testing.T) {
	t.Parallel()
	for _, x := range []struct {
		n            float64
		digits, most int
		want         string
	}{{0, 3, 2, "0.00"}, {9.994, 3, 2, "9.99"}, {10, 3, 2, "10.0"}, {99.99, 3, 2, "100"}, {9.996, 3, 2, "10.0"}, {9.95, 2, 9, "10"},
		{0.9996, 3, 3, "1.00"}, {999.6, 3, 2, "1000"}, {100, 3, 2, "100"}, {1234.5, 2, 3, "1234"},
		{0.1234, 3, 3, "0.123"}, {0.1234, 3, 1, "0.1"}, {-0.04, 2, 1, "0.0"}, {-0.06, 2, 1, "−0.1"}, {-12.3, 3, 1, "−12.3"},
		{1e-12, 2, 1, "0.0"}, {1000, 4, 2, "1000"}} {
		assert.Equal(t, x.want, Figure(x.n, x.digits, x.most), "%v", x)
	}
	plain := func(s string) string { return strings.ReplaceAll(s, "\u00a0", " ") }
	assert.Equal(t, "3.0 gal/min (11 L/min)", plain(Rough(LitrePerMinute(11.4), US)))
	assert.Equal(t, "11 L/min (3.0 gal/min)", plain(Rough(LitrePerMinute(11.4), SI)))
	assert.Equal(t, "50 mg/L", plain(Rough(MgPerLitre(49.6), US)), "the same in both is said once")
	assert.Equal(t, "11 L/min", plain(About(LitrePerMinute(11.4), SI)))
	assert.Equal(t, "0.62 m", plain(Neat(Metre(0.62), SI)))
	assert.Equal(t, "0.6 m", plain(Neat(Metre(0.6), SI)))
	assert.Equal(t, "100 kPa", plain(Neat(Kilopascal(100), SI)))
}
