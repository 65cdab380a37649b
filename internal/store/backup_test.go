package store_test

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/crypto/bcrypt"

	"coldtap/demo"
	"coldtap/internal/app"
	"coldtap/internal/backup"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/store"
	"coldtap/internal/testdb"
	"coldtap/internal/testworld"
	"coldtap/internal/world"
)

// exported backs a store up and opens the back-up.
func exported(t testing.TB, s *store.Store, name string, passwords bool) (*backup.Archive, fs.FS) {
	t.Helper()
	at := filepath.Join(t.TempDir(), name)
	place, err := backup.NewPlace(at, time.Now())
	require.NoError(t, err)
	require.NoError(t, s.Export(context.Background(), place, passwords, time.Date(2027, 1, 31, 8, 15, 0, 0, time.UTC)))
	require.NoError(t, place.Finish())
	files, done, err := backup.OpenFiles(at)
	require.NoError(t, err)
	t.Cleanup(func() { done() })
	a, err := backup.Open(files)
	require.NoError(t, err)
	return a, files
}

func sums(t testing.TB, files fs.FS) string {
	t.Helper()
	b, err := fs.ReadFile(files, backup.ChecksumsName)
	require.NoError(t, err)
	return string(b)
}

// lived gives a store what people do in it: the demo world, edits, an undo, held edits, a
// rule, a list, photographs with marks.
func lived(t testing.TB, s *store.Store) {
	t.Helper()
	ctx := context.Background()
	require.NoError(t, (&app.Accounts{Store: s, Cost: bcrypt.MinCost}).SignUp(ctx, demo.People()))
	require.NoError(t, world.Load(ctx, s, bcrypt.MinCost))
	slug := "gneiss-24-2027"
	e := &app.Edits{Store: s}
	long := func(text string) app.Operation {
		return func(m *plumbing.Model) (*edit.Done, error) {
			return edit.Set(m, edit.OfLine, "trunk-1", map[string]string{"length": text})
		}
	}
	other := app.By{ID: 2, Name: "Somebody Else"}
	_, err := e.Change(app.WithRequest(ctx, "0123456789abcdef"), slug, 1, imre, long("9 ft"))
	require.NoError(t, err)
	_, err = e.Change(ctx, slug, 1, other, long("10 ft"))
	require.ErrorAs(t, err, new(app.HeldError))
	_, err = e.Undo(ctx, slug, 2, imre, false)
	require.NoError(t, err)
	photos := &app.Photos{Store: s}
	p := &app.Photo{Part: "pump", Caption: "Behind the “panel”, line 1\nline 2", Image: []byte("\xff\xd8\xff\x00\x01"),
		Person: imre.Name}
	require.NoError(t, photos.Add(ctx, slug, imre, p))
	require.NoError(t, photos.Mark(ctx, slug, imre, app.PhotoMark{PhotoID: p.ID, Part: "pump", X: 0.1, Y: 1.0 / 3}))
	require.NoError(t, world.Try(ctx, s))
	require.NoError(t, world.Drill(ctx, s))
	unit, err := s.UnitBySerial(ctx, "G242700123")
	require.NoError(t, err)
	trials, err := s.TrialsOfUnit(ctx, unit.ID)
	require.NoError(t, err)
	require.NoError(t, s.AddTrialPhoto(ctx, &app.TrialPhoto{TrialID: trials[0].ID, Mark: "photo-of-pump",
		Mime: "image/jpeg",
		Body: []byte("\xff\xd8\xff\x00\x02")}))
	require.NoError(t, s.AddCorrection(ctx, &app.Correction{TrialID: trials[0].ID, ModelID: unit.ModelID, Slug: slug,
		Cause: "overrun", Place: "rule", What: "overrun", Before: "5 fl oz", After: "7 fl oz", State: app.CorrectionAsked,
		ByID:   1,
		ByName: imre.Name}))
	require.NoError(t, s.AddImport(ctx, slug, &app.Import{FileName: "list.csv", Person: imre.Name,
		File: []byte("a;b\n1;2\n"), State: `{"rows": []}`}))
}

// What comes back is what was there: every file of a second back-up is byte for
// byte that of the first, as a folder and as an archive.
func TestABackUpComesBackWhole(t *testing.T) {
	t.Parallel()
	for _, name := range []string{"folder", "file.zip"} {
		t.Run(name, func(t *testing.T) {
			s := open(t, testworld.Bare.Copy(t))
			lived(t, s)
			a, files := exported(t, s, name, true)
			dsn := testdb.DSN(t)
			require.NoError(t, store.Import(t.Context(), dsn, a))
			back := open(t, dsn)
			_, again := exported(t, back, name, true)
			require.Equal(t, sums(t, files), sums(t, again))
			first, err := fs.ReadFile(files, "models/gneiss-24-2027/revisions/1-document.json")
			require.NoError(t, err)
			_, err = plumbing.Read(strings.NewReader(string(first)))
			require.NoError(t, err, "a document of a back-up is a model file")

			// People go on where they were: ids, undo, held edits, passwords.
			_, err = (&app.Edits{Store: back}).Redo(t.Context(), "gneiss-24-2027", 3, imre, false)
			require.NoError(t, err)
			held, err := back.HeldEdits(t.Context(), "gneiss-24-2027", app.By{ID: 2, Name: "Somebody Else"})
			require.NoError(t, err)
			require.Len(t, held, 1)
			_, err = (&app.Accounts{Store: back}).SignIn(t.Context(), "imre", demo.People()[0].Password,
				app.From{Address: "here"})
			require.NoError(t, err)

			// A database that has something in it is left as it is.
			err = store.Import(t.Context(), dsn, a)
			var full *store.FullError
			require.ErrorAs(t, err, &full)
		})
	}
}

// Without being asked for, no hash of a password leaves the database.
func TestABackUpHasNoPasswords(t *testing.T) {
	t.Parallel()
	s := open(t, testworld.Bare.Copy(t))
	lived(t, s)
	_, files := exported(t, s, "folder", false)
	all := 0
	require.NoError(t, fs.WalkDir(files, ".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		all++
		b, err := fs.ReadFile(files, path)
		assert.NotContains(t, string(b), "$2a$", path)
		return err
	}))
	assert.Greater(t, all, 10)
}

// Each table is in a back-up, or is known to be of the moment only: a table that
// is added later is not forgotten.
func TestEveryTableIsBackedUp(t *testing.T) {
	t.Parallel()
	dsn := testdb.DSN(t)
	s := open(t, dsn)
	a, _ := exported(t, s, "folder", true)
	have := map[string]bool{}
	for _, m := range a.Manifest.Tables {
		have[m.Name] = true
	}
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	rows, err := db.QueryContext(t.Context(), "SHOW TABLES")
	require.NoError(t, err)
	defer rows.Close()
	momentary := map[string]bool{"sessions": true, "sign_in_tries": true, "answers": true, "start_lock": true,
		"drawings": true, "known_browsers": true, "reader_tries": true,
		"goose_db_version": true}
	n := 0
	for rows.Next() {
		var name string
		require.NoError(t, rows.Scan(&name))
		assert.True(t, have[name] != momentary[name], name)
		n++
	}
	require.NoError(t, rows.Err())
	assert.Greater(t, n, 8)
}

// A back-up that was cut, changed or made by a later program is refused in words,
// and leaves an empty database that takes a whole one.
func TestADamagedBackUpIsRefused(t *testing.T) {
	t.Parallel()
	s := open(t, testworld.Bare.Copy(t))
	lived(t, s)
	for name, damage := range map[string]func(dir string) error{
		"not as it was written": func(dir string) error {
			return os.WriteFile(filepath.Join(dir, "models/gneiss-24-2027/revisions/1-document.json"), []byte("{}"), 0o600)
		},
		"it is missing": func(dir string) error { return os.Remove(filepath.Join(dir, "tables/photos.csv")) },
		"was not written to its end": func(dir string) error {
			return os.Remove(filepath.Join(dir, "SHA256SUMS"))
		},
	} {
		t.Run(name, func(t *testing.T) {
			at := filepath.Join(t.TempDir(), "back")
			place, err := backup.NewPlace(at, time.Now())
			require.NoError(t, err)
			require.NoError(t, s.Export(t.Context(), place, true, time.Now()))
			require.NoError(t, place.Finish())
			require.NoError(t, damage(at))
			dsn := testdb.DSN(t)
			a, err := backup.Open(os.DirFS(at))
			if err == nil {
				err = store.Import(t.Context(), dsn, a)
			}
			var d *backup.DamagedError
			require.ErrorAs(t, err, &d)
			require.ErrorContains(t, err, name)
			whole, _ := exported(t, s, "whole", true)
			require.NoError(t, store.Import(t.Context(), dsn, whole))
		})
	}
	whole, _ := exported(t, s, "whole", true)
	whole.Manifest.Schema += 1000
	require.ErrorIs(t, store.Import(t.Context(), testdb.DSN(t), whole), backup.ErrNewer)
	_, err := backup.Open(os.DirFS(t.TempDir()))
	require.ErrorContains(t, err, "this is no back-up")
}

// A back-up that is made while people work shows one moment: every model's
// newest state is among its states, and no half of a change is there. 500 models.
func TestABackUpOfManyModelsWhilePeopleWork(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("500 models")
	}
	s := open(t, testworld.Bare.Copy(t))
	models, err := demo.Models()
	require.NoError(t, err)
	const many = 500
	ids := make([]string, many)
	for i := range many {
		m := *models[i%len(models)]
		ids[i] = fmt.Sprintf("%s-%03d", m.ID, i)
		m.ID = ids[i]
		_, err := s.Create(t.Context(), &m, imre, "made")
		require.NoError(t, err)
	}
	ctx, stop := context.WithCancel(t.Context())
	var people sync.WaitGroup
	var done [4]int
	for k := range done {
		people.Go(func() {
			e := &app.Edits{Store: s}
			for i := k; ctx.Err() == nil; i += len(done) {
				length := fmt.Sprintf("%d ft", 5+i%90)
				_, err := e.Change(ctx, ids[i%many], 1, imre, func(m *plumbing.Model) (*edit.Done, error) {
					return edit.Set(m, edit.OfLine, m.Lines[0].ID, map[string]string{"length": length})
				})
				if err != nil && !errors.Is(err, context.Canceled) && ctx.Err() == nil {
					assert.NoError(t, err)
					return
				}
				done[k]++
			}
		})
	}
	a, files := exported(t, s, "many.zip", false)
	stop()
	people.Wait()
	require.Positive(t, done[0]+done[1]+done[2]+done[3], "people did work meanwhile")

	dsn := testdb.DSN(t)
	require.NoError(t, store.Import(t.Context(), dsn, a))
	back := open(t, dsn)
	rows, err := back.Models(t.Context())
	require.NoError(t, err)
	require.Len(t, rows, many)
	for _, m := range rows {
		_, rev, err := back.Current(t.Context(), m.Slug)
		require.NoError(t, err, m.Slug)
		was, err := s.StateOf(t.Context(), m.Slug, m.Revision)
		require.NoError(t, err)
		require.Equal(t, was.Hash, rev.Hash)
		list, err := back.Revisions(t.Context(), m.Slug)
		require.NoError(t, err)
		require.Len(t, list, int(m.Revision), "each state up to the newest, and none after it")
	}
	_, again := exported(t, back, "again.zip", false)
	require.Equal(t, sums(t, files), sums(t, again))
}
