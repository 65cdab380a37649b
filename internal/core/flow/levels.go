package flow

import (
	"encoding/binary"
	"slices"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// levels is how low water comes in a network when it is drained: by places and
// shares, whatever they hold.
type levels struct {
	runs    []level  // pieces of lines and passages
	vessels []level  // tanks and heaters
	unknown []string // parts whose height nobody gave
}

// level is how low water comes in a piece.
type level struct {
	piece plumbing.PieceID
	low   float64 // its lowest place
	share float64 // of it that lies below the water
	moved bool    // water can leave it at all
}

// levelsKey tells a draining from others of a network's structure.
type levelsKey struct {
	of       drained
	view     state.View
	openings string
}

// levelsFor is levelsOf, worked out once for all networks of one structure. How
// high a spot of a line stands off level follows from how long the line is: then
// it is worked out anew.
func levelsFor(n *plumbing.Network, s state.State, v state.View, openings []plumbing.NodeID) levels {
	if s.Attitude != (state.Attitude{}) && slices.ContainsFunc(n.Links, func(l plumbing.Link) bool {
		return l.Line != nil && len(l.Line.Spots) > 0
	}) {
		return levelsOf(n, s, v, openings)
	}
	at := make([]byte, 0, 2*len(openings))
	for _, o := range openings {
		at = binary.AppendUvarint(at, uint64(o))
	}
	key := levelsKey{drainKey(s), v, string(at)}
	return plumbing.Structural(n, key, func() (levels, bool) { return levelsOf(n, s, v, openings), true })
}

// levelsOf works out how low water comes.
func levelsOf(n *plumbing.Network, s state.State, v state.View, openings []plumbing.NodeID) levels {
	w := newWaterways(n, s, v, false)
	w.run(openings)
	var l levels
	for _, p := range w.unknown {
		l.unknown = append(l.unknown, p.ID)
	}
	add := func(piece plumbing.PieceID, a, b int, to float64) {
		low, high := min(w.z[a], w.z[b]), max(w.z[a], w.z[b])
		l.runs = append(l.runs, level{piece, low, share(low, high, to), to < never})
	}
	for i, x := range w.ways {
		if x.piece != plumbing.None {
			add(x.piece, x.a, x.b, w.wayLevel[i])
		}
	}
	for _, piece := range w.still {
		x := &n.Links[n.Pieces[piece].Link]
		add(piece, int(x.A), int(x.B), never)
	}
	for _, x := range w.vessels {
		to := w.pointLevel[x.hub]
		l.vessels = append(l.vessels, level{n.PieceOf(x.part), w.z[x.hub], share(w.z[x.hub], x.top, to), to < never})
	}
	return l
}
