package setting

import (
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// Supply is a pump with what it can be made to draw from and to serve, however
// the handles stand, while every other pump is off.
type Supply struct {
	Pump    *plumbing.Part
	Tanks   []*plumbing.Part
	PickUps []*plumbing.Part
	Sides   []plumbing.NodeID // outlet sides
	Heaters []*plumbing.Part
}

// Supplies lists the supplies of a network in the order of its pumps.
func Supplies(n *plumbing.Network) []Supply {
	e := survey(n)
	var list []Supply
	for i, p := range n.Pumps {
		s := undecided(n, e.shut, state.Pumps(0).With(plumbing.PumpID(i), true))
		x := Supply{Pump: p}
		in := n.Node(p.ID + ".in")
		draws := func(s state.State, from []plumbing.NodeID) bool {
			return flow.Reach(n, s, flow.Query{From: from}).Node(in)
		}
		for _, t := range e.tanks {
			if draws(s, e.nodes([]*plumbing.Part{t}, "supply")) {
				x.Tanks = append(x.Tanks, t)
			}
		}
		for _, u := range e.pickups {
			own := undecided(n, u.fixed(e.shut), s.Pumps)
			if draws(own, []plumbing.NodeID{u.mouth}) {
				x.PickUps = append(x.PickUps, u.part)
			}
		}
		out := flow.Reach(n, s, flow.Query{From: []plumbing.NodeID{n.Node(p.ID + ".out")}})
		for _, side := range e.sides {
			if out.Node(side.node) {
				x.Sides = append(x.Sides, side.node)
			}
		}
		for _, h := range e.heaters {
			if out.Part(h) {
				x.Heaters = append(x.Heaters, h)
			}
		}
		list = append(list, x)
	}
	return list
}
