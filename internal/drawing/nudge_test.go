package drawing

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

func arranged(t *testing.T, m *plumbing.Model) *Schematic {
	t.Helper()
	n, err := plumbing.NewNetwork(m)
	require.NoError(t, err)
	s, err := NewSchematic(t.Context(), n, nil)
	require.NoError(t, err)
	return s
}

func (s *Schematic) boxOf(id string) *box {
	for _, b := range s.boxes {
		if b.part.ID == id {
			return b
		}
	}
	return nil
}

func TestANudgedSymbolStandsWhereItWasPut(t *testing.T) {
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	before := arranged(t, m)
	m.Drawing = map[string]plumbing.Nudge{"black": {X: 6, Y: 2}, "heater": {X: 1}}
	after := arranged(t, m)
	shift := func(id string) point {
		a, b := before.boxOf(id).at, after.boxOf(id).at
		ref, now := before.boxOf("fresh").at, after.boxOf("fresh").at
		return point{b.X - a.X - (now.X - ref.X), b.Y - a.Y - (now.Y - ref.Y)}
	}
	assert.Equal(t, point{6, 2}, shift("black"))
	assert.Equal(t, point{1, 0}, shift("heater"))
	assert.Equal(t, point{}, shift("pump"))
	// Onto another symbol it does not go.
	m.Drawing = map[string]plumbing.Nudge{"pump": {X: -10}}
	after = arranged(t, m)
	assert.Equal(t, point{}, shift("pump"))
}

func TestAnArrangementServesAnotherLengthButNoOtherPlumbing(t *testing.T) {
	m, err := demo.Model("schist-31-2027")
	require.NoError(t, err)
	s := arranged(t, m)
	other, err := demo.Model("schist-31-2027")
	require.NoError(t, err)
	other.Line("house").Length = other.Line("past").Length
	n, err := plumbing.NewNetwork(other)
	require.NoError(t, err)
	over, ok := s.Over(n)
	require.True(t, ok)
	fresh := arranged(t, other)
	show := Show{State: state.Normal(n)}
	assert.Equal(t, fresh.SVG(show), over.SVG(show), "the same drawing as arranged anew")

	other.Part("pump").Name = "Quite another pump"
	n, err = plumbing.NewNetwork(other)
	require.NoError(t, err)
	_, ok = s.Over(n)
	assert.False(t, ok)
}

func TestNothingIsDrawnOfNothing(t *testing.T) {
	s := arranged(t, &plumbing.Model{ID: "empty", Parts: []plumbing.Part{}, Lines: []plumbing.Line{}})
	assert.Contains(t, s.SVG(Show{}), "<svg")
}
