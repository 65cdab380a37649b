package house_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/house"
	"coldtap/internal/core/quantity"
)

// Every rule reads back what it writes and takes each of the values that are
// offered; taking what stands changes nothing but whose it is.
func TestEveryRuleReadsWhatItWrites(t *testing.T) {
	seen := map[string]bool{}
	for _, sys := range []quantity.System{quantity.US, quantity.SI} {
		rules := house.Usual(sys)
		for _, r := range house.Rules() {
			if sys == quantity.US {
				require.False(t, seen[r.ID], "two rules are called %s", r.ID)
				seen[r.ID] = true
			}
			if r.Free {
				own, err := rules.With("somebody", map[string]string{r.ID: "  A text of  the house.  "})
				require.NoError(t, err)
				assert.Equal(t, "A text of the house.", own.Text(r.ID, sys))
				_, err = rules.With("somebody", map[string]string{r.ID: strings.Repeat("x", 601)})
				require.ErrorContains(t, err, r.Name)
				continue
			}
			require.NotEmpty(t, r.Schools, r.ID)
			assert.Equal(t, "usual in the trade", rules.By(r.ID))
			text := rules.Text(r.ID, sys)
			same, err := rules.With("somebody", map[string]string{r.ID: text})
			require.NoError(t, err, "%s: %s", r.ID, text)
			assert.Equal(t, text, same.Text(r.ID, sys), r.ID)
			assert.Equal(t, "somebody", same.By(r.ID))
			for _, school := range r.Schools {
				wide := map[string]string{r.ID: school}
				if r.ID == "soak-low" {
					wide["soak-high"] = "24 h"
				}
				h, err := rules.With("somebody", wide)
				require.NoError(t, err, "%s: %s", r.ID, school)
				again, err := h.With("somebody", map[string]string{r.ID: h.Text(r.ID, sys)})
				require.NoError(t, err)
				assert.Equal(t, h.Text(r.ID, sys), again.Text(r.ID, sys), "%s: %s", r.ID, school)
			}
			_, err = rules.With("somebody", map[string]string{r.ID: "nonsense"})
			require.ErrorContains(t, err, r.Name, "the error says which")
		}
	}
}

// A house is not changed by those that are made of it.
func TestRulesOfOneLayerLeaveTheOneBeneathAlone(t *testing.T) {
	rules := house.Usual(quantity.US)
	own, err := rules.With("this model", map[string]string{"jug": "5 L", "target": "65 mg/L", "overrun": ""})
	require.NoError(t, err)
	assert.Equal(t, quantity.MgPerLitre(50), house.Target.Of(rules))
	assert.Equal(t, quantity.USGallon, house.Jug.Of(rules))
	assert.Equal(t, "usual in the trade", rules.By("target"))
	assert.Equal(t, "usual in the trade", own.By("overrun"), "an empty value sets nothing")
	assert.Equal(t, quantity.Litre(5), house.Jug.Of(own))
}

func TestRulesOutsideWhatIsSensibleAreRefused(t *testing.T) {
	rules := house.Usual(quantity.US)
	for rule, text := range map[string]string{
		"target": "1000 mg/L", "bleach": "52.5 %", "over": "200 %", "ceiling": "1 mg/L", "air": "120 psi",
		"supply-flow": "0 L/min",
		"soak-low":    "9 h", "helper": "maybe", "jug": "1 mL", "antifreeze": "+50 °F", "hot-temp": "212 °F",
		"container": "-1 gal",
	} {
		_, err := rules.With("somebody", map[string]string{rule: text})
		assert.Error(t, err, "%s: %s", rule, text)
	}
}
