package edit_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"

	"coldtap/internal/core/edit"
	"coldtap/internal/rig"
	"coldtap/internal/rig/told"
)

// What was assumed is given once it is confirmed or changed, and nothing else
// with it.
func TestAssumedFieldsAreConfirmedOrChanged(t *testing.T) {
	m, err := rig.Model("basalt-28")
	require.NoError(t, err)
	id := m.Parts[0].ID
	m.Parts[0].Assumed = []string{"data.capacity", "place.front", "place.height"}
	m.Lines[0].Assumed = []string{"length"}

	done, err := edit.Confirm(m, edit.OfPart, id, "place.height")
	require.NoError(t, err)
	assert.Equal(t, []string{"data.capacity", "place.front"}, done.Model.Part(id).Assumed)
	assert.Equal(t, m.Parts[0].Name+": confirmed height", told.Fact(done.Said))
	assert.Equal(t, []string{"length"}, done.Model.Lines[0].Assumed)

	done, err = edit.Set(done.Model, edit.OfPart, id, map[string]string{"data.capacity": "171 L"})
	require.NoError(t, err)
	assert.Equal(t, []string{"place.front"}, done.Model.Part(id).Assumed)

	done, err = edit.Confirm(done.Model, edit.OfPart, id)
	require.NoError(t, err)
	assert.Empty(t, done.Model.Part(id).Assumed)
	done, err = edit.Confirm(done.Model, edit.OfPart, id, "place.front")
	require.NoError(t, err)
	assert.True(t, done.Said.IsZero(), "there is nothing left to confirm")

	done, err = edit.Confirm(done.Model, edit.OfLine, m.Lines[0].ID)
	require.NoError(t, err)
	assert.Empty(t, done.Model.Lines[0].Assumed)
	_, err = edit.Confirm(m, edit.OfLine, "none")
	assert.ErrorContains(t, err, "none")
}

func TestAllAssumedValuesAreConfirmedAtOnce(t *testing.T) {
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	m.Parts[0].Assumed, m.Lines[0].Assumed = []string{"kind"}, []string{"from", "to"}
	done, err := edit.ConfirmAll(m)
	require.NoError(t, err)
	assert.Empty(t, done.Model.Parts[0].Assumed)
	assert.Empty(t, done.Model.Lines[0].Assumed)
	assert.Equal(t, 3, done.Said.Args[0])
	again, err := edit.ConfirmAll(done.Model)
	require.NoError(t, err)
	assert.True(t, again.Said.IsZero())
}
