package web_test

import (
	"context"
	"errors"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"os"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/crypto/bcrypt"

	"coldtap/demo"
	"coldtap/internal/app"
	"coldtap/internal/browser"
	"coldtap/internal/store"
	"coldtap/internal/testdb"
	"coldtap/internal/testworld"
	"coldtap/internal/web"
)

// served is the demo world served from a schema of its own.
type served struct {
	url   string
	store *store.Store
}

// clients are the signed-in clients of each server, by its address.
var clients sync.Map

// worlds are the demo world with what the list of models shows, worked out as its first reader has it done.
var worlds = testworld.Of("listed", func(ctx context.Context, st *store.Store) error {
	jobs := new(app.Jobs)
	defer jobs.Close()
	l := &app.Listing{Store: st, Jobs: jobs}
	for {
		_, job, err := l.List(ctx, false)
		if err != nil || job == nil {
			return err
		}
		if !job.Wait(ctx, 5*time.Minute) {
			return errors.New("the list of models is not worked out in time")
		}
		if err := job.Err(); err != nil {
			return err
		}
	}
})

// pool keeps the builds that all servers of these tests compute: of one document they are the same.
var pool = app.BuildPool{Patience: patience}

// patience is how long the servers of these tests take for an answer, if they must: the machine may have much else to do.
const patience = 5 * time.Minute

// printer prints for all servers of these tests.
var printer browser.Printer

// open serves the demo world and signs Imre in.
func open(t testing.TB) *served { return openWith(t, worlds.Loaded) }

// openEmpty serves a database with the people of the demo world and no model, and signs
// Imre in.
func openEmpty(t testing.TB) *served { return openWith(t, testworld.People) }

// openPublished is open with a guide that is published and out of date since, and one in review.
func openPublished(t testing.TB) *served { return openWith(t, worlds.Published) }

// openTried is openPublished with units, their logs and the trials that were made on them.
func openTried(t testing.TB) *served { return openWith(t, worlds.Tried) }

func openWith(t testing.TB, w *testdb.Original) *served {
	t.Helper()
	return serving(t, testworld.Open(t, w))
}

// serving serves a database and signs Imre in.
func serving(t testing.TB, st *store.Store) *served {
	t.Helper()
	return servingWith(t, st, web.Options{Awaited: patience})
}

// servingWith is serving by options.
func servingWith(t testing.TB, st *store.Store, o web.Options) *served {
	t.Helper()
	o.Jobs = new(app.Jobs)
	t.Cleanup(o.Jobs.Close)
	o.Demo, o.Cost, o.Printer, o.Pool, o.Patience = demo.People(), bcrypt.MinCost, &printer, &pool, patience
	o.Fresh = time.Nanosecond // a reader's page is looked at each time
	h, err := web.New(st, o)
	require.NoError(t, err)
	srv := httptest.NewServer(h)
	t.Cleanup(srv.Close)
	clients.Store(srv.URL, client(t, srv.URL, "imre"))
	return &served{srv.URL, st}
}

// reading is the demo world for tests that only read: one server for all of them, which ends with the process.
var reading struct {
	once sync.Once
	url  string
}

// serve serves the demo world to a test that changes nothing in it, with Imre signed in.
func serve(t testing.TB) string {
	t.Helper()
	reading.once.Do(func() {
		st, err := store.Open(context.Background(), worlds.Loaded.Copy(t))
		require.NoError(t, err)
		h, err := web.New(st, web.Options{Demo: demo.People(), Cost: bcrypt.MinCost, Printer: &printer, Pool: &pool,
			Patience: patience})
		require.NoError(t, err)
		at := httptest.NewServer(h).URL
		clients.Store(at, client(t, at, "imre"))
		reading.url = at
	})
	require.NotEmpty(t, reading.url, "what all read from could not be opened")
	return reading.url
}

// client signs somebody of the demo world in.
func client(t testing.TB, at, login string) *http.Client {
	t.Helper()
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	c := &http.Client{Jar: jar, CheckRedirect: func(*http.Request, []*http.Request) error {
		return http.ErrUseLastResponse
	}}
	for _, a := range demo.People() {
		if a.Login != login {
			continue
		}
		resp, err := c.PostForm(at+"/sign-in", url.Values{"login": {a.Login}, "password": {a.Password}})
		require.NoError(t, err)
		resp.Body.Close()
		require.Equal(t, http.StatusSeeOther, resp.StatusCode)
	}
	return c
}

func clientOf(t testing.TB, address string) *http.Client {
	t.Helper()
	u, err := url.Parse(address)
	require.NoError(t, err)
	c, ok := clients.Load("http://" + u.Host)
	require.True(t, ok)
	return c.(*http.Client)
}

// get reads a page as Imre.
func get(t testing.TB, address string) (int, string) {
	t.Helper()
	resp, err := clientOf(t, address).Get(address)
	require.NoError(t, err)
	return answer(t, resp)
}

// post sends a form as Imre.
func post(t testing.TB, address string, form url.Values) (int, string) {
	t.Helper()
	resp, err := clientOf(t, address).PostForm(address, form)
	require.NoError(t, err)
	return answer(t, resp)
}

func answer(t testing.TB, resp *http.Response) (int, string) {
	t.Helper()
	defer resp.Body.Close()
	b, err := io.ReadAll(resp.Body)
	require.NoError(t, err)
	return resp.StatusCode, string(b)
}

var chromium = sync.OnceValues(func() (*browser.Browser, error) {
	return browser.Start(context.Background(),
		browser.Still()...)
})

func TestMain(m *testing.M) {
	code := m.Run()
	if b, err := chromium(); err == nil {
		b.Close()
	}
	printer.Close()
	os.Exit(code)
}

// seats are tabs that tests have left, each in a profile of its own: to make one takes longer than most that is done
// in it.
var seats = make(chan *browser.Page, 8)

// newPage gives a tab in which nobody is signed in, apart from all others that are in use.
func newPage(t testing.TB, width, height int64) *browser.Page {
	t.Helper()
	leave := serve(t) + "/health" // where a tab that is left waits; in a cleanup nothing can be opened any more
	var p *browser.Page
	select {
	case p = <-seats:
		require.NoError(t, p.Resize(width, height))
	default:
		b, err := chromium()
		require.NoError(t, err)
		p, err = b.NewPageApart(width, height)
		require.NoError(t, err)
	}
	t.Cleanup(func() {
		if t.Failed() || p.Forget(leave) != nil {
			p.Close()
			return
		}
		select {
		case seats <- p:
		default:
			p.Close()
		}
	})
	return p
}

// enter gives a page the session of somebody who is signed in.
func enter(t testing.TB, p *browser.Page, at string, c *http.Client) {
	t.Helper()
	u, err := url.Parse(at)
	require.NoError(t, err)
	for _, cookie := range c.Jar.Cookies(u) {
		require.NoError(t, p.Cookie(cookie, at))
	}
}

// visit opens a tab in which Imre is signed in.
func visit(t testing.TB, at string, width, height int64) *browser.Page {
	t.Helper()
	p := newPage(t, width, height)
	enter(t, p, at, clientOf(t, at))
	return p
}

func squeeze(s string) string { return strings.Join(strings.Fields(s), " ") }

// record asks a handler for a page without a server.
func record(h http.Handler, path string) string {
	rec := httptest.NewRecorder()
	h.ServeHTTP(rec, httptest.NewRequest(http.MethodGet, path, nil))
	return rec.Body.String()
}

// by is somebody of the demo world as who does something.
func by(t testing.TB, w *served, login string) app.By {
	t.Helper()
	p, err := w.store.Login(context.Background(), login)
	require.NoError(t, err)
	return p.By()
}

// trialCodes are the words in the addresses of the trials of the published model, in the order in which they were
// made.
func trialCodes(t testing.TB, w *served) (codes []string) {
	t.Helper()
	row, _, err := w.store.Head(context.Background(), "gneiss-24-2027")
	require.NoError(t, err)
	list, err := w.store.TrialsOf(context.Background(), row.ID, app.Scope{All: true})
	require.NoError(t, err)
	for _, x := range slices.Backward(list) {
		codes = append(codes, x.Code)
	}
	return codes
}
