package flow

import (
	"slices"

	"coldtap/internal/core/plumbing"
)

// Openings lists the nodes through which air and water pass when a system is
// drained in a setting: open drains and open ends, ports that stand open, the
// tanks' ports at the top, those at the bottom where the tank's drain is open,
// and the outlet sides in open; nil opens every side of every outlet, mixers
// left half-way. Machines open by their own cycle only and count if they are
// in open.
func Openings(n *plumbing.Network, s Setting, open map[int]bool) []int {
	s.PumpOn = false
	at := map[int]bool{}
	for i, node := range n.Nodes {
		p := node.Part
		switch {
		case open == nil && p.Kind == plumbing.Outlet && n.Joined(i), open[i]:
			at[i] = true
		case !node.Outside:
		case p.Kind == plumbing.OpenEnd, p.Kind == plumbing.GravityFill:
			at[i] = true
		case slices.ContainsFunc(node.Links, func(li int) bool { l := &n.Links[li]; return l.Handle >= 0 && s.open(l, Can) }):
			at[i] = true
		}
	}
	// A tank that runs out at an open drain lets air in at all its ports; above
	// its water it always does.
	for _, t := range n.PartsOf(plumbing.Tank) {
		var ports []int
		for _, info := range t.Ports() {
			if i := n.Node(t.ID + "." + info.Name); n.Joined(i) {
				ports = append(ports, i)
				at[i] = at[i] || info.Level == plumbing.Top
			}
		}
		r := Reach(n, s, Query{From: ports})
		for i, node := range n.Nodes {
			if node.Outside && at[i] && r.Node(i) && node.Part.Kind != plumbing.OpenEnd && node.Part.Kind != plumbing.GravityFill {
				for _, p := range ports {
					at[p] = true
				}
				break
			}
		}
	}
	var list []int
	for i := range n.Nodes {
		if at[i] {
			list = append(list, i)
		}
	}
	return list
}
