package amount_test

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/amount"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/rig"
	"coldtap/internal/rig/told"
)

// bore is litres a foot or a metre of a round bore, worked out here.
func perFoot(inch float64) float64 { return math.Pi / 4 * inch * inch * 12 * 0.016387064 }
func perMetre(mm float64) float64  { return math.Pi / 4 * mm * mm / 1000 }

func build(t testing.TB, id string) (*plumbing.Network, []setting.Answer, house.House) {
	t.Helper()
	m, err := demo.Model(id)
	require.NoError(t, err)
	b, err := m.Build(m.StandardOptions()...)
	require.NoError(t, err)
	n, answers := plan(t, b)
	return n, answers, house.Usual(m.System())
}

// By hand: the feet or metres of each size, added up from the line lists without the
// fill hoses, and
// what the small parts hold.
func TestContentAndWeightOfEveryModelByHand(t *testing.T) {
	const floz = 0.0295735295625
	hand := map[string]struct{ lines, tank, heater float64 }{
		"gneiss-24-2027": {112*perFoot(0.485) + 11.5*perFoot(0.5) + 3*perFoot(0.350) + 1./12*perFoot(0.75) +
			1./12*perFoot(0.5) + (2+4+1)*floz, 43 * gal, 10 * gal},
		"ashlar-20-2026": {74.16666667*perFoot(0.485) + 65./12*perFoot(0.5) + 2*perFoot(0.350) + 2./12*perFoot(0.5) +
			(2+4+1+1)*floz, 34 * gal, 6 * gal},
		"ashlar-20-2027": {76*perFoot(0.485) + 65./12*perFoot(0.5) + 2*perFoot(0.350) + 2./12*perFoot(0.5) +
			(2+4+1+1)*floz, 37 * gal, 6 * gal},
		"schist-31-2027": {5*perFoot(0.681) + 173.66666667*perFoot(0.485) + 0.5*perFoot(0.5) + 1./12*perFoot(0.25) +
			43*perFoot(0.350) + (1+2+5+6+4)*floz + (0.45+0.15)*gal, 94 * gal, 0.4 * gal},
		"marl-15-2027": {24.83333333*perFoot(0.485) + 10./12*perFoot(0.5) + 2*perFoot(0.350) + 13*perFoot(0.375) +
			(2+4+2+4)*floz, 110, 0},
		"feldspar-c7-2027": {23.35*perMetre(9) + 0.3*perMetre(19) + 1.2*perMetre(10) + 0.12*perMetre(12) + 0.03 + 0.05 +
			0.1, 128, 12},
		"tuff-9-2027": {12.67*perMetre(9) + 0.18*perMetre(12) + 0.01 + 0.06 + 0.08 + 0.02, 84, 1.2},
	}
	for id, want := range hand {
		n, _, _ := build(t, id)
		assert.InDelta(t, want.lines, float64(amount.Contents(n, n.Model.System()).Total), 0.002, id)
		all := (want.lines + want.tank + want.heater) * 0.998
		levels := amount.Levels(n)
		assert.InDelta(t, all, float64(levels[len(levels)-1].Weight), 0.01, id)
		assert.InDelta(t, float64(n.Model.Carrying.Value())-all, float64(levels[len(levels)-1].Left), 0.01, id)
		// The dose by hand: what the lines take is drawn off and topped up.
		a := setting.ForMode(answersOf(t, n), setting.Sanitize)
		if !a.OK {
			continue
		}
		doses := amount.PlanDoses(n, a, house.Usual(n.Model.System()))
		if len(doses) > 1 {
			continue
		}
		d := doses[0]
		start := 50 * want.tank / (want.tank - float64(d.Drawn))
		assert.InDelta(t, start*want.tank/(10000*5.25), float64(d.Exact), 1e-9, id)
		assert.GreaterOrEqual(t, float64(d.Final), 50-1e-9, id)
		assert.LessOrEqual(t, float64(d.Filled), 200.0, id)
	}
}

func answersOf(t *testing.T, n *plumbing.Network) []setting.Answer {
	t.Helper()
	return rig.Plan(t, n)
}

// Below the supply's own chlorine nothing comes to a limit, at it neither.
func TestNoLimitIsReachedAtTheSupplysOwn(t *testing.T) {
	assert.True(t, math.IsInf(amount.Through(55, 1, 1), 1))
	assert.True(t, math.IsInf(amount.Through(55, 1, 0.5), 1))
	assert.InDelta(t, math.Log(54), amount.Through(55, 1, 2), 1e-9)
	assert.Zero(t, amount.WarmUp(nil, 20, 10, 60, 0))
	assert.Zero(t, amount.WarmUp(nil, 20, 60, 60, 1))
	assert.InDelta(t, 20*0.998*4.186*50/(0.5*0.8), float64(amount.WarmUp(nil, 20, 10, 60, 0.5)), 800,
		"a heater of 80 to 85 per cent")
}

func TestFlushWorkedExamples(t *testing.T) {
	r := 1.7 / 44.1
	assert.InDelta(t, 2.12, float64(amount.Washed(55, 0, r, 1)), 0.005)
	assert.InDelta(t, 0.082, float64(amount.Washed(55, 0, r, 2)), 0.0005)
	assert.InDelta(t, 4.01, amount.Through(55, 0, 1), 0.005)
	assert.Equal(t, 2, amount.Refills(55, 0, 1, r))
	assert.Equal(t, 0, amount.Refills(0.5, 0, 1, r))
	// A supply of 0.8 mg/L: after one refill 0.8 + 54.2·r = 2.89, after two 0.88.
	assert.InDelta(t, 0.8+54.2*r, float64(amount.Washed(55, 0.8, r, 1)), 1e-9)
	assert.Equal(t, 2, amount.Refills(55, 0.8, 1.8, r))
	assert.Equal(t, -1, amount.Refills(55, 2, 1.5, r), "below the supply's own")

	n, answers, rules := build(t, "gneiss-24-2027")
	rules = house.SupplyChlorine.With(rules, 2)
	rules = house.FlushAbove.With(rules, -0.5)
	p := amount.PlanFlush(n, answers, 55, rules)
	assert.Contains(t, told.Fact(p.Refused), "is not above the supply's own")
	rules = house.SupplyChlorine.With(rules, 0.5)
	rules = house.FlushAbove.With(rules, 1)
	p = amount.PlanFlush(n, answers, 55, rules)
	require.Len(t, p.Ways, 3)
	for _, w := range p.Ways {
		require.NotEmpty(t, w.Left, w.Name)
		assert.LessOrEqual(t, float64(w.Left[len(w.Left)-1]), 1.5+1e-9, w.Name)
		for i := 1; i < len(w.Left); i++ {
			assert.Less(t, w.Left[i], w.Left[i-1])
		}
	}
	assert.Less(t, float64(p.Ways[0].Water), float64(p.Ways[2].Water), "draining first takes less water here")
}

func TestDrainTimeWorkedExample(t *testing.T) {
	area := 43 * gal / 1000 / (12.75 * 0.0254)
	got := amount.DrainTime(nil, amount.Prism(area), 12.7, quantity.Metre(12.75*0.0254), 0)
	assert.InDelta(t, 27.4, float64(got)/60, 0.05)
	// A wedge whose surface grows with the height empties in two thirds of the
	// prism's time that has its greatest area: ∫√h dh against ∫1/√h dh, one third.
	h := 0.3
	wedge := amount.DrainTime(nil, func(z float64) float64 { return area * z / h }, 12.7, quantity.Metre(h), 0)
	prism := amount.DrainTime(nil, amount.Prism(area), 12.7, quantity.Metre(h), 0)
	assert.InEpsilon(t, float64(prism)/3, float64(wedge), 1e-6)
	// A prism's closed form, from one height to another.
	a := math.Pi / 4 * 0.0127 * 0.0127
	part := amount.DrainTime(nil, amount.Prism(area), 12.7, 0.3, 0.1)
	assert.InEpsilon(t, area/(0.62*a)*math.Sqrt(2/9.80665)*(math.Sqrt(0.3)-math.Sqrt(0.1)), float64(part), 1e-9)
}

func TestProtectionFollowsTheTable(t *testing.T) {
	for _, c := range []struct{ share, freeze, burst float64 }{{0.18, -7, -10.75}, {0.36, -18, -46}, {0.50, -34, -46},
		{0.28, -11.5454545, -23}} {
		assert.InDelta(t, c.freeze, float64(amount.FreezePoint(nil, c.share).Temp), 1e-6)
		assert.InDelta(t, c.burst, float64(amount.BurstPoint(nil, c.share).Temp), 1e-6)
	}
	assert.True(t, amount.BurstPoint(nil, 0.119).None)
	assert.Equal(t, quantity.Celsius(-46), amount.BurstPoint(nil, 0.35).Temp, "a plateau gives its coldest end")
	assert.False(t, amount.BurstPoint(nil, 0.35).Colder)
	assert.True(t, amount.BurstPoint(nil, 0.36).Colder)
	for share := 0.12; share < 0.349; share += 0.003 {
		assert.InDelta(t, share, amount.BurstShare(nil, amount.BurstPoint(nil, share).Temp), 1e-6)
	}
}

func TestTheWeakestPointIsNamed(t *testing.T) {
	n, answers, rules := build(t, "gneiss-24-2027")
	a := setting.ForMode(answers, setting.Antifreeze)
	w, err := amount.WeakestPoint(n, answers, a, amount.Drained, rules)
	require.NoError(t, err)
	// The line to the outside shower hangs in a pocket, and only the overrun of
	// its own end goes through it: 0.236 L of water of 0.327 L, 0.15 L after it.
	assert.Contains(t, told.Fact(w.Name), "utside shower")
	assert.InDelta(t, 0.35*(1-0.236/0.327*0.632), w.Share, 1e-3, "e^(−0.15/0.327) = 0.632")
	assert.False(t, w.Enough, "−22 °F is asked for")
	blown, err := amount.WeakestPoint(n, answers, a, amount.Blown, rules)
	require.NoError(t, err)
	assert.Greater(t, blown.Share, w.Share)
}

func TestRecipesOnOneScale(t *testing.T) {
	_, _, rules := build(t, "gneiss-24-2027")
	list := amount.Scale(amount.Quoted(), 5.25, rules)
	var names []string
	for _, j := range list {
		names = append(names, told.Fact(j.Said()))
	}
	assert.Equal(t, []string{"1 cup to 12 gal", "½ cup to 25 gal", "3 tbsp to 10 gal", "¼ cup to 15 gal",
		"1 mL per litre", "2 tsp to 25 gal, to keep it fresh"}, names)
	assert.Contains(t, told.Fact(list[0].Refused), "above the ceiling")
	assert.Zero(t, list[1].Refused)
	assert.Contains(t, told.Fact(list[5].Warning), "drinking limit of")
	strong := amount.Quoted()[0].Judge(8.25, rules)
	assert.InDelta(t, 85.9, float64(strong.Strength), 0.05)
	assert.Contains(t, told.Fact(strong.Warning), "It was written for bleach of")
}

func TestBatchesAndMixUps(t *testing.T) {
	for _, b := range amount.Batches(0.16, 5.25, quantity.USGallon, 200) {
		assert.LessOrEqual(t, float64(b.Strength), 200+1e-9)
		assert.InDelta(t, 0.16, float64(b.Bleach)*float64(b.Count), 1e-12)
	}
	assert.Contains(t, told.Fact(amount.CompareBatch(165, 55, 200)), "3.0 times as strong")
	assert.Contains(t, told.Fact(amount.CompareBatch(260, 55, 200)), "above the ceiling")
	assert.Empty(t, amount.CompareBatch(55, 53, 200))
	five := 5 * quantity.FluidOunce
	assert.Contains(t, told.Fact(amount.Confusion(5*quantity.Tablespoon, "tablespoons", five)),
		"were fluid ounces meant instead of tablespoons?")
	assert.Contains(t, told.Fact(amount.Confusion(43, "", 43*quantity.USGallon)),
		"were litres written where gallons were meant?")
	assert.Empty(t, amount.Confusion(five, "", five))
	assert.Empty(t, amount.Confusion(1.6*five, "", five), "nothing explains it")
}

func TestHeaterCare(t *testing.T) {
	used, err := amount.AnodeUsed(11, 19, 3)
	require.NoError(t, err)
	assert.InDelta(t, 0.68, used, 0.005)
	assert.Equal(t, amount.LookSoon, amount.AnodeAdvice(used, 0.75))
	assert.Equal(t, amount.Replace, amount.AnodeAdvice(used, 0.5))
	for _, wrong := range [][3]quantity.Kilogram{{0.2, 0.1, 0.1}, {0.2, 0.3, -0.1}, {0.4, 0.3, 0.1}, {0.05, 0.1, 0.2}} {
		_, err = amount.AnodeUsedByWeight(wrong[0], wrong[1], wrong[2])
		assert.Error(t, err, "%v", wrong)
	}
	for _, wrong := range [][2]quantity.Millimetre{{3, 3}, {2, 3}, {19, -1}} {
		_, err = amount.AnodeUsed(2, wrong[0], wrong[1])
		assert.Error(t, err, "%v", wrong)
	}
	_, err = amount.AnodeUsed(25, 19, 3)
	assert.ErrorContains(t, err, "read in another unit")
	byWeight, err := amount.AnodeUsedByWeight(0.25, 0.45, 0.05)
	require.NoError(t, err)
	assert.InDelta(t, 0.5, byWeight, 1e-9)
	one, two := time.Date(2025, 10, 1, 0, 0, 0, 0, time.UTC), time.Date(2026, 10, 1, 0, 0, 0, 0, time.UTC)
	next, wears := amount.NextChange(one, two, 0.2, 0.475, 0.75)
	require.True(t, wears)
	assert.Equal(t, time.Date(2027, 10, 1, 0, 0, 0, 0, time.UTC), next)
	// 2 gal of 5 % in 10 gal: 1 %; 378.5 g of acid dissolve 315.5 g of scale.
	v, err := amount.Descale(2*quantity.USGallon, 5, 10*quantity.USGallon)
	require.NoError(t, err)
	assert.InDelta(t, 1, float64(v.Strength), 1e-9)
	assert.InDelta(t, 2*gal*50/1000*100.1/120.1, float64(v.Scale), 1e-9)
	strong, err := amount.Descale(1, 25, 10)
	require.NoError(t, err)
	assert.Contains(t, told.Fact(strong.Caution), "gloves")
	// 10 gal from 10 to 60 °C with 12 000 BTU/h: 37.85·0.998·4.186·50/(3.517·0.85) s.
	assert.InDelta(t, 10*gal*0.998*4.186*50/(3.5168*0.85), float64(amount.WarmUp(nil, 10*quantity.USGallon, 10, 60,
		12000*quantity.BTUPerHour)), 3)
}

func TestSchedulesCrossMidnight(t *testing.T) {
	day := time.Date(2026, 11, 24, 0, 0, 0, 0, time.UTC)
	start, err := amount.Clock("18:30", day)
	require.NoError(t, err)
	stages := []amount.Stage{{Name: fact.Of("dose"), Lasts: 3600, Attended: true},
		{Name: fact.Of("soak"), Lasts: 11 * 3600}, {Name: fact.Of("flush"), Lasts: 6000, Attended: true}}
	s := amount.Forwards(stages, start)
	assert.Equal(t, "06:30", s.Stages[1].To.Format("15:04"))
	assert.Equal(t, "08:10", s.Ready.Format("15:04"))
	assert.Equal(t, 25, s.Ready.Day())
	assert.Equal(t, 160*time.Minute, s.Attended())
	back := amount.Backwards(stages, s.Ready)
	assert.Equal(t, s, back)
	for _, bad := range []string{"25:00", "soon", "7:61", ""} {
		_, err := amount.Clock(bad, day)
		assert.ErrorContains(t, err, "is not a time of day", bad)
	}
	pm, err := amount.Clock("6:30 pm", day)
	require.NoError(t, err)
	assert.Equal(t, start, pm)
}

func TestPressureCeilingAndItsSchools(t *testing.T) {
	n, _, rules := build(t, "gneiss-24-2027")
	c := amount.PressureCeiling(n, rules)
	require.NotNil(t, c.By)
	assert.Empty(t, c.Findings)
	rules = house.Air.With(rules, 50*quantity.PSI)
	n.Model.Part("strainer").Data.Rating = quantity.Of(45*quantity.PSI, quantity.US)
	c = amount.PressureCeiling(n, rules)
	assert.Equal(t, "strainer", c.By.ID)
	assert.InDelta(t, 45*6.894757, float64(c.Chosen), 1)
	assert.Contains(t, told.All(c.Findings), "over this model's ceiling")
}

func TestOverloadIsFound(t *testing.T) {
	n, _, _ := build(t, "gneiss-24-2027")
	n.Model.Carrying = quantity.Of(quantity.Kilogram(150), quantity.SI)
	assert.Contains(t, told.All(amount.Weights(n).Findings), "more than the carrying capacity")
	// From six tenths of what it carries on that is worth a word, with how much.
	total := amount.Weigh(nil, amount.AllWater(n))
	for share, says := range map[float64]string{0.99: "Water takes 99", 0.75: "Water takes 75", 0.61: "Water takes 61",
		0.59: ""} {
		n.Model.Carrying = quantity.Of(total/quantity.Kilogram(share), quantity.SI)
		words := strings.ReplaceAll(told.All(amount.Weights(n).Findings), "\u00a0", " ")
		if says == "" {
			assert.Empty(t, words)
		} else {
			assert.Contains(t, words, says, "%v", share)
		}
	}
}

func TestJugStopsComeToTheSheet(t *testing.T) {
	for _, id := range []string{"gneiss-24-2027", "schist-31-2027", "ashlar-20-2027", "feldspar-c7-2027",
		"tuff-9-2027"} {
		n, answers, rules := build(t, id)
		a := setting.ForMode(answers, setting.Antifreeze)
		require.True(t, a.OK)
		sheet := amount.Antifreeze(n, a, amount.Drained, rules)
		var first [2]quantity.Litre
		for _, order := range []amount.Order{amount.FarthestFirst, amount.NearestFirst} {
			stops := amount.JugStops(n, a, order, rules)
			first[order] = stops[0].Takes
			for _, p := range n.PartsOf(plumbing.RoleMachine) {
				if strings.HasPrefix(told.Fact(stops[0].Name), p.Name) {
					first[order] -= p.Data.Cycle.Value()
				}
			}
			// All but the seals, the accumulator and the jugs' heel.
			rest := sheet.Total + sheet.Cycles.Total - stops[len(stops)-1].Sum
			assert.Greater(t, float64(rest), 0.0, id)
			assert.Less(t, float64(rest), 4.0, id)
		}
		assert.Greater(t, float64(first[0]), float64(first[1]), "%s: the farthest pays for the trunk", id)
	}
}

func TestHouseRulesAreReadAndKeepTheirOwner(t *testing.T) {
	h := house.Usual(quantity.US)
	for _, sys := range []quantity.System{quantity.US, quantity.SI} {
		for _, r := range house.Rules() {
			text := h.Text(r.ID, sys)
			again, err := h.With("x", map[string]string{r.ID: text})
			require.NoError(t, err, "%s: %q", r.ID, text)
			assert.Equal(t, text, again.Text(r.ID, sys), r.ID)
			for _, s := range r.Schools {
				_, err := h.With("x", map[string]string{r.ID: s,
					"soak-high": map[bool]string{true: "24 h"}[r.ID == "soak-low"]})
				assert.NoError(t, err, "%s: %q", r.ID, s)
			}
		}
	}
	own, err := h.With("the house", map[string]string{"target": "55 mg/L"})
	require.NoError(t, err)
	model, err := own.With("Gneiss 24", map[string]string{"bleach": "8.25 %"})
	require.NoError(t, err)
	assert.Equal(t, []string{"the house", "Gneiss 24", "usual in the trade"},
		[]string{model.By("target"), model.By("bleach"), model.By("jug")})
	assert.Equal(t, "usual in the trade", own.By("bleach"), "the house is not changed by a model")
	for id, bad := range map[string]string{"target": "5000 mg/L", "bleach": "strong", "soak-low": "20 h",
		"helper": "maybe", "smear": "-3 %", "film": "20.1 %"} {
		_, err := h.With("x", map[string]string{id: bad})
		assert.Error(t, err, id)
	}
	for id, just := range map[string]string{"film": "20 %", "smear": "50 %", "start": "0 %", "target": "100 mg/L"} {
		_, err := h.With("x", map[string]string{id: just})
		assert.NoError(t, err, "%s: what lies at the edge is sensible", id)
	}
}

// Whatever the tank, the dose and what is drawn off: the strength after topping
// up lies between that of what was mixed, rounding never goes above the
// ceiling, and sheets are the sum of their rows.
func TestDosesByProperty(t *testing.T) {
	rng := rand.New(rand.NewPCG(55, 5))
	n, answers, rules := build(t, "gneiss-24-2027")
	a := setting.ForMode(answers, setting.Sanitize)
	for range 400 {
		n.Model.Part("fresh").Data.Capacity = quantity.Of(quantity.Litre(20+rng.Float64()*400), quantity.SI)
		rules = house.Target.With(rules, quantity.MgPerLitre(10+rng.Float64()*150))
		rules = house.Bleach.With(rules, quantity.Percent(3+rng.Float64()*8))
		d := amount.PlanDoses(n, a, rules)[0]
		if !d.Why.IsZero() {
			continue
		}
		require.LessOrEqual(t, float64(d.Filled), float64(d.Ceiling)+1e-9)
		require.GreaterOrEqual(t, float64(d.Final), float64(d.Target)-1e-9)
		require.LessOrEqual(t, float64(d.Final), float64(d.Filled))
		require.InDelta(t, float64(sumOf(d.Lines)), float64(d.Lines.Total), 1e-9)
		w := quantity.MgPerLitre(rng.Float64() * 3)
		top := amount.TopUp(d.Filled, d.Tank, d.Drawn, w)
		require.GreaterOrEqual(t, float64(top), float64(min(w, d.Filled))-1e-9)
		require.LessOrEqual(t, float64(top), float64(max(w, d.Filled))+1e-9)
	}
	for _, id := range []string{"schist-31-2027", "feldspar-c7-2027"} {
		n, answers, rules := build(t, id)
		for _, s := range amount.WinterSchools(n, answers, rules) {
			if s.Sheet != nil {
				assert.InDelta(t, float64(sumOf(s.Sheet.Worksheet)), float64(s.Sheet.Total), 1e-9, "%s %s", id, s.ID)
			}
		}
	}
}

func TestWinterSchoolsSideBySide(t *testing.T) {
	n, answers, rules := build(t, "gneiss-24-2027")
	by := map[string]amount.WinterSchool{}
	for _, s := range amount.WinterSchools(n, answers, rules) {
		by[s.ID] = s
	}
	assert.Nil(t, by["air"].Sheet)
	assert.Greater(t, float64(by["air"].Stays), 0.1)
	assert.False(t, by["tank"].Advised)
	assert.Greater(t, float64(by["tank"].Sheet.Total), float64(by["pump"].Sheet.Total), "the heel costs")
	assert.Greater(t, by["air-then"].Weakest.Share, by["pump"].Weakest.Share)
	tuff, answers, rules := build(t, "tuff-9-2027")
	for _, s := range amount.WinterSchools(tuff, answers, rules) {
		if s.ID == "hand-pump" || s.ID == "air" {
			assert.Contains(t, told.Fact(s.Cant), "no city water inlet")
		}
	}
}
