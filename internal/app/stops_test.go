package app

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/chapter"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/instruction"
	"coldtap/internal/core/state"
)

// Each deed asks for its caution, at whatever step of the procedure that stands; nothing else asks for it.
func TestEachDeedAsksForItsCaution(t *testing.T) {
	task := func(steps ...instruction.Step) *chapter.Task {
		return &chapter.Task{Read: &instruction.Instruction{Steps: steps}}
	}
	pours := func(id string) instruction.Step { return instruction.Step{Pour: []fact.Fact{fact.Of(id)}} }
	acts := func(a state.Act) instruction.Step { return instruction.Step{Acts: []state.Act{a}} }
	said := func(id string) instruction.Step {
		return instruction.Step{Cautions: []instruction.Caution{{Said: fact.Of("caution." + id)}}}
	}
	for caution, x := range map[string]struct{ needs, not instruction.Step }{
		"chlorine":     {pours("pour.bleach"), pours("pour.water")},
		"potable-only": {pours("pour.antifreeze"), pours("pour.water")},
		"vinegar":      {pours("pour.vinegar"), pours("pour.water")},
		"never-dry":    {acts(state.Act{Verb: state.HeatOn}), acts(state.Act{Verb: state.HeatOff})},
		"air": {acts(state.Act{Verb: state.Join, With: state.Connection{Kind: state.Compressed}}),
			acts(state.Act{Verb: state.Join, With: state.Connection{Kind: state.Supply}})},
	} {
		assert.Equal(t, []string{caution}, missingCautions(task(instruction.Step{}, x.needs)), caution)
		assert.Empty(t, missingCautions(task(said(caution), x.needs)), "%s stands there", caution)
		assert.Empty(t, missingCautions(task(x.not)), "nothing asks for %s", caution)
		for other := range map[string]bool{"chlorine": true, "never-dry": true} {
			if other != caution {
				assert.Contains(t, missingCautions(task(said(other), x.needs)), caution, "another caution is not enough")
			}
		}
	}
	assert.Empty(t, missingCautions(&chapter.Task{}), "of what can't be had nothing is asked")
}
