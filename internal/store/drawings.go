package store

import (
	"context"
	"time"

	"gorm.io/gorm/clause"
)

type drawing struct {
	Of        string `gorm:"primaryKey"`
	Body      []byte
	CreatedAt time.Time
}

// Drawing is an arrangement that was kept; nil where there is none.
func (s *Store) Drawing(ctx context.Context, of string) ([]byte, error) {
	var list []drawing
	err := s.db.WithContext(ctx).Where("of = ?", of).Limit(1).Find(&list).Error
	if err != nil || len(list) == 0 {
		return nil, wrap("drawing", err)
	}
	return list[0].Body, nil
}

// KeepDrawing keeps an arrangement.
func (s *Store) KeepDrawing(ctx context.Context, of string, body []byte) error {
	row := drawing{Of: of, Body: body}
	return certified(ctx, func() error {
		return wrap("keep a drawing", s.db.WithContext(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(&row).Error)
	})
}
