package run

import (
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// breathe lets accumulators take in and give back what stands beside them, as
// the pressure rises and falls: the line to one, a dead end, gets by and by what
// runs past it.
func (x *System) breathe() {
	for _, p := range x.net.PartsOf(plumbing.RoleAccumulator) {
		in := x.net.Node(p.ID + ".in")
		if in == plumbing.None || !x.pressed[in] || len(x.net.Nodes[in].Links) != 1 {
			continue
		}
		own := x.net.Nodes[in].Links[0]
		at := x.lay.place[x.net.Links[own].Other(in)]
		if beside := x.beside(at, own); x.lay.store[own] != plumbing.None && beside != plumbing.None {
			x.swap(x.lay.store[own], beside)
		}
	}
}

// beside is the largest store that ends at a place, but for a link's; None for none.
func (x *System) beside(place int, but plumbing.LinkID) int {
	best, most := plumbing.None, quantity.Litre(0)
	for i := range x.net.Links {
		k, s := &x.net.Links[i], x.lay.store[i]
		if s == plumbing.None || plumbing.LinkID(i) == but || x.lay.place[k.A] != place && x.lay.place[k.B] != place {
			continue
		}
		if x.lay.holds[s] > most {
			best, most = s, x.lay.holds[s]
		}
	}
	return best
}

// swap exchanges as much as both stores hold.
func (x *System) swap(a, b int) {
	v := min(x.stores[a].litre(), x.stores[b].litre())
	var one, other Plug
	one, x.stores[a] = x.stores[a].pop(v, true)
	other, x.stores[b] = x.stores[b].pop(v, true)
	x.stores[a] = x.stores[a].push(other, true)
	x.stores[b] = x.stores[b].push(one, true)
}
