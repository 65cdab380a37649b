package drawing_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/drawing"
)

// What has no lever is not drawn with one, and its two positions differ.
func TestClosuresWithoutALever(t *testing.T) {
	const lever = `d="M26 27H58Q62 32 58 37H26Z"` // of a ball valve
	for _, k := range []plumbing.Kind{plumbing.Strainer, plumbing.Coupling, plumbing.Union, plumbing.ReliefValve} {
		p := &plumbing.Part{Kind: k, Name: "Part"}
		list := k.Info().Positions
		a, b := drawing.Handle(p, list[0]), drawing.Handle(p, list[1])
		assert.NotContains(t, a, lever, k)
		assert.NotContains(t, b, lever, k)
		assert.NotEqual(t, a, b, k)
	}
	assert.Contains(t, drawing.Handle(&plumbing.Part{Kind: plumbing.Valve, Name: "Valve",
		Reading: plumbing.Reading{Handle: "lever"}}, "open"), lever)
}
