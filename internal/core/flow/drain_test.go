package flow_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
	"coldtap/internal/rig"
)

// opened is a network with every low-point drain and outlet side open, as when
// a model is drained.
func opened(n *plumbing.Network, but ...string) state.State {
	s := state.Normal(n)
	for i, h := range n.AllHandles() {
		if p := h.Index("open"); p >= 0 && h.Part.Role() == plumbing.RoleDrain && !slices.Contains(but, h.Part.ID) {
			s = s.With(i, p)
		}
	}
	for side := range state.EveryTap(n) {
		if !slices.Contains(but, n.Nodes[side].Part.ID) {
			s = s.WithOpen(side, true)
		}
	}
	return s
}

func demoNetwork(t *testing.T, id string) *plumbing.Network {
	t.Helper()
	m, err := demo.Model(id)
	require.NoError(t, err)
	b, err := m.Build(m.StandardOptions()...)
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(b)
	require.NoError(t, err)
	return n
}

func TestGneissLoopKeepsWater(t *testing.T) {
	n := demoNetwork(t, "gneiss-24-2027")
	s := opened(n)
	d := flow.Drain(n, s)
	// The cold loop runs 4 ft from the tee at 25 in down to 12 in and 5 ft up to
	// the shower at 40 in. It stays full to the tee: 4 ft, and 13 of the 28 in
	// of the rise. A foot of ½ in PEX holds 0.03633 L.
	assert.InDelta(t, (4+5*13./28)*0.03633, float64(d.Stays(n, "c-outside")), 0.0005)
	// The hot one hangs from a tee at 26 in.
	assert.InDelta(t, (4+5*14./28)*0.03633, float64(d.Stays(n, "h-outside")), 0.0005)
	assert.Zero(t, d.Stays(n, "c-kitchen"), "a branch that falls to the drain empties")
	assert.Zero(t, d.Stays(n, "h-shower"))

	// With a drain at the loop's lowest spot it empties.
	m := n.Model
	l := m.Line("c-outside")
	l.To, l.Spots, l.Length = "loop-tee.a", nil, given[quantity.Millimetre]("4 ft")
	m.Parts = append(m.Parts,
		plumbing.Part{ID: "loop-tee", Kind: plumbing.Tee, Name: "Loop tee",
			Place: plumbing.Place{Height: given[quantity.Metre]("12 in")}},
		plumbing.Part{ID: "loop-drain", Kind: plumbing.LowPoint, Name: "Loop drain",
			Place: plumbing.Place{Height: given[quantity.Metre]("11 in")}})
	m.Lines = append(m.Lines,
		plumbing.Line{ID: "loop-up", From: "loop-tee.b", To: "outside-shower.cold", Side: plumbing.Cold,
			Size: "PEX 1/2", Length: given[quantity.Millimetre]("5 ft")},
		plumbing.Line{ID: "loop-down", From: "loop-tee.c", To: "loop-drain.in", Side: plumbing.Drain, Size: "PEX 1/2",
			Length: given[quantity.Millimetre]("1 in")})
	n, err := plumbing.NewNetwork(m)
	require.NoError(t, err)
	s = opened(n)
	d = flow.Drain(n, s)
	assert.Zero(t, d.Stays(n, "c-outside")+d.Stays(n, "loop-up"))
}

func TestHeaterEmptiesByItsPlugOnly(t *testing.T) {
	n := demoNetwork(t, "gneiss-24-2027")
	s := opened(n)
	assert.InDelta(t, 0.3*3.785411784, float64(flow.Drain(n, s).Stays(n, "heater")), 1e-9, "its heel")
	s = opened(n, "anode")
	// With the plug in it runs back through its inlet at the bottom, over the
	// inlet valve one inch higher: of 13 in inside one inch stays.
	assert.InDelta(t, 10*3.785411784/13, float64(flow.Drain(n, s).Stays(n, "heater")), 1e-6)
}

func TestTrapsOfTheOtherModelsKeepWater(t *testing.T) {
	n := demoNetwork(t, "ashlar-20-2027")
	s := opened(n)
	assert.InDelta(t, float64(n.Model.Line("port-hose").Content()), float64(flow.Drain(n, s).Stays(n, "port-hose")),
		1e-9, "nothing drains the locker hose")

	n = demoNetwork(t, "marl-15-2027")
	s = opened(n)
	boot := flow.Drain(n, s).Stays(n, "to-tail")
	h := n.HandleOf("crossover")
	s = s.With(h, n.Handles[h].Index("open"))
	assert.Less(t, float64(flow.Drain(n, s).Stays(n, "to-tail")), float64(boot),
		"the boot wash drains only with the crossover open")

	n = demoNetwork(t, "tuff-9-2027")
	s = opened(n)
	assert.InDelta(t, 0.06, float64(flow.Drain(n, s).Stays(n, "strainer")), 1e-9, "the strainer stays full")
}

// drained drains a model as its drain-down mode says, with some things more.
func drained(t *testing.T, n *plumbing.Network, change func(s state.State) state.State,
	turn map[string]string) *flow.Drained {
	t.Helper()
	a := setting.ForMode(rig.Plan(t, n), setting.DrainDown)
	require.True(t, a.OK)
	s := a.State
	for id, pos := range turn {
		h := n.HandleOf(id)
		require.GreaterOrEqual(t, h, 0)
		s = s.With(h, n.Handles[h].Index(pos))
	}
	if change != nil {
		s = change(s)
	}
	return flow.Drain(n, s)
}

func TestTrapsGoWhenTheRemedyIsApplied(t *testing.T) {
	// Ashlar: the hose in the side locker hangs below both its ends. Taken off
	// its port it still holds; hung straight, with the suction valve turned to
	// it and the port open, it runs out.
	n := demoNetwork(t, "ashlar-20-2027")
	portOpen := func(s state.State) state.State {
		return s.WithJoined(n.Node("port.mouth"), state.Connection{Kind: state.OpenToAir})
	}
	holds := float64(n.Model.Line("port-hose").Content())
	assert.InDelta(t, holds, float64(drained(t, n, nil, nil).Stays(n, "port-hose")), 1e-9)
	toPort := map[string]string{"valve-suction": "b", "strainer": "open"}
	assert.Greater(t, float64(drained(t, n, portOpen, toPort).Stays(n, "port-hose")), 0.7*holds, "it hangs in a loop")
	n.Model.Line("port-hose").Spots = nil
	n, err := plumbing.NewNetwork(n.Model)
	require.NoError(t, err)
	assert.Zero(t, drained(t, n, portOpen, toPort).Stays(n, "port-hose"))

	// Marl: the line to the boot wash drains with the crossover open, as the mode says.
	n = demoNetwork(t, "marl-15-2027")
	assert.Zero(t, drained(t, n, nil, nil).Stays(n, "to-tail"))
	assert.InDelta(t, float64(n.Model.Line("to-tail").Content()),
		float64(drained(t, n, nil, map[string]string{"crossover": "closed"}).Stays(n, "to-tail")), 1e-9)

	// Feldspar: the mixer keeps its 60 mL with one side open and loses it half-way.
	n = demoNetwork(t, "feldspar-c7-2027")
	cold := func(s state.State) state.State { return s.WithOpen(n.Node("shower.hot"), false) }
	assert.InDelta(t, 0.06, float64(drained(t, n, cold, nil).Stays(n, "shower")), 1e-9)
	assert.Zero(t, drained(t, n, nil, nil).Stays(n, "shower"))

	// Tuff: the strainer empties with its bowl off.
	n = demoNetwork(t, "tuff-9-2027")
	assert.InDelta(t, 0.06, float64(drained(t, n, nil, nil).Stays(n, "strainer")), 1e-9)
	assert.Zero(t, drained(t, n, nil, map[string]string{"strainer": "open"}).Stays(n, "strainer"))
}

func TestReasonsForWhatStays(t *testing.T) {
	n := demoNetwork(t, "gneiss-24-2027")
	a := setting.ForMode(rig.Plan(t, n), setting.DrainDown)
	d := flow.Drain(n, a.State)
	why := map[string]flow.Reason{}
	for i, r := range d.Reasons(n, a.State) {
		why[d.Pieces[i].ID(n)] = max(why[d.Pieces[i].ID(n)], r)
	}
	for id, want := range map[string]flow.Reason{"c-outside": flow.Dips, "pump": flow.Behind, "trunk-1": flow.Behind,
		"city-in": flow.DeadEnd, "pickup-hose": flow.NoWayOut, "c-kitchen": flow.Empties} {
		assert.Equal(t, want, why[id], id)
	}
}

func TestAirSweepsWhatDrainingLeaves(t *testing.T) {
	n := demoNetwork(t, "gneiss-24-2027")
	a := setting.ForMode(rig.Plan(t, n), setting.Blow)
	require.True(t, a.OK)
	d := drained(t, n, nil, nil)
	after := flow.Blow(n, a.State, d, 0.03)
	loop := n.Model.Line("c-outside").Content()
	assert.InDelta(t, 0.03*float64(loop), float64(after.Stays(n, "c-outside")), 1e-9, "a film is left of the loop")
	assert.InDelta(t, 0.03*float64(n.Model.Line("city-in").Content()), float64(after.Stays(n, "city-in")), 1e-9)
	for _, id := range []string{"pump", "strainer", "pickup-hose", "rinse-line", "suction"} {
		assert.Equal(t, d.Stays(n, id), after.Stays(n, id), "%s is not on the way", id)
	}
	assert.LessOrEqual(t, float64(after.Total()), float64(d.Total()))
	// One outlet alone sweeps its own branch only.
	kitchen := a.State
	kitchen.Open = state.Sides(n.Node("kitchen.cold"))
	one := flow.Blow(n, kitchen, d, 0.03)
	assert.Equal(t, d.Stays(n, "c-outside"), one.Stays(n, "c-outside"))
}

func BenchmarkDrainLargestDemoModel(b *testing.B) {
	m, err := demo.Model("schist-31-2027")
	require.NoError(b, err)
	n, err := plumbing.NewNetwork(m)
	require.NoError(b, err)
	s := state.Normal(n)
	s.Open = state.EveryTap(n)
	for b.Loop() {
		b.StopTimer()
		n := n.Changed() // of which nothing is known
		b.StartTimer()
		flow.Drain(n, s)
	}
}

// openings lists what can be opened on a network, one thing each.
func openings(n *plumbing.Network) (list []func(state.State) state.State) {
	for i, h := range n.AllHandles() {
		if p := h.Index("open"); p >= 0 && h.Part.Lets() {
			list = append(list, func(s state.State) state.State { return s.With(i, p) })
		}
	}
	for i, node := range n.AllNodes() {
		switch {
		case node.Part.Role() == plumbing.RoleOutlet && n.Joined(i):
			list = append(list, func(s state.State) state.State { return s.WithOpen(i, true) })
		case node.Part.Role() == plumbing.RoleInlet && node.Outside:
			list = append(list, func(s state.State) state.State {
				return s.WithJoined(i, state.Connection{Kind: state.OpenToAir})
			})
		}
	}
	return list
}

func TestOpeningOneMoreNeverLeavesMore(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 8))
	for i := range 200 {
		m := &plumbing.Model{ID: "random", Units: "si"}
		grow(m, rng, 12+rng.IntN(25))
		n, err := plumbing.NewNetwork(m)
		require.NoError(t, err)
		steps := openings(n)
		rng.Shuffle(len(steps), func(a, b int) { steps[a], steps[b] = steps[b], steps[a] })
		s := state.Normal(n)
		before := float64(flow.Drain(n, s).Total())
		for k, open := range steps {
			s = open(s)
			left := float64(flow.Drain(n, s).Total())
			require.LessOrEqual(t, left, before+1e-9, fmt.Sprintf("network %d, opening %d", i, k))
			before = left
		}
		d := flow.Drain(n, s)
		for _, p := range d.Pieces {
			require.GreaterOrEqual(t, p.Share(), 0.0)
			require.LessOrEqual(t, p.Share(), 1.0)
		}
	}
}

// The first link of a network is a link as any other.
func TestAPieceIsInALinkOrNot(t *testing.T) {
	assert.True(t, (&flow.Left{Link: 0}).InLink())
	assert.True(t, (&flow.Left{Link: 3}).InLink())
	assert.False(t, (&flow.Left{Link: -1}).InLink())
}
