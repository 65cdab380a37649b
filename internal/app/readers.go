package app

import (
	"context"
	"crypto/rand"
	"fmt"
	"regexp"
	"strings"
	"time"
	"unicode/utf8"
)

// Report is what a reader says did not work on theirs.
type Report struct {
	ID           uint64
	Code         string // by which who sent it reads the answer
	PublishedID  uint64
	ModelID      uint64
	Letter       string
	Build        string
	Task         string // "" for the guide as a whole
	Step         int    // from 1; 0 for before the first
	Said         string // what the step says
	Words        string // of the reader
	State        string
	Answer       string
	Became       string // of one that became something: what
	AnsweredByID uint64
	AnsweredBy   string
	CreatedAt    time.Time
	UpdatedAt    time.Time
}

// States of a report.
const (
	ReportOpen     = "open"
	ReportAnswered = "answered"
	ReportFinding  = "finding" // it became one
	ReportChange   = "change"  // it led to one
)

// Walk is a procedure that two phones go through together.
type Walk struct {
	Code        string `gorm:"primaryKey"`
	PublishedID uint64
	Build       string
	Task        string
	CreatedAt   time.Time
}

// WalkMark is something that a phone ticked, by a name that it made up.
type WalkMark struct {
	Code      string    `gorm:"primaryKey" json:"-"`
	Mark      string    `gorm:"primaryKey" json:"mark"`
	Step      int       `json:"step"`
	What      string    `json:"what"` // "done", "undone", "at", "clock"
	At        int64     `json:"at"`   // milliseconds since 1970 on the phone
	Side      string    `json:"side"` // "container", "taps" or ""
	CreatedAt time.Time `json:"-"`
}

// ReaderWriter keeps what readers send.
type ReaderWriter interface {
	ReaderReader
	AddReport(ctx context.Context, r *Report) error
	SetReport(ctx context.Context, r *Report) error
	AddWalk(ctx context.Context, w *Walk) error
	// AddMarks keeps marks that are not kept yet.
	AddMarks(ctx context.Context, marks []WalkMark) error
	// AddReaderTry notes that somebody sent something, before it is counted.
	AddReaderTry(ctx context.Context, what, place string) error
	CountReaderTries(ctx context.Context, what, place string, since time.Time) (here, all int64, err error)
}

// ReaderReader reads it.
type ReaderReader interface {
	ReportByCode(ctx context.Context, code string) (*Report, error)
	Report(ctx context.Context, modelID, id uint64) (*Report, error)
	ReportsOf(ctx context.Context, modelID uint64) ([]Report, error)
	OpenReports(ctx context.Context) (map[uint64]int, error) // by model
	Walk(ctx context.Context, code string) (*Walk, error)
	Marks(ctx context.Context, code string) ([]WalkMark, error)
}

// Readers takes what readers send.
type Readers struct {
	Store interface {
		Transactor
		PublishReader
		ReaderReader
	}
	Now func() time.Time
}

// Bounds of what strangers send: of one place within an hour, of all places within an hour, open reports of one guide.
const (
	reportsHere  = 10
	reportsAll   = 600
	reportsOpen  = 500
	walksHere    = 30
	walksAll     = 3000
	marksOfWalk  = 2000
	reportLength = 1200
	hour         = time.Hour
)

// NewCode is a word that nobody guesses.
func NewCode() string { return rand.Text() }

var codePattern = regexp.MustCompile(`^[A-Z2-7]{26}$`)

// IsCode reports whether a word can be such a word.
func IsCode(s string) bool { return codePattern.MatchString(s) }

// allow counts something that a stranger sends, and refuses what is too much.
func (r *Readers) allow(ctx context.Context, what, place string, here, all int64) error {
	return r.Store.Do(ctx, func(tx Tx) error {
		if err := tx.AddReaderTry(ctx, what, place); err != nil {
			return err
		}
		mine, others, err := tx.CountReaderTries(ctx, what, place, r.Now().Add(-hour))
		if err != nil {
			return err
		}
		if mine > here || others > all {
			return ErrTooMany
		}
		return nil
	})
}

// Send keeps what a reader says of a step of a published guide. A code that was used before is the same report sent
// again.
func (r *Readers) Send(ctx context.Context, g *PublishedGuide, report Report, place string) error {
	report.Words = strings.TrimSpace(report.Words)
	switch {
	case report.Words == "":
		return refused("Write a few words: what you did, and what happened instead.")
	case utf8.RuneCountInString(report.Words) > reportLength:
		return refused("Write at most %d letters.", reportLength)
	case !IsCode(report.Code) || g.Build(report.Build) == nil || report.Step < 0 || report.Step > 500 ||
		len(report.Task) > 80:
		return refused("This is no step of the guide.")
	}
	if _, err := r.Store.ReportByCode(ctx, report.Code); err == nil {
		return nil
	}
	if err := r.allow(ctx, "report", place, reportsHere, reportsAll); err != nil {
		return err
	}
	report.PublishedID, report.ModelID, report.Letter, report.State = g.ID, g.ModelID, g.Letter, ReportOpen
	if n := utf8.RuneCountInString(report.Said); n > 600 {
		report.Said = string([]rune(report.Said)[:600])
	}
	return r.Store.Do(ctx, func(tx Tx) error {
		open, err := tx.OpenReports(ctx)
		if err != nil {
			return err
		}
		if open[g.ModelID] >= reportsOpen {
			return ErrTooMany
		}
		return tx.AddReport(ctx, &report)
	})
}

// Settle answers a report, or says what it became.
func (r *Readers) Settle(ctx context.Context, slug string, by By, id uint64, state, answer, became string) error {
	if err := bounded(answer); err != nil {
		return err
	}
	if answer == "" && state == ReportAnswered {
		return refused("Write an answer.")
	}
	return r.Store.Do(ctx, func(tx Tx) error {
		row, err := tx.LockRow(ctx, slug)
		if err != nil {
			return err
		}
		report, err := tx.Report(ctx, row.ID, id)
		if err != nil {
			return err
		}
		report.State, report.AnsweredByID, report.AnsweredBy = state, by.ID, by.Name
		if answer != "" {
			report.Answer = answer
		}
		if became != "" {
			report.Became = became
		}
		if err := tx.SetReport(ctx, report); err != nil {
			return err
		}
		return tx.Audit(ctx, by, "answered a reader’s report", slug, fmt.Sprintf("report %d: %s %s", id, state, became))
	})
}

// Begin begins a walk of two phones.
func (r *Readers) Begin(ctx context.Context, g *PublishedGuide, build, task, place string) (*Walk, error) {
	if g.Build(build) == nil || task == "" || len(task) > 80 {
		return nil, ErrNotFound
	}
	if err := r.allow(ctx, "walk", place, walksHere, walksAll); err != nil {
		return nil, err
	}
	w := &Walk{Code: NewCode(), PublishedID: g.ID, Build: build, Task: task}
	return w, r.Store.Do(ctx, func(tx Tx) error { return tx.AddWalk(ctx, w) })
}

var markPattern = regexp.MustCompile(`^[A-Za-z0-9-]{8,40}$`)

// Join adds what a phone ticked to a walk and gives all that was.
func (r *Readers) Join(ctx context.Context, code string, marks []WalkMark) ([]WalkMark, error) {
	if !IsCode(code) {
		return nil, ErrNotFound
	}
	if _, err := r.Store.Walk(ctx, code); err != nil {
		return nil, err
	}
	for i := range marks {
		m := &marks[i]
		m.Code = code
		if !markPattern.MatchString(m.Mark) || !oneOf(m.What, []string{"done", "undone", "at", "clock"}) || m.Step < 0 ||
			m.Step > 500 ||
			!oneOf(m.Side, []string{"", "container", "taps"}) {
			return nil, refused("This is no tick of a step.")
		}
	}
	all, err := r.Store.Marks(ctx, code)
	if err != nil || len(marks) == 0 {
		return all, err
	}
	if len(all)+len(marks) > marksOfWalk {
		return nil, ErrTooMany
	}
	if err := r.Store.Do(ctx, func(tx Tx) error { return tx.AddMarks(ctx, marks) }); err != nil {
		return nil, err
	}
	return r.Store.Marks(ctx, code)
}
