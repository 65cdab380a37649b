package assembly_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/assembly"
	"coldtap/internal/core/plumbing"
)

// What an assembly brings is assumed, what a person answered is not, and what
// was there before stays as it was.
func TestUsualValuesAreAssumed(t *testing.T) {
	m, err := assembly.Begin(plumbing.Model{Format: plumbing.Format, ID: "new", Name: "New", Year: 2028, Units: "us"}, "empty")
	require.NoError(t, err)
	tank := assembly.ByID("tank")
	require.NotNil(t, tank)
	usual, err := assembly.Add(m, tank, nil)
	require.NoError(t, err)
	assert.Contains(t, usual.Model.Part("fresh-tank").Assumed, "data.capacity")
	for _, l := range usual.Model.Lines {
		assert.Contains(t, l.Assumed, "length", l.ID)
	}
	answered, err := assembly.Add(m, tank, map[string]string{"capacity": "44 gal"})
	require.NoError(t, err)
	assert.Equal(t, "44 gal", answered.Model.Part("fresh-tank").Data.Capacity.String())
	assert.NotContains(t, answered.Model.Part("fresh-tank").Assumed, "data.capacity")
	more, err := assembly.Add(answered.Model, assembly.ByID("pump"), nil)
	require.NoError(t, err)
	assert.Equal(t, answered.Model.Part("fresh-tank").Assumed, more.Model.Part("fresh-tank").Assumed)
}
