package scene_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/scene"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
	"coldtap/internal/rig"
	"coldtap/internal/rig/told"
)

// A tank gives what the open tap draws, and fills where the pump sends water
// back to it.
func TestTanksFillAndGive(t *testing.T) {
	n := rig.Network(t, "joint-at-pump")
	plan := rig.Plan(t, n)
	say := func(mode string) string {
		a := setting.ForMode(plan, mode)
		require.True(t, a.OK, a.Why)
		st := scene.AsMeant(n, &a.Mode, a.State.Handles)
		p, err := scene.Observe(t.Context(), st, plan, house.Usual(quantity.US))
		require.NoError(t, err)
		for _, f := range scene.Goings(st, p) {
			if f.Part.Role() == plumbing.RoleTank {
				return told.Fact(f.What)
			}
		}
		return ""
	}
	assert.Equal(t, "gives", say(setting.Everyday))
	assert.Equal(t, "gets by its return", say(setting.FillContainer))
	// By a port below the water: what comes in is seen as filling.
	m, err := rig.Model("joint-at-pump")
	require.NoError(t, err)
	for i := range m.Lines {
		if m.Lines[i].To == "fresh.return" {
			m.Lines[i].To = "fresh.link"
		}
	}
	n, err = plumbing.NewNetwork(m)
	require.NoError(t, err)
	plan = rig.Plan(t, n)
	assert.Equal(t, "fills at", say(setting.FillContainer))
	assert.Equal(t, "gives", say(setting.Everyday))
}

// A tank whose inside height nobody gave still feeds its pump.
func TestATankOfUnknownHeightFeedsItsPump(t *testing.T) {
	n := rig.Network(t, "unknowns")
	plan := rig.Plan(t, n)
	a := setting.ForMode(plan, setting.Everyday)
	st := scene.AsMeant(n, &a.Mode, a.State.Handles)
	p, err := scene.Observe(t.Context(), st, plan, house.Usual(quantity.US))
	require.NoError(t, err)
	assert.Equal(t, "running", p.Flow.Pumps["pump"].String())
}

// Vents are never drawn wet, wherever the water comes from.
func TestVentsAreNotWet(t *testing.T) {
	for _, name := range []string{"barrel", "tanks-linked", "basalt-28"} {
		n := rig.Network(t, name)
		plan := rig.Plan(t, n)
		for _, id := range []string{setting.Everyday, setting.FillGravity, setting.Antifreeze} {
			a := setting.ForMode(plan, id)
			if !a.Has() {
				continue
			}
			p, err := scene.Observe(t.Context(), scene.AsMeant(n, &a.Mode, a.State.Handles), plan, house.Usual(quantity.US))
			require.NoError(t, err)
			require.NotEmpty(t, p.Wet)
			for i := range p.Wet {
				assert.NotEqual(t, plumbing.Air, n.Links[i].Line.Side, "%s %s: %s", name, id, n.Links[i].Line.ID)
			}
		}
	}
}

// What stays is the sum of its places, the most first; a handle that helps is
// named with what it saves.
func TestWhatStaysIsListed(t *testing.T) {
	n := rig.Network(t, "heater-one-valve")
	plan := rig.Plan(t, n)
	a := setting.ForMode(plan, setting.DrainDown)
	st := scene.AsMeant(n, &a.Mode, a.State.Handles)
	p, err := scene.Observe(t.Context(), st, plan, house.Usual(quantity.US))
	require.NoError(t, err)
	list := scene.Stays(n, p)
	var sum quantity.Litre
	for i, s := range list {
		sum += s.Stays
		if i > 0 {
			assert.LessOrEqual(t, s.Stays, list[i-1].Stays)
		}
		assert.NotZero(t, s.Why)
	}
	assert.InDelta(t, float64(p.Left.Total()), float64(sum), 0.002*float64(len(p.Left.Pieces)))
	h := n.HandleOf("plug")
	st.State = st.State.With(h, n.Handles[h].Index("closed"))
	p, err = scene.Observe(t.Context(), st, plan, house.Usual(quantity.US))
	require.NoError(t, err)
	helps := scene.Helps(st, p)
	require.NotEmpty(t, helps)
	assert.Equal(t, "plug", helps[0].Part.ID)
	assert.Equal(t, "open", helps[0].Position)
}

// A hose shower hung up as high as the tap keeps the water of both lines; its
// end let down below the tee lets all of it out: 3 m of 12 mm line hold 0.191 L.
func TestAHoseEndLetDownEmptiesItsLine(t *testing.T) {
	m, err := rig.Read(`model hose "Hose" si
tank fresh "Tank" @ 1m 1m 0.6m capacity=20L inside_height=200mm
open-end vent "Vent" @ 1m 0m 1.2m
drain low "Tank drain" @ 1m 1m 0.5m handle=cap pipe=upright normal=closed closure=cap bore=20mm
pump pump "Pump" @ 2m 1m 0.5m flow="7 L/min" cut_out="1.4 bar"
tee tee "Tee" @ 3m 1m 0.4m
outlet tap "Tap" @ 3m 1m 1.2m type=kitchen flow="5 L/min"
outlet shower "Hose shower" @ 4m 0m 1.2m type=outside-shower flow="5 L/min" low_end=0.2m high_end=1.6m
fresh.vent > vent.in air "hose 12 mm" 0.5m
fresh.drain > low.in drain "hose 20 mm" 0.2m
fresh.supply > pump.in supply "semi-rigid 12 mm" 0.5m
pump.out > tee.a cold "semi-rigid 12 mm" 0.2m
tee.b > shower.cold cold "semi-rigid 12 mm" 2m
tee.c > tap.cold cold "semi-rigid 12 mm" 1m
`)
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(m)
	require.NoError(t, err)
	plan := rig.Plan(t, n)
	a := setting.ForMode(plan, setting.DrainDown)
	sc := scene.AsMeant(n, &a.Mode, a.State.Handles)
	p, err := scene.Observe(t.Context(), sc, plan, house.Usual(quantity.US))
	require.NoError(t, err)
	list := scene.Stands(sc, p)
	require.Len(t, list, len(state.Attitudes())+2)
	down, up := list[len(list)-2], list[len(list)-1]
	assert.Contains(t, told.Fact(down.Said()), "end of the hose shower lying at")
	assert.Contains(t, told.Fact(up.Said()), "held up at")
	assert.Less(t, float64(down.Total), float64(list[0].Total)-0.19)
	// Held up at 1.6 m the third of its line that is above the tap runs out there.
	assert.InDelta(t, 2*0.063617/3, float64(list[0].Total-up.Total), 1e-4)
	require.NotEmpty(t, down.Changes)
	assert.Less(t, float64(down.Changes[0].Stays), -0.12)
}

// What a blow leaves on the walls is the house's to say: twice the film is twice
// the water where air has been.
func TestWhatABlowLeavesIsTheHouses(t *testing.T) {
	n := rig.Network(t, "obsidian-33")
	plan := rig.Plan(t, n)
	a := setting.ForMode(plan, setting.Blow)
	require.True(t, a.Has())
	films := func(film float64) (least quantity.Litre) {
		rules := house.Film.With(house.Usual(quantity.US), film)
		p, err := scene.Observe(t.Context(), scene.AsMeant(n, &a.Mode, a.State.Handles), plan, rules)
		require.NoError(t, err)
		return p.Left.Total()
	}
	none, some, twice := films(0), films(0.02), films(0.04)
	assert.Greater(t, some, none)
	assert.InDelta(t, float64(2*(some-none)), float64(twice-none), 1e-9)
}
