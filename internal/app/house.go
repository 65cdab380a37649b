package app

import (
	"context"
	"fmt"
	"unicode/utf8"

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

// RuleChange sets a rule, or takes the choice back with an empty value.
type RuleChange struct {
	Rule, Value string
	From        int // the version that was seen; 0 where the rule was never set in the scope
}

// RuleStaleError says that somebody else set a rule in the meantime, and what
// it is now; its value is empty where the choice was taken back.
type RuleStaleError struct{ Now HouseRule }

func (e *RuleStaleError) Error() string {
	return fmt.Sprintf("%s set rule %q to %q in the meantime", e.Now.Person, e.Now.Rule, e.Now.Value)
}

// How many letters the value of a rule and the reason for it have at most.
const (
	valueMost = 80
	whyMost   = 300
)

// Set sets rules of a scope, the slug of a model or "" for the house, each as
// its next version. All are set, or none: a RuleStaleError where one is no
// longer what was seen.
func (r *Rules) Set(ctx context.Context, by By, scope string, changes []RuleChange, why string) error {
	if utf8.RuneCountInString(why) > whyMost {
		return refused("Say why in at most %d letters.", whyMost)
	}
	of := scope
	if of == "" {
		of = ByHouse
	}
	return r.Store.Do(ctx, func(tx Tx) error {
		for _, c := range changes {
			rule := house.RuleByID(c.Rule)
			if rule == nil {
				return fmt.Errorf("rule %q: %w", c.Rule, ErrNotFound)
			}
			if utf8.RuneCountInString(c.Value) > valueMost {
				return refused("%s: a value has at most %d letters.", rule.Name, valueMost)
			}
			row := HouseRule{Scope: scope, Rule: c.Rule, Value: c.Value, Person: by.Name, Why: why, Version: c.From + 1}
			if err := tx.SetHouseRule(ctx, row); err != nil {
				return err
			}
			detail := rule.Name + ": " + c.Value
			if why != "" {
				detail += " (" + why + ")"
			}
			if err := tx.Audit(ctx, by, "set house rule", of, detail); err != nil {
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
