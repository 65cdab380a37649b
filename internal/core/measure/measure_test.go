package measure_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/amend"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/house"
	"coldtap/internal/core/measure"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
)

// each calls for every procedure of every demo model.
func each(t *testing.T, look func(t *testing.T, n *plumbing.Network, p *proof.Procedure, pr *proof.Proof)) {
	models, err := demo.Models()
	require.NoError(t, err)
	for _, m := range models {
		b, err := m.Build(m.StandardOptions()...)
		require.NoError(t, err)
		n, err := plumbing.NewNetwork(b)
		require.NoError(t, err)
		plan, err := setting.Plan(t.Context(), n)
		require.NoError(t, err)
		for _, d := range draft.All(t.Context(), draft.Inputs{Net: n, Plan: plan, House: house.Usual(m.System())}) {
			if d.Procedure == nil {
				continue
			}
			t.Run(m.ID+" "+d.ID, func(t *testing.T) {
				pr, err := proof.Prove(t.Context(), n, d.Procedure)
				require.NoError(t, err)
				look(t, n, d.Procedure, pr)
			})
		}
	}
}

// A procedure on a network that was made anew from the same model comes to the same, to the last figure.
func TestAProcedureIsTheSameOnAnotherNetworkOfTheModel(t *testing.T) {
	each(t, func(t *testing.T, n *plumbing.Network, p *proof.Procedure, pr *proof.Proof) {
		again := *n.Model
		other, err := plumbing.NewNetwork(&again)
		require.NoError(t, err)
		moved, err := p.On(other)
		require.NoError(t, err)
		probes := measure.Probes(n, p, pr)
		got, err := proof.Prove(t.Context(), other, moved)
		require.NoError(t, err)
		assert.Equal(t, measure.Says(n, p, pr, probes), measure.Says(other, moved, got, probes))
		assert.Equal(t, probes, measure.Probes(n, p, pr), "the same every time")
	})
}

// What can be measured has a name of its own, a step and a figure; what was drawn from jugs never becomes less.
func TestProbesAreWhatCanBeMeasured(t *testing.T) {
	kinds := map[measure.Kind]bool{}
	each(t, func(t *testing.T, n *plumbing.Network, p *proof.Procedure, pr *proof.Proof) {
		keys, seen, jug := amend.Keys(p.Steps), map[string]bool{}, 0.0
		for _, x := range measure.Probes(n, p, pr) {
			assert.False(t, seen[x.ID()], "%s is there once", x.ID())
			seen[x.ID()] = true
			assert.Equal(t, keys[x.Step], x.Key)
			v, ok := x.Value(n, p, pr)
			assert.True(t, ok, x.ID())
			assert.GreaterOrEqual(t, v, 0.0, x.ID())
			assert.Positive(t, measure.Spread(x.Kind, v))
			if x.Kind == measure.Jug {
				assert.GreaterOrEqual(t, v, jug)
				jug = v
			}
			kinds[x.Kind] = true
		}
	})
	for _, k := range measure.Kinds() {
		assert.True(t, kinds[k], "%s is measured somewhere", k)
	}
}

// A procedure that no other model has the parts of is refused in words.
func TestAProcedureOfAnotherModelIsRefused(t *testing.T) {
	gneiss, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	tuff, err := demo.Model("tuff-9-2027")
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(gneiss)
	require.NoError(t, err)
	plan, err := setting.Plan(t.Context(), n)
	require.NoError(t, err)
	d := draft.NewMaker(draft.Inputs{Net: n, Plan: plan, House: house.Usual(quantity.US)}).Make(t.Context(), "sanitize")
	require.NotNil(t, d.Procedure)
	other, err := plumbing.NewNetwork(tuff)
	require.NoError(t, err)
	_, err = d.Procedure.On(other)
	assert.ErrorContains(t, err, "has no part")
}

func TestAStripIsReadByItsFields(t *testing.T) {
	p := &measure.Probe{Kind: measure.Strip, Key: "soak", Of: "fresh"}
	r := measure.Of(p, 25, []quantity.MgPerLitre{0, 10, 25, 50, 100})
	assert.Zero(t, r.Off(26))
	assert.Zero(t, r.Off(49))
	assert.InDelta(t, (50-53)/3.75, r.Off(53), 1e-9, "15 %% of the field")
	assert.InDelta(t, (25-20)/3.75, r.Off(20), 1e-9)
	top := measure.Of(p, 100, []quantity.MgPerLitre{0, 10, 25, 50, 100})
	assert.Zero(t, top.Off(900), "above the last field nothing is told")
}

// Spreads by hand: 0.1 gal ± is 0.3785/√3 L; 3 s and 1.5 % of 400 s are √(3 + 36) s; four buckets of 10 L are read
// four times.
func TestSpreads(t *testing.T) {
	assert.InDelta(t, 0.21855, measure.Spread(measure.Jug, 5), 1e-4)
	assert.InDelta(t, 6.245, measure.Spread(measure.Clock, 400), 1e-3)
	assert.InDelta(t, 0.2309, measure.Spread(measure.Caught, 39.5), 1e-3)
	assert.InDelta(t, 0.02887, measure.Spread(measure.Level, 0.5), 1e-4)
}
