// Package site is what all pages have in common: who asks, which model of which
// build, templates, words, messages.
package site

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"html/template"
	"io"
	"io/fs"
	"log/slog"
	"net/http"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus"
	"golang.org/x/crypto/bcrypt"

	"coldtap/internal/app"
	"coldtap/internal/browser"
	"coldtap/internal/cache"
	"coldtap/internal/people"
	"coldtap/internal/turn"
)

// Store is what the pages read, and what the services behind them write with.
type Store interface {
	app.Transactor
	app.ModelReader
	app.HeldReader
	app.AnswerReader
	app.RuleReader
	app.PersonReader
	app.TryKeeper
	app.ColumnReader
	app.DrawingKeeper
	app.PublishReader
	app.ReaderReader
	app.UnitReader
	app.TrialReader
	app.DrillReader
	app.BasisReader
	historyReader
	attachmentReader
	peopleReader
	Ping(ctx context.Context) error
	Sessions() (scs.Store, error)
}

// historyReader is what the history of a model and its edits read.
type historyReader interface {
	Revisions(ctx context.Context, slug string) ([]app.Revision, error)
	Steps(ctx context.Context, slug string) (undo, redo *app.Revision, err error)
	HeldEdits(ctx context.Context, slug string, by app.By) ([]app.Held, error)
	SettledEdits(ctx context.Context, slug string) ([]app.Held, error)
	HouseChanges(ctx context.Context, scope string) ([]app.HouseRule, error)
}

// attachmentReader is what hangs on a model.
type attachmentReader interface {
	Import(ctx context.Context, slug string, id uint64) (*app.Import, error)
	Imports(ctx context.Context, slug string) ([]app.Import, error)
	Photos(ctx context.Context, slug, part string) ([]app.Photo, error)
	AllPhotos(ctx context.Context, slug string) ([]app.Photo, error)
	Photo(ctx context.Context, slug string, id uint64) (*app.Photo, error)
}

// peopleReader is what the pages for those who keep the accounts read.
type peopleReader interface {
	AuditTrail(ctx context.Context, most int) ([]app.Note, error)
}

// Site answers requests, with the services behind them.
type Site struct {
	Store     Store
	Sessions  *scs.SessionManager
	Demo      []people.Account // shown on the sign-in page; none outside demo mode
	templates *template.Template
	leaves    cache.Cache[*Leaf]
	Slow      Slow // parts of pages that take long
	turns     turn.Turns
	packer    packer

	Builds      app.Builds
	Edits       *app.Edits
	Lists       *app.Lists
	Photographs *app.Photos
	Rules       *app.Rules
	Accounts    *app.Accounts
	Listing     *app.Listing
	Jobs        *app.Jobs
	Reviews     *app.Reviews
	Publishing  *app.Publishing
	Keeping     *app.Keeping
	Readers     *app.Readers
	Units       *app.Units
	Trials      *app.Trials
	Drills      *app.Drills
	Bounds      Bounds
	Awaited     time.Duration // how long who publishes a guide waits until they are shown how far it is
	Pulse       Pulse         // nil where nobody feels it
	Metrics     *Metrics      // nil where nobody counts

	Printer *browser.Printer
	Made    cache.Cache[[]byte] // files that took long, by what they follow from
}

// Options are what a server is told at its start.
type Options struct {
	Demo   []people.Account // shown on the sign-in page; none outside demo mode
	Shown  []people.Account // whose passwords stand in the program: they get in in demo mode only
	Cost   int              // of password hashes; 0 for the usual
	Secure bool             // cookies over HTTPS only
	// Proxies are addresses or networks, as 10.0.0.0/8, whose word is taken for where a request comes from.
	Proxies []string
	Pulse   Pulse                // of the database; nil for none
	Metrics *prometheus.Registry // that counts; nil for none
	Jobs    *app.Jobs            // long work, which the caller ends; nil for jobs of its own
	Printer *browser.Printer     // makes PDF, ended by the caller; nil for one of its own
	// Patience is how long an answer may take; 0 for the usual.
	Patience time.Duration
	Awaited  time.Duration  // how long who publishes a guide waits until they are shown how far it is; 0 for the usual
	Fresh    time.Duration  // how long a reader's page is sent without being looked at again; 0 for the usual
	Pool     *app.BuildPool // of computed builds that others use too; nil for one of its own
}

// awaited is Options.Awaited as a rule.
const awaited = 6 * time.Second

// New makes a site with the templates of a file system; asset gives the address of a file that
// ships with it, which may be kept for good: another version has another one.
func New(st Store, templates fs.FS, asset func(name string) string, o Options) (*Site, error) {
	t, err := template.New("").Funcs(funcs).Funcs(template.FuncMap{
		"asset": asset,
	}).ParseFS(templates, "templates/*.html")
	if err != nil {
		return nil, fmt.Errorf("templates: %w", err)
	}
	sessions, err := st.Sessions()
	if err != nil {
		return nil, err
	}
	s := &Site{Store: st, templates: t, Sessions: newSessions(sessions, o.Secure), Demo: o.Demo, Bounds: newBounds(),
		Awaited: cmp.Or(o.Awaited, awaited), Slow: Slow{Patience: o.Patience}}
	if s.Jobs = o.Jobs; s.Jobs == nil {
		s.Jobs = new(app.Jobs)
	}
	if s.Printer = o.Printer; s.Printer == nil {
		s.Printer = new(browser.Printer)
	}
	s.Made.Most = leavesMost
	docs := new(app.Docs)
	s.Edits = &app.Edits{Store: st, Docs: docs, Turns: &s.turns}
	s.Rules, s.Photographs = &app.Rules{Store: st}, &app.Photos{Store: st}
	s.Builds.Docs, s.Builds.Turns = docs, &s.turns
	s.leaves.Most = leavesMost
	s.Builds.States, s.Builds.Drawings, s.Builds.Pool = st, st, o.Pool
	s.Lists = &app.Lists{Store: st, Edits: s.Edits}
	s.Listing = &app.Listing{Store: st, Jobs: s.Jobs}
	s.Reviews, s.Readers = &app.Reviews{Store: st}, &app.Readers{Store: st, Now: time.Now}
	s.Publishing = &app.Publishing{Store: st, Builds: &s.Builds, Docs: docs}
	s.Keeping = &app.Keeping{Publishing: s.Publishing, Jobs: s.Jobs, Store: st}
	s.Units = &app.Units{Store: st, Publishing: s.Publishing, Jobs: s.Jobs, Now: time.Now}
	s.Trials = &app.Trials{Store: st, Units: s.Units, Publishing: s.Publishing, Keeping: s.Keeping, Edits: s.Edits,
		Rules: s.Rules, Jobs: s.Jobs, Now: time.Now}
	s.Drills = &app.Drills{Store: st, Publishing: s.Publishing, Jobs: s.Jobs, Now: time.Now}
	s.Accounts = &app.Accounts{Store: st, Cost: cmp.Or(o.Cost, bcrypt.DefaultCost), Shown: o.Shown, Demo: o.Demo != nil}
	s.Pulse = o.Pulse
	if o.Metrics != nil {
		if s.Metrics, err = NewMetrics(o.Metrics, s.Builds.Bytes); err != nil {
			return nil, fmt.Errorf("metrics: %w", err)
		}
	}
	if s.Accounts.Nobody, err = people.Hash(people.NewPassword(), s.Accounts.Cost); err != nil {
		return nil, err
	}
	s.Sessions.ErrorFunc = func(w http.ResponseWriter, r *http.Request, err error) {
		slog.Error("session", "error", err)
		s.away(w)
	}
	return s, nil
}

// Page is what every page's template gets.
type Page struct {
	Title string
	Model *Computed   // nil outside a model's pages
	User  *app.Person // nil for nobody
	Edits bool        // the person may change models
	Tab   string
	// Framed says that the page fills the window: "rail" for a drawing with a rail,
	// "list" for a list; "" for other pages.
	Framed string
	Body   any
}

// Pane is a pane of a rail: its id, its name, how much is in it where that is
// counted, and the width of screen it is for.
type Pane struct {
	ID, Name string
	Count    int
	Screen   string // "widescreen" or "narrowscreen"; "" for any
}

// Show answers with a page or a part of one.
func (s *Site) Show(c *gin.Context, status int, name string, p Page) {
	p.User = Who(c)
	p.Edits = p.User != nil && p.User.Role == people.Author
	var b bytes.Buffer
	end := s.Turn(c)
	err := s.templates.ExecuteTemplate(&b, name, p)
	end()
	if err != nil {
		slog.Error("render", "page", name, "error", err)
		c.String(http.StatusInternalServerError,
			"This page can't be shown. It has been written down for the people who run this server.")
		return
	}
	c.Data(status, "text/html; charset=utf-8", b.Bytes())
}

// Render makes a page that is not sent as it is: a file of its own.
func (s *Site) Render(name string, body any) ([]byte, error) {
	var b bytes.Buffer
	err := s.templates.ExecuteTemplate(&b, name, body)
	return b.Bytes(), err
}

// Turn waits for a turn to do heavy work for a request, and gives what ends it. Where the request
// ends first there is none to wait for.
func (s *Site) Turn(c *gin.Context) (end func()) {
	ctx := c.Request.Context()
	if c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead {
		ctx = turn.Writing(ctx)
	}
	end, err := s.turns.Take(ctx)
	if err != nil {
		return func() {}
	}
	return end
}

// Secure sets what keeps a page from being misused.
func Secure(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("Content-Security-Policy",
		"default-src 'self'; img-src 'self' data:; object-src 'none'; base-uri 'none'; frame-ancestors 'none'; form-action 'self'")
	h.Set("Cache-Control", "private, no-store") // what is kept is for whoever signed in
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
}

// Recover answers a request in which the program failed.
func (s *Site) Recover(c *gin.Context) {
	defer func() {
		if r := recover(); r != nil {
			slog.Error("panic", "path", c.Request.URL.Path, "reason", r)
			s.Trouble(c, errors.New("panic"))
			c.Abort()
		}
	}()
	c.Next()
}

// Health says that the program runs: whoever gets no answer starts it again.
func (s *Site) Health(w http.ResponseWriter, _ *http.Request) { plain(w, http.StatusOK, "ok\n") }

// readyTime is how long the database may take to answer.
const readyTime = 2 * time.Second

// Ready says whether requests can be answered: whoever shares them out sends none while it is not.
func (s *Site) Ready(w http.ResponseWriter, r *http.Request) {
	ctx, cancel := context.WithTimeout(r.Context(), readyTime)
	defer cancel()
	var err error
	if s.Pulse != nil {
		err = s.Pulse.Away()
	} else {
		err = s.Store.Ping(ctx)
	}
	if err != nil {
		plain(w, http.StatusServiceUnavailable, "database away\n")
		return
	}
	plain(w, http.StatusOK, "ready\n")
}

func plain(w http.ResponseWriter, status int, words string) {
	h := w.Header()
	h.Set("Cache-Control", "private, no-store")
	h.Set("Content-Type", "text/plain; charset=utf-8")
	w.WriteHeader(status)
	io.WriteString(w, words)
}

// Message is a page of a few words.
type Message struct{ Head, Words string }

// Say makes a message.
func Say(head, words string) Message { return Message{head, words} }

// NotFound says what is not there.
func (s *Site) NotFound(c *gin.Context, words string) {
	s.Show(c, http.StatusNotFound, "message.html", Page{Title: "Not found", Body: Say("Not found", words)})
}

// Trouble answers a request that failed; the reason goes to the log only.
func (s *Site) Trouble(c *gin.Context, err error) {
	slog.Error("request failed", "path", c.Request.URL.Path, "error", err)
	if errors.Is(context.Cause(c.Request.Context()), errAway) || s.Pulse != nil && s.Pulse.Away() != nil ||
		s.Store.Ping(c) != nil {
		s.Show(c, http.StatusServiceUnavailable, "message.html", awayPage())
		return
	}
	s.Show(c, http.StatusInternalServerError, "message.html", Page{Title: "Error",
		Body: Say("Something went wrong here",
			"It has been written down for the people who run this server. Go back and try once more.")})
}

// Soon is how long a page waits for work that is mostly done at once.
const Soon = 300 * time.Millisecond
