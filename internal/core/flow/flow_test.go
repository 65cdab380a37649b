package flow_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// random makes a network of tees and valves joined at random.
func random(t testing.TB, rng *rand.Rand) *plumbing.Network {
	m := &plumbing.Model{ID: "random", Units: "us"}
	var ports []string
	for i := range 5 + rng.IntN(4) {
		id := fmt.Sprintf("t%d", i)
		m.Parts = append(m.Parts, plumbing.Part{ID: id, Kind: plumbing.Tee, Name: id})
		ports = append(ports, id+".a", id+".b", id+".c")
	}
	for i := range 3 + rng.IntN(3) {
		id := fmt.Sprintf("v%d", i)
		kind := plumbing.Valve
		if rng.IntN(3) == 0 {
			kind = plumbing.CheckValve
		}
		m.Parts = append(m.Parts, plumbing.Part{ID: id, Kind: kind, Name: id})
		for _, p := range kind.Info().Ports {
			ports = append(ports, id+"."+p.Name)
		}
	}
	rng.Shuffle(len(ports), func(i, j int) { ports[i], ports[j] = ports[j], ports[i] })
	for i := 0; i+1 < len(ports)-4; i += 2 {
		m.Lines = append(m.Lines, plumbing.Line{ID: fmt.Sprintf("l%d", i), From: ports[i], To: ports[i+1],
			Side: plumbing.Cold})
	}
	n, err := plumbing.NewNetwork(m)
	require.NoError(t, err)
	return n
}

// anyNode is one of a network's nodes.
func anyNode(n *plumbing.Network, rng *rand.Rand) plumbing.NodeID {
	return plumbing.NodeID(rng.IntN(len(n.Nodes)))
}

// simplePaths marks every link on some path without a repeated node, by trying
// them all; one-way links are followed their way only.
func simplePaths(n *plumbing.Network, open func(plumbing.LinkID) bool, from, to plumbing.NodeID) []bool {
	on := make([]bool, len(n.Links))
	used := make([]bool, len(n.Nodes))
	var path []plumbing.LinkID
	var walk func(at plumbing.NodeID)
	walk = func(at plumbing.NodeID) {
		if at == to {
			for _, l := range path {
				on[l] = true
			}
			return
		}
		used[at] = true
		for _, li := range n.Nodes[at].Links {
			l := n.Links[li]
			if next := l.Other(at); !used[next] && open(li) && !(l.OneWay && l.A != at) {
				path = append(path, li)
				walk(next)
				path = path[:len(path)-1]
			}
		}
		used[at] = false
	}
	walk(from)
	return on
}

func TestSweptIsWhatLiesOnASimplePath(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 7))
	joined := 0
	for range 400 {
		n := random(t, rng)
		s := state.Normal(n)
		for h := range s.Handles {
			s.Handles[h] = 1 << rng.IntN(2)
		}
		open := func(li plumbing.LinkID) bool {
			return n.Links[li].Handle < 0 || n.Links[li].Open&s.Handles[n.Links[li].Handle] != 0
		}
		from, to := anyNode(n, rng), anyNode(n, rng)
		if from == to {
			continue
		}
		oneWays := false
		for _, l := range n.Links {
			oneWays = oneWays || l.OneWay
		}
		want, got := simplePaths(n, open, from, to), flow.Swept(n, s, from, []plumbing.NodeID{to})
		for i := range want {
			if want[i] {
				joined++
				assert.True(t, got[i], "a swept link is missing")
			}
			if got[i] && !want[i] {
				// Only a one-way inside a loop can keep a marked link from flowing.
				assert.True(t, oneWays, "link %d marked, but on no simple path", i)
			}
		}
	}
	assert.Greater(t, joined, 500, "the networks are joined up enough to mean something")
}

func TestReachStopsAtOneWayAndShut(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 9))
	for range 300 {
		n := random(t, rng)
		s := state.Normal(n)
		from := anyNode(n, rng)
		before := flow.Reach(n, s, flow.Query{From: []plumbing.NodeID{from}})
		for i := range n.AllNodes() {
			if !before.Node(i) {
				continue
			}
			at := from
			for _, li := range before.Path(i) {
				l := n.Links[li]
				require.True(t, l.A == at || l.B == at, "a path's links join")
				require.False(t, l.OneWay && l.A != at, "a path runs no one-way backwards")
				at = l.Other(at)
			}
			assert.Equal(t, i, at)
		}
		// Closing a two-way valve never adds reach.
		for h := range n.AllHandles() {
			after := flow.Reach(n, s.With(h, 1), flow.Query{From: []plumbing.NodeID{from}})
			for i := range n.AllNodes() {
				assert.False(t, after.Node(i) && !before.Node(i))
			}
		}
	}
}

// The parts of a path stand once each, in the order in which water meets them.
func TestPartsAlongAPath(t *testing.T) {
	n := demoNetwork(t, "gneiss-24-2027")
	start, end := n.Node("fresh.supply"), n.Node("pump.out")
	s := state.Normal(n)
	s.Pumps = state.AllPumps(n)
	var ids []string
	for _, p := range flow.Parts(n, start, flow.Reach(n, s, flow.Query{From: []plumbing.NodeID{start}}).Path(end)) {
		ids = append(ids, p.ID)
	}
	assert.Equal(t, []string{"fresh", "valve-pickup", "strainer", "pump"}, ids)
}
