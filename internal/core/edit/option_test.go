package edit_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
)

func TestAnOptionIsMadeBoundAndTakenAway(t *testing.T) {
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	before := len(m.Lines)
	done, err := edit.SetOption(m, "", plumbing.Option{Name: "Winter pack", FromSerial: "G24-0100"})
	require.NoError(t, err)
	assert.Equal(t, "winter-pack", done.Model.Options[0].ID)
	done, err = edit.Assign(done.Model, "winter-pack", []string{"pickup", "pickup-hose"}, []string{"toilet"})
	require.NoError(t, err)
	assert.Equal(t, "winter-pack", done.Model.Part("pickup").Option)
	assert.Equal(t, "winter-pack", done.Model.Part("toilet").Without)
	same, err := edit.Assign(done.Model, "winter-pack", []string{"pickup", "pickup-hose"}, []string{"toilet"})
	require.NoError(t, err)
	assert.True(t, same.Said.IsZero(), "nothing changed")
	bare, err := done.Model.Build()
	require.NoError(t, err)
	assert.Nil(t, bare.Part("pickup"))

	done, err = edit.SetOption(done.Model, "", plumbing.Option{Name: "Summer pack", Excludes: []string{"winter-pack"}})
	require.NoError(t, err)
	_, err = done.Model.Build("winter-pack", "summer-pack")
	assert.ErrorContains(t, err, "can't be fitted with")
	done, err = edit.SetOption(done.Model, "winter-pack", plumbing.Option{ID: "cold-pack", Name: "Cold pack"})
	require.NoError(t, err)
	assert.Equal(t, "cold-pack", done.Model.Part("pickup").Option, "what names it follows its new id")
	assert.Equal(t, []string{"cold-pack"}, done.Model.Option("summer-pack").Excludes)
	done, err = edit.RemoveOption(done.Model, "cold-pack")
	require.NoError(t, err)
	assert.Nil(t, done.Model.Part("pickup"), "what it added goes")
	assert.Equal(t, "", done.Model.Part("toilet").Without, "what it took away stays")
	assert.Len(t, done.Model.Lines, before-1)
	assert.Empty(t, done.Model.Option("summer-pack").Excludes)
}

func TestAnOptionThatExcludesNothingThereIsRefused(t *testing.T) {
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	_, err = edit.SetOption(m, "", plumbing.Option{Name: "Winter pack", Excludes: []string{"nothing"}})
	assert.ErrorContains(t, err, "nothing")
}
