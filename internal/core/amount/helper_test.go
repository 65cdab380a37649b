package amount_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/amount"
)

// Somebody alone lets more run out at each low point, and the sheet says by
// whose rule.
func TestAHelperSavesAntifreezeAtEachLowPoint(t *testing.T) {
	n, answers, rules := build(t, "gneiss-24-2027")
	a := answers[0]
	for _, x := range answers {
		if x.Mode.ID == "antifreeze" {
			a = x
		}
	}
	with := amount.Antifreeze(n, &a, amount.Drained, rules)
	alone, err := rules.With("the house", map[string]string{"helper": "no", "alone": "50 %"})
	require.NoError(t, err)
	without := amount.Antifreeze(n, &a, amount.Drained, alone)
	// Two low points, 100 mL each, half as much again.
	assert.InDelta(t, 2*0.05, float64(without.Total-with.Total), 1e-9)
}
