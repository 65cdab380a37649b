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
