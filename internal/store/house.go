package store

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"coldtap/internal/app"
)

// HouseRules lists what has been chosen, for the house and for models.
func (s *Store) HouseRules(ctx context.Context) (list []app.HouseRule, err error) {
	err = s.db.WithContext(ctx).Order("scope, rule").Find(&list).Error
	return list, wrap("house rules", err)
}

// HouseChanges lists how the rules of a scope were set and taken back, the
// newest first.
func (s *Store) HouseChanges(ctx context.Context, scope string) (list []app.HouseRule, err error) {
	err = s.db.WithContext(ctx).Table(changesTable).Where("scope = ?",
		scope).Order("updated_at DESC, rule, version DESC").Find(&list).Error
	return list, wrap("changes of house rules", err)
}

const changesTable = "house_rule_changes"

// SetHouseRule sets a rule of a scope as its next version; an empty value takes
// the choice back. An app.RuleStaleError says that the version does not follow
// the newest one.
func (s *Store) SetHouseRule(ctx context.Context, r app.HouseRule) error {
	r.Why, r.UpdatedAt = short(r.Why, 400), time.Now().UTC().Truncate(time.Microsecond)
	return wrap("house rules", s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var last []app.HouseRule
		err := tx.Table(changesTable).Clauses(clause.Locking{Strength: "UPDATE"}).
			Where("scope = ? AND rule = ?", r.Scope, r.Rule).Order("version DESC").Limit(1).Find(&last).Error
		if err != nil {
			return err
		}
		now := app.HouseRule{Scope: r.Scope, Rule: r.Rule}
		if len(last) > 0 {
			now = last[0]
		}
		if r.Version != now.Version+1 {
			return &app.RuleStaleError{Now: now}
		}
		if err := tx.Table(changesTable).Create(&r).Error; err != nil {
			return err
		}
		if r.Value == "" {
			return tx.Delete(&app.HouseRule{Scope: r.Scope, Rule: r.Rule}).Error
		}
		return tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&r).Error
	}))
}
