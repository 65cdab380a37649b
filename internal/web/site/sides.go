package site

import (
	"slices"

	"coldtap/internal/core/plumbing"
)

// sideNames tells outlet sides by their outlets: "Kitchen tap cold and hot".
func sideNames(n *plumbing.Network, sides []plumbing.NodeID) []string {
	var list []string
	var last *plumbing.Part
	sorted := slices.Clone(sides)
	slices.Sort(sorted) // both sides of an outlet follow each other
	for _, s := range sorted {
		node := n.Nodes[s]
		if node.Part == last {
			list[len(list)-1] += " and " + node.Port
			continue
		}
		last = node.Part
		list = append(list, node.Part.Name+" "+node.Port)
	}
	return list
}
