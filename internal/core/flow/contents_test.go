package flow_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
	"coldtap/internal/rig"
)

// The pieces hold what the lines, the small parts, the vessels and the insides
// of outlets hold, and each stretch of a line lies where its spots say.
func TestPiecesHoldWhatTheNetworkHolds(t *testing.T) {
	for _, name := range rig.Names() {
		m, err := rig.Model(name)
		require.NoError(t, err)
		n, err := plumbing.NewNetwork(m)
		require.NoError(t, err)
		var pieces, parts quantity.Litre
		for i, p := range n.AllPieces() {
			pieces += p.Holds
			assert.LessOrEqual(t, p.From, p.To, "%s: piece %d", name, i)
		}
		for i := range m.Lines {
			parts += m.Lines[i].Content()
		}
		for i := range m.Parts {
			// A waste tank is no part of it, and an accumulator has no passage.
			if p := &m.Parts[i]; p.Role() != plumbing.RoleWaste && p.Role() != plumbing.RoleAccumulator {
				parts += p.Holds()
			}
		}
		assert.InDelta(t, float64(parts), float64(pieces), 1e-9, name)
	}
}

// Drained again from what was left, nothing more stays in any piece; a piece
// that is half full keeps half of what it would have kept full, or less.
func TestDrainingGoesOnFromWhatIsThere(t *testing.T) {
	for _, name := range rig.Names() {
		m, err := rig.Model(name)
		require.NoError(t, err)
		n, err := plumbing.NewNetwork(m)
		require.NoError(t, err)
		a := setting.ForMode(rig.Plan(t, n), setting.DrainDown)
		if !a.Has() {
			continue
		}
		full := flow.Drain(n, a.State)
		again := a.State
		again.Contents = full.Contents(state.Water)
		assert.InDelta(t, float64(full.Total()), float64(flow.Drain(n, again).Total()), 1e-9, name)
		half := a.State
		half.Contents = state.Contents{}
		for i := range n.AllPieces() {
			half.Contents[i] = state.Content{Share: 0.5}
		}
		for _, p := range flow.Drain(n, half).Pieces {
			assert.LessOrEqual(t, float64(p.Stays()), float64(p.Holds())/2+1e-12, name)
		}
		// Undrained as it stands, a network keeps all, and no more than it held.
		shut := state.Normal(n)
		shut.Contents = half.Contents
		for _, p := range flow.Drain(n, shut).Pieces {
			assert.LessOrEqual(t, float64(p.Stays()), float64(p.Holds())/2+1e-12, name)
		}
	}
}
