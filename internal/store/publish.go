package store

import (
	"bytes"
	"compress/gzip"
	"context"
	"fmt"
	"io"

	"gorm.io/gorm/clause"

	"coldtap/internal/app"
	"coldtap/internal/guide/frozen"
)

// LastReview is the newest round of review of a model; nil for none.
func (s *Store) LastReview(ctx context.Context, modelID uint64) (*app.Review, error) {
	var list []app.Review
	err := s.db.WithContext(ctx).Where("model_id = ?", modelID).Order("id DESC").Limit(1).Find(&list).Error
	if err != nil || len(list) == 0 {
		return nil, wrap("round of review", err)
	}
	return &list[0], nil
}

// Reviews lists the rounds of a model, the newest first.
func (s *Store) Reviews(ctx context.Context, modelID uint64) ([]app.Review, error) {
	var list []app.Review
	err := s.db.WithContext(ctx).Where("model_id = ?", modelID).Order("id DESC").Limit(200).Find(&list).Error
	return list, wrap("rounds of review", err)
}

// OpenRounds lists all rounds that wait for a reviewer, the oldest first.
func (s *Store) OpenRounds(ctx context.Context) ([]app.Review, error) {
	var list []app.Review
	err := s.db.WithContext(ctx).Where("state IN ?", []string{app.InReview, app.Approved}).Order("id").Find(&list).Error
	return list, wrap("rounds of review", err)
}

// AddReview keeps a round.
func (s *Store) AddReview(ctx context.Context, r *app.Review) error {
	return wrap("keep a round of review", s.db.WithContext(ctx).Create(r).Error)
}

// SetReview sets what became of a round that is in a state.
func (s *Store) SetReview(ctx context.Context, r *app.Review, from string) error {
	got := s.db.WithContext(ctx).Model(&app.Review{}).Where("id = ? AND state = ?", r.ID, from).Updates(map[string]any{
		"state": r.State, "basis": r.Basis, "number": r.Number, "decided_by_id": r.DecidedByID,
		"decided_by": short(r.DecidedBy, 120), "words": r.Words})
	if got.Error == nil && got.RowsAffected == 0 {
		return app.ErrStale
	}
	return wrap("set a round of review", got.Error)
}

// Comments lists the comments on a model's guide, the oldest first.
func (s *Store) Comments(ctx context.Context, modelID uint64) ([]app.Comment, error) {
	var list []app.Comment
	err := s.db.WithContext(ctx).Where("model_id = ?", modelID).Order("id").Find(&list).Error
	return list, wrap("comments", err)
}

// Comment reads one comment on a model's guide.
func (s *Store) Comment(ctx context.Context, modelID, id uint64) (*app.Comment, error) {
	var c app.Comment
	err := s.db.WithContext(ctx).Where("model_id = ?", modelID).Take(&c, id).Error
	return &c, wrap("comment", err)
}

// OpenComments counts the comments that are not settled, by model.
func (s *Store) OpenComments(ctx context.Context) (map[uint64]int, error) {
	return s.countBy(ctx,
		"SELECT model_id, COUNT(*) AS n FROM comments WHERE on_id = 0 AND state <> 'done' GROUP BY model_id")
}

func (s *Store) countBy(ctx context.Context, query string) (map[uint64]int, error) {
	var rows []struct {
		ModelID uint64
		N       int
	}
	err := s.db.WithContext(ctx).Raw(query).Scan(&rows).Error
	list := map[uint64]int{}
	for _, r := range rows {
		list[r.ModelID] = r.N
	}
	return list, wrap("count", err)
}

// AddComment keeps a comment.
func (s *Store) AddComment(ctx context.Context, c *app.Comment) error {
	c.Person = short(c.Person, 120)
	return wrap("keep a comment", s.db.WithContext(ctx).Create(c).Error)
}

// SetComment sets the state of a comment.
func (s *Store) SetComment(ctx context.Context, id uint64, state, by string) error {
	return wrap("set a comment", s.db.WithContext(ctx).Model(&app.Comment{ID: id}).Updates(map[string]any{
		"state": state, "settled_by": short(by, 120)}).Error)
}

// LookOf is what somebody has seen of an edition; nil for nothing.
func (s *Store) LookOf(ctx context.Context, modelID, personID uint64, edition string) (*app.Look, error) {
	var list []app.Look
	err := s.db.WithContext(ctx).Where("model_id = ? AND person_id = ? AND edition = ?", modelID, personID,
		edition).Limit(1).
		Find(&list).Error
	if err != nil || len(list) == 0 {
		return nil, wrap("look", err)
	}
	return &list[0], nil
}

// KeepLook keeps what somebody has seen.
func (s *Store) KeepLook(ctx context.Context, l *app.Look) error {
	return wrap("keep a look", s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(l).Error)
}

// AllPublished lists all published guides, the newest first.
func (s *Store) AllPublished(ctx context.Context) ([]app.PublishedGuide, error) {
	var list []app.PublishedGuide
	err := s.db.WithContext(ctx).Order("id DESC").Find(&list).Error
	return list, wrap("published guides", err)
}

// PublishedOf lists the published guides of a model, the newest first.
func (s *Store) PublishedOf(ctx context.Context, slug string) ([]app.PublishedGuide, error) {
	var list []app.PublishedGuide
	err := s.db.WithContext(ctx).Where("slug = ?", slug).Order("id DESC").Find(&list).Error
	return list, wrap("published guides", err)
}

// PublishedGuide reads a published guide.
func (s *Store) PublishedGuide(ctx context.Context, slug, letter string) (*app.PublishedGuide, error) {
	var g app.PublishedGuide
	err := s.db.WithContext(ctx).Where("slug = ? AND letter = ?", slug, letter).Take(&g).Error
	return &g, wrap("published guide", err)
}

// AddPublished keeps a published guide and which files it has.
func (s *Store) AddPublished(ctx context.Context, g *app.PublishedGuide, files []frozen.Listed) error {
	if err := s.db.WithContext(ctx).Create(g).Error; err != nil {
		return wrap("keep a published guide", err)
	}
	var rows []publishedFile
	for _, f := range files {
		rows = append(rows, publishedFile{g.ID, f.Path, f.Sum})
	}
	return wrap("keep a published guide", s.db.WithContext(ctx).CreateInBatches(rows, 200).Error)
}

// publishedFile says that a published guide has a file.
type publishedFile struct {
	PublishedID uint64
	Path        string
	Sum         string
}

func (publishedFile) TableName() string { return "published_files" }

// frozenFile is a file, compressed.
type frozenFile struct {
	Sum  string `gorm:"primaryKey"`
	Body []byte
}

func (frozenFile) TableName() string { return "frozen" }

// SetPublished sets the envelope of a published guide.
func (s *Store) SetPublished(ctx context.Context, id uint64, state, notice string) error {
	return wrap("set a published guide", s.db.WithContext(ctx).Exec(
		"UPDATE published SET state = ?, notice = ?, version = version + 1, updated_at = UTC_TIMESTAMP(6) WHERE id = ?",
		state, notice, id).Error)
}

// SetTried sets how what a guide tells came out on units.
func (s *Store) SetTried(ctx context.Context, id uint64, tried string) error {
	return wrap("set a published guide", s.db.WithContext(ctx).Exec(
		"UPDATE published SET tried = ?, version = version + 1, updated_at = UTC_TIMESTAMP(6) WHERE id = ?", tried,
		id).Error)
}

// AddFrozen keeps files that are not kept yet.
func (s *Store) AddFrozen(ctx context.Context, files []frozen.File) error {
	for _, f := range files {
		var b bytes.Buffer
		w, err := gzip.NewWriterLevel(&b, gzip.BestCompression)
		if err != nil {
			return err
		}
		if _, err := w.Write(f.Body); err != nil {
			return err
		}
		if err := w.Close(); err != nil {
			return err
		}
		row := frozenFile{frozen.Sum(f.Body), b.Bytes()}
		if err := s.db.WithContext(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(&row).Error; err != nil {
			return wrap("keep a file", err)
		}
	}
	return nil
}

// PublishedFiles lists the files of a published guide by path.
func (s *Store) PublishedFiles(ctx context.Context, id uint64) ([]frozen.Listed, error) {
	var list []frozen.Listed
	err := s.db.WithContext(ctx).Model(&publishedFile{}).Where("published_id = ?", id).Order("path").Find(&list).Error
	return list, wrap("files of a published guide", err)
}

// FrozenFile is a file of a published guide by its path.
func (s *Store) FrozenFile(ctx context.Context, id uint64, path string) ([]byte, error) {
	var row frozenFile
	err := s.db.WithContext(ctx).
		Joins("JOIN published_files f ON f.sum = frozen.sum AND f.published_id = ? AND f.path = ?", id, path).
		Take(&row).Error
	if err != nil {
		return nil, wrap("file "+path, err)
	}
	r, err := gzip.NewReader(bytes.NewReader(row.Body))
	if err != nil {
		return nil, fmt.Errorf("file %s: %w", path, err)
	}
	raw, err := io.ReadAll(r)
	if err == nil && frozen.Sum(raw) != row.Sum {
		err = fmt.Errorf("its bytes are not those that were published")
	}
	if err != nil {
		return nil, fmt.Errorf("file %s: %w", path, err)
	}
	return raw, nil
}

// Standings lists what no longer holds of published guides, without the lines.
func (s *Store) Standings(ctx context.Context) ([]app.StandingRow, error) {
	var list []app.StandingRow
	err := s.db.WithContext(ctx).Omit("body").Find(&list).Error
	return list, wrap("standings", err)
}

// Standing is what no longer holds of a published guide; nil where it was never checked.
func (s *Store) Standing(ctx context.Context, id uint64) (*app.StandingRow, error) {
	var list []app.StandingRow
	err := s.db.WithContext(ctx).Where("published_id = ?", id).Limit(1).Find(&list).Error
	if err != nil || len(list) == 0 {
		return nil, wrap("standing", err)
	}
	return &list[0], nil
}

// SaveStanding keeps what no longer holds of a published guide.
func (s *Store) SaveStanding(ctx context.Context, r *app.StandingRow) error {
	r.CheckedAt = s.db.NowFunc()
	return wrap("keep a standing", s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(r).Error)
}

// TakeStanding keeps which lines the draft has taken over.
func (s *Store) TakeStanding(ctx context.Context, id uint64, taken string) error {
	return wrap("take a standing over", s.db.WithContext(ctx).Model(&app.StandingRow{}).Where("published_id = ?", id).
		Update("taken", taken).Error)
}

// States are the hashes of the newest states, by model.
func (s *Store) States(ctx context.Context) (map[string]string, error) {
	var rows []struct{ Slug, Hash string }
	err := s.db.WithContext(ctx).Raw(`SELECT m.slug, r.hash FROM models m
		JOIN revisions r ON r.model_id = m.id AND r.number = m.revision`).Scan(&rows).Error
	list := map[string]string{}
	for _, r := range rows {
		list[r.Slug] = r.Hash
	}
	return list, wrap("states", err)
}

// PhotosByModel are the photographs of all models, without the images.
func (s *Store) PhotosByModel(ctx context.Context) (map[string][]app.Photo, error) {
	var models []app.Model
	if err := s.db.WithContext(ctx).Select("id", "slug").Find(&models).Error; err != nil {
		return nil, wrap("photographs", err)
	}
	slugs := map[uint64]string{}
	for _, m := range models {
		slugs[m.ID] = m.Slug
	}
	var photos []app.Photo
	if err := s.db.WithContext(ctx).Omit("image").Preload("Marks").Order("id").Find(&photos).Error; err != nil {
		return nil, wrap("photographs", err)
	}
	list := map[string][]app.Photo{}
	for _, p := range photos {
		list[slugs[p.ModelID]] = append(list[slugs[p.ModelID]], p)
	}
	return list, nil
}
