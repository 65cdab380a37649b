package app

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// What is known of a build is not worked out again; serial numbers are found however they are typed; a scope sees its own.
func TestUnits(t *testing.T) {
	t.Parallel()
	kept := &specOf{Names: map[string]string{"pump": "Water pump"}}
	u := &Units{specs: map[string]*specOf{"m plain": kept}}
	spec, err := u.spec(t.Context(), &Present{Row: &Model{Slug: "m"}}, "plain")
	assert.NoError(t, err)
	assert.Same(t, kept, spec, "what is known is not worked out again while somebody waits")
	assert.Equal(t, "G242700123", SerialKey(" g24-2700 123"))
	assert.Equal(t, "", SerialKey("—"))
	for _, x := range []struct {
		scope  Scope
		dealer uint64
		sees   bool
	}{{Scope{All: true}, 3, true}, {Scope{Dealer: 3}, 3, true}, {Scope{Dealer: 3}, 4, false}, {Scope{}, 0, false}} {
		assert.Equal(t, x.sees, x.scope.Sees(x.dealer), "%+v", x)
	}
}
