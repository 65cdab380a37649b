package store

import (
	"context"

	"gorm.io/gorm/clause"

	"coldtap/internal/app"
)

// AddTrial keeps a trial.
func (s *Store) AddTrial(ctx context.Context, t *app.Trial) error {
	return wrap("keep a trial", s.db.WithContext(ctx).Create(t).Error)
}

// SetTrial sets what may change of a trial.
func (s *Store) SetTrial(ctx context.Context, t *app.Trial) error {
	return wrap("set a trial", s.db.WithContext(ctx).Model(&app.Trial{ID: t.ID}).Updates(map[string]any{"state": t.State,
		"place": short(t.Place, 160), "weather": short(t.Weather, 160), "finished_at": t.FinishedAt}).Error)
}

// TrialByCode finds a trial by the word in its address.
func (s *Store) TrialByCode(ctx context.Context, code string) (*app.Trial, error) {
	var t app.Trial
	err := s.db.WithContext(ctx).Where("code = ?", code).Take(&t).Error
	return &t, wrap("trial", err)
}

// Trial reads a trial.
func (s *Store) Trial(ctx context.Context, id uint64) (*app.Trial, error) {
	var t app.Trial
	err := s.db.WithContext(ctx).Take(&t, id).Error
	return &t, wrap("trial", err)
}

// TrialsOf lists a model's trials, the newest first.
func (s *Store) TrialsOf(ctx context.Context, modelID uint64, scope app.Scope) ([]app.Trial, error) {
	var list []app.Trial
	q := s.db.WithContext(ctx).Omit("page").Where("model_id = ?", modelID).Order("id DESC").Limit(500)
	if !scope.All {
		q = q.Where("dealer_id = ? AND dealer_id <> 0", scope.Dealer)
	}
	return list, wrap("trials", q.Find(&list).Error)
}

// TrialsOfUnit lists the trials of a unit, the newest first.
func (s *Store) TrialsOfUnit(ctx context.Context, unitID uint64) ([]app.Trial, error) {
	var list []app.Trial
	err := s.db.WithContext(ctx).Omit("page").Where("unit_id = ?", unitID).Order("id DESC").Limit(200).Find(&list).Error
	return list, wrap("trials of a unit", err)
}

// TrialEntries lists what was written down, in the order in which it was made.
func (s *Store) TrialEntries(ctx context.Context, trialID uint64) ([]app.TrialEntry, error) {
	var list []app.TrialEntry
	err := s.db.WithContext(ctx).Where("trial_id = ?", trialID).Order("at, mark").Find(&list).Error
	return list, wrap("entries of a trial", err)
}

// CountTrialEntries counts them.
func (s *Store) CountTrialEntries(ctx context.Context, trialID uint64) (int, error) {
	var n int64
	err := s.db.WithContext(ctx).Model(&app.TrialEntry{}).Where("trial_id = ?", trialID).Count(&n).Error
	return int(n), wrap("count entries of a trial", err)
}

// AddTrialEntries keeps entries that are not kept yet.
func (s *Store) AddTrialEntries(ctx context.Context, list []app.TrialEntry) error {
	return wrap("keep entries of a trial",
		s.db.WithContext(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(&list).Error)
}

// AddTrialPhoto keeps a photograph that is not kept yet.
func (s *Store) AddTrialPhoto(ctx context.Context, p *app.TrialPhoto) error {
	return wrap("keep a photograph of a trial",
		s.db.WithContext(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(p).Error)
}

// TrialPhoto reads a photograph.
func (s *Store) TrialPhoto(ctx context.Context, trialID uint64, mark string) (*app.TrialPhoto, error) {
	var p app.TrialPhoto
	err := s.db.WithContext(ctx).Where("trial_id = ? AND mark = ?", trialID, mark).Take(&p).Error
	return &p, wrap("photograph of a trial", err)
}

// CountTrials counts the trials that are finished, by model.
func (s *Store) CountTrials(ctx context.Context) (map[uint64]int, error) {
	return s.countBy(ctx, "SELECT model_id, COUNT(*) AS n FROM trials WHERE state = 'finished' GROUP BY model_id")
}

// CountBeside counts those that came out otherwise than computed, by model.
func (s *Store) CountBeside(ctx context.Context) (map[uint64]int, error) {
	return s.countBy(ctx, `SELECT model_id, COUNT(*) AS n FROM trials
		WHERE state = 'finished' AND verdict IN ('named', 'unexplained') GROUP BY model_id`)
}

// SetVerdict keeps what a trial came to.
func (s *Store) SetVerdict(ctx context.Context, id uint64, verdict string) error {
	return wrap("set a trial", s.db.WithContext(ctx).Model(&app.Trial{}).Where("id = ? AND verdict <> ?", id, verdict).
		UpdateColumn("verdict", short(verdict, 16)).Error)
}

// AddCorrection keeps what a trial asks for.
func (s *Store) AddCorrection(ctx context.Context, x *app.Correction) error {
	return wrap("keep a correction", s.db.WithContext(ctx).Create(x).Error)
}

// SetCorrection sets what became of a correction.
func (s *Store) SetCorrection(ctx context.Context, x *app.Correction, from string) error {
	r := s.db.WithContext(ctx).Model(&app.Correction{}).Where("id = ? AND state = ?", x.ID, from).Updates(map[string]any{
		"state": x.State, "decided_by_id": x.DecidedByID, "decided_by": short(x.DecidedBy, 120), "number": x.Number,
		"version": x.Version})
	if r.Error == nil && r.RowsAffected == 0 {
		return app.ErrStale
	}
	return wrap("set a correction", r.Error)
}

// Correction reads one.
func (s *Store) Correction(ctx context.Context, id uint64) (*app.Correction, error) {
	var x app.Correction
	err := s.db.WithContext(ctx).Take(&x, id).Error
	return &x, wrap("correction", err)
}

// CorrectionsOf lists those that trials of a model asked for, the newest first.
func (s *Store) CorrectionsOf(ctx context.Context, modelID uint64) ([]app.Correction, error) {
	var list []app.Correction
	err := s.db.WithContext(ctx).Where("model_id = ?", modelID).Order("id DESC").Limit(500).Find(&list).Error
	return list, wrap("corrections", err)
}

// CorrectionsAsked lists those that wait for the reviewer, the oldest first.
func (s *Store) CorrectionsAsked(ctx context.Context) ([]app.Correction, error) {
	var list []app.Correction
	err := s.db.WithContext(ctx).Where("state = ?", app.CorrectionAsked).Order("id").Limit(500).Find(&list).Error
	return list, wrap("corrections", err)
}
