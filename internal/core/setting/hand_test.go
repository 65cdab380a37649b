package setting_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
)

// keeping plans the Gneiss with a setting kept for everyday use.
func keeping(t *testing.T, handles map[string]string) (*plumbing.Network, *setting.Answer) {
	t.Helper()
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	m.Kept = []plumbing.Kept{{Mode: setting.Everyday, Handles: handles, Reason: "as the plant sets it", By: "Imre Valk"}}
	n, err := plumbing.NewNetwork(m)
	require.NoError(t, err)
	plan, err := setting.Plan(t.Context(), n)
	require.NoError(t, err)
	return n, setting.ForMode(plan, setting.Everyday)
}

func position(n *plumbing.Network, a *setting.Answer, id string) string {
	h := n.HandleOf(id)
	return n.Handles[h].Positions[a.State.Position(h)]
}

func TestAKeptSettingIsUsedAndJudged(t *testing.T) {
	n, a := keeping(t, map[string]string{"valve-bypass": "open"})
	require.NotNil(t, a.Kept)
	assert.Equal(t, "open", position(n, a, "valve-bypass"))
	assert.False(t, a.OK, "water passes the heater by")
	require.NotEmpty(t, a.Broken)
	assert.Equal(t, setting.OnlyByHeater, a.Broken[0].Clause.Aim)
	h := n.HandleOf("valve-bypass")
	assert.Equal(t, "closed", n.Handles[h].Positions[a.Found.Position(h)], "what was found is still known")

	n, a = keeping(t, map[string]string{"valve-bypass": "closed"})
	require.NotNil(t, a.Kept)
	assert.True(t, a.OK)
	assert.Equal(t, "closed", position(n, a, "valve-bypass"))
}

func TestADangerIsNeverKept(t *testing.T) {
	n, a := keeping(t, map[string]string{"valve-heater-in": "closed"})
	assert.Nil(t, a.Kept)
	require.NotNil(t, a.Refused)
	assert.True(t, a.OK, "the setting that was found is used")
	assert.Equal(t, "open", position(n, a, "valve-heater-in"))
}

func TestAHandIsReadBackAsItWasKept(t *testing.T) {
	n, a := keeping(t, map[string]string{"valve-bypass": "open"})
	k := setting.Hand(n, &a.Mode, a.State, "again", "Imre Valk")
	assert.Equal(t, "open", k.Handles["valve-bypass"])
	for id := range k.Handles {
		_, fixed := a.Mode.Fixed[n.HandleOf(id)]
		assert.False(t, fixed, "%s is not the hand's to set", id)
	}
}
