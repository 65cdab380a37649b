package store

import (
	"context"
	"time"

	"gorm.io/gorm/clause"

	"coldtap/internal/app"
)

// AddReport keeps what a reader says.
func (s *Store) AddReport(ctx context.Context, r *app.Report) error {
	return wrap("keep a report", s.db.WithContext(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(r).Error)
}

// SetReport sets what came of a report.
func (s *Store) SetReport(ctx context.Context, r *app.Report) error {
	return wrap("set a report", s.db.WithContext(ctx).Model(&app.Report{ID: r.ID}).Updates(map[string]any{
		"state": r.State, "answer": r.Answer, "became": short(r.Became, 200), "answered_by_id": r.AnsweredByID,
		"answered_by": short(r.AnsweredBy, 120)}).Error)
}

// ReportByCode finds a report by the word that who sent it has.
func (s *Store) ReportByCode(ctx context.Context, code string) (*app.Report, error) {
	var r app.Report
	err := s.db.WithContext(ctx).Where("code = ?", code).Take(&r).Error
	return &r, wrap("report", err)
}

// Report reads a report on a model's guide.
func (s *Store) Report(ctx context.Context, modelID, id uint64) (*app.Report, error) {
	var r app.Report
	err := s.db.WithContext(ctx).Where("model_id = ?", modelID).Take(&r, id).Error
	return &r, wrap("report", err)
}

// ReportsOf lists the reports on a model's guide, the newest first.
func (s *Store) ReportsOf(ctx context.Context, modelID uint64) ([]app.Report, error) {
	var list []app.Report
	err := s.db.WithContext(ctx).Where("model_id = ?", modelID).Order("id DESC").Limit(1000).Find(&list).Error
	return list, wrap("reports", err)
}

// OpenReports counts the reports that nobody answered, by model.
func (s *Store) OpenReports(ctx context.Context) (map[uint64]int, error) {
	return s.countBy(ctx, "SELECT model_id, COUNT(*) AS n FROM reports WHERE state = 'open' GROUP BY model_id")
}

// AddWalk keeps a walk of two phones.
func (s *Store) AddWalk(ctx context.Context, w *app.Walk) error {
	return wrap("keep a walk", s.db.WithContext(ctx).Create(w).Error)
}

// Walk finds a walk by its word.
func (s *Store) Walk(ctx context.Context, code string) (*app.Walk, error) {
	var w app.Walk
	err := s.db.WithContext(ctx).Where("code = ?", code).Take(&w).Error
	return &w, wrap("walk", err)
}

// Marks lists what was ticked in a walk, in the order in which it came.
func (s *Store) Marks(ctx context.Context, code string) ([]app.WalkMark, error) {
	list := []app.WalkMark{}
	err := s.db.WithContext(ctx).Where("code = ?", code).Order("created_at, mark").Find(&list).Error
	return list, wrap("ticks of a walk", err)
}

// AddMarks keeps marks that are not kept yet.
func (s *Store) AddMarks(ctx context.Context, marks []app.WalkMark) error {
	return wrap("keep ticks of a walk",
		s.db.WithContext(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(&marks).Error)
}

// readerTry is something that a stranger sent.
type readerTry struct {
	ID        uint64
	Place     string
	What      string
	CreatedAt time.Time
}

func (readerTry) TableName() string { return "reader_tries" }

// AddReaderTry notes that somebody sent something.
func (s *Store) AddReaderTry(ctx context.Context, what, place string) error {
	return wrap("note what a reader sent", s.db.WithContext(ctx).Create(&readerTry{Place: short(place, 60),
		What: what}).Error)
}

// CountReaderTries counts what was sent since a time, from a place and from all.
func (s *Store) CountReaderTries(ctx context.Context, what, place string, since time.Time) (here, all int64,
	err error) {
	var n struct{ Here, All int64 }
	err = s.db.WithContext(ctx).Raw(`SELECT COUNT(CASE WHEN place = ? THEN 1 END) AS here, COUNT(*) AS `+"`all`"+`
		FROM reader_tries WHERE what = ? AND created_at > ?`, short(place, 60), what, since.UTC()).Scan(&n).Error
	return n.Here, n.All, wrap("count what readers sent", err)
}
