// Package web serves Cold Tap: routes, view models, templates, static files.
package web

import (
	"bytes"
	"cmp"
	"context"
	"crypto/sha256"
	"embed"
	"encoding/hex"
	"errors"
	"fmt"
	"html/template"
	"io"
	"io/fs"
	"log/slog"
	"net/http"
	"slices"
	"strings"
	"time"

	"coldtap/internal/core/state"
	"coldtap/internal/core/words"

	"coldtap/internal/app"

	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"
	"github.com/klauspost/compress/gzhttp"
	"golang.org/x/crypto/bcrypt"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/drawing"
	"coldtap/internal/guide"
	"coldtap/internal/people"
)

//go:embed static templates
var files embed.FS

// Store is what the pages read, and what the services behind them write with.
type Store interface {
	app.Transactor
	app.ModelReader
	app.HeldReader
	app.RuleReader
	app.PersonReader
	app.ColumnReader
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
	HeldEdits(ctx context.Context, slug, person string) ([]app.Held, error)
	HouseChanges(ctx context.Context, scope string) ([]app.HouseRule, error)
}

// attachmentReader is what hangs on a model.
type attachmentReader interface {
	Import(ctx context.Context, slug string, id uint64) (*app.Import, error)
	Imports(ctx context.Context, slug string) ([]app.Import, error)
	Photos(ctx context.Context, slug, part string) ([]app.Photo, error)
	Photo(ctx context.Context, slug string, id uint64) (*app.Photo, error)
}

// peopleReader is what the pages for those who keep the accounts read.
type peopleReader interface {
	People(ctx context.Context) ([]app.Person, error)
	AuditTrail(ctx context.Context, most int) ([]app.Note, error)
}

// Options are what a server is told at its start.
type Options struct {
	Demo   []people.Account // shown on the sign-in page; none outside demo mode
	Cost   int              // of password hashes; 0 for the usual
	Secure bool             // cookies over HTTPS only
	Jobs   *app.Jobs        // long work, which the caller ends; nil for jobs of its own
}

// Server answers requests.
type Server struct {
	store     Store
	templates *template.Template
	sessions  *scs.SessionManager
	demo      []people.Account

	builds      app.Builds
	edits       *app.Edits
	lists       *app.Lists
	photographs *app.Photos
	rules       *app.Rules
	accounts    *app.Accounts
	listing     *app.Listing
	jobs        *app.Jobs
}

const requestTime = 20 * time.Second

// New makes the handler of all routes.
func New(st Store, o Options) (http.Handler, error) {
	version, err := assetVersion()
	if err != nil {
		return nil, err
	}
	t, err := template.New("").Funcs(funcs).Funcs(template.FuncMap{
		// Files may be cached for long: another version has another address.
		"asset": func(name string) string { return name + "?v=" + version },
	}).ParseFS(files, "templates/*.html")
	if err != nil {
		return nil, fmt.Errorf("templates: %w", err)
	}
	sessions, err := st.Sessions()
	if err != nil {
		return nil, err
	}
	s := &Server{store: st, templates: t, sessions: newSessions(sessions, o.Secure), demo: o.Demo}
	if s.jobs = o.Jobs; s.jobs == nil {
		s.jobs = new(app.Jobs)
	}
	s.edits, s.rules, s.photographs = &app.Edits{Store: st}, &app.Rules{Store: st}, &app.Photos{Store: st}
	s.lists = &app.Lists{Store: st, Edits: s.edits}
	s.listing = &app.Listing{Store: st, Jobs: s.jobs}
	s.accounts = &app.Accounts{Store: st, Cost: cmp.Or(o.Cost, bcrypt.DefaultCost)}
	if s.accounts.Nobody, err = people.Hash(people.NewPassword(), s.accounts.Cost); err != nil {
		return nil, err
	}
	s.sessions.ErrorFunc = func(w http.ResponseWriter, r *http.Request, err error) {
		slog.Error("session", "error", err)
		http.Error(w, "The database does not answer. Nothing that was saved is lost. Load this page again in a moment.",
			http.StatusServiceUnavailable)
	}
	gin.SetMode(gin.ReleaseMode)
	r := gin.New()
	r.ContextWithFallback = true // so that queries and computations end with their request
	r.Use(s.recover, secure)
	for _, x := range s.routes() {
		r.Handle(x.method, x.path, s.guard(x))
	}
	r.NoRoute(func(c *gin.Context) { s.notFound(c, "There is no such page.") })
	static, err := fs.Sub(files, "static")
	if err != nil {
		return nil, err
	}
	mux := http.NewServeMux()
	mux.Handle("GET /static/", http.StripPrefix("/static/", cached(http.FileServerFS(static))))
	mux.Handle("GET /guide.css", cached(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/css; charset=utf-8")
		io.WriteString(w, guide.CSS())
	})))
	mux.Handle("/", http.NewCrossOriginProtection().Handler(s.sessions.LoadAndSave(r)))
	return http.TimeoutHandler(gzhttp.GzipHandler(mux), requestTime, "This took too long. Try again."), nil
}

// assetVersion is a hash of everything that is served as a file.
func assetVersion() (string, error) {
	h := sha256.New()
	io.WriteString(h, guide.CSS())
	err := fs.WalkDir(files, "static", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := files.ReadFile(path)
		h.Write(b)
		return err
	})
	return hex.EncodeToString(h.Sum(nil))[:12], err
}

// tab is one of a model's views.
type tab struct{ Tab, View, Name string }

var funcs = template.FuncMap{
	"tabs": func() []tab {
		return []tab{{"system", "", "System"}, {"layout", "layout", "Layout"}, {"settings", "settings", "Settings"},
			{"amounts", "amounts", "Amounts"}, {"guide", "guide", "Guide"}}
	},
	"both":     func(v quantity.Litre, sys quantity.System) string { return quantity.Both(v, sys) },
	"neat":     func(v quantity.Litre, sys quantity.System) string { return quantity.Neat(v, sys) },
	"tell":     tell,
	"missing":  missing,
	"place":    words.English(quantity.US).Place,
	"stands":   words.English(quantity.US).Position,
	"together": func(sys quantity.System, acts []state.Act) []words.Beside { return words.English(sys).Together(acts) },
	"tied":     func(n *plumbing.Network) bool { return len(n.PartsOf(plumbing.RoleSelector)) > 0 },
	"sides":    sideNames,
	"vehicles": func() []string { return plumbing.VehicleKinds },
	"handle": func(p *plumbing.Part, position string) template.HTML {
		return template.HTML(drawing.Handle(p, position)) // drawn by us, texts escaped
	},
	"dict":         dict,
	"list":         arrows,
	"among":        func(value, list string) bool { return slices.Contains(strings.Split(list, ","), value) },
	"pc":           func(share float64) string { return fmt.Sprintf("%.1f", share*100) },
	"quantity":     quantityOf,
	"quantityboth": quantityBoth,
	"add":          func(a, b int) int { return a + b },
	"used":         usedRules,
	"minutes":      func(from, to time.Time) string { return words.English(quantity.US).Duration(to.Sub(from)) },
	"strength":     func(v quantity.MgPerLitre) string { return quantity.Show(v, quantity.SI) },
	"gallons":      func(v quantity.Litre) string { return fmt.Sprintf("%.3f", v/quantity.USGallon) },
	"kindname":     func(p *plumbing.Part) string { return p.Kind.Info().Name },
}

// dict names the values that a template hands to another.
func dict(pairs ...any) map[string]any {
	m := map[string]any{}
	for i := 0; i+1 < len(pairs); i += 2 {
		m[fmt.Sprint(pairs[i])] = pairs[i+1]
	}
	return m
}

// arrow is a button that moves a symbol by one step.
type arrow struct{ Sign, X, Y, Words string }

func arrows(list ...string) []arrow {
	var out []arrow
	for i := 0; i+3 < len(list); i += 4 {
		out = append(out, arrow{list[i], list[i+1], list[i+2], list[i+3]})
	}
	return out
}

// page is what every page's template gets.
type page struct {
	Title string
	Model *computed      // nil outside a model's pages
	User  *app.Person // nil for nobody
	Edits bool        // the person may change models
	Tab   string
	Body  any
}

func (s *Server) show(c *gin.Context, status int, name string, p page) {
	p.User = who(c)
	p.Edits = p.User != nil && p.User.Role == people.Author
	var b bytes.Buffer
	if err := s.templates.ExecuteTemplate(&b, name, p); err != nil {
		slog.Error("render", "page", name, "error", err)
		c.String(http.StatusInternalServerError,
			"This page can't be shown. It has been written down for the people who run this server.")
		return
	}
	c.Header("Cache-Control", "private, no-store")
	c.Data(status, "text/html; charset=utf-8", b.Bytes())
}

func secure(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("Content-Security-Policy",
		"default-src 'self'; img-src 'self' data:; object-src 'none'; base-uri 'none'; frame-ancestors 'none'; form-action 'self'")
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
}

func cached(h http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("X-Content-Type-Options", "nosniff")
		w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
		h.ServeHTTP(w, r)
	})
}

func (s *Server) recover(c *gin.Context) {
	defer func() {
		if r := recover(); r != nil {
			slog.Error("panic", "path", c.Request.URL.Path, "reason", r)
			s.trouble(c, errors.New("panic"))
			c.Abort()
		}
	}()
	c.Next()
}

func (s *Server) health(c *gin.Context) {
	if err := s.store.Ping(c); err != nil {
		c.String(http.StatusServiceUnavailable, "database away\n")
		return
	}
	c.String(http.StatusOK, "ok\n")
}

type message struct{ Head, Words string }

func (s *Server) notFound(c *gin.Context, words string) {
	s.show(c, http.StatusNotFound, "message.html", page{Title: "Not found", Body: message{"Not found", words}})
}

// trouble answers a request that failed; the reason goes to the log only.
func (s *Server) trouble(c *gin.Context, err error) {
	slog.Error("request failed", "path", c.Request.URL.Path, "error", err)
	if pingErr := s.store.Ping(c); pingErr != nil {
		s.show(c, http.StatusServiceUnavailable, "message.html", page{Title: "Database away",
			Body: message{"The database does not answer",
				"Nothing that was saved is lost. Load this page again in a moment."}})
		return
	}
	s.show(c, http.StatusInternalServerError, "message.html", page{Title: "Error",
		Body: message{"Something went wrong here",
			"It has been written down for the people who run this server. Go back and try once more."}})
}
