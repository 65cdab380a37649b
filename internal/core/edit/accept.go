package edit

import (
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
)

// Accept keeps that a finding was accepted; said is what it says.
func Accept(m *plumbing.Model, a plumbing.Accepted, said fact.Fact) (*Done, error) {
	if a.Reason == "" {
		return nil, fault("Reason", "say why it is accepted")
	}
	c := clone(m)
	c.Accepted = append(slices.DeleteFunc(slices.Clone(m.Accepted), alike(a)), a)
	after, err := Check(c)
	if err != nil {
		return nil, err
	}
	return &Done{after, fact.Of("edit.accepted", said, a.Reason)}, nil
}

// Reopen takes it back that a finding was accepted.
func Reopen(m *plumbing.Model, a plumbing.Accepted, said fact.Fact) (*Done, error) {
	c := clone(m)
	c.Accepted = slices.DeleteFunc(slices.Clone(m.Accepted), alike(a))
	if len(c.Accepted) == len(m.Accepted) {
		return &Done{Model: m}, nil
	}
	if len(c.Accepted) == 0 {
		c.Accepted = nil
	}
	return &Done{c, fact.Of("edit.reopened", said)}, nil
}

// alike finds acceptances of the same finding, whatever it said then.
func alike(a plumbing.Accepted) func(plumbing.Accepted) bool {
	return func(o plumbing.Accepted) bool { return o.Code == a.Code && slices.Equal(o.Parts, a.Parts) }
}
