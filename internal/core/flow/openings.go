package flow

import (
	"slices"

	"coldtap/internal/core/plumbing"
)

// Openings lists the nodes through which air and water pass when a system is
// drained in a setting: open drains, relief valves and open ends, ports that
// stand open, and the outlet sides in open; nil opens every side of every
// outlet, mixers left half-way. Machines open by their own cycle only and
// count if they are in open.
func Openings(n *plumbing.Network, s Setting, open map[plumbing.NodeID]bool) []plumbing.NodeID {
	return openingsOf(n, s, open, Can)
}

// OpeningsWorst is Openings with handles that may stand in several positions:
// only what is open in all of them.
func OpeningsWorst(n *plumbing.Network, s Setting, open map[plumbing.NodeID]bool) []plumbing.NodeID {
	return openingsOf(n, s, open, Must)
}

func openingsOf(n *plumbing.Network, s Setting, open map[plumbing.NodeID]bool, v View) []plumbing.NodeID {
	var list []plumbing.NodeID
	for i, node := range n.AllNodes() {
		p := node.Part
		switch {
		case open == nil && p.Kind == plumbing.Outlet && n.Joined(i), open[i]:
			list = append(list, i)
		case !node.Outside:
		case p.Kind == plumbing.OpenEnd, p.Kind == plumbing.GravityFill:
			list = append(list, i)
		case slices.ContainsFunc(node.Links, func(li plumbing.LinkID) bool { l := &n.Links[li]; return l.Handle >= 0 && s.open(l, v) }):
			list = append(list, i)
		}
	}
	return list
}
