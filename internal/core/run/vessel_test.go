package run

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/quantity"
)

// A vessel is dry at its heel and stays so until a hundredth of what it holds has gathered; it has air above its water
// from a hundredth on, and stays so until it is full.
func TestWhatBubblesInGathersFirst(t *testing.T) {
	t.Parallel()
	v := Vessel{Holds: 100, heel: 2}
	for i, x := range []struct {
		has       quantity.Litre
		dry, airy bool
	}{
		{100, false, false}, {99.5, false, false}, {98.9, false, true}, {99.5, false, true}, {100, false, false},
		{50, false, true}, {2.005, true, true}, {2.5, true, true}, {2.98, true, true}, {3.1, false, true}, {2.5, false, true},
	} {
		v.Liquid.Litre = x.has
		v.look()
		assert.Equal(t, x.dry, v.dry, "%d: dry with %v", i, x.has)
		assert.Equal(t, x.airy, v.airy, "%d: air above %v", i, x.has)
	}
}
