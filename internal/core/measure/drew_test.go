package measure

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
)

// Antifreeze that is drawn out of a container or by a hand pump is counted, also in the step that takes it away; water, and
// what a hose brings, is not.
func TestAntifreezeThatIsDrawnIsCounted(t *testing.T) {
	t.Parallel()
	joined := func(kind state.ConnectionKind, fluid state.Fluid) state.State {
		return state.State{Joined: map[plumbing.NodeID]state.Connection{3: {Kind: kind, Fluid: fluid}}}
	}
	none := state.State{}
	for name, x := range map[string]struct {
		before, after state.State
		want          quantity.Litre
	}{
		"a container":          {none, joined(state.Container, state.Antifreeze), 2},
		"a hand pump":          {none, joined(state.HandPump, state.Antifreeze), 2},
		"taken away":           {joined(state.Container, state.Antifreeze), none, 2},
		"there all the time":   {joined(state.Container, state.Antifreeze), joined(state.Container, state.Antifreeze), 2},
		"a supply":             {none, joined(state.Supply, state.Antifreeze), 0},
		"water in a container": {none, joined(state.Container, state.Water), 0},
		"nothing":              {none, none, 0},
	} {
		pr := &proof.Proof{Outcomes: []*run.Outcome{{Moved: run.Moved{Drew: map[plumbing.NodeID]quantity.Litre{3: 2}}}},
			Systems: []*run.System{{State: x.before}, {State: x.after}}}
		assert.Equal(t, x.want, drew(pr, 0), name)
	}
}
