package chapter_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/rig/drafted"
)

// How far a figure may be from what was worked out before it is a danger, in times of it: the last that is none, and the
// first that is one.
func TestFiguresByHandAreDangersFromHereOn(t *testing.T) {
	in := drafted.Whole(t, drafted.Model(t, "gneiss-24-2027"), nil)
	for id, x := range map[string]struct{ none, danger float64 }{
		"antifreeze/antifreeze/drained": {0.985, 0.975},
		"dose/fresh/measured":           {0.985, 0.95},
		"keep-fresh":                    {1, 3},
		"weight":                        {0.985, 0.975},
		"weight/left":                   {1.015, 1.025},
		"time/cool-heater":              {0.985, 0.975},
		"flush/through/refills":         {1, 0.5},
	} {
		low, high, ok := in.Numbers(id)
		require.True(t, ok, id)
		why := in.Danger(id, low*x.none, high*x.none)
		assert.True(t, why.IsZero(), "%s at %g of it is none: %v", id, x.none, why)
		assert.False(t, in.Danger(id, low*x.danger, high*x.danger).IsZero(), "%s at %g of it", id, x.danger)
	}
	most := float64(in.Report.Pressure.Air)
	assert.True(t, in.Danger("air", most*1.015, most*1.015).IsZero())
	assert.False(t, in.Danger("air", most*1.025, most*1.025).IsZero())
}
