package plumbing_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

func TestNamesInAnyScriptGoIntoSentences(t *testing.T) {
	for name, want := range map[string]string{
		"Water heater": "the water heater", "USB pump": "the USB pump", "Öltank": "the öltank", "Šachta": "the šachta",
		"水箱": "the 水箱", "É": "the é", "": "the ",
	} {
		assert.Equal(t, want, plumbing.Lower(name))
	}
	assert.Equal(t, "Élan runs", plumbing.Upper("élan runs"))
	assert.Equal(t, "", plumbing.Upper(""))
}

// The inside of each size that is sold: copper tube sizes by their standard,
// metric ones by outside diameter and wall.
func TestInsideDiametersOfTheSizes(t *testing.T) {
	want := map[string]float64{
		"PEX 3/8": 0.350 * 25.4, "PEX 1/2": 0.485 * 25.4, "PEX 3/4": 0.681 * 25.4, "PEX 1": 0.875 * 25.4,
		"semi-rigid 12 mm": 9.0, "semi-rigid 15 mm": 11.6, "semi-rigid 22 mm": 18.0, "hose 19 mm": 19,
		"hose 1/2 in": 12.7,
	}
	for name, inside := range want {
		s, err := plumbing.FindSize(name)
		if assert.NoError(t, err, name) {
			assert.InDelta(t, inside, float64(s.Inside), 1e-9, name)
			assert.NotEmpty(t, s.Source)
		}
	}
	assert.Len(t, plumbing.LineSizes, 7, "a size without a figure in this test")
	// A foot of ½ in holds 0.03633 L.
	assert.InDelta(t, 0.03633, float64(plumbing.PipeContent(0.485*quantity.Inch, 12*quantity.Inch)), 5e-6)
}
