package app

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"coldtap/internal/core/house"
	"coldtap/internal/core/quantity"
)

// Whose rules are, as figures say it.
const (
	ByHouse = "the house"
	ByModel = "this model"
)

// Rules keeps the manufacturer's rules.
type Rules struct {
	Store interface {
		Transactor
		RuleReader
	}
}

// Set sets rules of a scope, the slug of a model or "" for the house; an empty
// value takes the choice back. All are set, or none.
func (r *Rules) Set(ctx context.Context, person, scope string, values map[string]string, why string) error {
	of := scope
	if of == "" {
		of = ByHouse
	}
	return r.Store.Do(ctx, func(tx Tx) error {
		for _, id := range slices.Sorted(maps.Keys(values)) {
			rule := house.RuleByID(id)
			if rule == nil {
				return fmt.Errorf("rule %q: %w", id, ErrNotFound)
			}
			row := HouseRule{Scope: scope, Rule: id, Value: values[id], Person: person, Why: why}
			if err := tx.SetHouseRule(ctx, row); err != nil {
				return err
			}
			detail := rule.Name + ": " + values[id]
			if why != "" {
				detail += " (" + why + ")"
			}
			if err := tx.Audit(ctx, person, "set house rule", of, detail); err != nil {
				return err
			}
		}
		return nil
	})
}

// HouseOf is what holds for a model: its own rules above the house's above what
// is usual in the trade.
func HouseOf(rules []HouseRule, slug string, sys quantity.System) (house.House, error) {
	h := house.Usual(sys)
	for _, scope := range []struct{ slug, name string }{{"", ByHouse}, {slug, ByModel}} {
		rows := map[string]house.Row{}
		for _, r := range rules {
			if r.Scope == scope.slug {
				rows[r.Rule] = house.Row{Set: r.Value, Who: r.Person, When: r.UpdatedAt, Why: r.Why, Version: r.Version}
			}
		}
		next, err := h.WithRows(scope.name, rows)
		if err != nil {
			return h, err
		}
		h = next
	}
	return h, nil
}
