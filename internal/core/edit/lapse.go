package edit

import (
	"maps"
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
)

// Lapse takes figures that a hand set and sentences that a hand reworded out of a guide, by their ids and keys: what
// they stood in place of is drafted again.
func Lapse(m *plumbing.Model, figures, sentences []string) (*Done, error) {
	if len(figures)+len(sentences) == 0 {
		return &Done{Model: m}, nil
	}
	return written(m, fact.Of("edit.let-go", len(figures), len(sentences)), func(w *plumbing.Written) {
		maps.DeleteFunc(w.Figures, func(id string, _ plumbing.Override) bool { return slices.Contains(figures, id) })
		maps.DeleteFunc(w.Words, func(key, _ string) bool { return slices.Contains(sentences, key) })
	})
}
