package fault_test

import (
	"coldtap/internal/rig"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/fault"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
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
	for _, e := range inMode(t, n, setting.Of(plan, mode), plan) {
		for _, f := range e.Faults {
			if strings.HasPrefix(f.Words, fault_) {
				return strings.ReplaceAll(e.Words(), "\u00a0", " ")
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
	assert.Equal(t, fmt.Sprintf("Water heater takes about %.1f gal (%.0f L) of antifreeze.", litres/3.785411784, litres),
		effect(t, gneiss, gneissPlan, setting.Antifreeze, "Heater inlet valve: open"))
	assert.Contains(t, effect(t, gneiss, gneissPlan, setting.Antifreeze, "Pick-up valve"), "The pump draws water from the fresh tank instead of the antifreeze")
	assert.Contains(t, effect(t, gneiss, gneissPlan, setting.Everyday, "Pick-up valve"), "The pump runs without stopping and draws nothing; it stands that for 2 min.")
	assert.Contains(t, effect(t, gneiss, gneissPlan, setting.Everyday, "Water heater left bypassed"), "switched on while it is empty, it is ruined. Cold water comes at every hot side")
	assert.Contains(t, effect(t, gneiss, gneissPlan, setting.Everyday, "Bypass valve: open"), "lukewarm")
	assert.Regexp(t, `Fresh tank fills by itself at about [\d.]+.gal/min .*; half full, it overflows after about`, effect(t, gneiss, gneissPlan, setting.City, "Check valve of the water pump"))
	// Its heel of 0.3 gal and 0.6 gal stay anyway.
	assert.Contains(t, effect(t, gneiss, gneissPlan, setting.DrainDown, "Heater outlet valve: closed"), "in the line from the water heater to the heater outlet valve")
	assert.Contains(t, effect(t, gneiss, gneissPlan, setting.DrainDown, "Tank drain"), "42 gal (161 L) in the fresh tank")

	assert.Contains(t, effect(t, ashlar, ashlarPlan, setting.Everyday, "Tank valve: open"), "The pump never falls silent.")
	assert.Contains(t, effect(t, ashlar, ashlarPlan, setting.BackFill, "Tank valve: closed"), "Nothing gets into the fresh tank.")
	assert.Contains(t, effect(t, marl, marlPlan, setting.DrainDown, "Crossover valve: closed"), "the line from the right tee to the tail tee")
	assert.Contains(t, effect(t, feldspar, feldsparPlan, setting.Everyday, "Frost valve opens by itself below 4 °C"), "Boiler loses its 12 L.")
	assert.Contains(t, effect(t, feldspar, feldsparPlan, setting.Antifreeze, "Boiler left as for everyday use"), "Below 4 °C the frost valve opens by itself and lets it run out.")
	assert.Contains(t, effect(t, tuff, tuffPlan, setting.Antifreeze, "Heater diverter: motor at a, marked “ON” (it stays where it is when the battery is flat; only the crank in the tool roll turns it)"), "of antifreeze")
	assert.Contains(t, effect(t, schist, schistPlan, setting.City, "Delivery handle"), "No water comes: every outlet.")
}

// Whatever breaks a goal is told, each fault once in a mode, nothing in the
// same words twice, the gravest first.
func TestEveryBrokenGoalIsToldOnce(t *testing.T) {
	models, err := demo.Models()
	require.NoError(t, err)
	told := 0
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
				require.False(t, words[e.Words()], e.Words())
				words[e.Words()] = true
				if k > 0 {
					require.LessOrEqual(t, e.Gravity, entries[k-1].Gravity)
				}
				for _, f := range e.Faults {
					require.False(t, faults[f.Words], "%s: %s is told twice", a.Mode.ID, f.Words)
					faults[f.Words] = true
				}
				told++
			}
			for _, f := range fault.Faults(n, a) {
				broken := setting.Judge(f.Network(n), &a.Mode, f.Setting(a.Setting))
				if len(broken) == 0 || a.Mode.Drains || f.Part.Kind == plumbing.Pump {
					continue
				}
				// Draining is judged by what stays, a pump's check by the pressure.
				require.True(t, faults[f.Words], "%s %s: %s is not told: %s", m.ID, a.Mode.ID, f.Words, broken[0].Words)
			}
		}
		all, err := fault.Of(t.Context(), n, plan)
		require.NoError(t, err)
		seen := map[string]bool{}
		for _, e := range all {
			key := e.Words()
			for _, f := range e.Faults {
				key += f.Words
			}
			require.False(t, seen[key], key)
			seen[key] = true
		}
	}
	assert.Greater(t, told, 200)
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
						assert.NotContains(t, a.Either, turn.Handle, "%s: %s", a.Mode.ID, f.Words)
					}
				}
			}
		}
	}
}

func BenchmarkOneThingWrongLargestDemoModel(b *testing.B) {
	n, plan := network(b, "schist-31-2027")
	for b.Loop() {
		if _, err := fault.Of(b.Context(), n, plan); err != nil {
			b.Fatal(err)
		}
	}
}
