package instruction

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/proof"
)

// What breaks in another order is told as that, however much breaks; what breaks in a corner is told with all its corners.
func TestWhatBreaksInACornerIsTold(t *testing.T) {
	t.Parallel()
	breach := func(rule, part string) proof.Breach { return proof.Breach{Rule: rule, Part: part, Said: fact.Of(rule)} }
	order := fact.Of(proof.OtherOrder)
	assert.Equal(t, []fact.Fact{fact.Of("range.order", fact.Of("frost"))},
		Ranges([]proof.Ranged{{Corner: proof.Corner{Said: order}, Breaches: []proof.Breach{breach("frost", "tap")}}}))
	assert.Equal(t, []fact.Fact{fact.Of("range.order-more", 1, fact.Of("frost"))},
		Ranges([]proof.Ranged{{Corner: proof.Corner{Said: order}, Breaches: []proof.Breach{breach("frost", "tap"), breach("left-on", "pump")}}}))
	assert.Empty(t, Ranges([]proof.Ranged{{Corner: proof.Corner{Said: order}}, {Corner: proof.Corner{Said: fact.Of("level")}}}))
	corners := Ranges([]proof.Ranged{{Corner: proof.Corner{Said: fact.Of("cold")}, Breaches: []proof.Breach{breach("frost", "tap")}},
		{Corner: proof.Corner{Said: fact.Of("slow")}, Breaches: []proof.Breach{breach("frost", "tap")}}})
	assert.Len(t, corners, 1, "once, with both")
}
