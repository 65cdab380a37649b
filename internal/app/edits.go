package app

import (
	"context"
	"errors"
	"strings"

	"coldtap/internal/core/edit"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/merge"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/words"
)

// Edits changes models.
type Edits struct {
	Store interface {
		Transactor
		ModelReader
		HeldReader
	}
}

// Operation changes a document.
type Operation func(*plumbing.Model) (*edit.Done, error)

// Changed is what came of an edit.
type Changed struct {
	Row    *Model
	Words  string          // "" where nothing changed
	Before *Revision       // the state that was changed
	After  *Revision       // the state that came of it
	Doc    *plumbing.Model // that state, as it was made; nil where nothing changed
}

// HeldError says that an edit started from a state that is no longer the
// newest, and where it was kept aside.
type HeldError struct{ ID uint64 }

func (HeldError) Error() string { return "somebody else changed the model in the meantime" }

// Create adds a model.
func (e *Edits) Create(ctx context.Context, person string, doc *plumbing.Model, reason string) error {
	return e.Store.Do(ctx, func(tx Tx) error {
		if _, err := tx.Create(ctx, doc, person, reason); err != nil {
			return err
		}
		return tx.Audit(ctx, person, "created", doc.ID, reason)
	})
}

// tries is how often an edit begins anew when one's own other edits come in
// between.
const tries = 5

// Change carries out an edit that started from a state and saves it at once;
// more is written in the same transaction. An edit of a stale state is kept
// aside and refused with a HeldError, unless all that came after it is one's
// own: changes made faster than the page followed.
func (e *Edits) Change(ctx context.Context, slug string, from uint64, person string, op Operation,
	more ...func(Tx) error) (*Changed, error) {
	var done *edit.Done
	for range tries {
		row, base, err := e.Store.Current(ctx, slug)
		if err != nil {
			return nil, err
		}
		now := row.Revision == from
		if !now {
			if now, err = e.onlyBy(ctx, slug, from, person); err != nil {
				return nil, err
			}
		}
		if !now {
			if base, err = e.Store.StateOf(ctx, slug, from); err != nil {
				return nil, err
			}
		}
		doc, err := base.Read()
		if err != nil {
			return nil, err
		}
		if done, err = op(doc); err != nil {
			return nil, err
		}
		if done.Said.IsZero() {
			return &Changed{Row: row, Before: base, After: base}, nil
		}
		if !now {
			break
		}
		done.Model = done.Model.WithNumbers()
		var after *Revision
		err = e.Store.Do(ctx, func(tx Tx) error {
			if row, after, err = tx.Save(ctx, done.Model, row.Revision, person, inWords(done.Said)); err != nil {
				return err
			}
			if err := follow(ctx, tx, slug, doc, done.Model); err != nil {
				return err
			}
			return all(tx, more)
		})
		if err == nil {
			return &Changed{row, inWords(done.Said), base, after, done.Model}, nil
		}
		if !errors.Is(err, ErrStale) {
			return nil, err
		}
	}
	return nil, e.hold(ctx, slug, from, person, done)
}

// inWords is what a change did, as history and audit keep it.
func inWords(said fact.Fact) string { return words.English(quantity.US).Tell(said) }

func all(tx Tx, work []func(Tx) error) error {
	for _, w := range work {
		if err := w(tx); err != nil {
			return err
		}
	}
	return nil
}

// hold keeps an edit aside; its error says where.
func (e *Edits) hold(ctx context.Context, slug string, from uint64, person string, done *edit.Done) error {
	var text strings.Builder
	if err := plumbing.Write(&text, done.Model); err != nil {
		return err
	}
	h := Held{Base: from, Person: person, Reason: inWords(done.Said), Document: text.String()}
	// The same change sent twice waits once.
	if id, err := e.Store.HeldAlike(ctx, slug, &h); err != nil {
		return err
	} else if id > 0 {
		return HeldError{id}
	}
	err := e.Store.Do(ctx, func(tx Tx) error {
		if err := tx.Hold(ctx, slug, &h); err != nil {
			return err
		}
		return tx.Audit(ctx, person, "change held", slug, inWords(done.Said))
	})
	if err != nil {
		return err
	}
	return HeldError{h.ID}
}

// onlyBy reports whether all states after one were made by one person.
func (e *Edits) onlyBy(ctx context.Context, slug string, after uint64, person string) (bool, error) {
	list, err := e.Store.AuthorsSince(ctx, slug, after)
	for _, author := range list {
		if author != person {
			return false, err
		}
	}
	return true, err
}

// Undo takes the last edit back and answers with what it did. Somebody else's
// is refused with an OthersError, unless anyones.
func (e *Edits) Undo(ctx context.Context, slug string, from uint64, person string, anyones bool) (*Changed, error) {
	return e.step(ctx, slug, func(tx Tx) (*Model, error) { return tx.Undo(ctx, slug, from, person, anyones) })
}

// Redo makes it again.
func (e *Edits) Redo(ctx context.Context, slug string, from uint64, person string, anyones bool) (*Changed, error) {
	return e.step(ctx, slug, func(tx Tx) (*Model, error) { return tx.Redo(ctx, slug, from, person, anyones) })
}

func (e *Edits) step(ctx context.Context, slug string, to func(Tx) (*Model, error)) (*Changed, error) {
	_, before, err := e.Store.Current(ctx, slug)
	if err != nil {
		return nil, err
	}
	var row *Model
	err = e.Store.Do(ctx, func(tx Tx) (err error) {
		row, err = to(tx)
		return err
	})
	if err != nil {
		return nil, err
	}
	after, err := e.Store.StateOf(ctx, slug, row.Revision)
	if err != nil {
		return nil, err
	}
	was, errWas := before.Read()
	is, errIs := after.Read()
	if errWas == nil && errIs == nil {
		err = e.Store.Do(ctx, func(tx Tx) error { return follow(ctx, tx, slug, was, is) })
	}
	return &Changed{row, after.Reason, before, after, nil}, err
}

// follow lets photographs follow the part that a change gave another id.
func follow(ctx context.Context, tx Tx, slug string, before, after *plumbing.Model) error {
	if len(before.Parts) != len(after.Parts) {
		return nil
	}
	for i := range before.Parts {
		from, to := before.Parts[i].ID, after.Parts[i].ID
		if from != to && after.Part(from) == nil && before.Part(to) == nil {
			if err := tx.FollowPart(ctx, slug, from, to); err != nil {
				return err
			}
		}
	}
	return nil
}

// Restore is the operation that makes an earlier state the newest again.
func (e *Edits) Restore(ctx context.Context, slug string, number uint64) (Operation, error) {
	rev, err := e.Store.StateOf(ctx, slug, number)
	if err != nil {
		return nil, err
	}
	doc, err := rev.Read()
	if err != nil {
		return nil, err
	}
	return func(*plumbing.Model) (*edit.Done, error) {
		return &edit.Done{Model: doc, Said: fact.Of("edit.restored", number)}, nil
	}, nil
}

// Waiting is a held edit with the document it started from and the one that it
// makes.
type Waiting struct {
	*Held
	From, Mine *plumbing.Model
}

// Waiting reads a held edit.
func (e *Edits) Waiting(ctx context.Context, slug string, id uint64) (*Waiting, error) {
	h, err := e.Store.HeldEdit(ctx, slug, id)
	if err != nil {
		return nil, err
	}
	rev, err := e.Store.StateOf(ctx, slug, h.Base)
	if err != nil {
		return nil, err
	}
	w := &Waiting{Held: h}
	if w.From, err = rev.Read(); err != nil {
		return nil, err
	}
	w.Mine, err = plumbing.Read(strings.NewReader(h.Document))
	return w, err
}

// Merge brings what does not collide of a held edit into the newest state, and
// lets it go. ErrStale where that changed meanwhile.
func (e *Edits) Merge(ctx context.Context, slug string, w *Waiting, person string) error {
	row, rev, err := e.Store.Current(ctx, slug)
	if err != nil {
		return err
	}
	now, err := rev.Read()
	if err != nil {
		return err
	}
	r, err := merge.Merge(w.From, w.Mine, now)
	if err != nil {
		return err
	}
	return e.Store.Do(ctx, func(tx Tx) error {
		if len(r.Taken) > 0 {
			if _, _, err := tx.Save(ctx, r.Model, row.Revision, person, w.Reason+" (merged)"); err != nil {
				return err
			}
		}
		return e.drop(ctx, tx, slug, w, person, "merged held change")
	})
}

// Drop lets a held edit go.
func (e *Edits) Drop(ctx context.Context, slug string, w *Waiting, person string) error {
	return e.Store.Do(ctx, func(tx Tx) error { return e.drop(ctx, tx, slug, w, person, "dropped held change") })
}

func (e *Edits) drop(ctx context.Context, tx Tx, slug string, w *Waiting, person, action string) error {
	if err := tx.Drop(ctx, w.ID); err != nil {
		return err
	}
	return tx.Audit(ctx, person, action, slug, w.Person+": "+w.Reason)
}
