package store

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"coldtap/internal/core/plumbing"
)

// Model is a model's row: what lists and search need. Its document is in the
// revision with the same number.
type Model struct {
	ID        uint64
	Slug      string // the document's id
	Name      string
	Year      int
	Kind      string
	Revision  uint64 // number of the current revision
	CreatedAt time.Time
	UpdatedAt time.Time
}

// Revision is one state of a model's document. Rows are never changed.
type Revision struct {
	ID        uint64
	ModelID   uint64
	Number    uint64
	Author    string
	Reason    string
	Document  string
	Hash      string // SHA-256 of the document
	Content   uint64 // number of the revision that first had this state
	Parent    uint64 // Content of the state it was made from, 0 for the first
	CreatedAt time.Time
}

// Read reads the revision's document, which was read strictly before it was
// kept.
func (r *Revision) Read() (*plumbing.Model, error) {
	return plumbing.Again(r.Document)
}

// Models lists all models by name and year.
func (s *Store) Models(ctx context.Context) ([]Model, error) {
	var list []Model
	err := s.db.WithContext(ctx).Order("name, year, slug").Find(&list).Error
	return list, wrap("list models", err)
}

// Current gives a model's row and its current revision.
func (s *Store) Current(ctx context.Context, slug string) (*Model, *Revision, error) {
	var m Model
	if err := s.db.WithContext(ctx).Where("slug = ?", slug).Take(&m).Error; err != nil {
		return nil, nil, wrap("model "+slug, err)
	}
	var r Revision
	err := s.db.WithContext(ctx).Where("model_id = ? AND number = ?", m.ID, m.Revision).Take(&r).Error
	return &m, &r, wrap("revision of "+slug, err)
}

// Create adds a model with its first revision. ErrExists if the id is taken.
func (s *Store) Create(ctx context.Context, doc *plumbing.Model, author, reason string) (*Model, error) {
	var m Model
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		m = Model{Slug: doc.ID}
		m.lift(doc)
		if err := tx.Create(&m).Error; err != nil {
			if errors.Is(err, gorm.ErrDuplicatedKey) {
				return ErrExists
			}
			return err
		}
		return appendRevision(tx, &m, doc, author, reason)
	})
	return &m, wrap("create "+doc.ID, err)
}

// Seed adds models to an empty database and reports whether it did; another
// is left as it is.
func (s *Store) Seed(ctx context.Context, docs []*plumbing.Model, author, reason string) (seeded bool, err error) {
	list, err := s.Models(ctx)
	if err != nil || len(list) > 0 {
		return false, err
	}
	for _, d := range docs {
		if _, err := s.Create(ctx, d, author, reason); err != nil {
			return false, err
		}
	}
	return true, nil
}

// Save appends a revision to a model. It is refused with ErrStale unless
// the edit started from the current revision.
func (s *Store) Save(ctx context.Context, doc *plumbing.Model, from uint64, author, reason string) (*Model, error) {
	var m Model
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Where("slug = ?", doc.ID).Take(&m).Error; err != nil {
			return err
		}
		if m.Revision != from {
			return ErrStale
		}
		return appendRevision(tx, &m, doc, author, reason)
	})
	return &m, wrap("save "+doc.ID, err)
}

func (m *Model) lift(doc *plumbing.Model) { m.Name, m.Year, m.Kind = doc.Name, doc.Year, doc.Kind }

func appendRevision(tx *gorm.DB, m *Model, doc *plumbing.Model, author, reason string) error {
	var b bytes.Buffer
	if err := plumbing.Write(&b, doc); err != nil {
		return err
	}
	var parent uint64
	if m.Revision > 0 {
		now, err := numbered(tx, m.ID, m.Revision)
		if err != nil {
			return err
		}
		parent = now.Content
	}
	m.lift(doc)
	sum := sha256.Sum256(b.Bytes())
	return appendRow(tx, m, Revision{Author: author, Reason: reason, Document: b.String(), Hash: hex.EncodeToString(sum[:]), Content: m.Revision + 1, Parent: parent})
}

// appendRow adds a revision as the model's newest.
func appendRow(tx *gorm.DB, m *Model, r Revision) error {
	m.Revision++
	r.ModelID, r.Number, r.Reason = m.ID, m.Revision, short(r.Reason, 400)
	if err := tx.Create(&r).Error; err != nil {
		return err
	}
	return tx.Save(m).Error
}

// numbered reads a revision by its number.
func numbered(tx *gorm.DB, model, number uint64) (*Revision, error) {
	var r Revision
	err := tx.Where("model_id = ? AND number = ?", model, number).Take(&r).Error
	return &r, err
}

// Revisions lists a model's revisions, the newest first, without documents.
func (s *Store) Revisions(ctx context.Context, slug string) ([]Revision, error) {
	var list []Revision
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
		return fmt.Errorf("%s: %w", what, ErrNotFound)
	default:
		return fmt.Errorf("%s: %w", what, err)
	}
}
