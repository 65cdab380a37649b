package fact_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// Two facts that say the same have one key, whichever copy of a model their
// parts are of.
func TestAKeyTellsFactsApart(t *testing.T) {
	tank := func() *plumbing.Part { return &plumbing.Part{ID: "fresh", Name: "Fresh tank"} }
	pump := &plumbing.Part{ID: "pump", Name: "Water pump"}
	same := func() fact.Fact {
		return fact.Of("a", tank(), quantity.Litre(5), []*plumbing.Part{tank(), pump},
			fact.Of("b", fact.Name("Fresh tank")), []any{1, fact.Word("side.hot")})
	}
	assert.Equal(t, same().Key(), same().Key())
	for i := range same().Args {
		other := same()
		other.Args[i] = fact.Of("c")
		assert.NotEqual(t, same().Key(), other.Key(), "argument %d", i)
	}
	assert.NotEqual(t, fact.Of("a", tank()).Key(), fact.Of("b", tank()).Key())
	assert.NotEqual(t, fact.Of("a", []*plumbing.Part{tank(), pump}).Key(),
		fact.Of("a", []*plumbing.Part{pump, tank()}).Key())
}

func TestWhatDoesNotHoldSaysNothing(t *testing.T) {
	assert.True(t, fact.If(false, fact.Of("a")).IsZero())
	assert.Equal(t, fact.Of("a"), fact.If(true, fact.Of("a")))
	assert.True(t, fact.Fact{}.IsZero())
}
