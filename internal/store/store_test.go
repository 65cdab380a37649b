package store_test

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/app"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/store"
	"coldtap/internal/testdb"
	"coldtap/internal/testworld"
)

func open(t *testing.T, dsn string) *store.Store {
	t.Helper()
	s, err := store.Open(t.Context(), dsn)
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	return s
}

func gneiss(t *testing.T) *plumbing.Model {
	t.Helper()
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	return m
}

func TestModelsAreKeptByteForByte(t *testing.T) {
	t.Parallel()
	s := open(t, testworld.Bare.Copy(t))
	doc := gneiss(t).WithNumbers()
	_, err := s.Create(t.Context(), doc, app.By{Name: "Imre Valk"}, "first state")
	require.NoError(t, err)
	row, rev, err := s.Current(t.Context(), doc.ID)
	require.NoError(t, err)
	assert.Equal(t, uint64(1), row.Revision)
	var b bytes.Buffer
	require.NoError(t, plumbing.Write(&b, doc))
	assert.Equal(t, b.String(), rev.Document)
	got, err := rev.Read()
	require.NoError(t, err)
	assert.Equal(t, doc, got)
}

func TestRevisionsAreAppendedAndStaleOnesRefused(t *testing.T) {
	t.Parallel()
	s := open(t, testworld.Bare.Copy(t))
	doc := gneiss(t)
	_, err := s.Create(t.Context(), doc, app.By{Name: "Imre Valk"}, "first state")
	require.NoError(t, err)
	doc.Name = "Gneiss 24 X"
	row, _, err := s.Save(t.Context(), doc, 1, app.By{Name: "Imre Valk"}, "renamed")
	require.NoError(t, err)
	assert.Equal(t, uint64(2), row.Revision)

	doc.Name = "Gneiss 24 Y"
	_, _, err = s.Save(t.Context(), doc, 1, app.By{Name: "Odile Brandt"}, "also renamed")
	require.ErrorIs(t, err, app.ErrStale)

	list, err := s.Revisions(t.Context(), doc.ID)
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Equal(t, "renamed", list[0].Reason)
	row, _, err = s.Current(t.Context(), doc.ID)
	require.NoError(t, err)
	assert.Equal(t, "Gneiss 24 X", row.Name)
}

func TestMissingAndDoubleModels(t *testing.T) {
	t.Parallel()
	s := open(t, testworld.Bare.Copy(t))
	_, _, err := s.Current(t.Context(), "nothing")
	require.ErrorIs(t, err, app.ErrNotFound)
	_, err = s.Create(t.Context(), gneiss(t), app.By{Name: "a"}, "b")
	require.NoError(t, err)
	_, err = s.Create(t.Context(), gneiss(t), app.By{Name: "a"}, "b")
	require.ErrorIs(t, err, app.ErrExists)
}

func TestOpenAgainKeepsWhatIsThere(t *testing.T) {
	t.Parallel()
	dsn := testdb.DSN(t)
	_, err := open(t, dsn).Create(t.Context(), gneiss(t), app.By{Name: "a"}, "b")
	require.NoError(t, err)
	list, err := open(t, dsn).Models(t.Context())
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, "Gneiss 24", list[0].Name)
}
