package app_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/app"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/store"
	"coldtap/internal/testdb"
)

const gneiss = "gneiss-24-2027"

func open(t *testing.T) *store.Store {
	t.Helper()
	st, err := store.Open(t.Context(), testdb.DSN(t))
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	m, err := demo.Model(gneiss)
	require.NoError(t, err)
	require.NoError(t, (&app.Edits{Store: st}).Create(t.Context(), "Imre Valk", m, "test"))
	return st
}

// named is an edit that gives a part another name.
func named(id, name string) app.Operation {
	return func(m *plumbing.Model) (*edit.Done, error) {
		m.Part(id).Name = name
		return &edit.Done{Model: m, Said: fact.Of("it", "named "+id)}, nil
	}
}

func actions(t *testing.T, st *store.Store) (list []string) {
	t.Helper()
	trail, err := st.AuditTrail(t.Context(), 500)
	require.NoError(t, err)
	for _, n := range trail {
		list = append(list, n.Action)
	}
	return list
}

func TestAnEditOfAStaleStateIsHeldThenMergedOrDropped(t *testing.T) {
	st := open(t)
	edits := &app.Edits{Store: st}
	ctx := t.Context()
	_, err := edits.Change(ctx, gneiss, 1, "Imre Valk", named("pump", "Pump one"))
	require.NoError(t, err)
	_, err = edits.Change(ctx, gneiss, 1, "Imre Valk", named("pump", "Pump two"))
	require.NoError(t, err, "one's own changes follow one another")
	var held app.HeldError
	_, err = edits.Change(ctx, gneiss, 1, "Odile Brandt", named("fresh", "Tank"))
	require.ErrorAs(t, err, &held)
	w, err := edits.Waiting(ctx, gneiss, held.ID)
	require.NoError(t, err)
	require.NoError(t, edits.Merge(ctx, gneiss, w, "Odile Brandt"))
	_, rev, err := st.Current(ctx, gneiss)
	require.NoError(t, err)
	m, err := rev.Read()
	require.NoError(t, err)
	assert.Equal(t, []string{"Pump two", "Tank"}, []string{m.Part("pump").Name, m.Part("fresh").Name})
	_, err = edits.Waiting(ctx, gneiss, held.ID)
	require.ErrorIs(t, err, app.ErrNotFound)
	assert.Subset(t, actions(t, st), []string{"created", "change held", "merged held change"})

	_, err = edits.Change(ctx, gneiss, 1, "Odile Brandt", named("fresh", "Cistern"))
	require.ErrorAs(t, err, &held)
	w, err = edits.Waiting(ctx, gneiss, held.ID)
	require.NoError(t, err)
	require.NoError(t, edits.Drop(ctx, gneiss, w, "Odile Brandt"))
	assert.Contains(t, actions(t, st), "dropped held change")
}

// What is written with an edit is written with it, or not at all.
func TestNothingOfAFailedEditIsKept(t *testing.T) {
	st := open(t)
	edits := &app.Edits{Store: st}
	broken := errors.New("broken")
	_, err := edits.Change(t.Context(), gneiss, 1, "Imre Valk", named("pump", "Pump one"), func(tx app.Tx) error {
		if err := tx.Audit(t.Context(), "Imre Valk", "half done", gneiss, ""); err != nil {
			return err
		}
		return broken
	})
	require.ErrorIs(t, err, broken)
	row, _, err := st.Current(t.Context(), gneiss)
	require.NoError(t, err)
	assert.EqualValues(t, 1, row.Revision)
	assert.NotContains(t, actions(t, st), "half done")
}

// Two authors mend forty cells of a list at once: forty are there.
func TestCellsMendedAtOnceAreAllThere(t *testing.T) {
	st := open(t)
	lists := &app.Lists{Store: st, Edits: &app.Edits{Store: st}}
	var file strings.Builder
	file.WriteString("Line,From,To,Side,Size,Length\n")
	for i := range 40 {
		fmt.Fprintf(&file, "x%d,pump.out,fresh.fill,cold,,\n", i)
	}
	im, err := lists.Upload(t.Context(), gneiss, "Odile Brandt", "list.csv", []byte(file.String()))
	require.NoError(t, err)
	list, err := im.Read()
	require.NoError(t, err)
	rows, columns := len(list.Sheet().Table.Rows), len(list.Sheet().Table.Columns)
	require.Equal(t, []int{40, 6}, []int{rows, columns})
	var all sync.WaitGroup
	for i := range rows {
		all.Add(1)
		go func() {
			defer all.Done()
			_, err := lists.Mend(context.Background(), im.ID, func(l *app.List) error {
				l.Sheet().Table.Rows[i][5] = fmt.Sprintf("%d in", i+1)
				return nil
			})
			assert.NoError(t, err)
		}()
	}
	all.Wait()
	kept, err := st.Import(t.Context(), gneiss, im.ID)
	require.NoError(t, err)
	list, err = kept.Read()
	require.NoError(t, err)
	for i, row := range list.Sheet().Table.Rows {
		assert.Equal(t, fmt.Sprintf("%d in", i+1), row[5])
	}
}

func revision(t *testing.T, change func(m *plumbing.Model)) *app.Revision {
	t.Helper()
	m, err := demo.Model(gneiss)
	require.NoError(t, err)
	change(m)
	var b strings.Builder
	require.NoError(t, plumbing.Write(&b, m))
	return &app.Revision{Document: b.String(), Hash: m.Part("pump").Name}
}

func pumpNamed(name string) func(m *plumbing.Model) {
	return func(m *plumbing.Model) { m.Part("pump").Name = name }
}

func TestBuildsAreKeptByContentUpToABound(t *testing.T) {
	ctx := t.Context()
	var s app.Builds
	get := func(name string) *app.Build {
		b, err := s.Get(ctx, gneiss, revision(t, pumpNamed(name)), "")
		require.NoError(t, err)
		return b
	}
	one := get("one")
	assert.Same(t, one, get("one"), "the same content is computed once")
	assert.NotSame(t, one, get("two"))
	each := s.Bytes() / 2
	s.Most = 3 * each
	for i := range 20 {
		get(fmt.Sprint(i))
		assert.LessOrEqual(t, s.Bytes(), s.Most+each/10)
	}
	assert.NotSame(t, one, get("one"), "it was let go")
}

// Whoever asks at the same time waits for one computation; who leaves does not
// stop it for the others.
func TestAPartIsComputedOnceForAllWhoAsk(t *testing.T) {
	m, err := demo.Model(gneiss)
	require.NoError(t, err)
	b, err := app.NewBuild(m, "")
	require.NoError(t, err)
	gone, leave := context.WithCancel(t.Context())
	leave()
	_, err = b.Plan(gone)
	if err != nil { // it may have been computed before anybody looked
		require.ErrorIs(t, err, context.Canceled)
	}
	h := house.Usual(quantity.US)
	var all sync.WaitGroup
	reports := make([]any, 8)
	for i := range reports {
		all.Add(1)
		go func() {
			defer all.Done()
			r, err := b.Report(context.Background(), h)
			assert.NoError(t, err)
			reports[i] = r
		}()
	}
	all.Wait()
	for _, r := range reports {
		assert.Same(t, reports[0], r)
	}
	other, err := b.Report(t.Context(), house.Target.With(h, 60))
	require.NoError(t, err)
	assert.NotSame(t, reports[0], other, "by other rules it is another")
}
