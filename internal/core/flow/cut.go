package flow

import (
	"slices"

	"coldtap/internal/core/plumbing"
)

// Cut gives the smallest set of shut passages, one-ways included, that keeps
// what comes from some nodes away from others: the proof that nothing gets
// there. Each of its links, opened together with the others of the set, would
// let it through. It is nil where something gets there.
//
// By the theorem of Ford and Fulkerson the size of the set is the largest flow
// in a graph where open passages carry any amount and shut ones carry one.
func Cut(n *plumbing.Network, s Setting, q Query, to []int) []int {
	used := map[arc]int{} // flow over the unit arcs
	for {
		came, end := augment(n, s, q, to, used)
		if end < 0 {
			return cutAt(n, s, q, came)
		}
		units := 0
		for at := end; came[at].link >= 0; at = came[at].from {
			if a := (arc{came[at].link, came[at].from}); !s.passes(&n.Links[a.link], a.from, q.View) {
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
type arc struct{ link, from int }

type step struct{ link, from int }

// augment finds a way along which one more unit can go.
func augment(n *plumbing.Network, s Setting, q Query, to []int, used map[arc]int) (came map[int]step, end int) {
	came = map[int]step{}
	var queue []int
	for _, f := range q.From {
		if f >= 0 {
			came[f] = step{-1, -1}
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
			if _, seen := came[next]; seen || slices.Contains(q.Without, n.Nodes[next].Part) || slices.Contains(q.Without, n.Nodes[at].Part) {
				continue
			}
			if s.passes(l, at, q.View) || used[arc{li, at}] < 1 {
				came[next] = step{li, at}
				queue = append(queue, next)
			}
		}
	}
	return came, -1
}

// cutAt lists the shut links that lead out of what was reached.
func cutAt(n *plumbing.Network, s Setting, q Query, reached map[int]step) []int {
	list := []int{}
	for li := range n.Links {
		l := &n.Links[li]
		if slices.Contains(q.Without, n.Nodes[l.A].Part) || slices.Contains(q.Without, n.Nodes[l.B].Part) {
			continue
		}
		_, a := reached[l.A]
		_, b := reached[l.B]
		if a && !b && !s.passes(l, l.A, q.View) || b && !a && !s.passes(l, l.B, q.View) {
			list = append(list, li)
		}
	}
	return list
}

// Remedy gives the fewest shut passages to open, one-ways included, so that
// something gets from the query's nodes to another: those on the way with the
// fewest of them. It is nil if nothing leads there.
func Remedy(n *plumbing.Network, s Setting, q Query, to int) []int {
	type place struct {
		cost, link, from int
	}
	best := map[int]place{}
	var front []int
	for _, f := range q.From {
		if f >= 0 {
			best[f] = place{0, -1, -1}
			front = append(front, f)
		}
	}
	// Nodes in rings of equal cost.
	for cost := 0; len(front) > 0; cost++ {
		var next []int
		for i := 0; i < len(front); i++ {
			at := front[i]
			if best[at].cost != cost {
				continue
			}
			for _, li := range n.Nodes[at].Links {
				l := &n.Links[li]
				other := l.Other(at)
				if slices.Contains(q.Without, n.Nodes[other].Part) || slices.Contains(q.Without, n.Nodes[at].Part) {
					continue
				}
				c := cost
				if !s.passes(l, at, q.View) {
					c++
				}
				if b, seen := best[other]; seen && b.cost <= c {
					continue
				}
				best[other] = place{c, li, at}
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
	list := []int{}
	for p.link >= 0 {
		if !s.passes(&n.Links[p.link], p.from, q.View) {
			list = append(list, p.link)
		}
		p = best[p.from]
	}
	slices.Reverse(list)
	return list
}
