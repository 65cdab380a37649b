package plumbing

import (
	"cmp"
	"iter"
	"slices"

	"coldtap/internal/core/quantity"
)

// PieceID is a place in Network.Pieces.
type PieceID int

// Piece is a place in a network where water stands for itself: a stretch of
// a line between two of its high and low spots, the inside of a small part,
// of a vessel, of an outlet. What the network holds is what its pieces hold.
type Piece struct {
	Link  LinkID  // the line or passage it is in, None for a vessel and the inside of an outlet
	Part  *Part   // the part it is in, nil for a stretch of a line
	Place int     // of a stretch along its line, 0 for the first
	From  float64 // where along its line it begins, as a share of the length
	To    float64 // where it ends
	Holds quantity.Litre
	// Vessel says that it is a tank or a storage heater: what stands in it is in
	// one place, whichever port it leaves by.
	Vessel bool
}

// Vessel reports whether a part holds its water in one body: a coil is a pipe.
func (p *Part) Vessel() bool {
	return p.Role() == RoleTank || p.Role() == RoleHeater && p.Storage()
}

// SpotsInOrder are the high and low spots of a line from its From end on.
func (l *Line) SpotsInOrder() []Spot {
	spots := slices.Clone(l.Spots)
	slices.SortFunc(spots, func(a, b Spot) int { return cmp.Compare(a.At.Value(), b.At.Value()) })
	return spots
}

// addPieces cuts the network into pieces: links in their order, each stretch
// of a line, then vessels and the insides of outlets, in the order of ids.
func (n *Network) addPieces(parts []*Part) {
	n.pieces = make([]PieceID, len(n.Links))
	for i, l := range n.AllLinks() {
		n.pieces[i] = PieceID(len(n.Pieces))
		switch {
		case l.Line != nil:
			n.cutLine(i, l)
		case !l.Part.Vessel(): // the ports of a vessel are joined by what stands in it
			n.Pieces = append(n.Pieces, Piece{Link: i, Part: l.Part, To: 1, Holds: l.Content})
		}
	}
	n.pieceOf = map[*Part]PieceID{}
	add := func(p Piece) {
		n.pieceOf[p.Part] = PieceID(len(n.Pieces))
		n.Pieces = append(n.Pieces, p)
	}
	for _, p := range parts {
		if p.Vessel() {
			add(Piece{Link: None, Part: p, To: 1, Holds: p.Data.Capacity.Value(), Vessel: true})
		}
	}
	for _, p := range parts {
		if p.Kind.Info().Target && p.Data.HoldUp.Value() > 0 {
			add(Piece{Link: None, Part: p, To: 1, Holds: p.Data.HoldUp.Value()})
		}
	}
}

// cutLine cuts a line at its high and low spots.
func (n *Network) cutLine(i LinkID, l *Link) {
	length, at := float64(l.Line.Length.Value()), 0.0
	spots := l.Line.SpotsInOrder()
	for k := range len(spots) + 1 {
		to := 1.0
		if k < len(spots) {
			to = 0 // a line without a length holds nothing: any place of it will do
			if length > 0 {
				to = float64(spots[k].At.Value()) / length
			}
		}
		n.Pieces = append(n.Pieces, Piece{Link: i, Place: k, From: at, To: to,
			Holds: l.Content * quantity.Litre(to-at)})
		at = to
	}
}

// FirstPiece is the first piece of a link, the piece that begins at its A end.
// Those of a line follow one another.
func (n *Network) FirstPiece(link LinkID) PieceID { return n.pieces[link] }

// PieceOf is the inside of a vessel or an outlet, None for what has none.
func (n *Network) PieceOf(p *Part) PieceID {
	if i, ok := n.pieceOf[p]; ok {
		return i
	}
	return None
}

// AllPieces runs through the pieces with their places.
func (n *Network) AllPieces() iter.Seq2[PieceID, *Piece] {
	return func(yield func(PieceID, *Piece) bool) {
		for i := range n.Pieces {
			if !yield(PieceID(i), &n.Pieces[i]) {
				return
			}
		}
	}
}
