package flow

import (
	"slices"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// Cut gives the smallest set of shut passages, one-ways included, that keeps
// what comes from some nodes away from others: the proof that nothing gets
// there. Each of its links, opened together with the others of the set, would
// let it through. It is nil where something gets there.
//
// By the theorem of Ford and Fulkerson the size of the set is the largest flow
// in a graph where open passages carry any amount and shut ones carry one.
func Cut(n *plumbing.Network, s state.State, q Query, to []plumbing.NodeID) []plumbing.LinkID {
	used := map[arc]int{} // flow over the unit arcs
	for {
		came, end := augment(n, s, q, to, used)
		if end < 0 {
			return cutAt(n, s, q, came)
		}
		units := 0
		for at := end; came[at].link >= 0; at = came[at].from {
			if a := (arc{came[at].link, came[at].from}); !s.Passes(&n.Links[a.link], a.from, q.View) {
				units++
				used[a]++
			}
			used[arc{came[at].link, at}]-- // may be pushed back
		}
		if units == 0 {
			return nil
		}
	}
}

// arc is a link run from one of its nodes.
type arc struct {
	link plumbing.LinkID
	from plumbing.NodeID
}

// step is how a node was come to.
type step arc

// augment finds a way along which one more unit can go.
func augment(n *plumbing.Network, s state.State, q Query, to []plumbing.NodeID,
	used map[arc]int) (came map[plumbing.NodeID]step, end plumbing.NodeID) {
	came = map[plumbing.NodeID]step{}
	var queue []plumbing.NodeID
	for _, f := range q.From {
		if f >= 0 {
			came[f] = step{plumbing.None, plumbing.None}
			queue = append(queue, f)
		}
	}
	for len(queue) > 0 {
		at := queue[0]
		queue = queue[1:]
		if slices.Contains(to, at) {
			return came, at
		}
		for _, li := range n.Nodes[at].Links {
			l := &n.Links[li]
			next := l.Other(at)
			if _, seen := came[next]; seen || q.Bars(n, l) {
				continue
			}
			if s.Passes(l, at, q.View) || used[arc{li, at}] < 1 {
				came[next] = step{li, at}
				queue = append(queue, next)
			}
		}
	}
	return came, plumbing.None
}

// cutAt lists the shut links that lead out of what was reached.
func cutAt(n *plumbing.Network, s state.State, q Query, reached map[plumbing.NodeID]step) []plumbing.LinkID {
	list := []plumbing.LinkID{}
	for li, l := range n.AllLinks() {
		if q.Bars(n, l) {
			continue
		}
		_, a := reached[l.A]
		_, b := reached[l.B]
		if a && !b && !s.Passes(l, l.A, q.View) || b && !a && !s.Passes(l, l.B, q.View) {
			list = append(list, li)
		}
	}
	return list
}

// Remedy gives the fewest shut passages to open, one-ways included, so that
// something gets from the query's nodes to another: those on the way with the
// fewest of them. It is nil if nothing leads there.
func Remedy(n *plumbing.Network, s state.State, q Query, to plumbing.NodeID) []plumbing.LinkID {
	type place struct {
		cost int
		arc
	}
	best := map[plumbing.NodeID]place{}
	var front []plumbing.NodeID
	for _, f := range q.From {
		if f >= 0 {
			best[f] = place{0, arc{plumbing.None, plumbing.None}}
			front = append(front, f)
		}
	}
	// Nodes in rings of equal cost.
	for cost := 0; len(front) > 0; cost++ {
		var next []plumbing.NodeID
		for i := 0; i < len(front); i++ {
			at := front[i]
			if best[at].cost != cost {
				continue
			}
			for _, li := range n.Nodes[at].Links {
				l := &n.Links[li]
				other := l.Other(at)
				if q.Bars(n, l) {
					continue
				}
				c := cost
				if !s.Passes(l, at, q.View) {
					c++
				}
				if b, seen := best[other]; seen && b.cost <= c {
					continue
				}
				best[other] = place{c, arc{li, at}}
				if c == cost {
					front = append(front, other)
				} else {
					next = append(next, other)
				}
			}
		}
		front = next
	}
	p, ok := best[to]
	if !ok {
		return nil
	}
	list := []plumbing.LinkID{}
	for p.link >= 0 {
		if !s.Passes(&n.Links[p.link], p.from, q.View) {
			list = append(list, p.link)
		}
		p = best[p.from]
	}
	slices.Reverse(list)
	return list
}
