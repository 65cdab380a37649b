package care

import (
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

func on(text string) time.Time {
	t, err := time.Parse("2006-01-02", text)
	if err != nil {
		panic(err)
	}
	return t
}

var camper = Spec{Sanitize: true, Winter: "winterize-air-then", Jugs: 2, Anodes: []string{"heater"}, AnodeAt: 0.75,
	Descale: []string{"heater"},
	Consumables: []Consumable{{ID: "cartridge", What: "cartridge", Life: 6}, {ID: "pink", What: "antifreeze"},
		{ID: "bleach", What: "sanitizer"}}}

func find(list []Due, k Kind) Due {
	for _, d := range list {
		if d.What == k {
			return d
		}
	}
	return Due{}
}

func TestWhatIsDue(t *testing.T) {
	made := on("2026-05-10")
	for name, x := range map[string]struct {
		use  Use
		log  []Entry
		what Kind
		on   string
		why  Reason
	}{
		"new":      {Holidays, nil, Sanitized, "2026-05-10", Never},
		"yearly":   {Holidays, []Entry{{on("2026-05-12"), Sanitized, "", 0}}, Sanitized, "2027-05-12", Interval},
		"lived in": {LivedIn, []Entry{{on("2026-05-12"), Sanitized, "", 0}}, Sanitized, "2026-09-12", Interval},
		"opened": {Holidays, []Entry{{on("2026-05-12"), Sanitized, "", 0}, {on("2026-07-01"), Repaired, "", 0}},
			Sanitized, "2026-07-01", Opened},
		"after storage": {Stored, []Entry{{on("2026-05-12"), Sanitized, "", 0}, {on("2026-09-20"), Winterized, "", 2},
			{on("2027-04-03"), DeWinterized, "", 0}}, Sanitized, "2027-04-03", Storage},
		"frost":          {Holidays, nil, Winterized, "2026-10-01", Frost},
		"late in a year": {Holidays, []Entry{{on("2026-11-12"), DeWinterized, "", 0}}, Winterized, "2027-10-01", Frost},
		"spring":         {Holidays, []Entry{{on("2026-09-20"), Winterized, "", 2}}, DeWinterized, "2027-04-01", Spring},
		"first look":     {Holidays, nil, AnodeLook, "2027-05-10", FirstLook},
		"worn out":       {Holidays, []Entry{{on("2027-05-10"), AnodeLook, "heater", 0.8}}, AnodeNew, "2027-05-10", WornOut},
		// 30 % in 365 days: the other 45 % take 547.5 days, that is later than the next look.
		"slow": {Holidays, []Entry{{on("2027-05-10"), AnodeLook, "heater", 0.3}}, AnodeLook, "2028-05-10", Interval},
		// from 30 % to 60 % in 366 days: the 15 % to 75 % take 183 days.
		"two looks": {Holidays, []Entry{{on("2027-05-10"), AnodeLook, "heater", 0.3}, {on("2028-05-10"), AnodeLook,
			"heater", 0.6}}, AnodeNew, "2028-11-09", Wear},
		"new rod": {Holidays, []Entry{{on("2027-05-10"), AnodeLook, "heater", 0.8}, {on("2027-05-11"), AnodeNew, "heater",
			0}}, AnodeLook, "2028-05-11", FirstLook},
		"cartridge": {Holidays, []Entry{{on("2026-08-01"), Changed, "cartridge", 0}}, Changed, "2027-02-01", Interval},
		"descaled":  {Holidays, []Entry{{on("2027-05-10"), Descaled, "", 0}}, Descaled, "2029-05-10", Interval},
		"scale":     {Holidays, nil, Descaled, "2028-05-10", Never},
	} {
		got := find(Of(camper, x.use, made, x.log), x.what)
		assert.Equal(t, on(x.on), got.On, name)
		assert.Equal(t, x.why, got.Why, name)
	}
	assert.Empty(t, find(Of(camper, LivedIn, made, nil), Winterized).What, "who lives in it does not store it")
}

// What is done on one thing is not done on another of its kind.
func TestEachThingIsDueByItself(t *testing.T) {
	spec := Spec{Anodes: []string{"left", "right"}, AnodeAt: 0.75, HotCycles: []string{"left", "right"},
		Consumables: []Consumable{{ID: "fine", Life: 6}, {ID: "coarse", Life: 6}}}
	log := []Entry{{on("2026-08-01"), Changed, "fine", 0}, {on("2026-08-01"), AnodeLook, "left", 0.8},
		{on("2026-08-01"), HotCycle, "left", 0}}
	got := map[string]time.Time{}
	for _, d := range Of(spec, Holidays, on("2026-05-10"), log) {
		got[string(d.What)+" "+d.Of] = d.On
	}
	assert.Equal(t, map[string]time.Time{"changed fine": on("2027-02-01"), "changed coarse": on("2026-11-10"),
		"anode-new left": on("2026-08-01"), "anode-look right": on("2027-05-10"),
		"hot-cycle left": on("2027-08-01"), "hot-cycle right": on("2026-05-10")}, got)
}

func TestTheOrderOfEntriesChangesNothing(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 4))
	var log []Entry
	for range 20 {
		log = append(log, Entry{on("2026-05-10").AddDate(0, 0, rng.IntN(900)), Kinds()[rng.IntN(len(Kinds()))], []string{"",
			"heater", "cartridge"}[rng.IntN(3)], rng.Float64()})
	}
	want := Of(camper, Holidays, on("2026-05-10"), log)
	for range 20 {
		rng.Shuffle(len(log), func(i, k int) { log[i], log[k] = log[k], log[i] })
		assert.Equal(t, want, Of(camper, Holidays, on("2026-05-10"), log))
	}
}

func TestLastSeasonsUsePredictsThisYearsJugs(t *testing.T) {
	n, from, _ := Jugs(camper, nil)
	assert.Equal(t, 2, n)
	assert.Equal(t, ByComputed, from)
	log := []Entry{{on("2026-09-20"), Winterized, "", 2}, {on("2027-09-20"), Winterized, "", 3}, {on("2028-09-20"),
		Winterized, "", 3}}
	n, from, winters := Jugs(camper, log)
	assert.Equal(t, 3, n, "2.67 jugs are three")
	assert.Equal(t, ByLog, from)
	assert.Equal(t, 3, winters)
	needs := map[string]float64{}
	for _, x := range Year(camper, Holidays, log) {
		needs[x.ID] = x.Count
	}
	assert.Equal(t, map[string]float64{"cartridge": 2, "pink": 3, "bleach": 1}, needs)
	for _, x := range Year(camper, LivedIn, nil) {
		if x.ID == "bleach" {
			assert.Equal(t, 3.0, x.Count)
		}
		assert.NotEqual(t, "pink", x.ID)
	}
}
