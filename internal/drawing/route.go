package drawing

import (
	"cmp"
	"context"
	"slices"

	"coldtap/internal/core/plumbing"
)

// Costs of a route, in steps of the grid.
const (
	bendCost  = 5
	crossCost = 14
	tightCost = 1  // beside another line or an obstacle
	pushCost  = 40 // for pushing another line away, and more each time
	looseCost = 10 // for lying on another line, where there is no other way
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

// mark notes a route on the grid.
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
	g      *grid
	best   []int32 // cost to a state, valid where stamp matches
	from   []int32
	stamp  []int32
	done   []int32 // the turn in which a state was looked at
	turn   int32
	queue  visits
	hasty  int32               // how much the way that is left counts for more than the way behind
	push   bool                // lines in the way may be pushed away
	loose  bool                // lines may lie on others: there is no way beside them
	goesOn func(left int) bool // hears how many lines are left, and says whether it is still wanted
	moved  map[int16]int       // how often a line has been pushed away
}

type visit struct {
	key       int32 // vertex·4 + direction
	cost, est int32
}

// visits are states to look at, the most promising on top: a heap of two
// children each.
type visits []visit

func (a visit) before(b visit) bool { return a.est < b.est || a.est == b.est && a.key < b.key }

func (s *visits) push(x visit) {
	q := append(*s, x)
	i := len(q) - 1
	for i > 0 {
		up := (i - 1) / 2
		if !x.before(q[up]) {
			break
		}
		q[i] = q[up]
		i = up
	}
	q[i] = x
	*s = q
}

func (s *visits) pop() visit {
	q := *s
	top, x := q[0], q[len(q)-1]
	q = q[:len(q)-1]
	*s = q
	if len(q) == 0 {
		return top
	}
	i := 0
	for {
		child := 2*i + 1
		if child >= len(q) {
			break
		}
		if child+1 < len(q) && q[child+1].before(q[child]) {
			child++
		}
		if !q[child].before(x) {
			break
		}
		q[i] = q[child]
		i = child
	}
	q[i] = x
	return top
}

func newFinder(g *grid) *finder {
	n := g.w * g.h * 4
	return &finder{g: g, hasty: hasteOf(g.w * g.h), best: make([]int32, n), from: make([]int32, n),
		stamp: make([]int32, n), done: make([]int32, n)}
}

// hasteOf is the weight of what is left: on a large grid a route that is good
// enough is taken, for the best one would be looked for all over it (weighted
// A*: at most that many times as dear as the best; Pohl 1970).
func hasteOf(vertices int) int32 {
	switch {
	case vertices > 150_000:
		return 4
	case vertices > 60_000:
		return 3
	case vertices > 30_000:
		return 2
	}
	return 1
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
	if f.hasty == 1 {
		r, _ := f.search(id, from, to, 0)
		return r
	}
	// On a large grid it takes long to see that there is no way. Mostly it is one end that is
	// shut in, and from there it is seen at once.
	if r, sure := f.search(id, from, to, glance); sure {
		return r
	}
	if r, sure := f.search(id, to, from, glance); sure {
		if r != nil {
			slices.Reverse(r.points)
		}
		return r
	}
	r, _ := f.search(id, from, to, 0)
	return r
}

// glance is how many states are looked at before a search is begun from the other end.
const glance = 20_000

// search is find that gives up, and is not sure, after a number of states; 0 for never.
func (f *finder) search(id int16, from, to terminal, most int) (r *route, sure bool) {
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
			return &route{id: id, points: []point{from.at, to.at}, cost: 1}, true
		}
		f.reach(e, p, d, 1, -1)
	}
	for looked := 0; len(f.queue) > 0; looked++ {
		if most > 0 && looked > most {
			return nil, false
		}
		s := f.queue.pop()
		if f.done[s.key] == f.turn {
			continue // it was come to more cheaply, or as hastily, before
		}
		f.done[s.key] = f.turn
		v, d := int(s.key/4), direction(s.key%4)
		p := point{v % f.g.w, v / f.g.w}
		if in, ok := goal[p]; ok && (in == d || f.push || f.loose || f.free(id, v)) {
			return f.trace(id, s, from.at, to.at), true
		}
		f.goOn(e, s, p, d)
	}
	return nil, true
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
	est := f.hasty*int32(abs(p.X-e.to.at.X)+abs(p.Y-e.to.at.Y)) + cost
	f.queue.push(visit{key, cost, est})
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
				if !f.push && !f.loose {
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
		if !f.push && !f.loose {
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
	if f.loose {
		return looseCost
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
func (p *placing) wiring(ctx context.Context, told func(routed, of int)) ([]*wire, *grid, bool) {
	g, number := p.obstacles()
	wires, order := p.wires()
	f := newFinder(g)
	f.goesOn = func(left int) bool {
		if told != nil {
			told(len(order)-left, len(order))
		}
		return ctx.Err() == nil
	}
	if !f.routeAll(order, number) {
		return nil, nil, false
	}
	f.straighten(order, number)
	return wires, g, ctx.Err() == nil
}

// wiringLoose routes all lines of a placing where not all find a way of their
// own: some lie on others, or run straight over what stands there. Those are
// counted.
func (p *placing) wiringLoose() (wires []*wire, loose int) {
	g, number := p.obstacles()
	wires, order := p.wires()
	f := newFinder(g)
	for _, w := range order {
		ends := [2]terminal{w.terminal(0, number), w.terminal(1, number)}
		f.loose = false
		if w.route = f.find(w.id, ends[0], ends[1]); w.route == nil {
			loose++
			f.loose = true
			if w.route = f.find(w.id, ends[0], ends[1]); w.route == nil {
				w.route = bent(w.id, ends[0].at, ends[1].at)
				continue // it is in nobody's way
			}
		}
		g.mark(w.route, w.id)
	}
	return wires, loose
}

// bent is a route with one bend, whatever stands there.
func bent(id int16, from, to point) *route {
	r := &route{id: id, points: []point{from}}
	for p := from; p != to; {
		switch {
		case p.X < to.X:
			p.X++
		case p.X > to.X:
			p.X--
		case p.Y < to.Y:
			p.Y++
		default:
			p.Y--
		}
		r.points = append(r.points, p)
	}
	return r
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

// wires are the lines to be routed, in the order of the network's links and in
// that in which they are: those along a row go straight first, then the short
// ones, which have the fewest ways to choose among.
func (p *placing) wires() (list, order []*wire) {
	for i, l := range p.net.AllLinks() {
		if l.Line == nil {
			continue
		}
		a, b := p.net.Nodes[l.A], p.net.Nodes[l.B]
		w := &wire{id: int16(i + 1), from: p.of[a.Part], to: p.of[b.Part]}
		w.pins = [2]pin{w.from.pins[a.Port], w.to.pins[b.Port]}
		list = append(list, w)
	}
	order = slices.Clone(list)
	slices.SortStableFunc(order, func(a, b *wire) int {
		return cmp.Or(cmp.Compare(a.slant(), b.slant()), cmp.Compare(a.span(), b.span()))
	})
	return list, order
}

// patience is how many times as many routes are looked for as there are lines
// before another arrangement is tried.
const patience = 12

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
		if tries > patience*len(order) || len(order) > manyLines && tries > patience*len(order)/3 {
			return false
		}
		if !f.goesOn(len(queue)) {
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
				f.g.wipe(other)
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
	rounds := 2
	if f.hasty > 2 {
		rounds = 1
	}
	for range rounds {
		for _, w := range order {
			if !f.goesOn(0) {
				return
			}
			f.g.wipe(w)
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

// wipe takes a line's marks off the grid. Lines that cross it have theirs in
// the other direction; only ends are shared, which are blocked.
func (g *grid) wipe(w *wire) {
	if w.route == nil {
		return
	}
	for _, p := range w.route.points {
		v := g.index(p)
		if g.level[v] == w.id {
			g.level[v] = 0
		}
		if g.upright[v] == w.id {
			g.upright[v] = 0
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
