package amount

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/quantity"
)

// What is weakest says how weak it is, and what cold the model is made for where it is made for one.
func TestTheWeakestPlaceSaysHowWeak(t *testing.T) {
	t.Parallel()
	made := quantity.Of(quantity.Celsius(-30), quantity.SI)
	name := fact.Of("it", "Basin")
	for want, w := range map[string]Weakest{"weakest.plain": {Name: name, Left: 2}, "weakest.none": {Name: name, Share: 0.05,
		Burst: Protected{None: true}}, "weakest.burst": {Name: name, Share: 0.2, Burst: Protected{Temp: -20}}} {
		said, bare := w.Said(made), w.Said(quantity.Given[quantity.Celsius]{})
		assert.Equal(t, want, said.ID)
		assert.Equal(t, fact.Of("weakest.made-for", made), said.Args[len(said.Args)-1], want)
		assert.Equal(t, fact.Fact{}, bare.Args[len(bare.Args)-1], want)
		assert.Equal(t, name, said.Args[0])
	}
}
