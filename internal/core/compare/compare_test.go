package compare_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/compare"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/rig"
)

func TestAshlarsYears(t *testing.T) {
	a, err := demo.Model("ashlar-20-2026")
	require.NoError(t, err)
	b, err := demo.Model("ashlar-20-2027")
	require.NoError(t, err)
	changes, err := compare.Documents(a, b)
	require.NoError(t, err)
	got := map[string][]compare.Field{}
	for _, c := range changes {
		assert.Equal(t, compare.Changed, c.What, c.ID)
		got[c.Thing+" "+c.ID] = c.Fields
	}
	// The larger tank, the moved drain with its longer line, and the head.
	assert.Len(t, got, 4)
	assert.Contains(t, got["part fresh"], compare.Field{Path: "data.capacity", Before: "34 gal", After: "37 gal"})
	assert.Contains(t, got["part drain-tank"], compare.Field{Path: "place.front", Before: "70 in", After: "96 in"})
	assert.Equal(t, []compare.Field{{Path: "length", Before: "12 in", After: "34 in"}}, got["line tank-drain"])

	na, err := plumbing.NewNetwork(a)
	require.NoError(t, err)
	nb, err := plumbing.NewNetwork(b)
	require.NoError(t, err)
	differ := map[string]bool{}
	for _, f := range compare.Figures(subject(t, na), subject(t, nb)) {
		differ[f.Name.ID] = f.Differs
	}
	assert.True(t, differ["compare.fresh-water"])
	assert.True(t, differ["compare.in-the-lines"], "the drain's line is longer")
	assert.False(t, differ["compare.antifreeze"], "the drain's line takes no antifreeze")
}

func TestAddedGoneAndNothing(t *testing.T) {
	a, err := demo.Model("tuff-9-2027")
	require.NoError(t, err)
	b, err := demo.Model("tuff-9-2027")
	require.NoError(t, err)
	changes, err := compare.Documents(a, b)
	require.NoError(t, err)
	assert.Empty(t, changes)
	b.Lines = b.Lines[1:]
	b.Parts = append(b.Parts, plumbing.Part{ID: "new-trap", Kind: plumbing.Trap, Name: "New trap"})
	changes, err = compare.Documents(a, b)
	require.NoError(t, err)
	require.Len(t, changes, 2)
	assert.Equal(t, compare.Added, changes[0].What)
	assert.Equal(t, "new-trap", changes[0].ID)
	assert.Equal(t, compare.Gone, changes[1].What)
	assert.Equal(t, a.Lines[0].ID, changes[1].ID)
}

// subject is a build with its settings and the usual rules.
func subject(t *testing.T, n *plumbing.Network) compare.Subject {
	return compare.SubjectOf(n, rig.Plan(t, n), house.Usual(n.Model.System()))
}
