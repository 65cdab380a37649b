package amount_test

import (
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/amount"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/rig"
	"coldtap/internal/rig/told"
)

func rigPlan(t *testing.T, name string,
	change func(m *plumbing.Model)) (*plumbing.Network, []setting.Answer, house.House) {
	t.Helper()
	m, err := rig.Model(name)
	require.NoError(t, err)
	change(m)
	n, answers := plan(t, m)
	return n, answers, house.Usual(m.System())
}

func asItIs(*plumbing.Model) {}

// Air for blowing out is never over 50 psi, however strong the parts.
func TestAirIsNeverOver50Psi(t *testing.T) {
	n, _, rules := build(t, "gneiss-24-2027")
	for i := range n.Model.Parts {
		n.Model.Parts[i].Data.Rating = quantity.Of(200*quantity.PSI, quantity.US)
	}
	rules = house.Air.With(rules, 60*quantity.PSI)
	c := amount.PressureCeiling(n, rules)
	assert.InDelta(t, 50*6.894757, float64(c.Air), 0.5)
	assert.InDelta(t, 50*6.894757, float64(c.Chosen), 0.5)
}

func TestStrongVinegarWantsGoggles(t *testing.T) {
	for strength, goggles := range map[quantity.Percent]bool{5: false, 10: false, 11: true, 25: true} {
		v, err := amount.Descale(5, strength, 20)
		require.NoError(t, err)
		assert.Equal(t, goggles, strings.Contains(told.Fact(v.Caution), "goggles"), "%v %%", strength)
		assert.Contains(t, told.Fact(v.Caution), "Never together with bleach")
	}
}

// Two tanks apart: each is dosed by what its own lines draw. The lines of the
// left: 2 ft + 5 in + … are the worksheet's; the tank holds 55 L.
func TestEachBodyOfWaterHasItsDose(t *testing.T) {
	n, answers, rules := build(t, "marl-15-2027")
	doses := amount.PlanDoses(n, setting.ForMode(answers, setting.Sanitize), rules)
	require.Len(t, doses, 2)
	for _, d := range doses {
		require.Zero(t, d.Why)
		require.Len(t, d.Tanks, 1)
		want := 50 * 55 / (55 - float64(d.Drawn))
		assert.InDelta(t, want*55/(10000*5.25), float64(d.Exact), 1e-9, d.Name())
		assert.GreaterOrEqual(t, float64(d.Final), 50-1e-9)
	}
	assert.NotEqual(t, doses[0].Drawn, doses[1].Drawn, "their lines differ")
}

// Linked tanks of 60 and 40 L are one body: one dose, poured into each by its
// share.
func TestLinkedTanksAreDosedByTheirShares(t *testing.T) {
	n, answers, rules := rigPlan(t, "tanks-linked", asItIs)
	doses := amount.PlanDoses(n, setting.ForMode(answers, setting.Sanitize), rules)
	require.Len(t, doses, 1)
	d := doses[0]
	require.Len(t, d.Tanks, 2)
	exact := 50 * 100 / (100 - float64(d.Drawn)) * 100 / (10000 * 5.25)
	assert.InDelta(t, exact, float64(d.Exact), 1e-9)
	for i, share := range []float64{0.6, 0.4} {
		got := float64(d.Tanks[i].Measured.Litre)
		assert.GreaterOrEqual(t, got, exact*share-1e-9)
		assert.LessOrEqual(t, got, exact*share*1.1+0.001)
	}
	// With the link shut each is dosed for itself.
	n, answers, rules = rigPlan(t, "tanks-linked", func(m *plumbing.Model) { m.Part("link").Normal = "closed" })
	a := *setting.ForMode(answers, setting.Sanitize)
	assert.Len(t, amount.PlanDoses(n, &a, rules), 2)
}

// Sanitizers by what is sold: of 80 L with 5.25 % bleach 50 mg/L and what the
// lines draw off; tablets for 25 L each are four, and give 50·100/80 mg/L;
// powder that keeps fresh is no sanitizer.
func TestDosesByProduct(t *testing.T) {
	n, plan, rules := rigPlan(t, "barrel", func(m *plumbing.Model) {})
	doses := amount.PlanDoses(n, setting.ForMode(plan, setting.Sanitize), rules)
	list := amount.ProductDoses(n, doses, rules)
	require.Len(t, list, 3)
	exact := 50 * 80 * 80 / (80 - float64(doses[0].Drawn)) / 52.5 // mL: 52.5 mg of chlorine in each
	assert.InDelta(t, exact, float64(doses[0].Exact)*1000, 0.01)
	assert.GreaterOrEqual(t, float64(list[0].Measured.Litre)*1000, exact-1e-9)
	assert.Less(t, float64(list[0].Measured.Litre)*1000, exact*1.1+1e-9)
	assert.Equal(t, doses[0].Measured, list[0].Measured, "the house's own bleach is as strong")
	assert.Empty(t, list[0].Wrong)
	assert.Equal(t, "4 tablets", told.Fact(list[1].Said()))
	assert.InDelta(t, 62.5, float64(list[1].Strength), 1e-9)
	assert.Zero(t, list[1].Wrong)
	assert.Equal(t, "2 level scoops", told.Fact(list[2].Said()))
	assert.Contains(t, told.Fact(list[2].Wrong), "it does not disinfect")
	n, _, rules = rigPlan(t, "barrel", func(m *plumbing.Model) {
		m.Consumables[1].Gives = quantity.Of(quantity.MgPerLitre(300), quantity.SI)
		m.Consumables[2].Gives = quantity.Given[quantity.MgPerLitre]{}
	})
	list = amount.ProductDoses(n, doses, rules)
	assert.Contains(t, told.Fact(list[1].Wrong), "above the ceiling")
	assert.True(t, list[2].Unknown)
}

// Each pump empties what it draws from: of two tanks apart each its own, by its
// own pump: 55 L at 2.8 gal/min take 5.2 min.
func TestPumpsByWhatTheyDrawFrom(t *testing.T) {
	m, err := demo.Model("marl-15-2027")
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(m)
	require.NoError(t, err)
	list := setting.Supplies(n)
	require.Len(t, list, 2)
	out := map[string]float64{}
	for _, f := range amount.Times(n, house.Usual(quantity.US)) {
		if strings.HasPrefix(f.ID, "pump-out") {
			out[f.ID] = float64(f.Takes) / 60
		}
	}
	perPump := 55 / (2.8 * 3.785411784)
	for _, s := range list {
		for _, tank := range s.Tanks {
			if min, ok := out["pump-out-"+tank.ID+"-"+s.Pump.ID]; ok {
				assert.InDelta(t, perPump, min, 0.01)
			}
		}
	}
	assert.GreaterOrEqual(t, len(out), 2)
}

// A line that antifreeze comes to at one end only is a dead end, whichever end
// that is written first.
func TestADeadEndIsOneFromEitherEnd(t *testing.T) {
	for _, turned := range []bool{false, true} {
		n, plan, rules := rigPlan(t, "in-turns", func(m *plumbing.Model) {
			l := m.Line("line-03") // the tank's vent is no line; its supply comes to the pick-up valve
			if l.From == "fresh.supply" {
				t.Fatal("the rig has changed")
			}
			l = m.Line("line-01")
			require.Equal(t, "fresh.supply", l.From)
			m.Parts = append(m.Parts, plumbing.Part{ID: "tee-x", Kind: plumbing.Tee, Name: "Stub tee"},
				plumbing.Part{ID: "stub", Kind: plumbing.CheckValve, Name: "Stub end"})
			rise := m.Line("line-09")
			require.Equal(t, "t2.b", rise.From)
			rest := *rise
			rest.ID, rest.From = "line-x", "tee-x.b"
			rise.To = "tee-x.a"
			stub := plumbing.Line{ID: "stub-line", From: "tee-x.c", To: "stub.out", Side: plumbing.Cold,
				Size: "semi-rigid 12 mm", Length: rest.Length}
			if turned {
				stub.From, stub.To = stub.To, stub.From
			}
			m.Lines = append(m.Lines, rest, stub)
		})
		sheet := amount.Antifreeze(n, setting.ForMode(plan, setting.Antifreeze), amount.Drained, rules)
		i := slices.IndexFunc(sheet.LeftOut, func(l amount.LeftOut) bool { return l.Part == "stub-line" })
		require.GreaterOrEqual(t, i, 0)
		assert.Contains(t, told.Fact(sheet.LeftOut[i].Why), "a dead end", "turned: %v", turned)
	}
}

// Probes tell what they really tell: of 80 L in 300 mm a probe at 75 mm tells
// at least 20 L, and less than the next one at 240 mm, 64 L.
func TestProbesTellWhereTheyAre(t *testing.T) {
	probe := func(id, name string, at float64) plumbing.Part {
		return plumbing.Part{ID: id, Kind: plumbing.Probe, Name: name,
			Data: plumbing.Data{Serves: "fresh", At: quantity.Of(quantity.Millimetre(at), quantity.SI)}}
	}
	n, _, _ := rigPlan(t, "barrel", func(m *plumbing.Model) {
		m.Parts = append(m.Parts, probe("p2", "Upper light", 240), probe("p1", "Lower light", 75))
	})
	levels := amount.Levels(n)
	require.Len(t, levels, 3)
	for i, want := range []struct {
		name      string
		low, high float64
	}{{"none lit", 0, 20}, {"Lower light", 20, 64}, {"Upper light", 64, 80}} {
		assert.Equal(t, want.name, told.Fact(levels[i].Reading))
		assert.InDelta(t, want.low, float64(levels[i].Low), 1e-9)
		assert.InDelta(t, want.high, float64(levels[i].High), 1e-9)
	}
	n, _, _ = rigPlan(t, "barrel", func(m *plumbing.Model) {
		m.Part("fresh").Data.InsideHeight = quantity.Given[quantity.Millimetre]{}
		m.Parts = append(m.Parts, probe("p1", "Lower light", 75))
	})
	assert.NotEmpty(t, amount.Levels(n)[1].Missing, "unknown without the tank's height")
}

// A diverter that serves the galley or the rear takes antifreeze to both, one
// turn after the other: 0.3817 L and an overrun of 0.15 L more than the best
// single setting, which leaves the galley's line as it is. What no single
// setting drains is drained by the end.
func TestAmountsFollowTheTurns(t *testing.T) {
	n, plan, rules := rigPlan(t, "in-turns", func(*plumbing.Model) {})
	a := setting.ForMode(plan, setting.Antifreeze)
	require.Len(t, a.Turns, 2)
	all := amount.Antifreeze(n, a, amount.Drained, rules)
	single := *a
	single.Turns = nil
	one := amount.Antifreeze(n, &single, amount.Drained, rules)
	assert.InDelta(t, 0.3817+0.15, float64(all.Total-one.Total), 1e-3)
	stops := amount.JugStops(n, a, amount.FarthestFirst, rules)
	assert.Equal(t, told.Fact(fact.Of("it", a.Turns[0].Meets[0].Subject())), told.Fact(stops[0].Name),
		"the first turn's outlet comes first")
	d := setting.ForMode(plan, setting.DrainDown)
	require.NotEmpty(t, d.Turns)
	assert.Less(t, float64(flow.Drain(n, d.Last()).Total()), float64(flow.Drain(n, d.State).Total())-0.3)
	assert.Empty(t, d.Keeps)
}

// Levels of linked tanks compare by height above the ground: 0.70 m is two
// thirds of a tank that stands at 0.5 m, a third of one that stands at 0.6.
func TestLevelsCompareByHeight(t *testing.T) {
	n, _, _ := rigPlan(t, "tanks-linked", func(m *plumbing.Model) {
		m.Part("right").Place.Height = quantity.Of(quantity.Metre(0.6), quantity.SI)
	})
	levels := amount.Levels(n)
	require.Len(t, levels, 8)
	at := levels[2] // the left one's probe at two thirds
	assert.InDelta(t, 0.7, float64(at.Height), 1e-9)
	assert.InDelta(t, 60*2./3+40*1./3, float64(at.Low), 1e-9)
	// A tank whose top is below the level is full, one whose bottom is above
	// it has nothing.
	for _, edge := range []struct {
		stands quantity.Metre
		litres float64
	}{{0.3, 60*2./3 + 40}, {0.4, 60*2./3 + 40}, {0.7, 60 * 2. / 3}, {0.8, 60 * 2. / 3}} {
		n, _, _ = rigPlan(t, "tanks-linked", func(m *plumbing.Model) {
			m.Part("right").Place.Height = quantity.Of(edge.stands, quantity.SI)
		})
		levels = amount.Levels(n)
		i := slices.IndexFunc(levels, func(l amount.Level) bool { return l.Height > 0.699 && l.Height < 0.701 })
		require.GreaterOrEqual(t, i, 0, "%v", edge.stands)
		assert.InDelta(t, edge.litres, float64(levels[i].Low), 1e-9, "%v", edge.stands)
	}
	// A height that nobody gave makes the level unknown, and is named.
	n, _, _ = rigPlan(t, "tanks-linked", func(m *plumbing.Model) {
		m.Part("right").Data.InsideHeight = quantity.Given[quantity.Millimetre]{}
	})
	require.NotEmpty(t, amount.Levels(n)[2].Missing)
	assert.Contains(t, told.Fact(amount.Levels(n)[2].Missing[0].Said()), "Right tank: the inside height is not given")
}

// r of the sealed-filter rig by hand. Its tank has no drain, so all its lines
// are pushed through: nothing is drained, and nothing leaves a film.
func TestWhatARefillLeavesByHand(t *testing.T) {
	n, answers, rules := rigPlan(t, "tank-rim", func(m *plumbing.Model) { m.Part("fresh").Heights = nil })
	p := amount.PlanFlush(n, answers, 50, rules)
	// Suction 1 m and delivery 1.5 m of 9 mm stay full, behind the pump; the
	// drain's 0.4 m of 13 mm runs out and leaves 3 % as a film. The fill hose and
	// the vent count for nothing.
	bore := func(mm, m float64) float64 { return math.Pi / 4 * mm * mm * m / 1000 }
	pipes, drain := bore(9, 2.5), bore(13, 0.4)
	lines := pipes + drain
	assert.InDelta(t, (2+bore(9, 1)+bore(9, 1.5)+0.03*drain)/(90+lines), p.Share, 1e-9)
	var film quantity.Litre
	for _, r := range p.Parts {
		if strings.HasPrefix(told.Fact(r.What), "Film") {
			film = r.Litre
		}
	}
	assert.InDelta(t, 0.03*drain, float64(film), 1e-9)
}

// Both tanks' heels stay when both are drained.
func TestBothHeelsCount(t *testing.T) {
	n, answers, rules := rigPlan(t, "flint-11", asItIs)
	p := amount.PlanFlush(n, answers, 50, rules)
	var heels []float64
	for _, r := range p.Parts {
		if strings.Contains(told.Fact(r.What), "Heel") {
			heels = append(heels, float64(r.Litre))
		}
	}
	assert.Equal(t, []float64{0.5, 0.5}, heels)
	n, answers, rules = rigPlan(t, "tanks-linked", asItIs)
	p = amount.PlanFlush(n, answers, 50, rules)
	assert.InDelta(t, 1.5, float64(p.Parts[0].Litre), 1e-9, "of one body")
	sheet := amount.WinterSchools(n, answers, rules)
	_ = sheet
}

// An accumulator takes half its litre from the dose.
func TestTheAccumulatorCountsInTheDose(t *testing.T) {
	drawn := func(change func(m *plumbing.Model)) float64 {
		n, answers, rules := rigPlan(t, "sealed-filter", change)
		return float64(amount.PlanDoses(n, setting.ForMode(answers, setting.Sanitize), rules)[0].Drawn)
	}
	without := drawn(func(m *plumbing.Model) {
		m.Part("acc").Data.Capacity = quantity.Of(quantity.Litre(0), quantity.SI)
	})
	assert.InDelta(t, 0.5, drawn(asItIs)-without, 1e-9)
}

// A washing machine's cycle of 2 gal is counted apart, once for its two sides.
func TestMachineCyclesAreCountedApart(t *testing.T) {
	n, answers, rules := rigPlan(t, "basalt-28", asItIs)
	a := setting.ForMode(answers, setting.Antifreeze)
	sheet := amount.Antifreeze(n, a, amount.Drained, rules)
	assert.InDelta(t, 2*gal, float64(sheet.Cycles.Total), 1e-9)
	for _, r := range sheet.Rows {
		assert.False(t, r.Part == "washer" && r.Formula.ID == "formula.overrun")
	}
	assert.Equal(t, int(math.Ceil(float64(sheet.Total+sheet.Cycles.Total)/gal)), sheet.Jugs[0].Count)
	n, answers, rules = rigPlan(t, "basalt-28", func(m *plumbing.Model) {
		m.Part("washer").Data.Cycle = quantity.Given[quantity.Litre]{}
	})
	sheet = amount.Antifreeze(n, setting.ForMode(answers, setting.Antifreeze), amount.Drained, rules)
	require.Len(t, sheet.Cycles.Missing, 1)
	assert.Contains(t, told.Fact(sheet.Cycles.Missing[0].Said()),
		"Washing machine: the water that its cycle draws is not given")
}

// From the tank 0.3 + 0.3 m of 9 mm, from a jug 1.2 m of 12 mm and 0.3 of 9.
func TestPrimingCountsTheHoseThatIsDrawnFrom(t *testing.T) {
	n, _, rules := rigPlan(t, "sealed-filter", asItIs)
	bore := func(mm, m float64) float64 { return math.Pi / 4 * mm * mm * m / 1000 }
	times := amount.Times(n, rules)
	assert.InDelta(t, bore(9, 0.6)/11*60, float64(amount.TimeOf(n, times, "prime-pump")), 1e-6)
	assert.InDelta(t, (bore(12, 1.2)+bore(9, 0.3))/11*60, float64(amount.TimeOf(n, times, "prime-jug-")), 1e-6)
}

// What nobody gave makes a figure unknown, and it says what.
func TestUnknownStaysUnknown(t *testing.T) {
	n, answers, rules := rigPlan(t, "unknowns", asItIs)
	for _, f := range amount.Times(n, rules) {
		if f.ID == "drain-fresh" {
			assert.Zero(t, f.Takes)
			require.Len(t, f.Missing, 2)
			assert.Contains(t, told.Fact(f.Value), "Fresh tank: the inside height is not given")
			assert.Contains(t, told.Fact(f.Missing[1].Said()), "Tank drain: the bore is not given")
		}
	}
	require.NotEmpty(t, amount.UnknownOf(amount.Times(n, rules), "drain-"))
	content := amount.Contents(n, quantity.US)
	require.Len(t, content.Missing, 1)
	assert.Equal(t, "length", content.Missing[0].Field)
	sheet := amount.Antifreeze(n, setting.ForMode(answers, setting.Antifreeze), amount.Drained, rules)
	assert.Len(t, sheet.Missing, 1)
	p := amount.PlanFlush(n, answers, 50, rules)
	s := amount.Forwards(amount.SanitizeStages(n, amount.Times(n, rules), 60, 3600, &p.Ways[0]),
		time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC))
	assert.Contains(t, told.Fact(s.Said()), "at least")
}

// The weakest point is where plain water stays: a tank that nothing drains, a
// stretch that nothing sweeps. Where a hand act empties it, it is named with it.
func TestTheWeakestPointLooksEverywhere(t *testing.T) {
	n, answers, rules := rigPlan(t, "no-bypass", asItIs)
	a := setting.ForMode(answers, setting.Antifreeze)
	w, err := amount.WeakestPoint(n, answers, a, amount.Drained, rules)
	require.NoError(t, err)
	assert.Equal(t, "fresh", w.ID)
	assert.Zero(t, w.Share)
	assert.False(t, w.Enough)
	n, answers, rules = build(t, "gneiss-24-2027")
	a = setting.ForMode(answers, setting.Antifreeze)
	w, err = amount.WeakestPoint(n, answers, a, amount.Drained, rules)
	require.NoError(t, err)
	assert.Equal(t, "h-outside", w.ID)
	acts := map[string]amount.Act{}
	for _, p := range w.Pockets {
		acts[p.ID] = p.Act
	}
	assert.Equal(t, amount.PressCheck, acts["city"])
	assert.Equal(t, amount.BlowRinse, acts["rinse-line"])
	assert.Equal(t, amount.RunDry, acts["suction"])
	// With a drained pocket that nothing empties by hand, that is the weakest.
	n, answers, rules = rigPlan(t, "pumice-9", asItIs)
	w, err = amount.WeakestPoint(n, answers, setting.ForMode(answers, setting.Antifreeze), amount.Drained, rules)
	require.NoError(t, err)
	assert.Equal(t, amount.NoAct, w.Pockets[0].Act)
	assert.Equal(t, w.Pockets[0].ID, w.ID)
	assert.Contains(t, told.Fact(w.Said(n.Model.DesignLow)), "Plain water stays in Port tank – link cock")
}

// What goes through a branch beside the way is the least that any end overruns
// by. A loop that dips beside the main keeps water; at taps that overrun by 0.2
// and low points by 0.05 it gets 0.05.
func TestABranchGetsTheLeastThatAnEndOverrunsBy(t *testing.T) {
	n, answers, rules := rigPlan(t, "sealed-filter", func(m *plumbing.Model) {
		for _, id := range []string{"x", "y"} {
			tee := *m.Part("t2")
			tee.ID, tee.Name = id, "Loop tee "+id
			m.Parts = append(m.Parts, tee)
		}
		metres := func(v float64) quantity.Given[quantity.Millimetre] {
			return quantity.Of(quantity.Millimetre(1000*v), quantity.SI)
		}
		for i := range m.Lines {
			if m.Lines[i].From == "t1.b" {
				m.Lines[i].To = "x.a"
			}
		}
		pipe := plumbing.Line{Side: plumbing.Cold, Size: "semi-rigid 12 mm"}
		for _, l := range []struct {
			id, from, to string
			length       float64
		}{{"short", "x.b", "y.a", 0.1}, {"loop", "x.c", "y.c", 2}, {"on", "y.b", "t2.a", 0.1}} {
			pipe.ID, pipe.From, pipe.To, pipe.Length, pipe.Spots = l.id, l.from, l.to, metres(l.length), nil
			if l.id == "loop" {
				pipe.Spots = []plumbing.Spot{{At: metres(1), Height: quantity.Of(quantity.Metre(0.1), quantity.SI)}}
			}
			m.Lines = append(m.Lines, pipe)
		}
		drain := *m.Part("low")
		drain.ID, drain.Place.Height = "tank-drain", quantity.Of(quantity.Metre(0.4), quantity.SI)
		m.Parts = append(m.Parts, drain)
		pipe.ID, pipe.From, pipe.To, pipe.Length, pipe.Side = "tank-out", "fresh.drain", "tank-drain.in", metres(0.2),
			plumbing.Drain
		m.Lines = append(m.Lines, pipe)
	})
	rules = house.Overrun.With(rules, 0.2)
	rules = house.RunOut.With(rules, 0.05)
	a := setting.ForMode(answers, setting.Antifreeze)
	w, err := amount.WeakestPoint(n, answers, a, amount.Drained, rules)
	require.NoError(t, err)
	require.Equal(t, "loop", w.ID, w.Name)
	assert.InDelta(t, 0.05, float64(w.Through), 1e-9)
	water := float64(w.Left/w.Holds) * math.Exp(-0.05/float64(w.Holds))
	assert.InDelta(t, amount.BurstShare(nil, house.Antifreeze.Of(rules))*(1-water), w.Share, 1e-9)
}

// A 10 gal heater behind 20 mm of foam loses 2.2 W a degree; half the volume
// behind twice the jacket less.
func TestHeatersCoolBySizeAndJacket(t *testing.T) {
	v := 10 * quantity.USGallon
	d := math.Cbrt(4 * float64(v) / 1000 / math.Pi)
	k := 0.04*1.5*math.Pi*d*d/0.02 + 1
	assert.InDelta(t, k, amount.HeatLoss(nil, v, 20), 1e-9)
	tau := float64(v) * 0.998 * 4186 / k
	assert.InDelta(t, tau*math.Log(40./20), float64(amount.CoolDown(nil, v, 20, 60, 40)), 1e-6)
	assert.Greater(t, amount.CoolDown(nil, v, 40, 60, 40), amount.CoolDown(nil, v, 20, 60, 40))
	assert.Less(t, amount.CoolDown(nil, v/2, 20, 60, 40), amount.CoolDown(nil, v, 20, 60, 40))
}

func TestProtectionReachesDownTo(t *testing.T) {
	for _, c := range []struct {
		p    amount.Protected
		low  quantity.Celsius
		want bool
	}{
		{amount.Protected{Temp: -46}, -46, true},
		{amount.Protected{Temp: -46}, -46.5, false},
		{amount.Protected{Temp: -46, Colder: true}, -46.5, true},
		{amount.Protected{Temp: -46, Colder: true}, -51, false},
		{amount.Protected{Temp: -46, None: true}, -10, false},
	} {
		assert.Equal(t, c.want, c.p.DownTo(c.low), "%+v at %v", c.p, c.low)
	}
}

// A valve that breaks on little water, in the line to the tank's drain: below
// its mouth it keeps all it holds and is a pocket, above it is dry and none.
func TestAPartThatFrostSensitiveAndIsDryIsNoPocket(t *testing.T) {
	for height, want := range map[quantity.Metre]bool{0.3: true, 0.6: false} {
		n, plan, rules := rigPlan(t, "no-bypass", func(m *plumbing.Model) {
			at := func(h quantity.Metre) plumbing.Place {
				p := m.Part("fresh").Place
				p.Height = quantity.Of(h, quantity.US)
				return p
			}
			m.Parts = append(m.Parts,
				plumbing.Part{ID: "gate", Kind: plumbing.Valve, Name: "Tank drain valve", Place: at(height),
					Normal: "open",
					Data:   plumbing.Data{FrostSensitive: true, HoldUp: quantity.Of(quantity.Litre(0.2), quantity.US)}},
				plumbing.Part{ID: "out", Kind: plumbing.LowPoint, Name: "Tank drain", Place: at(quantity.Metre(0.5)),
					Normal: "closed",
					Data:   plumbing.Data{Bore: quantity.Of(quantity.Millimetre(13), quantity.US)}})
			m.Lines = append(m.Lines,
				plumbing.Line{ID: "down", From: "fresh.drain", To: "gate.a", Side: plumbing.Drain, Size: "PEX 1/2",
					Length: quantity.Of(quantity.Millimetre(500), quantity.US)},
				plumbing.Line{ID: "off", From: "gate.b", To: "out.in", Side: plumbing.Drain, Size: "PEX 1/2",
					Length: quantity.Of(quantity.Millimetre(500), quantity.US)})
		})
		a := setting.ForMode(plan, setting.Antifreeze)
		got := slices.ContainsFunc(amount.Pockets(n, plan, a, amount.Drained, rules), func(p amount.Pocket) bool {
			return p.ID == "gate"
		})
		assert.Equal(t, want, got, "at %v m", height)
	}
}

func TestNoStartKeepsATargetWhereAllIsDrawnOff(t *testing.T) {
	for drawn, want := range map[quantity.Litre]quantity.MgPerLitre{0: 50, 50: 100, 80: 250} {
		got, ok := amount.StartStrength(50, 100, drawn)
		assert.True(t, ok)
		assert.InDelta(t, float64(want), float64(got), 1e-9)
	}
	for _, drawn := range []quantity.Litre{100, 101} {
		_, ok := amount.StartStrength(50, 100, drawn)
		assert.False(t, ok, "%v of 100 L", drawn)
	}
}

// The quickest way to flush is among those that come below the limit; one that
// needs no refill at all is among them.
func TestTheQuickestFlushMayNeedNoRefill(t *testing.T) {
	p := amount.FlushPlan{Ways: []amount.FlushWay{
		{ID: "never", Refills: -1, Time: 60},
		{ID: "at once", Refills: 0, Time: 120},
		{ID: "twice", Refills: 2, Time: 180},
	}}
	require.NotNil(t, p.Quickest())
	assert.Equal(t, "at once", p.Quickest().ID)
	p.Ways = p.Ways[:1]
	assert.Nil(t, p.Quickest())
}

// Half-inch PEX has an inside diameter of 0.475 in, one of 12.3 mm is 0.484 in.
func TestInchesOfAPipeShowThreeDigits(t *testing.T) {
	n, _, _ := rigPlan(t, "no-bypass", func(m *plumbing.Model) {
		m.Lines[0].Size, m.Lines[0].Inside = "", quantity.Of(quantity.Millimetre(12.3), quantity.SI)
	})
	rows := amount.Contents(n, quantity.US).Rows
	var inputs []string
	for _, r := range rows {
		inputs = append(inputs, strings.ReplaceAll(told.Fact(r.Inputs), "\u00a0", " "))
	}
	assert.Contains(t, strings.Join(inputs, "\n"), "d 0.484 in")
}

// A batch may be as strong as the ceiling, not more; how far it is off is told.
func TestABatchIsComparedWithTheTank(t *testing.T) {
	for _, c := range []struct {
		batch, tank, ceiling quantity.MgPerLitre
		says                 string
	}{{200, 150, 200, ""}, {200.1, 150, 200, "above the ceiling"}, {125, 50, 200, "2.5 times as strong"},
		{75, 50, 200, ""}, {75.1, 50, 200, "1.5 times"}, {33, 50, 200, "weaker than"}, {34, 50, 200, ""}} {
		got := amount.CompareBatch(c.batch, c.tank, c.ceiling)
		if c.says == "" {
			assert.Empty(t, got, "%v", c)
		} else {
			assert.Contains(t, told.Fact(got), c.says, "%v", c)
		}
	}
}

// Run empty, joined tanks are dosed on top of both their heels: 1 and 0.5 L.
func TestJoinedTanksStartFromBothHeels(t *testing.T) {
	n, plan, rules := rigPlan(t, "tanks-linked", asItIs)
	rules = house.Start.With(rules, 0)
	d := amount.PlanDoses(n, setting.ForMode(plan, setting.Sanitize), rules)[0]
	assert.InDelta(t, 1.5, float64(d.Start), 1e-9)
}

// Of two tanks the stronger is held below the ceiling: a small one's share can
// be measured only coarsely, while the large one stays below.
func TestTheStrongestTankIsHeldBelowTheCeiling(t *testing.T) {
	apart := 0
	for above := 0.0; above < 0.1; above += 0.004 {
		n, plan, rules := rigPlan(t, "tanks-linked", func(m *plumbing.Model) {
			m.Part("right").Data.Capacity = quantity.Of(quantity.Litre(3.3), quantity.SI)
		})
		a := setting.ForMode(plan, setting.Sanitize)
		free := amount.PlanDoses(n, a, rules)[0]
		rules = house.Ceiling.With(rules, amount.Strength(free.Exact, free.Tank,
			free.Product)*quantity.MgPerLitre(1+above))
		d := amount.PlanDoses(n, a, rules)[0]
		require.Len(t, d.Tanks, 2)
		weak, strong := d.Tanks[0].Filled, d.Tanks[1].Filled
		if weak > strong {
			weak, strong = strong, weak
		}
		assert.Equal(t, strong > d.Ceiling, !d.Why.IsZero(), "%.1f and %.1f mg/L under %.1f", weak, strong, d.Ceiling)
		if weak <= d.Ceiling && d.Ceiling < strong {
			apart++
		}
	}
	assert.Positive(t, apart, "the ceiling lies between the two at times")
}

// With the lines still full the front of the antifreeze mixes with a share of
// the water that it pushes out: the house's smear, and no more.
func TestFullLinesLeaveTheSmearOfTheFront(t *testing.T) {
	thinned := func(smear float64) float64 {
		n, plan, rules := rigPlan(t, "in-turns", func(m *plumbing.Model) {
			// The galley alone: one setting does it.
			m.Parts = slices.DeleteFunc(m.Parts, func(p plumbing.Part) bool {
				return p.ID == "rear" || p.ID == "split" || p.ID == "low" || p.ID == "t2"
			})
			m.Lines = slices.DeleteFunc(m.Lines, func(l plumbing.Line) bool {
				return strings.HasPrefix(l.From, "split.") || strings.HasPrefix(l.To, "split.") || l.From == "t2.c"
			})
			for i := range m.Lines {
				if m.Lines[i].To == "t2.a" {
					m.Lines[i].To = "galley.cold"
				}
			}
		})
		rules = house.Smear.With(rules, smear)
		a := setting.ForMode(plan, setting.Antifreeze)
		require.True(t, a.OK, a.Why)
		w, err := amount.WeakestPoint(n, plan, a, amount.Full, rules)
		require.NoError(t, err)
		require.Positive(t, w.Through, "%s is run through", w.Name)
		assert.InDelta(t, smear, float64(w.Left/w.Holds), 1e-9)
		return w.Share
	}
	assert.Less(t, thinned(0.2), thinned(0.1))
}

// A dose close to the ceiling is measured no coarser than the ceiling allows.
func TestNoMeasureGoesAboveTheCeiling(t *testing.T) {
	n, plan, rules := build(t, "gneiss-24-2027")
	a := setting.ForMode(plan, setting.Sanitize)
	free := amount.PlanDoses(n, a, rules)[0]
	exact := amount.Strength(free.Exact, free.Tank, free.Product)
	require.Greater(t, float64(free.Filled), float64(exact)*1.01, "the usual measure lies above the dose")
	// A ceiling half as high again leaves the measure as it is.
	rules = house.Ceiling.With(rules, exact*1.5)
	d := amount.PlanDoses(n, a, rules)[0]
	assert.Equal(t, free.Measured, d.Measured)
	assert.Zero(t, d.Why)
	for _, above := range []float64{0.01, 0.02} {
		rules = house.Ceiling.With(rules, exact*quantity.MgPerLitre(1+above))
		d := amount.PlanDoses(n, a, rules)[0]
		assert.LessOrEqual(t, float64(d.Filled), float64(d.Ceiling)*(1+1e-9), "%v above", above)
		assert.Zero(t, d.Why, "%v above", above)
	}
}
