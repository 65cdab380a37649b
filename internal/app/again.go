package app

import (
	"context"
	"time"
)

// Answer is what came of a request that its page may send again because it heard nothing: a
// state of a model, or an edit that was held. It is written with what the request changed, so
// that a request that was carried out is never carried out twice.
type Answer struct {
	Request   string // a word that the page made up, 16 to 64 letters, digits and hyphens
	PersonID  uint64
	Slug      string
	Number    uint64 // the state that came of it
	Held      uint64 // the held edit; 0 where it was not held
	CreatedAt time.Time
}

// AnswerWriter keeps answers.
type AnswerWriter interface {
	Answer(ctx context.Context, a *Answer) error
}

// AnswerReader finds them.
type AnswerReader interface {
	// Answered is what came of a request of somebody to a model; nil where nothing did.
	Answered(ctx context.Context, request string, personID uint64, slug string) (*Answer, error)
}

type requestKey struct{}

// WithRequest gives what is done in a context the word of the page's request.
func WithRequest(ctx context.Context, request string) context.Context {
	return context.WithValue(ctx, requestKey{}, request)
}

// requestOf is the word of a context's request, "" for one that is never sent again.
func requestOf(ctx context.Context) string {
	s, _ := ctx.Value(requestKey{}).(string)
	return s
}

// answered tells what came of the request of a context if it was carried out before; nil if not.
func answered(ctx context.Context, tx Tx, slug string, by By) (*Changed, *Held, error) {
	request := requestOf(ctx)
	if request == "" {
		return nil, nil, nil
	}
	a, err := tx.Answered(ctx, request, by.ID, slug)
	if err != nil || a == nil {
		return nil, nil, err
	}
	if a.Held > 0 {
		return nil, &Held{ID: a.Held}, nil
	}
	row, newest, err := tx.Current(ctx, slug)
	if err != nil {
		return nil, nil, err
	}
	made, err := tx.StateOf(ctx, slug, a.Number)
	if err != nil {
		return nil, nil, err
	}
	c := &Changed{Row: row, Words: made.Reason, After: newest}
	if c.Before, err = tx.StateOf(ctx, slug, a.Number-1); err != nil {
		return nil, nil, err
	}
	c.Doc, err = newest.Read()
	return c, nil, err
}

// answer keeps what came of the request of a context.
func answer(ctx context.Context, tx Tx, slug string, by By, number, held uint64) error {
	request := requestOf(ctx)
	if request == "" {
		return nil
	}
	return tx.Answer(ctx, &Answer{Request: request, PersonID: by.ID, Slug: slug, Number: number, Held: held})
}
