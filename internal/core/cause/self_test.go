package cause_test

import (
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/cause"
	"coldtap/internal/core/house"
	"coldtap/internal/core/measure"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/sample"
)

// On every demo model: what the model itself says is never taken for anything else, and what it says with a cause in it
// names a class with that cause.
func TestARankerNamesWhatItsOwnModelSays(t *testing.T) {
	models, err := demo.Models()
	require.NoError(t, err)
	for _, doc := range sample.Of(t, 2, models) {
		t.Run(doc.ID, func(t *testing.T) {
			t.Parallel()
			m := make1(t, doc.ID, nil)
			d := m.maker.Winter(t.Context())
			require.NotNil(t, d.Procedure)
			s := cause.Subject{Net: m.n, Proc: d.Procedure}
			r, err := cause.NewRanker(t.Context(), s)
			require.NoError(t, err)
			got, err := r.Rank(t.Context(), all(r, r.Base(), m.rules))
			require.NoError(t, err)
			assert.Contains(t, []cause.Verdict{cause.Agrees, cause.Few}, got.Verdict)
			assert.Zero(t, got.Misfit)
			effects := r.Effects()
			rand.New(rand.NewPCG(5, 6)).Shuffle(len(effects), func(i, k int) { effects[i], effects[k] = effects[k], effects[i] })
			for _, c := range effects[:min(6, len(effects))] {
				with, err := s.With(c)
				require.NoError(t, err)
				pr, err := proof.Prove(t.Context(), with.Net, with.Proc)
				require.NoError(t, err)
				says := measure.Says(with.Net, with.Proc, pr, r.Probes())
				got, err := r.Rank(t.Context(), all(r, says, m.rules))
				require.NoError(t, err)
				if got.Verdict == cause.Agrees || got.Verdict == cause.Few {
					continue // it is too small to be told from noise
				}
				assert.Equal(t, cause.Named, got.Verdict, "%s is explained", c.ID())
				assert.True(t, has(got.Class, c), "%s is in the class that is named", c.ID())
			}
		})
	}
}

// all are readings of every probe, without noise.
func all(r *cause.Ranker, says map[string]float64, rules house.House) (list []measure.Reading) {
	probes := r.Probes()
	for i := range probes {
		p := &probes[i]
		v, ok := says[p.ID()]
		if !ok {
			v = 0
		}
		if p.Kind == measure.Strip { // the field that is reached
			field := quantity.MgPerLitre(0)
			for _, f := range house.Fields(rules) {
				if float64(f) <= v {
					field = f
				}
			}
			v = float64(field)
		}
		list = append(list, measure.Of(p, v, house.Fields(rules)))
	}
	return list
}

// A drain that was not opened, a step that was left out, and who stood there are no causes any more once they are said.
func TestWhatSomebodySaidIsNoCause(t *testing.T) {
	m := make1(t, "gneiss-24-2027", nil)
	d := m.maker.Make(t.Context(), "winterize-air-then")
	s := cause.Subject{Net: m.n, Proc: d.Procedure}
	there := true
	under := s.Under(cause.Conditions{Helper: &there, Flow: 15, Shut: []string{"drain-hot"}, Start: map[string]float64{"fresh": 0.5}})
	kinds := map[cause.Kind]bool{}
	for _, c := range cause.Candidates(under) {
		kinds[c.Kind] = true
	}
	assert.False(t, kinds[cause.Helper])
	assert.False(t, kinds[cause.Supply])
	assert.True(t, kinds[cause.Line])
	right, err := proof.Prove(t.Context(), m.n, s.Proc)
	require.NoError(t, err)
	got, err := proof.Prove(t.Context(), under.Net, under.Proc)
	require.NoError(t, err)
	fresh := m.n.Model.Part("fresh")
	assert.InDelta(t, 0.5, float64(got.Systems[0].Vessel(fresh).Liquid.Litre/got.Systems[0].Vessel(fresh).Holds), 1e-9)
	ran := func(pr *proof.Proof) (v float64) {
		for _, o := range pr.Outcomes {
			v += float64(o.Ran[m.n.Node("drain-hot.mouth")])
		}
		return v
	}
	assert.Positive(t, ran(right))
	assert.Zero(t, ran(got), "nothing runs out of a drain that was not opened")
	assert.Equal(t, right.Systems[0].Vessel(fresh).Holds, plumbing.Field(m.n, &fresh.Data.Capacity).Value(),
		"what was there before is as it was")
}

// What a cause asks for, by hand: 9 ft and 2.4 m are 16.9 ft, 0.6 gal and 8 L are 2.7 gal, 5.1 fl oz and 0.1 L are 8.5 fl oz.
func TestCorrections(t *testing.T) {
	m := make1(t, "gneiss-24-2027", nil)
	for _, x := range []struct {
		cause cause.Cause
		where cause.Where
		of    string
		after string
	}{
		{cause.Cause{Kind: cause.Line, Of: "h-outside", Size: 2400}, cause.InModel, "h-outside", "16.9 ft"},
		{cause.Cause{Kind: cause.Heel, Of: "fresh", Size: 8}, cause.InModel, "fresh", "2.71 gal"},
		{cause.Cause{Kind: cause.Overrun, Size: 0.1}, cause.InRule, "overrun", "8.5 fl oz"},
		{cause.Cause{Kind: cause.Helper}, cause.InRule, "helper", "no"},
		{cause.Cause{Kind: cause.Supply, Size: -0.5}, cause.InModel, "gravity-fill", "3 gal/min"},
		{cause.Cause{Kind: cause.Check, Of: "check.pump.12", Size: 1}, cause.OnUnit, "check.pump.12", ""},
		{cause.Cause{Kind: cause.Left, Of: "x"}, cause.InTrial, "x", ""},
	} {
		got := cause.Correct(m.n, m.rules, x.cause)
		assert.Equal(t, x.where, got.Where, x.cause.ID())
		assert.Equal(t, x.of, got.Of, x.cause.ID())
		assert.Equal(t, x.after, strings.ReplaceAll(got.After, "\u00a0", " "), x.cause.ID())
	}
}
