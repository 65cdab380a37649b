package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"
	"unicode/utf8"

	"coldtap/internal/guide/frozen"
	"coldtap/internal/guide/standing"
)

// Review is a round of review of a model's guide.
type Review struct {
	ID          uint64
	ModelID     uint64
	State       string
	Basis       string // what was looked at: the state of the model, the rules, the photographs
	Number      uint64 // of the model's state
	SentByID    uint64
	SentBy      string
	Note        string // of who sent it
	DecidedByID uint64
	DecidedBy   string
	Words       string // of who decided
	CreatedAt   time.Time
	UpdatedAt   time.Time
}

// States of a round.
const (
	InReview  = "in review"
	Approved  = "approved"
	SentBack  = "sent back"
	TakenBack = "taken back"
	Published = "published"
)

// Open reports whether a round still goes on.
func (r *Review) Open() bool { return r != nil && (r.State == InReview || r.State == Approved) }

// Comment is what somebody says of a block or a line of a guide, or an answer to that.
type Comment struct {
	ID        uint64
	ModelID   uint64
	OnID      uint64 // the comment that it answers; 0 for none
	Block     string
	Line      string // key of the line; "" for the whole block
	Quote     string // what it was said of
	Text      string
	State     string
	PersonID  uint64
	Person    string
	Role      string // that the person had
	SettledBy string
	CreatedAt time.Time
	UpdatedAt time.Time
}

// States of a comment.
const (
	CommentOpen     = "open"
	CommentAnswered = "answered"
	CommentDone     = "done"
)

// Look is what somebody has seen of an edition of a guide.
type Look struct {
	ModelID   uint64 `gorm:"primaryKey"`
	PersonID  uint64 `gorm:"primaryKey"`
	Edition   string `gorm:"primaryKey"`
	Body      string // sums by block, as JSON
	CreatedAt time.Time
}

// Seen are the sums of the blocks that were seen.
func (l *Look) Seen() map[string]string {
	seen := map[string]string{}
	if l != nil {
		_ = json.Unmarshal([]byte(l.Body), &seen) // it was written by the program
	}
	return seen
}

// PublishedGuide is a guide as it was published, with the envelope around what is frozen.
type PublishedGuide struct {
	ID            uint64
	ModelID       uint64
	Slug          string
	Name          string
	Year          int
	Letter        string
	Number        uint64 // of the model's state
	State         string // Published, Superseded or Withdrawn
	FromSerial    string // "" for the first that there is
	ToSerial      string // "" for all that follow
	Hash          string
	About         string // frozen.About as JSON
	PublishedByID uint64
	PublishedBy   string
	Notice        string // to readers
	Tried         string // how figures came out on units: a list of TriedOf as JSON; "" for not tried
	Version       uint64 // of the envelope
	CreatedAt     time.Time
	UpdatedAt     time.Time
}

// TableName is the table of published guides.
func (PublishedGuide) TableName() string { return "published" }

// States of a published guide.
const (
	Superseded = "superseded"
	Withdrawn  = "withdrawn"
)

// Of is what it is of.
func (p *PublishedGuide) Of() (a frozen.About) {
	_ = json.Unmarshal([]byte(p.About), &a) // it was written by the program
	return a
}

// Title is the model's name and year.
func (p *PublishedGuide) Title() string { return fmt.Sprintf("%s (%d)", p.Name, p.Year) }

// Build finds a build of it by its name in addresses; nil where it has none such.
func (p *PublishedGuide) Build(name string) *frozen.AboutOf {
	a := p.Of()
	for i := range a.Builds {
		if a.Builds[i].Name == name {
			return &a.Builds[i]
		}
	}
	return nil
}

// StandingRow is what of a published guide no longer holds.
type StandingRow struct {
	PublishedID uint64 `gorm:"primaryKey"`
	OfState     string // what it was held against
	Body        string // []BuildStanding as JSON
	Broken      int
	Dangers     int
	Taken       string // keys of the lines that the draft has taken over, as JSON
	CheckedAt   time.Time
}

// TableName is the table of standings.
func (StandingRow) TableName() string { return "standings" }

// BuildStanding is what no longer holds of an edition of a build.
type BuildStanding struct {
	Build   string `json:"build"`
	Edition string `json:"edition"`
	standing.Standing
}

// List are the builds and editions of which something no longer holds.
func (r *StandingRow) List() (list []BuildStanding) {
	if r != nil && r.Body != "" {
		_ = json.Unmarshal([]byte(r.Body), &list) // it was written by the program
	}
	return list
}

// PublishWriter keeps rounds of review, comments and published guides.
type PublishWriter interface {
	PublishReader
	AddReview(ctx context.Context, r *Review) error
	// SetReview sets what became of a round that is in a state; ErrStale where it no longer is.
	SetReview(ctx context.Context, r *Review, from string) error
	AddComment(ctx context.Context, c *Comment) error
	SetComment(ctx context.Context, id uint64, state, by string) error
	KeepLook(ctx context.Context, l *Look) error
	AddPublished(ctx context.Context, p *PublishedGuide, files []frozen.Listed) error
	SetPublished(ctx context.Context, id uint64, state, notice string) error
	// SetTried sets how what a guide tells came out on units.
	SetTried(ctx context.Context, id uint64, tried string) error
	// AddFrozen keeps files of published guides that are not kept yet.
	AddFrozen(ctx context.Context, files []frozen.File) error
	SaveStanding(ctx context.Context, r *StandingRow) error
	TakeStanding(ctx context.Context, id uint64, taken string) error
}

// PublishReader reads them.
type PublishReader interface {
	LastReview(ctx context.Context, modelID uint64) (*Review, error) // nil for none
	Reviews(ctx context.Context, modelID uint64) ([]Review, error)
	Comments(ctx context.Context, modelID uint64) ([]Comment, error)
	Comment(ctx context.Context, modelID, id uint64) (*Comment, error)
	LookOf(ctx context.Context, modelID, personID uint64, edition string) (*Look, error) // nil for none
	AllPublished(ctx context.Context) ([]PublishedGuide, error)
	PublishedOf(ctx context.Context, slug string) ([]PublishedGuide, error) // the newest first
	PublishedGuide(ctx context.Context, slug, letter string) (*PublishedGuide, error)
	PublishedFiles(ctx context.Context, id uint64) ([]frozen.Listed, error)
	// FrozenFile is a file of a published guide by its path.
	FrozenFile(ctx context.Context, id uint64, path string) ([]byte, error)
	Standings(ctx context.Context) ([]StandingRow, error) // without their lists
	Standing(ctx context.Context, id uint64) (*StandingRow, error)
	OpenComments(ctx context.Context) (map[uint64]int, error) // by model
	OpenRounds(ctx context.Context) ([]Review, error)
}

// Reviews keeps rounds of review and comments.
type Reviews struct {
	Store interface {
		Transactor
		ModelReader
		PublishReader
	}
}

// Errors that pages tell apart.
var (
	ErrOwn       = errors.New("who made a guide or sent it to review can’t approve it; another reviewer does")
	ErrRound     = errors.New("this round of review has moved on in the meantime; load the page again")
	ErrChanged   = errors.New("the guide has changed since this page was shown; look at what changed, then decide")
	ErrNotRound  = errors.New("the guide is not in review")
	ErrNotPassed = errors.New("the guide is not approved as it is now")
)

// wordsMost is how many letters a comment or a note has at most.
const wordsMost = 4000

func bounded(text string) error {
	if utf8.RuneCountInString(text) > wordsMost {
		return refused("Write at most %d letters.", wordsMost)
	}
	return nil
}

// Send sends a guide to review. Basis is what it is made of as it is now.
func (r *Reviews) Send(ctx context.Context, slug string, by By, basis, note string) error {
	if err := bounded(note); err != nil {
		return err
	}
	return r.Store.Do(ctx, func(tx Tx) error {
		row, err := tx.LockRow(ctx, slug)
		if err != nil {
			return err
		}
		last, err := tx.LastReview(ctx, row.ID)
		if err != nil {
			return err
		}
		if last.Open() && last.State == InReview {
			return ErrRound
		}
		if last.Open() { // approved, and begun again
			last.State, last.Words = TakenBack, "a new round was begun"
			if err := tx.SetReview(ctx, last, Approved); err != nil {
				return err
			}
		}
		err = tx.AddReview(ctx, &Review{ModelID: row.ID, State: InReview, Basis: basis, Number: row.Revision,
			SentByID: by.ID,
			SentBy:   by.Name, Note: note})
		if err != nil {
			return err
		}
		return tx.Audit(ctx, by, "sent guide to review", slug, note)
	})
}

// settle ends a round, or takes it on.
func (r *Reviews) settle(ctx context.Context, slug string, by By, from []string, to, words, action string,
	check func(Tx, *Model, *Review) error) error {
	if err := bounded(words); err != nil {
		return err
	}
	return r.Store.Do(ctx, func(tx Tx) error {
		row, err := tx.LockRow(ctx, slug)
		if err != nil {
			return err
		}
		last, err := tx.LastReview(ctx, row.ID)
		if err != nil {
			return err
		}
		if last == nil || !oneOf(last.State, from) {
			return ErrRound
		}
		if check != nil {
			if err := check(tx, row, last); err != nil {
				return err
			}
		}
		was := last.State
		last.State, last.DecidedByID, last.DecidedBy, last.Words = to, by.ID, by.Name, words
		if err := tx.SetReview(ctx, last, was); err != nil {
			return err
		}
		return tx.Audit(ctx, by, action, slug, words)
	})
}

func oneOf(s string, list []string) bool {
	for _, x := range list {
		if x == s {
			return true
		}
	}
	return false
}

// TakeBack ends a round for the author; SendBack for the reviewer, who says why.
func (r *Reviews) TakeBack(ctx context.Context, slug string, by By) error {
	return r.settle(ctx, slug, by, []string{InReview, Approved}, TakenBack, "", "took guide back from review", nil)
}

// SendBack is described at TakeBack.
func (r *Reviews) SendBack(ctx context.Context, slug string, by By, why string) error {
	if why == "" {
		return refused("Say what is to be done before it comes back.")
	}
	return r.settle(ctx, slug, by, []string{InReview, Approved}, SentBack, why, "sent guide back", nil)
}

// Approve approves a guide as it is made of a basis. Who sent it, or made any state of the model since it was last
// published, can't: ErrOwn. Stops are what is in the way; they were worked out for the same basis.
func (r *Reviews) Approve(ctx context.Context, slug string, by By, basis, seen string, stops int, words string) error {
	return r.settle(ctx, slug, by, []string{InReview}, Approved, words, "approved guide", func(tx Tx, row *Model,
		last *Review) error {
		if basis != seen {
			return ErrChanged
		}
		if stops > 0 {
			return refused("%d things stand in the way of an approval; they are listed on the page.", stops)
		}
		authors, err := r.authors(ctx, tx, row)
		if err != nil {
			return err
		}
		for _, a := range append(authors, By{last.SentByID, last.SentBy}) {
			if a.Is(by) {
				return ErrOwn
			}
		}
		comments, err := tx.Comments(ctx, row.ID)
		if err != nil {
			return err
		}
		for _, c := range comments { // one may have come since the page was shown
			if c.OnID == 0 && c.State != CommentDone {
				return refused("There are open comments.")
			}
		}
		last.Basis, last.Number = basis, row.Revision
		return nil
	})
}

// authors are all who made a state of a model since its guide was last published.
func (r *Reviews) authors(ctx context.Context, tx Tx, row *Model) ([]By, error) {
	list, err := tx.PublishedOf(ctx, row.Slug)
	if err != nil {
		return nil, err
	}
	var since uint64
	if len(list) > 0 {
		since = list[0].Number
	}
	return tx.AuthorsSince(ctx, row.Slug, since)
}

// Comment says something of a block or a line.
func (r *Reviews) Comment(ctx context.Context, slug string, by By, role string, c Comment) error {
	if err := bounded(c.Text); err != nil {
		return err
	}
	if c.Text == "" {
		return refused("Write what you want to say.")
	}
	if utf8.RuneCountInString(c.Quote) > wordsMost || len(c.Line) > 200 || len(c.Block) > 120 {
		return refused("This is no line of the guide.")
	}
	return r.Store.Do(ctx, func(tx Tx) error {
		row, err := tx.LockRow(ctx, slug)
		if err != nil {
			return err
		}
		action := "commented on guide"
		c.ModelID, c.PersonID, c.Person, c.Role, c.State = row.ID, by.ID, by.Name, role, CommentOpen
		if c.OnID > 0 {
			on, err := tx.Comment(ctx, row.ID, c.OnID)
			if err != nil {
				return err
			}
			c.Block, c.Line, action = on.Block, on.Line, "answered a comment"
			if on.State == CommentOpen && on.PersonID != by.ID {
				if err := tx.SetComment(ctx, on.ID, CommentAnswered, ""); err != nil {
					return err
				}
			} else if on.PersonID == by.ID { // who asked asks on
				if err := tx.SetComment(ctx, on.ID, CommentOpen, ""); err != nil {
					return err
				}
			}
		}
		if err := tx.AddComment(ctx, &c); err != nil {
			return err
		}
		return tx.Audit(ctx, by, action, slug, c.Block+": "+c.Text)
	})
}

// Settle marks a comment as done, or opens it again. Who made it does, or any reviewer.
func (r *Reviews) Settle(ctx context.Context, slug string, by By, role string, id uint64, done bool) error {
	return r.Store.Do(ctx, func(tx Tx) error {
		row, err := tx.LockRow(ctx, slug)
		if err != nil {
			return err
		}
		c, err := tx.Comment(ctx, row.ID, id)
		if err != nil {
			return err
		}
		if c.PersonID != by.ID && role != "reviewer" {
			return refused("A comment is settled by who made it, or by a reviewer.")
		}
		state, name, action := CommentDone, by.Name, "settled a comment"
		if !done {
			state, name, action = CommentOpen, "", "opened a comment again"
		}
		if err := tx.SetComment(ctx, id, state, name); err != nil {
			return err
		}
		return tx.Audit(ctx, by, action, slug, c.Block+": "+c.Text)
	})
}

// Look keeps what somebody has seen.
func (r *Reviews) Look(ctx context.Context, slug string, by By, edition string, seen map[string]string) error {
	raw, err := json.Marshal(seen)
	if err != nil {
		return err
	}
	return r.Store.Do(ctx, func(tx Tx) error {
		row, err := tx.LockRow(ctx, slug)
		if err != nil {
			return err
		}
		return tx.KeepLook(ctx, &Look{ModelID: row.ID, PersonID: by.ID, Edition: edition, Body: string(raw)})
	})
}
