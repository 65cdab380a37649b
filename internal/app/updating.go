package app

import (
	"context"
	"errors"
	"slices"
	"sort"

	"coldtap/internal/core/chapter"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
)

// Updated is what bringing a draft up to date did.
type Updated struct {
	Lines     int      // that follow the model, the rules and the photographs now
	Dangers   int      // of these
	Figures   []string // set by hand and let go: they would be a danger as things are, or are what the model gives
	Sentences []string // reworded and let go: the guide has no such sentence any more
	Done      *Changed // the edit that it took; nil for none
}

// Update brings the draft of a model's guide up to date with what changed since it was published: what follows the
// model by itself is taken over, what a hand wrote and no longer holds is let go. It is refused with ErrChanged where
// the published guides were not yet held against how things are.
func (k *Keeping) Update(ctx context.Context, edits *Edits, slug string, by By) (*Updated, error) {
	x, err := k.Publishing.Present(ctx, slug)
	if err != nil {
		return nil, err
	}
	list, err := k.Store.PublishedOf(ctx, slug)
	if err != nil {
		return nil, err
	}
	u := new(Updated)
	if u.Figures, u.Sentences, err = k.lapsed(ctx, x); err != nil {
		return nil, err
	}
	taken := map[uint64]string{}
	for i := range list {
		if list[i].State != Published {
			continue
		}
		row, err := k.Store.Standing(ctx, list[i].ID)
		if err != nil {
			return nil, err
		}
		if row == nil || row.OfState != x.Basis {
			if row, err = k.Check(ctx, &list[i]); err != nil {
				return nil, err
			}
		}
		u.Lines, u.Dangers = u.Lines+row.Broken, u.Dangers+row.Dangers
		if taken[list[i].ID], err = marshal(keysOf(row)); err != nil {
			return nil, err
		}
	}
	take := func(tx Tx) error {
		for id, keys := range taken {
			if err := tx.TakeStanding(ctx, id, keys); err != nil {
				return err
			}
		}
		return tx.Audit(ctx, by, "brought draft up to date", slug, "")
	}
	if len(u.Figures)+len(u.Sentences) == 0 {
		return u, k.Store.Do(ctx, take)
	}
	op := func(m *plumbing.Model) (*edit.Done, error) { return edit.Lapse(m, u.Figures, u.Sentences) }
	u.Done, err = edits.Change(ctx, slug, x.Row.Revision, by, op, take)
	return u, err
}

// lapsed are the figures set by hand and the sentences reworded that no longer hold in any build.
func (k *Keeping) lapsed(ctx context.Context, x *Present) (figures, sentences []string, err error) {
	w := x.Doc.Chapter
	if w == nil {
		return nil, nil, nil
	}
	said := map[string]bool{}
	fits := map[string]bool{}
	for _, with := range x.Doc.Builds() {
		b, err := k.Publishing.Build(ctx, x, with)
		if err != nil {
			return nil, nil, err
		}
		in, err := x.Inputs(ctx, b, true)
		if err != nil {
			return nil, nil, err
		}
		for id, o := range w.Figures {
			err := in.Judge(id, o.Value)
			fits[id] = fits[id] || err == nil || errors.As(err, new(*chapter.UnreadError)) && in.Report.Figures == nil
		}
		for _, e := range chapter.Editions() {
			in.Edition = e
			blocks, err := chapter.Draft(ctx, in)
			if err != nil {
				return nil, nil, err
			}
			for _, key := range chapter.Keys(blocks) {
				said[key] = true
			}
		}
	}
	for id := range w.Figures {
		if !fits[id] {
			figures = append(figures, id)
		}
	}
	for key := range w.Words {
		if !said[key] {
			sentences = append(sentences, key)
		}
	}
	sort.Strings(figures)
	slices.Sort(sentences)
	return figures, sentences, nil
}
