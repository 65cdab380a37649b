package app

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"strings"

	"coldtap/internal/core/edit"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/merge"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/words"
	"coldtap/internal/turn"
)

// Edits changes models.
type Edits struct {
	Store interface {
		Transactor
		ModelReader
		HeldReader
		AnswerReader
	}
	Docs  *Docs       // documents that were read; nil for none
	Turns *turn.Turns // for what is worked out; nil for none
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
	Others []By            // who else changed the model since the state that the edit started from
}

// ErrNotYours says that a held edit is settled by its author only.
var ErrNotYours = errors.New("this change waits for its author, who alone merges or drops it")

// HeldError says that an edit started from a state that is no longer the
// newest, and where it was kept aside.
type HeldError struct{ ID uint64 }

func (HeldError) Error() string { return "somebody else changed the model in the meantime" }

// Create adds a model.
func (e *Edits) Create(ctx context.Context, by By, doc *plumbing.Model, reason string) error {
	if err := doc.CheckBuilds(); err != nil {
		return unbuildable(err)
	}
	return e.Store.Do(ctx, func(tx Tx) error {
		if _, err := tx.Create(ctx, doc, by, reason); err != nil {
			return err
		}
		return tx.Audit(ctx, by, "created", doc.ID, reason)
	})
}

// Change carries out an edit that started from a state and saves it at once;
// more is written in the same transaction. What it changes of a state that is
// no longer the newest is merged into the newest, whoever made that. Where the
// two collide it is kept aside and refused with a HeldError. The operation may
// be carried out more than once.
func (e *Edits) Change(ctx context.Context, slug string, from uint64, by By, op Operation,
	more ...func(Tx) error) (*Changed, error) {
	// It is worked out before the model is locked; where somebody else was faster, once more, and in
	// the end while nobody else can be.
	for try := 0; ; try++ {
		ready, wrong := e.prepared(ctx, slug, from, by, op)
		if wrong != nil && requestOf(ctx) == "" {
			return nil, wrong
		}
		changed, late, err := e.write(ctx, slug, from, by, op, ready, wrong, try < outside, more)
		switch {
		case try < staleTries && (errors.Is(err, errBehind) || errors.Is(err, ErrStale)):
			// With the row locked it is stale only where another node of a cluster was faster.
			continue
		case err == nil && late != nil:
			return nil, HeldError{late.ID}
		case err != nil:
			return nil, err
		}
		if changed.Doc != nil {
			e.Docs.keep(changed.After, changed.Doc)
		}
		return changed, nil
	}
}

// staleTries is how often an edit is written again that somebody else was faster with; so often it
// is worked out before the model is locked.
const (
	staleTries = 6
	outside    = 2
)

// errBehind says that an edit was worked out on a state that is no longer the newest.
var errBehind = errors.New("worked out on an older state")

// write writes an edit that was worked out, or answers what came of its request before. Where it
// was worked out on an older state it is worked out again, or refused with errBehind if it may be.
func (e *Edits) write(ctx context.Context, slug string, from uint64, by By, op Operation, ready *ready, wrong error,
	refuse bool, more []func(Tx) error) (changed *Changed, late *Held, err error) {
	err = e.Store.Do(ctx, func(tx Tx) error {
		row, err := tx.LockRow(ctx, slug)
		if err != nil {
			return err
		}
		changed, late, err = answered(ctx, tx, slug, by)
		if err != nil || changed != nil || late != nil {
			return err
		}
		if wrong != nil {
			return wrong
		}
		now := ready
		if now == nil || now.newest.Number != row.Revision {
			if refuse {
				return errBehind
			}
			_, newest, err := tx.Current(ctx, slug)
			if err != nil {
				return err
			}
			if now, err = e.prepare(ctx, tx, row, newest, from, by, op); err != nil {
				return err
			}
		}
		changed, late, err = change(ctx, tx, row, now, from, by)
		switch {
		case err != nil:
			return err
		case late != nil:
			return answer(ctx, tx, slug, by, row.Revision, late.ID)
		case changed.Words == "":
			return nil
		}
		if err := answer(ctx, tx, slug, by, changed.After.Number, 0); err != nil {
			return err
		}
		for _, w := range more {
			if err := w(tx); err != nil {
				return err
			}
		}
		return nil
	})
	return changed, late, err
}

// prepared works an edit out on the newest state; nil where its request was carried out before.
func (e *Edits) prepared(ctx context.Context, slug string, from uint64, by By, op Operation) (*ready, error) {
	row, newest, err := e.Store.Current(ctx, slug)
	if err != nil {
		return nil, err
	}
	if word := requestOf(ctx); word != "" {
		if a, err := e.Store.Answered(ctx, word, by.ID, slug); err != nil || a != nil {
			return nil, err
		}
	}
	return e.prepare(ctx, e.Store, row, newest, from, by, op)
}

// ready is an edit that was worked out on a state.
type ready struct {
	newest *Revision       // that it was worked out on
	others []By            // who else changed the model since it started
	done   *edit.Done      // what it does, on the state that it started from
	from   *plumbing.Model // that state
	result *plumbing.Model // what comes of it; nil where it is held
}

// prepare works an edit out.
func (e *Edits) prepare(ctx context.Context, store ModelReader, row *Model, newest *Revision, from uint64, by By,
	op Operation) (*ready, error) {
	base, others, err := baseOf(ctx, store, row, newest, from, by)
	if err != nil {
		return nil, err
	}
	end, err := e.Turns.Take(turn.Writing(ctx))
	if err != nil {
		return nil, err
	}
	defer end()
	r := &ready{newest: newest, others: others}
	if r.from, err = e.Docs.Read(base); err != nil {
		return nil, err
	}
	if r.done, err = op(r.from); err != nil || r.done.Said.IsZero() {
		return r, err
	}
	r.result = r.done.Model
	if base != newest {
		if r.result, err = e.into(newest, base, r.result); err != nil || r.result == nil {
			return r, err
		}
	}
	if err := buildable(newest, r.result); err != nil {
		return nil, err
	}
	r.result = r.result.WithNumbers()
	return r, nil
}

// change writes what came of an edit, or holds it.
func change(ctx context.Context, tx Tx, row *Model, r *ready, from uint64, by By) (*Changed, *Held, error) {
	switch {
	case r.done.Said.IsZero():
		return &Changed{Row: row, Before: r.newest, After: r.newest}, nil, nil
	case r.result == nil:
		late, err := hold(ctx, tx, row.Slug, from, by, r.done)
		return nil, late, err
	}
	slug := row.Slug
	row, after, err := tx.Save(ctx, r.result, row.Revision, by, inWords(r.done.Said))
	if err != nil {
		return nil, nil, err
	}
	return &Changed{row, inWords(r.done.Said), r.newest, after, r.result, r.others}, nil,
		follow(ctx, tx, slug, r.from, r.done.Model)
}

// baseOf is the state that an edit is carried out on, and who else changed the
// model since it started: the newest where it started from it, or where all
// that came since is one's own, made faster than the page followed; else the
// one it started from.
func baseOf(ctx context.Context, tx ModelReader, row *Model, newest *Revision, from uint64,
	by By) (*Revision, []By, error) {
	if from == row.Revision {
		return newest, nil, nil
	}
	if from == 0 || from > row.Revision {
		return nil, nil, ErrNoState
	}
	others, err := tx.AuthorsSince(ctx, row.Slug, from)
	if err != nil {
		return nil, nil, err
	}
	if others = slices.DeleteFunc(others, by.Is); len(others) == 0 {
		return newest, nil, nil
	}
	base, err := tx.StateOf(ctx, row.Slug, from)
	return base, others, err
}

// into merges what an edit changed of a state into the newest; nil where they
// collide, or where the outcome can't be read.
func (e *Edits) into(newest, base *Revision, edited *plumbing.Model) (*plumbing.Model, error) {
	now, err := e.Docs.Read(newest)
	if err != nil {
		return nil, err
	}
	was, err := e.Docs.Read(base)
	if err != nil {
		return nil, err
	}
	r, err := merge.Merge(was, edited, now)
	if err != nil || len(r.Conflicts) > 0 {
		return nil, nil // held, and told there
	}
	return r.Model, nil
}

// buildable refuses a state that could not be shown in one of its builds, unless the one before
// could not either.
func buildable(before *Revision, after *plumbing.Model) error {
	err := after.CheckBuilds()
	if err == nil {
		return nil
	}
	if was, readErr := before.Read(); readErr != nil || was.CheckBuilds() != nil {
		return nil // it is on its way to be put right
	}
	return unbuildable(err)
}

// unbuildable tells which build can't be made, and what to do where something ends loose in it.
func unbuildable(err error) error {
	why := err.Error()
	if errors.As(err, new(*plumbing.LooseEndError)) {
		why += "; give both the same option, or take both away at once"
	}
	return &edit.FaultError{Faults: []plumbing.Fault{{Path: "Options", Why: why}}}
}

// inWords is what a change did, as history and audit keep it.
func inWords(said fact.Fact) string { return words.English(quantity.US).Tell(said) }

// hold keeps an edit aside.
func hold(ctx context.Context, tx Tx, slug string, from uint64, by By, done *edit.Done) (*Held, error) {
	var text strings.Builder
	if err := plumbing.Write(&text, done.Model); err != nil {
		return nil, err
	}
	h := &Held{Base: from, PersonID: by.ID, Person: by.Name, Reason: inWords(done.Said), Document: text.String()}
	// The same change sent twice waits once.
	if id, err := tx.HeldAlike(ctx, slug, h); err != nil || id > 0 {
		return &Held{ID: id}, err
	}
	if err := tx.Hold(ctx, slug, h); err != nil {
		return nil, err
	}
	return h, tx.Audit(ctx, by, "change held", slug, inWords(done.Said))
}

// Undo takes the last edit back and answers with what it did. Somebody else's
// is refused with an OthersError, unless anyones.
func (e *Edits) Undo(ctx context.Context, slug string, from uint64, by By, anyones bool) (*Changed, error) {
	return e.step(ctx, slug, by, func(tx Tx) (*Step, error) { return tx.Undo(ctx, slug, from, by, anyones) })
}

// Redo makes it again.
func (e *Edits) Redo(ctx context.Context, slug string, from uint64, by By, anyones bool) (*Changed, error) {
	return e.step(ctx, slug, by, func(tx Tx) (*Step, error) { return tx.Redo(ctx, slug, from, by, anyones) })
}

func (e *Edits) step(ctx context.Context, slug string, by By, to func(Tx) (*Step, error)) (*Changed, error) {
	var changed *Changed
	err := e.Store.Do(ctx, func(tx Tx) error {
		if _, _, err := tx.Lock(ctx, slug); err != nil {
			return err
		}
		var err error
		if changed, _, err = answered(ctx, tx, slug, by); err != nil || changed != nil {
			return err
		}
		step, err := to(tx)
		if err != nil {
			return err
		}
		changed = &Changed{Row: step.Row, Words: step.After.Reason, Before: step.Before, After: step.After}
		if err := answer(ctx, tx, slug, by, step.After.Number, 0); err != nil {
			return err
		}
		was, errWas := step.Before.Read()
		is, errIs := step.After.Read()
		if errWas != nil || errIs != nil {
			return nil // a state that can't be read is left all the same
		}
		return follow(ctx, tx, slug, was, is)
	})
	if err != nil {
		return nil, err
	}
	return changed, nil
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
// settles it; where they collide what is there stays, or what is held takes its
// place. What loses is kept with it. ErrStale where the model changed
// meanwhile; ErrNotYours where the edit is somebody else's.
func (e *Edits) Merge(ctx context.Context, slug string, w *Waiting, by By, takeHeld bool) error {
	if !w.By().Is(by) {
		return ErrNotYours
	}
	row, rev, err := e.Store.Current(ctx, slug)
	if err != nil {
		return err
	}
	now, err := rev.Read()
	if err != nil {
		return err
	}
	from, to := w.Mine, now
	if takeHeld {
		from, to = now, w.Mine
	}
	r, err := merge.Merge(w.From, from, to)
	if err != nil {
		return err
	}
	lost := ""
	if len(r.Conflicts) > 0 {
		text, err := json.Marshal(r.Conflicts)
		if err != nil {
			return err
		}
		lost = string(text)
	}
	return e.Store.Do(ctx, func(tx Tx) error {
		if len(r.Taken) > 0 || takeHeld {
			if _, _, err := tx.Save(ctx, r.Model, row.Revision, by, w.Reason+" (merged)"); err != nil {
				return err
			}
		}
		return e.settle(ctx, tx, slug, w, by, Merged, lost)
	})
}

// Drop lets a held edit go. ErrNotYours where it is somebody else's.
func (e *Edits) Drop(ctx context.Context, slug string, w *Waiting, by By) error {
	if !w.By().Is(by) {
		return ErrNotYours
	}
	return e.Store.Do(ctx, func(tx Tx) error { return e.settle(ctx, tx, slug, w, by, Dropped, "") })
}

func (e *Edits) settle(ctx context.Context, tx Tx, slug string, w *Waiting, by By, outcome, lost string) error {
	if err := tx.Settle(ctx, w.ID, by, outcome, lost); err != nil {
		return err
	}
	return tx.Audit(ctx, by, outcome+" held change", slug, w.Reason)
}
