package amount_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/quantity"
)

// Every rule reads back what it writes and takes each of the values that are
// offered; taking what stands changes nothing but whose it is.
func TestEveryRuleReadsWhatItWrites(t *testing.T) {
	seen := map[string]bool{}
	for _, sys := range []quantity.System{quantity.US, quantity.SI} {
		house := amount.DefaultHouse(sys)
		for _, r := range amount.Rules() {
			if sys == quantity.US {
				require.False(t, seen[r.ID], "two rules are called %s", r.ID)
				seen[r.ID] = true
			}
			require.NotEmpty(t, r.Schools, r.ID)
			assert.Equal(t, "usual in the trade", house.By(r.ID))
			text := r.Get(house, sys)
			same, err := house.With("somebody", map[string]string{r.ID: text})
			require.NoError(t, err, "%s: %s", r.ID, text)
			assert.Equal(t, text, r.Get(same, sys), r.ID)
			assert.Equal(t, "somebody", same.By(r.ID))
			for _, school := range r.Schools {
				wide := map[string]string{r.ID: school}
				if r.ID == "soak-low" {
					wide["soak-high"] = "24 h"
				}
				h, err := house.With("somebody", wide)
				require.NoError(t, err, "%s: %s", r.ID, school)
				again, err := h.With("somebody", map[string]string{r.ID: r.Get(h, sys)})
				require.NoError(t, err)
				assert.Equal(t, r.Get(h, sys), r.Get(again, sys), "%s: %s", r.ID, school)
			}
			_, err = house.With("somebody", map[string]string{r.ID: "nonsense"})
			require.ErrorContains(t, err, r.Name, "the error says which")
		}
	}
}

// A house is not changed by those that are made of it.
func TestRulesOfOneLayerLeaveTheOneBeneathAlone(t *testing.T) {
	house := amount.DefaultHouse(quantity.US)
	own, err := house.With("this model", map[string]string{"jug": "5 L", "target": "65 mg/L", "overrun": ""})
	require.NoError(t, err)
	assert.Equal(t, quantity.MgPerLitre(50), house.TargetStrength)
	assert.Equal(t, quantity.USGallon, house.JugSizes[0])
	assert.Equal(t, "usual in the trade", house.By("target"))
	assert.Equal(t, "usual in the trade", own.By("overrun"), "an empty value sets nothing")
	assert.Equal(t, quantity.Litre(5), own.JugSizes[0])
}

func TestRulesOutsideWhatIsSensibleAreRefused(t *testing.T) {
	house := amount.DefaultHouse(quantity.US)
	for rule, text := range map[string]string{
		"target": "1000 mg/L", "bleach": "52.5 %", "over": "200 %", "ceiling": "1 mg/L", "air": "120 psi", "supply-flow": "0 L/min",
		"soak-low": "9 h", "helper": "maybe", "jug": "1 mL", "antifreeze": "+50 °F", "hot-temp": "212 °F", "container": "-1 gal",
	} {
		_, err := house.With("somebody", map[string]string{rule: text})
		assert.Error(t, err, "%s: %s", rule, text)
	}
}

// Somebody alone lets more run out at each low point, and the sheet says by
// whose rule.
func TestAHelperSavesAntifreezeAtEachLowPoint(t *testing.T) {
	n, answers, house := build(t, "gneiss-24-2027")
	a := answers[0]
	for _, x := range answers {
		if x.Mode.ID == "antifreeze" {
			a = x
		}
	}
	with := amount.Antifreeze(n, &a, amount.Drained, house)
	alone, err := house.With("the house", map[string]string{"helper": "no", "alone": "50 %"})
	require.NoError(t, err)
	without := amount.Antifreeze(n, &a, amount.Drained, alone)
	// Two low points, 100 mL each, half as much again.
	assert.InDelta(t, 2*0.05, float64(without.Total-with.Total), 1e-9)
}
