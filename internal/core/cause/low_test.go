package cause

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
	"coldtap/internal/rig"
)

const twoEnds = `
model ends Ends si
gravity-fill fill Filler @ 1m 0m 1.2m
tank tank Tank @ 1m 0.4m 0.6m capacity=100L inside_height=300mm
fill.out > tank.fill supply "hose 38 mm" 0.6m
pump pump Pump @ 1.5m 0.4m 0.6m flow="10 L/min" cut_out="3 bar"
tank.supply > pump.in supply "hose 10 mm" 1m
tee tee Tee @ 2m 0.4m 0.5m
pump.out > tee.a cold "hose 10 mm" 2m
outlet tap Tap @ 5m 0.4m 1.2m type=basin flow="6 L/min"
tee.b > tap.cold cold "hose 10 mm" 10m
drain low "Low point" @ 2m 0.4m 0.3m handle=cap pipe=upright normal=closed closure=cap bore=25mm
tee.c > low.in drain "hose 10 mm" 0.2m
`

func ends(t *testing.T) *plumbing.Network {
	t.Helper()
	m, err := rig.Read(twoEnds)
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(m)
	require.NoError(t, err)
	return n
}

// Whether somebody stands at the low points matters where somebody works alone and something runs out there until it
// is coloured.
func TestAHelperMattersAtLowPointsOnly(t *testing.T) {
	t.Parallel()
	n := ends(t)
	step := func(sense run.Sense, at string) proof.Step {
		return proof.Step{Step: run.Step{Until: run.Until{Sense: sense, At: []plumbing.NodeID{n.Node(at)}}}}
	}
	for _, x := range []struct {
		alone float64
		step  proof.Step
		want  bool
	}{
		{60, step(run.Coloured, "low.mouth"), true},
		{0, step(run.Coloured, "low.mouth"), false},
		{60, step(run.Coloured, "tap.cold"), false},
		{60, step(run.Clear, "low.mouth"), false},
	} {
		p := &proof.Procedure{Steps: []proof.Step{{}, x.step}}
		p.Limit.Alone = x.alone
		assert.Equal(t, x.want, lowPoints(Subject{Net: n, Proc: p}), "%+v", x)
	}
}

// What was measured of the hose at the fill is what that hose gives, not what any other thing does that is joined.
func TestAMeasuredHoseIsTheOneAtTheFill(t *testing.T) {
	t.Parallel()
	n := ends(t)
	join := func(part string, kind state.ConnectionKind) state.Act {
		return state.Act{Verb: state.Join, Part: n.Model.Part(part), With: state.Connection{Kind: kind, Flow: 7, Pressure: 200}}
	}
	p := &proof.Procedure{Steps: []proof.Step{{Step: run.Step{Acts: []state.Act{join("fill", state.Supply),
		join("fill", state.Container), join("tap", state.Supply)}}}}}
	acts := Subject{Net: n, Proc: p}.Under(Conditions{Flow: 12}).Proc.Steps[0].Acts
	require.Len(t, acts, 3)
	assert.InDelta(t, 12, float64(acts[0].With.Flow), 0)
	assert.Equal(t, state.HosePressure, acts[0].With.Pressure)
	for _, a := range acts[1:] {
		assert.InDelta(t, 7, float64(a.With.Flow), 0, "%v", a.With.Kind)
		assert.InDelta(t, 200, float64(a.With.Pressure), 0)
	}
}
