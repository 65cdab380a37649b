package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"coldtap/internal/app"
)

// StateOf reads one revision of a model.
func (s *Store) StateOf(ctx context.Context, slug string, number uint64) (*app.Revision, error) {
	m, err := s.row(ctx, slug)
	if err != nil {
		return nil, err
	}
	r, err := numbered(s.db.WithContext(ctx), m.ID, number)
	return r, wrap(fmt.Sprintf("revision %d of %s", number, slug), err)
}

func (s *Store) row(ctx context.Context, slug string) (*app.Model, error) {
	var m app.Model
	err := s.db.WithContext(ctx).Where("slug = ?", slug).Take(&m).Error
	return &m, wrap("model "+slug, err)
}

// Steps are the states that undo and redo would lead to from the newest
// revision; nil where there is none. Documents are left out.
func (s *Store) Steps(ctx context.Context, slug string) (undo, redo *app.Revision, err error) {
	m, err := s.row(ctx, slug)
	if err != nil {
		return nil, nil, err
	}
	tx := s.db.WithContext(ctx).Omit("document").Session(&gorm.Session{}) // each query begins anew
	now, err := numbered(tx, m.ID, m.Revision)
	if err != nil {
		return nil, nil, wrap("revision of "+slug, err)
	}
	undo, redo, err = steps(tx, m.ID, now)
	return undo, redo, wrap("steps of "+slug, err)
}

// steps finds, for a state, the edit that made it, which undo takes back, and
// the newest edit that was made from it, which redo makes again.
func steps(tx *gorm.DB, model uint64, now *app.Revision) (undo, redo *app.Revision, err error) {
	made, err := numbered(tx, model, now.Content)
	if err != nil {
		return nil, nil, err
	}
	if made.Parent > 0 {
		undo = made
	}
	var next app.Revision
	switch err := tx.Where("model_id = ? AND parent = ? AND content = number", model,
		now.Content).Order("number DESC").Take(&next).Error; {
	case err == nil:
		redo = &next
	case !errors.Is(err, gorm.ErrRecordNotFound):
		return nil, nil, err
	}
	return undo, redo, nil
}

// Undo puts the state before the last edit back, as a new revision that knows
// whose state it has. Redo makes the edit again. Both are refused with
// app.ErrStale unless from is the current revision, with app.ErrNothing where
// there is none, with app.OthersError where it is not the author's own, unless
// anyones.
func (s *Store) Undo(ctx context.Context, slug string, from uint64, by app.By, anyones bool) (*app.Step, error) {
	return s.step(ctx, slug, from, by, func(tx *gorm.DB, m *app.Model, now *app.Revision) (uint64, string, error) {
		undo, _, err := steps(tx, m.ID, now)
		if err != nil || undo == nil {
			return 0, "", errors.Join(err, app.ErrNothing)
		}
		if !undo.By().Is(by) && !anyones {
			return 0, "", app.OthersError{Person: undo.Author, Reason: undo.Reason}
		}
		return undo.Parent, "undo: " + undo.Reason, nil
	})
}

// Redo is described at Undo.
func (s *Store) Redo(ctx context.Context, slug string, from uint64, by app.By, anyones bool) (*app.Step, error) {
	return s.step(ctx, slug, from, by, func(tx *gorm.DB, m *app.Model, now *app.Revision) (uint64, string, error) {
		_, redo, err := steps(tx, m.ID, now)
		if err != nil || redo == nil {
			return 0, "", errors.Join(err, app.ErrNothing)
		}
		if !now.By().Is(by) && !anyones {
			return 0, "", app.OthersError{Person: now.Author, Reason: now.Reason}
		}
		return redo.Content, "redo: " + redo.Reason, nil
	})
}

func (s *Store) step(ctx context.Context, slug string, from uint64, by app.By,
	to func(*gorm.DB, *app.Model, *app.Revision) (uint64, string, error)) (*app.Step, error) {
	var m app.Model
	var now, after *app.Revision
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Where("slug = ?", slug).Take(&m).Error; err != nil {
			return err
		}
		if m.Revision != from {
			return app.ErrStale
		}
		var err error
		if now, err = numbered(tx, m.ID, m.Revision); err != nil {
			return err
		}
		target, reason, err := to(tx, &m, now)
		if err != nil {
			return err
		}
		state, err := numbered(tx, m.ID, target)
		if err != nil {
			return err
		}
		doc, err := state.Read()
		if err != nil {
			return err
		}
		lift(&m, doc)
		after, err = appendRow(tx, &m, app.Revision{AuthorID: by.ID, Author: by.Name, Reason: reason,
			Document: state.Document, Hash: state.Hash, Content: state.Content, Parent: state.Parent})
		return err
	})
	return &app.Step{Row: &m, Before: now, After: after}, wrap("step in "+slug, err)
}

// Hold keeps an edit that was refused as stale.
func (s *Store) Hold(ctx context.Context, slug string, h *app.Held) error {
	m, err := s.row(ctx, slug)
	if err != nil {
		return err
	}
	h.ModelID, h.Reason = m.ID, short(h.Reason, 400)
	return wrap("hold an edit of "+slug, s.db.WithContext(ctx).Create(h).Error)
}

// AuthorsSince lists who made the states of a model after one.
func (s *Store) AuthorsSince(ctx context.Context, slug string, number uint64) (list []app.By, err error) {
	m, err := s.row(ctx, slug)
	if err != nil {
		return nil, err
	}
	err = s.db.WithContext(ctx).Model(&app.Revision{}).Where("model_id = ? AND number > ?", m.ID,
		number).Distinct().Select("author_id AS id, author AS name").Scan(&list).Error
	return list, wrap("authors of "+slug, err)
}

// HeldEdit reads a held edit of a model.
func (s *Store) HeldEdit(ctx context.Context, slug string, id uint64) (*app.Held, error) {
	m, err := s.row(ctx, slug)
	if err != nil {
		return nil, err
	}
	var h app.Held
	err = s.db.WithContext(ctx).Where("model_id = ?", m.ID).Take(&h, id).Error
	return &h, wrap("held edit", err)
}

// HeldEdits lists a person's edits of a model that wait.
func (s *Store) HeldEdits(ctx context.Context, slug string, by app.By) ([]app.Held, error) {
	m, err := s.row(ctx, slug)
	if err != nil {
		return nil, err
	}
	var list []app.Held
	err = whose(s.db.WithContext(ctx).Omit("document").Where("model_id = ? AND settled_at IS NULL", m.ID), by).
		Order("id").Find(&list).Error
	return list, wrap("held edits", err)
}

// whose keeps what belongs to an account.
func whose(tx *gorm.DB, by app.By) *gorm.DB {
	if by.ID == 0 {
		return tx.Where("person_id = 0 AND person = ?", by.Name)
	}
	return tx.Where("person_id = ?", by.ID)
}

// SettledEdits lists the edits of a model that were held and then merged or
// dropped, the newest first, without documents.
func (s *Store) SettledEdits(ctx context.Context, slug string) ([]app.Held, error) {
	m, err := s.row(ctx, slug)
	if err != nil {
		return nil, err
	}
	var list []app.Held
	err = s.db.WithContext(ctx).Omit("document").Where("model_id = ? AND settled_at IS NOT NULL", m.ID).
		Order("settled_at DESC, id DESC").Find(&list).Error
	return list, wrap("settled edits", err)
}

// HeldAlike finds an edit of the same person from the same state to the same
// document.
func (s *Store) HeldAlike(ctx context.Context, slug string, h *app.Held) (uint64, error) {
	m, err := s.row(ctx, slug)
	if err != nil {
		return 0, err
	}
	var list []app.Held
	err = whose(s.db.WithContext(ctx).Where("model_id = ? AND base = ? AND settled_at IS NULL", m.ID, h.Base), h.By()).
		Order("id").Find(&list).Error
	// Documents are compared here: to the database, "Tap" and "tap" are alike.
	for _, have := range list {
		if have.Document == h.Document {
			return have.ID, nil
		}
	}
	return 0, wrap("held edits", err)
}

// Settle says what became of a held edit; it keeps its document.
func (s *Store) Settle(ctx context.Context, id uint64, by app.By, outcome, lost string) error {
	now := time.Now().UTC().Truncate(time.Microsecond)
	r := s.db.WithContext(ctx).Model(&app.Held{}).Where("id = ? AND settled_at IS NULL", id).
		Updates(map[string]any{"settled_at": now, "settled_by": by.Name, "outcome": outcome, "lost": lost})
	if r.Error == nil && r.RowsAffected == 0 {
		return fmt.Errorf("held edit: %w", app.ErrNotFound)
	}
	return wrap("settle a held edit", r.Error)
}
