package store

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// HouseRule is a choice of the manufacturer, for every model or for one.
type HouseRule struct {
	Scope     string `gorm:"primaryKey"` // slug of the model; "" for the house
	Rule      string `gorm:"primaryKey"`
	Value     string
	Person    string
	UpdatedAt time.Time
}

// HouseRules lists what has been chosen, for the house and for models.
func (s *Store) HouseRules(ctx context.Context) (list []HouseRule, err error) {
	err = s.db.WithContext(ctx).Order("scope, rule").Find(&list).Error
	return list, wrap("house rules", err)
}

// SetHouseRules sets rules of a scope; an empty value takes the choice back.
// All are set, or none.
func (s *Store) SetHouseRules(ctx context.Context, scope, person string, values map[string]string) error {
	return wrap("house rules", s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		for rule, value := range values {
			if value == "" {
				if err := tx.Delete(&HouseRule{Scope: scope, Rule: rule}).Error; err != nil {
					return err
				}
				continue
			}
			row := HouseRule{Scope: scope, Rule: rule, Value: value, Person: person, UpdatedAt: time.Now().UTC()}
			if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error; err != nil {
				return err
			}
		}
		return nil
	}))
}
