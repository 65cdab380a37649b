package store

import (
	"context"
	"time"

	"coldtap/internal/app"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// HouseRules lists what has been chosen, for the house and for models.
func (s *Store) HouseRules(ctx context.Context) (list []app.HouseRule, err error) {
	err = s.db.WithContext(ctx).Order("scope, rule").Find(&list).Error
	return list, wrap("house rules", err)
}

// SetHouseRules sets rules of a scope; an empty value takes the choice back.
// All are set, or none.
func (s *Store) SetHouseRules(ctx context.Context, scope, person string, values map[string]string) error {
	return wrap("house rules", s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		for rule, value := range values {
			if value == "" {
				if err := tx.Delete(&app.HouseRule{Scope: scope, Rule: rule}).Error; err != nil {
					return err
				}
				continue
			}
			row := app.HouseRule{Scope: scope, Rule: rule, Value: value, Person: person, UpdatedAt: time.Now().UTC()}
			if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error; err != nil {
				return err
			}
		}
		return nil
	}))
}
