package flow

import (
	"slices"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// Openings lists the nodes through which air and water pass when a system is
// drained in a state: open drains, relief valves and open ends, ports that
// stand open, open outlet sides.
func Openings(n *plumbing.Network, s state.State) []plumbing.NodeID {
	return openingsOf(n, s, state.Can)
}

// openingsOf is Openings with handles that may stand in several positions
// counted as the view says.
func openingsOf(n *plumbing.Network, s state.State, v state.View) []plumbing.NodeID {
	var list []plumbing.NodeID
	for i, node := range n.AllNodes() {
		switch {
		case s.Open[i], s.Joined[i].Kind == state.OpenToAir:
			list = append(list, i)
		case !node.Outside:
		case node.Part.Role() == plumbing.RoleVent, node.Part.Role() == plumbing.RoleFill:
			list = append(list, i)
		case slices.ContainsFunc(node.Links, func(li plumbing.LinkID) bool {
			l := &n.Links[li]
			return l.Handle != plumbing.None && s.IsOpen(l, v)
		}):
			list = append(list, i)
		}
	}
	return list
}
