package flow_test

import (
	"math/bits"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// gets tells by growing a set whether something gets from a node to another
// when a set of links, shut or one-way, is forced open.
func gets(n *plumbing.Network, s state.State, from, to plumbing.NodeID, forced map[plumbing.LinkID]bool) bool {
	wet := map[plumbing.NodeID]bool{from: true}
	for grew := true; grew; {
		grew = false
		for i, l := range n.AllLinks() {
			shut := l.Handle >= 0 && l.Open&s.Handles[l.Handle] == 0
			if forced[i] {
				shut = false
			}
			if shut {
				continue
			}
			if wet[l.A] && !wet[l.B] || wet[l.B] && !wet[l.A] && (!l.OneWay || forced[i]) {
				wet[l.A], wet[l.B], grew = true, true, true
			}
		}
	}
	return wet[to]
}

func TestCutAndRemedyAgreeWithTryingAll(t *testing.T) {
	rng := rand.New(rand.NewPCG(21, 3))
	apart := 0
	for range 300 {
		n := random(t, rng)
		s := state.Normal(n)
		for h := range s.Handles {
			s.Handles[h] = 1 << rng.IntN(2)
		}
		from, to := anyNode(n, rng), anyNode(n, rng)
		q := flow.Query{From: []plumbing.NodeID{from}}
		cut, remedy := flow.Cut(n, s, q, []plumbing.NodeID{to}), flow.Remedy(n, s, q, to)
		if gets(n, s, from, to, nil) {
			assert.Nil(t, cut)
			assert.Empty(t, remedy)
			continue
		}
		require.NotNil(t, cut)
		var barred []plumbing.LinkID
		for i, l := range n.AllLinks() {
			if l.OneWay || l.Handle >= 0 && l.Open&s.Handles[l.Handle] == 0 {
				barred = append(barred, i)
			}
		}
		if len(barred) > 10 {
			continue
		}
		// The fewest to open, by trying every set.
		fewest := 99
		for set := range 1 << len(barred) {
			forced := map[plumbing.LinkID]bool{}
			for i, li := range barred {
				forced[li] = set&(1<<i) != 0
			}
			if gets(n, s, from, to, forced) {
				fewest = min(fewest, bits.OnesCount(uint(set)))
			}
		}
		if fewest == 99 {
			assert.Nil(t, remedy)
			assert.Empty(t, cut, "no barred passage keeps them apart: they are not joined")
			continue
		}
		apart++
		assert.Len(t, remedy, fewest)
		forced := map[plumbing.LinkID]bool{}
		for _, li := range remedy {
			forced[li] = true
		}
		assert.True(t, gets(n, s, from, to, forced), "the remedy lets it through")
		// With all barred passages open but the cut's, nothing gets through; no
		// smaller set does that.
		smallest := 99
		for set := range 1 << len(barred) {
			forced := map[plumbing.LinkID]bool{}
			for i, li := range barred {
				forced[li] = set&(1<<i) == 0
			}
			if !gets(n, s, from, to, forced) {
				smallest = min(smallest, bits.OnesCount(uint(set)))
			}
		}
		assert.Len(t, cut, smallest)
		open := map[plumbing.LinkID]bool{}
		for _, li := range barred {
			open[li] = true
		}
		for _, li := range cut {
			open[li] = false
		}
		assert.False(t, gets(n, s, from, to, open), "the cut alone keeps them apart")
	}
	assert.Greater(t, apart, 40)
}
