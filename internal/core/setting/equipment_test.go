package setting_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
	"coldtap/internal/core/words"
	"coldtap/internal/rig"
	"coldtap/internal/rig/told"
)

func asIs(*plumbing.Model) {}

// acts lists what is done at parts beside the handles, in order.
func acts(a *setting.Answer) (list []string) {
	for _, x := range a.Mode.Acts {
		list = append(list, x.Part.ID+" "+string(x.Verb))
	}
	return list
}

// A barrel with a pump of its own feeds the lines while the camper's pump is
// off, and its water gets into no tank: the pump lets nothing back.
func TestABarrelFeedsTheLines(t *testing.T) {
	n, plan := changedRig(t, "barrel", asIs)
	a := setting.ForMode(plan, setting.FromBarrel)
	require.True(t, a.OK, a.Why)
	assert.Equal(t, []string{"socket join", "pump off"}, acts(a))
	assert.Zero(t, a.State.Pumps)
	s := a.State.WithOpen(n.Node("tap.cold"), true)
	f, err := flow.SteadyFlow(t.Context(), n, s)
	require.NoError(t, err)
	// The barrel's pump gives 60 kPa at no flow, 10 L/min at no pressure, and
	// 48.5 kPa at 1.91 L/min. The tap, 5 L/min at 300 kPa, takes 43.8 of them at
	// that flow, the lift of 0.3 m 2.9, 2.6 m of 9 mm bore 1.1, bends the rest.
	q := 0.0
	for i, l := range n.AllLinks() {
		if l.Line != nil && l.Line.From == "out.b" {
			q = float64(f.Flow[i])
		}
	}
	assert.InDelta(t, 1.91, q, 0.02)
	assert.Contains(t, told.Fact(setting.ForMode(plan, setting.FillBarrel).Why),
		"No line leads from the barrel socket into a tank")
	assert.Contains(t, told.Fact(setting.ForMode(plan, setting.Blow).Why), "no port that is both threaded and rated")
}

// Through a hatch a tank is filled from jugs, its lid off for that alone; a
// bung in its floor lets all run out but the heel. Of 12 mm line 0.0636 L/m
// stay between tank, pump and joint (0.6 + 0.5 m), at the barrel's socket
// (0.9 m) and behind it (0.2 m).
func TestWhatSitsInATankNeedsNoLine(t *testing.T) {
	n, plan := changedRig(t, "barrel", asIs)
	lid := n.HandleOf("lid")
	for i := range plan {
		if a := &plan[i]; a.Has() {
			open := n.Handles[lid].Positions[a.State.Position(lid)] == "open"
			assert.Equal(t, a.Mode.ID == setting.FillHatch, open, a.Mode.ID)
		}
	}
	fill := setting.ForMode(plan, setting.FillHatch)
	require.True(t, fill.OK)
	assert.Equal(t, []string{"lid turn", "lid join", "pump off"}, acts(fill))
	assert.InDelta(t, 80, float64(fill.Mode.Acts[1].Amount), 1e-9, "what the tank takes from empty")
	_, unsaid := changedRig(t, "barrel", func(m *plumbing.Model) {
		m.Part("fresh").Data.Capacity = quantity.Given[quantity.Litre]{}
	})
	assert.Zero(t, setting.ForMode(unsaid, setting.FillHatch).Mode.Acts[1].Amount)
	drain := setting.ForMode(plan, setting.DrainDown)
	require.True(t, drain.OK)
	perMetre := 3.14159265 / 4 * 0.9 * 0.9 / 10
	assert.InDelta(t, 1+perMetre*(0.6+0.5+0.9+0.2), float64(flow.Drain(n, drain.State).Total()), 1e-4)
	shut := drain.State.With(n.HandleOf("bung"), 0)
	assert.InDelta(t, 80, float64(flow.Drain(n, shut).Total()), 1)
}

// Water is coupled first and gas last; gas is parted first, then the pressure
// let out at a tap behind the heater, then the lower coupling parted.
func TestGasIsCoupledLastAndPartedFirst(t *testing.T) {
	n, plan := changedRig(t, "gas-coupling", asIs)
	on := setting.ForMode(plan, setting.Coupled)
	require.True(t, on.OK)
	assert.Equal(t, []string{"isolator on", "pump on", "cold turn", "hot turn", "gas turn"}, acts(on))
	off := setting.ForMode(plan, setting.Stowed)
	require.True(t, off.OK)
	assert.Equal(t, []string{"portable heat-off", "gas turn", "pump off", "shower open", "cold turn", "hot turn"},
		acts(off))
	// The lower one comes first whatever it is called.
	_, plan = changedRig(t, "gas-coupling", func(m *plumbing.Model) {
		m.Part("cold").Place.Height, m.Part("hot").Place.Height = m.Part("hot").Place.Height,
			m.Part("cold").Place.Height
	})
	assert.Equal(t, []string{"hot turn", "cold turn"}, acts(setting.ForMode(plan, setting.Stowed))[4:])
	// No flame while the gas is parted.
	light := state.Act{Verb: state.HeatOn, Part: n.Model.Part("portable"), By: plumbing.Gas}
	_, err := off.State.Do(n, light)
	assert.ErrorContains(t, err, "is not coupled")
	_, err = on.State.Do(n, light)
	assert.NoError(t, err)
	// The switch is told where it is, with what shows it.
	words := inWords(on.Mode.Acts[1])
	assert.Equal(t, "pump switch on, at the control panel: hold PUMP for 2 s (behind the flap over the door); a green light shows it", words)
	assert.Contains(t, inWords(off.Mode.Acts[2]), "press PUMP")
	assert.Contains(t, inWords(off.Mode.Acts[0]), "told by: grey box with one knob")
	// Without the battery neither pump nor flame runs.
	lit, err := on.State.Do(n, light)
	require.NoError(t, err)
	dead, err := lit.Do(n, state.Act{Verb: state.Off, Part: n.Model.Part("isolator")})
	require.NoError(t, err)
	assert.Zero(t, dead.Pumps)
	assert.Zero(t, dead.Heat)
}

// On a boat nothing that protects or disinfects goes overboard, and a fitting
// that the sea may come in by is not opened to drain.
func TestABoatKeepsItsWasteAndTheSeaOut(t *testing.T) {
	n, plan := changedRig(t, "hull", asIs)
	for _, id := range []string{setting.Sanitize, setting.Antifreeze} {
		a := setting.ForMode(plan, id)
		require.True(t, a.OK, id)
		var caught []string
		for _, x := range a.Mode.Acts {
			if x.Verb == state.Catch {
				caught = append(caught, x.Part.ID+" "+x.To)
			}
		}
		assert.Equal(t, []string{"basin sump", "deck overboard", "galley overboard"}, caught, id)
	}
	drain := setting.ForMode(plan, setting.DrainDown)
	require.True(t, drain.OK)
	above, below := n.HandleOf("above"), n.HandleOf("below")
	assert.Equal(t, "open", n.Handles[above].Positions[drain.State.Position(above)])
	assert.Equal(t, "closed", n.Handles[below].Positions[drain.State.Position(below)])
	assert.Equal(t, "This model has no dockside inlet.", told.Fact(setting.ForMode(plan, setting.City).Why))
	// Stated above the waterline it is a drain like any other.
	n, plan = changedRig(t, "hull", func(m *plumbing.Model) { m.Part("below").Data.AboveWaterline = true })
	drain = setting.ForMode(plan, setting.DrainDown)
	assert.Equal(t, "open", n.Handles[below].Positions[drain.State.Position(n.HandleOf("below"))])
}

// Air goes in at a port only where it is both threaded and rated; the jumper
// hose fills the piece ahead of it, and is never joined to what is foul.
func TestAirAtAPortAndTheJumperHose(t *testing.T) {
	n, plan := changedRig(t, "air-port", asIs)
	air := setting.ForMode(plan, setting.Blow)
	require.True(t, air.OK, air.Why)
	assert.Equal(t, "port", air.Mode.Source.ID)
	assert.Equal(t, state.Compressed, air.State.Joined[n.Node("port.mouth")].Kind)
	assert.Contains(t, inWords(air.Mode.Acts[0]), "1/4 in NPT")
	for _, change := range []func(m *plumbing.Model){
		func(m *plumbing.Model) { m.Part("port").Thread = "" },
		func(m *plumbing.Model) { m.Part("port").Data.Rating = m.Part("port").Data.Limit },
	} {
		_, plan := changedRig(t, "air-port", change)
		assert.Contains(t, told.Fact(setting.ForMode(plan, setting.Blow).Why),
			"no port that is both threaded and rated")
	}
	jumper := setting.ForMode(plan, setting.JumperOn)
	require.True(t, jumper.OK, jumper.Why)
	r := flow.Reach(n, jumper.State, flow.Query{From: jumper.Mode.From})
	assert.True(t, r.Node(n.Node("port.mouth")))
	everyday := setting.ForMode(plan, setting.Everyday)
	require.True(t, everyday.OK, everyday.Why)
	assert.False(t, flow.Reach(n, everyday.State, flow.Query{From: everyday.Mode.From}).Node(n.Node("port.mouth")))
	_, plan = changedRig(t, "air-port", func(m *plumbing.Model) {
		m.Parts = append(m.Parts, plumbing.Part{ID: "rinse", Kind: plumbing.RinseInlet, Name: "Rinse inlet"})
		m.Part("jumper").Ends[1] = "rinse.mouth"
	})
	assert.Contains(t, told.Fact(setting.ForMode(plan, setting.JumperOn).Why),
		"the rinse inlet, which drinking water must never be joined to")
}

// With two pumps that draw from containers of their own antifreeze goes in
// pump by pump: one container, one switch at a time, and between them all.
func TestAntifreezePumpByPump(t *testing.T) {
	found := false
	for _, name := range rig.Names() {
		n, plan := changedRig(t, name, asIs)
		a := setting.ForMode(plan, setting.Antifreeze)
		if !a.OK || len(a.Turns) == 0 {
			continue
		}
		found = true
		var pumps state.Pumps
		met := map[plumbing.NodeID]bool{}
		for _, turn := range a.Turns {
			assert.Zero(t, pumps&turn.State.Pumps, "%s: a pump runs in one turn", name)
			pumps |= turn.State.Pumps
			assert.Len(t, turn.State.Joined, 1, "%s: one container", name)
			for _, c := range turn.Meets {
				met[c.To[0]] = true
			}
			assert.True(t, slices.ContainsFunc(turn.Acts, func(x state.Act) bool { return x.Verb == state.Off }))
		}
		assert.Equal(t, state.AllPumps(n), pumps, name)
		for _, c := range a.Mode.Clauses {
			if c.Aim == setting.Served {
				assert.True(t, met[c.To[0]], "%s: %s", name, told.Fact(fact.Of("it", c.Subject())))
			}
		}
	}
	assert.True(t, found)
}

// A hydronic heater has its hot cycle whether or not anybody said what heats
// it, and be it gas on a coupling that is normally apart.
func TestAHydronicHeaterHasItsHotCycle(t *testing.T) {
	for name, change := range map[string]func(m *plumbing.Model){
		"on; its hot cycle": func(m *plumbing.Model) {
			m.Part("portable").Data.Gas = m.Part("portable").Data.Electric
		},
		"on by gas, at the control": asIs,
	} {
		_, plan := changedRig(t, "gas-coupling", func(m *plumbing.Model) {
			change(m)
			m.Part("portable").Data.Type, m.Part("portable").Data.FlowSwitch = "hydronic", false
			m.Part("cold").Normal, m.Part("hot").Normal = "together", "together"
			if name == "on; its hot cycle" {
				m.Part("panel").Controls = nil
			}
		})
		a := setting.ForMode(plan, setting.HotCycle)
		require.True(t, a.OK, a.Why)
		i := slices.IndexFunc(a.Mode.Acts, func(x state.Act) bool { return x.Verb == state.HeatOn })
		require.GreaterOrEqual(t, i, 0)
		assert.Contains(t, inWords(a.Mode.Acts[i]), name)
		assert.Contains(t, inWords(a.Mode.Acts[i]), "look in the morning that it ran")
	}
}

// A jumper hose of which nobody said what it joins is none to use.
func TestAHoseWithoutEndsIsNoneToUse(t *testing.T) {
	_, plan := changedRig(t, "air-port", func(m *plumbing.Model) { m.Part("jumper").Ends = nil })
	assert.Equal(t, "This model has no jumper hose.", told.Fact(setting.ForMode(plan, setting.JumperOn).Why))
}

// What stands as a mode that is done in turns stands as its first turn.
func TestWhatIsSameAsTurnsIsSameAsTheFirst(t *testing.T) {
	n, _ := changedRig(t, "in-turns", asIs)
	one, two := state.Normal(n), state.Normal(n).With(0, 1)
	plan := []setting.Answer{
		{Mode: setting.Mode{ID: "drain", Name: fact.Of("it", "Drain"), Drains: true}, OK: true, State: one,
			Turns: []setting.Turn{{State: one}, {State: two}}},
		{Mode: setting.Mode{ID: "later", Name: fact.Of("it", "Later")}, OK: true, State: one, SameAs: "drain"},
	}
	var ids []string
	for _, a := range setting.Unroll(plan) {
		ids = append(ids, a.Mode.ID+" "+a.SameAs)
	}
	assert.Equal(t, []string{"drain/1 ", "drain/2 ", "later drain/1"}, ids)

	// A mode that stands as one before it begins as that one does, but for one that no single setting does.
	same := func(ok bool) string {
		a := plan[0]
		a.OK, a.SameAs = ok, "city"
		return setting.Unroll([]setting.Answer{a})[0].SameAs
	}
	assert.Equal(t, "city", same(true))
	assert.Empty(t, same(false))
}

// Unrolled, each turn is a setting of its own with its name; every SameAs names
// one that comes before it.
func TestTurnsAreUnrolled(t *testing.T) {
	turns := 0
	for _, name := range rig.Names() {
		_, plan := changedRig(t, name, asIs)
		list := setting.Unroll(plan)
		seen := map[string]bool{}
		for _, a := range list {
			if a.SameAs != "" {
				assert.True(t, seen[a.SameAs], "%s: %s same as %s", name, a.Mode.ID, a.SameAs)
			}
			assert.False(t, seen[a.Mode.ID], a.Mode.ID)
			seen[a.Mode.ID] = true
			if strings.Contains(told.Fact(a.Mode.Name), ", turn ") {
				turns++
				assert.True(t, a.OK)
			}
		}
		for i := range plan {
			if len(plan[i].Turns) > 0 {
				assert.Nil(t, setting.ForMode(list, plan[i].Mode.ID), "%s: %s is there turn by turn", name,
					plan[i].Mode.ID)
			}
		}
	}
	assert.GreaterOrEqual(t, turns, 4)
}

// inWords is an act as a guide tells it.
func inWords(a state.Act) string { return words.English(quantity.SI).Act(a) }
