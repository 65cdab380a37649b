package backup_test

import (
	"bytes"
	"context"
	"errors"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"testing"
	"testing/fstest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/backup"
)

// memory takes files and gives them back.
type memory struct{ fstest.MapFS }

type memoryFile struct {
	bytes.Buffer
	m    memory
	name string
}

func (f *memoryFile) Close() error {
	f.m.MapFS[f.name] = &fstest.MapFile{Data: f.Bytes()}
	return nil
}

func (m memory) Create(name string) (io.WriteCloser, error) {
	return &memoryFile{m: m, name: name}, nil
}

// rows are a source and a sink of one database.
type rows struct {
	tables []backup.Table
	cells  map[string][][]backup.Cell
}

func (r *rows) Tables() []backup.Table { return r.tables }

func (r *rows) Each(_ context.Context, t backup.Table, row func([]backup.Cell) error) error {
	for _, cells := range r.cells[t.Name] {
		if err := row(cells); err != nil {
			return err
		}
	}
	return nil
}

func (r *rows) Insert(_ context.Context, t backup.Table, row []backup.Cell) error {
	if r.cells == nil {
		r.cells = map[string][][]backup.Cell{}
	}
	r.cells[t.Name] = append(r.cells[t.Name], append([]backup.Cell(nil), row...))
	return nil
}

func said(values ...string) (list []backup.Cell) {
	for _, v := range values {
		list = append(list, backup.Cell{Bytes: []byte(v)})
	}
	return list
}

func sample() *rows {
	notes := said("1", "7", "a, \"b\"\r\nc\r", "")
	notes[3] = backup.Cell{Null: true, Bytes: nil}
	return &rows{
		tables: []backup.Table{
			{Name: "models", Columns: []backup.Column{{Name: "id", Key: true}, {Name: "slug"}}},
			{Name: "notes", Columns: []backup.Column{{Name: "id", Key: true}, {Name: "model_id"}, {Name: "text", File: true},
				{Name: "gone_at", Null: true}}},
		},
		cells: map[string][][]backup.Cell{"models": {said("7", "gneiss"), said("8", "")},
			"notes": {notes, said("2", "7", "a, \"b\"\r\nc\r", "2027"), said("3", "8", "{\"x\": 1}", "x")}},
	}
}

func TestWhatIsWrittenIsRead(t *testing.T) {
	m := memory{fstest.MapFS{}}
	from := sample()
	require.NoError(t, backup.Write(t.Context(), m, from, backup.Manifest{Schema: 3}))
	a, err := backup.Open(m.MapFS)
	require.NoError(t, err)
	to := &rows{tables: from.tables}
	require.NoError(t, a.Read(t.Context(), to, from.tables))
	for name, want := range from.cells {
		require.Len(t, to.cells[name], len(want))
		for i, row := range want {
			for j, cell := range row {
				assert.Equal(t, string(cell.Bytes), string(to.cells[name][i][j].Bytes), "%s %d %d", name, i, j)
				assert.Equal(t, cell.Null, to.cells[name][i][j].Null, "%s %d %d", name, i, j)
			}
		}
	}
	assert.Contains(t, m.MapFS, "models/gneiss/notes/1-text.txt")
	assert.NotContains(t, m.MapFS, "models/gneiss/notes/2-text.txt", "what is alike is kept once")
}

// A row or file that is other than it was written is told, whichever it is.
func TestEachFileIsChecked(t *testing.T) {
	whole := memory{fstest.MapFS{}}
	from := sample()
	require.NoError(t, backup.Write(t.Context(), whole, from, backup.Manifest{}))
	for name := range whole.MapFS {
		damaged := fstest.MapFS{}
		for n, f := range whole.MapFS {
			damaged[n] = &fstest.MapFile{Data: f.Data}
		}
		damaged[name].Data = append(bytes.Clone(damaged[name].Data), ' ')
		a, err := backup.Open(damaged)
		if err == nil {
			err = a.Read(t.Context(), &rows{}, from.tables)
		}
		var d *backup.DamagedError
		require.ErrorAs(t, err, &d, name)
	}
}

// A back-up is in its place when it is whole, and takes nobody's place.
func TestAPlaceIsFilledAtTheEnd(t *testing.T) {
	for _, name := range []string{"folder", "file.zip"} {
		at := filepath.Join(t.TempDir(), name)
		p, err := backup.NewPlace(at, time.Now())
		require.NoError(t, err)
		_, err = p.Create("../out")
		require.Error(t, err)
		f, err := p.Create("deep/in")
		require.NoError(t, err)
		_, err = io.WriteString(f, "x")
		require.NoError(t, err)
		require.NoError(t, f.Close())
		require.NoFileExists(t, at)
		require.NoError(t, p.Finish())
		_, err = backup.NewPlace(at, time.Now())
		require.ErrorContains(t, err, "is there already")
		files, done, err := backup.OpenFiles(at)
		require.NoError(t, err)
		b, err := fs.ReadFile(files, "deep/in")
		require.NoError(t, err)
		assert.Equal(t, "x", string(b))
		require.NoError(t, done())

		q, err := backup.NewPlace(at+".other.zip", time.Now())
		require.NoError(t, err)
		q.Leave()
		left, err := filepath.Glob(at + ".other*")
		require.NoError(t, err)
		assert.Empty(t, left)
	}
	_, _, err := backup.OpenFiles(filepath.Join(t.TempDir(), "none.zip"))
	require.ErrorIs(t, err, os.ErrNotExist)
}

// Whatever stands in the files, reading ends with rows or an error of words.
func FuzzRead(f *testing.F) {
	whole := memory{fstest.MapFS{}}
	from := sample()
	if err := backup.Write(context.Background(), whole, from, backup.Manifest{}); err != nil {
		f.Fatal(err)
	}
	get := func(name string) []byte { return whole.MapFS[name].Data }
	f.Add(get("coldtap.json"), get("SHA256SUMS"), get("tables/notes.csv"))
	f.Fuzz(func(t *testing.T, manifest, checksums, notes []byte) {
		files := fstest.MapFS{}
		for n, file := range whole.MapFS {
			files[n] = file
		}
		files["coldtap.json"] = &fstest.MapFile{Data: manifest}
		files["SHA256SUMS"] = &fstest.MapFile{Data: checksums}
		files["tables/notes.csv"] = &fstest.MapFile{Data: notes}
		a, err := backup.Open(files)
		if err != nil {
			return
		}
		to := &rows{}
		err = a.Read(t.Context(), to, from.tables)
		if err == nil && !bytes.Equal(notes, get("tables/notes.csv")) && len(to.cells["notes"]) > 0 {
			t.Fatal("rows that were not written were read")
		}
		if err != nil && errors.Is(err, fs.ErrInvalid) {
			t.Fatal(err)
		}
	})
}
