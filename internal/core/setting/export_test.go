package setting

import (
	"context"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// Find is the search for a setting by itself; false if none meets the goal.
func Find(ctx context.Context, n *plumbing.Network, m *Mode, base state.State) (state.State, bool, error) {
	return newSearch(n, m, base, nil).run(ctx)
}

// Conflict is a smallest set of clauses that no setting meets together; nil if the goal can be met.
func Conflict(ctx context.Context, n *plumbing.Network, m *Mode, base state.State) ([]Clause, error) {
	s := newSearch(n, m, base, nil)
	_, ok, err := s.run(ctx)
	if ok || err != nil {
		return nil, err
	}
	return s.conflict(ctx)
}

// Sequence is the fewest settings that between them meet every must of a mode's goal; nil where none do.
func Sequence(ctx context.Context, n *plumbing.Network, m *Mode, base state.State) ([]Turn, error) {
	return newSearch(n, m, base, nil).sequence(ctx, base)
}
