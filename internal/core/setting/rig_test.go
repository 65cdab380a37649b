package setting_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
	"coldtap/internal/rig"
	"coldtap/internal/rig/told"
)

func changedRig(t *testing.T, name string, change func(m *plumbing.Model)) (*plumbing.Network, []setting.Answer) {
	t.Helper()
	m, err := rig.Model(name)
	require.NoError(t, err)
	change(m)
	n := network(t, m)
	return n, rig.Plan(t, n)
}

func names(n *plumbing.Network, handles []plumbing.HandleID) (list []string) {
	for _, h := range handles {
		list = append(list, n.Handles[h].Part.ID)
	}
	return list
}

// Drained as printed 1.98 L stay in the lines of the travel trailer. With its
// heater valves and its bypass shut, as once was printed to make no
// difference, 40.1 L do: the heater's 10 gal among them.
func TestEitherWayLeavesNoMoreWater(t *testing.T) {
	m := gneiss(t) // with the relief valve down: lifted, it lets air in
	m.Parts = without(m.Parts, "heater-relief-valve")
	m.Lines = slices.DeleteFunc(m.Lines, func(l plumbing.Line) bool { return l.ID == "heater-relief" })
	n := network(t, m)
	a := setting.ForMode(rig.Plan(t, n), setting.DrainDown)
	require.True(t, a.OK)
	left := func(s state.State) float64 {
		d := flow.Drain(n, s)
		return float64(d.Outside()) - 0.3*3.785411784 // without the heater's heel
	}
	assert.InDelta(t, 1.98, left(a.State), 0.01)
	shut := a.State
	for _, id := range []string{"valve-heater-in", "valve-heater-out", "valve-bypass"} {
		h := n.HandleOf(id)
		shut = shut.With(h, n.Handles[h].Index("closed"))
	}
	assert.InDelta(t, 40.1, left(shut)+0.3*3.785411784, 0.15)
	assert.NotContains(t, names(n, a.Either), "valve-heater-in")
	assert.NotContains(t, names(n, a.Either), "valve-heater-out")
	// What is printed as either may stand in any combination.
	worst := a.State
	for _, h := range a.Either {
		worst.Handles = slices.Clone(worst.Handles)
		worst.Handles[h] = n.Handles[h].Every()
	}
	assert.LessOrEqual(t, float64(flow.DrainWorst(n, worst).Outside()), float64(flow.Drain(n, a.State).Outside())+0.002)
}

// Whatever the mode, a tank's water does not run out at a port in use.
func TestStandingTankWaterStaysIn(t *testing.T) {
	for _, name := range []string{"basalt-28", "obsidian-33", "flint-11", "pumice-9", "joint-at-pump"} {
		n, plan := changedRig(t, name, func(*plumbing.Model) {})
		for _, a := range plan {
			if !a.OK || a.Mode.Drains || a.Mode.ID == setting.Storage {
				continue
			}
			s := a.State
			for _, tank := range n.PartsOf(plumbing.RoleTank) {
				r := flow.Reach(n, s, flow.Query{From: []plumbing.NodeID{n.Node(tank.ID + ".supply"),
					n.Node(tank.ID + ".drain")}})
				for i, node := range n.AllNodes() {
					plugged := a.State.Joined[i].Kind == state.Plugged
					assert.False(t, node.Outside && r.Node(i) && !plugged, "%s %s: %s runs out at %s", name, a.Mode.ID,
						tank.ID, node.Name())
				}
			}
		}
	}
}

// City water, air and every way of filling keep the container port of the
// plate shut off from the tank.
func TestFillingKeepsThePortShut(t *testing.T) {
	n, plan := changedRig(t, "obsidian-33", func(m *plumbing.Model) { m.Part("v2").Normal = "open" })
	v2, v1 := n.HandleOf("v2"), n.HandleOf("v1")
	for _, id := range []string{setting.City, setting.FillGravity, setting.Blow, setting.HandPump} {
		a := setting.ForMode(plan, id)
		if !a.OK {
			continue
		}
		shut := n.Handles[v2].Positions[a.State.Position(v2)] == "closed" ||
			n.Handles[v1].Positions[a.State.Position(v1)] == "closed"
		assert.True(t, shut, id)
	}
	assert.True(t, setting.ForMode(plan, setting.FillGravity).OK)
}

// A hose on the pump's inlet fills the tank by its return line, the taps shut.
func TestATankIsFilledThroughAJointAtThePump(t *testing.T) {
	n, plan := changedRig(t, "joint-at-pump", func(*plumbing.Model) {})
	a := setting.ForMode(plan, setting.FillContainer)
	require.True(t, a.OK, a.Why)
	got := positions(n, a.State)
	assert.Equal(t, "apart", got["joint"])
	assert.Equal(t, "open", got["back"])
	assert.Equal(t, "closed", got["stop"], "or the tank would run out at its hose's end")
	dose := setting.ForMode(plan, setting.DoseTank)
	require.True(t, dose.OK, dose.Why)
	assert.Equal(t, "closed", positions(n, dose.State)["taps"], "the strong batch keeps off the taps")
	// Without the return line there is no way into the tank: that is said.
	_, plan = changedRig(t, "joint-at-pump", func(m *plumbing.Model) {
		m.Lines = slices.DeleteFunc(m.Lines, func(l plumbing.Line) bool { return l.To == "fresh.return" })
	})
	assert.Contains(t, told.Fact(setting.ForMode(plan, setting.FillContainer).Mode.LeftOut),
		"No line leads from the joint at the pump into a tank")
	// Without a shut-off the tank's end of the joint is plugged.
	n, plan = changedRig(t, "joint-at-pump", func(m *plumbing.Model) {
		m.Lines = slices.DeleteFunc(m.Lines, func(l plumbing.Line) bool { return l.To == "stop.a" })
		m.Lines[0].From = "fresh.supply"
		m.Parts = slices.DeleteFunc(m.Parts, func(p plumbing.Part) bool { return p.ID == "stop" })
	})
	a = setting.ForMode(plan, setting.FillContainer)
	require.True(t, a.OK, a.Why)
	assert.True(t, slices.ContainsFunc(a.Mode.Acts, func(a state.Act) bool { return a.Verb == state.Plug }))
	_ = n
}

// Each pump draws antifreeze from a pick-up of its own.
func TestEveryPickUpCounts(t *testing.T) {
	n, plan := changedRig(t, "basalt-28", func(*plumbing.Model) {})
	a := setting.ForMode(plan, setting.Antifreeze)
	require.True(t, a.OK, a.Why)
	assert.Len(t, a.Mode.From, 2)
	got := positions(n, a.State)
	assert.Equal(t, [2]string{"b", "b"}, [2]string{got["valve-main"], got["valve-bath"]})
	// The second pick-up is shut where the first alone is used: in a mode that
	// draws from the tank both are.
	a = setting.ForMode(plan, setting.Sanitize)
	got = positions(n, a.State)
	assert.Equal(t, [2]string{"a", "a"}, [2]string{got["valve-main"], got["valve-bath"]})
}

// A heater without a bypass: antifreeze by the pump is the best there is, and
// what is wrong with it is named.
func TestTheBestThereIsIsTold(t *testing.T) {
	n, plan := changedRig(t, "no-bypass", func(*plumbing.Model) {})
	a := setting.ForMode(plan, setting.Antifreeze)
	require.False(t, a.OK)
	require.True(t, a.Has())
	require.Len(t, a.Broken, 1)
	assert.Equal(t, setting.HeaterOut, a.Broken[0].Clause.Aim)
	assert.Equal(t, "b", positions(n, a.State)["pick"])
	wrong := strings.ReplaceAll(told.All(a.Wrong(n)), "\u00a0", " ")
	assert.Equal(t, "Water heater would fill with antifreeze. Water heater takes up to 6.00 gal (22.7 L).", wrong)
	// Its tank has no drain: drained down, all 30 gal stay, and that is said.
	d := setting.ForMode(plan, setting.DrainDown)
	assert.False(t, d.OK)
	require.Len(t, d.Keeps, 1)
	assert.InDelta(t, 30*3.785411784, float64(d.Keeps[0].Stays), 1e-6)
	assert.Contains(t, strings.ReplaceAll(told.Fact(d.Why), "\u00a0", " "), "Fresh tank keeps 30.0 gal")
}

// The drain-down turns the heater's valve so that air comes to it: at NORMAL
// without a relief valve, and its goal is not met where nothing lets air in.
func TestDrainDownIsBoundedByWhatStays(t *testing.T) {
	noRelief := func(m *plumbing.Model) {
		m.Parts = slices.DeleteFunc(m.Parts, func(p plumbing.Part) bool { return p.ID == "relief" })
		m.Lines = slices.DeleteFunc(m.Lines, func(l plumbing.Line) bool { return l.To == "relief.in" })
		m.Part("fresh").Data.Capacity, m.Part("fresh").Data.Heel = quantity.Of(quantity.Litre(1), quantity.SI),
			quantity.Of(quantity.Litre(1), quantity.SI)
	}
	n, plan := changedRig(t, "heater-one-valve", noRelief)
	a := setting.ForMode(plan, setting.DrainDown)
	require.True(t, a.OK, a.Why)
	assert.Equal(t, "a", positions(n, a.State)["bypass"])
	assert.NotContains(t, names(n, a.Either), "bypass", "bypassed, the heater's 20 L would stay")
	// With a check at the inlet too no air comes in at all.
	n, plan = changedRig(t, "heater-one-valve", func(m *plumbing.Model) {
		noRelief(m)
		m.Parts = append(m.Parts, plumbing.Part{ID: "inlet-check", Kind: plumbing.CheckValve, Name: "Inlet check",
			Place: m.Part("bypass").Place,
			Data:  plumbing.Data{OpensAt: quantity.Of(quantity.Kilopascal(20), quantity.SI)}})
		for i := range m.Lines {
			if m.Lines[i].From == "bypass.a" {
				m.Lines[i].From = "inlet-check.out"
			}
		}
		m.Lines = append(m.Lines, plumbing.Line{ID: "to-check", From: "bypass.a", To: "inlet-check.in",
			Side: plumbing.Cold, Size: "semi-rigid 12 mm", Length: quantity.Of(quantity.Millimetre(50), quantity.SI)})
	})
	a = setting.ForMode(plan, setting.DrainDown)
	assert.False(t, a.OK)
	assert.Contains(t, told.Fact(a.Why), "Water heater keeps 5.28")
	_ = n
}

// A tank whose height nobody gave is not known to keep its water: the goal does
// not fail on it.
func TestWhatIsNotKnownIsNotKept(t *testing.T) {
	_, plan := changedRig(t, "unknowns", func(m *plumbing.Model) {
		m.Part("fresh").Place.Height = quantity.Given[quantity.Metre]{}
	})
	a := setting.ForMode(plan, setting.DrainDown)
	assert.Empty(t, a.Keeps)
	assert.True(t, a.OK, a.Why)
}

// Neither antifreeze nor sanitizer passes a cartridge; a sealed filter is
// named with what to leave shut.
func TestCartridgesComeOut(t *testing.T) {
	_, plan := changedRig(t, "sealed-filter", func(*plumbing.Model) {})
	for _, id := range []string{setting.Antifreeze, setting.Sanitize} {
		a := setting.ForMode(plan, id)
		what := map[string]string{}
		for _, h := range a.Mode.Acts {
			what[h.Part.ID] = inWords(h)
		}
		assert.Contains(t, what["canister"], "cartridge out", id)
		assert.Contains(t, what["osmosis"], "sealed", id)
	}
	for _, h := range setting.ForMode(plan, setting.Everyday).Mode.Acts {
		assert.NotEqual(t, "canister", h.Part.ID, "water may pass")
	}
}

// What can't be had at one side of an outlet is given up there alone: hot water
// for the kitchen tap would run out of an open end on its way, but its cold
// water still is asked for, which opens the valve before it.
func TestTheBestThereIsGivesUpNoMoreThanItMust(t *testing.T) {
	n, plan := changedRig(t, "no-bypass", func(m *plumbing.Model) {
		at := m.Part("tap").Place
		m.Parts = append(m.Parts,
			plumbing.Part{ID: "stop", Kind: plumbing.Valve, Name: "Stop valve", Place: at, Normal: "closed"},
			plumbing.Part{ID: "hot-stop", Kind: plumbing.Valve, Name: "Hot stop valve", Place: at, Normal: "closed"},
			plumbing.Part{ID: "tee", Kind: plumbing.Tee, Name: "Hot tee", Place: at},
			plumbing.Part{ID: "sawn-off", Kind: plumbing.OpenEnd, Name: "Sawn-off pipe", Place: at})
		for i := range m.Lines {
			switch m.Lines[i].To {
			case "tap.cold":
				m.Lines[i].To = "stop.a"
			case "tap.hot":
				m.Lines[i].To = "hot-stop.a"
			}
		}
		join := func(id, from, to string, side plumbing.Side) {
			m.Lines = append(m.Lines, plumbing.Line{ID: id, From: from, To: to, Side: side, Size: "PEX 1/2",
				Length: quantity.Of(quantity.Millimetre(300), quantity.US)})
		}
		join("cold-last", "stop.b", "tap.cold", plumbing.Cold)
		join("hot-1", "hot-stop.b", "tee.a", plumbing.Hot)
		join("hot-2", "tee.b", "tap.hot", plumbing.Hot)
		join("hot-3", "tee.c", "sawn-off.in", plumbing.Hot)
	})
	a := setting.ForMode(plan, setting.Everyday)
	require.False(t, a.OK)
	require.True(t, a.Has())
	require.Len(t, a.Broken, 1)
	assert.Equal(t, "hot", a.Broken[0].Clause.Side)
	assert.Equal(t, "closed", positions(n, a.State)["hot-stop"])
	assert.Equal(t, "open", positions(n, a.State)["stop"])
}

// A softener's bed may have water, but neither antifreeze nor sanitizer: its
// knob goes to bypass for both, and stands at service for use.
func TestASoftenerIsSparedWhatRuinsIt(t *testing.T) {
	n, plan := changedRig(t, "softener", func(*plumbing.Model) {})
	for mode, want := range map[string]string{setting.Everyday: "service", setting.Sanitize: "bypass",
		setting.Flush: "service", setting.DoseLines: "bypass", setting.Antifreeze: "bypass",
		setting.Storage: "bypass"} {
		a := setting.ForMode(plan, mode)
		require.True(t, a.OK, "%s: %s", mode, a.Why)
		assert.Equal(t, want, positions(n, a.State)["soft"], mode)
		assert.NotContains(t, names(n, a.Either), "soft", mode)
	}
	// Left at service the bed takes it, and that is told.
	a := setting.ForMode(plan, setting.Antifreeze)
	h := n.HandleOf("soft")
	broken := setting.Judge(n, &a.Mode, a.State.With(h, n.Handles[h].Index("service")))
	require.Len(t, broken, 1)
	assert.Equal(t, setting.Spared, broken[0].Clause.Aim)
	// Without the bypass there is no setting for it, and what is wrong is said.
	n, plan = changedRig(t, "softener", func(m *plumbing.Model) {
		p := m.Part("soft")
		m.Parts = append(m.Parts, plumbing.Part{ID: "knob", Kind: plumbing.Selector, Name: "Knob", Normal: "only",
			Selector: []plumbing.Choice{{ID: "only", Sets: map[string]string{p.ID: "service"}}}})
	})
	a = setting.ForMode(plan, setting.Antifreeze)
	require.False(t, a.OK)
	require.True(t, a.Has())
	assert.Contains(t, told.All(a.Wrong(n)), "Water softener would take antifreeze, which ruins it.")
}

// What a mixing valve adds of cold water is no way past the heater; the bypass
// tube left open is one. Nothing is pushed through its cold leg while the hot
// one brings no warmth: the line to it stays as it was.
func TestAMixingValveIsNoWayPastTheHeater(t *testing.T) {
	n, plan := changedRig(t, "mixing-valve", func(*plumbing.Model) {})
	a := setting.ForMode(plan, setting.Everyday)
	require.True(t, a.OK, a.Why)
	assert.Equal(t, "closed", positions(n, a.State)["tube"])
	tube := n.HandleOf("tube")
	broken := setting.Judge(n, &a.Mode, a.State.With(tube, n.Handles[tube].Index("open")))
	require.Len(t, broken, 1)
	assert.Equal(t, setting.OnlyByHeater, broken[0].Clause.Aim)
	// A plain tee in its place mixes cold water in: no setting for everyday.
	_, plain := changedRig(t, "mixing-valve", func(m *plumbing.Model) {
		m.Part("mixer").Kind, m.Part("mixer").Data = plumbing.Tee, plumbing.Data{}
		for i := range m.Lines {
			l := &m.Lines[i]
			for _, end := range []*string{&l.From, &l.To} {
				switch *end {
				case "mixer.hot":
					*end = "mixer.a"
				case "mixer.cold":
					*end = "mixer.b"
				case "mixer.mixed":
					*end = "mixer.c"
				}
			}
		}
	})
	require.False(t, setting.ForMode(plain, setting.Everyday).OK)

	a = setting.ForMode(plan, setting.Antifreeze)
	require.True(t, a.OK, a.Why)
	swept := flow.Swept(n, a.State, a.Mode.From[0], []plumbing.NodeID{n.Node("tap.hot")})
	for i, l := range n.AllLinks() {
		if l.Line == nil {
			continue
		}
		switch l.Line.From + ">" + l.Line.To {
		case "t2.c>mixer.hot", "mixer.mixed>tap.hot", "tube.b>t2.b":
			assert.True(t, swept[i], l.Line.To)
		case "t3.c>mixer.cold":
			assert.False(t, swept[i], "the cold leg")
		}
	}
}

// Tanks are joined as the mode says: one body of water, or as many as tanks.
func TestTanksAreJoinedOrApartAsTheModeSays(t *testing.T) {
	tried := 0
	for _, name := range rig.Names() {
		n := rig.Network(t, name)
		plan := rig.Plan(t, n)
		joined, apart := setting.ForMode(plan, setting.TanksJoined), setting.ForMode(plan, setting.TanksApart)
		if len(n.PartsOf(plumbing.RoleTank)) < 2 {
			assert.Equal(t, "This model has one fresh tank.", told.Fact(joined.Mode.LeftOut), name)
			continue
		}
		if joined.OK {
			assert.Len(t, flow.Bodies(n, joined.State), 1, name)
			tried++
		}
		if apart.OK {
			assert.Len(t, flow.Bodies(n, apart.State), len(n.PartsOf(plumbing.RoleTank)), name)
			tried++
		}
	}
	assert.GreaterOrEqual(t, tried, 6)
}

// A filter with a way past it is left out; one in the only line is not.
func TestAFilterIsPassedWhereAWayLeadsPastIt(t *testing.T) {
	past := func(m *plumbing.Model) {
		m.Parts = slices.DeleteFunc(m.Parts, func(p plumbing.Part) bool { return p.ID == "osmosis" })
		m.Lines = slices.DeleteFunc(m.Lines, func(l plumbing.Line) bool {
			return l.To == "osmosis.in" || l.From == "osmosis.out"
		})
		m.Parts = slices.DeleteFunc(m.Parts, func(p plumbing.Part) bool { return p.ID == "pure" || p.ID == "t2" })
		at := m.Part("canister").Place
		for i := range m.Lines {
			switch l := &m.Lines[i]; {
			case l.To == "canister.in":
				l.To = "in.com"
			case l.From == "canister.out":
				l.From = "out.com"
			case l.To == "t2.a":
				l.To = "tap.cold"
			}
		}
		m.Lines = slices.DeleteFunc(m.Lines, func(l plumbing.Line) bool { return l.From == "t2.c" })
		m.Parts = append(m.Parts, plumbing.Part{ID: "in", Kind: plumbing.ThreeWay, Name: "Filter inlet valve",
			Place: at}, plumbing.Part{ID: "out", Kind: plumbing.ThreeWay, Name: "Filter outlet valve", Place: at})
		for id, ends := range map[string][2]string{"f1": {"in.a", "canister.in"}, "f2": {"canister.out", "out.a"},
			"f3": {"in.b", "out.b"}} {
			m.Lines = append(m.Lines, plumbing.Line{ID: id, From: ends[0], To: ends[1], Side: plumbing.Cold,
				Size: "semi-rigid 12 mm", Length: quantity.Of(quantity.Millimetre(200), quantity.SI)})
		}
	}
	n, plan := changedRig(t, "sealed-filter", past)
	a := setting.ForMode(plan, setting.FilterPassed)
	require.True(t, a.OK, told.Fact(a.Why))
	assert.Equal(t, [2]string{"b", "b"}, [2]string{positions(n, a.State)["in"], positions(n, a.State)["out"]})
	_, plan = changedRig(t, "sealed-filter", func(*plumbing.Model) {})
	assert.Contains(t, told.Fact(setting.ForMode(plan, setting.FilterPassed).Mode.LeftOut), "No filter can be passed")
}

// One handle turned is fewer than two, although it comes first among the ids.
func TestFewestChangesGoBeforeEarlierIds(t *testing.T) {
	n, plan := changedRig(t, "no-bypass", func(m *plumbing.Model) {
		at := m.Part("tap").Place
		for _, id := range []string{"a-direct", "b-first", "c-second"} {
			m.Parts = append(m.Parts, plumbing.Part{ID: id, Kind: plumbing.Valve, Name: id, Place: at,
				Normal: "closed"})
		}
		for _, id := range []string{"fork", "join"} {
			m.Parts = append(m.Parts, plumbing.Part{ID: id, Kind: plumbing.Tee, Name: id, Place: at})
		}
		for i := range m.Lines {
			if m.Lines[i].To == "tap.cold" {
				m.Lines[i].To = "fork.a"
			}
		}
		for i, ends := range [][2]string{{"fork.b", "a-direct.a"}, {"a-direct.b", "join.a"}, {"fork.c", "b-first.a"},
			{"b-first.b", "c-second.a"}, {"c-second.b", "join.b"}, {"join.c", "tap.cold"}} {
			m.Lines = append(m.Lines, plumbing.Line{ID: string(rune('p' + i)), From: ends[0], To: ends[1],
				Side: plumbing.Cold, Size: "PEX 1/2", Length: quantity.Of(quantity.Millimetre(300), quantity.US)})
		}
	})
	a := setting.ForMode(plan, setting.Everyday)
	require.True(t, a.OK, a.Why)
	got := positions(n, a.State)
	assert.Equal(t, [3]string{"open", "closed", "closed"}, [3]string{got["a-direct"], got["b-first"], got["c-second"]})
}
