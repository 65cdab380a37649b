package edit

import (
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
)

// Retire says that a model is no longer built: it stays readable, apart from the others.
func Retire(m *plumbing.Model, reason, by string) (*Done, error) {
	if reason == "" {
		return nil, fault("Reason", "say why the model is retired")
	}
	c := clone(m)
	c.Retired = &plumbing.Retired{By: by, Reason: reason}
	after, err := Check(c)
	if err != nil {
		return nil, err
	}
	return &Done{after, fact.Of("edit.retired", reason)}, nil
}

// BringBack takes it back that a model is retired.
func BringBack(m *plumbing.Model) (*Done, error) {
	if m.Retired == nil {
		return &Done{Model: m}, nil
	}
	c := clone(m)
	c.Retired = nil
	return &Done{c, fact.Of("edit.brought-back")}, nil
}
