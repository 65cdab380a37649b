package flow_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
	"coldtap/internal/rig"
)

// small reads a system of a few parts.
func small(t *testing.T, text string) *plumbing.Network {
	t.Helper()
	m, err := rig.Read("model small \"Small\" si\n" + text)
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(m)
	require.NoError(t, err)
	return n
}

// stands is a network's normal state with some drains open.
func stands(n *plumbing.Network, ids ...string) state.State {
	s := state.Normal(n)
	for _, id := range ids {
		h := n.HandleOf(id)
		s = s.With(h, n.Handles[h].Index("open"))
	}
	return s
}

const twoDrains = `
drain one "First drain" @ 1m 1m %s bore=10mm
drain two "Second drain" @ 2m 1m %s bore=10mm
one.in > two.in drain "semi-rigid 12 mm" 1m
`

// Only what is open is an opening.
func TestWhatIsShutIsNoOpening(t *testing.T) {
	n := small(t, fmt.Sprintf(twoDrains, "0.5m", "0.4m"))
	assert.Empty(t, flow.Openings(n, state.Normal(n)))
	assert.Equal(t, []plumbing.NodeID{n.Node("one.mouth")}, flow.Openings(n, stands(n, "one")))
	assert.Len(t, flow.Openings(n, stands(n, "one", "two")), 2)
}

// Two openings at the same height let nothing run out, whatever the last digits
// of their heights; a millimetre's difference does.
func TestOpeningsOfOneHeightLetNothingOut(t *testing.T) {
	holds := 3.14159265 / 4 * 0.9 * 0.9 / 10
	for second, stays := range map[string]float64{"0.5m": holds, "0.5000005m": holds, "0.4999995m": holds, "0.499m": 0,
		"0.501m": 0} {
		n := small(t, fmt.Sprintf(twoDrains, "0.5m", second))
		assert.InDelta(t, stays, float64(flow.Drain(n, stands(n, "one", "two")).Total()), 1e-6, second)
	}
}

// A line of 20 mm empties itself through one open end, a narrower one does not.
func TestWaterAndAirPassEachOtherFromTwentyMillimetres(t *testing.T) {
	for bore, empties := range map[string]bool{"20 mm": true, "19.9 mm": false, "25 mm": true} {
		n := small(t, `
drain low "Drain" @ 1m 1m 0.3m bore=30mm
check-valve end "Closed end" @ 1m 1m 0.8m
low.in > end.out drain "hose `+bore+`" 0.6m
`)
		d := flow.Drain(n, stands(n, "low"))
		assert.Equal(t, empties, d.Total() < 0.001, "%s: %v", bore, d.Total())
	}
	// A tank without a vent runs out through a port whose hose is wide enough.
	for bore, runs := range map[string]bool{"20 mm": true, "19 mm": false} {
		n := small(t, `
tank fresh "Tank" @ 1m 1m 0.5m capacity=20L inside_height=200mm
drain low "Drain" @ 1m 1m 0.3m bore=30mm
fresh.drain > low.in drain "hose `+bore+`" 0.2m
`)
		assert.Equal(t, runs, flow.Drain(n, stands(n, "low")).Stays(n, "fresh") < 1, bore)
	}
	// By its own bore a drain is narrow, however wide its hose.
	n := small(t, `
tank fresh "Tank" @ 1m 1m 0.5m capacity=20L inside_height=200mm bore=1mm
drain low "Drain" @ 1m 1m 0.3m bore=30mm
fresh.drain > low.in drain "hose 25 mm" 0.2m
`)
	assert.InDelta(t, 20, float64(flow.Drain(n, stands(n, "low")).Stays(n, "fresh")), 1e-9)
}

// Beside a line from a high opening to a low one, a piece that only check
// valves lead into from both ends gets air from neither: its water stays.
func TestAPieceThatEverythingRunsIntoKeepsItsWater(t *testing.T) {
	n := small(t, `
drain high "High drain" @ 1m 1m 0.9m bore=10mm
drain low "Low drain" @ 2m 1m 0.2m bore=10mm
tee top "Top tee" @ 1m 1m 0.8m
tee foot "Foot tee" @ 2m 1m 0.3m
check-valve from-top "Check from the top" @ 1.2m 1m 0.7m
check-valve from-foot "Check from the foot" @ 1.8m 1m 0.4m
high.in > top.a cold "semi-rigid 12 mm" 0.1m
top.b > foot.a cold "semi-rigid 12 mm" 1m
foot.b > low.in drain "semi-rigid 12 mm" 0.1m
top.c > from-top.in cold "semi-rigid 12 mm" 0.2m id=a
from-top.out > from-foot.out cold "semi-rigid 12 mm" 1m id=between
from-foot.in > foot.c cold "semi-rigid 12 mm" 0.2m id=b
`)
	d := flow.Drain(n, stands(n, "high", "low"))
	assert.InDelta(t, 3.14159265/4*0.9*0.9/10, float64(d.Stays(n, "between")), 1e-6)
	assert.Zero(t, d.Stays(n, "line-02"))
}

// What is wide empties itself into a place that has run empty, as it does out
// of an opening: a stub of 25 mm above a tee, 0.1 L, keeps nothing, a narrow
// one all.
func TestAWideStubRunsOutIntoWhatIsEmpty(t *testing.T) {
	for size, stays := range map[string]float64{"hose 25 mm": 0, "hose 12 mm": 3.14159265 / 4 * 1.2 * 1.2 / 100 * 2} {
		n := small(t, `
drain high "High drain" @ 1m 1m 0.9m bore=10mm
drain low "Low drain" @ 2m 1m 0.2m bore=10mm
tee tee "Tee" @ 1.5m 1m 0.5m
check-valve end "Closed end" @ 1.5m 1m 0.7m
high.in > tee.a cold "semi-rigid 12 mm" 0.5m
tee.b > low.in cold "semi-rigid 12 mm" 0.5m
tee.c > end.out cold "`+size+`" 0.2m id=stub
`)
		assert.InDelta(t, stays, float64(flow.Drain(n, stands(n, "high", "low")).Stays(n, "stub")), 1e-6, size)
	}
}

// Air does not come back through a check valve: behind a stiff one the water
// of the column stays, although a way without one leads to the same drain.
func TestAirDoesNotComeBackThroughACheckValve(t *testing.T) {
	n := small(t, `
drain high "High drain" @ 1m 1m 0.9m bore=10mm
drain low "Low drain" @ 2m 1m 0.2m bore=10mm
tee top "Top tee" @ 1m 1m 0.8m
check-valve stiff "Stiff check" @ 1.1m 1m 0.7m opens_at=3.4kPa
check-valve soft "Soft check" @ 1.2m 1m 0.5m opens_at=0.1kPa
tee foot "Foot tee" @ 1.5m 1m 0.4m
high.in > top.a cold "semi-rigid 12 mm" 0.1m
top.b > foot.a cold "semi-rigid 12 mm" 0.5m id=free
top.c > stiff.in cold "semi-rigid 12 mm" 0.1m
stiff.out > soft.in cold "semi-rigid 12 mm" 1m id=column
soft.out > foot.b cold "semi-rigid 12 mm" 0.1m
foot.c > low.in cold "semi-rigid 12 mm" 0.2m
`)
	d := flow.Drain(n, stands(n, "high", "low"))
	assert.Zero(t, d.Stays(n, "free"))
	assert.InDelta(t, 3.14159265/4*0.9*0.9/10, float64(d.Stays(n, "column")), 1e-6)
}

// What is not known is what nobody gave the heights of at either end; one end
// is enough to say that it drains.
func TestOneKnownEndIsEnough(t *testing.T) {
	n := small(t, `
drain high "High drain" @ 1m 1m 0.9m bore=10mm
drain low "Low drain" @ 2m 1m 0.2m bore=10mm
tee a "Tee without a height"
tee b "Another"
high.in > a.a cold "semi-rigid 12 mm" 1m id=known
a.b > b.a cold "semi-rigid 12 mm" 1m id=unknown
b.b > low.in cold "semi-rigid 12 mm" 1m id=last
`)
	for _, p := range flow.Drain(n, stands(n, "high", "low")).Pieces {
		assert.Equal(t, p.ID(n) == "unknown", p.Unknown, p.ID(n))
	}
}

// Air sweeps the inside of an outlet that is open, and of no other.
func TestAirSweepsOpenOutletsOnly(t *testing.T) {
	n := small(t, `
city-inlet city "Inlet" @ 1m 1m 0.6m check_valve
tee t "Tee" @ 2m 1m 0.5m
outlet one "One" @ 3m 1m 1m type=kitchen hold_up=0.1L
outlet two "Two" @ 3m 2m 1m type=kitchen hold_up=0.1L
city.out > t.a cold "semi-rigid 12 mm" 1m
t.b > one.cold cold "semi-rigid 12 mm" 1m
t.c > two.cold cold "semi-rigid 12 mm" 1m
`)
	s := state.Normal(n).WithOpen(n.Node("one.cold"), true).WithJoined(n.Node("city.mouth"),
		state.Connection{Kind: state.Compressed, Fluid: state.Air})
	full := flow.Drain(n, state.Normal(n))
	d := flow.Blow(n, s, full, 0.03)
	assert.InDelta(t, 0.1*0.03, float64(d.Stays(n, "one")), 1e-9)
	assert.InDelta(t, 0.1, float64(d.Stays(n, "two")), 1e-9)
}
