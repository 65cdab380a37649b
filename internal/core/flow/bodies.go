package flow

import (
	"slices"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// Body is a body of tank water: a tank, or several that are joined below the
// water by a way that is open both ways. What is dosed, filled or drained in
// one of them is not so in another body.
type Body struct{ Tanks []*plumbing.Part }

// Bodies groups the fresh tanks of a network as they are joined in a setting,
// in the order of their ids.
func Bodies(n *plumbing.Network, s state.State) []Body {
	s.Pumps = 0
	tanks := n.PartsOf(plumbing.RoleTank)
	var z []float64
	if len(tanks) > 1 {
		z, _ = nodeHeights(n, state.Attitude{})
	}
	body := make([]int, len(tanks))
	for i := range body {
		body[i] = i
	}
	for i, t := range tanks {
		for k, other := range tanks[:i] {
			if body[i] != body[k] && joinedBelow(n, s, z, t, other) {
				for x := range body {
					if body[x] == max(body[i], body[k]) {
						body[x] = min(body[i], body[k])
					}
				}
			}
		}
	}
	var list []Body
	for i := range tanks {
		var b Body
		for k, t := range tanks {
			if body[k] == i {
				b.Tanks = append(b.Tanks, t)
			}
		}
		if b.Tanks != nil {
			list = append(list, b)
		}
	}
	return list
}

// joinedBelow reports whether an open way that passes both ways leads from the
// low ports of one tank to those of another and nowhere rises above either's
// top.
func joinedBelow(n *plumbing.Network, s state.State, z []float64, a, b *plumbing.Part) bool {
	top := min(topOf(n, a), topOf(n, b))
	seen := map[plumbing.NodeID]bool{}
	queue := lowPorts(n, a)
	for _, i := range queue {
		seen[i] = true
	}
	ends := lowPorts(n, b)
	for len(queue) > 0 {
		at := queue[0]
		queue = queue[1:]
		if slices.Contains(ends, at) {
			return true
		}
		for _, li := range n.Nodes[at].Links {
			l := &n.Links[li]
			to := l.Other(at)
			if seen[to] || l.OneWay || !s.Runs(l) || !s.IsOpen(l, state.Can) || z[to] > top || highest(n, l) > top {
				continue
			}
			seen[to] = true
			queue = append(queue, to)
		}
	}
	return false
}

// topOf is the height of a tank's top; one that nobody gave may be any.
func topOf(n *plumbing.Network, t *plumbing.Part) float64 {
	tall := plumbing.Field(n, &t.Data.InsideHeight)
	if tall.IsZero() {
		return never
	}
	return float64(plumbing.Field(n, &t.Place.Height).Value()) + float64(tall.Value())/1000
}

func lowPorts(n *plumbing.Network, t *plumbing.Part) []plumbing.NodeID {
	var list []plumbing.NodeID
	for _, info := range t.Ports() {
		if i := n.Node(t.ID + "." + info.Name); info.Level == plumbing.Low && n.Joined(i) {
			list = append(list, i)
		}
	}
	return list
}

// highest is the highest spot of a line between its ends.
func highest(n *plumbing.Network, l *plumbing.Link) float64 {
	top := -never
	for _, s := range n.Spots(l.Line) {
		top = max(top, float64(s.Height.Value()))
	}
	return top
}
