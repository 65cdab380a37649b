package backup

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/csv"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"os"
	"path"
	"slices"
	"strings"
	"unicode/utf8"
)

// Files takes files one after the other.
type Files interface {
	Create(name string) (io.WriteCloser, error)
}

// Write writes everything that a source has. A table is written while it is
// read; what is kept meanwhile is a checksum for each file and the names of the
// models.
func Write(ctx context.Context, to Files, from Source, m Manifest) error {
	w := &writer{to: to, models: map[string]string{}, have: map[[sha256.Size]byte]string{}}
	m.Format, m.Tables = Format, nil
	for _, t := range from.Tables() {
		n, err := w.table(ctx, from, t)
		if err != nil {
			return fmt.Errorf("write %s: %w", t.Name, err)
		}
		m.Tables = append(m.Tables, ManifestTable{t.Name, tableFile(t.Name), n})
	}
	text, err := json.MarshalIndent(m, "", "  ")
	if err != nil {
		return err
	}
	if err := w.file(ManifestName, append(text, '\n')); err != nil {
		return err
	}
	slices.Sort(w.sums)
	f, err := to.Create(ChecksumsName)
	if err != nil {
		return err
	}
	if _, err := io.WriteString(f, strings.Join(w.sums, "")); err != nil {
		f.Close()
		return err
	}
	return f.Close()
}

type writer struct {
	to     Files
	sums   []string                     // lines of the file of checksums
	models map[string]string            // slug of each model by its id
	have   map[[sha256.Size]byte]string // files that were written, by what is in them
}

func tableFile(name string) string { return "tables/" + name + ".csv" }

// table writes a table. Its own file comes after the files of its values: an
// archive takes one at a time.
func (w *writer) table(ctx context.Context, from Source, t Table) (rows int64, err error) {
	later, err := os.CreateTemp("", "coldtap-export")
	if err != nil {
		return 0, err
	}
	defer os.Remove(later.Name())
	defer later.Close()
	out := csv.NewWriter(later)
	line := make([]string, len(t.Columns))
	for i, c := range t.Columns {
		line[i] = c.Name
	}
	if err := out.Write(line); err != nil {
		return 0, err
	}
	err = from.Each(ctx, t, func(cells []Cell) error {
		rows++
		if t.Name == "models" {
			w.models[text(t, cells, "id")] = text(t, cells, "slug")
		}
		for i, c := range t.Columns {
			if line[i] = string(cells[i].Bytes); !c.File || len(cells[i].Bytes) == 0 {
				continue
			}
			var err error
			if line[i], err = w.value(t, cells, i); err != nil {
				return err
			}
		}
		return out.Write(line)
	})
	if err != nil {
		return 0, err
	}
	if out.Flush(); out.Error() != nil {
		return 0, out.Error()
	}
	if _, err := later.Seek(0, io.SeekStart); err != nil {
		return 0, err
	}
	f, err := w.to.Create(tableFile(t.Name))
	if err != nil {
		return 0, err
	}
	sum := sha256.New()
	if _, err := io.Copy(io.MultiWriter(f, sum), later); err != nil {
		f.Close()
		return 0, err
	}
	w.sum(tableFile(t.Name), sum.Sum(nil))
	return rows, f.Close()
}

// value writes a value as a file, once for all that are alike, and gives its name.
func (w *writer) value(t Table, cells []Cell, i int) (string, error) {
	b := cells[i].Bytes
	dir := t.Name
	if slug, ok := w.models[text(t, cells, "model_id")]; ok {
		dir = "models/" + slug + "/" + t.Name
	}
	alike := sha256.Sum256(append([]byte(dir+"\x00"), b...))
	if name, ok := w.have[alike]; ok {
		return name, nil
	}
	number := text(t, cells, "number")
	if number == "" {
		number = text(t, cells, t.Columns[0].Name)
	}
	name := path.Join(dir, number+"-"+t.Columns[i].Name+ending(b))
	w.have[alike] = name
	return name, w.file(name, b)
}

func (w *writer) file(name string, b []byte) error {
	f, err := w.to.Create(name)
	if err != nil {
		return err
	}
	if _, err := f.Write(b); err != nil {
		f.Close()
		return err
	}
	sum := sha256.Sum256(b)
	w.sum(name, sum[:])
	return f.Close()
}

// sum notes a checksum as sha256sum writes it.
func (w *writer) sum(name string, sum []byte) {
	w.sums = append(w.sums, hex.EncodeToString(sum)+"  "+name+"\n")
}

// text is a value of a row by the name of its column, "" where there is none.
func text(t Table, cells []Cell, column string) string {
	i := slices.IndexFunc(t.Columns, func(c Column) bool { return c.Name == column })
	if i < 0 {
		return ""
	}
	return string(cells[i].Bytes)
}

// ending is what a file's name ends with, so that other programs open it.
func ending(b []byte) string {
	trimmed := bytes.TrimSpace(b)
	if len(trimmed) > 0 && (trimmed[0] == '{' || trimmed[0] == '[') {
		return ".json"
	}
	switch kind, _, _ := strings.Cut(http.DetectContentType(b), ";"); kind {
	case "image/jpeg":
		return ".jpg"
	case "image/png":
		return ".png"
	case "image/webp":
		return ".webp"
	case "application/zip":
		return ".zip"
	}
	if utf8.Valid(b) {
		return ".txt"
	}
	return ".bin"
}
