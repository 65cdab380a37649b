package plumbing

import "strings"

// WastePlace is where what runs out of a part goes to.
type WastePlace string

// The places.
const (
	ToGrey     WastePlace = "grey"
	ToBlack    WastePlace = "black"
	ToSump     WastePlace = "sump" // and from there overboard, when its pump runs
	ToOverside WastePlace = "overboard"
	ToBilge    WastePlace = "bilge"
	ToGround   WastePlace = "ground"
	ToUnknown  WastePlace = ""
)

// Open reports whether it is the open, where neither antifreeze nor sanitizer
// may go.
func (w WastePlace) Open() bool {
	return w == ToSump || w == ToOverside || w == ToBilge || w == ToGround
}

// ReachedUnder reports whether somebody reaches under the floor, or into the open, for a part: its
// place is told, and is not inside.
func (p *Part) ReachedUnder() bool {
	return p.Place.Reach != "" && !strings.Contains(p.Place.Reach, "inside")
}

// WasteOf is where what runs out of a part goes to: what it names, or where
// it names nothing the open, for what is outside or under the floor.
func (m *Model) WasteOf(p *Part) WastePlace {
	if w := m.Part(p.Data.Waste); w != nil {
		return WastePlace(w.Data.Type)
	}
	outside := p.Kind.Info().Lets || strings.HasPrefix(p.Data.Type, "outside") || p.Data.Type == "boot-wash" ||
		strings.Contains(p.Place.Reach, "outside")
	switch {
	case !outside:
		return ToUnknown
	case p.Role() == RoleHull:
		return ToOverside
	case m.Vehicle().Floats && p.Kind.Info().Lets:
		return ToBilge
	case m.Vehicle().Floats:
		return ToOverside
	}
	return ToGround
}
