package flow

import (
	"cmp"
	"slices"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// selfVenting is the bore from which water and air pass each other.
const selfVenting quantity.Millimetre = 20

// bowlDepth is how far a strainer's bowl hangs below its ports, a usual size.
const bowlDepth quantity.Metre = 0.05

// Left is what stays in a piece of a line or in a part after draining.
type Left struct {
	Link  int            // of the network, -1 for what stands inside an outlet
	Part  *plumbing.Part // the part it stands in, nil for a line
	From  int            // place of the piece along its line, 0 for the first
	Low   quantity.Metre // lowest point of the piece
	Holds quantity.Litre
	Stays quantity.Litre
}

// Reason is why water stays in a place.
type Reason int

// Why water stays.
const (
	Empties    Reason = iota // it does not
	Dips                     // it lies below every way out
	ShutOff                  // a closed handle is between it and the way out
	Behind                   // a check valve or an idle pump is between
	DeadEnd                  // it has an opening at one end only, and no air comes in
	NoWayOut                 // nothing that could be opened lets it out
	HalfClosed               // a mixer that is not left half-way
)

// String tells the reason in running text.
func (r Reason) String() string {
	return [...]string{"empties", "lies below its way out", "shut off by a closed handle", "held behind a check valve or the pump", "gets no air: a dead end", "has no way out", "kept by its mixer unless it is left half-way"}[r]
}

// ID is the id of the line or part a piece belongs to.
func (l Left) ID(n *plumbing.Network) string {
	if l.Part != nil {
		return l.Part.ID
	}
	return n.Links[l.Link].Line.ID
}

// Share is how full the piece is, 0 to 1.
func (l Left) Share() float64 {
	if l.Holds == 0 {
		return 0
	}
	return float64(l.Stays / l.Holds)
}

// Drained says what stays where.
type Drained struct{ Pieces []Left }

// Total is all that stays.
func (d *Drained) Total() (sum quantity.Litre) {
	for _, p := range d.Pieces {
		sum += p.Stays
	}
	return sum
}

// Stays is what stays in a line or part, by its id.
func (d *Drained) Stays(n *plumbing.Network, id string) (sum quantity.Litre) {
	for _, p := range d.Pieces {
		if p.ID(n) == id {
			sum += p.Stays
		}
	}
	return sum
}

// piece is a part of a line between two height points, or a passage.
type piece struct {
	link   int
	place  int
	a, b   int // points
	holds  quantity.Litre
	oneWay bool
	wide   bool
}

// heights is the network cut into pieces between points of known height.
type heights struct {
	net    *plumbing.Network
	z      []float64 // of points; the first are the network's nodes
	pieces []piece
	at     [][]int // pieces at each point
}

// Drain says what water stays in a network that was full, when handles stand
// as in the setting, the pump is off, and water can leave and air come in at
// the openings: open drains, open outlet sides, drained tanks, given as nodes.
//
// A piece can empty only if it lies on a simple way from one opening to
// a lower one, run the way its one-ways pass, or is wide enough to vent
// itself. There water stays below its pour level: the least, over all ways to
// an opening, of the highest point of the way.
func Drain(n *plumbing.Network, s Setting, openings []int) *Drained {
	s.PumpOn = false
	h := newHeights(n, s)
	pour := h.pourLevels(openings)
	moves := h.moving(n, s, openings)
	d := &Drained{}
	for _, p := range h.pieces {
		if p.holds == 0 {
			continue
		}
		low, high := p.a, p.b
		if h.z[low] > h.z[high] {
			low, high = high, low
		}
		left := Left{Link: p.link, Part: n.Links[p.link].Part, From: p.place, Low: quantity.Metre(h.z[low]), Holds: p.holds, Stays: p.holds}
		if moves[p.link] || p.wide && pour[low] <= h.z[high] {
			left.Stays = p.holds * quantity.Litre(share(h.z[low], h.z[high], pour[low]))
		}
		d.Pieces = append(d.Pieces, left)
	}
	d.mixers(n, openings)
	return d
}

// Reasons tells for each piece of d why its water stays, where d is what is
// left in a setting with some openings: whether with every handle open it
// would move, or without the one-ways.
func (d *Drained) Reasons(n *plumbing.Network, s Setting, openings []int) []Reason {
	s.PumpOn = false
	every := Setting{Handles: make([]plumbing.Positions, len(n.Handles))}
	for i, hd := range n.Handles {
		every.Handles[i] = 1<<len(hd.Positions) - 1
	}
	reached := Reach(n, s, Query{From: openings})
	moves := newHeights(n, s).moving(n, s, openings)
	free := newHeights(n, every).moving(n, every, append(slices.Clone(openings), mouths(n)...))
	forced := bothWays(n)
	loose := newHeights(forced, s).moving(forced, s, openings)
	list := make([]Reason, len(d.Pieces))
	for i, p := range d.Pieces {
		switch {
		case p.Stays == 0:
		case p.Link < 0 && p.Part.Kind == plumbing.Outlet:
			list[i] = HalfClosed
		case p.Link < 0:
			list[i] = NoWayOut
		case moves[p.Link]:
			list[i] = Dips
		case loose[p.Link]:
			list[i] = Behind
		case n.Links[p.Link].Handle >= 0 && !s.open(&n.Links[p.Link], Can), free[p.Link]:
			list[i] = ShutOff
		case reached.Node(n.Links[p.Link].A) || reached.Node(n.Links[p.Link].B):
			list[i] = DeadEnd
		default:
			list[i] = NoWayOut
		}
	}
	return list
}

// mouths lists the openings of drains, open or not.
func mouths(n *plumbing.Network) []int {
	var list []int
	for i, node := range n.Nodes {
		if node.Outside && (node.Part.Kind == plumbing.LowPoint || node.Part.Kind == plumbing.FrostValve) {
			list = append(list, i)
		}
	}
	return list
}

// bothWays is the network with its one-ways passing both ways and its pumps
// passing while idle.
func bothWays(n *plumbing.Network) *plumbing.Network {
	c := *n
	c.Links = slices.Clone(n.Links)
	for i := range c.Links {
		c.Links[i].OneWay, c.Links[i].Running = false, false
	}
	return &c
}

// mixers adds what stands inside outlets: it leaves by one side when air comes
// in by the other, or where there is only one side, when that is open.
func (d *Drained) mixers(n *plumbing.Network, openings []int) {
	for _, p := range n.PartsOf(plumbing.Outlet, plumbing.Machine) {
		holds := p.Data.HoldUp.Value()
		if holds == 0 {
			continue
		}
		left := Left{Link: -1, Part: p, Low: p.Place.Height.Value(), Holds: holds}
		for _, side := range []string{"cold", "hot"} {
			node := n.Node(p.ID + "." + side)
			if n.Joined(node) && !slices.Contains(openings, node) {
				left.Stays = holds
			}
		}
		d.Pieces = append(d.Pieces, left)
	}
}

// share is the part of a run from low to high that lies below a level.
func share(low, high, level float64) float64 {
	const level0 = 1e-6
	if high-low < level0 {
		if level > low+level0 {
			return 1
		}
		return 0
	}
	return min(1, max(0, (level-low)/(high-low)))
}

func newHeights(n *plumbing.Network, s Setting) *heights {
	h := &heights{net: n}
	for _, node := range n.Nodes {
		z, ok := node.Part.PortHeight(node.Port)
		if !ok && node.Outside {
			z = node.Part.Place.Height.Value()
		}
		if node.Outside && node.Part.Kind == plumbing.Strainer {
			z -= bowlDepth
		}
		h.z = append(h.z, float64(z))
	}
	for i := range n.Links {
		l := &n.Links[i]
		if l.Line == nil {
			if !s.open(l, Can) || l.Running {
				// A closed passage still holds what it holds.
				h.add(piece{link: i, a: l.A, b: l.A, holds: l.Content})
				continue
			}
			h.add(piece{link: i, a: l.A, b: l.B, holds: l.Content, oneWay: l.OneWay})
			continue
		}
		h.addLine(i, l)
	}
	h.at = make([][]int, len(h.z))
	for i, p := range h.pieces {
		h.at[p.a] = append(h.at[p.a], i)
		if p.b != p.a {
			h.at[p.b] = append(h.at[p.b], i)
		}
	}
	return h
}

func (h *heights) add(p piece) { h.pieces = append(h.pieces, p) }

// addLine cuts a line at its high and low spots.
func (h *heights) addLine(i int, l *plumbing.Link) {
	d, _ := l.Line.InsideDiameter()
	spots := slices.Clone(l.Line.Spots)
	slices.SortFunc(spots, func(a, b plumbing.Spot) int { return cmp.Compare(a.At.Value(), b.At.Value()) })
	length := float64(l.Line.Length.Value())
	from, at := l.A, 0.0
	for k, s := range spots {
		h.z = append(h.z, float64(s.Height.Value()))
		to, end := len(h.z)-1, float64(s.At.Value())
		h.add(piece{link: i, place: k, a: from, b: to, holds: l.Content * quantity.Litre(portion(end-at, length)), wide: d >= selfVenting})
		from, at = to, end
	}
	h.add(piece{link: i, place: len(spots), a: from, b: l.B, holds: l.Content * quantity.Litre(portion(length-at, length)), wide: d >= selfVenting})
}

func portion(part, whole float64) float64 {
	if whole == 0 {
		return 0
	}
	return part / whole
}

// pourLevels is, for each point, the height water must climb to reach an
// opening: a flood from the openings, lowest way first (Barnes, Lehman and
// Mulla, "Priority-flood", 2014). One-ways are passed the way water runs.
func (h *heights) pourLevels(openings []int) []float64 {
	const never = 1e9
	level := make([]float64, len(h.z))
	done := make([]bool, len(h.z))
	for i := range level {
		level[i] = never
	}
	for _, o := range openings {
		level[o] = h.z[o]
	}
	for {
		at := -1
		for i := range level {
			if !done[i] && level[i] < never && (at < 0 || level[i] < level[at]) {
				at = i
			}
		}
		if at < 0 {
			return level
		}
		done[at] = true
		for _, pi := range h.at[at] {
			p := h.pieces[pi]
			from := p.a + p.b - at
			if p.a == p.b || p.oneWay && p.b != at {
				continue // water would have to run backwards
			}
			if l := max(level[at], h.z[from]); l < level[from] {
				level[from] = l
			}
		}
	}
}

// moving marks the links that lie on a simple way from an opening to a lower
// one.
func (h *heights) moving(n *plumbing.Network, s Setting, openings []int) []bool {
	moves := make([]bool, len(n.Links))
	// Openings that are reached from the same nodes are looked at together.
	var sets [][]bool
	set := make([]int, len(openings))
	for i, o := range openings {
		back := behind(n, s, o)
		set[i] = slices.IndexFunc(sets, func(other []bool) bool { return slices.Equal(back, other) })
		if set[i] < 0 {
			set[i] = len(sets)
			sets = append(sets, back)
		}
	}
	ends := make([][]int, len(sets))
	for _, from := range openings {
		reached := Reach(n, s, Query{From: []int{from}})
		for k := range ends {
			ends[k] = ends[k][:0]
		}
		for i, to := range openings {
			if h.z[to] < h.z[from]-1e-6 && reached.Node(to) {
				ends[set[i]] = append(ends[set[i]], to)
			}
		}
		for k, list := range ends {
			if len(list) > 0 {
				sweep(n, s, reached, sets[k], from, list, moves)
			}
		}
	}
	return moves
}
