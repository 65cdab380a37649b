package fault_test

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/fault"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/words"
	"coldtap/internal/golden"
	"coldtap/internal/rig"
	"coldtap/internal/rig/told"
)

func network(t testing.TB, id string) (*plumbing.Network, []setting.Answer) {
	t.Helper()
	m, err := demo.Model(id)
	require.NoError(t, err)
	b, err := m.Build(m.StandardOptions()...)
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(b)
	require.NoError(t, err)
	return n, rig.Plan(t, n)
}

func inMode(t testing.TB, n *plumbing.Network, a *setting.Answer, plan []setting.Answer) []fault.Entry {
	t.Helper()
	list, err := fault.InMode(t.Context(), n, a, plan)
	require.NoError(t, err)
	return list
}

// effect finds what is said of a fault in a mode.
func effect(t *testing.T, n *plumbing.Network, plan []setting.Answer, mode, fault_ string) string {
	t.Helper()
	for _, e := range inMode(t, n, setting.ForMode(plan, mode), plan) {
		for _, f := range e.Faults {
			if strings.HasPrefix(told.Fact(f.Said), fault_) {
				return strings.ReplaceAll(inWords(n, e), "\u00a0", " ")
			}
		}
	}
	t.Fatalf("nothing is said of %q in %s", fault_, mode)
	return ""
}

func TestWhatAWrongHandleLeadsTo(t *testing.T) {
	gneiss, gneissPlan := network(t, "gneiss-24-2027")
	ashlar, ashlarPlan := network(t, "ashlar-20-2027")
	marl, marlPlan := network(t, "marl-15-2027")
	feldspar, feldsparPlan := network(t, "feldspar-c7-2027")
	tuff, tuffPlan := network(t, "tuff-9-2027")
	schist, schistPlan := network(t, "schist-31-2027")

	// The whole heater of 10 gal is on the way to the hot taps.
	assert.Equal(t, "Water heater takes about 10 gal (38 L) of antifreeze; every hot side stays clear until it is full.",
		effect(t, gneiss, gneissPlan, setting.Antifreeze, "Water heater left as for everyday use"))
	// With one of its valves open its air is squeezed to the pump's cut-out of 55 psi.
	p := 55 * 6.894757
	litres := 10 * 3.785411784 * p / (p + 101.325)
	assert.Equal(t, fmt.Sprintf("Water heater takes about %.1f gal (%.0f L) of antifreeze.", litres/3.785411784,
		litres),
		effect(t, gneiss, gneissPlan, setting.Antifreeze, "Heater inlet valve: open"))
	assert.Contains(t, effect(t, gneiss, gneissPlan, setting.Antifreeze, "Pick-up valve"),
		"The pump draws water from the fresh tank instead of the antifreeze")
	assert.Contains(t, effect(t, gneiss, gneissPlan, setting.Everyday, "Pick-up valve"),
		"The pump runs without stopping and draws nothing; it stands that for 2 min.")
	assert.Contains(t, effect(t, gneiss, gneissPlan, setting.Everyday, "Water heater left bypassed"),
		"its element burns out and its burner overheats it. Cold water comes at every hot side")
	assert.Contains(t, effect(t, gneiss, gneissPlan, setting.Everyday, "Bypass valve: open"), "lukewarm")
	assert.Regexp(t, `Fresh tank fills by itself at about [\d.]+.gal/min .*; half full, it overflows after about`,
		effect(t, gneiss, gneissPlan, setting.City, "Check valve of the water pump"))
	// Its heel of 0.3 gal and 0.6 gal stay anyway.
	assert.Contains(t, effect(t, gneiss, gneissPlan, setting.DrainDown, "Heater outlet valve: closed"),
		"in the line from the water heater to the heater outlet valve")
	assert.Contains(t, effect(t, gneiss, gneissPlan, setting.DrainDown, "Tank drain"),
		"42 gal (161 L) in the fresh tank")

	assert.Contains(t, effect(t, ashlar, ashlarPlan, setting.Everyday, "Tank valve: open"),
		"The pump never falls silent.")
	assert.Contains(t, effect(t, ashlar, ashlarPlan, setting.BackFill, "Tank valve: closed"),
		"Nothing gets into the fresh tank.")
	assert.Contains(t, effect(t, marl, marlPlan, setting.DrainDown, "Crossover valve: closed"),
		"the line from the right tee to the tail tee")
	assert.Contains(t, effect(t, feldspar, feldsparPlan, setting.Everyday, "Frost valve opens by itself below 4 °C"),
		"Boiler loses its 12 L.")
	assert.Contains(t, effect(t, feldspar, feldsparPlan, setting.Antifreeze, "Boiler left as for everyday use"),
		"Below 4 °C the frost valve opens by itself and lets it run out.")
	assert.Contains(t, effect(t, tuff, tuffPlan, setting.Antifreeze,
		"Heater switch: at “ON” (the heater diverter stays where it is when the battery is flat; only the crank "+
			"in the tool roll turns it)"), "of antifreeze")
	assert.Contains(t, effect(t, schist, schistPlan, setting.City, "Delivery handle"), "No water comes: every outlet.")
}

// Whatever breaks a goal is told, each fault once in a mode, nothing in the
// same words twice, the gravest first.
func TestEveryBrokenGoalIsToldOnce(t *testing.T) {
	models, err := demo.Models()
	require.NoError(t, err)
	count := 0
	for _, m := range models {
		n, plan := network(t, m.ID)
		for i := range plan {
			a := &plan[i]
			if !a.OK || a.Mode.Measure {
				continue
			}
			entries := inMode(t, n, a, plan)
			faults, words := map[string]bool{}, map[string]bool{}
			for k, e := range entries {
				require.NotEmpty(t, e.Effects)
				require.False(t, words[inWords(n, e)], inWords(n, e))
				words[inWords(n, e)] = true
				if k > 0 {
					require.LessOrEqual(t, e.Severity, entries[k-1].Severity)
				}
				for _, f := range e.Faults {
					require.False(t, faults[f.Said.Key()], "%s: %s is told twice", a.Mode.ID, told.Fact(f.Said))
					faults[f.Said.Key()] = true
				}
				count++
			}
			for _, f := range fault.Faults(n, a) {
				broken := setting.Judge(f.Network(n), &a.Mode, f.In(a.State))
				if len(broken) == 0 || a.Mode.Drains || f.Part.Role() == plumbing.RolePump {
					continue
				}
				// Draining is judged by what stays, a pump's check by the pressure.
				require.True(t, faults[f.Said.Key()], "%s %s: %s is not told: %s", m.ID, a.Mode.ID, told.Fact(f.Said),
					told.Fact(broken[0].Said))
			}
		}
		all, err := golden.Faults(t.Context(), n, plan)
		require.NoError(t, err)
		seen := map[string]bool{}
		for _, e := range all {
			key := inWords(n, e)
			for _, f := range e.Faults {
				key += told.Fact(f.Said)
			}
			require.False(t, seen[key], key)
			seen[key] = true
		}
	}
	assert.Greater(t, count, 200)
}

func TestHandlesThatMayStandEitherWayMakeNoTrouble(t *testing.T) {
	n, plan := network(t, "ashlar-20-2027")
	for i := range plan {
		a := &plan[i]
		if !a.OK || a.Mode.Drains || a.Mode.Measure {
			continue
		}
		for _, e := range inMode(t, n, a, plan) {
			for _, f := range e.Faults {
				for _, turn := range f.Turns {
					if len(f.Turns) == 1 {
						assert.NotContains(t, a.Either, turn.Handle, "%s: %s", a.Mode.ID, told.Fact(f.Said))
					}
				}
			}
		}
	}
}

func BenchmarkOneThingWrongLargestDemoModel(b *testing.B) {
	n, plan := network(b, "schist-31-2027")
	for b.Loop() {
		if _, err := golden.Faults(b.Context(), n, plan); err != nil {
			b.Fatal(err)
		}
	}
}

func rigFaults(t *testing.T, name, mode string, change func(m *plumbing.Model)) []fault.Entry {
	t.Helper()
	m, err := rig.Model(name)
	require.NoError(t, err)
	change(m)
	n, err := plumbing.NewNetwork(m)
	require.NoError(t, err)
	plan := rig.Plan(t, n)
	return inMode(t, n, setting.ForMode(plan, mode), plan)
}

// An empty heater that is switched on is a danger, by what heats it; an
// on-demand one with a flow switch just stays cold.
func TestHeatWithoutWaterByKindOfHeater(t *testing.T) {
	of := func(name string, change func(h *plumbing.Part)) (fault.Severity, fault.Harm) {
		handle := map[string]string{"coil": "Heater inlet valve: closed",
			"heater-one-valve": "Bypass valve: pointing to the branch"}[name]
		for _, e := range rigFaults(t, name, setting.Everyday, func(m *plumbing.Model) { change(m.Part("heater")) }) {
			if strings.HasPrefix(told.Fact(e.Faults[0].Said), handle) {
				for _, x := range e.Effects {
					if x.What == fault.HeaterDry {
						return x.Severity, x.Harm
					}
				}
			}
		}
		t.Fatal("nothing is said of the heater")
		return 0, ""
	}
	as := func(*plumbing.Part) {}
	g, harm := of("coil", as)
	assert.Equal(t, fault.Nuisance, g)
	assert.Equal(t, fault.NotLit, harm)
	g, harm = of("coil", func(h *plumbing.Part) { h.Data.FlowSwitch = false })
	assert.Equal(t, fault.Danger, g)
	assert.Equal(t, fault.Overheats, harm)
	g, harm = of("heater-one-valve", as) // gas alone
	assert.Equal(t, fault.Danger, g)
	assert.Equal(t, fault.Overheats, harm)
	electric := quantity.Of(quantity.Kilowatt(1.4), quantity.SI)
	g, harm = of("heater-one-valve", func(h *plumbing.Part) {
		h.Data.Electric, h.Data.Gas = electric, quantity.Given[quantity.Kilowatt]{}
	})
	assert.Equal(t, fault.Danger, g)
	assert.Equal(t, fault.Burns, harm)
	g, harm = of("heater-one-valve", func(h *plumbing.Part) { h.Data.Electric = electric })
	assert.Equal(t, fault.Danger, g)
	assert.Equal(t, fault.BurnsAndOverheats, harm)
}

// A failed check valve seeps: 0.2 L/min at 300 kPa where nothing is given,
// less at less, by the square root.
func TestAFailedCheckValveSeeps(t *testing.T) {
	rate := func(seep quantity.LitrePerMinute) float64 {
		m, err := demo.Model("gneiss-24-2027")
		require.NoError(t, err)
		if seep > 0 {
			m.Part("pump").Data.Seep = quantity.Of(seep, quantity.SI)
		}
		n, err := plumbing.NewNetwork(m)
		require.NoError(t, err)
		a := setting.ForMode(rig.Plan(t, n), setting.City)
		for _, f := range fault.Faults(n, a) {
			if f.Link >= 0 && f.Part.ID == "pump" {
				st, err := flow.SteadyFlow(t.Context(), f.Network(n), f.In(a.State))
				require.NoError(t, err)
				return float64(st.Flow[len(st.Flow)-1])
			}
		}
		t.Fatal("the pump's check valve is no fault")
		return 0
	}
	// City water stands at 48 psi = 331 kPa, the tank a foot below.
	assert.InDelta(t, 0.2*math.Sqrt(331./300), rate(0), 0.01)
	// Ten times as much takes some of the supply's pressure: it falls to nothing
	// at 4 gal/min.
	q := rate(2)
	assert.InDelta(t, 2*math.Sqrt(331*(1-q/15.14)/300), q, 0.02)
}

// inWords is an entry's effects in words.
func inWords(n *plumbing.Network, e fault.Entry) string {
	return words.English(n.Model.System()).Effects(n, e.Effects)
}
