package flow

import (
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// Blow says what stays when air is let in at a node and out at each of some
// others in turn, after d was left by draining. Air sweeps the stretches on
// its way and leaves a film, a share of what they hold; dead ends, closed
// branches and tanks keep what they held.
func Blow(n *plumbing.Network, s Setting, d *Drained, from plumbing.NodeID, to []plumbing.NodeID, film float64) *Drained {
	s.PumpOn = false
	swept := Swept(n, s, from, to)
	open := map[*plumbing.Part]bool{}
	for _, t := range to {
		open[n.Nodes[t].Part] = true
	}
	after := &Drained{Pieces: append([]Left(nil), d.Pieces...)}
	for i := range after.Pieces {
		p := &after.Pieces[i]
		if p.InLink() && swept[p.Link] || !p.InLink() && !p.Vessel && open[p.Part] {
			p.Stays = min(p.Stays, p.Holds*quantity.Litre(film))
		}
	}
	return after
}

// Film is the share of a swept line that stays on its walls, a starting value
// of the house that trials correct.
const Film = 0.03
