package main

import (
	"os"
	"path/filepath"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/crypto/bcrypt"

	"coldtap/internal/app"
	"coldtap/internal/mariadb"
	"coldtap/internal/store"
	"coldtap/internal/world"
)

// dataFolder is a place for private data that the server's own user gets to.
func dataFolder(t *testing.T) string {
	t.Helper()
	above, err := os.MkdirTemp("", "coldtap-keep")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(above, 0o755))
	t.Cleanup(func() { os.RemoveAll(above) })
	return filepath.Join(above, "db")
}

// onData opens the private database of a folder.
func onData(t *testing.T, dir string, work func(st *store.Store)) {
	t.Helper()
	dsn, stop, err := mariadb.Use(t.Context(), mariadb.Options{Dir: dir})
	require.NoError(t, err)
	defer func() { assert.NoError(t, stop()) }()
	st, err := store.Open(t.Context(), dsn)
	require.NoError(t, err)
	defer st.Close()
	work(st)
}

// Backed up while the server runs, brought into a new folder, and signed in to with a
// password from the command line: as the README says it.
func TestBackUpAndRestoreByCommand(t *testing.T) {
	from, to, file := dataFolder(t), dataFolder(t), filepath.Join(t.TempDir(), "cold-tap.zip")
	var slugs []string
	onData(t, from, func(st *store.Store) {
		require.NoError(t, world.Load(t.Context(), st, bcrypt.MinCost))
		out, err := runs(t, "export", file, "--data", from)
		require.NoError(t, err)
		assert.Contains(t, out, "Backed up in "+file)
		rows, err := st.Models(t.Context())
		require.NoError(t, err)
		for _, m := range rows {
			slugs = append(slugs, m.Slug)
		}
	})
	require.NotEmpty(t, slugs)
	out, err := runs(t, "import", file, "--data", to)
	require.NoError(t, err)
	assert.Contains(t, out, "Nobody has a password yet")
	_, err = runs(t, "import", file, "--data", to)
	require.ErrorContains(t, err, "the database is not empty")
	_, err = runs(t, "export", file, "--data", to)
	require.ErrorContains(t, err, "is there already")
	_, err = runs(t, "password", "nobody", "--data", to)
	require.ErrorContains(t, err, `nobody signs in as "nobody"`)
	out, err = runs(t, "password", "imre", "--data", to)
	require.NoError(t, err)
	said := regexp.MustCompile(`with the password "([^"]+)"`).FindStringSubmatch(out)
	require.NotNil(t, said, out)
	onData(t, to, func(st *store.Store) {
		p, err := (&app.Accounts{Store: st}).SignIn(t.Context(), "imre", said[1], app.From{Address: "here"})
		require.NoError(t, err)
		assert.Equal(t, "Imre Valk", p.Name)
		for _, slug := range slugs {
			_, _, err := st.Current(t.Context(), slug)
			require.NoError(t, err)
		}
	})
}
