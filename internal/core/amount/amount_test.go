package amount_test

import (
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/amount"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/rig"
	"coldtap/internal/rig/told"
)

const gal = float64(quantity.USGallon)

func TestBleachWorkedExamples(t *testing.T) {
	for _, c := range []struct {
		bleach, water quantity.Litre
		product       quantity.Percent
		want          float64
		digits        float64
	}{
		{quantity.Cup / 4, 15 * quantity.USGallon, 5.25, 54.7, 0.05},
		{quantity.Cup / 4, 15 * quantity.USGallon, 8.25, 85.9, 0.05},
		{quantity.Cup / 2, 25 * quantity.USGallon, 5.25, 65.6, 0.05},
		{3 * quantity.Tablespoon, 10 * quantity.USGallon, 5.25, 61.5, 0.05},
		{0.001, 1, 5.25, 52.5, 0.05},
		{quantity.Cup, 12 * quantity.USGallon, 5.25, 273, 0.5},
		{2 * quantity.Teaspoon, 25 * quantity.USGallon, 5.25, 5.47, 0.005},
		{5 * quantity.FluidOunce, 44.1 * quantity.USGallon, 6, 53.1, 0.05},
	} {
		assert.InDelta(t, c.want, float64(amount.Strength(c.bleach, c.water, c.product)), c.digits)
	}
	dose := amount.Bleach(50, 44.1*quantity.USGallon, 6)
	assert.InDelta(t, 139.1, float64(dose)*1000, 0.05)
	assert.InDelta(t, 4.70, float64(dose/quantity.FluidOunce), 0.005)
	assert.Equal(t, "5\u00a0fl\u00a0oz", strings.ReplaceAll(quantity.Household(dose, 0.1, quantity.US).String(), " ",
		"\u00a0"))
}

func plan(t testing.TB, m *plumbing.Model) (*plumbing.Network, []setting.Answer) {
	t.Helper()
	n, err := plumbing.NewNetwork(m)
	require.NoError(t, err)
	return n, rig.Plan(t, n)
}

func gneiss(t testing.TB) *plumbing.Model {
	t.Helper()
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	return m
}

func sumOf(w amount.Worksheet) (sum quantity.Litre) {
	for _, r := range w.Rows {
		sum += r.Litre
	}
	return sum
}

// Feet of ½ in PEX that antifreeze sweeps on the Gneiss with the heater
// bypassed, added up by hand from the line list: 10 in to the strainer; 2 pump
// out; trunk 8 + 3.5 + 2 + 5 + 2.5 + 3; cold branches 3.5 kitchen, 4 basin,
// 10 in and 2 toilet, 4.5 shower, 9 outside; heater feed 1, tube 5 in twice;
// hot trunk 3 + 4 + 8 + 5.5; hot branches 3.5, 4, 4.5, 9; two drains 10 in each.
const sweptFeet = 10./12 + 2 + (8 + 3.5 + 2 + 5 + 2.5 + 3) + (3.5 + 4 + 10./12 + 2 + 4.5 + 9) +
	1 + 10./12 + (3 + 4 + 8 + 5.5) + (3.5 + 4 + 4.5 + 9) + 20./12

// gneissByHand is the antifreeze for drained lines, in litres.
func gneissByHand() float64 {
	pipe := func(insideInch, feet float64) float64 {
		return math.Pi / 4 * math.Pow(insideInch*25.4, 2) * feet * 304.8 / 1e6
	}
	lines := pipe(0.485, sweptFeet) + pipe(0.350, 3) + pipe(0.5, 4) + pipe(0.5, 0.5)
	floz := 0.0295735295625
	parts := 2*floz + 4*floz              // strainer, pump
	sides := 6*0.15 + 4*0.15              // cold: kitchen, basin, shower, outside, toilet, sprayer; hot: four
	rest := 2*0.1 + 0.1                   // two low points, jug heel
	seals := 0.473176473 + (10+8+12)*floz // a pint in the toilet, three traps
	return lines + parts + sides + rest + seals
}

func TestGneissAntifreezeByHand(t *testing.T) {
	n, answers := plan(t, gneiss(t))
	sheet := amount.Antifreeze(n, setting.ForMode(answers, setting.Antifreeze), amount.Drained,
		house.Usual(quantity.US))
	assert.True(t, sheet.Bypassed)
	assert.InDelta(t, gneissByHand(), float64(sheet.Total), 1e-6)
	assert.InDelta(t, float64(sheet.Total), float64(sumOf(sheet.Worksheet)), 1e-12)
	require.Len(t, sheet.Jugs, 1)
	assert.Equal(t, int(math.Ceil(gneissByHand()/gal)), sheet.Jugs[0].Count)

	var left []string
	for _, l := range sheet.LeftOut {
		left = append(left, l.Part)
	}
	assert.Equal(t, []string{"city-in", "heater-cold", "heater-hot", "heater-in", "heater-out", "heater-plug",
		"heater-relief", "rinse-line", "suction", "tank-drain"}, left)
}

func TestHeaterNotBypassedCostsItsCapacity(t *testing.T) {
	n, answers := plan(t, gneiss(t))
	rules := house.Usual(quantity.US)
	by := amount.Antifreeze(n, setting.ForMode(answers, setting.Antifreeze), amount.Drained, rules)
	in := amount.Antifreeze(n, setting.ForMode(answers, setting.ThroughHeater), amount.Drained, rules)
	assert.False(t, in.Bypassed)
	// Heater 10 gal; 2 × 5 in and 2 × 8 in of line more, the 10 in tube less.
	extra := 10*gal + float64(plumbing.PipeContent(0.485*25.4, (10+16-10)*25.4))
	assert.InDelta(t, float64(by.Total)+extra, float64(in.Total), 1e-6)

	full := amount.Antifreeze(n, setting.ForMode(answers, setting.ThroughHeater), amount.Full, rules)
	for _, r := range full.Rows {
		if r.Part == "heater" {
			assert.InDelta(t, 10*gal*math.Log(20), float64(r.Litre), 1e-9)
		}
	}
}

func TestPlainPipeInPlaceOfTheBypass(t *testing.T) {
	m := gneiss(t)
	rules := house.Usual(quantity.US)
	n, answers := plan(t, m)
	before := amount.Antifreeze(n, setting.ForMode(answers, setting.Antifreeze), amount.Drained, rules).Total

	// Only the document changes: valves become pipe of the lines' own lengths,
	// the tube goes.
	gone := map[string]bool{"valve-bypass": true, "valve-heater-in": true, "valve-heater-out": true,
		"tee-bypass-cold": true, "tee-bypass-hot": true}
	parts := m.Parts[:0:0]
	for _, p := range m.Parts {
		if !gone[p.ID] {
			parts = append(parts, p)
		}
	}
	m.Parts = parts
	var lines []plumbing.Line
	for _, l := range m.Lines {
		switch l.ID {
		case "heater-feed":
			l.To, l.Length = "heater.cold", quantity.Of(quantity.Millimetre(25*25.4), quantity.SI) // 12 + 5 + 8 in
		case "h-trunk-1":
			l.From, l.Length = "heater.hot", quantity.Of(quantity.Millimetre(49*25.4), quantity.SI) // 36 + 8 + 5 in
		case "heater-in", "heater-cold", "tube-1", "tube-2", "heater-hot", "heater-out":
			continue
		}
		lines = append(lines, l)
	}
	m.Lines = lines
	n, answers = plan(t, m)
	a := setting.ForMode(answers, setting.Antifreeze)
	assert.False(t, a.OK)
	assert.Contains(t, told.Fact(a.Why), "this heater has no bypass")
	after := amount.Antifreeze(n, setting.ForMode(answers, setting.ThroughHeater), amount.Drained, rules)
	assert.False(t, after.Bypassed)
	rise := 10*gal + float64(plumbing.PipeContent(0.485*25.4, (26-10)*25.4))
	assert.InDelta(t, float64(before)+rise, float64(after.Total), 0.001)
}

func TestGneissSanitizerByHand(t *testing.T) {
	n, answers := plan(t, gneiss(t))
	rules, err := house.Usual(quantity.US).With("x", map[string]string{"bleach": "6 %"})
	require.NoError(t, err)
	d := amount.PlanDoses(n, setting.ForMode(answers, setting.Sanitize), rules)[0]
	// As the antifreeze sweeps, but with the 2 ft suction line instead of the
	// pick-up hose, and ten outlet sides of 150 mL overrun each.
	drawn := float64(plumbing.PipeContent(0.485*25.4, quantity.Millimetre((sweptFeet+2)*304.8))) +
		float64(plumbing.PipeContent(0.350*25.4, 3*304.8)) + float64(plumbing.PipeContent(12.7, 152.4)) +
		6*0.0295735295625 + 10*0.15
	assert.InDelta(t, drawn, float64(d.Drawn), 1e-6)
	tank := 43 * gal
	start := 50 * tank / (tank - drawn)
	assert.InDelta(t, start*tank/60000, float64(d.Exact), 1e-9)
	assert.InDelta(t, float64(d.Measured.Litre)*60000/tank, float64(d.Filled), 1e-9)
	assert.InDelta(t, float64(d.Filled)*(1-drawn/tank), float64(d.Final), 1e-9)
	assert.GreaterOrEqual(t, float64(d.Final), 50.0)
	assert.Zero(t, d.Why)
	rules = house.Target.With(rules, 300)
	over := amount.PlanDoses(n, setting.ForMode(answers, setting.Sanitize), rules)[0]
	assert.Contains(t, told.Fact(over.Why), "above the ceiling")
}

func TestContentsSumTheirRows(t *testing.T) {
	n, _ := plan(t, gneiss(t))
	w := amount.Contents(n, quantity.US)
	assert.InDelta(t, float64(sumOf(w)), float64(w.Total), 1e-12)
	var lines quantity.Litre
	for _, l := range n.Model.Lines {
		if l.Side != plumbing.Air && l.ID != "fill" { // the fill hose runs empty
			lines += l.Content()
		}
	}
	assert.InDelta(t, float64(lines)+7*float64(quantity.FluidOunce), float64(w.Total), 1e-9)
}
