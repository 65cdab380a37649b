package flow

import (
	"encoding/binary"
	"fmt"
	"maps"
	"slices"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// Left is what stays in a piece of a line or in a part after draining.
type Left struct {
	Piece  plumbing.PieceID
	Link   plumbing.LinkID // None for a vessel and for what stands inside an outlet
	Part   *plumbing.Part  // the part it stands in, nil for a line
	From   int             // place of the piece along its line, 0 for the first
	Low    quantity.Metre  // lowest point of the piece
	holds  quantity.Litre
	stays  quantity.Litre
	Vessel bool // a tank or a storage heater
	// Unknown says that nobody gave the heights between which it lies: what
	// stays is not known, and counts as all of it.
	Unknown bool
	moved   bool // it lies on a way between two openings

	net *plumbing.Network
}

// Holds is what the piece holds when it is full.
func (l *Left) Holds() quantity.Litre {
	l.net.Holds(l.Piece) // which notes that it is read
	return l.holds
}

// Stays is what stays of it.
func (l *Left) Stays() quantity.Litre {
	l.net.Holds(l.Piece)
	return l.stays
}

// Keep says otherwise what stays.
func (l *Left) Keep(v quantity.Litre) { l.stays = v }

// InLink reports whether it stands in a link of the network: a piece of a line
// or what a small part holds.
func (l *Left) InLink() bool { return l.Link >= 0 }

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
	Heel                     // of a vessel, below its drain
	NotKnown                 // nobody gave its height
)

// String is the reason's id in the catalogue of words.
func (r Reason) String() string {
	return [...]string{"empties", "dips", "shut-off", "behind", "dead-end", "no-way-out", "half-closed", "heel",
		"not-known"}[r]
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
	if l.holds == 0 {
		return 0
	}
	return float64(l.stays / l.holds)
}

// Drained says what stays where.
type Drained struct {
	Pieces []Left
	// Unknown lists the parts whose height nobody gave: they are taken to
	// stand as high as what is beside them.
	Unknown []*plumbing.Part

	openings []plumbing.NodeID
}

// Clone is a copy whose pieces may be changed.
func (d *Drained) Clone() *Drained {
	c := *d
	c.Pieces = slices.Clone(d.Pieces)
	return &c
}

// Total is all that stays, in tanks and heaters too.
func (d *Drained) Total() (sum quantity.Litre) {
	for _, p := range d.Pieces {
		sum += p.Stays()
	}
	return sum
}

// Outside is all that stays but for what stands in the tanks.
func (d *Drained) Outside() (sum quantity.Litre) {
	for _, p := range d.Pieces {
		if p.Part == nil || p.Part.Role() != plumbing.RoleTank {
			sum += p.Stays()
		}
	}
	return sum
}

// Stays is what stays in a line or part, by its id.
func (d *Drained) Stays(n *plumbing.Network, id string) (sum quantity.Litre) {
	for _, p := range d.Pieces {
		if p.ID(n) == id {
			sum += p.Stays()
		}
	}
	return sum
}

// Drain says what water stays in a network that was full when it stands in
// a state, its pumps off, and water leaves and air comes in at the state's
// openings.
//
// A piece can empty only if it lies on a simple way from one opening to
// a lower one, run the way its one-ways pass, or is wide enough to vent
// itself. There water stays below its pour level: the least, over all ways to
// that lower opening, of the highest point of the way, and above it by what
// the check valves on the way of the water and of the air need to open. Tanks
// and storage heaters empty by whichever port lets most out, and keep their
// heel.
func Drain(n *plumbing.Network, s state.State) *Drained {
	if s.Contents != nil {
		return drain(n, s, state.Can, Openings(n, s))
	}
	return plumbing.Remember(n, drainKey(s), func() *Drained { return drain(n, s, state.Can, Openings(n, s)) })
}

// drained is a state by all that draining asks of it.
type drained string

// drainKey is the same for states that drain alike.
func drainKey(s state.State) drained {
	b := make([]byte, 0, 8*len(s.Handles))
	for _, h := range s.Handles {
		b = binary.AppendUvarint(b, uint64(h))
	}
	b = append(b, '|')
	for _, side := range slices.Sorted(maps.Keys(s.Open)) {
		if s.Open[side] {
			b = binary.AppendUvarint(b, uint64(side))
		}
	}
	b = append(b, '|')
	for _, mouth := range slices.Sorted(maps.Keys(s.Joined)) {
		b = binary.AppendUvarint(b, uint64(mouth))
		b = append(b, byte(s.Joined[mouth].Kind))
	}
	b = fmt.Appendf(b, "|%v", s.Attitude)
	return drained(b)
}

// DrainWorst is Drain with handles that may stand in several positions: what
// stays at most, however they stand.
func DrainWorst(n *plumbing.Network, s state.State) *Drained {
	return drain(n, s, state.Must, openingsOf(n, s, state.Must))
}

func drain(n *plumbing.Network, s state.State, v state.View, openings []plumbing.NodeID) *Drained {
	s.Pumps = 0
	l := levelsFor(n, s, v, openings)
	d := &Drained{openings: openings}
	for _, id := range l.unknown {
		d.Unknown = append(d.Unknown, n.Model.Part(id))
	}
	for _, x := range l.runs {
		piece := &n.Pieces[x.piece]
		if piece.Holds == 0 {
			n.Holds(x.piece) // which notes that it is read: more would stay in it
			continue
		}
		left := newLeft(n, x.piece, x.low)
		left.stays, left.moved = piece.Holds*quantity.Litre(x.share), x.moved
		d.Pieces = append(d.Pieces, left)
	}
	for _, x := range l.vessels {
		holds := n.Pieces[x.piece].Holds
		left := newLeft(n, x.piece, x.low)
		left.moved = x.moved
		left.stays = min(holds, max(plumbing.Field(n, &left.Part.Data.Heel).Value(), holds*quantity.Litre(x.share)))
		d.Pieces = append(d.Pieces, left)
	}
	d.unknown(n)
	d.mixers(n, openings)
	slices.SortFunc(d.Pieces, func(a, b Left) int { return int(a.Piece - b.Piece) })
	for i := range d.Pieces { // there is no more of it than there was
		p := &d.Pieces[i]
		p.stays = min(p.stays, p.holds*quantity.Litre(s.Contents.Share(p.Piece)))
	}
	return d
}

// newLeft is a piece that is full.
func newLeft(n *plumbing.Network, id plumbing.PieceID, low float64) Left {
	x := &n.Pieces[id]
	return Left{net: n, Piece: id, Link: x.Link, Part: x.Part, From: x.Place, Low: quantity.Metre(low), holds: x.Holds,
		stays: x.Holds, Vessel: x.Vessel}
}

// Contents is what stands in every piece once a system that was filled with
// a fluid is drained.
func (d *Drained) Contents(f state.Fluid) state.Contents {
	c := state.Contents{}
	for i := range d.Pieces {
		c[d.Pieces[i].Piece] = state.Content{Fluid: f, Share: d.Pieces[i].Share()}
	}
	return c
}

// unknown takes back what was worked out of heights that nobody gave: a piece
// both ends of which lack one, a vessel that lacks its own.
func (d *Drained) unknown(n *plumbing.Network) {
	for i := range d.Pieces {
		p := &d.Pieces[i]
		if p.Vessel {
			p.Unknown = slices.Contains(d.Unknown, p.Part)
		} else {
			l := &n.Links[p.Link]
			p.Unknown = slices.Contains(d.Unknown, n.Nodes[l.A].Part) && slices.Contains(d.Unknown, n.Nodes[l.B].Part)
		}
		if p.Unknown {
			p.stays, p.moved = p.holds, false
		}
	}
}

// Reasons tells for each piece of d why its water stays, where d is what is
// left in a state: whether with every handle open it would move, or without
// the one-ways.
func (d *Drained) Reasons(n *plumbing.Network, s state.State) []Reason {
	s.Pumps = 0
	every := state.Undecided(n)
	every.Attitude = s.Attitude
	all := append(slices.Clone(d.openings), mouths(n)...)
	reached := Reach(n, s, Query{From: d.openings})
	free := lowered(n, every, all)
	movable := movedBy(n, every, all, false)
	loose := movedBy(n, s, d.openings, true)
	list := make([]Reason, len(d.Pieces))
	for i, p := range d.Pieces {
		k := p.Piece
		switch {
		case p.Unknown:
			list[i] = NotKnown
		case p.stays == 0:
		case p.Vessel && p.stays <= p.Part.Data.Heel.Value():
			list[i] = Heel
		case p.Vessel && !free[k]:
			list[i] = NoWayOut
		case p.Vessel && p.stays == p.holds:
			list[i] = ShutOff
		case p.moved:
			list[i] = Dips
		case !p.InLink(): // inside an outlet: what a vessel keeps is told above
			list[i] = HalfClosed
		case loose[k]:
			list[i] = Behind
		case movable[k]:
			list[i] = ShutOff
		case reached.Node(n.Links[p.Link].A), reached.Node(n.Links[p.Link].B):
			list[i] = DeadEnd
		default:
			list[i] = NoWayOut
		}
	}
	return list
}

// movedBy tells which pieces of links lie on a way between two openings.
func movedBy(n *plumbing.Network, s state.State, openings []plumbing.NodeID, forced bool) map[plumbing.PieceID]bool {
	w := newWaterways(n, s, state.Can, forced)
	w.run(openings)
	moved := map[plumbing.PieceID]bool{}
	for i, x := range w.ways {
		if x.piece != plumbing.None && w.wayLevel[i] < never {
			moved[x.piece] = true
		}
	}
	return moved
}

// lowered tells which vessels lose some of what they hold.
func lowered(n *plumbing.Network, s state.State, openings []plumbing.NodeID) map[plumbing.PieceID]bool {
	list := map[plumbing.PieceID]bool{}
	for _, p := range drain(n, s, state.Can, openings).Pieces {
		if p.Vessel && p.stays < p.holds {
			list[p.Piece] = true
		}
	}
	return list
}

// mouths lists the openings of drains and relief valves, open or not.
func mouths(n *plumbing.Network) []plumbing.NodeID {
	var list []plumbing.NodeID
	for i, node := range n.AllNodes() {
		if node.Outside && node.Part.Lets() {
			list = append(list, i)
		}
	}
	return list
}

// mixers adds what stands inside outlets: it leaves by one side when air comes
// in by the other, or where there is only one side, when that is open.
func (d *Drained) mixers(n *plumbing.Network, openings []plumbing.NodeID) {
	for _, p := range n.PartsOf(plumbing.RoleOutlet, plumbing.RoleMachine) {
		id := n.PieceOf(p)
		if id == plumbing.None {
			continue
		}
		left := newLeft(n, id, float64(plumbing.Field(n, &p.Place.Height).Value()))
		left.stays = 0
		for _, side := range []string{"cold", "hot"} {
			node := n.Node(p.ID + "." + side)
			if n.Joined(node) && !slices.Contains(openings, node) {
				left.stays = left.holds
			}
		}
		d.Pieces = append(d.Pieces, left)
	}
}

// share is the part of a run from low to high that lies below a level.
func share(low, high, level float64) float64 {
	if high-low < level0 {
		if level > low+level0 {
			return 1
		}
		return 0
	}
	return min(1, max(0, (level-low)/(high-low)))
}
