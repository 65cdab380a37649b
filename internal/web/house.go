package web

import (
	"context"
	"log/slog"

	"coldtap/internal/app"

	"coldtap/internal/core/house"
	"coldtap/internal/core/quantity"
)

// Whose rules are, as figures say it.
const (
	byHouse = "the house"
	byModel = "this model"
	byAsker = "what if"
)

// worked is a build of a revision with what is computed of it by the house's
// rules as they are now.
func (s *Server) worked(ctx context.Context, row *app.Model, rev *app.Revision, with string) (*bench, error) {
	b, err := s.benches.get(ctx, row, rev, with)
	if err != nil {
		return nil, err
	}
	return s.house(ctx, b)
}

// house gives a build the rules that hold for it.
func (s *Server) house(ctx context.Context, b *bench) (*bench, error) {
	rules, err := s.store.HouseRules(ctx)
	if err != nil {
		return nil, err
	}
	under := *b
	if under.House, err = houseFor(rules, b.Row.Slug, b.Sys()); err != nil {
		// They were checked when they were set; a model may have come since.
		slog.Warn("house rules", "model", b.Row.Slug, "error", err)
	}
	return &under, nil
}

// houseFor is what holds for a model: its own rules above the house's above
// what is usual in the trade.
func houseFor(rules []app.HouseRule, slug string, sys quantity.System) (house.House, error) {
	h := house.Usual(sys)
	for _, scope := range []struct{ slug, who string }{{"", byHouse}, {slug, byModel}} {
		values := map[string]string{}
		for _, r := range rules {
			if r.Scope == scope.slug {
				values[r.Rule] = r.Value
			}
		}
		next, err := h.With(scope.who, values)
		if err != nil {
			return h, err
		}
		h = next
	}
	return h, nil
}
