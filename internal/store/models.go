package store

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"coldtap/internal/app"
	"coldtap/internal/core/plumbing"
)

// Models lists all models by name and year.
func (s *Store) Models(ctx context.Context) ([]app.Model, error) {
	var list []app.Model
	err := s.db.WithContext(ctx).Order("name, year, slug").Find(&list).Error
	return list, wrap("list models", err)
}

// Current gives a model's row and its current revision.
func (s *Store) Current(ctx context.Context, slug string) (*app.Model, *app.Revision, error) {
	var m app.Model
	if err := s.db.WithContext(ctx).Where("slug = ?", slug).Take(&m).Error; err != nil {
		return nil, nil, wrap("model "+slug, err)
	}
	var r app.Revision
	err := s.db.WithContext(ctx).Where("model_id = ? AND number = ?", m.ID, m.Revision).Take(&r).Error
	return &m, &r, wrap("revision of "+slug, err)
}

// Head is Current without the document.
func (s *Store) Head(ctx context.Context, slug string) (*app.Model, *app.Revision, error) {
	m, err := s.row(ctx, slug)
	if err != nil {
		return nil, nil, err
	}
	r, err := numbered(s.db.WithContext(ctx).Omit("document"), m.ID, m.Revision)
	return m, r, wrap("revision of "+slug, err)
}

// LockRow is the row of a model that nobody else changes until the transaction ends.
func (s *Store) LockRow(ctx context.Context, slug string) (*app.Model, error) {
	var m app.Model
	err := s.db.WithContext(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).Where("slug = ?", slug).Take(&m).Error
	return &m, wrap("model "+slug, err)
}

// Lock is Current of a model that nobody else changes until the transaction ends.
func (s *Store) Lock(ctx context.Context, slug string) (*app.Model, *app.Revision, error) {
	m, err := s.LockRow(ctx, slug)
	if err != nil {
		return nil, nil, err
	}
	r, err := numbered(s.db.WithContext(ctx), m.ID, m.Revision)
	return m, r, wrap("revision of "+slug, err)
}

// Create adds a model with its first revision. app.ErrExists if the id is taken.
func (s *Store) Create(ctx context.Context, doc *plumbing.Model, by app.By, reason string) (*app.Model, error) {
	var m app.Model
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		m = app.Model{Slug: doc.ID}
		lift(&m, doc)
		if err := tx.Create(&m).Error; err != nil {
			if errors.Is(err, gorm.ErrDuplicatedKey) {
				return app.ErrExists
			}
			return err
		}
		_, err := appendRevision(tx, &m, doc, by, reason)
		return err
	})
	return &m, wrap("create "+doc.ID, err)
}

// Save appends a revision to a model. It is refused with ErrStale unless
// the edit started from the current revision.
func (s *Store) Save(ctx context.Context, doc *plumbing.Model, from uint64, by app.By,
	reason string) (*app.Model, *app.Revision, error) {
	var m app.Model
	var r *app.Revision
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) (err error) {
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Where("slug = ?", doc.ID).Take(&m).Error; err != nil {
			return err
		}
		if m.Revision != from {
			return app.ErrStale
		}
		r, err = appendRevision(tx, &m, doc, by, reason)
		return err
	})
	return &m, r, wrap("save "+doc.ID, err)
}

func lift(m *app.Model, doc *plumbing.Model) { m.Name, m.Year, m.Kind = doc.Name, doc.Year, doc.Kind }

func appendRevision(tx *gorm.DB, m *app.Model, doc *plumbing.Model, by app.By, reason string) (*app.Revision, error) {
	doc = doc.WithNumbers() // from now on they stay
	var b bytes.Buffer
	if err := plumbing.Write(&b, doc); err != nil {
		return nil, err
	}
	var parent uint64
	if m.Revision > 0 {
		now, err := numbered(tx.Omit("document"), m.ID, m.Revision)
		if err != nil {
			return nil, err
		}
		parent = now.Content
	}
	lift(m, doc)
	sum := sha256.Sum256(b.Bytes())
	return appendRow(tx, m, app.Revision{AuthorID: by.ID, Author: by.Name, Reason: reason, Document: b.String(),
		Hash: hex.EncodeToString(sum[:]), Content: m.Revision + 1, Parent: parent})
}

// appendRow adds a revision as the model's newest.
func appendRow(tx *gorm.DB, m *app.Model, r app.Revision) (*app.Revision, error) {
	m.Revision++
	r.ModelID, r.Number, r.Reason = m.ID, m.Revision, short(r.Reason, 400)
	err := tx.Create(&r).Error
	if errors.Is(err, gorm.ErrDuplicatedKey) {
		err = errTaken
	}
	if err != nil {
		return nil, err
	}
	return &r, tx.Save(m).Error
}

// numbered reads a revision by its number.
func numbered(tx *gorm.DB, model, number uint64) (*app.Revision, error) {
	var r app.Revision
	err := tx.Where("model_id = ? AND number = ?", model, number).Take(&r).Error
	return &r, err
}

// Revisions lists a model's revisions, the newest first, without documents.
func (s *Store) Revisions(ctx context.Context, slug string) ([]app.Revision, error) {
	var list []app.Revision
	err := s.db.WithContext(ctx).Omit("document").
		Joins("JOIN models ON models.id = revisions.model_id AND models.slug = ?", slug).
		Order("number DESC").Find(&list).Error
	return list, wrap("revisions of "+slug, err)
}

func wrap(what string, err error) error {
	switch {
	case err == nil:
		return nil
	case errors.Is(err, gorm.ErrRecordNotFound):
		return fmt.Errorf("%s: %w", what, app.ErrNotFound)
	case errors.As(err, new(*app.KeepError)):
		return err
	default:
		return &app.KeepError{What: what, Err: err}
	}
}
