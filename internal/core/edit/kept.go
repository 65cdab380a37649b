package edit

import (
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
)

// Keep keeps a setting that a hand chose for a mode, in place of another that was kept
// for it. Mode is what the mode is called.
func Keep(m *plumbing.Model, k plumbing.Kept, mode fact.Fact) (*Done, error) {
	if k.Reason == "" {
		return nil, fault("Reason", "say why; it is printed with the setting")
	}
	c := clone(m)
	c.Kept = slices.DeleteFunc(slices.Clone(m.Kept), func(o plumbing.Kept) bool { return o.Mode == k.Mode })
	c.Kept = append(c.Kept, k)
	after, err := Check(c)
	if err != nil {
		return nil, err
	}
	return &Done{after, fact.Of("edit.kept", mode, k.Reason)}, nil
}

// LetGo goes back to the setting that is found for a mode.
func LetGo(m *plumbing.Model, id string, mode fact.Fact) (*Done, error) {
	c := clone(m)
	c.Kept = slices.DeleteFunc(slices.Clone(m.Kept), func(o plumbing.Kept) bool { return o.Mode == id })
	if len(c.Kept) == len(m.Kept) {
		return &Done{Model: m}, nil
	}
	if len(c.Kept) == 0 {
		c.Kept = nil
	}
	return &Done{c, fact.Of("edit.let-go-setting", mode)}, nil
}
