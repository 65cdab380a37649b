package trial

import (
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/measure"
	"coldtap/internal/core/quantity"
)

func entry(id string, at int64, k Kind, of string, v float64) Entry {
	return Entry{ID: id, At: at, Kind: k, Of: of, Step: "colour@kitchen.cold", Value: v}
}

func TestListsJoinWithoutLossInAnyOrder(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	for range 200 {
		var all []Entry
		for i := range 30 {
			all = append(all, Entry{ID: string(rune('a'+i%26)) + "-entry-" + string(rune('a'+i/26)), At: rng.Int64N(9) + 1,
				Kind: []Kind{Done, Undone, "jug", Note, Gone}[rng.IntN(5)], Of: "", Step: []string{"x", "y"}[rng.IntN(2)]})
		}
		for i := range all {
			if all[i].Kind == Gone {
				all[i].Of = all[rng.IntN(len(all))].ID
			}
		}
		var one, two []Entry
		for _, e := range all {
			switch rng.IntN(3) { // some are on one phone, some on the other, some on both
			case 0:
				one = append(one, e)
			case 1:
				two = append(two, e)
			default:
				one, two = append(one, e), append(two, e)
			}
		}
		ab, ba := Join(one, two), Join(two, one)
		assert.Equal(t, ab, ba)
		assert.Len(t, ab, len(all))
		assert.Equal(t, ab, Join(ab, ab))
		rng.Shuffle(len(all), func(i, k int) { all[i], all[k] = all[k], all[i] })
		assert.Equal(t, Holds(ab), Holds(all))
	}
}

func TestTheLastOfEachThingHolds(t *testing.T) {
	list := []Entry{entry("jug-first", 1, "jug", "", 2), entry("jug-later", 3, "jug", "", 2.5), entry("tick-one", 2,
		Done, "", 0),
		entry("tick-back", 4, Undone, "", 0), entry("note-one", 1, Note, "", 0), entry("note-two", 2, Note, "", 0),
		entry("not-so", 5, Gone, "note-one", 0), entry("of-other", 2, "jug", "other", 1)}
	var ids []string
	for _, e := range Holds(list) {
		ids = append(ids, e.ID)
	}
	assert.Equal(t, []string{"note-two", "of-other", "jug-later"}, ids)
	again := append(list, entry("jug-gone", 6, Gone, "jug-later", 0))
	assert.True(t, slices.ContainsFunc(Holds(again), func(e Entry) bool { return e.ID == "jug-first" }),
		"what stood before holds again")
}

func TestEntriesOfStrangersAreRefused(t *testing.T) {
	right := entry("0123456789", 1, "jug", "", 2)
	assert.NoError(t, right.Check())
	for name, change := range map[string]func(*Entry){"id": func(e *Entry) { e.ID = "'; --" },
		"kind": func(e *Entry) { e.Kind = "jugs" }, "time": func(e *Entry) { e.At = 0 },
		"value": func(e *Entry) { e.Value = 1e12 }, "text": func(e *Entry) { e.Text = string(make([]byte, 4000)) }} {
		e := right
		change(&e)
		assert.Error(t, e.Check(), name)
	}
}

func TestASenselessValueIsAskedBackInTheLikelyUnit(t *testing.T) {
	words := func(list []Unit) (w []string) {
		for _, u := range list {
			w = append(w, u.Word)
		}
		return w
	}
	tank := RangeOf("caught", 163, quantity.US)
	assert.Equal(t, []string{"fl oz", "L"}, words(tank.Likely(160, gallon)), "160 gal is more than the tank holds")
	assert.Empty(t, tank.Likely(40, gallon), "40 gal is sensible")
	pressure := RangeOf(Pressure, 0, quantity.US)
	assert.Equal(t, []string{"kPa"}, words(pressure.Likely(310, psi)))
	cold := RangeOf(Outside, 0, quantity.SI)
	assert.Equal(t, []string{"°F"}, words(cold.Likely(70, celsius)))
	clock := RangeOf("clock", 3600, quantity.SI)
	assert.Equal(t, []string{"s"}, words(clock.Likely(1500, minute)))
	rod := Diameter(19, quantity.US)
	assert.Equal(t, []string{"mm"}, words(rod.Likely(11, inch)))
	assert.Empty(t, cold.Likely(500, celsius), "in no unit is it sensible")
}

func TestConditionsAreReadFromEntries(t *testing.T) {
	c := Conditions([]Entry{{ID: "a", At: 1, Kind: StartLevel, Of: "fresh", Value: 0.5}, {ID: "b", At: 2, Kind: Helper},
		{ID: "c", At: 1, Kind: HoseFlow, Value: 15}, {ID: "d", At: 1, Kind: Shut, Of: "drain-hot"},
		{ID: "e", At: 1, Kind: Left, Step: "blow@x"}})
	assert.Equal(t, map[string]float64{"fresh": 0.5}, c.Start)
	assert.False(t, *c.Helper)
	assert.EqualValues(t, 15, c.Flow)
	assert.Equal(t, []string{"drain-hot"}, c.Shut)
	assert.Equal(t, []string{"blow@x"}, c.NotDone)
}

func TestReadingsAreThoseThatCanBeMeasured(t *testing.T) {
	probes := []measure.Probe{{Kind: measure.Jug, Key: "colour@kitchen.cold"}, {Kind: measure.Strip, Key: "soak",
		Of: "fresh"}}
	list := Readings([]Entry{entry("jug-first", 1, "jug", "", 2), {ID: "strip", At: 2, Kind: "strip", Step: "soak",
		Of: "fresh", Value: 50},
		entry("elsewhere", 2, "clock", "", 9)}, probes, []quantity.MgPerLitre{0, 25, 50, 100})
	assert.Len(t, list, 2)
	assert.EqualValues(t, []float64{50, 100}, []float64{list[1].Low, list[1].High})
	assert.Equal(t, 0.0, list[1].Off(70))
	assert.Less(t, list[1].Off(120), 0.0)
}
