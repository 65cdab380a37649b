package flow

import (
	"slices"

	"coldtap/internal/core/constant"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// way is an edge of the graph that water drains along: a piece of a line
// between two height points, an open passage, or the way from a vessel's port
// to what stands in it.
type way struct {
	piece  plumbing.PieceID // None between a vessel's port and its inside
	a, b   int              // points
	oneWay bool
	needs  float64 // metres of water it takes to pass from a to b
	wide   bool    // air and water pass each other in it
}

// vessel is a tank or a storage heater: what stands in it is in one place,
// whichever port it leaves by.
type vessel struct {
	part *plumbing.Part
	hub  int // point at its bottom
	top  float64
}

// waterways are a network cut into pieces between points of known height.
type waterways struct {
	net     *plumbing.Network
	z       []float64 // of points; the first are the network's nodes
	ways    []way
	still   []plumbing.PieceID // in shut passages
	vessels []vessel
	at      [][]int          // ways at each point
	unknown []*plumbing.Part // whose height is taken from beside them

	// What is worked out for one opening after another, kept to be used again.
	ahead, back, marked []bool
	level, air          []float64
	front               []int
	bores               bores
	venting             quantity.Millimetre // bore from which it vents itself
	via                 []int               // the way by which a point was come to
	shun, seen          pointSet
	blocks              wayBlocks
	// The lowest that water comes to: at a point, and along a way.
	pointLevel, wayLevel []float64
}

// never is above any water.
const never = 1e9

// level0 is how much two heights differ by that are the same, in metres.
const level0 = 1e-6

// bores are the inside diameters of lines, by link; 0 for what is none.
type bores []quantity.Millimetre

func boresOf(n *plumbing.Network) bores {
	return plumbing.Remember(n, boresKey{}, func() bores {
		list := make(bores, len(n.Links))
		for i, l := range n.AllLinks() {
			if l.Line != nil {
				list[i], _ = n.InsideDiameter(l.Line)
			}
		}
		return list
	})
}

type boresKey struct{}

// newWaterways cuts a network for a setting. Handles that are undecided count
// as the view says. forced makes one-ways and idle pumps pass both ways.
func newWaterways(n *plumbing.Network, s state.State, v state.View, forced bool) *waterways {
	w := &waterways{net: n, bores: boresOf(n), venting: constant.SelfVenting.Of(n.Recorder())}
	w.z, w.unknown = nodeHeights(n, s.Attitude)
	a := s.Attitude
	hub := map[*plumbing.Part]int{}
	for i, node := range n.AllNodes() {
		p := node.Part
		if !p.Vessel() {
			continue
		}
		if _, ok := hub[p]; !ok {
			h := plumbing.Field(n, &p.Place.Height)
			bottom := float64(h.Value()) + riseOf(n, p, a)
			if h.IsZero() {
				bottom = w.z[i]
			}
			hub[p] = w.point(bottom)
			w.vessels = append(w.vessels, vessel{p, hub[p], bottom +
				float64(plumbing.Field(n, &p.Data.InsideHeight).Value())/1000})
		}
		if !node.Outside {
			w.ways = append(w.ways, way{piece: plumbing.None, a: int(i), b: hub[p],
				wide: w.wideAt(i, plumbing.Field(n, &p.Data.Bore).Value())})
		}
	}
	for i, l := range n.AllLinks() {
		switch {
		case l.Line != nil:
			w.addLine(i, l, a)
		case l.Part.Vessel():
			// Its ports are joined by what stands in it.
		case !s.IsOpen(l, v) || !s.Runs(l) && !forced:
			w.still = append(w.still, n.FirstPiece(i))
		default:
			x := way{piece: n.FirstPiece(i), a: int(l.A), b: int(l.B)}
			bore := plumbing.Field(n, &l.Part.Data.Bore).Value()
			x.wide = w.wideAt(l.A, bore) || w.wideAt(l.B, bore)
			if l.OneWay && !forced {
				x.oneWay, x.needs = true, metresOf(n.OpeningPressure(l.Part))
			}
			w.ways = append(w.ways, x)
		}
	}
	w.at = make([][]int, len(w.z))
	for i, x := range w.ways {
		w.at[x.a] = append(w.at[x.a], i)
		w.at[x.b] = append(w.at[x.b], i)
	}
	return w
}

func (w *waterways) point(z float64) int {
	w.z = append(w.z, z)
	return len(w.z) - 1
}

// wideAt reports whether air and water pass each other at a part's opening: by
// its own bore, or where that is not given by the bore of the line there.
func (w *waterways) wideAt(node plumbing.NodeID, bore quantity.Millimetre) bool {
	if bore > 0 {
		return bore >= w.venting
	}
	return slices.ContainsFunc(w.net.Nodes[node].Links, func(li plumbing.LinkID) bool {
		return w.bores[li] >= w.venting
	})
}

// addLine adds the pieces of a line, with points at its high and low spots.
func (w *waterways) addLine(i plumbing.LinkID, l *plumbing.Link, a state.Attitude) {
	d := w.bores[i]
	start, end := w.net.Nodes[l.A].Part, w.net.Nodes[l.B].Part
	piece, from := w.net.FirstPiece(i), int(l.A)
	add := func(to int) {
		w.ways = append(w.ways, way{piece: piece, a: from, b: to, wide: d >= w.venting})
		piece, from = piece+1, to
	}
	for _, s := range w.net.Spots(l.Line) {
		z := float64(s.Height.Value())
		if a != (state.Attitude{}) {
			where := spotOf(w.net, start).between(spotOf(w.net, end), w.net.Pieces[piece].To)
			z += a.Rise(where.front, where.left)
		}
		add(w.point(z))
	}
	add(int(l.B))
}

// run works out how low water comes when it can leave, and air come in, at
// some openings.
func (w *waterways) run(at []plumbing.NodeID) {
	openings := make([]int, len(at))
	for i, o := range at {
		openings[i] = int(o)
	}
	points := len(w.z)
	w.ahead, w.back, w.marked = make([]bool, points), make([]bool, points), make([]bool, len(w.ways))
	w.level, w.air = make([]float64, points), make([]float64, points)
	w.pointLevel, w.wayLevel = filled(points, never), filled(len(w.ways), never)
	w.blocks.order, w.blocks.low = make([]int, points+1), make([]int, points+1)
	var starts []int
	for _, end := range openings {
		clear(w.back)
		w.spread(w.back, []int{end}, true)
		starts = starts[:0]
		for _, o := range openings {
			if o != end && w.back[o] && w.z[o] > w.z[end]+level0 {
				starts = append(starts, o)
			}
		}
		if len(starts) == 0 {
			continue
		}
		clear(w.ahead)
		w.spread(w.ahead, starts, false)
		clear(w.marked)
		w.blocks.find(w, starts, end)
		w.directed(starts, end)
		w.flood([]int{end}, func(int) float64 { return w.z[end] }, func(i int) bool { return w.marked[i] })
		w.letAirIn(starts)
		w.keep()
	}
	w.ventThemselves(openings)
}

// keep takes over what one opening lets out, where that is lower than what the
// ones before it did.
func (w *waterways) keep() {
	for i, x := range w.ways {
		if !w.marked[i] {
			continue
		}
		for _, p := range []int{x.a, x.b} {
			w.pointLevel[p] = min(w.pointLevel[p], w.level[p]+w.air[p])
		}
		low := x.a
		if w.z[x.b] < w.z[low] {
			low = x.b
		}
		w.wayLevel[i] = min(w.wayLevel[i], w.level[low]+w.air[low])
	}
}

// spread marks the points that water gets to from some, or comes from.
func (w *waterways) spread(seen []bool, from []int, backwards bool) {
	queue := append(w.front[:0], from...)
	for _, f := range from {
		seen[f] = true
	}
	for k := 0; k < len(queue); k++ {
		at := queue[k]
		for _, i := range w.at[at] {
			x := &w.ways[i]
			to := x.a + x.b - at
			if seen[to] || x.oneWay && (x.a == at) == backwards {
				continue
			}
			seen[to] = true
			queue = append(queue, to)
		}
	}
	w.front = queue
}

// flood gives each point the level that water must climb to from there to get
// out at one of some points: over all ways the least of the highest place.
// What leaves through a check valve stands higher by what that needs to open.
func (w *waterways) flood(from []int, start func(int) float64, takes func(int) bool) {
	for i := range w.level {
		w.level[i] = never
	}
	w.front = w.front[:0]
	reach := func(p int, level float64) {
		if level < w.level[p] {
			w.level[p] = level
			w.front = append(w.front, p)
		}
	}
	for _, f := range from {
		reach(f, start(f))
	}
	for k := 0; k < len(w.front); k++ {
		at := w.front[k]
		for _, i := range w.at[at] {
			x := &w.ways[i]
			if !takes(i) || x.oneWay && x.b != at {
				continue
			}
			to := x.a + x.b - at
			reach(to, max(w.z[to], max(w.level[at], w.z[x.a])+x.needs))
		}
	}
}

// letAirIn works out what it takes for air to come from the higher openings to
// each point: check valves on its way must be sucked open.
func (w *waterways) letAirIn(starts []int) {
	for i := range w.air {
		w.air[i] = never
	}
	w.front = w.front[:0]
	reach := func(p int, needs float64) {
		if needs < w.air[p] {
			w.air[p] = needs
			w.front = append(w.front, p)
		}
	}
	for _, s := range starts {
		reach(s, 0)
	}
	for k := 0; k < len(w.front); k++ {
		at := w.front[k]
		for _, i := range w.at[at] {
			if x := &w.ways[i]; w.marked[i] && !(x.oneWay && x.a != at) {
				reach(x.a+x.b-at, w.air[at]+x.needs)
			}
		}
	}
}

// ventThemselves empties what is wide enough that air and water pass each
// other in it, as far as its mouth is not under water: from the openings, and
// from places that have run empty already.
func (w *waterways) ventThemselves(openings []int) {
	from := slices.Clone(openings)
	for p := range w.z {
		if w.pointLevel[p] <= w.z[p] {
			from = append(from, p)
		}
	}
	for _, v := range w.vessels {
		if w.pointLevel[v.hub] < v.top {
			from = append(from, v.hub)
		}
	}
	w.flood(from, func(p int) float64 {
		if w.pointLevel[p] < never {
			return max(w.z[p], w.pointLevel[p])
		}
		return w.z[p]
	}, func(i int) bool { return w.ways[i].wide })
	for i, x := range w.ways {
		if !x.wide {
			continue
		}
		if x.piece == plumbing.None {
			// A vessel's port: what stands above it runs out by it.
			if w.level[x.a] <= w.z[x.a] {
				w.pointLevel[x.b] = min(w.pointLevel[x.b], w.z[x.a])
			}
			continue
		}
		lowest := min(w.z[x.a], w.z[x.b])
		for _, end := range []int{x.a, x.b} {
			if w.z[end] == lowest && w.level[end] <= lowest {
				w.wayLevel[i] = min(w.wayLevel[i], w.level[end])
			}
		}
	}
}

func filled(n int, v float64) []float64 {
	list := make([]float64, n)
	for i := range list {
		list[i] = v
	}
	return list
}

// wayBlocks finds the ways that lie on a simple way from one of some starts to
// an end: those that share a biconnected block with an edge put between the
// end and a source that is joined to all starts (Tarjan, "Depth-first search
// and linear graph algorithms", 1972).
type wayBlocks struct {
	w      *waterways
	starts []int
	end    int
	order  []int // visit number, 0 before
	low    []int
	count  int
	stack  []int
}

// put is an edge that is not of the graph: between the source and the end, or
// a start. They all lie in one block, since every start leads to the end.
const put = plumbing.None

func (b *wayBlocks) find(w *waterways, starts []int, end int) {
	b.w, b.starts, b.end, b.count = w, starts, end, 0
	clear(b.order)
	clear(b.low)
	b.visit(len(w.z), len(w.ways))
}

// visit goes on from a point that was come to by a way; the root by none.
func (b *wayBlocks) visit(at, via int) {
	b.count++
	b.order[at], b.low[at] = b.count, b.count
	if source := len(b.w.z); at == source {
		b.step(at, via, put, b.end)
		for _, s := range b.starts {
			b.step(at, via, put, s)
		}
		return
	}
	if at == b.end || slices.Contains(b.starts, at) {
		b.step(at, via, put, len(b.w.z))
	}
	for _, i := range b.w.at[at] {
		x := &b.w.ways[i]
		to := x.a + x.b - at
		if b.w.ahead[to] && b.w.back[to] {
			b.step(at, via, i, to)
		}
	}
}

func (b *wayBlocks) step(at, via, edge, to int) {
	switch {
	case edge == via:
		return
	case b.order[to] != 0:
		if b.order[to] < b.order[at] {
			b.stack = append(b.stack, edge)
			b.low[at] = min(b.low[at], b.order[to])
		}
		return
	}
	mark := len(b.stack)
	b.stack = append(b.stack, edge)
	b.visit(to, edge)
	b.low[at] = min(b.low[at], b.low[to])
	if b.low[to] < b.order[at] {
		return
	}
	// A finished block: kept if the edge that was put is in it.
	block := b.stack[mark:]
	if slices.Contains(block, put) {
		for _, e := range block {
			if e >= 0 {
				b.w.marked[e] = true
			}
		}
	}
	b.stack = b.stack[:mark]
}
