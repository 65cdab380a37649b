package amount_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/rig/told"
)

// At the edges of what can be, to the last figure: what is just allowed is
// worked out, what is just not is refused with nothing beside the reason.

func TestAnodesAtTheirEdges(t *testing.T) {
	for _, c := range []struct {
		now, fresh, core quantity.Millimetre
		used             float64
		refused          bool
	}{
		{19, 19, 3, 0, false},            // as new
		{3, 19, 3, 1, false},             // down to the core
		{2, 19, 3, 1, false},             // into it
		{0.8, 1.2, 0.5, 0.672269, false}, // thin ones: 1 − (0.64−0.25)/(1.44−0.25)
		{3, 3, 3, 0, true},               // no thicker than its core
		{2, 3, 4, 0, true},
		{2, 19, 0, 0, true}, // no core
		{19.1, 19, 3, 0, true},
	} {
		used, err := amount.AnodeUsed(c.now, c.fresh, c.core)
		assert.Equal(t, c.refused, err != nil, "%v", c)
		assert.InDelta(t, c.used, used, 1e-6, "%v", c)
	}
	for _, c := range []struct {
		now, fresh, core quantity.Kilogram
		used             float64
		refused          bool
	}{
		{0.45, 0.45, 0.05, 0, false}, {0.02, 0.45, 0.05, 1, false}, {0.1, 0.4, 0, 0.75, false},
		{0.4, 0.4, 0.4, 0, true}, {0.1, 0.4, -0.1, 0, true}, {0.5, 0.45, 0.05, 0, true},
	} {
		used, err := amount.AnodeUsedByWeight(c.now, c.fresh, c.core)
		assert.Equal(t, c.refused, err != nil, "%v", c)
		assert.InDelta(t, c.used, used, 1e-9, "%v", c)
	}
	for used, words := range map[float64]string{
		1: "The core wire shows", 1.2: "The core wire shows", 0.99: "Replace it.", 0.75: "Replace it.",
		0.7499: "Half used", 0.5: "Half used", 0.4999: "Put it back",
	} {
		assert.Contains(t, told.Fact(amount.AnodeAdvice(used, 0.75).Said()), words, "%v", used)
	}
}

func TestTheNextAnodeWantsTwoLooks(t *testing.T) {
	day := time.Date(2026, 3, 1, 8, 0, 0, 0, time.UTC)
	for _, c := range []struct {
		later         time.Duration
		first, second float64
		wears         bool
	}{
		{100 * 24 * time.Hour, 0.2, 0.4, true},
		{12 * time.Hour, 0.2, 0.4, true}, // half a day is a time as well
		{0, 0.2, 0.4, false},             // at once
		{-24 * time.Hour, 0.2, 0.4, false},
		{100 * 24 * time.Hour, 0.4, 0.4, false}, // nothing wore
		{100 * 24 * time.Hour, 0.5, 0.4, false},
	} {
		next, wears := amount.NextChange(day, day.Add(c.later), c.first, c.second, 0.75)
		require.Equal(t, c.wears, wears, "%v", c)
		if !wears {
			assert.True(t, next.IsZero(), "%v", c)
		}
	}
	next, _ := amount.NextChange(day, day.AddDate(0, 0, 100), 0.2, 0.4, 0.75)
	assert.Equal(t, day.AddDate(0, 0, 275), next, "0.35 more at 0.2 in 100 days")
}

func TestVinegarAndFreshWaterAtTheirEdges(t *testing.T) {
	for _, c := range []struct {
		vinegar quantity.Litre
		bought  quantity.Percent
		refused bool
	}{{20, 3, false}, {20, 40, false}, {20, 2.99, true}, {20, 40.5, true}, {0, 5, true}, {-1, 5, true}, {40, 5, false},
		{40.1, 5, true}} {
		_, err := amount.Descale(c.vinegar, c.bought, 40)
		assert.Equal(t, c.refused, err != nil, "%v", c)
	}
	// A measure of which 12 % are too much is not taken: the next finer is.
	rules := house.Usual(quantity.US)
	coarser := 0
	for tank := quantity.Litre(40); tank < 400; tank += 7 {
		m, really, over := amount.KeepFresh(tank, 4, 5.25, rules, quantity.US)
		exact := amount.Bleach(4, tank, 5.25)
		assert.Equal(t, quantity.Household(exact, 0.1, quantity.US), m, "%v L", tank)
		if quantity.Household(exact, 0.15, quantity.US) != m {
			coarser++
		}
		assert.Equal(t, really > house.Drinking.Of(rules), over)
	}
	assert.Positive(t, coarser, "for some tanks it matters")
	_, really, _ := amount.KeepFresh(100, 4, 5.25, rules, quantity.US)
	rules = house.Drinking.With(rules, really)
	_, _, over := amount.KeepFresh(100, 4, 5.25, rules, quantity.US)
	assert.False(t, over, "at the limit is not over it")
}

func TestWeightsAtTheirEdges(t *testing.T) {
	n, _, _ := rigPlan(t, "barrel", func(*plumbing.Model) {})
	total := amount.Weigh(nil, amount.AllWater(n))
	carrying := func(c quantity.Kilogram) (*plumbing.Network, amount.Weight) {
		n, _, _ := rigPlan(t, "barrel", func(m *plumbing.Model) { m.Carrying = quantity.Of(c, quantity.SI) })
		return n, amount.Weights(n)
	}
	for _, c := range []struct {
		carrying quantity.Kilogram
		says     string
	}{
		{total * 0.99, "is more than the carrying capacity"},
		{total * 1.01, "99.0\u00a0% of the carrying capacity"},
		{total / 0.61, "of the carrying capacity"},
		{total / 0.59, ""},
		{0.9, "is more than the carrying capacity"}, // less than a kilogram is a figure as well
	} {
		n, f := carrying(c.carrying)
		if c.says == "" {
			assert.Empty(t, f.Findings)
		} else {
			require.Len(t, f.Findings, 1, "%v", c)
			assert.Contains(t, told.Fact(f.Findings[0]), c.says)
		}
		for _, l := range amount.Levels(n) {
			assert.InDelta(t, float64(n.Model.Carrying.Value()-l.Weight), float64(l.Left), 1e-9, "%v", c)
		}
	}
	none, _, _ := rigPlan(t, "barrel", func(*plumbing.Model) {}) // a carrying capacity that nobody gave
	for _, l := range amount.Levels(none) {
		assert.Zero(t, l.Left)
	}
	for _, s := range amount.Weights(none).Steps {
		assert.NotContains(t, told.Fact(s.What), "Carrying capacity")
	}
	count, left := amount.Loads(80, 0)
	assert.Zero(t, count)
	assert.Zero(t, left)
	count, _ = amount.Loads(80, 0.5)
	assert.Equal(t, 160, count)
	count, left = amount.Loads(80, -1)
	assert.Zero(t, count)
	assert.Zero(t, left)
	// A probe's height is told only where the tank's own and its inside height
	// are both given.
	for _, change := range []func(m *plumbing.Model){
		func(m *plumbing.Model) { m.Part("fresh").Data.InsideHeight = quantity.Given[quantity.Millimetre]{} },
		func(m *plumbing.Model) { m.Part("fresh").Place.Height = quantity.Given[quantity.Metre]{} },
	} {
		n, _, _ := rigPlan(t, "barrel", change)
		for _, l := range amount.Levels(n) {
			assert.Zero(t, l.Height)
		}
	}
}

// Antifreeze through the tank takes what the lines take and fills the heel twice: once to push the water out, once for good.
func TestThroughTheTankTheHeelIsFilledTwice(t *testing.T) {
	n, answers, rules := rigPlan(t, "heater-one-valve", func(m *plumbing.Model) {
		m.Part("fresh").Data.Heel = quantity.Of(quantity.Litre(2.5), quantity.SI)
	})
	a := setting.ForMode(answers, setting.Antifreeze)
	lines, through := amount.Antifreeze(n, a, amount.Drained, rules), amount.ThroughTank(n, a, amount.Drained, rules)
	assert.InDelta(t, 5, float64(through.Total-lines.Total), 1e-9)
	assert.Len(t, through.Rows, len(lines.Rows)+1)
}

func TestPressureCeilingsTellWhatLimitsThem(t *testing.T) {
	for _, c := range []struct {
		rating quantity.Kilopascal
		says   string
		air    quantity.Kilopascal
	}{
		{300, "Barrel socket stands no more", 300},
		{345, "50 psi is never exceeded", 345},
		{500, "50 psi is never exceeded", 345},
	} {
		n, _, rules := rigPlan(t, "barrel", func(m *plumbing.Model) {
			m.Part("socket").Data.Rating = quantity.Of(c.rating, quantity.SI)
		})
		rules = house.Air.With(rules, 400)
		p := amount.PressureCeiling(n, rules)
		require.Len(t, p.Findings, 1, "%v", c)
		assert.Contains(t, told.Fact(p.Findings[0]), c.says, "%v", c)
		assert.Equal(t, c.air, p.Air)
		assert.Equal(t, c.air, p.Chosen)
		asked := amount.PressureCeiling(n, house.Air.With(rules, c.air))
		assert.Empty(t, asked.Findings, "%v: as much as may be is not too much", c)
	}
}

// A regulator set to what the weakest part stands is right; a hair above it is
// not. However little a part stands, it counts.
func TestARegulatorAtTheRatingIsRight(t *testing.T) {
	for kpa, wrong := range map[string]bool{"300 kPa": false, "300.5 kPa": true, "200 kPa": false} {
		n, _, rules := rigPlan(t, "basalt-28", func(m *plumbing.Model) {
			for i := range m.Parts {
				m.Parts[i].Data.Rating = quantity.Given[quantity.Kilopascal]{}
			}
			m.Part("pump-main").Data.Rating = kilopascals(t, "300 kPa")
			m.Part("city").Data.Regulator = kilopascals(t, kpa)
		})
		rules = house.Air.With(rules, 100)
		assert.Equal(t, wrong, len(amount.PressureCeiling(n, rules).Findings) > 0, "%v", kpa)
	}
	n, _, rules := rigPlan(t, "barrel", func(m *plumbing.Model) {
		m.Part("socket").Data.Rating = kilopascals(t, "0.5 kPa")
	})
	assert.Equal(t, "socket", amount.PressureCeiling(n, rules).By.ID)
	// A tank's own rating is no limit of the lines.
	n, _, rules = rigPlan(t, "barrel", func(m *plumbing.Model) {
		m.Part("socket").Data.Rating = kilopascals(t, "300 kPa")
		m.Part("fresh").Data.Rating = kilopascals(t, "20 kPa")
	})
	assert.Equal(t, "socket", amount.PressureCeiling(n, rules).By.ID)
}

func kilopascals(t *testing.T, text string) quantity.Given[quantity.Kilopascal] {
	t.Helper()
	g, err := quantity.Read[quantity.Kilopascal](text)
	require.NoError(t, err)
	return g
}

// The table of protection at its own shares, and a hair beside them.
func TestProtectionAtItsRows(t *testing.T) {
	first, last, hair := 0.12, 0.35, 1e-12
	assert.True(t, amount.BurstPoint(nil, first-2*hair).None)
	assert.False(t, amount.BurstPoint(nil, first-hair).None, "as good as the first row")
	assert.True(t, amount.BurstPoint(nil, last+2*hair).Colder)
	assert.False(t, amount.BurstPoint(nil, last+hair).Colder, "as good as the last row")
	assert.InDelta(t, -12, float64(amount.BurstPoint(nil, 0.20-hair).Temp), 1e-9)
	assert.InDelta(t, 0.35, amount.BurstShare(nil, -60), 1e-12, "colder than the table ends")
	assert.InDelta(t, 0.35, amount.BurstShare(nil, -40), 1e-12)
	assert.InDelta(t, 0.33, amount.BurstShare(nil, -34), 1e-12)
}

// A figure that the table ends at holds for a degree more, and no further.
func TestTheTablesEndHoldsADegreeMore(t *testing.T) {
	end := amount.Protected{Temp: -46, Colder: true}
	assert.True(t, end.DownTo(-46))
	assert.True(t, end.DownTo(-47))
	assert.False(t, end.DownTo(-47.1))
	assert.False(t, (amount.Protected{Temp: -46}).DownTo(-46.1))
	assert.True(t, (amount.Protected{Temp: -46}).DownTo(-46))
	assert.False(t, (amount.Protected{Temp: -46, None: true}).DownTo(-40))
}

// A probe that is said to sit above the tank's top tells that it is full.
func TestAProbeAboveTheTankTellsFull(t *testing.T) {
	n, _, _ := rigPlan(t, "barrel", func(m *plumbing.Model) {
		m.Parts = append(m.Parts, plumbing.Part{ID: "p1", Kind: plumbing.Probe, Name: "Top light",
			Data: plumbing.Data{Serves: "fresh", At: quantity.Of(quantity.Millimetre(400), quantity.SI)}})
	})
	levels := amount.Levels(n)
	require.Len(t, levels, 2)
	assert.InDelta(t, 80, float64(levels[1].Low), 1e-9)
	assert.InDelta(t, 80, float64(levels[1].High), 1e-9)
}

// A tank runs out through the narrower of its own bore and its drain's, of
// those that are given, however narrow.
func TestTheNarrowerBoreCounts(t *testing.T) {
	part := func(bore quantity.Millimetre) *plumbing.Part {
		p := &plumbing.Part{}
		if bore > 0 {
			p.Data.Bore = quantity.Of(bore, quantity.SI)
		}
		return p
	}
	for _, c := range [][3]quantity.Millimetre{{13, 20, 13}, {20, 13, 13}, {0, 13, 13}, {13, 0, 13}, {0, 0, 0},
		{0.8, 3, 0.8}, {3, 0.8, 0.8}, {13, 13, 13}} {
		assert.InDelta(t, float64(c[2]), float64(amount.DrainBore(&plumbing.Network{}, part(c[0]), part(c[1]))), 1e-9,
			"%v", c)
	}
}

// Without a flow nothing fills, and no time is told for it.
func TestNothingFillsWithoutAFlow(t *testing.T) {
	assert.Zero(t, amount.FillTime(80, 0))
	assert.Zero(t, amount.FillTime(80, -1))
	assert.InDelta(t, 9600, float64(amount.FillTime(80, 0.5)), 1e-9)
	assert.InDelta(t, 480, float64(amount.FillTime(80, 10)), 1e-9)
}

// A probe at the very bottom is the lowest reading itself.
func TestAProbeAtTheBottomIsTheFirstReading(t *testing.T) {
	n, _, _ := rigPlan(t, "barrel", func(m *plumbing.Model) {
		for _, at := range []float64{0, 150} {
			m.Parts = append(m.Parts, plumbing.Part{ID: fmt.Sprint("p", at), Kind: plumbing.Probe,
				Name: fmt.Sprint("Light at ", at),
				Data: plumbing.Data{Serves: "fresh", At: quantity.Of(quantity.Millimetre(at), quantity.SI)}})
		}
	})
	var names []string
	for _, l := range amount.Levels(n) {
		names = append(names, told.Fact(l.Reading))
	}
	assert.Equal(t, []string{"Light at 0", "Light at 150"}, names)
}

// What enters an accumulator is told with its share to the per cent.
func TestAccumulatorsTellTheirShare(t *testing.T) {
	n, plan, rules := rigPlan(t, "basalt-28", func(*plumbing.Model) {})
	rules = house.Accumulator.With(rules, 0.99)
	a := setting.ForMode(plan, setting.Sanitize)
	found := false
	for _, d := range amount.PlanDoses(n, a, rules) {
		for _, r := range d.Lines.Rows {
			if r.Formula.ID == "formula.share-capacity" {
				found = true
				assert.Contains(t, told.Fact(r.Inputs), "99 % of ")
			}
		}
	}
	assert.True(t, found)
}
