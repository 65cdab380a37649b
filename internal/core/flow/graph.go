package flow

import (
	"math"
	"slices"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// pipework is what the solver knows of a network whatever the scene: which
// nodes parts without loss join into one, and the laws of lines and passages.
// It is worked out once for a network.
type pipework struct {
	node []int     // network node to vertex
	z    []float64 // height of each vertex
	laws []law     // of each link; a pump's is that of its valve, while it is off
}

// pipesOf gives a network's pipework.
func pipesOf(n *plumbing.Network) *pipework {
	return plumbing.Once(n, func() *pipework { return newPipework(n) })
}

func newPipework(n *plumbing.Network) *pipework {
	p := &pipework{node: make([]int, len(n.Nodes)), laws: make([]law, len(n.Links))}
	parent := make([]int, len(n.Nodes))
	for i := range parent {
		parent[i] = i
	}
	find := func(i int) int {
		for parent[i] != i {
			parent[i] = parent[parent[i]]
			i = parent[i]
		}
		return i
	}
	for i := range n.Links {
		if l := &n.Links[i]; l.Part != nil && l.Part.Role() == plumbing.RoleJunction {
			parent[find(int(l.A))] = find(int(l.B))
		}
	}
	vertex := make([]int, len(n.Nodes))
	for i, node := range n.Nodes {
		root := find(i)
		if vertex[root] == 0 {
			h, _ := n.PortHeight(node.Part, node.Port)
			p.z = append(p.z, float64(h))
			vertex[root] = len(p.z)
		}
		p.node[i] = vertex[root] - 1
	}
	for i := range n.Links {
		p.laws[i] = linkLaw(n, &n.Links[i])
	}
	return p
}

// linkLaw is the law of a link that is open; a running pump's is another.
func linkLaw(n *plumbing.Network, l *plumbing.Link) (w law) {
	switch {
	case l.Line != nil:
		w = lineLaw(n, l.Line)
	case l.Seep > 0:
		q := cubic(l.Seep)
		w = law{b: metresOf(plumbing.SeepAt) / (q * q)}
	case l.Handle >= 0 && n.Nodes[l.B].Outside:
		w = openingLaw(n, l.Part)
	default:
		w = law{b: minor(l.Part.Kind.Info().Loss, boreAt(n, l))}
	}
	if l.OneWay {
		w.way = 1
	}
	return w
}

// boreAt is the inside diameter of a line at a passage, in metres.
func boreAt(n *plumbing.Network, l *plumbing.Link) float64 {
	for _, end := range []plumbing.NodeID{l.A, l.B} {
		for _, li := range n.Nodes[end].Links {
			if line := n.Links[li].Line; line != nil {
				if d, _ := n.InsideDiameter(line); d > 0 {
					return float64(d) / 1000
				}
			}
		}
	}
	return smallBore
}

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
	link  plumbing.LinkID // None for a way to the outside
	node  plumbing.NodeID // for a way to the outside
	along bool
	law   law // seen the way the edge runs
}

// graph is the network as the solver sees it.
type graph struct {
	net   *plumbing.Network
	state *state.State
	node  []int     // network node to vertex: parts without loss join their ports
	fixed []float64 // head of each vertex where it is known, else not a number
	z     []float64 // height of each vertex
	edges []edge
	spare []element // memory for the edges' elements
	q     []float64
	shut  []bool
	h     []float64
	live  []bool // vertices that take part in the flow

	// Of newton, kept from one call to the next.
	row               []int // vertex to row, -1 for none
	slot              []int // edge to its place off the diagonal, -1 for none
	sums              *equations
	side, loss, slope []float64
}

func newGraph(n *plumbing.Network, s *state.State) *graph {
	p := pipesOf(n)
	g := &graph{net: n, state: s, node: p.node, z: slices.Clone(p.z), fixed: make([]float64, len(p.z))}
	for v := range g.fixed {
		g.fixed[v] = math.NaN()
	}
	g.edges = make([]edge, 0, len(n.Links)+len(s.Open)+16)
	g.spare = make([]element, 0, len(n.Links)+len(s.Open)+16)
	g.addLinks(p)
	g.addEnds()
	return g
}

func (g *graph) vertex(z float64) int {
	g.z, g.fixed = append(g.z, z), append(g.fixed, math.NaN())
	return len(g.z) - 1
}

func (g *graph) isFixed(v int) bool { return !math.IsNaN(g.fixed[v]) }

func (g *graph) addLinks(p *pipework) {
	for i, l := range g.net.AllLinks() {
		a, b := g.node[l.A], g.node[l.B]
		if a == b || !g.state.IsOpen(l, state.Can) || !g.state.Runs(l) {
			continue
		}
		w := p.laws[i]
		if l.Seep == 0 && l.Pump != plumbing.None && g.state.Pumps.Has(l.Pump) {
			w = sourceLaw(plumbing.Field(g.net, &l.Part.Data.CutOut).Value(),
				plumbing.Field(g.net, &l.Part.Data.Flow).Value())
			w.way = 1
		}
		g.add(a, b, w, i, plumbing.None)
	}
}

func (g *graph) add(from, to int, w law, link plumbing.LinkID, node plumbing.NodeID) {
	g.spare = append(g.spare, element{link, node, true, w})
	last := len(g.spare)
	g.edges = append(g.edges, edge{from, to, w, g.spare[last-1 : last : last]})
}

// addEnds adds tanks, outlets that are open, and what is at the ports.
func (g *graph) addEnds() {
	for i, node := range g.net.AllNodes() {
		v, p := g.node[i], node.Part
		switch {
		case p.Role() == plumbing.RoleTank:
			tall := plumbing.Field(g.net, &p.Data.InsideHeight)
			surface := float64(plumbing.Field(g.net, &p.Place.Height).Value()) +
				g.state.Level(p.ID)*float64(tall.Value())/1000
			port, _ := g.net.PortHeight(p, node.Port)
			// Of a tank whose height nobody gave the ports at its bottom are under
			// water all the same, just so.
			low := tall.IsZero() && g.state.Level(p.ID) > 0 && p.IsLow(node.Port)
			if float64(port) < surface-1e-6 || low {
				g.fixed[v] = max(surface, float64(port))
				break
			}
			// A pipe above the water lets go at its own height and never draws.
			air := g.vertex(float64(port))
			g.fixed[air] = float64(port)
			g.add(v, air, law{b: minor(lineMinor, smallBore), way: 1}, plumbing.None, i)
		case p.Role() == plumbing.RoleWaste:
			h, _ := g.net.PortHeight(p, node.Port)
			g.fixed[v] = float64(h)
		case g.state.Open[i]:
			air := g.vertex(g.z[v])
			g.fixed[air] = g.z[v]
			g.add(v, air, outletLaw(g.net, p), plumbing.None, i)
		case node.Outside && (p.Role() == plumbing.RoleVent || p.Role() == plumbing.RoleDrain ||
			p.Role() == plumbing.RoleFrost || p.Role() == plumbing.RoleRelief || p.Role() == plumbing.RoleStrainer ||
			node.Port == "loose" &&
				g.state.Joined[i].Kind != state.Plugged):
			// Water runs out there; what comes in is air.
			air := g.vertex(g.z[v])
			g.fixed[air] = g.z[v]
			g.add(v, air, law{b: minor(lineMinor, smallBore), way: 1}, plumbing.None, i)
		case node.Outside:
			g.attach(i, v)
		}
	}
}

func (g *graph) attach(i plumbing.NodeID, v int) {
	switch a := g.state.Joined[i]; a.Kind {
	case state.Supply, state.HandPump:
		source := g.vertex(g.z[v])
		g.fixed[source] = g.z[v]
		g.add(source, v, sourceLaw(a.Pressure, a.Flow), plumbing.None, i)
	case state.Container, state.OpenToAir:
		g.fixed[v] = g.z[v]
	}
}

// reduce takes away what nothing can flow through and joins links in series,
// so that the system to be solved has a row for real junctions only.
func (g *graph) reduce() {
	const usual = 4               // edges at a vertex
	at := make([][]int, len(g.z)) // edges at each vertex, those that are gone too
	spare := make([]int, usual*len(g.z))
	for v := range at {
		at[v] = spare[usual*v : usual*v : usual*(v+1)]
	}
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

// Places says of each node in which place it lies: the nodes of parts that join lines without loss
// are one place, every other node is one by itself. There are count of them.
func Places(n *plumbing.Network) (place []int, count int) {
	p := pipesOf(n)
	return p.node, len(p.z)
}
