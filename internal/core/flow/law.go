package flow

import (
	"math"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// Physical constants of steady flow, in SI.
const (
	gravity       = 9.80665 // m/s²
	hazenWilliams = 150     // C of plastic pipe
	orificeCd     = 0.62    // sharp-edged opening
	lineMinor     = 1.0     // loss coefficient of a line's elbows and ends
	smallBore     = 0.012   // m, where nothing says how wide a part is

	// Below this flow in m³/s laws are straight lines, so that they have a
	// slope at nought. The head it leaves out is below a millionth of a metre.
	tinyFlow = 3e-8
)

// law is the head a link takes at a flow q in m³/s: a·q^1.852 + b·q² + c·q − gain,
// odd in q but for the gain, which a pump or a supply gives.
type law struct {
	a, b, c, gain float64
	way           int // 1: passes forwards only, -1: backwards only, 0: both
}

// head is the head lost at flow q and its slope.
func (l law) head(q float64) (h, slope float64) {
	m := math.Abs(q)
	if m < tinyFlow {
		k := l.a*math.Pow(tinyFlow, 0.852) + l.b*tinyFlow + l.c
		return k*q - l.gain, k
	}
	p := l.a * math.Pow(m, 0.852)
	return (p+l.b*m+l.c)*q - l.gain, 1.852*p + 2*l.b*m + l.c
}

// plus is the law of two links in series; ok is false where two one-ways face
// each other and nothing flows.
func (l law) plus(o law) (sum law, ok bool) {
	if l.way*o.way < 0 {
		return law{}, false
	}
	way := l.way
	if way == 0 {
		way = o.way
	}
	return law{l.a + o.a, l.b + o.b, l.c + o.c, l.gain + o.gain, way}, true
}

// reversed is the law seen from the other end.
func (l law) reversed() law {
	l.gain, l.way = -l.gain, -l.way
	return l
}

// lineLaw is Hazen–Williams with the minor losses of the line's ends:
// h = 10.67·L·Q^1.852/(C^1.852·d^4.87), in SI.
func lineLaw(n *plumbing.Network, l *plumbing.Line) law {
	mm, _ := n.InsideDiameter(l)
	d := float64(mm) / 1000
	if d <= 0 {
		d = smallBore
	}
	return law{a: 10.67 * float64(plumbing.Field(n, &l.Length).Value()) / 1000 / (math.Pow(hazenWilliams,
		1.852) * math.Pow(d, 4.87)), b: minor(lineMinor, d)}
}

// minor is K·v²/2g as a factor of q².
func minor(k, bore float64) float64 {
	return k * 8 / (math.Pi * math.Pi * gravity * math.Pow(bore, 4))
}

// metresOf is the head of a pressure.
func metresOf(p quantity.Kilopascal) float64 {
	return float64(p) * 1000 / (1000 * quantity.WaterDensity * gravity)
}

func cubic(q quantity.LitrePerMinute) float64 { return float64(q) / 60000 }

// sourceLaw falls in a straight line from a pressure at no flow to nothing at
// the free or rated flow: a pump's curve, or a supply behind its regulator.
func sourceLaw(p quantity.Kilopascal, free quantity.LitrePerMinute) law {
	h := metresOf(p)
	return law{gain: h, c: h / cubic(max(free, 0.01)), way: 1}
}

// outletLaw is an orifice set by its rated flow at its rated pressure. It
// never sucks.
func outletLaw(n *plumbing.Network, p *plumbing.Part) law {
	q := cubic(plumbing.Field(n, &p.Data.Flow).Or(6))
	return law{b: metresOf(plumbing.Field(n, &p.Data.RatedAt).Or(300)) / (q * q), way: 1}
}

// openingLaw is an opening to the air of a part's bore.
func openingLaw(n *plumbing.Network, p *plumbing.Part) law {
	bore := float64(plumbing.Field(n, &p.Data.Bore).Or(quantity.Millimetre(smallBore*1000))) / 1000
	area := math.Pi / 4 * bore * bore
	return law{b: 1 / (2 * gravity * orificeCd * orificeCd * area * area), way: 1}
}
