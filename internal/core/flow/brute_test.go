package flow

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// lattice is a small random system: tees in a row and across, some check
// valves, a storage heater, drains and taps, at random heights.
func lattice(rng *rand.Rand) *plumbing.Model {
	m := &plumbing.Model{ID: "lattice", Units: "si"}
	metres := func(v float64) quantity.Given[quantity.Metre] { return quantity.Of(quantity.Metre(v), quantity.SI) }
	place := func() plumbing.Place { return plumbing.Place{Height: metres(0.2 + float64(rng.IntN(20))/10)} }
	var free []string
	add := func(id string, k plumbing.Kind, ports ...string) {
		p := plumbing.Part{ID: id, Kind: k, Name: id, Place: place()}
		if k == plumbing.Heater {
			p.Data.Type, p.Data.Capacity = "storage-clad", quantity.Of(quantity.Litre(20), quantity.SI)
			p.Data.InsideHeight = quantity.Of(quantity.Millimetre(400), quantity.SI)
		}
		m.Parts = append(m.Parts, p)
		for _, port := range ports {
			free = append(free, id+"."+port)
		}
	}
	for i := range 3 + rng.IntN(3) {
		add(fmt.Sprintf("tee%d", i), plumbing.Tee, "a", "b", "c")
	}
	for i := range 1 + rng.IntN(2) {
		add(fmt.Sprintf("check%d", i), plumbing.CheckValve, "in", "out")
	}
	if rng.IntN(2) == 0 {
		add("heater", plumbing.Heater, "cold", "hot", "drain")
	}
	for i := range 3 + rng.IntN(2) {
		add(fmt.Sprintf("tap%d", i), plumbing.Outlet, "cold")
	}
	rng.Shuffle(len(free), func(i, j int) { free[i], free[j] = free[j], free[i] })
	sizes := []string{"semi-rigid 12 mm", "semi-rigid 12 mm", "hose 25 mm"}
	for i := 0; i+1 < len(free); i += 2 {
		l := plumbing.Line{ID: fmt.Sprintf("l%02d", i), From: free[i], To: free[i+1], Side: plumbing.Cold,
			Size:   sizes[rng.IntN(3)],
			Length: quantity.Of(quantity.Millimetre(1000), quantity.SI)}
		if rng.IntN(3) == 0 {
			l.Spots = []plumbing.Spot{{At: quantity.Of(quantity.Millimetre(400), quantity.SI),
				Height: metres(float64(rng.IntN(20)) / 10)}}
		}
		m.Lines = append(m.Lines, l)
	}
	return m
}

// everyPath marks the ways on simple paths from a start to an end, by going
// along every one of them.
func everyPath(w *waterways, from, to int) []bool {
	marked := make([]bool, len(w.ways))
	seen := make([]bool, len(w.z))
	var path []int
	var walk func(at int)
	walk = func(at int) {
		if at == to {
			for _, i := range path {
				marked[i] = true
			}
			return
		}
		seen[at] = true
		for _, i := range w.at[at] {
			x := w.ways[i]
			next := x.a + x.b - at
			if seen[next] || x.oneWay && x.a != at {
				continue
			}
			path = append(path, i)
			walk(next)
			path = path[:len(path)-1]
		}
		seen[at] = false
	}
	walk(from)
	return marked
}

// lowest works the levels out by plain relaxation, over the ways that pairs of
// openings open; it shares no code with run but the graph.
func lowest(w *waterways, openings []int) []float64 {
	best := filled(len(w.ways), never)
	for _, end := range openings {
		marked := make([]bool, len(w.ways))
		var starts []int
		for _, from := range openings {
			if w.z[from] > w.z[end]+1e-6 {
				path := everyPath(w, from, end)
				any := false
				for i, yes := range path {
					marked[i], any = marked[i] || yes, any || yes
				}
				if any {
					starts = append(starts, from)
				}
			}
		}
		level, air := filled(len(w.z), never), filled(len(w.z), never)
		level[end] = w.z[end]
		for _, s := range starts {
			air[s] = 0
		}
		for range len(w.z) {
			for i, x := range w.ways {
				if !marked[i] {
					continue
				}
				pass := func(up, down int) {
					l := math.Max(level[down], w.z[up])
					if x.needs > 0 {
						l = math.Max(l, math.Max(level[down], w.z[up])+x.needs)
					}
					level[up] = math.Min(level[up], l)
					air[down] = math.Min(air[down], air[up]+x.needs)
				}
				pass(x.a, x.b)
				if !x.oneWay {
					pass(x.b, x.a)
				}
			}
		}
		for i, x := range w.ways {
			if low := lowEnd(w, x); marked[i] {
				best[i] = math.Min(best[i], level[low]+air[low])
			}
		}
	}
	return best
}

func lowEnd(w *waterways, x way) int {
	if w.z[x.b] < w.z[x.a] {
		return x.b
	}
	return x.a
}

// TestDrainingIsGoingAlongEveryPath compares the levels with those found by
// going along every simple way between two openings.
func TestDrainingIsGoingAlongEveryPath(t *testing.T) {
	rng := rand.New(rand.NewPCG(19, 84))
	moved, missed := 0, 0
	for k := range 400 {
		m := lattice(rng)
		n, err := plumbing.NewNetwork(m)
		require.NoError(t, err)
		var mouths []plumbing.NodeID
		var at []int // the same, as points
		for i, node := range n.AllNodes() {
			if node.Part.Role() == plumbing.RoleOutlet && n.Joined(i) {
				mouths, at = append(mouths, i), append(at, int(i))
			}
		}
		w := newWaterways(n, state.Normal(n), state.Can, false)
		narrow := *w
		for i := range narrow.ways {
			narrow.ways[i].wide = false // what vents itself is looked at elsewhere
		}
		narrow.run(mouths)
		want := lowest(&narrow, at)
		for i := range want {
			// One-ways may make it find too little, never too much.
			require.GreaterOrEqual(t, narrow.wayLevel[i], want[i]-1e-9, "system %d, way %d", k, i)
			if want[i] < never {
				moved++
			}
			if narrow.wayLevel[i] > want[i]+1e-9 {
				missed++
			}
		}
	}
	require.Greater(t, moved, 1000, "too little moves for this to be a test")
	require.Less(t, missed, moved/100)
}
