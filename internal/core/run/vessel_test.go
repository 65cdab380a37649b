package run

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// A vessel is dry at its heel and stays so until a hundredth of what it holds has gathered; it has air above its water
// from a hundredth on, and stays so until it is full.
func TestWhatBubblesInGathersFirst(t *testing.T) {
	t.Parallel()
	v := Vessel{Holds: 100, heel: 2}
	for i, x := range []struct {
		has       quantity.Litre
		dry, airy bool
	}{
		{100, false, false}, {99.5, false, false}, {98.9, false, true}, {99.5, false, true}, {100, false, false},
		{50, false, true}, {2.005, true, true}, {2.5, true, true}, {2.98, true, true}, {3.1, false, true}, {2.5, false, true},
	} {
		v.Liquid.Litre = x.has
		v.look()
		assert.Equal(t, x.dry, v.dry, "%d: dry with %v", i, x.has)
		assert.Equal(t, x.airy, v.airy, "%d: air above %v", i, x.has)
	}
}

// What arrives at a place is what somebody waits for there: by its air, its colour, its strength.
func TestWhatArrivesIsSeen(t *testing.T) {
	t.Parallel()
	least := Mix{Glycol: 0.3, Chlorine: 50, Acid: 0.02}
	for _, x := range []struct {
		sense Sense
		p     Plug
		there bool
	}{
		{Spits, Plug{Litre: 1, Gas: 0.21}, true}, {Spits, Plug{Litre: 1, Gas: 0.2}, false},
		{Spits, Plug{Litre: 1, Gas: 0.29}, true},
		{Solid, Plug{Litre: 1, Gas: 0.009}, true}, {Solid, Plug{Litre: 1, Gas: 0.011}, false},
		{Coloured, Plug{Litre: 1, Mix: Mix{Glycol: 0.3}}, true}, {Coloured, Plug{Litre: 1, Mix: Mix{Glycol: 0.299}}, false},
		{Coloured, Plug{Litre: 1, Gas: 0.49, Mix: Mix{Glycol: 0.3}}, true},
		{Coloured, Plug{Litre: 1, Gas: 0.51, Mix: Mix{Glycol: 0.3}}, false},
		{Strong, Plug{Litre: 1, Mix: Mix{Chlorine: 50}}, true}, {Strong, Plug{Litre: 1, Mix: Mix{Chlorine: 49.9}}, false},
		{Smelled, Plug{Litre: 1, Mix: Mix{Chlorine: 50}}, true}, {Smelled, Plug{Litre: 1, Mix: Mix{Chlorine: 49.9}}, false},
		{Sour, Plug{Litre: 1, Mix: Mix{Acid: 0.02}}, true}, {Sour, Plug{Litre: 1, Mix: Mix{Acid: 0.019}}, false},
		{Clear, Plug{Litre: 1, Mix: least}, true}, {Clear, Plug{Litre: 1, Mix: Mix{Glycol: 0.31}}, false},
		{Clear, Plug{Litre: 1, Mix: Mix{Chlorine: 50.1}}, false}, {Clear, Plug{Litre: 1, Mix: Mix{Acid: 0.021}}, false},
	} {
		w := waiting{u: Until{Sense: x.sense, At: []plumbing.NodeID{3}, Least: least}}
		assert.Equal(t, x.there, w.there(&Moved{Arrived: map[plumbing.NodeID]Plug{3: x.p}}), "%v %+v", x.sense, x.p)
		assert.False(t, w.there(&Moved{}), "nothing came")
		w.u.At = append(w.u.At, 4)
		some := &Moved{Arrived: map[plumbing.NodeID]Plug{3: x.p, 4: {Litre: 1, Gas: 0.6}}}
		assert.Equal(t, x.sense == Spits, w.there(some), "it spits at any place, all else is at each")
	}
	assert.False(t, (&waiting{u: Until{Sense: Solid}}).there(&Moved{}), "where nobody looks nothing is seen")
}

// By hand: 0.79 L from 0.9 m above an opening of 25 mm takes 2 · 0.00079 / (0.62 · π/4 · 0.025² · √(2 · 9.81 · 0.9)) =
// 1.236 s; where nobody gave the bore it takes no time that could be told.
func TestHowLongWaterRunsOut(t *testing.T) {
	t.Parallel()
	w := way{bore: 25, height: 0.1}
	assert.InDelta(t, 1.236, float64(w.runs(0.79, 1)), 0.005)
	assert.Equal(t, w.runs(0.79, 0.15), w.runs(0.79, 0.1), "the last centimetres run as if from five")
	w.bore = 0
	assert.Zero(t, w.runs(0.79, 1))
}
