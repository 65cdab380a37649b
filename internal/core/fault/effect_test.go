package fault_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/fault"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/rig"
	"coldtap/internal/rig/told"
)

// With its switch off, or the battery's isolator, the pump is not heard and
// nothing comes; both are told in one row, and do the heater no harm.
func TestAPumpThatIsOffIsNotHeard(t *testing.T) {
	n := rig.Network(t, "gas-coupling")
	plan := rig.Plan(t, n)
	list, err := fault.InMode(t.Context(), n, setting.ForMode(plan, setting.Everyday), plan)
	require.NoError(t, err)
	i := slices.IndexFunc(list, func(e fault.Entry) bool { return e.Faults[0].Off != 0 })
	require.GreaterOrEqual(t, i, 0)
	e := list[i]
	assert.Equal(t, fault.Nuisance, e.Severity)
	var words []string
	for _, f := range e.Faults {
		words = append(words, told.Fact(f.Said))
	}
	assert.Equal(t, []string{"Water pump: switch off", "Battery isolator off"}, words)
	assert.Contains(t, inWords(n, e), "Water pump does not run: nothing is heard.")
	assert.Contains(t, inWords(n, e), "No water comes")
	// Of two pumps one alone may stand still.
	n = rig.Network(t, "flint-11")
	plan = rig.Plan(t, n)
	list, err = fault.InMode(t.Context(), n, setting.ForMode(plan, setting.Everyday), plan)
	require.NoError(t, err)
	still := 0
	for _, e := range list {
		if e.Faults[0].Off != 0 {
			still++
			assert.NotContains(t, inWords(n, e), "every outlet")
		}
	}
	assert.Equal(t, 2, still)
}

// The parts of an effect are where it is noticed, the outlets it is noticed at
// and the places where water stays, each once, in the order of their ids.
func TestAnEffectNamesItsParts(t *testing.T) {
	n := rig.Network(t, "barrel")
	e := fault.Effect{Part: n.Model.Part("pump"), Sides: fault.Sides{Nodes: []plumbing.NodeID{n.Node("tap.cold"),
		n.Node("tap.cold")}},
		Places: []fault.Place{{ID: "line-02"}, {ID: "fresh"}}}
	assert.Equal(t, []string{"fresh", "line-02", "pump", "tap"}, e.Parts(n))
	e.Part = nil
	assert.Equal(t, []string{"fresh", "line-02", "tap"}, e.Parts(n))
}

// Where nothing comes of water, no line stays without antifreeze; where it is antifreeze, its lines do: also with the
// pump that should bring it switched off.
func TestWhatStaysUntreatedIsToldOfAntifreezeOnly(t *testing.T) {
	n, plan := network(t, "gneiss-24-2027")
	nothing := func(mode string) (list []fault.Effect, off quantity.Litre) {
		for _, e := range inMode(t, n, setting.ForMode(plan, mode), plan) {
			for _, x := range e.Effects {
				if x.What == fault.NothingComes {
					list = append(list, x)
					if e.Faults[0].Off != 0 {
						off = x.Volume
					}
				}
			}
		}
		return list, off
	}
	water, _ := nothing(setting.Everyday)
	require.NotEmpty(t, water)
	for _, x := range water {
		assert.Zero(t, x.Volume)
	}
	antifreeze, off := nothing(setting.Antifreeze)
	var most quantity.Litre
	for _, x := range antifreeze {
		most = max(most, x.Volume)
	}
	assert.Positive(t, float64(most))
	assert.InDelta(t, float64(most), float64(off), 1e-9, "without the pump no line gets any")
}

// Whatever comes first by its id, the same is told of each fault.
func TestTheOrderOfIdsChangesNoEffect(t *testing.T) {
	effects := func(first string) map[string]string {
		m, err := demo.Model("gneiss-24-2027")
		require.NoError(t, err)
		if first != "" {
			done, err := edit.Set(m, edit.OfPart, first, map[string]string{"id": "a-" + first})
			require.NoError(t, err)
			m = done.Model
		}
		b, err := m.Build(m.StandardOptions()...)
		require.NoError(t, err)
		n, err := plumbing.NewNetwork(b)
		require.NoError(t, err)
		plan, list := rig.Plan(t, n), map[string]string{}
		for _, e := range inMode(t, n, setting.ForMode(plan, setting.Everyday), plan) {
			for _, f := range e.Faults {
				list[strings.ReplaceAll(told.Fact(f.Said), "a-"+first, first)] = inWords(n, e)
			}
		}
		return list
	}
	want := effects("")
	require.Greater(t, len(want), 10)
	n, _ := network(t, "gneiss-24-2027")
	for _, p := range n.PartsOf(plumbing.RoleOutlet, plumbing.RolePump, plumbing.RoleTank) {
		assert.Equal(t, want, effects(p.ID), "with %s first", p.ID)
	}
}
