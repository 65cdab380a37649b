package flow

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/plumbing"
)

// Openings that are looked at together move what they move pair by pair.
func TestMovingTogetherIsMovingPairByPair(t *testing.T) {
	models, err := demo.Models()
	require.NoError(t, err)
	rng := rand.New(rand.NewPCG(6, 66))
	for _, m := range models {
		n, err := plumbing.NewNetwork(standard(t, m))
		require.NoError(t, err)
		for range 12 {
			s := Normal(n)
			for h := range n.Handles {
				s = s.With(h, rng.IntN(len(n.Handles[h].Positions)))
			}
			at := Openings(n, s, nil)
			h := newHeights(n, s)
			want := make([]bool, len(n.Links))
			for _, from := range at {
				for _, to := range at {
					if h.z[to] < h.z[from]-1e-6 {
						for i, yes := range Swept(n, s, from, []int{to}) {
							want[i] = want[i] || yes
						}
					}
				}
			}
			assert.Equal(t, want, h.moving(n, s, at), m.ID)
		}
	}
}

func standard(t *testing.T, m *plumbing.Model) *plumbing.Model {
	t.Helper()
	b, err := m.Build(m.StandardOptions()...)
	require.NoError(t, err)
	return b
}
