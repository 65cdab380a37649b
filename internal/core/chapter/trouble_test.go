package chapter

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/fact"
)

// A cause with the same remedy is told once, for all ways of use in which it is one; another remedy is another cause.
func TestACauseIsToldOnce(t *testing.T) {
	t.Parallel()
	said := func(id string) fact.Fact { return fact.Of("it", id) }
	cause := func(what, do, mode string) Cause {
		return Cause{Said: said(what), Do: said(do), Modes: []fact.Fact{said(mode)}}
	}
	s := Symptom{Modes: []fact.Fact{said("tank"), said("city")}}
	for _, c := range []Cause{cause("bypass", "turn it", "tank"), cause("bypass", "turn it", "city"),
		cause("bypass", "turn it", "city"), cause("bypass", "call the dealer", "tank"), cause("valve", "turn it", "tank")} {
		s.add(c)
	}
	assert.Equal(t, []Cause{
		{said("bypass"), said("turn it"), []fact.Fact{said("tank"), said("city")}},
		{said("bypass"), said("call the dealer"), []fact.Fact{said("tank")}},
		{said("valve"), said("turn it"), []fact.Fact{said("tank")}},
	}, s.Causes)
	assert.Nil(t, s.Only(&s.Causes[0]), "in all of them")
	assert.Equal(t, []fact.Fact{said("tank")}, s.Only(&s.Causes[1]))
}
