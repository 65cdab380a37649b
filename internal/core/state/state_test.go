package state_test

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
	"coldtap/internal/rig"
)

// campers have between them two pumps, pick-ups, a plate, couplings, unions.
var campers = []string{"basalt-28", "obsidian-33", "mica-5", "flint-11", "pumice-9"}

// acts lists everything that a hand could do to a network.
func acts(n *plumbing.Network) []state.Act {
	var list []state.Act
	for _, h := range n.Handles {
		for _, name := range h.Positions {
			list = append(list, state.Act{Verb: state.Turn, Part: h.Part, To: name})
		}
	}
	for _, p := range n.Pumps {
		list = append(list, state.Act{Verb: state.On, Part: p}, state.Act{Verb: state.Off, Part: p})
	}
	for _, f := range n.Fittings {
		list = append(list, state.Act{Verb: state.TakeOut, Part: f.Part}, state.Act{Verb: state.PutBack, Part: f.Part})
	}
	for _, h := range n.Heat {
		if slices.ContainsFunc(n.PartsOf(plumbing.RoleCoupling), func(c *plumbing.Part) bool { return n.Beside(c, h.Part) }) {
			continue // whether it can be lit depends on what was done before
		}
		list = append(list, state.Act{Verb: state.HeatOn, Part: h.Part, By: h.By},
			state.Act{Verb: state.HeatOff, Part: h.Part})
	}
	for _, node := range n.Nodes {
		p := node.Part
		for _, kind := range state.Choices(p) {
			if node.Port == "mouth" && kind != state.Capped {
				list = append(list, state.Act{Verb: state.Join, Part: p,
					With: state.ConnectionOf(p, kind, state.Antifreeze)})
			}
		}
		if node.Port == "mouth" && state.Choices(p) != nil {
			list = append(list, state.Act{Verb: state.Cap, Part: p}, state.Act{Verb: state.Part, Part: p})
		}
		if node.Port == "loose" {
			list = append(list, state.Act{Verb: state.Plug, Part: p})
		}
	}
	for _, p := range n.PartsOf(plumbing.RoleOutlet, plumbing.RoleMachine) {
		if sides := n.SidesOf(p); sides != nil {
			list = append(list, state.Act{Verb: state.Open, Part: p, Sides: sides},
				state.Act{Verb: state.Open, Part: p, Sides: sides[:1]}, state.Act{Verb: state.Shut, Part: p})
		}
	}
	return list
}

// anything is a state after some acts taken at random.
func anything(t *testing.T, n *plumbing.Network, rng *rand.Rand) state.State {
	t.Helper()
	s := state.Normal(n)
	all := acts(n)
	for range 12 {
		next, err := s.Do(n, all[rng.IntN(len(all))])
		require.NoError(t, err)
		s = next
	}
	s.Levels = map[string]float64{n.PartsOf(plumbing.RoleTank)[0].ID: rng.Float64()}
	s.Attitude = state.Attitude{NoseUp: float64(rng.IntN(5) - 2), LeftUp: rng.Float64()}
	return s
}

func same(t *testing.T, want, got state.State, what string) {
	t.Helper()
	require.Equal(t, want.Handles, got.Handles, what)
	require.Equal(t, [2]uint64{uint64(want.Pumps), uint64(want.Heat)}, [2]uint64{uint64(got.Pumps), uint64(got.Heat)},
		what)
	require.True(t, maps.Equal(want.Joined, got.Joined), "%s: %v, not %v", what, got.Joined, want.Joined)
	require.Equal(t, want.Levels, got.Levels, what)
	require.True(t, maps.Equal(want.Out, got.Out), "%s: %v, not %v", what, got.Out, want.Out)
	require.Equal(t, want.Attitude, got.Attitude, what)
	require.True(t, maps.Equal(want.Open, got.Open), "%s: %v, not %v", what, got.Open, want.Open)
}

func TestActsOnceOrTwiceAndInAnyOrder(t *testing.T) {
	rng := rand.New(rand.NewPCG(10, 1))
	tried := 0
	for _, name := range campers {
		n := rig.Network(t, name)
		for range 300 {
			s := anything(t, n, rng)
			before := s
			before.Handles, before.Joined, before.Open, before.Out = slices.Clone(s.Handles), maps.Clone(s.Joined),
				maps.Clone(s.Open), maps.Clone(s.Out)
			all := acts(n)
			a, b := all[rng.IntN(len(all))], all[rng.IntN(len(all))]
			do := func(acts ...state.Act) state.State {
				at := s
				for _, act := range acts {
					next, err := at.Do(n, act)
					require.NoError(t, err)
					at = next
				}
				return at
			}
			same(t, do(a), do(a, a), fmt.Sprintf("%s: %s of %s twice", name, a.Verb, a.Part.ID))
			if a.Part != b.Part {
				same(t, do(a, b), do(b, a), fmt.Sprintf("%s: %s of %s and %s of %s", name, a.Verb, a.Part.ID, b.Verb,
					b.Part.ID))
				tried++
			}
			same(t, before, s, name+": an act changes a state that somebody holds")
		}
	}
	assert.Greater(t, tried, 1000)
}

func TestAStateIsReadAsItWasWritten(t *testing.T) {
	jugs := 0
	defer func() { assert.Positive(t, jugs) }()
	rng := rand.New(rand.NewPCG(10, 2))
	for _, name := range campers {
		n := rig.Network(t, name)
		for range 200 {
			base, s := anything(t, n, rng), anything(t, n, rng)
			got, err := state.Read(n, base, state.Antifreeze, state.Write(n, base, s))
			require.NoError(t, err)
			same(t, s, got, name)
			for _, words := range state.Write(n, base, s) {
				require.Equal(t, len(words), len(state.Words(state.Text(words))), "%v as text", words)
			}
		}
		for _, a := range acts(n) {
			if a.Verb == state.Join && a.With.Kind == state.Container {
				a.With.Volume = quantity.Litre(0.5 + 20*rng.Float64())
				s := state.Normal(n)
				jug, err := s.Do(n, a)
				require.NoError(t, err)
				got, err := state.Read(n, s, state.Antifreeze, state.Write(n, s, jug))
				require.NoError(t, err)
				same(t, jug, got, "a jug with something in it")
				jugs++
			}
		}
		s := state.Normal(n)
		assert.Empty(t, state.Write(n, s, s), "nothing differs")
	}
}

func TestWordsThatNameNothingAreQuoted(t *testing.T) {
	n := rig.Network(t, "basalt-28")
	for key, word := range map[string]string{"set": "nothing.open", "open": "pump.cold", "pump": "fresh",
		"at": "city.barrel", "heat": "pump.gas", "out": "pump.cartridge", "full": "pump.1", "tilt": "roof.2"} {
		s := state.Normal(n)
		got, err := state.Read(n, s, state.Water, map[string][]string{key: {word}})
		id, _ := plumbing.PartOf(word)
		require.ErrorContains(t, err, id, key)
		same(t, s, got, key)
	}
}

func TestOnlyAContainerHoldsLitres(t *testing.T) {
	n := rig.Network(t, "basalt-28")
	port := n.PartsOf(plumbing.RolePickUp)[0].ID
	for _, word := range []string{port + ".jug:0", port + ".jug:-2", port + ".jug:lots", port + ".jug:NaN",
		port + ".bare:3", "city.hose:3"} {
		_, err := state.Read(n, state.Normal(n), state.Water, map[string][]string{"at": {word}})
		assert.ErrorContains(t, err, "litres in a container", word)
	}
}

func TestAnActThatAPartDoesNotTakeIsAnError(t *testing.T) {
	n := rig.Network(t, "basalt-28")
	tank := n.PartsOf(plumbing.RoleTank)[0]
	tap := n.PartsOf(plumbing.RoleOutlet)[0]
	for _, a := range []state.Act{
		{Verb: state.Turn, Part: tank, To: "open"}, {Verb: state.Turn, Part: n.Handles[0].Part, To: "sideways"},
		{Verb: state.On, Part: tank},
		{Verb: state.Join, Part: tap}, {Verb: state.TakeOut, Part: tank}, {Verb: state.Plug, Part: tank},
		{Verb: state.Open, Part: tap, Sides: []string{"lukewarm"}}, {Verb: "kick", Part: tank},
	} {
		_, err := state.Normal(n).Do(n, a)
		assert.Error(t, err, "%s of %s", a.Verb, a.Part.ID)
	}
}

// Of two pumps each has its own switch: what one draws does not pass the other.
func TestEachPumpHasItsSwitch(t *testing.T) {
	n := rig.Network(t, "basalt-28")
	require.GreaterOrEqual(t, len(n.Pumps), 2)
	s, err := state.Normal(n).Do(n, state.Act{Verb: state.On, Part: n.Pumps[1]})
	require.NoError(t, err)
	for _, l := range n.Links {
		if l.Pump != plumbing.None && !l.Idle {
			assert.Equal(t, l.Pump == 1, s.Passes(&l, l.A, state.Can), l.Part.ID)
			assert.False(t, s.Passes(&l, l.B, state.Can), "backwards")
		}
	}
}

// A heater has a switch for each of its sources, and off is off at all.
func TestAHeaterIsSwitchedSourceBySource(t *testing.T) {
	n := rig.Network(t, "mixing-valve")
	require.Len(t, n.Heat, 2)
	h := n.Heat[0].Part
	s, err := state.Normal(n).Do(n, state.Act{Verb: state.HeatOn, Part: h, By: plumbing.Electric})
	require.NoError(t, err)
	for i, x := range n.Heat {
		assert.Equal(t, x.By == plumbing.Electric, s.Heat.Has(plumbing.HeatID(i)), x.By)
	}
	_, err = s.Do(n, state.Act{Verb: state.HeatOn, Part: h, By: plumbing.Diesel})
	require.Error(t, err)
	s, err = s.Do(n, state.Act{Verb: state.HeatOff, Part: h})
	require.NoError(t, err)
	assert.Zero(t, s.Heat)
}

// Taps are opened by hand, machines by their own cycle.
func TestEveryTapIsEverySideButTheMachines(t *testing.T) {
	n := rig.Network(t, "obsidian-33")
	machine := 0
	for side := range state.EverySide(n) {
		is := n.Nodes[side].Part.Role() == plumbing.RoleMachine
		assert.Equal(t, !is, state.EveryTap(n)[side], n.Nodes[side].Name())
		if is {
			machine++
		}
	}
	assert.Positive(t, machine)
}

func FuzzRead(f *testing.F) {
	m, err := rig.Model("basalt-28")
	require.NoError(f, err)
	n, err := plumbing.NewNetwork(m)
	require.NoError(f, err)
	f.Add("set", "pump.on,x")
	f.Add("at", "city.hose,-")
	f.Add("open", "kitchen.cold")
	f.Fuzz(func(t *testing.T, key, text string) {
		s, err := state.Read(n, state.Normal(n), state.Water, map[string][]string{key: state.Words(text)})
		if err != nil {
			return
		}
		again, err := state.Read(n, state.Normal(n), state.Water, state.Write(n, state.Normal(n), s))
		require.NoError(t, err)
		same(t, s, again, text)
	})
}

// A tank of which nothing is said is full, and so is a piece.
func TestWhatNobodySaysIsFull(t *testing.T) {
	var s state.State
	assert.InDelta(t, 1, s.Level("fresh"), 0)
	assert.InDelta(t, 1, s.Contents.Share(3), 0)
	s.Levels = map[string]float64{"fresh": 0.25}
	s.Contents = state.Contents{3: {Share: 0.5}}
	assert.InDelta(t, 0.25, s.Level("fresh"), 0)
	assert.InDelta(t, 0.5, s.Contents.Share(3), 0)
	assert.InDelta(t, 1, s.Contents.Share(4), 0)
}

// Taking one thing out of a set leaves the others in it.
func TestASetLosesWhatIsTakenOut(t *testing.T) {
	s := state.Pumps(0).With(0, true).With(1, true).With(2, true).With(1, false)
	assert.Equal(t, []bool{true, false, true}, []bool{s.Has(0), s.Has(1), s.Has(2)})
	assert.Equal(t, s, s.With(1, false))
}
