package words

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
		{&plumbing.Part{Kind: plumbing.ThreeWay, Reading: plumbing.Reading{Says: map[string]string{"a": "NORMAL"}}},
			"a", "at “NORMAL”"},
		{&plumbing.Part{Kind: plumbing.Valve, Reading: plumbing.Reading{Handle: "lever",
			Says: map[string]string{"open": "WINTER"}}}, "open", "open: lever level, along the pipe, marked “WINTER”"},
		{&plumbing.Part{Kind: plumbing.Softener, Reading: plumbing.Reading{Handle: "knob"}}, "bypass",
			"pointing to bypass"},
	} {
		assert.Equal(t, c.want, English(quantity.US).Position(c.p, c.position), "%s %s %s %s", c.p.Kind,
			c.p.Reading.Handle, c.p.Reading.Pipe, c.position)
	}
}
