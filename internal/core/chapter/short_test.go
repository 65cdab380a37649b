package chapter

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/instruction"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// Outlets that are run alike one after the other are one step of a card; whatever else stands in a step keeps it apart.
func TestStepsThatAreAlikeAreOneOnACard(t *testing.T) {
	t.Parallel()
	step := func(change func(*instruction.Step)) instruction.Step {
		s := instruction.Step{Head: fact.Of("step.run", "tap", fact.Of("side.cold")), Until: fact.Of("until.clear"),
			Main: []*plumbing.Part{{ID: "tap"}}, Then: []state.Act{{Verb: state.Shut}}}
		change(&s)
		return s
	}
	same := func(*instruction.Step) {}
	of := func(steps ...instruction.Step) []Short { return Shorts(&instruction.Instruction{Steps: steps}) }
	three := of(step(same), step(same), step(same))
	assert.Len(t, three, 1)
	assert.Equal(t, []int{1, 3, 3}, []int{three[0].First, three[0].Last, len(three[0].Outlets)})
	for name, other := range map[string]func(*instruction.Step){
		"another deed":        func(s *instruction.Step) { s.Head.ID = "step.open" },
		"until another sign":  func(s *instruction.Step) { s.Until = fact.Of("until.air") },
		"somebody else":       func(s *instruction.Step) { s.Who = fact.Of("who.helper") },
		"a caution":           func(s *instruction.Step) { s.Cautions = []instruction.Caution{{}} },
		"something is poured": func(s *instruction.Step) { s.Pour = []fact.Fact{fact.Of("pour.bleach")} },
		"another act":         func(s *instruction.Step) { s.Acts = []state.Act{{Verb: state.Catch}} },
		"an act that counts":  func(s *instruction.Step) { s.Acts = []state.Act{{Verb: state.Open}} },
		"left open":           func(s *instruction.Step) { s.Then = nil },
		"two places":          func(s *instruction.Step) { s.Main = append(s.Main, &plumbing.Part{ID: "basin"}) },
		"no place":            func(s *instruction.Step) { s.Main = nil },
	} {
		assert.Len(t, of(step(same), step(other), step(same)), 3, name)
		if name != "another act" {
			assert.Len(t, of(step(other), step(same)), 2, name)
		}
	}
	assert.Empty(t, of())
}

// A sentence is known by its message and what it is about, however long that is.
func TestKeysOfSentencesAreBounded(t *testing.T) {
	t.Parallel()
	long := func(n int) fact.Fact { return fact.Of("x." + strings.Repeat("y", n-2)) }
	assert.Equal(t, long(120).ID, Key(long(120)))
	assert.Len(t, Key(long(121)), 120)
	assert.Equal(t, long(103).ID+"~", Key(long(121))[:104])
	assert.NotEqual(t, Key(long(121)), Key(long(122)), "the rest of it counts")
}
