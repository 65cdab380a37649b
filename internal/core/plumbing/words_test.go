package plumbing_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// A lever stands along its pipe when it is open: upright on an upright pipe,
// level on a level one.
func TestPositionsAreToldAsTheyAreSeen(t *testing.T) {
	part := func(k plumbing.Kind, handle, pipe string) *plumbing.Part {
		return &plumbing.Part{Kind: k, Reading: plumbing.Reading{Handle: handle, Pipe: pipe}}
	}
	for _, c := range []struct {
		p              *plumbing.Part
		position, want string
	}{
		{part(plumbing.Valve, "lever", "level"), "open", "open: lever level, along the pipe"},
		{part(plumbing.Valve, "lever", "level"), "closed", "closed: lever upright, across the pipe"},
		{part(plumbing.Valve, "lever", "upright"), "open", "open: lever upright, along the pipe"},
		{part(plumbing.Valve, "lever", "upright"), "closed", "closed: lever level, across the pipe"},
		{part(plumbing.LowPoint, "cap", "upright"), "open", "cap off"},
		{part(plumbing.LowPoint, "plug", "level"), "closed", "plug on"},
		{part(plumbing.LowPoint, "toggle", "level"), "open", "toggle up: open"},
		{part(plumbing.ThreeWay, "pointer", "level"), "a", "pointing along the pipe"},
		{part(plumbing.ThreeWay, "pointer", "level"), "b", "pointing to the branch"},
		{part(plumbing.Strainer, "", ""), "open", "bowl off"},
		{part(plumbing.ReliefValve, "lever", "upright"), "open", "lever lifted"},
		{part(plumbing.ReliefValve, "lever", "upright"), "closed", "lever down"},
		{&plumbing.Part{Kind: plumbing.ThreeWay, Reading: plumbing.Reading{Says: map[string]string{"a": "NORMAL"}}}, "a", "at “NORMAL”"},
		{&plumbing.Part{Kind: plumbing.Valve, Reading: plumbing.Reading{Handle: "lever", Says: map[string]string{"open": "WINTER"}}}, "open", "open: lever level, along the pipe, marked “WINTER”"},
		{&plumbing.Part{Kind: plumbing.Softener, Reading: plumbing.Reading{Handle: "knob"}}, "bypass", "pointing to bypass"},
	} {
		assert.Equal(t, c.want, plumbing.PositionWords(c.p, c.position), "%s %s %s %s", c.p.Kind, c.p.Reading.Handle, c.p.Reading.Pipe, c.position)
	}
}

func TestNamesInAnyScriptGoIntoSentences(t *testing.T) {
	for name, want := range map[string]string{
		"Water heater": "the water heater", "USB pump": "the USB pump", "Öltank": "the öltank", "Šachta": "the šachta", "水箱": "the 水箱", "É": "the é", "": "the ",
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
		"semi-rigid 12 mm": 9.0, "semi-rigid 15 mm": 11.6, "semi-rigid 22 mm": 18.0, "hose 19 mm": 19, "hose 1/2 in": 12.7,
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
