package store

import (
	"context"
	"time"

	"gorm.io/gorm/clause"

	"coldtap/internal/app"
)

// Listed lists all models by name and year, with the columns that are kept for
// their newest states, in one query; what a search looks through too, where
// that is asked for.
func (s *Store) Listed(ctx context.Context, things bool) ([]app.ListedRow, error) {
	columns := "models.*, revisions.id AS revision_id, c.for_house, c.for_core, c.shown"
	if things {
		columns += ", c.things"
	}
	var list []app.ListedRow
	err := s.db.WithContext(ctx).Table("models").Select(columns).
		Joins("JOIN revisions ON revisions.model_id = models.id AND revisions.number = models.revision").
		Joins("LEFT JOIN model_columns c ON c.revision_id = revisions.id").
		Order("models.name, models.year, models.slug").Scan(&list).Error
	return list, wrap("list models", err)
}

// SaveColumns keeps what lists show of a state of a model, instead of what was
// kept for other rules or another program.
func (s *Store) SaveColumns(ctx context.Context, row app.ListedRow) error {
	type columns struct {
		RevisionID uint64 `gorm:"primaryKey;autoIncrement:false"`
		ForHouse   string
		ForCore    string
		Shown      string
		Things     string
		UpdatedAt  time.Time
	}
	c := columns{row.RevisionID, row.ForHouse, row.ForCore, row.Shown, row.Things, time.Now().UTC()}
	err := s.db.WithContext(ctx).Table("model_columns").Clauses(clause.OnConflict{UpdateAll: true}).Create(&c).Error
	return wrap("columns of a model", err)
}
