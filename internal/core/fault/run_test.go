package fault_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/fault"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/setting"
)

// made is a procedure of a demo model, with its proof.
func made(t *testing.T, m *plumbing.Model, id string) (draft.Inputs, *proof.Procedure, *proof.Proof) {
	t.Helper()
	built, err := m.Build(m.StandardOptions()...)
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(built)
	require.NoError(t, err)
	plan, err := setting.Plan(t.Context(), n)
	require.NoError(t, err)
	in := draft.Inputs{Net: n, Plan: plan, House: house.Usual(m.System())}
	d := draft.NewMaker(in).Make(t.Context(), id)
	if d.Procedure == nil {
		return in, nil, nil
	}
	return in, d.Procedure, proof.Judge(n, d.Procedure, *d.Run)
}

// What one thing wrong in the antifreeze position does to the heater, by its steady flow, is what the run of the
// procedure shows with that handle stuck so.
func TestWhatIsWrongInAPositionShowsInTheRun(t *testing.T) {
	models, err := demo.Models()
	require.NoError(t, err)
	const much = 2 // L: a heater that takes less gets what stood in the lines
	both := 0
	for _, m := range models {
		in, p, right := made(t, m, "winterize-pump")
		if p == nil {
			continue
		}
		shown, err := fault.InProcedure(t.Context(), in.Net, p, right)
		require.NoError(t, err)
		entries, err := fault.InMode(t.Context(), in.Net, setting.ForMode(in.Plan, setting.Antifreeze), in.Plan)
		require.NoError(t, err)
		for _, e := range entries {
			takes := slices.ContainsFunc(e.Effects, func(x fault.Effect) bool {
				return x.What == fault.HeaterTakes && x.Volume > much
			})
			for _, f := range e.Faults {
				if !takes || len(f.Turns) != 1 {
					continue
				}
				i := slices.IndexFunc(shown, func(s fault.Shown) bool { return s.ID() == f.ID() })
				if !assert.GreaterOrEqual(t, i, 0, "%s: %s", m.ID, f.ID()) {
					continue
				}
				both++
				met := slices.ContainsFunc(shown[i].Breaches, func(b proof.Breach) bool { return b.Rule == "heater-met" })
				assert.True(t, met, "%s: %s", m.ID, f.ID())
				assert.Equal(t, proof.Danger, shown[i].Worst())
			}
		}
	}
	assert.GreaterOrEqual(t, both, 5)
}

// A pump that does not run is noticed at the first step that waits for it; a sign is told as somebody sees it.
func TestAPumpThatStandsStillIsNoticedAtOnce(t *testing.T) {
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	in, p, right := made(t, m, "use-tank")
	shown, err := fault.InProcedure(t.Context(), in.Net, p, right)
	require.NoError(t, err)
	i := slices.IndexFunc(shown, func(s fault.Shown) bool { return s.ID() == "off.pump" })
	require.GreaterOrEqual(t, i, 0)
	require.NotEqual(t, plumbing.None, shown[i].Step)
	assert.Equal(t, "tap", p.Steps[shown[i].Step].For)
	assert.Equal(t, "sign.nothing", shown[i].Sign.ID)
	assert.NotEmpty(t, shown[i].Breaches)
	first := slices.IndexFunc(p.Steps, func(s proof.Step) bool { return s.For == "tap" })
	assert.Equal(t, first, shown[i].Step)
}

// Faults are told apart, and with none there everything is as it was.
func TestAFaultThatIsNotThereChangesNothing(t *testing.T) {
	m, err := demo.Model("schist-31-2027")
	require.NoError(t, err)
	in, p, right := made(t, m, "winterize-air-then")
	seen := map[string]bool{}
	for _, f := range fault.OfNetwork(in.Net) {
		assert.False(t, seen[f.ID()], f.ID())
		seen[f.ID()] = true
	}
	q := *p
	q.Wrong = (&fault.Fault{}).In
	got, err := proof.Prove(t.Context(), in.Net, &q)
	require.NoError(t, err)
	assert.Equal(t, len(right.Breaches), len(got.Breaches))
	for i := range right.Outcomes {
		assert.InDelta(t, float64(right.Outcomes[i].Took), float64(got.Outcomes[i].Took), 1e-6)
	}
}
