package flow

import (
	"context"
	"math"
	"slices"

	"gonum.org/v1/gonum/blas"
	"gonum.org/v1/gonum/blas/blas64"
	"gonum.org/v1/gonum/lapack/lapack64"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// edge is a link of the solver's graph: one or several links of the network
// in series, with the same flow through all.
type edge struct {
	from, to int
	law      law // of the whole
	elems    []element
}

// element is one link of an edge, or the way to the outside at an outlet or
// a port.
type element struct {
	link  int // of the network, -1 for a way to the outside
	node  int // of the network, for a way to the outside
	along bool
	law   law // seen the way the edge runs
}

// SteadyFlow solves the steady flow of a scene with the global gradient method
// (Todini and Pilati, "A gradient algorithm for the analysis of pipe networks",
// 1988), over the whole network, loops included. One-ways are opened and
// shut until no open one flows backwards and no shut one has head in its
// favour.
func SteadyFlow(ctx context.Context, n *plumbing.Network, sc *Scene) (*Steady, error) {
	g := newGraph(n, sc)
	g.reduce()
	if err := g.solve(ctx); err != nil {
		return nil, err
	}
	return g.result(), nil
}

// graph is the network as the solver sees it.
type graph struct {
	net   *plumbing.Network
	scene *Scene
	node  []int     // network node to vertex: parts without loss join their ports
	fixed []float64 // head of each vertex where it is known, else not a number
	z     []float64 // height of each vertex
	edges []edge
	q     []float64
	shut  []bool
	h     []float64
	live  []bool // vertices that take part in the flow

	// Of newton, kept from one call to the next.
	matrix, side, loss, slope []float64
}

func newGraph(n *plumbing.Network, sc *Scene) *graph {
	g := &graph{net: n, scene: sc, node: make([]int, len(n.Nodes))}
	parent := make([]int, len(n.Nodes))
	for i := range parent {
		parent[i] = i
	}
	var find func(int) int
	find = func(i int) int {
		if parent[i] != i {
			parent[i] = find(parent[i])
		}
		return parent[i]
	}
	for i := range n.Links {
		if l := &n.Links[i]; l.Part != nil && (l.Part.Kind == plumbing.Tee || l.Part.Kind == plumbing.Manifold) {
			parent[find(l.A)] = find(l.B)
		}
	}
	vertex := make([]int, len(n.Nodes))
	for i, node := range n.Nodes {
		root := find(i)
		if vertex[root] == 0 {
			h, _ := node.Part.PortHeight(node.Port)
			vertex[root] = g.vertex(float64(h)) + 1
		}
		g.node[i] = vertex[root] - 1
	}
	g.addLinks()
	g.addEnds()
	return g
}

func (g *graph) vertex(z float64) int {
	g.z, g.fixed = append(g.z, z), append(g.fixed, math.NaN())
	return len(g.z) - 1
}

func (g *graph) isFixed(v int) bool { return !math.IsNaN(g.fixed[v]) }

func (g *graph) addLinks() {
	for i := range g.net.Links {
		l := &g.net.Links[i]
		a, b := g.node[l.A], g.node[l.B]
		if a == b || !g.scene.open(l, Can) || l.Running && !g.scene.PumpOn {
			continue
		}
		var w law
		switch {
		case l.Line != nil:
			w = lineLaw(l.Line)
		case l.Seep > 0:
			q := cubic(l.Seep)
			w = law{b: metresOf(plumbing.SeepAt) / (q * q)}
		case l.Part.Kind == plumbing.Pump && g.scene.PumpOn:
			w = sourceLaw(l.Part.Data.CutOut.Value(), l.Part.Data.Flow.Value())
		case l.Handle >= 0 && g.net.Nodes[l.B].Outside:
			w = openingLaw(l.Part)
		default:
			w = law{b: minor(minorLoss[l.Part.Kind], g.bore(l))}
		}
		if l.OneWay {
			w.way = 1
		}
		g.add(a, b, w, i, -1)
	}
}

func (g *graph) add(from, to int, w law, link, node int) {
	g.edges = append(g.edges, edge{from, to, w, []element{{link, node, true, w}}})
}

// bore is the inside diameter of a line at a passage, in metres.
func (g *graph) bore(l *plumbing.Link) float64 {
	for _, end := range []int{l.A, l.B} {
		for _, li := range g.net.Nodes[end].Links {
			if line := g.net.Links[li].Line; line != nil {
				if d, _ := line.InsideDiameter(); d > 0 {
					return float64(d) / 1000
				}
			}
		}
	}
	return smallBore
}

// addEnds adds tanks, outlets that are open, and what is at the ports.
func (g *graph) addEnds() {
	for i, node := range g.net.Nodes {
		v, p := g.node[i], node.Part
		switch {
		case p.Kind == plumbing.Tank:
			surface := float64(p.Place.Height.Value()) + g.scene.level(p.ID)*float64(p.Data.InsideHeight.Value())/1000
			port, _ := p.PortHeight(node.Port)
			// Of a tank whose height nobody gave the ports at its bottom are under
			// water all the same, just so.
			low := p.Data.InsideHeight.IsZero() && g.scene.level(p.ID) > 0 && p.IsLow(node.Port)
			if float64(port) < surface-1e-6 || low {
				g.fixed[v] = max(surface, float64(port))
				break
			}
			// A pipe above the water lets go at its own height and never draws.
			air := g.vertex(float64(port))
			g.fixed[air] = float64(port)
			g.add(v, air, law{b: minor(lineMinor, smallBore), way: 1}, -1, i)
		case p.Kind == plumbing.WasteTank:
			h, _ := p.PortHeight(node.Port)
			g.fixed[v] = float64(h)
		case g.scene.Open[i]:
			air := g.vertex(g.z[v])
			g.fixed[air] = g.z[v]
			g.add(v, air, outletLaw(p), -1, i)
		case node.Outside && (p.Kind == plumbing.OpenEnd || p.Kind == plumbing.LowPoint || p.Kind == plumbing.FrostValve || p.Kind == plumbing.Strainer || node.Port == "loose"):
			// Water runs out there; what comes in is air.
			air := g.vertex(g.z[v])
			g.fixed[air] = g.z[v]
			g.add(v, air, law{b: minor(lineMinor, smallBore), way: 1}, -1, i)
		case node.Outside:
			g.attach(i, v)
		}
	}
}

func (g *graph) attach(i, v int) {
	switch a := g.scene.At[i]; a.Kind {
	case Supply:
		source := g.vertex(g.z[v])
		g.fixed[source] = g.z[v]
		g.add(source, v, sourceLaw(a.Pressure, a.Flow), -1, i)
	case Container, Air:
		g.fixed[v] = g.z[v]
	}
}

// reduce takes away what nothing can flow through and joins links in series,
// so that the system to be solved has a row for real junctions only.
func (g *graph) reduce() {
	at := make([][]int, len(g.z)) // edges at each vertex, those that are gone too
	gone := make([]bool, len(g.edges))
	todo := make([]int, len(g.z))
	for v := range todo {
		todo[v] = v
	}
	put := func(i int) {
		at[g.edges[i].from] = append(at[g.edges[i].from], i)
		at[g.edges[i].to] = append(at[g.edges[i].to], i)
	}
	for i := range g.edges {
		put(i)
	}
	drop := func(i int) {
		gone[i] = true
		todo = append(todo, g.edges[i].from, g.edges[i].to)
	}
	for len(todo) > 0 {
		v := todo[0]
		todo = todo[1:]
		at[v] = slices.DeleteFunc(at[v], func(i int) bool { return gone[i] })
		es := at[v]
		if g.isFixed(v) || len(es) == 0 || len(es) > 2 {
			continue
		}
		if len(es) == 1 || es[0] == es[1] {
			drop(es[0]) // a dead end
			continue
		}
		a, b := es[0], es[1]
		j, ok := series(g.edges[a], g.edges[b], v)
		drop(a)
		drop(b)
		if ok {
			g.edges, gone = append(g.edges, j), append(gone, false)
			put(len(g.edges) - 1)
		}
	}
	kept := g.edges[:0]
	for i, e := range g.edges {
		if !gone[i] {
			kept = append(kept, e)
		}
	}
	g.edges = kept
}

// series joins two edges that meet at v. It reports false where two one-ways
// face each other: nothing flows.
func series(a, b edge, v int) (edge, bool) {
	if a.to != v {
		a = a.reversed()
	}
	if b.from != v {
		b = b.reversed()
	}
	sum, ok := a.law.plus(b.law)
	return edge{a.from, b.to, sum, slices.Concat(a.elems, b.elems)}, ok
}

func (e edge) reversed() edge {
	r := edge{from: e.to, to: e.from, law: e.law.reversed()}
	for _, x := range slices.Backward(e.elems) {
		r.elems = append(r.elems, element{x.link, x.node, !x.along, x.law.reversed()})
	}
	return r
}

// solve finds heads and flows, opening and shutting one-ways until all agree.
func (g *graph) solve(ctx context.Context) error {
	for i, e := range g.edges {
		if e.law.way < 0 {
			g.edges[i] = e.reversed() // every one-way passes forwards
		}
	}
	g.q, g.shut = make([]float64, len(g.edges)), make([]bool, len(g.edges))
	g.loss, g.slope = make([]float64, len(g.edges)), make([]float64, len(g.edges))
	for i := range g.q {
		g.q[i] = 1e-4
	}
	// Rough answers are enough to open and shut one-ways; the last is fine.
	const rough, fine = 1e-2, 1e-12
	within := rough
	for range 60 + 2*len(g.edges) {
		if err := ctx.Err(); err != nil {
			return err
		}
		if err := g.newton(within); err != nil {
			return err
		}
		changed := false
		for i, e := range g.edges {
			if e.law.way == 0 {
				continue
			}
			drive := g.h[e.from] - g.h[e.to] + e.law.gain
			switch {
			case !g.shut[i] && g.q[i] < -1e-12:
				g.shut[i], changed = true, true
			case g.shut[i] && g.live[e.from] && g.live[e.to] && drive > 1e-9:
				g.shut[i], g.q[i], changed = false, 1e-5, true
			}
		}
		switch {
		case changed:
			within = rough
		case within == fine:
			return nil
		default:
			within = fine
		}
	}
	return ErrNoFlow{"its one-ways keep opening and shutting"}
}

// newton solves heads and flows for the one-ways as they stand, to within a
// share of the largest flow.
func (g *graph) newton(within float64) error {
	g.h = make([]float64, len(g.z))
	g.connected()
	row := make([]int, len(g.z))
	rows := 0
	for v := range g.z {
		row[v] = -1
		if g.isFixed(v) {
			g.h[v] = g.fixed[v]
		} else if g.live[v] {
			row[v] = rows
			rows++
		}
	}
	for i, e := range g.edges {
		if g.shut[i] || !g.live[e.from] || !g.live[e.to] {
			g.q[i] = 0
		} else if math.Abs(g.q[i]) < 1e-9 {
			g.q[i] = 1e-6
		}
	}
	// The upper half of a symmetric matrix, row by row, and the right side.
	if len(g.matrix) != rows*rows {
		g.matrix, g.side = make([]float64, rows*rows), make([]float64, rows)
	}
	a, f := g.matrix, g.side
	for round := range 100 {
		worst, largest := 0.0, 1e-9
		if rows > 0 {
			clear(a)
			clear(f)
			for i, e := range g.edges {
				if g.shut[i] || !g.live[e.from] || !g.live[e.to] || e.from == e.to {
					continue // a run that ends where it began asks nothing of the heads
				}
				g.loss[i], g.slope[i] = e.law.head(g.q[i])
				p := 1 / g.slope[i]
				y := g.q[i] - p*g.loss[i]
				for _, end := range []struct {
					v, other int
					sign     float64
				}{{e.from, e.to, -1}, {e.to, e.from, 1}} {
					r := row[end.v]
					if r < 0 {
						continue
					}
					a[r*rows+r] += p
					f[r] += end.sign * y
					if o := row[end.other]; o > r {
						a[r*rows+o] -= p
					} else if o < 0 {
						f[r] += p * g.h[end.other]
					}
				}
			}
			half, ok := lapack64.Potrf(blas64.Symmetric{N: rows, Stride: rows, Data: a, Uplo: blas.Upper})
			if !ok {
				return ErrNoFlow{"the equations have no single answer"}
			}
			lapack64.Potrs(half, blas64.General{Rows: rows, Cols: 1, Stride: 1, Data: f})
			for v, r := range row {
				if r >= 0 {
					g.h[v] = f[r]
				}
			}
		}
		for i, e := range g.edges {
			if g.shut[i] || !g.live[e.from] || !g.live[e.to] {
				continue
			}
			if rows == 0 || e.from == e.to {
				g.loss[i], g.slope[i] = e.law.head(g.q[i])
			}
			next := g.q[i] + (g.h[e.from]-g.h[e.to]-g.loss[i])/g.slope[i]
			if round > 20 { // two flows taking turns: meet halfway
				next = (next + g.q[i]) / 2
			}
			worst = max(worst, math.Abs(next-g.q[i]))
			largest = max(largest, math.Abs(next))
			g.q[i] = next
		}
		if worst <= 1e-13+within*largest {
			return nil
		}
	}
	return ErrNoFlow{"too many rounds"}
}

// connected marks the vertices that open edges join to a known head.
func (g *graph) connected() {
	g.live = make([]bool, len(g.z))
	var queue []int
	for v := range g.z {
		if g.isFixed(v) {
			g.live[v] = true
			queue = append(queue, v)
		}
	}
	at := make([][]int, len(g.z))
	for i, e := range g.edges {
		if !g.shut[i] {
			at[e.from] = append(at[e.from], e.to)
			at[e.to] = append(at[e.to], e.from)
		}
	}
	for len(queue) > 0 {
		v := queue[0]
		queue = queue[1:]
		for _, w := range at[v] {
			if !g.live[w] {
				g.live[w] = true
				queue = append(queue, w)
			}
		}
	}
}

// result tells flows and heads by the network's links and nodes.
func (g *graph) result() *Steady {
	s := &Steady{Flow: make([]quantity.LitrePerMinute, len(g.net.Links)), Head: make([]quantity.Metre, len(g.net.Nodes)), Known: make([]bool, len(g.net.Nodes)),
		Out: map[int]quantity.LitrePerMinute{}, Pumps: map[string]PumpState{}}
	known := map[int]float64{}
	for v, live := range g.live {
		if live {
			known[v] = g.h[v]
		}
	}
	for i, e := range g.edges {
		if e.law.way > 0 {
			g.q[i] = max(0, g.q[i]) // below what the solver tells from nought
		}
		h := g.h[e.from]
		for _, x := range e.elems {
			q := g.q[i]
			loss, _ := x.law.head(q)
			h -= loss
			if !x.along {
				q = -q
			}
			if x.link < 0 {
				s.Out[x.node] = quantity.LitrePerMinute(q * 60000)
				continue
			}
			s.Flow[x.link] = quantity.LitrePerMinute(q * 60000)
			l := &g.net.Links[x.link]
			end := g.node[l.B]
			if !x.along {
				end = g.node[l.A]
			}
			if _, ok := known[end]; !ok && !g.shut[i] && g.live[e.from] {
				known[end] = h
			}
		}
	}
	for i := range g.net.Nodes {
		if h, ok := known[g.node[i]]; ok {
			s.Head[i], s.Known[i] = quantity.Metre(h), true
		}
	}
	for i := range g.net.Links {
		l := &g.net.Links[i]
		if l.Part == nil || l.Part.Kind != plumbing.Pump {
			continue
		}
		q, free := s.Flow[i], l.Part.Data.Flow.Value()
		switch {
		case !g.scene.PumpOn:
			s.Pumps[l.Part.ID] = Off
		case q <= 1e-6:
			s.Pumps[l.Part.ID] = Silent
		case q < leastShare*free:
			s.Pumps[l.Part.ID] = Cycling
		default:
			s.Pumps[l.Part.ID] = Running
		}
	}
	return s
}
