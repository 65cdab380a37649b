package house_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/house"
	"coldtap/internal/core/quantity"
)

// Each rule's usual value in both systems, and its bounds: the least and the most that are taken, and what is just
// outside. What keeps people safe must not be set to anything.
func TestEachRuleHasItsBounds(t *testing.T) {
	t.Parallel()
	table := map[string][6]string{ // usual, usual in SI, least, below it, most, above it
		"target":          {"50 mg/L", "50 mg/L", "10 mg/L", "9.9 mg/L", "150 mg/L", "150.1 mg/L"},
		"bleach":          {"5.25 %", "5.25 %", "1 %", "0.99 %", "15 %", "15.1 %"},
		"over":            {"10 %", "10 %", "0 %", "", "25 %", "25.1 %"},
		"ceiling":         {"200 mg/L", "200 mg/L", "100 mg/L", "99 mg/L", "400 mg/L", "401 mg/L"},
		"container":       {"5 gal", "20 L", "1 L", "0.99 L", "30 L", "30.1 L"},
		"start":           {"25 %", "25 %", "0 %", "", "90 %", "90.1 %"},
		"soak-low":        {"4 h", "4 h", "30 min", "29 min", "", "24.1 h"},
		"soak-high":       {"8 h", "8 h", "", "29 min", "48 h", "48.1 h"},
		"supply-chlorine": {"0 mg/L", "0 mg/L", "0 mg/L", "", "10 mg/L", "10.1 mg/L"},
		"flush-above":     {"1 mg/L", "1 mg/L", "0.1 mg/L", "0.09 mg/L", "10 mg/L", "10.1 mg/L"},
		"drinking":        {"4 mg/L", "4 mg/L", "0.1 mg/L", "0.09 mg/L", "10 mg/L", "10.1 mg/L"},
		"antifreeze":      {"-50 °F", "-46 °C", "-73 °C", "-73.1 °C", "-5 °C", "-4.9 °C"},
		"overrun":         {"5.1 fl oz", "150 mL", "0 mL", "", "2 L", "2.01 L"},
		"run-out":         {"3.4 fl oz", "100 mL", "0 mL", "", "2 L", "2.01 L"},
		"alone":           {"100 %", "100 %", "0 %", "", "500 %", "501 %"},
		"jug-heel":        {"3.4 fl oz", "100 mL", "0 mL", "", "2 L", "2.01 L"},
		"accumulator":     {"50 %", "50 %", "0 %", "", "100 %", "101 %"},
		"jug":             {"1 gal", "5 L", "500 mL", "499 mL", "30 L", "30.1 L"},
		"smear":           {"10 %", "10 %", "0 %", "", "50 %", "51 %"},
		"film":            {"3 %", "3 %", "0 %", "", "20 %", "21 %"},
		"air":             {"40 psi", "276 kPa", "69 kPa", "68.9 kPa", "345 kPa", "345.1 kPa"},
		"supply-flow":     {"4 gal/min", "15 L/min", "1 L/min", "0.9 L/min", "60 L/min", "60.1 L/min"},
		"nose":            {"1 mg/L", "1 mg/L", "0.2 mg/L", "0.19 mg/L", "20 mg/L", "20.1 mg/L"},
		"pale":            {"50 %", "50 %", "0 %", "", "100 %", "101 %"},
		"handling":        {"20 s", "20 s", "1 s", "0.9 s", "300 s", "301 s"},
		"dry-run":         {"30 s", "30 s", "5 s", "4.9 s", "600 s", "601 s"},
		"leak-test":       {"10 min", "10 min", "60 s", "59 s", "2 h", "121 min"},
		"trip-fill":       {"33 %", "33 %", "0 %", "", "100 %", "101 %"},
		"pump-on":         {"20 min", "20 min", "60 s", "59 s", "2 h", "121 min"},
		"pump-off":        {"20 min", "20 min", "0 s", "", "2 h", "121 min"},
		"water-temp":      {"50 °F", "10 °C", "0 °C", "-0.1 °C", "35 °C", "35.1 °C"},
		"hot-temp":        {"140 °F", "60 °C", "40 °C", "39.9 °C", "80 °C", "80.1 °C"},
		"safe-temp":       {"104 °F", "40 °C", "25 °C", "24.9 °C", "50 °C", "50.1 °C"},
		"spill":           {"0.26 gal", "1 L", "100 mL", "99 mL", "20 L", "20.1 L"},
		"descale":         {"8 h", "8 h", "1 h", "59 min", "24 h", "24.1 h"},
		"vinegar-share":   {"50 %", "50 %", "0 %", "", "100 %", "101 %"},
		"vinegar":         {"5 %", "5 %", "4 %", "3.9 %", "25 %", "25.1 %"},
		"hot-cycle":       {"8 h", "8 h", "1 h", "59 min", "24 h", "24.1 h"},
		"anode":           {"75 %", "75 %", "0 %", "", "95 %", "96 %"},
	}
	us, si := house.Usual(quantity.US), house.Usual(quantity.SI)
	takes := func(rule, text string) bool {
		_, err := us.With("somebody", map[string]string{rule: text})
		return err == nil
	}
	for _, r := range house.Rules() {
		x, bounded := table[r.ID]
		if !bounded {
			assert.True(t, r.Free || len(r.Schools) > 1 && !takes(r.ID, "anything else"), "%s stands in no table", r.ID)
			continue
		}
		assert.Equal(t, x[0], us.Text(r.ID, quantity.US), r.ID)
		assert.Equal(t, x[1], si.Text(r.ID, quantity.SI), r.ID)
		for i, text := range x[2:] {
			if text != "" {
				assert.Equal(t, i%2 == 0, takes(r.ID, text), "%s: %s", r.ID, text)
			}
		}
		if r.ID != "antifreeze" {
			assert.False(t, takes(r.ID, "-1"+text(x[0])), "%s: what is below nought", r.ID)
		}
	}
	// The two ends of a soak hold together.
	assert.False(t, takes("soak-low", "8.1 h"))
	assert.True(t, takes("soak-low", "8 h"))
	assert.False(t, takes("soak-high", "3.9 h"))
	assert.True(t, takes("soak-high", "4 h"))
}

// text is the unit of a value.
func text(value string) string {
	for i, r := range value {
		if r == ' ' {
			return value[i:]
		}
	}
	return ""
}
