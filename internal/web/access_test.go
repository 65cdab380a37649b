package web_test

import (
	"bytes"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"os"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/crypto/bcrypt"

	"coldtap/demo"
	"coldtap/internal/app"
	"coldtap/internal/people"
	"coldtap/internal/web"
	"coldtap/internal/web/site"
)

// signsIn tries a password and gives the status of the answer.
func signsIn(t testing.TB, c *http.Client, at, login, password string, header ...string) int {
	t.Helper()
	form := url.Values{"login": {login}, "password": {password}}
	req, err := http.NewRequest(http.MethodPost, at+"/sign-in", strings.NewReader(form.Encode()))
	require.NoError(t, err)
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	for i := 0; i+1 < len(header); i += 2 {
		req.Header.Set(header[i], header[i+1])
	}
	resp, err := c.Do(req)
	require.NoError(t, err)
	defer resp.Body.Close()
	io.Copy(io.Discard, resp.Body)
	return resp.StatusCode
}

func password(t testing.TB, login string) string {
	t.Helper()
	for _, a := range demo.People() {
		if a.Login == login {
			return a.Password
		}
	}
	t.Fatal("nobody is called " + login)
	return ""
}

// Of 400 guesses at once no more are judged than may be; who has signed in from a browser
// before is not kept out by a stranger's guesses, even from the same address.
func TestGuessesAtOnceAreCounted(t *testing.T) {
	t.Parallel()
	w := open(t)
	known := client(t, w.url, "odile")
	var judged, refused atomic.Int64
	var all sync.WaitGroup
	for i := range 400 {
		all.Go(func() {
			switch signsIn(t, client(t, w.url, ""), w.url, "odile", fmt.Sprintf("guess number %d", i)) {
			case http.StatusUnprocessableEntity:
				judged.Add(1)
			case http.StatusTooManyRequests:
				refused.Add(1)
			}
		})
	}
	all.Wait()
	assert.EqualValues(t, 400, judged.Load()+refused.Load())
	assert.LessOrEqual(t, judged.Load(), int64(8), "none, where all of them came before any was counted")
	for range 8 { // those that were not judged at once don't count
		if signsIn(t, client(t, w.url, ""), w.url, "odile", "one more") == http.StatusUnprocessableEntity {
			judged.Add(1)
		}
	}
	assert.Positive(t, judged.Load())
	assert.Equal(t, http.StatusTooManyRequests, signsIn(t, client(t, w.url, ""), w.url, "odile", password(t, "odile")),
		"a stranger waits, with the right password too")
	assert.Equal(t, http.StatusSeeOther, signsIn(t, known, w.url, "odile", password(t, "odile")))
	for range 8 {
		assert.Equal(t, http.StatusUnprocessableEntity, signsIn(t, known, w.url, "odile", "not this one"))
	}
	assert.Equal(t, http.StatusTooManyRequests, signsIn(t, known, w.url, "odile", password(t, "odile")),
		"a browser that is known guesses no more than others")
}

// Behind a proxy that is trusted, each address has tries of its own; one that is not trusted
// says what it likes.
func TestTriesBehindProxies(t *testing.T) {
	t.Parallel()
	w := open(t)
	for trusted, want := range map[string]int{"127.0.0.0/8": http.StatusUnprocessableEntity,
		"10.0.0.0/8": http.StatusTooManyRequests} {
		h, err := web.New(w.store, web.Options{Cost: bcrypt.MinCost, Proxies: []string{trusted}})
		require.NoError(t, err)
		srv := httptest.NewServer(h)
		defer srv.Close()
		for range 9 {
			signsIn(t, client(t, srv.URL, ""), srv.URL, "pia"+trusted[:2], "wrong", "X-Forwarded-For", "198.51.100.7")
		}
		assert.Equal(t, want, signsIn(t, client(t, srv.URL, ""), srv.URL, "pia"+trusted[:2], "wrong", "X-Forwarded-For",
			"6.6.6.6, 203.0.113.9"), trusted)
	}
	_, err := web.New(w.store, web.Options{Proxies: []string{"nowhere"}})
	require.ErrorContains(t, err, "nowhere")
}

// Whatever changes an account ends its other sessions at once.
func TestChangesOfAnAccountEndItsSessions(t *testing.T) {
	t.Parallel()
	w := open(t)
	keeper := client(t, w.url, "keeper")
	isIn := func(c *http.Client) bool {
		resp, err := c.Get(w.url + "/me/here")
		require.NoError(t, err)
		resp.Body.Close()
		return resp.StatusCode == http.StatusNoContent
	}
	send := func(c *http.Client, path string, form url.Values) {
		resp, err := c.PostForm(w.url+path, form)
		require.NoError(t, err)
		code, body := answer(t, resp)
		require.Equal(t, http.StatusOK, code, squeeze(body))
	}
	p, err := w.store.Login(t.Context(), "pia")
	require.NoError(t, err)
	one := fmt.Sprintf("/people/%d", p.ID)
	here, elsewhere := client(t, w.url, "pia"), client(t, w.url, "pia")
	send(here, "/me/password", url.Values{"old": {password(t, "pia")}, "new": {"frost before the highpass"},
		"again": {"frost before the highpass"}})
	assert.True(t, isIn(here), "where it was changed one goes on")
	assert.False(t, isIn(elsewhere))
	for _, form := range []url.Values{{"act": {"role"}, "role": {"trainer"}}, {"act": {"password"}}, {"act": {"shut"}}} {
		c := client(t, w.url, "")
		require.Equal(t, http.StatusSeeOther, signsIn(t, c, w.url, "pia", "frost before the highpass"))
		require.True(t, isIn(c))
		send(keeper, one, form)
		assert.False(t, isIn(c), "%v", form)
		p, err := w.store.Login(t.Context(), "pia")
		require.NoError(t, err)
		hash, err := people.Hash("frost before the highpass", bcrypt.MinCost)
		require.NoError(t, err)
		_, err = w.store.SetPassword(t.Context(), p.ID, p.Password, hash)
		require.NoError(t, err)
	}
	// One's own password is not guessed without end either.
	c := client(t, w.url, "sam")
	for range 8 {
		resp, err := c.PostForm(w.url+"/me/password", url.Values{"old": {"wrong"}, "new": {"x"}, "again": {"x"}})
		require.NoError(t, err)
		_, body := answer(t, resp)
		require.Contains(t, squeeze(body), "present password is not right")
	}
	resp, err := c.PostForm(w.url+"/me/password", url.Values{"old": {password(t, "sam")}, "new": {"another one at last"},
		"again": {"another one at last"}})
	require.NoError(t, err)
	_, body := answer(t, resp)
	assert.Contains(t, squeeze(body), "Too many tries")
}

// Two changes of one account at the same time are both there: each sets its column only.
func TestChangesOfAnAccountDontUndoEachOther(t *testing.T) {
	t.Parallel()
	w := open(t)
	p, err := w.store.Login(t.Context(), "sam")
	require.NoError(t, err)
	a := &app.Accounts{Store: w.store, Cost: bcrypt.MinCost}
	admin := &app.Person{ID: 999, Name: "Keeper"}
	stale := *p
	require.NoError(t, a.SetRole(t.Context(), admin, p, people.Trainer))
	require.NoError(t, a.SetActive(t.Context(), admin, &stale, false))
	now, err := w.store.Login(t.Context(), "sam")
	require.NoError(t, err)
	assert.Equal(t, people.Trainer, now.Role)
	assert.False(t, now.Active)
	_, err = a.Reset(t.Context(), admin, p)
	require.NoError(t, err)
	var no *app.RefusedError
	_, err = a.Reset(t.Context(), admin, p)
	require.ErrorAs(t, err, &no, "the password was changed in the meantime")
}

// Accounts whose passwords stand in the program are shut where the demo does not run, and so are
// sessions that began while it ran.
func TestDemoAccountsAreOpenInTheDemoOnly(t *testing.T) {
	t.Parallel()
	w := open(t)
	at, err := url.Parse(w.url)
	require.NoError(t, err)
	cookies := clientOf(t, w.url).Jar.Cookies(at)
	h, err := web.New(w.store, web.Options{Cost: bcrypt.MinCost, Shown: demo.People()})
	require.NoError(t, err)
	srv := httptest.NewServer(h)
	defer srv.Close()
	c := client(t, srv.URL, "")
	assert.Equal(t, http.StatusUnprocessableEntity, signsIn(t, c, srv.URL, "imre", password(t, "imre")))
	here, err := url.Parse(srv.URL)
	require.NoError(t, err)
	c.Jar, err = cookiejar.New(nil)
	require.NoError(t, err)
	c.Jar.SetCookies(here, cookies)
	resp, err := c.Get(srv.URL + "/")
	require.NoError(t, err)
	resp.Body.Close()
	assert.Equal(t, http.StatusSeeOther, resp.StatusCode)
	// With a password of its own the account is like any other.
	p, err := w.store.Login(t.Context(), "imre")
	require.NoError(t, err)
	own, err := (&app.Accounts{Store: w.store, Cost: bcrypt.MinCost}).Reset(t.Context(), &app.Person{Name: "test"}, p)
	require.NoError(t, err)
	assert.Equal(t, http.StatusSeeOther, signsIn(t, c, srv.URL, "imre", own))
}

// file is a form with a file in it.
func file(t testing.TB, name string, raw []byte) (body *bytes.Buffer, kind string) {
	t.Helper()
	body = new(bytes.Buffer)
	m := multipart.NewWriter(body)
	f, err := m.CreateFormFile("file", name)
	require.NoError(t, err)
	_, err = f.Write(raw)
	require.NoError(t, err)
	require.NoError(t, m.Close())
	return body, m.FormDataContentType()
}

// Who has not signed in sends little, and no files; forms have their bounds; of files nothing
// stays behind, whatever became of them.
func TestBodiesAreBounded(t *testing.T) {
	tmp := t.TempDir()
	t.Setenv("TMPDIR", tmp)
	w := open(t)
	stranger, author := client(t, w.url, ""), clientOf(t, w.url)
	send := func(c *http.Client, path string, body io.Reader, kind string) int {
		resp, err := c.Post(w.url+path, kind, body)
		require.NoError(t, err)
		code, _ := answer(t, resp)
		return code
	}
	const form = "application/x-www-form-urlencoded"
	assert.Equal(t, http.StatusRequestEntityTooLarge, send(stranger, "/sign-in",
		strings.NewReader("login="+strings.Repeat("x", 65<<10)), form))
	chunked := io.MultiReader(strings.NewReader("login="), strings.NewReader(strings.Repeat("x", 65<<10)))
	assert.Equal(t, http.StatusRequestEntityTooLarge, send(stranger, "/sign-in", chunked, form), "of unknown length too")
	body, kind := file(t, "a.txt", []byte("x"))
	assert.Equal(t, http.StatusUnsupportedMediaType, send(stranger, "/sign-in", body, kind))
	body, kind = file(t, "a.txt", []byte("x"))
	assert.Equal(t, http.StatusUnauthorized, send(stranger, "/begin", body, kind))
	assert.Equal(t, http.StatusRequestEntityTooLarge, send(author, gneissPath+"/grid/paste",
		strings.NewReader("block="+strings.Repeat("x", 2<<20)), form))
	body, kind = file(t, "a.txt", []byte("x"))
	assert.Equal(t, http.StatusUnsupportedMediaType, send(author, gneissPath+"/grid/paste", body, kind))
	body, kind = file(t, "a.json", bytes.Repeat([]byte("x"), 30<<20))
	assert.Equal(t, http.StatusRequestEntityTooLarge, send(author, "/begin/file", body, kind))
	for _, raw := range [][]byte{photograph(t), []byte("no picture"), bytes.Repeat([]byte("x"), 8<<20)} {
		body, kind = file(t, "a.jpg", raw)
		assert.Less(t, send(author, gneissPath+"/photos", body, kind), 500)
	}
	left, err := os.ReadDir(tmp)
	require.NoError(t, err)
	for _, f := range left {
		assert.NotContains(t, f.Name(), "multipart")
	}
}

// All people together bring in so much at once and no more: others wait, and are told.
func TestUploadsTogetherAreBounded(t *testing.T) {
	t.Parallel()
	w := open(t)
	author := clientOf(t, w.url)
	// Photographs that don't end: each holds its part of what all may bring in.
	var slow []*io.PipeWriter
	for range 8 {
		r, wr := io.Pipe()
		slow = append(slow, wr)
		body, kind := file(t, "a.jpg", nil)
		head := bytes.TrimSuffix(body.Bytes(), []byte(body.String()[strings.LastIndex(body.String(), "\r\n--"):]))
		go func() {
			resp, err := author.Post(w.url+gneissPath+"/photos", kind, io.MultiReader(bytes.NewReader(head), r))
			if err == nil {
				resp.Body.Close()
			}
		}()
		_, err := wr.Write([]byte("x"))
		require.NoError(t, err)
	}
	require.Eventually(t, func() bool { // once they have all begun
		body, kind := file(t, "a.jpg", photograph(t))
		resp, err := author.Post(w.url+gneissPath+"/photos", kind, body)
		require.NoError(t, err)
		code, words := answer(t, resp)
		return code == http.StatusServiceUnavailable && strings.Contains(words, "Others are bringing in files just now")
	}, time.Minute, 100*time.Millisecond)
	for _, s := range slow {
		s.CloseWithError(io.ErrUnexpectedEOF)
	}
	require.Eventually(t, func() bool {
		body, kind := file(t, "a.jpg", photograph(t))
		resp, err := author.Post(w.url+gneissPath+"/photos", kind, body)
		require.NoError(t, err)
		resp.Body.Close()
		return resp.StatusCode == http.StatusSeeOther
	}, patience, 100*time.Millisecond)
}

// One goes on to pages of this site only.
func FuzzNext(f *testing.F) {
	for _, s := range []string{"/", "/models/a?x=1#y", "//evil.example", "/\\evil.example", "/\t/evil.example",
		"https://evil.example/",
		"/%2f/evil.example", "javascript:alert(1)", "/a/../b", "", "\x00", "/%zz", "///evil.example", "/;@evil.example"} {
		f.Add(s)
	}
	here, err := url.Parse("http://cold.example:8080/sign-in")
	if err != nil {
		f.Fatal(err)
	}
	f.Fuzz(func(t *testing.T, s string) {
		got := site.Next(s)
		// As browsers read it: without tabs and line ends, with \ as /.
		read := strings.ReplaceAll(strings.NewReplacer("\t", "", "\n", "", "\r", "").Replace(got), "\\", "/")
		u, err := here.Parse(read)
		if err != nil || u.Host != here.Host || u.Scheme != "http" || !strings.HasPrefix(read, "/") || strings.HasPrefix(read, "//") {
			t.Fatalf("%q leads to %q: %v", s, got, u)
		}
	})
}

func TestNextKeepsWhatWasAskedFor(t *testing.T) {
	t.Parallel()
	for _, s := range []string{"/", "/models/gneiss-24-2027/settings?mode=antifreeze&with=a,b", "/models/a%2Fb/grid#g-1"} {
		assert.Equal(t, s, site.Next(s))
	}
}

// A name of a file is one that every system takes.
func TestDownloadNamesAreClean(t *testing.T) {
	t.Parallel()
	for name, want := range map[string]string{
		"gneiss-24-2027.json": "gneiss-24-2027.json", "../../etc/passwd": "etc-passwd", "a\"; x=\"b.csv": "a-- x=-b.csv",
		"line\r\nSet-Cookie: x.csv": "lineSet-Cookie- x.csv", "": "file", "...": "file", "Kältemittel.xlsx": "Kältemittel.xlsx",
		strings.Repeat("n", 300) + ".csv": strings.Repeat("n", 80) + ".csv", "con\u202egpj.exe": "congpj.exe",
	} {
		assert.Equal(t, want, site.CleanName(name))
	}
}

// Objects of others and of other models: what is one's own is had under its own address, by
// whoever may, and by nobody else. "own" and "other" are whether the address names the model that
// the object is of.
func TestObjectsOfOthers(t *testing.T) {
	t.Parallel()
	w := open(t)
	other := second(t, w)
	author := clientOf(t, w.url)
	reviewer := client(t, w.url, "odile")
	do := func(c *http.Client, method, path string, form url.Values) int {
		req, err := http.NewRequest(method, w.url+path, strings.NewReader(form.Encode()))
		require.NoError(t, err)
		req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		resp, err := c.Do(req)
		require.NoError(t, err)
		code, _ := answer(t, resp)
		return code
	}
	body, kind := file(t, "a.jpg", photograph(t))
	resp, err := author.Post(w.url+gneissPath+"/photos", kind, body)
	require.NoError(t, err)
	resp.Body.Close()
	body, kind = file(t, "list.csv", []byte("From,To,Size,Length\npump,tee,PEX 1/2,3 ft\n"))
	resp, err = author.Post(w.url+gneissPath+"/imports", kind, body)
	require.NoError(t, err)
	resp.Body.Close()
	list := resp.Header.Get("Location")
	require.Contains(t, list, gneissPath+"/imports/")
	wrong := strings.Replace(list, gneissPath, "/models/ashlar-20-2027", 1)
	// An edit of the second author that collides with one of the first is held for the second.
	do(author, http.MethodPost, gneissPath+"/edit/line/trunk-1", url.Values{"from": {"1"}, "f.length": {"9 ft"}})
	do(other, http.MethodPost, gneissPath+"/edit/line/trunk-1", url.Values{"from": {"1"}, "f.length": {"10 ft"}})
	for _, row := range []struct {
		method, own, other string
		form               url.Values
		author, second     int // for the model that it is of; the first author made photograph and list, the second the edit
	}{
		{"GET", gneissPath + "/photos/1/image", "/models/ashlar-20-2027/photos/1/image", nil, 200, 200},
		{"POST", gneissPath + "/photos/1/caption", "/models/ashlar-20-2027/photos/1/caption",
			url.Values{"caption": {"x"}}, 303, 303},
		{"GET", list, wrong, nil, 200, 200},
		{"GET", list + "/file", wrong + "/file", nil, 200, 200},
		{"POST", list + "/take", wrong + "/take", url.Values{"from": {"2"}}, 0, 0},
		{"GET", gneissPath + "/held/1", "/models/ashlar-20-2027/held/1", nil, 403, 409},
		{"POST", gneissPath + "/held/1", "/models/ashlar-20-2027/held/1", url.Values{"act": {"drop"}}, 403, 303},
		{"GET", gneissPath + "/history/2", "/models/ashlar-20-2027/history/99", nil, 200, 200},
	} {
		assert.Equal(t, http.StatusNotFound, do(author, row.method, row.other, row.form), "%s %s", row.method, row.other)
		if row.author == 0 {
			continue
		}
		assert.Equal(t, row.author, do(author, row.method, row.own, row.form), "author: %s %s", row.method, row.own)
		assert.Equal(t, row.second, do(other, row.method, row.own, row.form), "second: %s %s", row.method, row.own)
		if row.method == http.MethodPost || strings.Contains(row.own, "/held/") || strings.Contains(row.own, "/imports/") {
			assert.Equal(t, http.StatusForbidden, do(reviewer, row.method, row.own, row.form), "reviewer: %s", row.own)
		}
	}
}

// Files that ship with it are kept for good at the address of their hash, asked for again at
// another, and no folder is listed.
func TestShippedFiles(t *testing.T) {
	t.Parallel()
	w := open(t)
	c := client(t, w.url, "")
	_, page := get(t, w.url+"/sign-in")
	var named []string
	for _, part := range strings.Split(page, `"`) {
		if strings.HasPrefix(part, "/static/") || strings.HasPrefix(part, "/guide.css") {
			named = append(named, part)
		}
	}
	require.Greater(t, len(named), 10)
	ask := func(path string, header ...string) (*http.Response, string) {
		req, err := http.NewRequest(http.MethodGet, w.url+path, nil)
		require.NoError(t, err)
		for i := 0; i+1 < len(header); i += 2 {
			req.Header.Set(header[i], header[i+1])
		}
		resp, err := c.Do(req)
		require.NoError(t, err)
		_, body := answer(t, resp)
		return resp, body
	}
	for i := 0; i < len(named); i++ {
		resp, body := ask(named[i])
		require.Equal(t, http.StatusOK, resp.StatusCode, named[i])
		assert.Equal(t, "public, max-age=31536000, immutable", resp.Header.Get("Cache-Control"), named[i])
		for _, part := range strings.Split(body, `"`) { // fonts, in the style sheet
			if strings.HasPrefix(part, "/static/fonts/") {
				named = append(named, part)
			}
		}
	}
	assert.Contains(t, strings.Join(named, " "), ".woff2?v=")
	path, _, _ := strings.Cut(named[0], "?")
	resp, _ := ask(path)
	assert.Equal(t, "no-cache", resp.Header.Get("Cache-Control"))
	again, _ := ask(path, "If-None-Match", resp.Header.Get("ETag"))
	assert.Equal(t, http.StatusNotModified, again.StatusCode)
	packed, body := ask(named[1], "Accept-Encoding", "gzip")
	assert.Equal(t, "gzip", packed.Header.Get("Content-Encoding"))
	assert.True(t, strings.HasPrefix(body, "\x1f\x8b"))
	plain, _ := ask(named[1], "Accept-Encoding", "gzip;q=0")
	assert.Empty(t, plain.Header.Get("Content-Encoding"))
	for _, folder := range []string{"/static/", "/static/css", "/static/css/", "/static/js/..", "/static/none.css"} {
		resp, body := ask(folder)
		assert.NotEqual(t, http.StatusOK, resp.StatusCode, folder)
		assert.NotContains(t, body, "theme.css", folder)
	}
}

// What goes wrong within is told without what the program is made of.
func TestNoInternalsAreTold(t *testing.T) {
	t.Parallel()
	f := openFrail(t)
	f.cable.Pull()
	c := clientOf(t, f.url)
	for _, ask := range []struct {
		method, path string
	}{{"GET", "/"}, {"GET", gneissPath}, {"GET", gneissPath + "/file"}, {"GET", "/house"}, {"GET", "/audit"},
		{"POST", gneissPath + "/edit/line/trunk-1"}, {"POST", gneissPath + "/undo"}, {"POST", "/me/password"},
		{"POST", "/sign-in"}, {"GET", "/ready"}} {
		req, err := http.NewRequest(ask.method, f.url+ask.path, strings.NewReader("from=1&f.length=9+ft&login=imre&password=x"))
		require.NoError(t, err)
		req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		resp, err := c.Do(req)
		require.NoError(t, err)
		code, body := answer(t, resp)
		assert.Equal(t, http.StatusServiceUnavailable, code, ask.path)
		for _, word := range []string{"sql", "SQL", "dial", "127.0.0.1", "driver", "connection", "goroutine", ".go:", "gorm", "Error 1"} {
			assert.NotContains(t, body, word, ask.path)
		}
	}
}
