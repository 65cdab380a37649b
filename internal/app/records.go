// Package app is what people do with Cold Tap, apart from how it is shown and
// where it is kept: change, hold, merge, import, settle, set the house's rules,
// run accounts. Each of them is one transaction with its audit line in it.
package app

import (
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"coldtap/internal/core/merge"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/people"
)

// Errors that callers tell apart.
var (
	ErrNotFound = errors.New("not found")
	ErrStale    = errors.New("the model was changed by somebody else in the meantime")
	ErrExists   = errors.New("there is a model with this id already")
	ErrNoState  = errors.New("the model never had the state that this change started from; load the page again")
)

// KeepError says that something could not be read or written, with a reason that is for the log
// only.
type KeepError struct {
	What string
	Err  error
}

func (e *KeepError) Error() string { return e.What + ": " + e.Err.Error() }
func (e *KeepError) Unwrap() error { return e.Err }

// By is who does something: the account, and the name as it stands now. What
// is whose goes by the account; the zero id is the program itself, or somebody
// from before accounts were kept with what people did.
type By struct {
	ID   uint64
	Name string
}

// Is reports whether it is the same account.
func (b By) Is(other By) bool { return b.ID == other.ID && (b.ID != 0 || b.Name == other.Name) }

// ErrNothing says that there is nothing to undo or redo.
var ErrNothing = errors.New("there is nothing left to undo or redo")

// OthersError says that what would be taken back is somebody else's.
type OthersError struct {
	Person string // who did it
	Reason string // what it was
}

func (e OthersError) Error() string {
	return fmt.Sprintf("the last change is by %s: %s", e.Person, e.Reason)
}

// Model is a model's row: what lists and search need. Its document is in the
// revision with the same number.
type Model struct {
	ID        uint64
	Slug      string // the document's id
	Name      string
	Year      int
	Kind      string
	Revision  uint64 // number of the current revision
	CreatedAt time.Time
	UpdatedAt time.Time
}

// Revision is one state of a model's document. Rows are never changed.
type Revision struct {
	ID        uint64
	ModelID   uint64
	Number    uint64
	AuthorID  uint64
	Author    string
	Reason    string
	Document  string
	Hash      string // SHA-256 of the document
	Content   uint64 // number of the revision that first had this state
	Parent    uint64 // Content of the state it was made from, 0 for the first
	CreatedAt time.Time
}

// By is who made it.
func (r *Revision) By() By { return By{r.AuthorID, r.Author} }

// Read reads the revision's document, which was read strictly before it was
// kept.
func (r *Revision) Read() (*plumbing.Model, error) {
	return plumbing.ReadKept(r.Document)
}

// Held is an edit that came too late and waits for its author to merge or drop
// it. It is kept after that too, with what was lost.
type Held struct {
	ID        uint64
	ModelID   uint64
	Base      uint64 // revision it started from
	PersonID  uint64
	Person    string
	Reason    string
	Document  string
	CreatedAt time.Time
	SettledAt *time.Time // nil while it waits
	SettledBy string
	Outcome   string // Merged or Dropped
	Lost      string // []merge.Conflict as JSON: values of it that did not go in
}

// What became of a held edit.
const (
	Merged  = "merged"
	Dropped = "dropped"
)

// By is whose it is.
func (h *Held) By() By { return By{h.PersonID, h.Person} }

// Conflicts are the values of a settled edit that did not go in.
func (h *Held) Conflicts() (list []merge.Conflict) {
	if h.Lost != "" {
		_ = json.Unmarshal([]byte(h.Lost), &list) // it was written by the program
	}
	return list
}

// Step is an undo or a redo: the states it led from and to.
type Step struct {
	Row           *Model
	Before, After *Revision
}

// TableName is the table of held edits.
func (Held) TableName() string { return "held" }

// HouseRule is a choice of the manufacturer, for every model or for one.
type HouseRule struct {
	Scope     string `gorm:"primaryKey"` // slug of the model; "" for the house
	Rule      string `gorm:"primaryKey"`
	Value     string // "" where the choice was taken back
	Person    string
	Why       string
	Version   int // counts the times the rule was set in its scope, from 1
	UpdatedAt time.Time
}

// Import is a spreadsheet that is being brought in: the file as it came, and
// what has been done with it so far.
type Import struct {
	ID        uint64
	ModelID   uint64
	Person    string
	FileName  string
	File      []byte
	State     string // JSON
	CreatedAt time.Time
	UpdatedAt time.Time
}

// Photo is a picture of a part, or of a panel with several, with a mark for each.
type Photo struct {
	ID        uint64
	ModelID   uint64
	Part      string // that it was taken of; "" for a panel
	Person    string
	Caption   string
	Image     []byte // JPEG
	Width     int    // points; 0 where it is not known
	Height    int
	Marks     []PhotoMark
	CreatedAt time.Time
	UpdatedAt time.Time
	RemovedAt *time.Time // nil while it is shown
	RemovedBy string
}

// PhotoMark is where a part is on a picture, in shares of its width and height.
type PhotoMark struct {
	PhotoID uint64 `gorm:"primaryKey"`
	Part    string `gorm:"primaryKey"`
	X, Y    float64
}

// Mark is where a part is on the picture; nil where it has no mark.
func (p *Photo) Mark(part string) *PhotoMark {
	for i := range p.Marks {
		if p.Marks[i].Part == part {
			return &p.Marks[i]
		}
	}
	return nil
}

// Person is an account.
type Person struct {
	ID        uint64
	Login     string
	Name      string
	Role      people.Role
	Password  string // hash
	DealerID  uint64 // that they belong to; 0 for none
	Active    bool
	Epoch     int64 // sessions that began in an earlier one have ended
	CreatedAt time.Time
	UpdatedAt time.Time
}

// By is the person as who does something.
func (p *Person) By() By { return By{p.ID, p.Name} }

// TableName is the table of accounts.
func (Person) TableName() string { return "people" }

// Note is a row of the audit trail: who did what to what.
type Note struct {
	ID        uint64
	PersonID  uint64
	Person    string
	Action    string
	Subject   string
	Detail    string
	CreatedAt time.Time
}

// TableName is the table of the audit trail.
func (Note) TableName() string { return "audit" }
