package draft_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/amount"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
)

// water is what hoses gave in a procedure, and what was poured in.
func water(p *proof.Procedure, r *proof.Run) (sum quantity.Litre) {
	for i, o := range r.Outcomes {
		for _, v := range o.Drew { // nothing else is joined while it is flushed
			sum += v
		}
		for _, pour := range p.Steps[i].Pour {
			sum += pour.Litre
		}
	}
	return sum
}

// Each way of flushing ends below the limit everywhere, with no more water than the worksheet allows: its strength after
// n refills is an upper bound, for what stands in the lines is pushed out ahead of the refill. Filled while pumped
// out it takes what the worksheet says, C·e^(−V/V₀), but for what the lines are pushed with afterwards.
func TestFlushingTakesNoMoreThanTheWorksheet(t *testing.T) {
	models, err := demo.Models()
	require.NoError(t, err)
	ways := 0
	for _, m := range models {
		in := inputs(t, m, m.StandardOptions()...)
		k := draft.NewMaker(in)
		soaked := k.Make(t.Context(), "flush-lines-pushed")
		require.NotNil(t, soaked.Procedure, m.ID)
		var from quantity.MgPerLitre
		for _, v := range soaked.Run.Systems[0].Vessels() {
			from = max(from, v.Liquid.Mix.Chlorine)
		}
		plan := amount.PlanFlush(in.Net, in.Plan, from, in.House)
		for _, way := range plan.Ways {
			d := k.Make(t.Context(), "flush-"+way.ID)
			if d.Procedure == nil {
				continue
			}
			ways++
			got := water(d.Procedure, d.Run)
			t.Logf("%s %s: worksheet %.0f L, run %.0f L", m.ID, way.ID, float64(way.Water), float64(got))
			assert.LessOrEqual(t, got, way.Water, "%s %s", m.ID, way.ID)
			assert.Positive(t, got)
			if way.ID == "through" && len(in.Net.PartsOf(plumbing.RoleTank)) == 1 {
				assert.InEpsilon(t, float64(way.Water), float64(got), 0.06, m.ID)
			}
			for i, x := range d.Run.Systems[len(d.Run.Systems)-1].Pieces() {
				if x.Liquid() > 1e-3 {
					assert.LessOrEqual(t, x.Mix.Chlorine, plan.Limit+1e-6, "%s %s: piece %d", m.ID, way.ID, i)
				}
			}
		}
	}
	assert.GreaterOrEqual(t, ways, 2*len(models)+5)
}

// Sanitizing flushes by the house's way, and where the model can't have that, by one that it can.
func TestSanitizingFlushesByTheHousesWay(t *testing.T) {
	for model, want := range map[string]bool{"gneiss-24-2027": true, "schist-31-2027": false} {
		m, err := demo.Model(model)
		require.NoError(t, err)
		in := inputs(t, m, m.StandardOptions()...)
		in.House = house.FlushWay.With(in.House, "through")
		p := draft.NewMaker(in).Make(t.Context(), "sanitize").Procedure
		assert.Equal(t, want, slices.ContainsFunc(p.Steps, func(s proof.Step) bool { return s.For == "flush-through" }), model)
		assert.Equal(t, !want, slices.ContainsFunc(p.Steps, func(s proof.Step) bool { return s.For == "refill" }), model)
	}
}
