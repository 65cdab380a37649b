// Package testworld gives tests a database of their own with the demo world in it. It is loaded once a run, and copied.
package testworld

import (
	"context"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/crypto/bcrypt"

	"coldtap/demo"
	"coldtap/internal/app"
	"coldtap/internal/store"
	"coldtap/internal/testdb"
	"coldtap/internal/world"
)

// How much of the demo world there is: each has all that those before it have.
var (
	Bare      = With("bare", nil, func(context.Context, *store.Store) error { return nil })
	People    = With("people", Bare, people)
	Loaded    = With("loaded", People, load)                 // models and lists
	Published = With("published", Loaded, of(world.Publish)) // a guide that is out of date since, one in review
	Tried     = With("tried", Published, of(world.Try))      // units with their logs, and trials
	Drilled   = With("drilled", Tried, of(world.Drill))      // a course, and what came of it
)

// With is a world with more in it than another, by a name that no other has.
func With(name string, from *testdb.Original, fill func(context.Context, *store.Store) error) *testdb.Original {
	return &testdb.Original{Name: name, From: from, Fill: func(ctx context.Context, dsn string) error {
		st, err := store.Open(ctx, dsn)
		if err != nil {
			return err
		}
		defer st.Close()
		return fill(ctx, st)
	}}
}

// Open opens a database of a test's own with a world in it, and closes it when the test has ended.
func Open(t testing.TB, w *testdb.Original) *store.Store {
	t.Helper()
	st, err := store.Open(context.WithoutCancel(t.Context()), w.Copy(t))
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	return st
}

func of(fill func(context.Context, app.Transactor) error) func(context.Context, *store.Store) error {
	return func(ctx context.Context, st *store.Store) error { return fill(ctx, st) }
}

func people(ctx context.Context, st *store.Store) error {
	if err := (&app.Accounts{Store: st, Cost: bcrypt.MinCost}).SignUp(ctx, demo.People()); err != nil {
		return err
	}
	return st.Do(ctx, func(tx app.Tx) error { return world.Dealers(ctx, tx) })
}

func load(ctx context.Context, st *store.Store) error { return world.Load(ctx, st, bcrypt.MinCost) }
