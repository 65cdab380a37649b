package flow

import (
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// Wet is where water ever comes to. Other places are dry: they keep nothing,
// and frost does them nothing.
type Wet struct {
	reached *Reached
	every   state.State
}

// EverWet follows water from every source while couplings stand as in a
// setting and every other handle as open as it can, every pump running.
func EverWet(n *plumbing.Network, s state.State) Wet {
	every := state.Undecided(n)
	every.Pumps = state.AllPumps(n)
	for i, h := range n.Handles {
		if h.Part.Role() == plumbing.RoleCoupling {
			every.Handles[i] = s.Handles[i]
		}
	}
	var from []plumbing.NodeID
	for i, node := range n.AllNodes() {
		switch node.Part.Role() {
		case plumbing.RoleTank, plumbing.RoleInlet, plumbing.RolePickUp, plumbing.RoleRinse, plumbing.RoleFill,
			plumbing.RoleBarrel, plumbing.RoleHatch:
			from = append(from, i)
		}
	}
	return Wet{Reach(n, every, Query{From: from}), every}
}

// Part reports whether water ever comes to a part.
func (w Wet) Part(p *plumbing.Part) bool { return w.reached.Part(p) }

// Link reports whether water ever comes into a link.
func (w Wet) Link(i plumbing.LinkID) bool { return w.reached.Link(w.every, i) }

// Left reports whether what is left in a place can be water.
func (w Wet) Left(p Left) bool {
	if p.InLink() {
		return w.Link(p.Link)
	}
	return w.Part(p.Part)
}
