package flow

import (
	"slices"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// Swept marks the links that flow passes through when water is made to come
// from one node and leaves at each of some others, one at a time: those that
// lie on a simple path from the source to the place where it leaves. Reached
// is not swept: a stub stays as it was, and so does the cold leg of a mixing
// valve, which shuts while what comes by the hot one is no warmer than it asks.
//
// A link lies on a simple path between two nodes exactly if it shares a
// biconnected block with an edge put between them (Tarjan, "Depth-first search
// and linear graph algorithms", 1972).
func Swept(n *plumbing.Network, s state.State, from plumbing.NodeID, to []plumbing.NodeID) []bool {
	swept := make([]bool, len(n.Links))
	reached := Reach(n, s, Query{From: []plumbing.NodeID{from}})
	for i, t := range to {
		if reached.Node(t) && t != from {
			sweep(n, s, state.Can, reached, from, to[i:i+1], swept)
		}
	}
	return swept
}

// SweptIn is Swept to all of some nodes at once, with handles that are
// undecided counted as the view says. Where one-ways stand between the nodes
// it may mark more.
func SweptIn(n *plumbing.Network, s state.State, from plumbing.NodeID, to []plumbing.NodeID, v state.View) []bool {
	swept := make([]bool, len(n.Links))
	reached := Reach(n, s, Query{From: []plumbing.NodeID{from}, View: v})
	ends := slices.DeleteFunc(slices.Clone(to), func(t plumbing.NodeID) bool { return !reached.Node(t) || t == from })
	if len(ends) > 0 {
		sweep(n, s, v, reached, from, ends, swept)
	}
	return swept
}

// sweep marks the links on simple paths from one node to any of some ends.
// What can't be reached forwards, or can't go on to an end, takes no part:
// one-way links are followed both ways from either end.
func sweep(n *plumbing.Network, s state.State, v state.View, reached *Reached, from plumbing.NodeID,
	ends []plumbing.NodeID, swept []bool) {
	// The ends are joined to a node of their own, and that to the source.
	sink := plumbing.NodeID(len(n.Nodes))
	b := blocks{net: n, setting: s, view: v, ahead: reached, back: behind(n, s, v, ends), from: from, ends: ends,
		order: make([]int, sink+1), low: make([]int, sink+1)}
	b.visit(sink, none)
	for _, li := range b.found {
		swept[li] = true
	}
}

// behind marks the nodes from which water can get to one of some nodes.
func behind(n *plumbing.Network, s state.State, v state.View, to []plumbing.NodeID) []bool {
	seen := make([]bool, len(n.Nodes))
	for _, t := range to {
		seen[t] = true
	}
	queue := slices.Clone(to)
	for len(queue) > 0 {
		at := queue[0]
		queue = queue[1:]
		for _, li := range n.Nodes[at].Links {
			l := &n.Links[li]
			if from := l.Other(at); !seen[from] && s.Passes(l, from, v) {
				seen[from] = true
				queue = append(queue, from)
			}
		}
	}
	return seen
}

const (
	none    = -1
	virtual = -2 // stands for the edge put between source and sink; below it are those between the ends and the sink
)

// blocks finds the biconnected block of the virtual edge.
type blocks struct {
	net     *plumbing.Network
	setting state.State
	view    state.View
	ahead   *Reached
	back    []bool
	from    plumbing.NodeID
	ends    []plumbing.NodeID
	order   []int // visit number, 0 before
	low     []int
	count   int
	stack   []plumbing.LinkID
	found   []plumbing.LinkID
}

func (b *blocks) visit(at plumbing.NodeID, via plumbing.LinkID) {
	b.count++
	b.order[at], b.low[at] = b.count, b.count
	// The search starts at the sink; the virtual edge goes first, so that it is
	// a tree edge from the root to the source.
	if sink := plumbing.NodeID(len(b.net.Nodes)); at == sink {
		b.step(at, via, virtual, b.from)
		for i, end := range b.ends {
			b.step(at, via, virtual-1-plumbing.LinkID(i), end)
		}
		return
	} else if i := slices.Index(b.ends, at); i >= 0 {
		b.step(at, via, virtual-1-plumbing.LinkID(i), sink)
	}
	for _, li := range b.net.Nodes[at].Links {
		l := &b.net.Links[li]
		to := l.Other(at)
		if !l.Tempers && b.ahead.node[to] && b.ahead.node[at] && b.back[to] && b.back[at] &&
			(b.setting.Passes(l, at, b.view) || b.setting.Passes(l, to, b.view)) {
			b.step(at, via, li, to)
		}
	}
}

func (b *blocks) step(at plumbing.NodeID, via, li plumbing.LinkID, to plumbing.NodeID) {
	if li == via {
		return
	}
	if b.order[to] != 0 {
		if b.order[to] < b.order[at] {
			b.stack = append(b.stack, li)
			b.low[at] = min(b.low[at], b.order[to])
		}
		return
	}
	mark := len(b.stack)
	b.stack = append(b.stack, li)
	b.visit(to, li)
	b.low[at] = min(b.low[at], b.low[to])
	if b.low[to] >= b.order[at] {
		b.close(mark)
	}
}

// close takes a finished block off the stack and keeps it if the virtual
// edge is in it.
func (b *blocks) close(mark int) {
	block := b.stack[mark:]
	for _, li := range block {
		if li == virtual {
			for _, l := range block {
				if l >= 0 {
					b.found = append(b.found, l)
				}
			}
		}
	}
	b.stack = b.stack[:mark]
}
