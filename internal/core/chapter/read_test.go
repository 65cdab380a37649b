package chapter

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/figure"
	"coldtap/internal/core/quantity"
)

// A figure by hand is read in the unit of the one that it stands for, whatever unit is typed.
func TestFiguresByHandAreReadAsWhatTheyStandFor(t *testing.T) {
	t.Parallel()
	for _, x := range []struct {
		like      figure.Value
		text      string
		low, high float64
	}{
		{figure.Amount[quantity.Litre]{}, "2 gal", 7.570823568, 7.570823568},
		{figure.Amount[quantity.Second]{}, "2 min", 120, 120},
		{figure.Amount[quantity.Kilogram]{}, "10 lb", 4.5359237, 4.5359237},
		{figure.Amount[quantity.Kilopascal]{}, "2 bar", 200, 200},
		{figure.Amount[quantity.MgPerLitre]{}, "50 mg/L", 50, 50},
		{figure.Amount[quantity.Celsius]{}, "-20 °C", -20, -20},
		{figure.Share(0), "35 %", 0.35, 0.35},
		{figure.Count(0), " 3", 3, 3},
		{figure.Band[quantity.Second]{}, "4 h to 8 h", 14400, 28800},
		{figure.Band[quantity.Second]{}, "4 h", 14400, 14400},
		{figure.Band[quantity.Litre]{}, "1 L to 2 L", 1, 2},
		{figure.Band[quantity.MgPerLitre]{}, "40 mg/L to 60 mg/L", 40, 60},
	} {
		got, err := read(x.like, x.text)
		require.NoError(t, err, x.text)
		assert.InDelta(t, x.low, got.low, 1e-9, x.text)
		assert.InDelta(t, x.high, got.high, 1e-9, x.text)
	}
	for text, like := range map[string]figure.Value{"a few": figure.Count(0), "-1": figure.Count(0),
		"3 mg": figure.Amount[quantity.Litre]{}, "4 h to": figure.Band[quantity.Second]{}} {
		_, err := read(like, text)
		assert.Error(t, err, text)
	}
}
