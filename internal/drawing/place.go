package drawing

import (
	"cmp"
	"math"
	"slices"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// band is the row a part stands in, from top to bottom.
type band int

const (
	inletBand  band = iota // where water comes in; vents
	trunkBand              // pump and cold trunk
	branchBand             // what branches off the cold trunk before an outlet; bypass tubes
	fixedBand              // tank, heater, outlets
	hotBand                // hot trunk
	drainBand              // drains
	footBand               // what no water line reaches: plate handles, waste tanks
	bands
)

// box is a placed part.
type box struct {
	part  *plumbing.Part
	sym   symbol
	band  band
	turn  orientation
	seed  float64 // first guess of the order along the row
	x     float64 // centre while rows are packed, in cells
	at    point   // top left, in cells, when placed
	w, h  int
	pins  map[string]pin
	no    int      // place number, 0 for none
	lines []string // label
	label rect     // where the label stands, in cells
	near  []neighbour
	sets  []*box // valves that a plate handle drives: it stands near them
	depth int    // lines from where water comes in
	order int    // in its row, while boxes are exchanged
}

// tee reports whether a box is a mere joint of lines, drawn as a dot.
func (b *box) tee() bool { return b.part.Kind.Info().Mere }

// neighbour is a box at the other end of a line.
type neighbour struct {
	box            *box
	port, opposite string // own port, the other's port
}

type rect struct{ x, y, w, h int }

func (r rect) overlaps(o rect) bool {
	return r.x < o.x+o.w && o.x < r.x+r.w && r.y < o.y+o.h && o.y < r.y+r.h
}

// with is the smallest rect around both; an empty one adds nothing.
func (r rect) with(o rect) rect {
	if o.w == 0 {
		return r
	}
	x, y := min(r.x, o.x), min(r.y, o.y)
	return rect{x, y, max(r.x+r.w, o.x+o.w) - x, max(r.y+r.h, o.y+o.h) - y}
}

// placing arranges the boxes of a network in rows.
type placing struct {
	net    *plumbing.Network
	boxes  []*box
	of     map[*plumbing.Part]*box
	edges  [][2]*box // what each line joins
	rows   [bands][]*box
	middle float64 // of all boxes, while rows are packed
	gap    int     // extra room between rows and columns, raised when routing fails
	w, h   int
}

// drawn reports whether a kind stands in the schematic; a trap has no line.
func drawn(k plumbing.Kind) bool { return k.Info().Glyph != "" }

// boxesOf are the boxes of a network, not yet placed.
func boxesOf(n *plumbing.Network, gap int) *placing {
	p := &placing{net: n, of: map[*plumbing.Part]*box{}, gap: gap}
	numbers := n.Model.Numbers()
	for i := range n.Model.Parts {
		part := &n.Model.Parts[i]
		if drawn(part.Kind) {
			p.boxes = append(p.boxes, &box{part: part, sym: symbolOf(part, numbers[part.ID]), no: numbers[part.ID]})
		}
	}
	slices.SortFunc(p.boxes, func(a, b *box) int { return cmp.Compare(a.part.ID, b.part.ID) })
	for _, b := range p.boxes {
		p.of[b.part] = b
	}
	for i := range n.AllLinks() {
		if l := &n.Links[i]; l.Line != nil {
			a, b := p.of[n.Nodes[l.A].Part], p.of[n.Nodes[l.B].Part]
			p.edges = append(p.edges, [2]*box{a, b})
			a.near = append(a.near, neighbour{b, n.Nodes[l.A].Port, n.Nodes[l.B].Port})
			b.near = append(b.near, neighbour{a, n.Nodes[l.B].Port, n.Nodes[l.A].Port})
		}
	}
	return p
}

func place(n *plumbing.Network, gap int) *placing {
	p := boxesOf(n, gap)
	p.bands()
	p.seed()
	for _, b := range p.boxes {
		if b.band != branchBand && b.inline() {
			b.sym.turns = mirrored // along its row
		}
		b.turn = b.sym.turns[0]
		b.measure()
	}
	p.settle()
	for _, b := range p.boxes {
		b.orient()
		b.measure()
	}
	p.settle()
	for _, b := range p.boxes {
		b.orderPins()
	}
	p.finish()
	return p
}

// bands gives every part its row.
func (p *placing) bands() {
	for _, b := range p.boxes {
		b.band = p.bandOf(b)
	}
	p.bypassBands()
	p.subTrunks()
	for _, b := range p.boxes {
		if b.sets = p.setBy(b); b.sets == nil {
			p.rows[b.band] = append(p.rows[b.band], b)
		}
	}
}

// bandOfRole is the row of a part that has one whatever is joined to it.
var bandOfRole = map[plumbing.Role]band{
	plumbing.RoleInlet: inletBand, plumbing.RoleFill: inletBand, plumbing.RoleVent: inletBand,
	plumbing.RoleAccumulator: inletBand, plumbing.RoleRelief: inletBand,
	plumbing.RoleTank: fixedBand, plumbing.RoleHeater: fixedBand, plumbing.RoleOutlet: fixedBand,
	plumbing.RoleMachine: fixedBand, plumbing.RolePickUp: fixedBand,
	plumbing.RoleDrain: drainBand, plumbing.RoleFrost: drainBand,
	plumbing.RoleWaste: footBand, plumbing.RoleRinse: footBand, plumbing.RoleSelector: footBand,
}

func (p *placing) bandOf(b *box) band {
	if own, ok := bandOfRole[b.part.Role()]; ok {
		return own
	}
	hot, other := 0, 0
	for _, l := range p.linesAt(b) {
		if l.Side == plumbing.Hot {
			hot++
		} else if l.Side != plumbing.Drain {
			other++
		}
	}
	switch {
	case hot > 0 && other == 0:
		return hotBand
	case hot > 0:
		return branchBand
	default:
		return trunkBand
	}
}

func (p *placing) linesAt(b *box) []*plumbing.Line {
	var list []*plumbing.Line
	for i, node := range p.net.AllNodes() {
		if node.Part != b.part {
			continue
		}
		for _, li := range p.net.Nodes[i].Links {
			if l := p.net.Links[li].Line; l != nil {
				list = append(list, l)
			}
		}
	}
	return list
}

// bypassBands puts what stands in series with a heater beside it, and the two
// junctions and whatever joins them above it, so that a bypass looks like one.
func (p *placing) bypassBands() {
	for _, h := range p.boxes {
		if h.part.Role() != plumbing.RoleHeater {
			continue
		}
		cold, hot := p.inSeries(h, "cold"), p.inSeries(h, "hot")
		if cold == nil || hot == nil || cold == hot {
			continue
		}
		for _, b := range p.shortest(cold, hot, h, 3) {
			if b.band != fixedBand {
				b.band = branchBand
			}
		}
	}
}

// inSeries follows a heater's port through parts with two lines, puts them
// beside the heater, and gives the first part with more.
func (p *placing) inSeries(h *box, port string) *box {
	prev, at := h, (*box)(nil)
	for _, n := range h.near {
		if n.port == port {
			at = n.box
		}
	}
	for range 4 {
		if at == nil || at.band == fixedBand || at.band == drainBand {
			return nil
		}
		if len(at.near) != 2 {
			if at.part.Role() != plumbing.RoleJunction {
				at.band = fixedBand
			}
			return at
		}
		at.band = fixedBand
		next := at.near[0].box
		if next == prev {
			next = at.near[1].box
		}
		prev, at = at, next
	}
	return nil
}

// shortest gives the boxes on a shortest way between two, both included,
// that avoids one box; nil if it has more than limit lines.
func (p *placing) shortest(from, to, avoid *box, limit int) []*box {
	prev := map[*box]*box{from: from}
	queue := []*box{from}
	for len(queue) > 0 {
		at := queue[0]
		queue = queue[1:]
		if at == to {
			break
		}
		for _, n := range at.near {
			if prev[n.box] == nil && n.box != avoid {
				prev[n.box] = at
				queue = append(queue, n.box)
			}
		}
	}
	if prev[to] == nil {
		return nil
	}
	way := []*box{to}
	for at := to; at != from; at = prev[at] {
		way = append(way, prev[at])
	}
	if len(way)-1 > limit {
		return nil
	}
	return way
}

// subTrunks moves tees that are no part of the longest run along the trunk to
// the row of branches, so that the trunk is a straight line above them.
func (p *placing) subTrunks() {
	depth := p.depths()
	for _, b := range p.boxes {
		b.depth = depth[b]
	}
	for _, b := range p.boxes {
		if b.band != trunkBand || !b.tee() {
			continue
		}
		// A tee that only feeds outlets, itself fed by a tee that goes on.
		var feed *box
		ends := true
		for _, n := range b.near {
			if depth[n.box] < depth[b] {
				feed = n.box
			} else if n.box.band == trunkBand {
				ends = false
			}
		}
		if feed == nil || !ends || !feed.tee() || feed.band != trunkBand {
			continue
		}
		for _, n := range feed.near {
			if n.box == b || n.box.band != trunkBand || depth[n.box] <= depth[feed] {
				continue
			}
			other, own := p.size(n.box, feed, depth), p.size(b, feed, depth)
			if other > own || other == own && n.box.part.ID < b.part.ID {
				b.band = branchBand
				break
			}
		}
	}
}

// size counts the trunk parts beyond b as seen from its feed.
func (p *placing) size(b, from *box, depth map[*box]int) int {
	n := 1
	for _, x := range b.near {
		if x.box != from && x.box.band == trunkBand && depth[x.box] > depth[b] {
			n += p.size(x.box, b, depth)
		}
	}
	return n
}

// depths counts lines and passages from where water comes in, through the
// handles' normal positions first, then through everything: what is used every
// day runs left to right, what is turned to hangs beside it.
func (p *placing) depths() map[*box]int {
	w := &depthWalk{depth: map[*box]int{}}
	for _, b := range p.boxes {
		switch b.part.Role() {
		case plumbing.RoleTank, plumbing.RoleFill, plumbing.RoleRinse:
			w.push(b, 0)
		}
	}
	open := p.usual()
	w.walk(func(a, b *box) bool { return open[[2]*box{a, b}] })
	for _, b := range p.boxes { // from all that has been come to, and the other ways in
		if _, seen := w.depth[b]; seen {
			w.queue = append(w.queue, b)
		}
	}
	for _, b := range p.boxes {
		if b.part.Role() == plumbing.RoleInlet || b.part.Role() == plumbing.RolePickUp {
			w.push(b, 0)
		}
	}
	w.walk(func(*box, *box) bool { return true })
	for _, b := range p.boxes { // what nothing leads to
		w.push(b, 0)
	}
	return w.depth
}

// depthWalk counts steps, breadth first.
type depthWalk struct {
	depth map[*box]int
	queue []*box
}

func (w *depthWalk) push(b *box, d int) {
	if _, seen := w.depth[b]; !seen {
		w.depth[b] = d
		w.queue = append(w.queue, b)
	}
}

func (w *depthWalk) walk(leads func(a, b *box) bool) {
	for len(w.queue) > 0 {
		at := w.queue[0]
		w.queue = w.queue[1:]
		for _, n := range at.near {
			if leads(at, n.box) {
				w.push(n.box, w.depth[at]+1)
			}
		}
	}
}

// usual is which boxes follow which by a line that water from the tanks takes
// while every handle stands as it normally does.
func (p *placing) usual() map[[2]*box]bool {
	s := state.Normal(p.net)
	s.Pumps = state.AllPumps(p.net)
	var from []plumbing.NodeID
	for i, n := range p.net.AllNodes() {
		if n.Part.Role() == plumbing.RoleTank {
			from = append(from, i)
		}
	}
	r := flow.Reach(p.net, s, flow.Query{From: from})
	follows := map[[2]*box]bool{}
	for _, l := range p.net.AllLinks() {
		if l.Line == nil || !r.Node(l.A) || !r.Node(l.B) {
			continue
		}
		a, b := p.of[p.net.Nodes[l.A].Part], p.of[p.net.Nodes[l.B].Part]
		if len(r.Path(l.A)) >= len(r.Path(l.B)) {
			a, b = b, a
		}
		follows[[2]*box{a, b}] = true
	}
	return follows
}

// seed walks the tree of depths so that small branches come before the run
// that goes on: the order of the walk is the first guess from left to right.
func (p *placing) seed() {
	depth := p.depths()
	children := map[*box][]*box{}
	claimed := map[*box]bool{}
	byDepth := slices.Clone(p.boxes)
	slices.SortStableFunc(byDepth, func(a, b *box) int { return cmp.Compare(depth[a], depth[b]) })
	for _, b := range byDepth {
		if depth[b] == 0 {
			claimed[b] = true
		}
	}
	for _, b := range byDepth {
		for _, n := range b.near {
			if !claimed[n.box] && depth[n.box] == depth[b]+1 {
				claimed[n.box] = true
				children[b] = append(children[b], n.box)
			}
		}
	}
	weight := map[*box]int{}
	for _, b := range slices.Backward(byDepth) {
		if b.band != hotBand { // the hot trunk follows its outlets
			weight[b]++
		}
		for _, c := range children[b] {
			weight[b] += weight[c]
		}
	}
	count := 0.0
	var walk func(b *box)
	walk = func(b *box) {
		b.seed = count
		count++
		slices.SortStableFunc(children[b], func(x, y *box) int { return cmp.Compare(weight[x], weight[y]) })
		for _, c := range children[b] {
			walk(c)
		}
	}
	for _, b := range byDepth {
		if depth[b] == 0 && b.part.Role() == plumbing.RoleTank {
			walk(b)
		}
	}
	for _, b := range byDepth {
		if depth[b] == 0 && b.part.Role() != plumbing.RoleTank {
			switch {
			case len(b.near) == 0:
				b.seed = float64(len(p.boxes)) / 2
			case weight[b] == 1:
				b.seed = b.near[0].box.seed - 0.5
			default: // a system of its own, like a rinse line: kept near the middle
				count = float64(len(p.boxes)) / 2
				walk(b)
			}
		}
	}
	for _, b := range p.boxes {
		b.x = b.seed * 3
	}
}

// inline reports whether a line runs straight through the part.
func (b *box) inline() bool {
	return len(b.part.Ports()) == 2 && len(b.sym.turns) == len(alongside)
}

// measure sets the box's size, pins and label lines for its orientation.
func (b *box) measure() {
	b.w, b.h, b.pins = b.sym.turnedBox(b.turn)
	b.lines = nil
	if !b.tee() {
		b.lines = numberedText(b.no, b.part.Name, b.sym.wrap)
	}
}

// room is the width a box takes in its row, label included, in cells.
func (b *box) room() int {
	w := b.w
	if !b.sym.in {
		label := cellsOf(b.labelWidth())
		if b.besideLabel() {
			w = b.w + 2*(label+1) // kept symmetric about the symbol
		} else {
			w = max(w, label)
		}
	}
	return w
}

// labelWidth is the room of the label across, with the number before its first
// line.
func (b *box) labelWidth() float64 {
	if len(b.lines) == 0 {
		return 0
	}
	return max(textWidth(longest(b.lines), labelSize), textWidth(b.lines[0], labelSize)+b.numberWidth())
}

// numberWidth is the room of the number before a label, at the size it has where
// names are smallest.
func (b *box) numberWidth() float64 {
	if b.no == 0 {
		return 0
	}
	return textWidth(itoa(b.no)+" ", numberSize)
}

// besideLabel reports whether the label stands to the right of the symbol:
// where a line runs through it from top to bottom.
func (b *box) besideLabel() bool {
	return !b.sym.in && len(b.lines) > 0 && b.leaves(up) && b.leaves(down)
}

// leaves reports whether a line leaves the box in a direction.
func (b *box) leaves(d direction) bool {
	return slices.ContainsFunc(b.near, func(n neighbour) bool { return b.pins[n.port].out == d })
}

// settle orders and packs the rows: boxes are drawn towards their neighbours,
// keep their order and never overlap.
func (p *placing) settle() {
	for r := range p.rows {
		slices.SortStableFunc(p.rows[r], func(a, b *box) int { return cmp.Compare(a.x, b.x) })
	}
	for round := range 120 {
		p.middle = 0
		for _, b := range p.boxes {
			p.middle += b.x / float64(len(p.boxes))
		}
		for r := range p.rows {
			p.pack(p.rows[r], round < 40)
		}
		if round%4 == 3 && round < 40 {
			p.swap()
		}
	}
}

// pull is where a box would stand if it were alone.
func (b *box) pull(stay bool, middle float64) float64 {
	const gravity = 0.04 // towards the middle, so that nothing drifts apart
	sum, weight := gravity*middle, gravity
	for _, n := range b.near {
		w := 1.0
		if n.box.band == b.band {
			w = 0.3
		}
		own, other := b.pins[n.port], n.box.pins[n.opposite]
		target := n.box.x + float64(other.at.X) - float64(n.box.w)/2 - (float64(own.at.X) - float64(b.w)/2)
		sum += w * target
		weight += w
	}
	if stay || len(b.near) == 0 {
		sum += 0.5 * b.x
		weight += 0.5
	}
	return sum / weight
}

// pack places a row in its order so that the sum of squared distances from
// where each box wants to be is least (pool adjacent violators).
func (p *placing) pack(row []*box, stay bool) {
	type pool struct {
		sum    float64
		n      int
		offset []float64
		boxes  []*box
	}
	var pools []pool
	mean := func(q pool) float64 { return q.sum / float64(q.n) }
	for _, b := range row {
		q := pool{sum: b.pull(stay, p.middle), n: 1, offset: []float64{0}, boxes: []*box{b}}
		for len(pools) > 0 {
			last := pools[len(pools)-1]
			shift := last.offset[len(last.offset)-1] + p.apart(last.boxes[len(last.boxes)-1], q.boxes[0])
			if mean(last)+shift <= mean(q) {
				break
			}
			for i := range q.offset {
				q.offset[i] += shift
			}
			last.sum += q.sum - shift*float64(q.n)
			last.n += q.n
			last.offset = append(last.offset, q.offset...)
			last.boxes = append(last.boxes, q.boxes...)
			q, pools = last, pools[:len(pools)-1]
		}
		pools = append(pools, q)
	}
	for _, q := range pools {
		for i, b := range q.boxes {
			b.x = mean(q) + q.offset[i]
		}
	}
}

// apart is the least distance between the centres of two boxes side by side.
func (p *placing) apart(a, b *box) float64 {
	space := 2 + p.gap
	if a.tee() && b.tee() {
		space = 3 + p.gap
	} else if !a.tee() && !b.tee() && (!a.sym.in || !b.sym.in) {
		space++
	}
	return float64(a.room()+b.room())/2 + float64(space)
}

// swap exchanges neighbours in a row where that shortens the lines, saves
// crossings or lets fewer lines of the row run past other boxes of it.
func (p *placing) swap() {
	for r := range p.rows {
		row := p.rows[r]
		for i, b := range row {
			b.order = i
		}
		for range 2 {
			for i := 0; i+1 < len(row); i++ {
				a, b := row[i], row[i+1]
				before := p.cost(a, b) + passes(a, b)
				a.x, b.x = b.x, a.x
				a.order, b.order = i+1, i
				if p.cost(a, b)+passes(a, b) >= before-1e-9 {
					a.x, b.x = b.x, a.x
					a.order, b.order = i, i+1
				} else {
					row[i], row[i+1] = b, a
				}
			}
		}
	}
}

// cost is the length of the lines at two boxes and the crossings they make,
// as if lines were straight.
func (p *placing) cost(first, second *box) float64 {
	total := 0.0
	for _, n := range first.near {
		total += math.Abs(first.x-n.box.x) + crossing*float64(p.crossings(first, n.box))
	}
	for _, n := range second.near {
		if n.box != first {
			total += math.Abs(second.x-n.box.x) + crossing*float64(p.crossings(second, n.box))
		}
	}
	return total
}

// crossing is what a crossing costs, in cells.
const crossing = 8

// crossings counts the lines that a straight line between two boxes crosses.
func (p *placing) crossings(a, b *box) (count int) {
	left, right := min(a.x, b.x), max(a.x, b.x)
	top, low := min(a.band, b.band), max(a.band, b.band)
	for i := range p.edges {
		c, d := p.edges[i][0], p.edges[i][1]
		// Most lie wholly beside it.
		if c.x <= left && d.x <= left || c.x >= right && d.x >= right ||
			c.band <= top && d.band <= top || c.band >= low && d.band >= low {
			continue
		}
		if c != a && c != b && d != a && d != b && crosses(a, b, c, d) {
			count++
		}
	}
	return count
}

// passes counts, for the lines of two boxes within their row, the boxes they
// must get past, and the lines in which water would run from right to left.
func passes(first, second *box) float64 {
	n := 0
	for _, b := range [2]*box{first, second} {
		for _, x := range b.near {
			if x.box.band != b.band || x.box.sets != nil || b == second && x.box == first {
				continue
			}
			from, to := b, x.box
			if from.order > to.order {
				from, to = to, from
			}
			n += to.order - from.order - 1
			if to.depth < from.depth {
				n += 3
			}
		}
	}
	return float64(n) * 12
}

func crosses(a, b, c, d *box) bool {
	side := func(p, q, r *box) float64 {
		return (q.x-p.x)*float64(r.band-p.band) - float64(q.band-p.band)*(r.x-p.x)
	}
	return side(a, b, c)*side(a, b, d) < 0 && side(c, d, a)*side(c, d, b) < 0
}

// orient picks the orientation whose pins look towards the neighbours.
func (b *box) orient() {
	best := math.Inf(1)
	for i, o := range b.sym.turns {
		_, _, pins := b.sym.turnedBox(o)
		cost := 0.05 * float64(i)
		for _, n := range b.near {
			out := pins[n.port].out
			if out == anyway {
				continue
			}
			dx, dy := n.box.x-b.x, 9*float64(n.box.band-b.band)
			if d := math.Hypot(dx, dy); d > 0 {
				cost += 1 - (dx*float64(steps[out].X)+dy*float64(steps[out].Y))/d
			}
		}
		if cost < best-1e-9 {
			best, b.turn = cost, o
		}
	}
}

// orderPins gives a manifold's outlets their places in the order of what they
// lead to, so that its lines fan out without crossing.
func (b *box) orderPins() {
	if b.part.Data.Ways == 0 {
		return
	}
	var ports []neighbour
	var places []pin
	for _, n := range b.near {
		if n.port != "in" {
			ports = append(ports, n)
			places = append(places, b.pins[n.port])
		}
	}
	slices.SortStableFunc(ports, func(x, y neighbour) int { return cmp.Compare(x.box.x, y.box.x) })
	slices.SortFunc(places, func(x, y pin) int { return cmp.Compare(x.at.X, y.at.X) })
	for i, n := range ports {
		b.pins[n.port] = places[i]
	}
}

// finish turns rows into places on the grid and sets the labels.
func (p *placing) finish() {
	minX := math.Inf(1)
	for _, b := range p.boxes {
		if b.sets == nil {
			minX = math.Min(minX, b.x-float64(b.room())/2)
		}
	}
	y := 3
	for r := range p.rows {
		row := p.rows[r]
		if len(row) == 0 {
			continue
		}
		above, below := 0, 0
		for _, b := range row {
			labelled := 0
			if !b.sym.in && !b.besideLabel() && len(b.lines) > 0 {
				labelled = cellsOf(float64(len(b.lines))*labelHeight) + 1
			}
			up := b.h / 2
			low := b.h - up
			if b.labelBelow() {
				low += labelled
			} else {
				up += labelled
			}
			above, below = max(above, up), max(below, low)
		}
		y += above
		for _, b := range row {
			b.at = point{int(math.Round(b.x-minX-float64(b.w)/2)) + 3, y - b.h/2}
			b.setLabel()
		}
		y += below + 3 + p.gap + p.tracks(band(r))
	}
	p.unstack()
	p.straighten()
	p.plates()
	if p.gap > 0 {
		p.h = y // with the tracks below the last row
	}
	for _, b := range p.boxes {
		p.w = max(p.w, b.at.X+b.w+3, b.label.x+b.label.w+2)
		p.h = max(p.h, b.at.Y+b.h+3, b.label.y+b.label.h+2)
	}
}

// tracks is the room for level runs below a row: a share of the lines that
// pass between it and the rows below, and, where there was too little, of those
// within the row.
func (p *placing) tracks(r band) int {
	n, within := 0, 0
	for i, b := range p.rows[r] {
		b.order = i
	}
	for _, b := range p.rows[r] {
		for _, x := range b.near {
			switch {
			case x.box.band > r:
				n++
			case x.box.band == r && x.box.order > b.order+1: // past other boxes of the row
				within++
			}
		}
	}
	return n/5 + within*p.gap/4
}

// unstack mends what rounding to the grid has made touch.
func (p *placing) unstack() {
	for r := range p.rows {
		row := p.rows[r]
		for i := 1; i < len(row); i++ {
			for row[i-1].frame().overlaps(row[i].frame()) {
				for _, b := range row[i:] {
					b.at.X++
					b.setLabel()
				}
			}
		}
	}
}

// straighten moves tees along their row to stand right above or below a pin
// they are joined to, where there is room.
func (p *placing) straighten() {
	for _, row := range p.rows {
		for i, b := range row {
			if !b.tee() {
				continue
			}
			low, high := math.MinInt, math.MaxInt
			if i > 0 {
				f := row[i-1].frame()
				low = f.x + f.w + 2
			}
			if i+1 < len(row) {
				high = row[i+1].frame().x - 3
			}
			best := math.MaxInt
			for _, n := range b.near {
				pin := n.box.pins[n.opposite]
				x := n.box.at.X + pin.at.X
				if n.box.band != b.band && (pin.out == up || pin.out == down) && x >= low && x <= high &&
					abs(x-b.at.X) < abs(best-b.at.X) {
					best = x
				}
			}
			if best != math.MaxInt {
				b.at.X = best
			}
		}
	}
}

// frame is the box with its label and a margin, for keeping boxes apart.
func (b *box) frame() rect {
	r := rect{b.at.X, b.at.Y, b.w + 1, b.h + 1}.with(b.label)
	r.w++
	return r
}

// labelBelow reports whether the label stands below the symbol: where no line
// leaves it downwards, if there is a choice.
func (b *box) labelBelow() bool {
	if b.leaves(up) == b.leaves(down) {
		return b.band >= hotBand
	}
	return b.leaves(up)
}

func (b *box) setLabel() {
	if b.sym.in || len(b.lines) == 0 {
		b.label = rect{}
		return
	}
	w, h := cellsOf(b.labelWidth()), cellsOf(float64(len(b.lines))*labelHeight)
	switch {
	case b.besideLabel():
		b.label = rect{b.at.X + b.w + 2, b.at.Y + (b.h-h)/2, w, h}
		if b.leaves(right) {
			b.label.x = b.at.X - w - 2
		}
	case b.labelBelow():
		b.label = rect{b.at.X + (b.w-w)/2, b.at.Y + b.h + 1, w, h}
	default:
		b.label = rect{b.at.X + (b.w-w)/2, b.at.Y - h - 1, w, h}
	}
}
