package report_test

import (
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/amount"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/report"
	"coldtap/internal/core/setting"
	"coldtap/internal/rig"
	"coldtap/internal/rig/told"
	"coldtap/internal/sample"
	"coldtap/internal/tables"
)

type built struct {
	net  *plumbing.Network
	plan []setting.Answer
}

func world(t testing.TB) map[string]built {
	t.Helper()
	list := map[string]built{}
	models, err := demo.Models()
	require.NoError(t, err)
	for _, m := range models {
		m, err := m.Build(m.StandardOptions()...)
		require.NoError(t, err)
		n, err := plumbing.NewNetwork(m)
		require.NoError(t, err)
		list[m.ID] = built{n, rig.Plan(t, n)}
	}
	return list
}

// Whatever the house chooses, the parts of every worksheet come to its total,
// the strength after topping up lies between nothing and that of the filled
// tank, and rounding carries no dose above a limit.
func TestWorksheetsAddUpAndDosesStayBelowLimitsWhateverIsChosen(t *testing.T) {
	for id, b := range world(t) {
		for _, seed := range sample.Seeds(t, 4, 40) {
			rng := rand.New(rand.NewPCG(seed, 11))
			h := house.Usual(b.net.Model.System())
			h = house.Target.With(h, quantity.MgPerLitre(10+140*rng.Float64()))
			h = house.Ceiling.With(h, quantity.MgPerLitre(100+300*rng.Float64()))
			h = house.Bleach.With(h, quantity.Percent(1+14*rng.Float64()))
			h = house.Over.With(h, 0.25*rng.Float64())
			h = house.Start.With(h, rng.Float64()*0.9)
			h = house.Overrun.With(h, quantity.Litre(rng.Float64()))
			h = house.Helper.With(h, rng.IntN(2) == 0)
			h = house.SupplyChlorine.With(h, quantity.MgPerLitre(5*rng.Float64()))
			h = house.FlushAbove.With(h, quantity.MgPerLitre(0.1+3*rng.Float64()))
			r := report.New(b.net, b.plan, h, report.Ask{State: amount.LineStates()[rng.IntN(3)],
				Order: amount.Order(rng.IntN(2))})
			for _, table := range tables.Of(&r) {
				if len(table.Head) != 7 || table.Head[4] != "Litres" {
					continue
				}
				sum, last := 0.0, len(table.Rows)-1
				for _, row := range table.Rows[:last] {
					sum += row[4].(float64)
				}
				assert.InDelta(t, table.Rows[last][4].(float64), sum, 1e-9, "%s: %s", id, table.Name)
			}
			if !r.Dose.Why.IsZero() {
				assert.NotEmpty(t, r.Findings, id)
				continue
			}
			assert.GreaterOrEqual(t, float64(r.Dose.Final), float64(house.Target.Of(h))-1e-6, id)
			assert.LessOrEqual(t, r.Dose.Final, r.Dose.Filled, id)
			assert.LessOrEqual(t, float64(r.Dose.Filled), float64(house.Ceiling.Of(h))+1e-9, id)
			for _, batch := range r.Dose.Batches {
				assert.LessOrEqual(t, float64(batch.Strength), float64(house.Ceiling.Of(h))+1e-6, id)
			}
			if r.Way != nil {
				end := float64(r.Way.Left[len(r.Way.Left)-1])
				assert.LessOrEqual(t, end, float64(r.Flush.Limit)+1e-9, id)
				assert.Greater(t, end, float64(house.SupplyChlorine.Of(h))-1e-9, id)
			}
		}
	}
}

func TestScheduleForwardsAndBackwardsAreTheSameStretches(t *testing.T) {
	start := time.Date(2027, 4, 3, 20, 30, 0, 0, time.UTC)
	for id, b := range world(t) {
		h := house.Usual(b.net.Model.System())
		there := report.New(b.net, b.plan, h, report.Ask{Start: start})
		if there.Way == nil {
			continue
		}
		back := report.New(b.net, b.plan, h, report.Ask{Ready: there.Schedule.Ready})
		assert.Equal(t, there.Schedule, back.Schedule, id)
		var soak time.Duration
		for _, s := range there.Schedule.Stages {
			if s.Name.ID == "stage.soak" {
				soak = s.To.Sub(s.From)
				assert.False(t, s.Attended)
			}
		}
		assert.Equal(t, 8*time.Hour, soak, id)
	}
}

// What an open bypass costs is told only where both ways were worked out.
func TestAnOpenBypassCostsTheDifference(t *testing.T) {
	in, past := amount.AntifreezeSheet{}, amount.AntifreezeSheet{}
	in.Total, past.Total = 40, 2
	for _, c := range []struct {
		in, past *amount.AntifreezeSheet
		costs    float64
	}{{&in, &past, 38}, {nil, &past, 0}, {&in, nil, 0}, {nil, nil, 0}} {
		r := report.Report{HeaterIn: c.in, Chosen: c.past}
		assert.InDelta(t, c.costs, float64(r.OpenBypass()), 1e-9)
	}
}

// The figures of the travel trailer by hand, from its data sheet alone: a tank
// of 43 gal, a pump of 3.0 gal/min, a heater of 10 gal.
func TestFiguresFollowTheTankByHand(t *testing.T) {
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	m, err = m.Build(m.StandardOptions()...)
	require.NoError(t, err)
	of := func() report.Report {
		n, err := plumbing.NewNetwork(m)
		require.NoError(t, err)
		return report.New(n, rig.Plan(t, n), house.Usual(m.System()), report.Ask{})
	}
	hand := func(r report.Report, gallons float64) {
		litres := gallons * 3.785411784
		first := 50 * litres / (litres - float64(r.Dose.Drawn)) // mg/L before topping up
		assert.InDelta(t, first*litres/52.5, float64(r.Dose.Exact)*1000, 0.01, "mL of bleach with 52.5 mg/mL")
		assert.InDelta(t, (litres+float64(r.Content.Total)+10*3.785411784)*0.998, float64(r.Levels[3].Weight), 0.5,
			"kg")
		fill := r.Times[0]
		assert.InDelta(t, gallons/4*60, float64(fill.Takes), 0.1, "s at 4 gal/min")
		count := int(math.Ceil(gallons / 5))
		assert.Equal(t, count, r.Loads[0].Count, "containers of 5 gal")
	}
	r := of()
	hand(r, 43)
	m.Part("fresh").Data.Capacity = quantity.Of(37*quantity.USGallon, quantity.US)
	smaller := of()
	hand(smaller, 37)
	assert.Less(t, smaller.Dose.Exact, r.Dose.Exact)
	// With the lines pushed through, r = (heel + 10 % of the lines) over tank
	// and lines; one refill is enough for the larger tank, not for the smaller.
	for gallons, x := range map[float64]report.Report{43: r, 37: smaller} {
		// The lines that the sanitizer comes to: not the heater's, shut off at both
		// ends, nor the pick-up hose, the rinse line
		// and the inlet ahead of its check valve.
		lines := float64(x.Content.Total)
		for _, row := range x.Content.Rows {
			if slices.Contains([]string{"heater-cold", "heater-hot", "heater-plug", "heater-relief", "pickup-hose",
				"rinse-line", "city"}, row.Part) {
				lines -= float64(row.Litre)
			}
		}
		share := (0.6*3.785411784 + 0.1*lines) / (gallons*3.785411784 + lines)
		assert.InDelta(t, float64(x.Dose.Filled)*share, float64(x.Flush.Ways[1].Left[0]), 1e-6)
		refills := 1
		if float64(x.Dose.Filled)*share > 1 {
			refills = 2
		}
		assert.Equal(t, refills, x.Flush.Ways[1].Refills)
	}
	assert.Equal(t, 9*time.Hour+27*time.Minute, r.Schedule.Whole(), "15 min, 11 + 7 min, 8 h, 24 + 18 min, 12 min")
	assert.Equal(t, 9*time.Hour+57*time.Minute, smaller.Schedule.Whole(),
		"15 min, 9 + 7 min, 8 h, twice 21 + 16 min, 12 min")
}

// A supply with chlorine of its own can't be flushed below it.
func TestFlushLimitBelowTheSupplyIsRefused(t *testing.T) {
	b := world(t)["gneiss-24-2027"]
	h := house.Usual(quantity.US)
	h = house.SupplyChlorine.With(h, 1.5)
	h = house.FlushAbove.With(h, 0)
	r := report.New(b.net, b.plan, h, report.Ask{})
	assert.Contains(t, told.Fact(r.Flush.Refused), "not above the supply's own 1.5")
	assert.Contains(t, r.Findings, r.Flush.Refused)
	assert.Nil(t, r.Way)
}

// 19 mm new, core 3 mm: at 11 mm (361 − 121)/(361 − 9) of the zinc or
// magnesium is gone, 68 %, after two years; three quarters come 0.2 years on.
func TestAnodeByHand(t *testing.T) {
	b := world(t)["gneiss-24-2027"]
	day := func(y int) time.Time { return time.Date(y, 10, 1, 0, 0, 0, 0, time.UTC) }
	ask := report.Ask{Anode: report.Look{Diameter: 11, On: day(2029), NewOn: day(2027)}}
	r := report.New(b.net, b.plan, house.Usual(quantity.US), ask)
	assert.Empty(t, report.New(b.net, b.plan, house.Usual(quantity.US), report.Ask{}).Care.Anodes, "nobody looked")
	require.Len(t, r.Care.Anodes, 1)
	a := r.Care.Anodes[0]
	assert.InDelta(t, 240./352, a.Used, 1e-9)
	assert.Equal(t, amount.LookSoon, a.Advice)
	assert.WithinDuration(t, day(2029).AddDate(0, 0, 73), a.Next, 2*24*time.Hour, "731 days · (0.75 − 0.682)/0.682")
	ask.Anode = report.Look{Weight: 0.30, New: 0.45, Core: 0.15}
	r = report.New(b.net, b.plan, house.Usual(quantity.US), ask)
	assert.InDelta(t, 0.15/0.30, r.Care.Anodes[0].Used, 1e-9)
	ask.Anode = report.Look{Diameter: 25}
	r = report.New(b.net, b.plan, house.Usual(quantity.US), ask)
	assert.ErrorContains(t, r.Care.Anodes[0].Wrong, "not thicker")
}

func TestAirSchoolsAgainstTheWeakestPart(t *testing.T) {
	b := world(t)["feldspar-c7-2027"]
	r := report.New(b.net, b.plan, house.Usual(quantity.SI), report.Ask{})
	over := map[string]bool{}
	for _, s := range r.AirSchools() {
		over[s.Pressure] = s.Over
	}
	require.Len(t, over, 4)
	for s, yes := range over {
		p, err := quantity.Parse[quantity.Kilopascal](s[:strings.Index(s, " (")])
		require.NoError(t, err)
		assert.Equal(t, float64(p) > math.Min(345, float64(r.Pressure.Water)), yes, s)
	}
}

// What is too much is found, with its figures.
func TestOverloadOverdoseAirAndGreyTankAreFound(t *testing.T) {
	for what, c := range map[string]struct {
		change func(*plumbing.Model, *house.House)
		ask    report.Ask
		words  []string
	}{
		"overload": {func(m *plumbing.Model, _ *house.House) {
			m.Carrying = quantity.Of(quantity.Kilogram(200), quantity.SI)
		}, report.Ask{}, []string{"205 kg", "more than the carrying capacity of", "200 kg"}},
		"overdose": {func(_ *plumbing.Model, h *house.House) {
			*h = house.Ceiling.With(house.Target.With(*h, 150), 140)
		}, report.Ask{}, []string{"above the ceiling of 140"}},
		"air": {func(m *plumbing.Model, _ *house.House) {
			m.Part("strainer").Data.Rating = quantity.Of(30*quantity.PSI, quantity.US)
		}, report.Ask{}, []string{"40 psi", "over this model's ceiling of", "30 psi", "Pump strainer stands no more"}},
		"grey": {func(*plumbing.Model, *house.House) {}, report.Ask{Way: 3},
			[]string{"The grey tank of 39.0", "filled 5 times"}},
	} {
		m, err := demo.Model("gneiss-24-2027")
		require.NoError(t, err)
		m, err = m.Build(m.StandardOptions()...)
		require.NoError(t, err)
		h := house.Usual(quantity.US)
		c.change(m, &h)
		n, err := plumbing.NewNetwork(m)
		require.NoError(t, err)
		found := strings.ReplaceAll(told.All(report.New(n, rig.Plan(t, n), h, c.ask).Findings), "\u00a0", " ")
		for _, words := range c.words {
			assert.Contains(t, found, words, what)
		}
	}
}

func BenchmarkReport(b *testing.B) {
	w := world(b)["gneiss-24-2027"]
	h := house.Usual(quantity.US)
	for b.Loop() {
		report.New(w.net, w.plan, h, report.Ask{})
	}
}
