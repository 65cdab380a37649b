package flow

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// The laws by hand: Hazen–Williams with C = 150, K·v²/2g, an orifice with Cd = 0.62, a pump's straight curve.
func TestLawsByHand(t *testing.T) {
	t.Parallel()
	n := &plumbing.Network{}
	lost := func(l law, q quantity.LitrePerMinute) float64 { h, _ := l.head(cubic(q)); return h }

	// 10 m of 12 mm at 6 L/min: v = 0.8842 m/s; 10.67·10·(1e-4)^1.852/(150^1.852·0.012^4.87) = 0.8799 m, and v²/2g = 0.0399.
	length, bore := quantity.Of(quantity.Millimetre(10_000), quantity.SI), quantity.Of(quantity.Millimetre(12), quantity.SI)
	line := lineLaw(n, &plumbing.Line{Length: length, Inside: bore})
	assert.InDelta(t, 0.8799, line.a*math.Pow(1e-4, 1.852), 0.002)
	assert.InDelta(t, 0.0399, line.b*1e-8, 0.0002)
	assert.InDelta(t, 0.9198, lost(line, 6), 0.002)
	assert.InDelta(t, -0.9198, lost(line, -6), 0.002, "odd in the flow")
	assert.Equal(t, lineLaw(n, &plumbing.Line{Length: length, Inside: bore}), lineLaw(n, &plumbing.Line{Length: length}),
		"12 mm where nothing says how wide")

	// An opening of 12 mm, 1.131e-4 m², under a metre of water lets 0.62·A·√(2g) = 3.105e-4 m³/s out, 18.63 L/min.
	hatch := openingLaw(n, &plumbing.Part{})
	assert.InDelta(t, 1, lost(hatch, 18.63), 0.002)
	assert.Equal(t, 1, hatch.way, "it takes nothing in")
	wide := openingLaw(n, &plumbing.Part{Data: plumbing.Data{Bore: quantity.Of(quantity.Millimetre(24), quantity.SI)}})
	assert.InDelta(t, 1, lost(wide, 4*18.63), 0.002, "twice as wide, four times as much")

	// 300 kPa are 30.65 m; a tap of 6 L/min at that, half the flow at a quarter of the head.
	assert.InDelta(t, 30.652, metresOf(300), 0.005)
	tap := outletLaw(n, &plumbing.Part{})
	assert.InDelta(t, 30.652, lost(tap, 6), 0.005)
	assert.InDelta(t, 30.652/4, lost(tap, 3), 0.005)
	own := outletLaw(n, &plumbing.Part{Data: plumbing.Data{Flow: quantity.Of(quantity.LitrePerMinute(8), quantity.SI),
		RatedAt: quantity.Of(quantity.Kilopascal(200), quantity.SI)}})
	assert.InDelta(t, 30.652*2/3, lost(own, 8), 0.005)

	// A pump of 310 kPa that gives 11 L/min freely: all its head at no flow, none at 11, half at half.
	pump := sourceLaw(310, 11)
	assert.InDelta(t, -31.674, lost(pump, 0), 0.005)
	assert.InDelta(t, 0, lost(pump, 11), 0.005)
	assert.InDelta(t, -31.674/2, lost(pump, 5.5), 0.005)
	assert.False(t, math.IsInf(sourceLaw(310, 0).c, 1), "one that gives nothing has a slope")
}

// The slope is that of the head, also at nought, and series and turned laws add up.
func TestLawsHaveTheirSlope(t *testing.T) {
	t.Parallel()
	l := law{a: 2e7, b: 3e8, c: 4e5, gain: 7}
	for _, q := range []float64{-3e-4, -1e-5, -1e-8, 0, 1e-9, 2e-8, 1e-6, 5e-4} {
		h, slope := l.head(q)
		const d = 1e-10
		up, _ := l.head(q + d)
		assert.InEpsilon(t, slope, (up-h)/d, 0.02, "at %v", q)
	}
	low, _ := l.head(tinyFlow * (1 - 1e-9))
	high, _ := l.head(tinyFlow * (1 + 1e-9))
	assert.InDelta(t, low, high, 1e-6, "no step where the straight line begins")

	o := law{a: 1, b: 2, c: 3, gain: 1, way: 1}
	both, ok := l.plus(o)
	assert.True(t, ok)
	one, _ := l.head(1e-4)
	two, _ := o.head(1e-4)
	sum, _ := both.head(1e-4)
	assert.InDelta(t, one+two, sum, 1e-9)
	assert.Equal(t, 1, both.way)
	_, ok = o.plus(o.reversed())
	assert.False(t, ok, "two one-ways that face each other")
	turned := l.reversed()
	back, _ := turned.head(-1e-4)
	assert.InDelta(t, -one, back, 1e-9)
	assert.Equal(t, -1, o.reversed().way)
}
