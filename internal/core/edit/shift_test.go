package edit_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/quantity"
)

func TestAllHeightsAreShiftedAndBack(t *testing.T) {
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	up, err := edit.ShiftHeights(m, 2*0.0254)
	require.NoError(t, err)
	assert.InDelta(t, float64(m.Part("shower").Place.Height.Value())+2*0.0254,
		float64(up.Model.Part("shower").Place.Height.Value()), 0.002)
	assert.InDelta(t, float64(m.Line("c-outside").Spots[0].Height.Value())+2*0.0254,
		float64(up.Model.Line("c-outside").Spots[0].Height.Value()), 0.002)
	back, err := edit.ShiftHeights(up.Model, -2*0.0254)
	require.NoError(t, err)
	for i := range m.Parts {
		assert.InDelta(
			t,
			float64(m.Parts[i].Place.Height.Value()),
			float64(back.Model.Parts[i].Place.Height.Value()),
			0.002,
			m.Parts[i].ID,
		)
		assert.Equal(t, m.Parts[i].Place.Height.IsZero(), back.Model.Parts[i].Place.Height.IsZero())
	}
	same, err := edit.ShiftHeights(m, quantity.Metre(0))
	require.NoError(t, err)
	assert.True(t, same.Said.IsZero())
}
