package draft_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/house"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
)

// A nose answers far below the target, a strip by its fields: whichever is used, the procedure is proven,
// and where what is first told is not enough yet more runs on. Alone more runs out at the low points.
func TestWhateverIsFirstToldThePointIsReached(t *testing.T) {
	for _, model := range []string{"gneiss-24-2027", "schist-31-2027"} {
		m, err := demo.Model(model)
		require.NoError(t, err)
		in := inputs(t, m, m.StandardOptions()...)
		for _, h := range []house.House{
			house.Told.With(in.House, "nose"), house.Strip.With(in.House, "0 5 10 50 100"),
			house.Target.With(in.House, 65), house.Pale.With(in.House, 1), house.Helper.With(in.House, false),
		} {
			in := in
			in.House = h
			for _, id := range []string{"sanitize", "winterize-air-then"} {
				d := draft.NewMaker(in).Make(t.Context(), id)
				require.NotNil(t, d.Procedure)
				for _, b := range prove(t, in, d.Procedure).Breaches {
					assert.Equal(t, "too-weak", b.Rule, "%s %s: step %d at %s", model, id, b.Step+1, b.Part)
				}
			}
		}
	}
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	in := inputs(t, m, m.StandardOptions()...)
	sense := func(h house.House, id, what string) (u run.Until) {
		in := in
		in.House = h
		for _, s := range draft.NewMaker(in).Make(t.Context(), id).Procedure.Steps {
			if s.For == what {
				return s.Until
			}
		}
		return u
	}
	strip := sense(house.Target.With(in.House, 65), "sanitize", "strong")
	assert.Equal(t, quantity.MgPerLitre(50), strip.Least.Chlorine, "the highest field that 65 mg/L reaches")
	nose := sense(house.Told.With(in.House, "nose"), "sanitize", "strong")
	assert.Equal(t, run.Smelled, nose.Sense)
	assert.Equal(t, quantity.MgPerLitre(1), nose.Least.Chlorine)
	with := sense(in.House, "winterize-air-then", "low-point").Litre
	alone := sense(house.Helper.With(in.House, false), "winterize-air-then", "low-point").Litre
	assert.InDelta(t, float64(with)*2, float64(alone), 1e-9)
}
