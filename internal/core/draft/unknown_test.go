package draft_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/setting"
)

// A tank of which nobody said what it holds has no level that could change: carrying a procedure out on it takes a
// bounded number of events, not hundreds of thousands.
func TestATankOfUnknownContentTakesNoTime(t *testing.T) {
	events := func(capacity quantity.Given[quantity.Litre], id string) (n int) {
		m, err := demo.Model("gneiss-24-2027")
		require.NoError(t, err)
		m.Part("fresh").Data.Capacity = capacity
		net, err := plumbing.NewNetwork(m)
		require.NoError(t, err)
		plan, err := setting.Plan(t.Context(), net)
		require.NoError(t, err)
		d := draft.NewMaker(draft.Inputs{Net: net, Plan: plan, House: house.Usual(m.System())}).Make(t.Context(), id)
		require.NotNil(t, d.Procedure, id)
		x, carrier := proof.Begin(t.Context(), net, d.Procedure), d.Procedure.Carrier()
		carrier.Watch = func(*run.System, *run.Moved) { n++ }
		for i := range d.Procedure.Steps {
			if _, err := carrier.Carry(t.Context(), x, d.Procedure.Steps[i].Step); err != nil {
				break
			}
		}
		return n
	}
	for _, id := range []string{"first-use", "use-tank", "winterize-pump", "winterize-tank"} {
		assert.Less(t, events(quantity.Of[quantity.Litre](163, quantity.US), id), 5_000, id)
		assert.Less(t, events(quantity.Given[quantity.Litre]{}, id), 60_000, "%s: a level that can't change bounds nothing", id)
	}
}
