package flow_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
	"coldtap/internal/rig"
)

// changed is a rig with something changed in its description.
func changed(t *testing.T, name string, change func(m *plumbing.Model)) *plumbing.Network {
	t.Helper()
	m, err := rig.Model(name)
	require.NoError(t, err)
	change(m)
	n, err := plumbing.NewNetwork(m)
	require.NoError(t, err)
	return n
}

func asItIs(*plumbing.Model) {}

// stand puts handles in positions, every outlet open and everything else as it
// normally stands.
func stand(t *testing.T, n *plumbing.Network, positions map[string]string) state.State {
	t.Helper()
	s := state.Normal(n)
	s.Open = state.EveryTap(n)
	for id, pos := range positions {
		h := n.HandleOf(id)
		require.GreaterOrEqual(t, h, 0, id)
		p := n.Handles[h].Index(pos)
		require.GreaterOrEqual(t, p, 0, "%s %s", id, pos)
		s = s.With(h, p)
	}
	return s
}

func stays(t *testing.T, n *plumbing.Network, id string, positions map[string]string) float64 {
	t.Helper()
	s := stand(t, n, positions)
	return float64(flow.Drain(n, s).Stays(n, id))
}

// reasonOf is why water stays in a part.
func reasonOf(t *testing.T, n *plumbing.Network, id string, positions map[string]string) (why flow.Reason) {
	t.Helper()
	s := stand(t, n, positions)
	d := flow.Drain(n, s)
	for i, r := range d.Reasons(n, s) {
		if d.Pieces[i].ID(n) == id {
			why = max(why, r)
		}
	}
	return why
}

// A storage heater behind one valve: at NORMAL air comes in by the cold taps;
// at BYPASS its inlet is shut and the check holds the taps' air back, so the
// plug alone, 13 mm wide, lets nothing out until the relief valve is lifted.
func TestAHeaterBehindOneValveNeedsAir(t *testing.T) {
	n := changed(t, "heater-one-valve", asItIs)
	const heel = 0.5
	assert.InDelta(t, heel, stays(t, n, "heater", map[string]string{"plug": "open", "low": "open"}), 1e-9, "normal")
	assert.InDelta(t, 20, stays(t, n, "heater", map[string]string{"plug": "open", "low": "open", "bypass": "b"}), 1e-9,
		"bypassed: no air")
	assert.InDelta(t, heel, stays(t, n, "heater", map[string]string{"plug": "open", "bypass": "b", "relief": "open"}),
		1e-9, "relief lifted")
	assert.InDelta(t, 20, stays(t, n, "heater", map[string]string{"relief": "open"}), 1e-9, "the plug is in")
	// A plug of 20 mm vents itself, one of 19 does not.
	for bore, want := range map[quantity.Millimetre]float64{19: 20, 20: heel} {
		wide := changed(t, "heater-one-valve", func(m *plumbing.Model) {
			m.Part("plug").Data.Bore = quantity.Of(bore, quantity.SI)
			m.Part("heater").Data.Bore = quantity.Of(bore, quantity.SI)
			for i := range m.Lines {
				if m.Lines[i].From == "heater.drain" {
					m.Lines[i].Inside = quantity.Of(bore, quantity.SI)
				}
			}
		})
		assert.InDelta(t, want, stays(t, wide, "heater", map[string]string{"plug": "open", "bypass": "b"}), 1e-9,
			"%v mm", bore)
	}
}

// A coil is a pipe: it empties by its drain where air comes in at its hot end.
func TestACoilEmptiesByItsDrain(t *testing.T) {
	n := changed(t, "coil", asItIs)
	assert.InDelta(t, 0, stays(t, n, "heater", map[string]string{"coil": "open", "in": "open", "out": "open"}), 1e-9)
	assert.InDelta(t, 1, stays(t, n, "heater", map[string]string{"in": "closed", "out": "closed"}), 1e-9)
}

// 90 L stand 300 mm high; the drain's rim is 40 mm above the bottom: 12 L stay.
// At the bottom the heel of 2 L does.
func TestATankKeepsWhatIsBelowTheRimOfItsDrain(t *testing.T) {
	open := map[string]string{"drain": "open"}
	rim := changed(t, "tank-rim", asItIs)
	assert.InDelta(t, 90*40./300, stays(t, rim, "fresh", open), 1e-9)
	assert.Equal(t, flow.Dips, reasonOf(t, rim, "fresh", map[string]string{"drain": "open"}), "it lies below the rim")
	assert.Equal(t, flow.ShutOff, reasonOf(t, rim, "fresh", nil))
	low := changed(t, "tank-rim", func(m *plumbing.Model) { m.Part("fresh").Heights = nil })
	assert.InDelta(t, 2, stays(t, low, "fresh", open), 1e-9)
	assert.InDelta(t, 90, stays(t, low, "fresh", nil), 1e-9, "its drain is shut")
	// Without its height it is not known how much stays below a rim: all of it.
	unknown := changed(t, "tank-rim", func(m *plumbing.Model) {
		m.Part("fresh").Data.InsideHeight = quantity.Given[quantity.Millimetre]{}
	})
	assert.InDelta(t, 90, stays(t, unknown, "fresh", open), 1e-9)
}

// The fill hose, 32 mm wide, vents itself once the tank below it is empty;
// while the tank is full its mouth is under water.
func TestAWideBoreVentsItselfOnlyInTheAir(t *testing.T) {
	n := changed(t, "tank-rim", func(m *plumbing.Model) {
		m.Part("vent").Place.Height = quantity.Of(quantity.Metre(1.1), quantity.SI)
		// The fill is capped: air can't come in at its top.
		m.Parts[2].Kind, m.Parts[2].Data = plumbing.ContainerPort, plumbing.Data{}
	})
	fill := ""
	for _, l := range n.Model.Lines {
		if l.From == "fill.out" {
			fill = l.ID
		}
	}
	holds := float64(n.Model.Line(fill).Content())
	assert.InDelta(t, 0, stays(t, n, fill, map[string]string{"drain": "open"}), 1e-9)
	assert.InDelta(t, holds, stays(t, n, fill, nil), 1e-9)
}

// The tee stands at 0.50 m, the check valve below it at 0.45 m: water stands
// 0.35 m above that in the branch of 1 m that rises to 1.5 m, 0.30 of it.
func TestACheckValveNeedsItsOpeningPressure(t *testing.T) {
	open := map[string]string{"low": "open"}
	n := changed(t, "check-head", asItIs)
	branch := n.Model.Lines[4]
	require.Equal(t, "tap.cold", branch.To)
	head := 3400 / (998 * 9.80665) // m of water
	level := 0.45 + head
	assert.InDelta(t, float64(branch.Content())*(level-0.5), stays(t, n, branch.ID, open), 1e-9)
	free := changed(t, "check-head", func(m *plumbing.Model) {
		m.Part("check").Data.OpensAt = quantity.Of(quantity.Kilopascal(0), quantity.SI)
	})
	assert.InDelta(t, 0, stays(t, free, branch.ID, open), 1e-9)
	stiff := changed(t, "check-head", func(m *plumbing.Model) {
		m.Part("check").Data.OpensAt = quantity.Of(quantity.Kilopascal(20), quantity.SI)
	})
	assert.InDelta(t, float64(branch.Content()), stays(t, stiff, branch.ID, open), 1e-9,
		"two metres of water would open it")
}

// A tank of 60 L whose link lies below it empties through the other's drain
// but for its heel.
func TestLinkedTanksDrainThroughTheirLink(t *testing.T) {
	n := changed(t, "tanks-linked", asItIs)
	assert.InDelta(t, 0.5, stays(t, n, "right", map[string]string{"drain": "open"}), 1e-9)
	assert.InDelta(t, 40, stays(t, n, "right", map[string]string{"drain": "open", "link": "closed"}), 1e-9)
	bodies := flow.Bodies(n, state.Normal(n))
	require.Len(t, bodies, 1)
	assert.Len(t, bodies[0].Tanks, 2)
	assert.Len(t, flow.Bodies(n, stand(t, n, map[string]string{"link": "closed"})), 2)
	// Over a hump above their tops they are two bodies.
	high := changed(t, "tanks-linked", func(m *plumbing.Model) {
		m.Lines[0].Spots = []plumbing.Spot{{At: quantity.Of(quantity.Millimetre(400), quantity.SI),
			Height: quantity.Of(quantity.Metre(0.9), quantity.SI)}}
	})
	assert.Len(t, flow.Bodies(high, state.Normal(high)), 2)
}

// Three metres of level line run back to a drain at the front: nose up 2° its
// far end lies 3·tan 2° = 0.105 m lower, and it stays full.
func TestAttitudeChangesWhatStays(t *testing.T) {
	n := changed(t, "slope", asItIs)
	s := stand(t, n, map[string]string{"low": "open"})
	branch := n.Model.Lines[5]
	require.Equal(t, "tap.cold", branch.To)
	of := func(a state.Attitude) float64 {
		s.Attitude = a
		return float64(flow.Drain(n, s).Stays(n, branch.ID))
	}
	assert.InDelta(t, 0, of(state.Attitude{}), 1e-9)
	assert.InDelta(t, 0, of(state.Attitude{NoseUp: -2}), 1e-9)
	// The level stretch of 3 m is full, and of the rise of 0.7 m to the tap what
	// lies below the tee.
	full := float64(branch.Content()) * 3 / 3.7
	assert.Greater(t, of(state.Attitude{NoseUp: 2}), full)
	assert.InDelta(t, 0, of(state.Attitude{LeftUp: 2}), 1e-9, "it runs along the camper")
	assert.Len(t, state.Attitudes(), 5)
}

// A manifold's hold-up lies at all its ways: one that is drained lets its
// share out.
func TestAManifoldsHoldUpLiesAtItsWays(t *testing.T) {
	n, err := rig.Model("obsidian-33")
	require.NoError(t, err)
	net, err := plumbing.NewNetwork(n)
	require.NoError(t, err)
	sum, ways := 0.0, 0
	for _, l := range net.Links {
		if l.Part != nil && l.Part.ID == "cold" {
			assert.InDelta(t, float64(l.Part.Holds())/5, float64(l.Content), 1e-12)
			sum += float64(l.Content)
			ways++
		}
	}
	assert.Equal(t, 5, ways)
	assert.InDelta(t, 6*0.0295735295625, sum, 1e-9)
}

// The mixer of the boot wash keeps a film when its side is blown out.
func TestBlowingEmptiesAMixer(t *testing.T) {
	n := changed(t, "slope", func(m *plumbing.Model) {
		m.Part("tap").Data.HoldUp = quantity.Of(quantity.Litre(0.05), quantity.SI)
	})
	s := state.Normal(n)
	d := flow.Drain(n, s)
	require.InDelta(t, 0.05, float64(d.Stays(n, "tap")), 1e-12)
	s = s.WithOpen(n.Node("tap.cold"), true).WithJoined(n.Node("t1.c"), state.Connection{Kind: state.Compressed})
	after := flow.Blow(n, s, d, 0.03)
	assert.InDelta(t, 0.05*0.03, float64(after.Stays(n, "tap")), 1e-12)
	assert.InDelta(t, 60, float64(after.Stays(n, "fresh")), 1e-9, "a tank is not blown out")
}

// A filter's loss coefficient of 8 in a bore of 9 mm, by hand.
func TestAFilterTakesItsHead(t *testing.T) {
	n := changed(t, "sealed-filter", asItIs)
	s := state.Normal(n)
	s.Pumps, s.Open = state.AllPumps(n), state.Sides(n.Node("tap.cold"))
	st, err := flow.SteadyFlow(t.Context(), n, s)
	require.NoError(t, err)
	in, out := n.Node("canister.in"), n.Node("canister.out")
	require.True(t, st.Known[in] && st.Known[out])
	q := float64(st.Out[n.Node("tap.cold")]) / 60000
	area := 3.141592653589793 / 4 * 0.009 * 0.009
	v := q / area
	assert.InDelta(t, 8*v*v/(2*9.80665), float64(st.Head[in]-st.Head[out]), 1e-5)
}

// A line of one metre with a low point at a quarter holds a quarter of its
// water before it and three quarters behind; one without a length holds
// nothing, wherever its points are said to be.
func TestPointsDivideALineByLength(t *testing.T) {
	for length, want := range map[quantity.Millimetre][]float64{1000: {0.25, 0.75}, 0: {}} {
		n := changed(t, "heater-one-valve", func(m *plumbing.Model) {
			for i := range m.Lines {
				if l := &m.Lines[i]; l.To == "tap.cold" {
					l.Length = quantity.Of(length, quantity.SI)
					l.Spots = []plumbing.Spot{{At: quantity.Of(length/4, quantity.SI),
						Height: quantity.Of(quantity.Metre(0.1), quantity.SI)}}
				}
			}
		})
		s := state.Normal(n)
		var shares []float64
		for _, p := range flow.Drain(n, s).Pieces {
			if p.InLink() && n.Links[p.Link].Line != nil && n.Links[p.Link].Line.To == "tap.cold" {
				shares = append(shares, float64(p.Holds()/n.Links[p.Link].Content))
			}
		}
		require.Len(t, shares, len(want), "%v", length)
		for i := range want {
			assert.InDelta(t, want[i], shares[i], 1e-9)
		}
	}
}

// A wide vent hose vents itself, but into a full tank nothing runs: with the
// tank's drain in, the hose keeps what stands in it.
func TestAHoseOnAFullTankStaysFull(t *testing.T) {
	for _, size := range []string{"hose 16 mm", "hose 25 mm"} {
		n := changed(t, "heater-one-valve", func(m *plumbing.Model) {
			m.Parts = slices.DeleteFunc(m.Parts, func(p plumbing.Part) bool { return p.ID == "fill" })
			m.Lines = slices.DeleteFunc(m.Lines, func(l plumbing.Line) bool { return l.From == "fill.out" })
			for i := range m.Lines {
				if m.Lines[i].To == "vent.in" {
					m.Lines[i].Size, m.Lines[i].ID = size, "vent-hose"
				}
			}
		})
		s := state.Normal(n)
		hose := n.Model.Line("vent-hose")
		require.NotNil(t, hose)
		assert.InDelta(t, float64(hose.Content()), float64(flow.Drain(n, s).Stays(n, "vent-hose")), 1e-9, size)
	}
}
