package drawing

import (
	"math"
	"slices"

	"coldtap/internal/core/plumbing"
)

// moving draws what flows through a line: a dashed run that a style sheet may
// let drift, and an arrowhead on its longest stretch.
func (s *Schematic) moving(b *svg, w *wire, show Show) {
	q := show.Flow[w.link()]
	if q == 0 {
		return
	}
	corners := w.route.corners()
	if q < 0 {
		corners = slices.Clone(corners)
		slices.Reverse(corners)
	}
	course := path(corners)
	if q > 0 {
		course = w.path()
	} else if len(w.hops) > 0 {
		course = (&wire{hops: w.hops, route: &route{points: corners}}).path()
	}
	b.f(`<path class="moving" d="%s"/>`, course)
	best, at := 0.0, 1
	for i := 1; i < len(corners); i++ {
		if d := math.Hypot(float64(corners[i].X-corners[i-1].X), float64(corners[i].Y-corners[i-1].Y)); d > best {
			best, at = d, i
		}
	}
	if best < 2 {
		return // too short for a head
	}
	p, q0 := corners[at-1], corners[at]
	x, y := float64(p.X+q0.X)/2*cell, float64(p.Y+q0.Y)/2*cell
	turn := math.Atan2(float64(q0.Y-p.Y), float64(q0.X-p.X)) * 180 / math.Pi
	b.f(`<path class="head" d="M-5 -6L7 0L-5 6Z" transform="translate(%g %g) rotate(%.0f)"/>`, x, y, turn)
}

// stays draws the water that stays in a line as a thick run from its lower
// end, as long as its share of the line.
func (s *Schematic) stays(b *svg, w *wire, show Show) {
	share := show.Full[w.link()]
	if share < 0.02 {
		return
	}
	l := &s.net.Links[w.link()]
	corners := w.route.corners()
	a, okA := s.net.Nodes[l.A].Part.PortHeight(s.net.Nodes[l.A].Port)
	z, okB := s.net.Nodes[l.B].Part.PortHeight(s.net.Nodes[l.B].Port)
	if okA && okB && z < a {
		corners = slices.Clone(corners)
		slices.Reverse(corners)
	}
	b.f(`<path class="stays" d="%s" pathLength="100" stroke-dasharray="%.0f 200"/>`, path(corners), share*100)
}

// reading writes a few short words over an outlet's sign: what runs there.
func reading(b *svg, x *box, words []string) {
	left, top, w := float64(x.at.X*cell), float64(x.at.Y*cell), float64(x.w*cell)
	b.f(`<rect class="reading" x="%g" y="%g" width="%g" height="25" rx="4"/>`, left+2, top+2, w-4)
	for i, line := range words {
		class := "label figure"
		if i > 0 {
			class = "label small"
		}
		b.f(`<text class="%s" x="%g" y="%g" text-anchor="middle">%s</text>`, class, left+w/2, top+13+float64(i)*11,
			esc(line+" "))
	}
}

// Stay is the water that stays in a piece of a line between two of its height
// points: the piece's place along the line, and how full it is, 0 to 1.
type Stay struct {
	Line  string
	Piece int
	Share float64
}

// stays draws trapped water in the side view: each piece from its lower end.
func (l *Layout) stays(b *svg, list []Stay, x, y func(float64) float64) {
	for _, s := range list {
		line := l.model.Line(s.Line)
		if line == nil || s.Share < 0.02 {
			continue
		}
		points := l.heightPoints(line)
		if s.Piece+1 >= len(points) {
			continue
		}
		p, q := points[s.Piece], points[s.Piece+1]
		if p[1] > q[1] {
			p, q = q, p
		}
		b.f(`<path class="stays" d="M%.1f %.1fL%.1f %.1f"><title>%s</title></path>`, x(p[0]), y(p[1]),
			x(p[0]+(q[0]-p[0])*s.Share), y(p[1]+(q[1]-p[1])*s.Share), esc(s.Line))
	}
}

// heightPoints lists the height points of a line, as distance from the front and
// height; nil where an end's height is not known.
func (l *Layout) heightPoints(line *plumbing.Line) [][2]float64 {
	from, to := l.ends(line)
	if from == nil || to == nil {
		return nil
	}
	_, portA := plumbing.PartOf(line.From)
	_, portB := plumbing.PartOf(line.To)
	ha, okA := from.PortHeight(portA)
	hb, okB := to.PortHeight(portB)
	if !okA || !okB {
		return nil
	}
	xa, xb := float64(from.Place.Front.Value()), float64(to.Place.Front.Value())
	list := [][2]float64{{xa, float64(ha)}}
	spots := slices.Clone(line.Spots)
	slices.SortFunc(spots, func(a, b plumbing.Spot) int {
		if a.At.Value() < b.At.Value() {
			return -1
		}
		return 1
	})
	for _, s := range spots {
		share := 0.5
		if v := line.Length.Value(); v > 0 {
			share = float64(s.At.Value() / v)
		}
		list = append(list, [2]float64{xa + (xb-xa)*share, float64(s.Height.Value())})
	}
	return append(list, [2]float64{xb, float64(hb)})
}
