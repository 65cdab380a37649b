package web_test

import (
	"context"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/people"
	"coldtap/internal/store"
	"coldtap/internal/web"
)

// mayUse says who may use each address: nobody (N), the public (P), every
// insider (I), or some of author (a), reviewer (r), trainer (t), technician
// (k) and admin (m). It is written here, apart from the program's own table,
// so that a route that is opened by mistake is noticed.
const mayUse = `
GET /static/*path P
GET /guide.css P
GET /health P
GET /ready P
GET /sign-in P
POST /sign-in P
POST /sign-out P
GET / I
GET /figures I
GET /figures/file/:kind I
GET /house I
POST /house a
GET /compare I
GET /jobs I
GET /me I
GET /me/here I
POST /me/password I
GET /people m
POST /people m
POST /people/:id m
GET /audit mr
GET /models/:model I
GET /models/:model/system/board I
GET /models/:model/layout I
GET /models/:model/settings I
GET /models/:model/settings/board I
GET /models/:model/settings/matrix I
GET /models/:model/amounts I
GET /models/:model/amounts/file/:kind I
GET /models/:model/procedures I
GET /models/:model/procedures/:id I
GET /models/:model/procedures/:id/board I
GET /models/:model/procedures/:id/film I
GET /models/:model/procedures/:id/plan I
GET /models/:model/procedures/:id/ranges I
GET /models/:model/procedures/:id/wrong I
GET /models/:model/procedures/:id/adding a
GET /models/:model/procedures/:id/file/:kind I
POST /models/:model/procedures/:id/steps a
POST /models/:model/guide a
GET /models/:model/guide I
GET /models/:model/guide/whole I
GET /models/:model/guide/file/:kind I
GET /models/:model/guide/card/:kind I
POST /models/:model/guide/preview a
GET /models/:model/guide/form a
GET /models/:model/guide/read a
POST /models/:model/guide/read a
GET /models/:model/guide/sentence a
GET /models/:model/review I
GET /models/:model/review/read I
GET /models/:model/review/reports I
GET /models/:model/published/:letter I
GET /models/:model/published/:letter/changes I
GET /models/:model/published/:letter/standing I
POST /models/:model/review ar
POST /models/:model/review/seen ar
POST /models/:model/review/reports/:id a
GET /read P
GET /units I
POST /units artk
GET /units/due/:kind I
GET /units/:id I
POST /units/:id artk
GET /units/:id/calendar.ics I
GET /u/:code I
POST /dealers m
GET /models/:model/trials I
POST /models/:model/trials artk
GET /trials/worker.js I
GET /trials/:code I
GET /trials/:code/entries I
POST /trials/:code/entries artk
POST /trials/:code/photo artk
GET /trials/:code/photo/:mark I
POST /trials/:code/state artk
GET /trials/:code/compare I
GET /trials/:code/compare/:cause I
POST /trials/:code/compare/:cause ar
GET /trials/:code/file/:kind I
POST /corrections/:id ar
GET /read/worker.js P
GET /read/:model P
GET /read/:model/:letter P
GET /read/:model/:letter/style.css P
GET /read/:model/:letter/:build/:units P
GET /read/:model/:letter/:build/:units/chapter P
GET /read/:model/:letter/:build/:units/do/:task P
GET /read/:model/:letter/:build/:units/photo/:file P
GET /read/:model/:letter/:build/:units/envelope.json P
GET /read/:model/:letter/:build/:units/keep.json P
POST /readers/report P
GET /readers/answer/:code P
POST /readers/walk P
GET /readers/walk/:code P
GET /readers/walk/:code/marks P
POST /readers/walk/:code/marks P
GET /drills I
POST /drills/practise I
GET /drills/courses t
POST /drills/courses t
GET /drills/courses/:code I
POST /drills/courses/:code t
POST /drills/courses/:code/begin I
POST /drills/courses/:code/class t
GET /drills/classes/:code t
POST /drills/classes/:code t
GET /drills/join/:code I
GET /drills/sit/:code I
GET /drills/sit/:code/drawing I
GET /drills/sit/:code/waiting I
POST /drills/sit/:code/answer I
POST /drills/sit/:code/hint I
POST /drills/sit/:code/look I
GET /drills/results I
GET /drills/results/file/:kind I
GET /drills/certificates/:number I
GET /certificates P
GET /certificates/:number P
GET /models/:model/drills I
POST /models/:model/drills a
POST /trials/:code/signoff t
GET /models/:model/file I
GET /models/:model/history I
GET /models/:model/history/:number I
POST /models/:model/settings/keep a
POST /models/:model/settings/let-go a
POST /models/:model/accept ar
POST /models/:model/reopen ar
GET /begin a
POST /begin a
POST /begin/file a
POST /models/:model/confirm/part/:id a
POST /models/:model/confirm/line/:id a
GET /models/:model/grid I
POST /models/:model/grid/paste a
GET /models/:model/assemblies/:kind a
POST /models/:model/assemblies/:kind a
POST /models/:model/edit/part/:id a
POST /models/:model/edit/line/:id a
POST /models/:model/edit/head a
POST /models/:model/confirm/all a
POST /models/:model/edit/remove a
POST /models/:model/edit/join a
POST /models/:model/edit/add a
POST /models/:model/edit/nudge a
POST /models/:model/edit/place a
POST /models/:model/edit/renumber a
POST /models/:model/edit/shift a
GET /models/:model/options I
POST /models/:model/options/:id a
POST /models/:model/options/:id/things a
POST /models/:model/options/:id/remove a
POST /models/:model/retire a
POST /models/:model/bring-back a
POST /models/:model/undo a
POST /models/:model/redo a
POST /models/:model/restore/:number a
GET /models/:model/imports a
POST /models/:model/imports a
GET /models/:model/imports/:id a
POST /models/:model/imports/:id a
POST /models/:model/imports/:id/take a
GET /models/:model/imports/:id/file a
POST /models/:model/parts/:id/photos a
GET /models/:model/photos/:id/image I
GET /models/:model/photos I
POST /models/:model/photos a
POST /models/:model/photos/:id/unmark a
POST /models/:model/photos/:id/caption a
POST /models/:model/photos/:id/mark a
POST /models/:model/photos/:id/remove a
POST /models/:model/photos/:id/bring-back a
GET /models/:model/held/:id a
POST /models/:model/held/:id a
`

// roleOf is the letter of each role in mayUse.
var roleOf = map[string]people.Role{"a": people.Author, "r": people.Reviewer, "t": people.Trainer,
	"k": people.Technician, "m": people.Admin}

// allowed reads a row's roles.
func allowed(who string) map[people.Role]bool {
	roles := map[people.Role]bool{}
	for letter, role := range roleOf {
		roles[role] = who == "P" || who == "I" || strings.Contains(who, letter)
	}
	roles[people.Public] = who == "P"
	return roles
}

// Every route is asked for by every role and by nobody: who may not use it is
// refused, who may is not.
func TestEveryRouteWithEveryRole(t *testing.T) {
	t.Parallel()
	w := openPublished(t)
	byRole := map[people.Role]*http.Client{people.Public: client(t, w.url, "")}
	for _, a := range demo.People() {
		byRole[a.Role] = client(t, w.url, a.Login)
	}
	require.Len(t, byRole, len(roleOf)+1)
	fill := strings.NewReplacer(":model", "gneiss-24-2027", ":part", "pump", ":line", "trunk-1", ":id", "999999",
		":number", "1", ":kind", "tank", "*path", "css/theme.css", ":letter", "A", ":build", "plain", ":units", "us",
		":mark", "no-such-mark", ":cause", "0",
		":task", "sanitize", ":file", "1.jpg", ":code", "ABCDEFGHIJKLMNOPQRSTUVWXYZ")
	var known []string
	for _, row := range strings.Split(strings.TrimSpace(mayUse), "\n") {
		f := strings.Fields(row)
		require.Len(t, f, 3, row)
		method, path, roles := f[0], f[1], allowed(f[2])
		known = append(known, method+" "+path)
		for role, c := range byRole {
			if path == "/sign-out" || path == "/sign-in" && method == http.MethodPost || path == "/me/password" {
				continue // they would change who is signed in
			}
			req, err := http.NewRequest(method, w.url+fill.Replace(path), strings.NewReader(""))
			require.NoError(t, err)
			req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
			resp, err := c.Do(req)
			require.NoError(t, err)
			code, _ := answer(t, resp)
			what := method + " " + path + " as " + string(role)
			if method == http.MethodGet {
				head, err := c.Head(w.url + fill.Replace(path))
				require.NoError(t, err)
				head.Body.Close()
				assert.Equal(t, code, head.StatusCode, "HEAD for %s", what)
			}
			if strings.HasPrefix(path, "/read") { // theirs is for everybody
				assert.NotContains(t, resp.Header.Get("Set-Cookie"), "coldtap=", what)
			} else if !strings.HasPrefix(path, "/static/") && path != "/guide.css" {
				want := "private, no-store"
				leaf := strings.HasSuffix(path, "/guide") || strings.HasSuffix(path, "/guide/whole") ||
					strings.HasSuffix(path, "/amounts") ||
					strings.HasSuffix(path, "/procedures")
				if leaf && code == http.StatusOK {
					want = "private, no-cache" // its reader keeps it, and asks each time whether it still holds
				}
				assert.Equal(t, want, resp.Header.Get("Cache-Control"), what)
			}
			switch {
			case roles[role]:
				assert.NotContains(t, []int{http.StatusForbidden, http.StatusUnauthorized}, code, what)
				assert.Less(t, code, 500, what)
				assert.NotContains(t, resp.Header.Get("Location"), "/sign-in", what)
			case role == people.Public && method == http.MethodGet:
				assert.Equal(t, http.StatusSeeOther, code, what)
				assert.True(t, strings.HasPrefix(resp.Header.Get("Location"), "/sign-in?next="), what)
			case role == people.Public:
				assert.Equal(t, http.StatusUnauthorized, code, what)
			default:
				assert.Equal(t, http.StatusForbidden, code, what)
			}
		}
	}
	// The program has no address that this table does not know.
	for _, r := range web.Routes() {
		assert.Contains(t, known, r, "who may use it stands in no test")
	}
}

func TestSignInIsLimitedAndSaysNothingOfNames(t *testing.T) {
	t.Parallel()
	w := open(t)
	c := client(t, w.url, "")
	try := func(login, password string) (int, string) {
		resp, err := c.PostForm(w.url+"/sign-in", url.Values{"login": {login}, "password": {password}})
		require.NoError(t, err)
		return answer(t, resp)
	}
	_, none := try("nobody", "wrong password")
	code, wrong := try("imre", "wrong password")
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Equal(t, strings.Replace(none, `value="nobody"`, `value="imre"`, 1), wrong,
		"the answer does not tell whether the name is there")
	for range 7 {
		code, _ = try("imre", "wrong password")
	}
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	code, body := try("imre", demo.People()[0].Password)
	assert.Equal(t, http.StatusTooManyRequests, code, "the right one has to wait too")
	assert.Contains(t, body, "Wait a quarter of an hour")
	code, _ = try("odile", "check the figures twice")
	assert.Equal(t, http.StatusSeeOther, code, "others are not kept out")
}

func TestSessionsRotateAndEnd(t *testing.T) {
	t.Parallel()
	w := open(t)
	at, err := url.Parse(w.url)
	require.NoError(t, err)
	c := client(t, w.url, "odile")
	cookies := c.Jar.Cookies(at)
	require.Len(t, cookies, 1)
	before := cookies[0].Value
	resp, err := c.PostForm(w.url+"/me/password", url.Values{"old": {"check the figures twice"},
		"new": {"and once again"}, "again": {"and once again"}})
	require.NoError(t, err)
	code, _ := answer(t, resp)
	assert.Equal(t, http.StatusOK, code)
	assert.NotEqual(t, before, c.Jar.Cookies(at)[0].Value, "a new password, a new session")
	stolen, err := http.NewRequest(http.MethodGet, w.url+"/", nil)
	require.NoError(t, err)
	stolen.AddCookie(&http.Cookie{Name: "coldtap", Value: before})
	resp, err = client(t, w.url, "").Do(stolen)
	require.NoError(t, err)
	code, _ = answer(t, resp)
	assert.Equal(t, http.StatusSeeOther, code)
	// Shutting the account ends its sessions at once.
	p, err := w.store.Login(t.Context(), "odile")
	require.NoError(t, err)
	_, err = w.store.SetActive(t.Context(), p.ID, false)
	require.NoError(t, err)
	resp, err = c.Get(w.url + "/")
	require.NoError(t, err)
	code, _ = answer(t, resp)
	assert.Equal(t, http.StatusSeeOther, code)
}

func TestFormsFromOtherSitesAreRefused(t *testing.T) {
	t.Parallel()
	w := open(t)
	req, err := http.NewRequest(http.MethodPost, w.url+"/me/password", strings.NewReader(""))
	require.NoError(t, err)
	req.Header.Set("Sec-Fetch-Site", "cross-site")
	resp, err := clientOf(t, w.url).Do(req)
	require.NoError(t, err)
	code, _ := answer(t, resp)
	assert.Equal(t, http.StatusForbidden, code)
}

func TestTheKeeperKeepsPeople(t *testing.T) {
	t.Parallel()
	w := open(t)
	c := client(t, w.url, "keeper")
	send := func(path string, form url.Values) string {
		resp, err := c.PostForm(w.url+path, form)
		require.NoError(t, err)
		_, body := answer(t, resp)
		return squeeze(body)
	}
	assert.Contains(t, send("/people", url.Values{"login": {"New One"}, "name": {"New One"}, "role": {"author"}}),
		"small letters")
	assert.Contains(t, send("/people", url.Values{"login": {"imre"}, "name": {"Imre"}, "role": {"author"}}), "already")
	body := send("/people", url.Values{"login": {"new"}, "name": {"New One"}, "role": {"trainer"}})
	_, password, ok := strings.Cut(body, "with the password ")
	require.True(t, ok)
	password = password[:16]
	fresh := client(t, w.url, "")
	resp, err := fresh.PostForm(w.url+"/sign-in", url.Values{"login": {"new"}, "password": {password}})
	require.NoError(t, err)
	resp.Body.Close()
	assert.Equal(t, http.StatusSeeOther, resp.StatusCode)
	trail := send("/people", url.Values{"login": {""}})
	assert.Contains(t, trail, "New One")
	resp, err = c.Get(w.url + "/audit")
	require.NoError(t, err)
	_, body = answer(t, resp)
	assert.Contains(t, squeeze(body), "added person")
	assert.Contains(t, squeeze(body), "changed model")
}

// The keeper opens a dealer and says who belongs there: they are signed out, and see its units from then on.
func TestTheKeeperKeepsDealers(t *testing.T) {
	t.Parallel()
	w := openTried(t)
	keeper, sam := client(t, w.url, "keeper"), client(t, w.url, "sam")
	status, _, body := goes(t, keeper, w.url+"/dealers", url.Values{"name": {"Valley Vans"}, "place": {"down the road"}})
	require.Equal(t, http.StatusOK, status)
	assert.Contains(t, body, "Valley Vans is among the dealers now")
	status, _, body = goes(t, keeper, w.url+"/dealers", url.Values{"name": {"Valley Vans"}})
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, body, "There is a dealer of the name Valley Vans already")
	p, err := w.store.Login(t.Context(), "sam")
	require.NoError(t, err)
	dealers, err := w.store.Dealers(t.Context())
	require.NoError(t, err)
	highpass := dealers[0]
	require.Equal(t, "Highpass Service", highpass.Name)
	form := url.Values{"act": {"dealer"}, "dealer": {strconv.FormatUint(highpass.ID, 10)}}
	status, _, body = goes(t, keeper, w.url+"/people/"+strconv.FormatUint(p.ID, 10), form)
	require.Equal(t, http.StatusOK, status, body)
	status, _ = looks(t, sam, w.url+"/units")
	assert.Equal(t, http.StatusSeeOther, status, "whoever moves signs in again")
	_, list := looks(t, client(t, w.url, "sam"), w.url+"/units?ahead=365")
	assert.Contains(t, list, "G24-2700123")
	assert.NotContains(t, list, "T9-2700012")
	form.Set("dealer", "4711")
	status, _, _ = goes(t, keeper, w.url+"/people/"+strconv.FormatUint(p.ID, 10), form)
	assert.Equal(t, http.StatusUnprocessableEntity, status)
}

func TestDemoAccountsAreShownInDemoModeOnly(t *testing.T) {
	t.Parallel()
	w := open(t)
	_, body := get(t, w.url+"/sign-in")
	assert.Contains(t, body, demo.People()[0].Password)
	h, err := web.New(w.store, web.Options{Cost: 4})
	require.NoError(t, err)
	rec := record(h, "/sign-in")
	assert.NotContains(t, rec, demo.People()[0].Password)
}

// slow is a store that answers only when the request has ended.
type slow struct {
	*store.Store
	asked, ended chan bool
}

func (s slow) Ping(ctx context.Context) error {
	s.asked <- true
	select {
	case <-ctx.Done():
	case <-time.After(10 * time.Second):
	}
	s.ended <- ctx.Err() != nil
	return ctx.Err()
}

// What a request asks of the database ends with the request.
func TestWorkEndsWithItsRequest(t *testing.T) {
	t.Parallel()
	w := open(t)
	st := slow{w.store, make(chan bool, 1), make(chan bool, 1)}
	h, err := web.New(st, web.Options{Cost: 4})
	require.NoError(t, err)
	ctx, leave := context.WithCancel(t.Context())
	go h.ServeHTTP(httptest.NewRecorder(), httptest.NewRequestWithContext(ctx, http.MethodGet, "/ready", nil))
	<-st.asked
	leave()
	assert.True(t, <-st.ended)
}
