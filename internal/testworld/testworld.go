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

// What is the same for everybody.
var (
	Bare   = With("bare", nil, func(context.Context, *store.Store) error { return nil })
	People = With("people", Bare, people)
)

// Worlds are how much of the demo world there is: each has all that those before it have.
type Worlds struct {
	Loaded    *testdb.Original // models and lists
	Published *testdb.Original // a guide that is out of date since, one in review
	Tried     *testdb.Original // units with their logs, and trials
	Drilled   *testdb.Original // a course, and what came of it
}

// Demo is the demo world.
var Demo = Of("", func(context.Context, *store.Store) error { return nil })

// Of is the demo world with something done as soon as it is loaded, by a name of its own.
func Of(name string, then func(context.Context, *store.Store) error) (w Worlds) {
	w.Loaded = With("loaded"+name, People, func(ctx context.Context, st *store.Store) error {
		if err := world.Load(ctx, st, bcrypt.MinCost); err != nil {
			return err
		}
		return then(ctx, st)
	})
	w.Published = With("published"+name, w.Loaded, of(world.Publish))
	w.Tried = With("tried"+name, w.Published, of(world.Try))
	w.Drilled = With("drilled"+name, w.Tried, of(world.Drill))
	return w
}

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
