package fault_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/fault"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/rig"
)

// The parts of an effect are where it is noticed, the outlets it is noticed at
// and the places where water stays, each once, in the order of their ids.
func TestAnEffectNamesItsParts(t *testing.T) {
	n := rig.Network(t, "barrel")
	e := fault.Effect{Part: n.Model.Part("pump"), Sides: fault.Sides{Nodes: []plumbing.NodeID{n.Node("tap.cold"), n.Node("tap.cold")}},
		Places: []fault.Place{{ID: "line-02"}, {ID: "fresh"}}}
	assert.Equal(t, []string{"fresh", "line-02", "pump", "tap"}, e.Parts(n))
	e.Part = nil
	assert.Equal(t, []string{"fresh", "line-02", "tap"}, e.Parts(n))
}
