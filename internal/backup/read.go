package backup

import (
	"bufio"
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/csv"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"slices"
	"strings"
)

// Archive is a back-up that is read.
type Archive struct {
	Manifest Manifest
	files    fs.FS
	sums     map[string]string
}

// manifestMost is how long a manifest can be, in bytes.
const manifestMost = 1 << 20

// Open reads what a back-up is.
func Open(files fs.FS) (*Archive, error) {
	a := &Archive{files: files}
	f, err := files.Open(ManifestName)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, fmt.Errorf("this is no back-up: there is no %s in it", ManifestName)
	}
	if err != nil {
		return nil, err
	}
	defer f.Close()
	b, err := io.ReadAll(io.LimitReader(f, manifestMost))
	if err != nil {
		return nil, err
	}
	if err := json.Unmarshal(b, &a.Manifest); err != nil {
		return nil, damaged(ManifestName, "%v", err)
	}
	if a.Manifest.Format > Format {
		return nil, ErrNewer
	}
	for _, t := range a.Manifest.Tables {
		if !word.MatchString(t.Name) || t.File != tableFile(t.Name) {
			return nil, damaged(ManifestName, "%q is no table", t.Name)
		}
	}
	if err := a.checksums(); err != nil {
		return nil, err
	}
	return a, a.check(ManifestName, b)
}

func (a *Archive) checksums() error {
	f, err := a.files.Open(ChecksumsName)
	if err != nil {
		return damaged(ChecksumsName, "it is missing, so the back-up was not written to its end")
	}
	defer f.Close()
	a.sums = map[string]string{}
	for lines := bufio.NewScanner(f); lines.Scan(); {
		sum, name, ok := strings.Cut(lines.Text(), "  ")
		if !ok {
			return damaged(ChecksumsName, "%q is no checksum", lines.Text())
		}
		a.sums[name] = sum
	}
	return nil
}

func (a *Archive) check(name string, b []byte) error {
	if sum := sha256.Sum256(b); a.sums[name] != hex.EncodeToString(sum[:]) {
		return damaged(name, "it is not as it was written")
	}
	return nil
}

// Read hands all rows over to a sink. The tables that it may take, with their
// columns, are given; those of the back-up that are not among them are refused.
func (a *Archive) Read(ctx context.Context, to Sink, tables []Table) error {
	for _, m := range a.Manifest.Tables {
		i := slices.IndexFunc(tables, func(t Table) bool { return t.Name == m.Name })
		if i < 0 {
			return damaged(ManifestName, "there is no table %q", m.Name)
		}
		if err := a.table(ctx, to, tables[i], m); err != nil {
			return err
		}
	}
	return nil
}

func (a *Archive) table(ctx context.Context, to Sink, t Table, m ManifestTable) error {
	f, err := a.files.Open(m.File)
	if err != nil {
		return damaged(m.File, "it is missing")
	}
	defer f.Close()
	sum := sha256.New()
	whole := io.TeeReader(f, sum)
	in := csv.NewReader(whole)
	in.ReuseRecord = true
	head, err := in.Read()
	if err != nil {
		return damaged(m.File, "%v", err)
	}
	if t, err = asIn(t, head); err != nil {
		return damaged(m.File, "%v", err)
	}
	row := make([]Cell, len(t.Columns))
	var rows int64
	for ; ; rows++ {
		line, err := in.Read()
		if err == io.EOF {
			break
		}
		if err != nil {
			return damaged(m.File, "%v", err)
		}
		for i, c := range t.Columns {
			row[i] = Cell{Null: c.Null && line[i] == "", Bytes: []byte(line[i])}
			if c.File && line[i] != "" {
				if row[i].Bytes, err = a.value(line[i]); err != nil {
					return err
				}
			}
		}
		if err := to.Insert(ctx, t, row); err != nil {
			return fmt.Errorf("%s, row %d: %w", m.File, rows+1, err)
		}
	}
	if _, err := io.Copy(io.Discard, whole); err != nil {
		return err
	}
	if a.sums[m.File] != hex.EncodeToString(sum.Sum(nil)) {
		return damaged(m.File, "it is not as it was written")
	}
	if rows != m.Rows {
		return damaged(m.File, "it has %d rows instead of %d", rows, m.Rows)
	}
	return nil
}

// asIn is a table with the columns that a head names.
func asIn(t Table, head []string) (Table, error) {
	as := Table{Name: t.Name}
	for _, name := range head {
		i := slices.IndexFunc(t.Columns, func(c Column) bool { return c.Name == name })
		if i < 0 || slices.ContainsFunc(as.Columns, func(c Column) bool { return c.Name == name }) {
			return t, fmt.Errorf("there is no column %q, or it is there twice", name)
		}
		as.Columns = append(as.Columns, t.Columns[i])
	}
	return as, nil
}

// value reads the file of a value.
func (a *Archive) value(name string) ([]byte, error) {
	f, err := a.files.Open(name)
	if err != nil {
		return nil, damaged(name, "it is missing")
	}
	defer f.Close()
	var b bytes.Buffer
	if _, err := b.ReadFrom(f); err != nil {
		return nil, damaged(name, "%v", err)
	}
	return b.Bytes(), a.check(name, b.Bytes())
}
