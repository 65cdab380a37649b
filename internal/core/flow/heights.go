package flow

import (
	"slices"

	"coldtap/internal/core/constant"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// spot is a place in the camper: metres from the front and the left side.
type spot struct {
	front, left float64
	known       bool
}

func spotOf(n *plumbing.Network, p *plumbing.Part) spot {
	front, left := plumbing.Field(n, &p.Place.Front), plumbing.Field(n, &p.Place.Left)
	return spot{float64(front.Value()), float64(left.Value()), !front.IsZero() || !left.IsZero()}
}

// riseOf is how much higher than on level ground a part stands.
func riseOf(n *plumbing.Network, p *plumbing.Part, a state.Attitude) float64 {
	if a == (state.Attitude{}) {
		return 0 // wherever it is
	}
	at := spotOf(n, p)
	return a.Rise(at.front, at.left)
}

// between is the place a share of the way from s to t.
func (s spot) between(t spot, share float64) spot {
	switch {
	case !s.known:
		return t
	case !t.known:
		return s
	}
	return spot{s.front + share*(t.front-s.front), s.left + share*(t.left-s.left), true}
}

// nodeHeights are the heights of a network's nodes in an attitude. A node
// whose part says no height takes that of the nearest one along its lines; the
// parts that this was done for are listed.
func nodeHeights(n *plumbing.Network, a state.Attitude) (z []float64, unknown []*plumbing.Part) {
	h := plumbing.Remember(n, a, func() nodesAt {
		z, unknown := workNodeHeights(n, a)
		return nodesAt{z, unknown}
	})
	return slices.Clone(h.z), h.unknown
}

// nodesAt is what nodeHeights gives.
type nodesAt struct {
	z       []float64
	unknown []*plumbing.Part
}

func workNodeHeights(n *plumbing.Network, a state.Attitude) (z []float64, unknown []*plumbing.Part) {
	z = make([]float64, len(n.Nodes))
	lacks := map[*plumbing.Part]bool{}
	known := make([]bool, len(n.Nodes))
	var queue []plumbing.NodeID
	for i, node := range n.AllNodes() {
		h, ok := n.PortHeight(node.Part, node.Port)
		if !ok {
			if !lacks[node.Part] {
				lacks[node.Part] = true
				unknown = append(unknown, node.Part)
			}
			continue
		}
		if node.Outside && node.Part.Role() == plumbing.RoleStrainer {
			h -= constant.Bowl.Of(n.Recorder())
		}
		z[i], known[i] = float64(h)+riseOf(n, node.Part, a), true
		queue = append(queue, i)
	}
	for len(queue) > 0 {
		at := queue[0]
		queue = queue[1:]
		for _, li := range n.Nodes[at].Links {
			if to := n.Links[li].Other(at); !known[to] {
				z[to], known[to] = z[at], true
				queue = append(queue, to)
			}
		}
	}
	return z, unknown
}
