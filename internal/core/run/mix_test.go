package run

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/quantity"
)

func water(v quantity.Litre) Plug             { return Plug{Litre: v} }
func glycol(v quantity.Litre, s float64) Plug { return Plug{Litre: v, Mix: Mix{Glycol: s}} }
func chlorine(v quantity.Litre, s quantity.MgPerLitre) Plug {
	return Plug{Litre: v, Mix: Mix{Chlorine: s}}
}

func TestPlugsMixByTheirLiquid(t *testing.T) {
	t.Parallel()
	near := func(want, got Plug) {
		t.Helper()
		assert.InDelta(t, float64(want.Litre), float64(got.Litre), 1e-12)
		assert.InDelta(t, want.Gas, got.Gas, 1e-12)
		assert.InDelta(t, want.Mix.Glycol, got.Mix.Glycol, 1e-12)
		assert.InDelta(t, float64(want.Mix.Chlorine), float64(got.Mix.Chlorine), 1e-12)
		assert.InDelta(t, want.Mix.Acid, got.Mix.Acid, 1e-12)
		assert.Equal(t, want.front, got.front)
	}
	near(glycol(3, 0.2), glycol(2, 0.3).With(water(1)))
	near(Plug{Litre: 4, Mix: Mix{0.05, 15, 0.025}}, Plug{Litre: 1, Mix: Mix{0.2, 0, 0.1}}.With(chlorine(3, 20)))
	near(Plug{Litre: 2, Gas: 0.5, Mix: Mix{Glycol: 0.3}}, Air(1).With(glycol(1, 0.3)))
	near(Plug{Litre: 4, Gas: 0.25, Mix: Mix{Glycol: 0.1}}, Air(1).With(glycol(1, 0.3)).With(water(2)))
	near(Air(3), Air(1).With(Air(2)))
	near(glycol(2, 0.3), Plug{}.With(glycol(2, 0.3)))
	near(glycol(2, 0.3), glycol(2, 0.3).With(Plug{}))
	near(Plug{Litre: 2, front: 4}, Plug{Litre: 1, front: 4}.With(Plug{Litre: 1, front: 4}))
	near(Plug{Litre: 2}, Plug{Litre: 1, front: 4}.With(Plug{Litre: 1, front: 5}))
	assert.InDelta(t, 0.75, float64(Plug{Litre: 3, Gas: 0.75}.Liquid()), 1e-12)
	p := glycol(2, 0.3)
	near(glycol(0.5, 0.3), p.take(0.5))
	near(glycol(1.5, 0.3), p.take(9))
	assert.Zero(t, p.Litre)
}

func TestWhatNobodyCouldTellApartIsOneFluid(t *testing.T) {
	t.Parallel()
	for _, x := range []struct {
		a, b       Plug
		like, near bool // near: leaves together, flushing
	}{
		{water(1), water(5), true, true},
		{water(1), Air(1), false, false},
		{Air(1), Plug{Litre: 1, Gas: 1, Mix: Mix{Glycol: 0.3}}, true, true},
		{water(1), Plug{Litre: 1, Gas: 0.0009}, true, true},
		{water(1), Plug{Litre: 1, Gas: 0.0011}, false, false},
		{glycol(1, 0.3), glycol(1, 0.30009), true, true},
		{glycol(1, 0.3), glycol(1, 0.30011), false, false},
		{Plug{Litre: 1, Mix: Mix{Acid: 0.1}}, Plug{Litre: 1, Mix: Mix{Acid: 0.1002}}, false, false},
		{chlorine(1, 100), chlorine(1, 100.009), true, true},
		{chlorine(1, 100), chlorine(1, 100.02), false, true}, // of a dose a few per cent matter
		{chlorine(1, 100), chlorine(1, 109.9), false, true},
		{chlorine(1, 100), chlorine(1, 110.1), false, false},
		{chlorine(1, 10), chlorine(1, 10.29), true, true},
		{chlorine(1, 10), chlorine(1, 10.31), false, true},
		{chlorine(1, 10), chlorine(1, 11.1), false, false},
		{chlorine(1, 25), chlorine(1, 25.02), false, true},
		{chlorine(1, 24.9), chlorine(1, 25.5), true, true},
	} {
		assert.Equal(t, x.like, x.a.like(x.b), "%v %v", x.a, x.b)
		assert.Equal(t, x.like, x.b.like(x.a), "%v %v", x.b, x.a)
		assert.Equal(t, x.near, x.a.near(x.b, true), "%v %v", x.a, x.b)
	}
	assert.False(t, chlorine(1, 100).near(chlorine(1, 105), false), "of a dose that is not being flushed out")
	assert.True(t, chlorine(1, 10).near(chlorine(1, 10.9), false))
	assert.False(t, glycol(1, 0.3).near(Plug{Litre: 1, Mix: Mix{Glycol: 0.3002}}, true))
}

// A queue gives back at one end what was put in at the other, in its order, and loses nothing.
func TestAQueueKeepsItsOrder(t *testing.T) {
	t.Parallel()
	var q queue
	q = q.push(water(1), true)
	q = q.push(glycol(2, 0.3), true)
	q = q.push(Air(3), false)
	assert.Equal(t, queue{glycol(2, 0.3), water(1), Air(3)}, q)
	assert.Equal(t, quantity.Litre(6), q.litre())
	assert.Equal(t, []Plug{glycol(2, 0.3), Air(3), {}}, []Plug{q.end(true), q.end(false), queue{}.end(true)})
	assert.Equal(t, []quantity.Litre{2, 3}, []quantity.Litre{q.leading(true, false), q.leading(false, false)})
	assert.Equal(t, queue{glycol(2, 0.3), water(1), Air(4)}, append(queue{}, q...).push(Air(1), false),
		"the same is no other plug")
	assert.Equal(t, queue{glycol(3, 0.3), water(1), Air(3)}, append(queue{}, q...).push(glycol(1, 0.3), true))
	assert.Len(t, append(queue{}, q...).push(water(least/2), false), 3, "a trace is none of its own")
	assert.Len(t, append(queue{}, q...).push(water(2*least), false), 4)
	assert.Equal(t, q, q.push(Plug{}, true))
	assert.True(t, queue{water(1)}.same(water(9)))
	assert.False(t, queue{water(1)}.same(Air(1)))
	assert.False(t, q.same(q[0]), "of several none is the one")

	got, rest := append(queue{}, q...).pop(2.5, true)
	assert.InDelta(t, 2.5, float64(got.Litre), 1e-12)
	assert.InDelta(t, 0.24, got.Mix.Glycol, 1e-12)
	assert.Equal(t, queue{water(0.5), Air(3)}, rest)
	got, rest = append(queue{}, q...).pop(3, false)
	assert.Equal(t, Air(3), got)
	assert.Equal(t, queue{glycol(2, 0.3), water(1)}, rest)
	got, rest = append(queue{}, q...).pop(99, true)
	assert.InDelta(t, 6, float64(got.Litre), 1e-12)
	assert.Empty(t, rest)
}

func TestAQueueIsTidied(t *testing.T) {
	t.Parallel()
	q := queue{water(least / 2), glycol(1, 0.3), Air(least / 2)}.tidy()
	assert.Len(t, q, 1)
	assert.InDelta(t, 1+float64(least), float64(q.litre()), 1e-15)
	assert.Len(t, queue{water(least / 2)}.tidy(), 1, "the last is kept")
	var long queue
	for i := range mostPlugs + 1 {
		long = append(long, chlorine(quantity.Litre(1+i%5), quantity.MgPerLitre(100*i)))
	}
	long[7], long[8] = chlorine(0.1, 700), chlorine(0.2, 800) // the smallest pair
	sum := long.litre()
	short := append(queue{}, long...).tidy()
	assert.Len(t, short, mostPlugs)
	assert.InDelta(t, float64(sum), float64(short.litre()), 1e-9)
	assert.InDelta(t, (0.1*700+0.2*800)/0.3, float64(short[7].Mix.Chlorine), 1e-9, "the smallest are mixed")
	assert.Len(t, append(queue{}, long[:mostPlugs]...).tidy(), mostPlugs)
	assert.Equal(t, long[:mostPlugs], append(queue{}, long[:mostPlugs]...).tidy())
}

// A front mixes once in a store, over half of it on each side, and once more in the next; nothing is made or lost.
func TestFrontsAreSmeared(t *testing.T) {
	t.Parallel()
	q := queue{glycol(2, 0.3), water(2)}.smear(3, 0.2)
	assert.Len(t, q, 3)
	assert.Equal(t, Plug{Litre: 0.2, Mix: Mix{Glycol: 0.15}, front: 4}, q[1])
	assert.Equal(t, []quantity.Litre{1.9, 1.9}, []quantity.Litre{q[0].Litre, q[2].Litre})
	again := append(queue{}, q...).smear(3, 0.2)
	assert.Equal(t, q, again, "once in each store")
	next := append(queue{}, q...).smear(5, 0.2)
	assert.Len(t, next, 3)
	assert.InDelta(t, 0.4, float64(next[1].Litre), 1e-12)
	assert.Equal(t, 6, next[1].front)
	assert.InDelta(t, 0.15, next[1].Mix.Glycol, 1e-12)
	for _, sharp := range []queue{{glycol(2, 0.3), Air(2)}, {glycol(2, 0.3), glycol(2, 0.3)}, {glycol(0.05, 0.3), water(2)},
		{glycol(2, 0.3), water(0.05)}} {
		assert.Len(t, append(queue{}, sharp...).smear(3, 0.2), 2, "%v", sharp)
	}
	assert.Len(t, queue{glycol(2, 0.3), water(2)}.smear(3, 1e-9), 2)
}

// Whatever goes in and out, nothing is made or lost, and each substance keeps its amount.
func TestNothingIsMadeOrLostInAQueue(t *testing.T) {
	t.Parallel()
	rng := rand.New(rand.NewPCG(2, 3))
	for range 300 {
		var q queue
		var sum Sum
		for range 40 {
			switch p := (Plug{Litre: quantity.Litre(rng.Float64()), Gas: float64(rng.IntN(2)), Mix: Mix{0.3 * rng.Float64(),
				quantity.MgPerLitre(200 * rng.Float64()), 0.1 * rng.Float64()}}); rng.IntN(4) {
			case 0:
				var got Plug
				got, q = q.pop(p.Litre, rng.IntN(2) == 0)
				var out Sum
				out.add(got)
				sum = sum.Less(out)
			case 1:
				q = q.tidy().smear(rng.IntN(3), 0.05)
			default:
				q = q.push(p, rng.IntN(2) == 0)
				sum.add(p)
			}
		}
		var is Sum
		for _, p := range q {
			is.add(p)
		}
		assert.InDelta(t, float64(sum.Liquid), float64(is.Liquid), 1e-9)
		assert.InDelta(t, float64(sum.Glycol), float64(is.Glycol), 1e-9)
		assert.InDelta(t, sum.Chlorine, is.Chlorine, 1e-6)
		assert.InDelta(t, float64(sum.Acid), float64(is.Acid), 1e-9)
	}
}
