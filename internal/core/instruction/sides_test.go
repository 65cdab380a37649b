package instruction

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
)

// A side is named where an outlet has two and one of them is opened.
func TestASideIsNamedWhereThereAreTwo(t *testing.T) {
	t.Parallel()
	opens := func(kind plumbing.Kind, typ string, sides ...string) fact.Fact {
		p := &plumbing.Part{ID: "tap", Kind: kind, Data: plumbing.Data{Type: typ}}
		return sidesOf(&proof.Step{Step: run.Step{Acts: []state.Act{{Verb: state.On}, {Verb: state.Open, Part: p, Sides: sides}}}})
	}
	assert.Equal(t, fact.Of("step-side", fact.Word("side.hot")), opens(plumbing.Outlet, "basin", "hot"))
	assert.Zero(t, opens(plumbing.Outlet, "basin", "cold", "hot"), "both")
	assert.Zero(t, opens(plumbing.Kind("drain"), "", "in"), "it has no other")
	assert.Zero(t, sidesOf(&proof.Step{}))
}
