package scene_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/scene"
	"coldtap/internal/core/setting"
	"coldtap/internal/rig"
)

// A tank gives what the open tap draws, and fills where the pump sends water
// back to it.
func TestTanksFillAndGive(t *testing.T) {
	n := rig.Network(t, "joint-at-pump")
	plan := rig.Plan(t, n)
	say := func(mode string) string {
		a := setting.Of(plan, mode)
		require.True(t, a.OK, a.Why)
		st := scene.Begin(n, &a.Mode, a.State.Handles)
		p, err := scene.Look(t.Context(), st, plan)
		require.NoError(t, err)
		for _, f := range scene.Facts(st, p) {
			if f.Part.Role() == plumbing.RoleTank {
				return f.What
			}
		}
		return ""
	}
	assert.Equal(t, "gives", say(setting.Everyday))
	assert.Equal(t, "gets by its return", say(setting.FillContainer))
	// By a port below the water: what comes in is seen as filling.
	m, err := rig.Model("joint-at-pump")
	require.NoError(t, err)
	for i := range m.Lines {
		if m.Lines[i].To == "fresh.return" {
			m.Lines[i].To = "fresh.link"
		}
	}
	n, err = plumbing.NewNetwork(m)
	require.NoError(t, err)
	plan = rig.Plan(t, n)
	assert.Equal(t, "fills at", say(setting.FillContainer))
	assert.Equal(t, "gives", say(setting.Everyday))
}

// A tank whose inside height nobody gave still feeds its pump.
func TestATankOfUnknownHeightFeedsItsPump(t *testing.T) {
	n := rig.Network(t, "unknowns")
	plan := rig.Plan(t, n)
	a := setting.Of(plan, setting.Everyday)
	st := scene.Begin(n, &a.Mode, a.State.Handles)
	p, err := scene.Look(t.Context(), st, plan)
	require.NoError(t, err)
	assert.Equal(t, "running", p.Flow.Pumps["pump"].String())
}

// What stays is the sum of its places, the most first; a handle that helps is
// named with what it saves.
func TestWhatStaysIsListed(t *testing.T) {
	n := rig.Network(t, "heater-one-valve")
	plan := rig.Plan(t, n)
	a := setting.Of(plan, setting.DrainDown)
	st := scene.Begin(n, &a.Mode, a.State.Handles)
	p, err := scene.Look(t.Context(), st, plan)
	require.NoError(t, err)
	list := scene.Stays(n, p)
	var sum quantity.Litre
	for i, s := range list {
		sum += s.Stays
		if i > 0 {
			assert.LessOrEqual(t, s.Stays, list[i-1].Stays)
		}
		assert.NotEmpty(t, s.Why)
	}
	assert.InDelta(t, float64(p.Left.Total()), float64(sum), 0.002*float64(len(p.Left.Pieces)))
	h := n.HandleOf("plug")
	st.State = st.State.With(h, n.Handles[h].Index("closed"))
	p, err = scene.Look(t.Context(), st, plan)
	require.NoError(t, err)
	helps := scene.Helps(st, p)
	require.NotEmpty(t, helps)
	assert.Equal(t, "plug", helps[0].Part.ID)
	assert.Equal(t, "open", helps[0].Position)
}
