package flow_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// rungs is a made-up system of two long rails that are joined by rungs, an
// outlet on each: five lines a rung, a loop between any two.
func rungs(lines int) *plumbing.Model {
	m := begin("ladder")
	a, b := "first.b", "first.c"
	for i := range lines / 5 {
		l, r, t, tap := fmt.Sprintf("l%d", i), fmt.Sprintf("r%d", i), fmt.Sprintf("t%d", i), fmt.Sprintf("tap%d", i)
		for _, id := range []string{l, r, t} {
			m.Parts = append(m.Parts, plumbing.Part{ID: id, Kind: plumbing.Tee, Name: id, Place: at(0.5)})
		}
		m.Parts = append(m.Parts, outlet(tap))
		pipe(m, a, l+".a", 0.5)
		pipe(m, b, r+".a", 0.5)
		pipe(m, l+".b", t+".a", 0.3)
		pipe(m, r+".b", t+".b", 0.3)
		pipe(m, t+".c", tap+".cold", 1)
		a, b = l+".c", r+".c"
	}
	return m
}

// meshes is a square of manifolds, each joined to those beside it, an outlet
// at each: about three lines a manifold.
func meshes(lines int) *plumbing.Model {
	m := begin("grid")
	side := 1
	for 3*(side+1)*(side+1)-2*(side+1) <= lines {
		side++
	}
	id := func(x, y int) string { return fmt.Sprintf("m%d-%d", x, y) }
	for x := range side {
		for y := range side {
			m.Parts = append(m.Parts, plumbing.Part{ID: id(x, y), Kind: plumbing.Manifold, Name: "m", Place: at(0.5),
				Data: plumbing.Data{Ways: 4}},
				outlet("tap"+id(x, y)))
			pipe(m, id(x, y)+".out4", "tap"+id(x, y)+".cold", 1)
			if x > 0 {
				pipe(m, id(x-1, y)+".out1", id(x, y)+".out2", 0.5)
			}
			if y > 0 {
				pipe(m, id(x, y-1)+".out3", id(x, y)+".in", 0.5)
			}
		}
	}
	pipe(m, "first.b", id(0, 0)+".in", 0.5) // its own side has none beside it
	return m
}

func at(height quantity.Metre) plumbing.Place {
	return plumbing.Place{Height: quantity.Of(height, quantity.SI)}
}

func outlet(id string) plumbing.Part {
	return plumbing.Part{ID: id, Kind: plumbing.Outlet, Name: id, Place: at(1),
		Data: plumbing.Data{Flow: quantity.Of(quantity.LitrePerMinute(6), quantity.SI)}}
}

func pipe(m *plumbing.Model, from, to string, metres quantity.Millimetre) {
	m.Lines = append(m.Lines, plumbing.Line{ID: fmt.Sprintf("p%d", len(m.Lines)), From: from, To: to,
		Side: plumbing.Cold, Size: "PEX 3/4", Length: quantity.Of(1000*metres, quantity.SI)})
}

// begin is a tank, a strong pump and a tee to go on from.
func begin(id string) *plumbing.Model {
	m := &plumbing.Model{ID: id, Units: "si"}
	m.Parts = append(m.Parts,
		plumbing.Part{ID: "tank", Kind: plumbing.Tank, Name: "Tank", Place: at(0.5),
			Data: plumbing.Data{InsideHeight: quantity.Of(quantity.Millimetre(300), quantity.SI)}},
		plumbing.Part{ID: "pump", Kind: plumbing.Pump, Name: "Pump", Place: at(0.5),
			Data: plumbing.Data{Flow: quantity.Of(quantity.LitrePerMinute(60), quantity.SI),
				CutOut: quantity.Of(quantity.Kilopascal(380), quantity.SI)}},
		plumbing.Part{ID: "first", Kind: plumbing.Tee, Name: "First", Place: at(0.5)})
	pipe(m, "tank.supply", "pump.in", 1)
	pipe(m, "pump.out", "first.a", 1)
	return m
}

func allOpen(t testing.TB, m *plumbing.Model) (*plumbing.Network, state.State) {
	t.Helper()
	n, err := plumbing.NewNetwork(m)
	require.NoError(t, err)
	sc := state.Normal(n)
	sc.Open = state.EverySide(n)
	sc.Pumps = state.AllPumps(n)
	return n, sc
}

// Every outlet of the benchmarks' systems runs, all conditions hold, and all
// links carry water: nothing of them is idle.
func TestTheBenchmarksCarryWater(t *testing.T) {
	for _, m := range []*plumbing.Model{rungs(200), meshes(200), rungs(1000), meshes(1000)} {
		n, sc := allOpen(t, m)
		s, err := flow.SteadyFlow(t.Context(), n, sc)
		require.NoError(t, err)
		conditions(t, n, s, m.ID)
		idle := 0
		for i := range n.AllLinks() {
			if n.Links[i].Line != nil && s.Flow[i] == 0 {
				idle++
			}
		}
		assert.LessOrEqual(t, idle, 3, "%s of %d lines", m.ID, len(m.Lines))
	}
}

func BenchmarkSteadyFlow(b *testing.B) {
	for _, lines := range []int{200, 1000, 3000} {
		for name, m := range map[string]*plumbing.Model{"ladder": rungs(lines), "grid": meshes(lines)} {
			b.Run(fmt.Sprintf("%s of %d lines", name, lines), func(b *testing.B) {
				n, sc := allOpen(b, m)
				b.ReportAllocs()
				for b.Loop() {
					if _, err := flow.SteadyFlow(b.Context(), n, sc); err != nil {
						b.Fatal(err)
					}
				}
			})
		}
	}
}
