package drawing

import (
	"context"
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// BenchmarkSchematicOf arranges made-up systems of many parts, joined at random.
func BenchmarkSchematicOf(b *testing.B) {
	for _, parts := range []int{50, 100, 300, 600} {
		b.Run(fmt.Sprintf("parts=%d", parts), func(b *testing.B) {
			n, err := plumbing.NewNetwork(randomModel(rand.New(rand.NewPCG(1, uint64(parts))), parts))
			require.NoError(b, err)
			for b.Loop() {
				s, err := NewSchematic(b.Context(), n, nil)
				require.NoError(b, err)
				b.ReportMetric(float64(len(s.boxes)), "parts")
			}
		})
	}
}

// tangled is a net of tees each joined to three others far from it: its lines have hardly
// any way beside each other.
func tangled(lines int) *plumbing.Model {
	m := &plumbing.Model{ID: "tangled", Name: "Tangled", Units: "us"}
	tees := lines * 2 / 3
	for i := range tees {
		m.Parts = append(m.Parts, plumbing.Part{ID: fmt.Sprint("t", i), Kind: plumbing.Tee, Name: fmt.Sprint("Tee ", i)})
	}
	used := make([]int, tees)
	port := func(i int) string {
		used[i]++
		return fmt.Sprintf("t%d.%s", i, m.Parts[i].Ports()[used[i]-1].Name)
	}
	rng := rand.New(rand.NewPCG(3, 5))
	for tries := 0; len(m.Lines) < lines && tries < 100*lines; tries++ {
		i, j := rng.IntN(tees), rng.IntN(tees)
		if i != j && used[i] < 3 && used[j] < 3 {
			m.Lines = append(m.Lines, plumbing.Line{ID: fmt.Sprint("l", len(m.Lines)), From: port(i), To: port(j)})
		}
	}
	return m
}

func BenchmarkSchematicTangled(b *testing.B) {
	n, err := plumbing.NewNetwork(tangled(100))
	require.NoError(b, err)
	for b.Loop() {
		_, _ = NewSchematic(b.Context(), n, nil)
	}
}

// A large system is drawn as cleanly as a small one, and a tangled one is drawn too.
func TestLargeDrawingsAreClean(t *testing.T) {
	for name, m := range map[string]*plumbing.Model{"300 lines": randomModel(rand.New(rand.NewPCG(7, 300)), 300),
		"tangled": tangled(100)} {
		n, err := plumbing.NewNetwork(m)
		require.NoError(t, err)
		s, err := NewSchematic(t.Context(), n, nil)
		require.NoError(t, err, name)
		faults, crossings := measure(s)
		assert.Len(t, s.wires, len(m.Lines), name)
		if s.Loose == 0 {
			assert.Empty(t, faults, name)
		}
		t.Logf("%s: %d crossings, %d × %d, %d loose", name, crossings, s.w*cell, s.h*cell, s.Loose)
	}
}

// What is kept of a drawing makes the same drawing again, of the same network only.
func TestAKeptDrawingIsTheSame(t *testing.T) {
	for i, m := range []*plumbing.Model{randomModel(rand.New(rand.NewPCG(11, 1)), 60), tangled(40), seatedModel(t)} {
		n, err := plumbing.NewNetwork(m)
		require.NoError(t, err)
		s, err := NewSchematic(t.Context(), n, nil)
		require.NoError(t, err)
		raw, err := s.Keep()
		require.NoError(t, err)
		again, err := Kept(n, raw)
		require.NoError(t, err)
		show := Show{State: state.Normal(n)}
		assert.Equal(t, s.SVG(show), again.SVG(show), "model %d", i)
		other, err := plumbing.NewNetwork(randomModel(rand.New(rand.NewPCG(11, 2)), 60))
		require.NoError(t, err)
		_, err = Kept(other, raw)
		assert.Error(t, err)
	}
}

func FuzzKept(f *testing.F) {
	n, err := plumbing.NewNetwork(randomModel(rand.New(rand.NewPCG(1, 1)), 20))
	if err != nil {
		f.Fatal(err)
	}
	s, err := NewSchematic(context.Background(), n, nil)
	if err != nil {
		f.Fatal(err)
	}
	raw, err := s.Keep()
	if err != nil {
		f.Fatal(err)
	}
	f.Add(raw)
	f.Fuzz(func(t *testing.T, raw []byte) {
		if s, err := Kept(n, raw); err == nil {
			_ = s.SVG(Show{State: state.Normal(n)})
		}
	})
}

// A drawing that nobody waits for any more is left.
func TestAnArrangementEndsWithItsContext(t *testing.T) {
	n, err := plumbing.NewNetwork(randomModel(rand.New(rand.NewPCG(1, 300)), 300))
	require.NoError(t, err)
	ctx, leave := context.WithCancel(t.Context())
	routed := 0
	_, err = NewSchematic(ctx, n, func(done, of int) {
		if routed = max(routed, done); done > 10 {
			leave()
		}
	})
	require.ErrorIs(t, err, context.Canceled)
	assert.Less(t, routed, 30)
}

// seatedModel has parts that sit on others, a manifold and a plate.
func seatedModel(t *testing.T) *plumbing.Model {
	t.Helper()
	m, err := demo.Model("schist-31-2027")
	require.NoError(t, err)
	return m
}
