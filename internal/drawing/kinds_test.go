package drawing

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/plumbing"
)

// Every kind that is drawn has a glyph and an outline with a pin for each of
// its ports.
func TestEveryKindIsDrawn(t *testing.T) {
	for _, k := range plumbing.Kinds() {
		p := &plumbing.Part{ID: "p", Kind: k.Kind, Name: k.Name}
		if k.Glyph == "" {
			assert.False(t, drawn(k.Kind))
			assert.Empty(t, p.Ports(), "%s has ports that no line could be drawn to", k.Kind)
			continue
		}
		if k.Role == plumbing.RoleJunction && !k.Mere {
			p.Data.Ways = 3
		}
		assert.NotNil(t, glyphs[k.Glyph], "glyph %q of %s", k.Glyph, k.Kind)
		pins := symbolOf(p, 0).pins
		for _, port := range p.Ports() {
			assert.Contains(t, pins, port.Name, "%s", k.Kind)
		}
		var b svg
		x := &box{part: p, sym: symbolOf(p, 0)}
		for _, position := range append(p.Positions(), "") {
			glyph(&b, x, position)
		}
		assert.NotEmpty(t, b.String())
	}
}

// The lines of a name fit into the box of what gives water, however many there are.
func TestALongNameFitsItsBox(t *testing.T) {
	for _, name := range []string{"Tap", "Kitchen tap", "Outside shower, rear", "Washing machine behind the bulkhead door"} {
		p := &plumbing.Part{Kind: plumbing.Outlet, Name: name, Data: plumbing.Data{Type: "kitchen"}}
		x := &box{part: p, no: 12, sym: symbolOf(p, 12)}
		x.measure()
		centre := float64(x.h*cell)/2 + 13
		bottom := centre + float64(len(x.lines))*labelHeight/2
		assert.LessOrEqual(t, bottom, float64(x.h*cell), "%s in %d lines", name, len(x.lines))
		assert.LessOrEqual(t, x.labelWidth(), float64(x.w*cell), name)
	}
}
