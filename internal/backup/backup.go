// Package backup writes everything that a database holds as open files, and
// reads it back: each table as a CSV file, each document, picture and list as a
// file of its own, a manifest, and checksums as sha256sum writes them. It knows
// no table by name; what a database has, a Source tells.
package backup

import (
	"context"
	"errors"
	"fmt"
	"regexp"
	"time"
)

// Format is the version of the layout of the files.
const Format = 1

// Names of the files that are there once.
const (
	ManifestName  = "coldtap.json"
	ChecksumsName = "SHA256SUMS"
)

// Column is a column of a table.
type Column struct {
	Name string
	Key  bool // it is of the table's key
	File bool // its values are files of their own
	Null bool // it may be without a value
	Time bool // its values are times, which RFC 3339 writes
}

// Table is a table with its columns in their order, the key first.
type Table struct {
	Name    string
	Columns []Column
}

// Cell is a value of a row: text, or the bytes of a file.
type Cell struct {
	Null  bool
	Bytes []byte
}

// Source gives the rows of all tables as they were at one moment.
type Source interface {
	Tables() []Table
	// Each hands over the rows of a table in the order of its key. The cells hold
	// until row returns.
	Each(ctx context.Context, t Table, row func([]Cell) error) error
}

// Sink takes rows. Those of a table come one after the other.
type Sink interface {
	Insert(ctx context.Context, t Table, row []Cell) error
}

// Manifest says what a back-up is.
type Manifest struct {
	Format    int             `json:"format"`
	Schema    int64           `json:"schema"`    // version of the tables
	Made      time.Time       `json:"made"`      // UTC
	Passwords bool            `json:"passwords"` // the hashes of passwords are in it
	Tables    []ManifestTable `json:"tables"`
}

// ManifestTable is a table of a back-up.
type ManifestTable struct {
	Name string `json:"name"`
	File string `json:"file"`
	Rows int64  `json:"rows"`
}

// A DamagedError says which file of a back-up is not as it was written, and why.
type DamagedError struct{ File, Why string }

func (e *DamagedError) Error() string {
	return fmt.Sprintf("the back-up is damaged: %s: %s", e.File, e.Why)
}

func damaged(file, format string, args ...any) error {
	return &DamagedError{file, fmt.Sprintf(format, args...)}
}

// ErrNewer says that a back-up was made by a program that knows more.
var ErrNewer = errors.New("the back-up was made by a newer Cold Tap; bring it in with that version or a later one")

// word is a name of a table or column, which stands in files and statements.
var word = regexp.MustCompile(`^[a-z][a-z0-9_]{0,63}$`)
