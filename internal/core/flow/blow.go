package flow

import (
	"maps"
	"slices"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// Blow says what stays when air under pressure comes in where the state has it
// joined, and goes out at each of its open outlet sides in turn, after d was
// left by draining. Air sweeps the stretches on its way and leaves a film,
// a share of what they hold; dead ends, closed branches and tanks keep what
// they held.
func Blow(n *plumbing.Network, s state.State, d *Drained, film float64) *Drained {
	s.Pumps = 0
	to := slices.Sorted(maps.Keys(s.Open))
	after := &Drained{Pieces: slices.Clone(d.Pieces), openings: d.openings}
	open := map[*plumbing.Part]bool{}
	for _, t := range to {
		open[n.Nodes[t].Part] = true
	}
	swept := make([]bool, len(n.Links))
	for from, c := range s.Joined {
		if c.Kind == state.Compressed {
			for i, yes := range Swept(n, s, from, to) {
				swept[i] = swept[i] || yes
			}
		}
	}
	for i := range after.Pieces {
		p := &after.Pieces[i]
		if p.InLink() && swept[p.Link] || !p.InLink() && open[p.Part] {
			p.stays = min(p.stays, p.holds*quantity.Litre(film))
		}
	}
	return after
}
