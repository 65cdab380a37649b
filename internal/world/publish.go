package world

import (
	"context"
	"errors"
	"fmt"

	"coldtap/internal/app"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// published is the model whose guide is published and since out of date, inReview the one whose guide is in review.
const (
	published = "gneiss-24-2027"
	inReview  = "tuff-9-2027"
)

// Publish publishes a guide of the demo world that is out of date since, and has another in review with comments: all
// of it or nothing, and nothing where a guide is published already. It takes some seconds.
func Publish(ctx context.Context, st app.Transactor) error {
	return st.Do(ctx, func(tx app.Tx) error {
		if _, err := tx.LockRow(ctx, published); errors.Is(err, app.ErrNotFound) {
			return nil // it is no database of the demo world
		} else if err != nil {
			return err
		}
		if list, err := tx.AllPublished(ctx); err != nil || len(list) > 0 {
			return err
		}
		return publish(ctx, tx)
	})
}

func publish(ctx context.Context, st app.Tx) error {
	author, reviewer, err := authorAndReviewer(ctx, st)
	if err != nil {
		return err
	}
	docs := new(app.Docs)
	p := &app.Publishing{Store: st, Builds: &app.Builds{States: st, Docs: docs}, Docs: docs}
	reviews, edits := &app.Reviews{Store: st}, &app.Edits{Store: st, Docs: docs}
	if err := review(ctx, st, p, reviews, author, reviewer); err != nil {
		return fmt.Errorf("guide in review: %w", err)
	}
	// The tank as it was drawn first; the list that came later has what it holds.
	if err := tank(ctx, st, edits, author, "38 gal", "the tank as it was drawn first"); err != nil {
		return err
	}
	x, err := p.Present(ctx, published)
	if err != nil {
		return err
	}
	if err := reviews.Send(ctx, published, author, x.Basis, "First guide of the model year."); err != nil {
		return err
	}
	if err := reviews.Approve(ctx, published, reviewer, x.Basis, x.Basis, 0,
		"Read and worked through on the plan."); err != nil {
		return err
	}
	units := app.Range{From: "G24-2700001", To: "G24-2799999"}
	if _, err := p.Publish(ctx, published, author, units, "", func() {}); err != nil {
		return err
	}
	return tank(ctx, st, edits, author, "43 gal (163 L)", "the tank by engineering's list")
}

func authorAndReviewer(ctx context.Context, st app.Tx) (author, reviewer app.By, err error) {
	list, err := st.People(ctx)
	for _, p := range list {
		switch p.Login {
		case "imre":
			author = p.By()
		case "odile":
			reviewer = p.By()
		}
	}
	return author, reviewer, err
}

// tank sets what the tank of the published model holds.
func tank(ctx context.Context, st app.Tx, edits *app.Edits, by app.By, holds, why string) error {
	row, _, err := st.Head(ctx, published)
	if err != nil {
		return err
	}
	_, err = edits.Change(ctx, published, row.Revision, by, func(m *plumbing.Model) (*edit.Done, error) {
		c := *m
		c.Parts = append([]plumbing.Part(nil), m.Parts...)
		var err error
		c.Part("fresh").Data.Capacity, err = quantity.Read[quantity.Litre](holds)
		return &edit.Done{Model: &c, Said: fact.Of("it", why)}, err
	})
	return err
}

// review sends a guide to review, with comments of which one was answered.
func review(ctx context.Context, st app.Tx, p *app.Publishing, r *app.Reviews, author, reviewer app.By) error {
	x, err := p.Present(ctx, inReview)
	if err != nil {
		return err
	}
	if err := r.Send(ctx, inReview, author, x.Basis,
		"The hot cycle is new this year: please look at it first."); err != nil {
		return err
	}
	for _, c := range []app.Comment{
		{Block: "task-hot-cycle", Text: "Does the cycle run when the battery is flat? The crank turns the diverter only."},
		{Block: "have", Text: "Who fills this from a lake? Say which hose."},
	} {
		if err := r.Comment(ctx, inReview, reviewer, "reviewer", c); err != nil {
			return err
		}
	}
	list, err := st.Comments(ctx, x.Row.ID)
	if err != nil || len(list) == 0 {
		return err
	}
	return r.Comment(ctx, inReview, author, "author", app.Comment{OnID: list[0].ID,
		Text: "It does not; a text after the procedure will say so."})
}
