package app

import (
	"context"
	"time"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/people"
)

// Tx is what can be written in one transaction. Each service uses some of it.
type Tx interface {
	Transactor // within this transaction: a service can do its work as a part of others'
	ModelReader
	HeldReader
	AnswerReader
	PersonReader
	RuleReader
	PhotoReader
	ModelWriter
	AnswerWriter
	HeldWriter
	RuleWriter
	ColumnWriter
	ListWriter
	PhotoWriter
	PersonWriter
	TryKeeper
	PublishWriter
	ReaderWriter
	UnitWriter
	TrialWriter
	DrillWriter
	Auditor
}

// Transactor carries out some writes together, or none of them.
type Transactor interface {
	Do(ctx context.Context, work func(tx Tx) error) error
}

// ModelWriter adds states of models.
type ModelWriter interface {
	// LockRow is the row of a model that nobody else changes until the transaction ends.
	LockRow(ctx context.Context, slug string) (*Model, error)
	// Lock is Current of a model that nobody else changes until the transaction ends.
	Lock(ctx context.Context, slug string) (*Model, *Revision, error)
	Create(ctx context.Context, doc *plumbing.Model, by By, reason string) (*Model, error)
	// Save appends a state. It is refused with ErrStale unless from is the current one.
	Save(ctx context.Context, doc *plumbing.Model, from uint64, by By, reason string) (*Model, *Revision, error)
	// Undo puts the state before the last edit back, Redo makes it again. Both
	// are refused like Save, with ErrNothing where there is none, and with an
	// OthersError where somebody else did what would be taken back, unless
	// anyones says that this is meant.
	Undo(ctx context.Context, slug string, from uint64, by By, anyones bool) (*Step, error)
	Redo(ctx context.Context, slug string, from uint64, by By, anyones bool) (*Step, error)
}

// ModelReader reads models and their states.
type ModelReader interface {
	Models(ctx context.Context) ([]Model, error)
	Current(ctx context.Context, slug string) (*Model, *Revision, error)
	// Head is Current without the document.
	Head(ctx context.Context, slug string) (*Model, *Revision, error)
	StateOf(ctx context.Context, slug string, number uint64) (*Revision, error)
	AuthorsSince(ctx context.Context, slug string, number uint64) ([]By, error)
}

// HeldWriter keeps edits that came too late, and how they were settled.
type HeldWriter interface {
	Hold(ctx context.Context, slug string, h *Held) error
	// Settle is refused with ErrNotFound where somebody has settled it already.
	Settle(ctx context.Context, id uint64, by By, outcome, lost string) error
}

// HeldReader reads them.
type HeldReader interface {
	HeldEdit(ctx context.Context, slug string, id uint64) (*Held, error)
	// HeldAlike is the id of an edit that is held already and does the same; 0
	// for none.
	HeldAlike(ctx context.Context, slug string, h *Held) (uint64, error)
}

// RuleWriter sets the house's rules.
type RuleWriter interface {
	// SetHouseRule keeps a rule whose version follows the newest one; a
	// RuleStaleError otherwise.
	SetHouseRule(ctx context.Context, r HouseRule) error
}

// RuleReader reads them.
type RuleReader interface {
	HouseRules(ctx context.Context) ([]HouseRule, error)
}

// ListWriter keeps lists that are brought in.
type ListWriter interface {
	AddImport(ctx context.Context, slug string, im *Import) error
	// LockImport reads an import that nobody else changes until the transaction ends.
	LockImport(ctx context.Context, id uint64) (*Import, error)
	SaveImport(ctx context.Context, id uint64, state string) error
}

// PhotoWriter keeps photographs.
type PhotoWriter interface {
	AddPhoto(ctx context.Context, slug string, p *Photo) error
	// MarkPhoto puts a mark, in place of the part's other one; UnmarkPhoto takes it off.
	MarkPhoto(ctx context.Context, m PhotoMark) error
	UnmarkPhoto(ctx context.Context, id uint64, part string) error
	CaptionPhoto(ctx context.Context, id uint64, caption string) error
	// FollowPart lets a model's photographs and marks follow a part to its new id.
	FollowPart(ctx context.Context, slug, from, to string) error
	// RemovePhoto takes a picture away, BringPhotoBack brings it back.
	RemovePhoto(ctx context.Context, id uint64, by By) error
	BringPhotoBack(ctx context.Context, id uint64) error
}

// PersonWriter keeps accounts.
type PersonWriter interface {
	AddPerson(ctx context.Context, p *Person) error
	// SetPassword sets a password in place of the present one, SetRole a role, SetActive whether an
	// account is open; each ends the account's sessions and gives its new epoch. ErrStale where
	// the present password is another one by now.
	SetPassword(ctx context.Context, id uint64, present, hash string) (epoch int64, err error)
	SetRole(ctx context.Context, id uint64, role people.Role) (epoch int64, err error)
	SetActive(ctx context.Context, id uint64, active bool) (epoch int64, err error)
	// KnowBrowser remembers that somebody has signed in from a browser.
	KnowBrowser(ctx context.Context, token string, personID uint64) error
}

// TryKeeper counts tries of signing in. Each is kept before it is counted, and counted before
// the password is judged: of many at once no more are judged than may be.
type TryKeeper interface {
	AddTry(ctx context.Context, login, place string) (id uint64, err error)
	CountTries(ctx context.Context, login, place string, since time.Time) (Tries, error)
	ForgetTry(ctx context.Context, id uint64) error
}

// Tries are how many tries there were: for a name from a place, from the place for any name,
// for the name from anywhere but browsers that are known.
type Tries struct{ Both, Place, Name int64 }

// PersonReader reads them.
type PersonReader interface {
	People(ctx context.Context) ([]Person, error)
	Person(ctx context.Context, id uint64) (*Person, error)
	Login(ctx context.Context, login string) (*Person, error)
	// KnowsBrowser reports whether somebody has signed in from a browser since a time.
	KnowsBrowser(ctx context.Context, token string, personID uint64, since time.Time) (bool, error)
}

// Auditor writes the audit trail.
type Auditor interface {
	Audit(ctx context.Context, by By, action, subject, detail string) error
}
