package app_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"sync"
	"testing"
	"time"

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
	"coldtap/internal/testworld"
)

// pool keeps what these tests compute: of one document it is the same in each.
var pool app.BuildPool

const gneiss = "gneiss-24-2027"

// patience is how long tests wait for work that a busy machine takes long for.
const patience = 5 * time.Minute

func open(t *testing.T) *store.Store {
	t.Helper()
	st := testworld.Open(t, testworld.Bare)
	m, err := demo.Model(gneiss)
	require.NoError(t, err)
	require.NoError(t, (&app.Edits{Store: st}).Create(t.Context(), app.By{Name: "Imre Valk"}, m, "test"))
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

var (
	imre  = app.By{ID: 1, Name: "Imre Valk"}
	odile = app.By{ID: 2, Name: "Odile Brandt"}
)

// names are what two parts are called in the newest state.
func names(t *testing.T, st *store.Store, ids ...string) (list []string) {
	t.Helper()
	_, rev, err := st.Current(t.Context(), gneiss)
	require.NoError(t, err)
	m, err := rev.Read()
	require.NoError(t, err)
	for _, id := range ids {
		list = append(list, m.Part(id).Name)
	}
	return list
}

func TestEditsOfDifferentThingsComeTogether(t *testing.T) {
	t.Parallel()
	st := open(t)
	edits := &app.Edits{Store: st}
	ctx := t.Context()
	for _, name := range []string{"Pump one", "Pump two"} {
		_, err := edits.Change(ctx, gneiss, 1, imre, named("pump", name))
		require.NoError(t, err, "one's own changes follow one another")
	}
	done, err := edits.Change(ctx, gneiss, 1, odile, named("fresh", "Tank"))
	require.NoError(t, err)
	assert.Equal(t, []app.By{imre}, done.Others)
	assert.Equal(t, []string{"Pump two", "Tank"}, names(t, st, "pump", "fresh"))
	for _, never := range []uint64{0, 5} {
		_, err = edits.Change(ctx, gneiss, never, imre, named("pump", "Pump three"))
		require.ErrorIs(t, err, app.ErrNoState)
	}
}

func TestEditsThatCollideAreHeldForTheirAuthor(t *testing.T) {
	t.Parallel()
	st := open(t)
	edits := &app.Edits{Store: st}
	ctx := t.Context()
	// Somebody else of the same name is somebody else.
	_, err := edits.Change(ctx, gneiss, 1, app.By{ID: 9, Name: odile.Name}, named("pump", "Pump one"))
	require.NoError(t, err)
	var held app.HeldError
	both := func(m *plumbing.Model) (*edit.Done, error) {
		m.Part("pump").Name, m.Part("fresh").Name = "Pump two", "Tank"
		return &edit.Done{Model: m, Said: fact.Of("it", "named two")}, nil
	}
	_, err = edits.Change(ctx, gneiss, 1, odile, both)
	require.ErrorAs(t, err, &held)
	w, err := edits.Waiting(ctx, gneiss, held.ID)
	require.NoError(t, err)
	require.ErrorIs(t, edits.Merge(ctx, gneiss, w, app.By{ID: 9, Name: odile.Name}, false), app.ErrNotYours)
	require.ErrorIs(t, edits.Drop(ctx, gneiss, w, imre), app.ErrNotYours)
	require.NoError(t, edits.Merge(ctx, gneiss, w, odile, false))
	assert.Equal(t, []string{"Pump one", "Tank"}, names(t, st, "pump", "fresh"))
	require.ErrorIs(t, edits.Merge(ctx, gneiss, w, odile, false), app.ErrNotFound, "it is settled once")
	settled, err := st.SettledEdits(ctx, gneiss)
	require.NoError(t, err)
	require.Len(t, settled, 1)
	assert.Equal(t, []string{odile.Name, app.Merged}, []string{settled[0].SettledBy, settled[0].Outcome})
	lost := settled[0].Conflicts()
	require.Len(t, lost, 1)
	assert.Equal(t, []string{"pump", "name", "Pump two"}, []string{lost[0].ID, lost[0].Path, lost[0].Mine})
	assert.Subset(t, actions(t, st), []string{"created", "change held", "merged held change"})

	_, err = edits.Change(ctx, gneiss, 1, odile, named("pump", "Pump three"))
	require.ErrorAs(t, err, &held)
	w, err = edits.Waiting(ctx, gneiss, held.ID)
	require.NoError(t, err)
	require.NoError(t, edits.Drop(ctx, gneiss, w, odile))
	assert.Contains(t, actions(t, st), "dropped held change")
	kept, err := st.HeldEdit(ctx, gneiss, held.ID)
	require.NoError(t, err)
	assert.Contains(t, kept.Document, "Pump three", "what was dropped is still to be found")
}

// Fifty people change seven models at once, each from a state that is some
// edits old, and no two of them the same field: nothing is held, and all of it
// is there.
func TestFiftyEditorsOfDifferentFieldsHoldNothing(t *testing.T) {
	t.Parallel()
	st := testworld.Open(t, testworld.Bare)
	edits := &app.Edits{Store: st}
	models, err := demo.Models()
	require.NoError(t, err)
	models = models[:7]
	for _, m := range models {
		require.NoError(t, edits.Create(t.Context(), imre, m, "test"))
	}
	const people, each = 50, 6
	fields := []string{"label", "look", "place.front"}
	value := func(person, i int) string { return fmt.Sprintf("%d in", 100*person+i) }
	of := func(person, i int) (part int, field string) { // nobody else's
		n := person/len(models)*each + i
		return n / len(fields), fields[n%len(fields)]
	}
	var all sync.WaitGroup
	for person := range people {
		all.Add(1)
		go func() {
			defer all.Done()
			who := app.By{ID: uint64(person + 1), Name: fmt.Sprint("Person ", person)}
			m, from := models[person%len(models)], uint64(1)
			for i := range each {
				part, field := of(person, i)
				_, err := edits.Change(context.Background(), m.ID, from, who, func(d *plumbing.Model) (*edit.Done, error) {
					return edit.Set(d, edit.OfPart, m.Parts[part].ID, map[string]string{field: value(person, i)})
				})
				assert.NoError(t, err)
			}
		}()
	}
	all.Wait()
	for person := range people {
		_, rev, err := st.Current(t.Context(), models[person%len(models)].ID)
		require.NoError(t, err)
		m, err := rev.Read()
		require.NoError(t, err)
		for i := range each {
			part, field := of(person, i)
			p := m.Parts[part]
			got := map[string]string{"label": p.Label, "look": p.Look, "place.front": p.Place.Front.String()}[field]
			assert.Equal(t, value(person, i), got)
		}
	}
}

// What is written with an edit is written with it, or not at all.
func TestNothingOfAFailedEditIsKept(t *testing.T) {
	t.Parallel()
	st := open(t)
	edits := &app.Edits{Store: st}
	broken := errors.New("broken")
	_, err := edits.Change(t.Context(), gneiss, 1, app.By{Name: "Imre Valk"}, named("pump", "Pump one"), func(tx app.Tx) error {
		if err := tx.Audit(t.Context(), app.By{Name: "Imre Valk"}, "half done", gneiss, ""); err != nil {
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
	t.Parallel()
	st := open(t)
	lists := &app.Lists{Store: st, Edits: &app.Edits{Store: st}}
	var file strings.Builder
	file.WriteString("Line,From,To,Side,Size,Length\n")
	for i := range 40 {
		fmt.Fprintf(&file, "x%d,pump.out,fresh.fill,cold,,\n", i)
	}
	im, err := lists.Upload(t.Context(), gneiss, app.By{Name: "Odile Brandt"}, "list.csv", []byte(file.String()))
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
	t.Parallel()
	ctx := t.Context()
	s := new(app.Builds)
	get := func(name string) *app.Build {
		b, err := s.Get(ctx, gneiss, revision(t, pumpNamed(name)), "")
		require.NoError(t, err)
		return b
	}
	one := get("one")
	assert.Same(t, one, get("one"), "the same content is computed once")
	assert.NotSame(t, one, get("two"))
	each := s.Bytes() / 2
	most := 3 * each
	s = &app.Builds{Pool: &app.BuildPool{Most: most}}
	one = get("one")
	for i := range 20 {
		get(fmt.Sprint(i))
		assert.LessOrEqual(t, s.Bytes(), most+each/10)
	}
	assert.NotSame(t, one, get("one"), "it was let go")
}

// Whoever asks at the same time waits for one computation; who leaves does not
// stop it for the others.
func TestAPartIsComputedOnceForAllWhoAsk(t *testing.T) {
	t.Parallel()
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
