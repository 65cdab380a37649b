package store

import (
	"context"
	"time"

	"gorm.io/gorm/clause"

	"coldtap/internal/app"
)

// AddImport keeps a file with its first state.
func (s *Store) AddImport(ctx context.Context, slug string, im *app.Import) error {
	m, err := s.row(ctx, slug)
	if err != nil {
		return err
	}
	im.ModelID, im.FileName = m.ID, short(im.FileName, 200)
	return wrap("keep an import", s.db.WithContext(ctx).Create(im).Error)
}

// Import reads one import of a model.
func (s *Store) Import(ctx context.Context, slug string, id uint64) (*app.Import, error) {
	m, err := s.row(ctx, slug)
	if err != nil {
		return nil, err
	}
	var im app.Import
	err = s.db.WithContext(ctx).Where("model_id = ?", m.ID).Take(&im, id).Error
	return &im, wrap("import", err)
}

// Imports lists a model's imports without their files.
func (s *Store) Imports(ctx context.Context, slug string) ([]app.Import, error) {
	m, err := s.row(ctx, slug)
	if err != nil {
		return nil, err
	}
	var list []app.Import
	err = s.db.WithContext(ctx).Omit("file", "state").Where("model_id = ?", m.ID).Order("id DESC").Find(&list).Error
	return list, wrap("imports", err)
}

// LockImport reads an import that nobody else changes until the transaction
// ends, without its file.
func (s *Store) LockImport(ctx context.Context, id uint64) (*app.Import, error) {
	var im app.Import
	err := s.db.WithContext(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).Omit("file").Take(&im, id).Error
	return &im, wrap("import", err)
}

// SaveImport keeps an import's state.
func (s *Store) SaveImport(ctx context.Context, id uint64, state string) error {
	return wrap("save an import", s.db.WithContext(ctx).Model(&app.Import{ID: id}).Update("state", state).Error)
}

// AddPhoto keeps a picture of a part.
func (s *Store) AddPhoto(ctx context.Context, slug string, p *app.Photo) error {
	m, err := s.row(ctx, slug)
	if err != nil {
		return err
	}
	p.ModelID = m.ID
	return wrap("keep a photograph", s.db.WithContext(ctx).Create(p).Error)
}

// Photos lists the pictures that a part is marked on, without the images.
func (s *Store) Photos(ctx context.Context, slug, part string) ([]app.Photo, error) {
	m, err := s.row(ctx, slug)
	if err != nil {
		return nil, err
	}
	var list []app.Photo
	marked := s.db.Model(&app.PhotoMark{}).Select("photo_id").Where("part = ?", part)
	err = s.db.WithContext(ctx).
		Omit("image").
		Preload("Marks").
		Where("model_id = ? AND removed_at IS NULL AND (part = ? OR id IN (?))", m.ID, part, marked).
		Order("id").
		Find(&list).
		Error
	return list, wrap("photographs", err)
}

// Photo reads one picture of a model.
func (s *Store) Photo(ctx context.Context, slug string, id uint64) (*app.Photo, error) {
	m, err := s.row(ctx, slug)
	if err != nil {
		return nil, err
	}
	var p app.Photo
	err = s.db.WithContext(ctx).Preload("Marks").Where("model_id = ?", m.ID).Take(&p, id).Error
	return &p, wrap("photograph", err)
}

// AllPhotos lists the pictures of a model without the images, those that were
// taken away too.
func (s *Store) AllPhotos(ctx context.Context, slug string) ([]app.Photo, error) {
	m, err := s.row(ctx, slug)
	if err != nil {
		return nil, err
	}
	var list []app.Photo
	err = s.db.WithContext(ctx).Omit("image").Preload("Marks").Where("model_id = ?", m.ID).Order("id").Find(&list).Error
	return list, wrap("photographs", err)
}

// MarkPhoto puts a mark on a picture, in place of the part's other one.
func (s *Store) MarkPhoto(ctx context.Context, m app.PhotoMark) error {
	return wrap("mark a photograph", s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&m).Error)
}

// UnmarkPhoto takes a mark off a picture.
func (s *Store) UnmarkPhoto(ctx context.Context, id uint64, part string) error {
	return wrap("unmark a photograph", s.db.WithContext(ctx).Delete(&app.PhotoMark{PhotoID: id, Part: part}).Error)
}

// CaptionPhoto writes what stands below a picture.
func (s *Store) CaptionPhoto(ctx context.Context, id uint64, caption string) error {
	return wrap("caption a photograph", s.db.WithContext(ctx).Model(&app.Photo{ID: id}).Update("caption",
		short(caption, 400)).Error)
}

// FollowPart lets a model's photographs and marks follow a part to its new id.
func (s *Store) FollowPart(ctx context.Context, slug, from, to string) error {
	m, err := s.row(ctx, slug)
	if err != nil {
		return err
	}
	db := s.db.WithContext(ctx)
	err = db.Model(&app.Photo{}).Where("model_id = ? AND part = ?", m.ID, from).Update("part", to).Error
	if err == nil {
		of := db.Model(&app.Photo{}).Select("id").Where("model_id = ?", m.ID)
		err = db.Model(&app.PhotoMark{}).Where("part = ? AND photo_id IN (?)", from, of).Update("part", to).Error
	}
	return wrap("photographs follow a part", err)
}

// RemovePhoto takes a picture away; it is kept to be brought back.
func (s *Store) RemovePhoto(ctx context.Context, id uint64, by app.By) error {
	now := time.Now().UTC().Truncate(time.Microsecond)
	return wrap("remove a photograph", s.db.WithContext(ctx).Model(&app.Photo{ID: id}).Updates(map[string]any{
		"removed_at": now, "removed_by": by.Name}).Error)
}

// BringPhotoBack brings a picture back that was taken away.
func (s *Store) BringPhotoBack(ctx context.Context, id uint64) error {
	return wrap("bring a photograph back", s.db.WithContext(ctx).Model(&app.Photo{ID: id}).Updates(map[string]any{
		"removed_at": nil, "removed_by": ""}).Error)
}
