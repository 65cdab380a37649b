package run

import (
	"cmp"
	"math"
	"slices"

	"coldtap/internal/core/constant"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// settle lets run out what runs by its own weight: everything above an open
// way out, while nothing pushes. It tells how long that takes; what tanks hold is left to others.
func (x *System) settle(m *Moved) quantity.Second {
	s := x.seen()
	if Sources(s) {
		return 0
	}
	s.Contents = x.contents()
	ways := x.waysOut(x.net, s)
	x.leave(m, ways, flow.Drain(x.net, s))
	x.eased(ways)
	x.expand(m, ways)
	return longestOf(ways)
}

// longestOf is how long it takes until the last of some ways runs no more.
func longestOf(ways []way) (most quantity.Second) {
	for _, w := range ways {
		most = max(most, w.takes)
	}
	return most
}

// blow lets air sweep the lines from where it is joined to each side that is
// open, after what runs out by its own weight. It leaves a film, a share of
// what a line holds.
func (x *System) blow(m *Moved, film float64) {
	s := x.seen()
	s.Contents = x.contents()
	d := flow.Drain(x.net, s)
	after := flow.Blow(x.net, s, d, film)
	for i, yes := range x.rinsed(s) {
		for k := range after.Pieces {
			if p := &after.Pieces[k]; yes && p.Link == plumbing.LinkID(i) {
				p.Keep(min(p.Stays(), p.Holds()*quantity.Litre(film)))
			}
		}
	}
	x.leave(m, x.waysOut(x.net, s), after)
}

// rinsed marks the links that air sweeps on its way into a waste tank.
func (x *System) rinsed(s state.State) []bool {
	var to []plumbing.NodeID
	for _, p := range x.net.PartsOf(plumbing.RoleWaste) {
		to = append(to, x.nodesOf(p)...)
	}
	swept := make([]bool, len(x.net.Links))
	for at, c := range s.Joined {
		if c.Kind == state.Compressed {
			for i, yes := range flow.Swept(x.net, s, at, to) {
				swept[i] = swept[i] || yes
			}
		}
	}
	return swept
}

// release lets run out what stands at a check valve that is held open.
func (x *System) release(m *Moved, p *plumbing.Part) {
	n := x.net.Changed()
	for i := range n.Links {
		if n.Links[i].Part == p {
			n.Links[i].OneWay = false
		}
	}
	mouth := n.Node(p.ID + ".mouth")
	s := x.seen()
	s.Contents = x.contents()
	s.Pumps = 0
	s = s.WithJoined(mouth, state.Connection{Kind: state.OpenToAir})
	x.leave(m, x.waysOut(n, s), flow.Drain(n, s))
}

// leave takes out of every piece what does not stay in it.
func (x *System) leave(m *Moved, ways []way, d *flow.Drained) {
	before := x.Pieces()
	stays := map[int][]flow.Left{} // by store, its pieces
	var of []int
	for i := range d.Pieces {
		p := &d.Pieces[i]
		at := x.lay.pieces[p.Piece]
		if p.Vessel {
			v := &x.vessels[x.lay.vessel[p.Part]]
			if gone := v.Liquid.Litre - p.Stays(); gone > trace && !p.Unknown {
				x.out(m, ways, x.lowPorts(p.Part), v.Liquid.Part(gone))
				v.Liquid.Litre -= gone
				v.look()
			}
			continue
		}
		if at == plumbing.None {
			continue
		}
		if _, ok := stays[at]; !ok {
			of = append(of, at)
		}
		stays[at] = append(stays[at], *p)
	}
	slices.Sort(of)
	for _, at := range of {
		x.keep(m, ways, at, stays[at], before)
	}
}

// keep leaves in each piece of a store what stays there, and lets the rest out.
func (x *System) keep(m *Moved, ways []way, at int, pieces []flow.Left, before []Plug) {
	var gone Plug
	var q queue
	for i := range pieces {
		was := before[pieces[i].Piece]
		liquid := Plug{Litre: was.Liquid(), Mix: was.Mix}
		stays := min(liquid.Litre, pieces[i].Stays())
		gone = gone.With(liquid.Part(liquid.Litre - stays))
		q = q.push(liquid.Part(stays), false)
		q = q.push(Air(was.Litre-stays), false)
	}
	if gone.Litre <= trace {
		return
	}
	x.out(m, ways, x.nodesAt(at), gone)
	x.stores[at] = q
}

// tip pours out what stands in the bowl of a part: it goes with the bowl, whatever lets air in or holds the water in the
// lines on both sides.
func (x *System) tip(p *plumbing.Part) {
	for i := range x.net.Links {
		if x.net.Links[i].Part == p {
			x.pourOut(p, x.lay.store[i])
		}
	}
}

// pourOut lets what stands in a store leave at a part.
func (x *System) pourOut(p *plumbing.Part, at int) {
	if at == plumbing.None {
		return
	}
	all, _ := slices.Clone(x.stores[at]).pop(x.stores[at].litre(), true)
	liquid := Plug{Litre: all.Liquid(), Mix: all.Mix}
	if liquid.Litre <= trace {
		return
	}
	x.lets(p, x.sinkOf(p), liquid)
	x.stores[at] = queue{Air(all.Litre)}
}

// tipHeater pours out a heater that is off its couplings, and the hoses that hang on it.
func (x *System) tipHeater(p *plumbing.Part) {
	r := flow.Reach(x.net, state.Undecided(x.net), flow.Query{From: x.nodesOf(p), Without: x.net.PartsOf(plumbing.RoleCoupling)})
	for i, l := range x.net.Links {
		if r.Node(l.A) || r.Node(l.B) { // a hose up to its coupling
			x.pourOut(p, x.lay.store[i])
		}
	}
	if i, ok := x.lay.vessel[p]; ok && x.vessels[i].Liquid.Litre > 0 {
		v := &x.vessels[i]
		x.lets(p, x.sinkOf(p), v.Liquid)
		v.Liquid.Litre = 0
		v.look()
	}
}

// way is an opening that something runs out by, with what it gets its water
// from.
type way struct {
	node    plumbing.NodeID
	height  quantity.Metre
	reached *flow.Reached
	bore    quantity.Millimetre // 0 where nobody gave it
	takes   quantity.Second     // what runs out by it
}

// leastHead is how much water stands above an opening at least while something runs out by it, in metres.
const leastHead = 0.05

// runs is how long some water takes to run out by a way from a height, as a vessel with straight walls does: its
// mean flow is half that at its full head.
func (w *way) runs(v quantity.Litre, from quantity.Metre) quantity.Second {
	if w.bore <= 0 {
		return 0
	}
	d, head := float64(w.bore)/1000, max(leastHead, float64(from-w.height))
	q := constant.Orifice.Of(nil) * math.Pi / 4 * d * d * math.Sqrt(2*constant.Gravity.Of(nil)*head) // m³/s
	return quantity.Second(2 * float64(v) / 1000 / q)
}

// boreAt is how wide an opening is: as given, or as the line that leads there.
func boreAt(n *plumbing.Network, at plumbing.NodeID) quantity.Millimetre {
	p := n.Nodes[at].Part
	if b := plumbing.Field(n, &p.Data.Bore).Value(); b > 0 {
		return b
	}
	for i := range n.Links {
		l := &n.Links[i]
		if l.Line != nil && (n.Nodes[l.A].Part == p || n.Nodes[l.B].Part == p) {
			d, _ := l.Line.InsideDiameter()
			return d
		}
	}
	return 0
}

// waysOut are the openings in a state, the lowest first.
func (x *System) waysOut(n *plumbing.Network, s state.State) []way {
	var list []way
	s.Pumps = state.AllPumps(n)
	for _, node := range flow.Openings(n, s) {
		h, _ := n.PortHeight(n.Nodes[node].Part, n.Nodes[node].Port)
		list = append(list, way{node: node, height: h, bore: boreAt(n, node),
			reached: flow.Reach(n, s, flow.Query{From: []plumbing.NodeID{node}, Back: true})})
	}
	slices.SortStableFunc(list, func(a, b way) int { return cmp.Compare(a.height, b.height) })
	return list
}

// out lets something out by the lowest opening that one of some nodes gets to.
func (x *System) out(m *Moved, ways []way, from []plumbing.NodeID, p Plug) {
	for i := range ways {
		w := &ways[i]
		if slices.ContainsFunc(from, w.reached.Node) {
			w.takes += w.runs(p.Liquid(), x.highest(from))
			part := x.net.Nodes[w.node].Part
			m.Ran[w.node] += p.Litre
			m.Arrived[w.node] = p.Part(1)
			x.lets(part, x.sinkOf(part), p)
			return
		}
	}
	x.lets(nil, Sink{}, p) // it left, and nobody can say where
}

// highest is the height of the highest of some nodes.
func (x *System) highest(list []plumbing.NodeID) (top quantity.Metre) {
	top = quantity.Metre(math.Inf(-1))
	for _, at := range list {
		if h, ok := x.net.PortHeight(x.net.Nodes[at].Part, x.net.Nodes[at].Port); ok {
			top = max(top, h)
		}
	}
	return top
}

// lowPorts are the nodes by which a vessel's water leaves: those at its bottom, of a heater all.
func (x *System) lowPorts(p *plumbing.Part) []plumbing.NodeID {
	list := x.nodesOf(p)
	if p.Role() != plumbing.RoleTank {
		return list
	}
	return slices.DeleteFunc(list, func(at plumbing.NodeID) bool { return !p.IsLow(x.net.Nodes[at].Port) })
}

func (x *System) nodesOf(p *plumbing.Part) []plumbing.NodeID {
	var list []plumbing.NodeID
	for i := range x.net.Nodes {
		if x.net.Nodes[i].Part == p {
			list = append(list, plumbing.NodeID(i))
		}
	}
	return list
}

// nodesAt are the nodes at the ends of a store.
func (x *System) nodesAt(store int) []plumbing.NodeID {
	var list []plumbing.NodeID
	for i := range x.net.Links {
		if x.lay.store[i] == store {
			list = append(list, x.net.Links[i].A, x.net.Links[i].B)
		}
	}
	for p, at := range x.lay.inside {
		if at == store {
			list = append(list, x.nodesOf(p)...)
		}
	}
	return list
}
