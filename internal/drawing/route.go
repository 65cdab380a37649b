package drawing

import (
	"cmp"
	"container/heap"
	"slices"

	"coldtap/internal/core/plumbing"
)

// Costs of a route, in steps of the grid.
const (
	bendCost  = 5
	crossCost = 14
	tightCost = 1  // beside another line or an obstacle
	pushCost  = 40 // for pushing another line away, and more each time
)

// grid is what that lines are routed on. A vertex is blocked by symbols and
// labels; a line uses it level, upright, or both where it bends.
type grid struct {
	w, h    int
	blocked []bool
	level   []int16 // line that runs level through a vertex, 0 for none
	upright []int16
	keep    []int16 // a pin's exit is kept for the lines of its box
}

func newGrid(w, h int) *grid {
	n := w * h
	return &grid{w: w, h: h, blocked: make([]bool, n), level: make([]int16, n), upright: make([]int16, n),
		keep: make([]int16, n)}
}

func (g *grid) in(p point) bool   { return p.X >= 0 && p.Y >= 0 && p.X < g.w && p.Y < g.h }
func (g *grid) index(p point) int { return p.Y*g.w + p.X }

func (g *grid) block(r rect) {
	for y := r.y; y < r.y+r.h; y++ {
		for x := r.x; x < r.x+r.w; x++ {
			if p := (point{x, y}); g.in(p) {
				g.blocked[g.index(p)] = true
			}
		}
	}
}

// terminal is where a route may start or end: a place and the ways out of it.
type terminal struct {
	at   point
	outs []direction
	keep int16 // number of the box
}

// route is a line's way over the grid, corner by corner.
type route struct {
	id     int16
	points []point // every vertex passed, ends included
	cost   int
}

// corners gives the ends and bends of a route.
func (r *route) corners() []point {
	var list []point
	for i, p := range r.points {
		if i > 0 && i+1 < len(r.points) {
			a, b := r.points[i-1], r.points[i+1]
			if a.X == b.X || a.Y == b.Y {
				continue
			}
		}
		list = append(list, p)
	}
	return list
}

// mark notes a route on the grid; with id 0 it is wiped.
func (g *grid) mark(r *route, id int16) {
	for i, p := range r.points {
		v := g.index(p)
		for _, q := range []int{i - 1, i + 1} {
			if q < 0 || q >= len(r.points) {
				continue
			}
			if r.points[q].Y == p.Y {
				g.level[v] = id
			} else {
				g.upright[v] = id
			}
		}
	}
}

// finder searches routes; its working space is used again for each.
type finder struct {
	g     *grid
	best  []int32 // cost to a state, valid where stamp matches
	from  []int32
	stamp []int32
	turn  int32
	queue visits
	push  bool          // lines in the way may be pushed away
	moved map[int16]int // how often a line has been pushed away
}

type visit struct {
	key       int32 // vertex·4 + direction
	cost, est int32
}

type visits []visit

func (s visits) Len() int { return len(s) }
func (s visits) Less(i, j int) bool {
	if s[i].est != s[j].est {
		return s[i].est < s[j].est
	}
	return s[i].key < s[j].key
}
func (s visits) Swap(i, j int) { s[i], s[j] = s[j], s[i] }
func (s *visits) Push(x any)   { *s = append(*s, x.(visit)) }
func (s *visits) Pop() any {
	old := *s
	x := old[len(old)-1]
	*s = old[:len(old)-1]
	return x
}

func newFinder(g *grid) *finder {
	n := g.w * g.h * 4
	return &finder{g: g, best: make([]int32, n), from: make([]int32, n), stamp: make([]int32, n)}
}

// errand is a route that is looked for.
type errand struct {
	id       int16
	from, to terminal
}

// find gives the cheapest route between two terminals, or nil: A* (Hart,
// Nilsson, Raphael 1968) over vertex and direction, since what a bend costs
// depends on the direction that a vertex was come to in. Steps, bends,
// crossings and tight places cost; the steps that are left at least are the
// estimate.
func (f *finder) find(id int16, from, to terminal) *route {
	e := &errand{id, from, to}
	f.turn++
	f.queue = f.queue[:0]
	goal := map[point]direction{} // last vertex before the end, and the way into it
	for _, d := range to.outs {
		if p := to.at.add(steps[d]); f.g.in(p) {
			goal[p] = (d + 2) % 4
		}
	}
	for _, d := range from.outs {
		p := from.at.add(steps[d])
		if p == to.at && slices.Contains(to.outs, (d+2)%4) {
			return &route{id: id, points: []point{from.at, to.at}, cost: 1}
		}
		f.reach(e, p, d, 1, -1)
	}
	for len(f.queue) > 0 {
		s := heap.Pop(&f.queue).(visit)
		if f.best[s.key] < s.cost {
			continue // it was come to more cheaply since
		}
		v, d := int(s.key/4), direction(s.key%4)
		p := point{v % f.g.w, v / f.g.w}
		if in, ok := goal[p]; ok && (in == d || f.push || f.free(id, v)) {
			return f.trace(id, s, from.at, to.at)
		}
		f.goOn(e, s, p, d)
	}
	return nil
}

// reach notes that a vertex can be come to in a direction at a cost, from
// another state.
func (f *finder) reach(e *errand, p point, d direction, cost, came int32) {
	c, ok := f.enter(e.id, p, d, e.from.keep, e.to.keep)
	if !ok {
		return
	}
	key := int32(f.g.index(p)*4 + int(d))
	cost += c
	if f.stamp[key] == f.turn && f.best[key] <= cost {
		return
	}
	f.stamp[key], f.best[key], f.from[key] = f.turn, cost, came
	est := int32(abs(p.X-e.to.at.X)+abs(p.Y-e.to.at.Y)) + cost
	heap.Push(&f.queue, visit{key, cost, est})
}

// goOn tries every direction from a vertex but back.
func (f *finder) goOn(e *errand, s visit, p point, d direction) {
	v := f.g.index(p)
	for turn := range 4 {
		nd := direction(turn)
		if nd == (d+2)%4 {
			continue
		}
		extra := int32(0)
		if nd != d {
			extra = bendCost
			if !f.free(e.id, v) { // a bend needs the vertex for itself
				if !f.push {
					continue
				}
				extra += f.pushing(e.id, f.g.level[v]) + f.pushing(e.id, f.g.upright[v])
			}
		}
		f.reach(e, p.add(steps[nd]), nd, s.cost+1+extra, s.key)
	}
}

// free reports whether no other line uses a vertex.
func (f *finder) free(id int16, v int) bool {
	return (f.g.level[v] == 0 || f.g.level[v] == id) && (f.g.upright[v] == 0 || f.g.upright[v] == id)
}

// enter says what it costs to come to a vertex in a direction, and whether
// that can be.
func (f *finder) enter(id int16, p point, d direction, keep1, keep2 int16) (int32, bool) {
	g := f.g
	if !g.in(p) {
		return 0, false
	}
	v := g.index(p)
	if g.blocked[v] || g.keep[v] != 0 && g.keep[v] != keep1 && g.keep[v] != keep2 {
		return 0, false
	}
	along, across := g.level[v], g.upright[v]
	if d == up || d == down {
		along, across = across, along
	}
	cost := int32(0)
	if along != 0 && along != id {
		if !f.push {
			return 0, false
		}
		cost += f.pushing(id, along)
	}
	if across != 0 && across != id {
		cost += crossCost
	}
	// Beside a line that runs the same way, or along an obstacle.
	for _, side := range []direction{(d + 1) % 4, (d + 3) % 4} {
		q := p.add(steps[side])
		if !g.in(q) {
			continue
		}
		w := g.index(q)
		beside := g.level[w]
		if d == up || d == down {
			beside = g.upright[w]
		}
		if g.blocked[w] || beside != 0 && beside != id {
			cost += tightCost
		}
	}
	return cost, true
}

// pushing is the cost of pushing a line away.
func (f *finder) pushing(id, other int16) int32 {
	if other == 0 || other == id {
		return 0
	}
	return pushCost * int32(1+f.moved[other])
}

func (f *finder) trace(id int16, s visit, from, to point) *route {
	points := []point{to}
	for key := s.key; key >= 0; key = f.from[key] {
		v := int(key / 4)
		points = append(points, point{v % f.g.w, v / f.g.w})
	}
	points = append(points, from)
	slices.Reverse(points)
	return &route{id: id, points: points, cost: int(s.cost)}
}

func abs(n int) int {
	if n < 0 {
		return -n
	}
	return n
}

// wire is a line to be routed.
type wire struct {
	hops     []point // where its level runs cross upright ones
	id       int16
	from, to *box
	pins     [2]pin
	route    *route
}

// link is the network's link that a wire draws: the ids of wires count from one.
func (w *wire) link() plumbing.LinkID { return plumbing.LinkID(w.id) - 1 }

// wiring routes all lines of a placing. It reports false if one finds no way.
func (p *placing) wiring() ([]*wire, *grid, bool) {
	g, number := p.obstacles()
	wires := p.wires()
	order := slices.Clone(wires)
	// Lines along a row go straight first, then the short ones: they have the
	// fewest ways to choose among.
	slices.SortStableFunc(order, func(a, b *wire) int {
		return cmp.Or(cmp.Compare(a.slant(), b.slant()), cmp.Compare(a.span(), b.span()))
	})
	f := newFinder(g)
	if !f.routeAll(order, number) {
		return nil, nil, false
	}
	f.straighten(order, number)
	return wires, g, true
}

// obstacles is the grid with every box and label blocked and the exit of each
// pin kept for its own box, and the number of each box.
func (p *placing) obstacles() (*grid, map[*box]int16) {
	g, number := newGrid(p.w, p.h), map[*box]int16{}
	for i, b := range p.boxes {
		number[b] = int16(i + 1)
		g.block(rect{b.at.X, b.at.Y, b.w + 1, b.h + 1})
		if b.label.w > 0 {
			g.block(rect{b.label.x, b.label.y, b.label.w + 1, b.label.h + 1})
		}
	}
	for _, b := range p.boxes {
		for _, n := range b.near {
			if pin := b.pins[n.port]; pin.out != anyway {
				if q := b.at.add(pin.at).add(steps[pin.out]); g.in(q) {
					g.keep[g.index(q)] = number[b]
				}
			}
		}
	}
	return g, number
}

// wires are the lines to be routed, in the order of the network's links.
func (p *placing) wires() []*wire {
	var list []*wire
	for i, l := range p.net.AllLinks() {
		if l.Line == nil {
			continue
		}
		a, b := p.net.Nodes[l.A], p.net.Nodes[l.B]
		w := &wire{id: int16(i + 1), from: p.of[a.Part], to: p.of[b.Part]}
		w.pins = [2]pin{w.from.pins[a.Port], w.to.pins[b.Port]}
		list = append(list, w)
	}
	return list
}

// routeAll routes every line as it comes. One that finds no way pushes others
// aside, and those look for another way; each time a line is pushed it costs
// more to push it, so that it settles. It reports false where it does not.
func (f *finder) routeAll(order []*wire, number map[*box]int16) bool {
	f.moved = map[int16]int{}
	byID := map[int16]*wire{}
	for _, w := range order {
		byID[w.id] = w
	}
	queue := slices.Clone(order)
	for tries := 0; len(queue) > 0; tries++ {
		if tries > 12*len(order) {
			return false
		}
		w := queue[0]
		queue = queue[1:]
		ends := [2]terminal{w.terminal(0, number), w.terminal(1, number)}
		f.push = false
		r := f.find(w.id, ends[0], ends[1])
		if r == nil {
			f.push = true
			if r = f.find(w.id, ends[0], ends[1]); r == nil {
				return false
			}
			for _, id := range f.g.inTheWay(r) {
				other := byID[id]
				f.g.wipe(other, order)
				other.route = nil
				f.moved[id]++
				queue = append(queue, other)
			}
		}
		w.route = r
		f.g.mark(r, w.id)
	}
	return true
}

// straighten routes each line twice more with all others in place: what was
// pushed about, or came before others, often finds a straighter way.
func (f *finder) straighten(order []*wire, number map[*box]int16) {
	f.push = false
	for range 2 {
		for _, w := range order {
			f.g.wipe(w, order)
			if r := f.find(w.id, w.terminal(0, number), w.terminal(1, number)); r != nil {
				w.route = r
			}
			f.g.mark(w.route, w.id)
		}
	}
}

// inTheWay lists the lines that a pushing route can't share the grid with.
func (g *grid) inTheWay(r *route) []int16 {
	var list []int16
	add := func(id int16) {
		if id != 0 && id != r.id && !slices.Contains(list, id) {
			list = append(list, id)
		}
	}
	for i := 1; i+1 < len(r.points); i++ {
		p, v := r.points[i], g.index(r.points[i])
		for _, q := range []point{r.points[i-1], r.points[i+1]} {
			if q.Y == p.Y {
				add(g.level[v])
			} else {
				add(g.upright[v])
			}
		}
	}
	return list
}

// wipe takes a line's marks off the grid and puts back those of the lines that
// cross it.
func (g *grid) wipe(w *wire, all []*wire) {
	if w.route == nil {
		return
	}
	g.mark(w.route, 0)
	restore(g, all, w)
}

// restore puts back the marks of lines that cross a wiped one.
func restore(g *grid, all []*wire, wiped *wire) {
	at := map[point]bool{}
	for _, p := range wiped.route.points {
		at[p] = true
	}
	for _, w := range all {
		if w == wiped || w.route == nil {
			continue
		}
		for _, p := range w.route.points {
			if at[p] {
				g.mark(w.route, w.id)
				break
			}
		}
	}
}

func (w *wire) end(i int) point {
	b := w.from
	if i == 1 {
		b = w.to
	}
	return b.at.add(w.pins[i].at)
}

// slant is 0 for a wire whose ends are level, 1 for others.
func (w *wire) slant() int { return min(1, abs(w.end(0).Y-w.end(1).Y)) }

func (w *wire) span() int {
	a, b := w.end(0), w.end(1)
	return abs(a.X-b.X) + abs(a.Y-b.Y)
}

// terminal is an end of a wire: a pin's one way out, or any side of a tee.
func (w *wire) terminal(i int, number map[*box]int16) terminal {
	b := w.from
	if i == 1 {
		b = w.to
	}
	t := terminal{at: w.end(i), keep: number[b]}
	if w.pins[i].out != anyway {
		t.outs = []direction{w.pins[i].out}
		return t
	}
	t.outs = []direction{right, down, left, up}
	return t
}
