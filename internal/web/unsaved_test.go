package web_test

import (
	"context"
	"net"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/crypto/bcrypt"

	"coldtap/demo"
	"coldtap/internal/browser"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/store"
	"coldtap/internal/testdb"
	"coldtap/internal/web"
)

// frail is the demo world on a database whose cable can be pulled, served by a server
// that can be killed and started again at the same address.
type frail struct {
	*served
	cable *testdb.Cable
	addr  string
	srv   *httptest.Server
}

func openFrail(t *testing.T) *frail {
	t.Helper()
	f := &frail{cable: testdb.NewCable(t, worlds.Loaded.Copy(t)), addr: "127.0.0.1:0"}
	st, err := store.Open(context.Background(), f.cable.DSN)
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	f.served = &served{store: st}
	f.start(t)
	clients.Store(f.url, client(t, f.url, "imre"))
	t.Cleanup(func() { f.srv.Close() })
	return f
}

func (f *frail) start(t *testing.T) {
	t.Helper()
	h, err := web.New(f.store, web.Options{Demo: demo.People(), Cost: bcrypt.MinCost, Pool: &pool})
	require.NoError(t, err)
	ln, err := net.Listen("tcp", f.addr)
	require.NoError(t, err)
	f.srv = &httptest.Server{Listener: ln, Config: &http.Server{Handler: h}}
	f.srv.Start()
	f.addr = ln.Addr().String()
	f.url = f.srv.URL
}

// kill ends the server with all its connections.
func (f *frail) kill() {
	f.srv.CloseClientConnections()
	f.srv.Close()
}

const (
	noStrip   = `document.getElementById("unsaved").hidden && !document.querySelector("[data-unsaved]")`
	pipeField = "#in-line-length"
)

func (f *frail) lengths(t *testing.T, ids ...string) (list []string) {
	t.Helper()
	m, err := plumbing.Read(strings.NewReader(f.document(t, "gneiss-24-2027")))
	require.NoError(t, err)
	for _, id := range ids {
		list = append(list, edit.Texts(m, edit.OfLine, id, []string{"length"})["length"])
	}
	return list
}

func (f *frail) onLine(t *testing.T, id string) *browser.Page {
	t.Helper()
	p := visit(t, f.url, 1280, 900)
	require.NoError(t, p.Open(f.url+gneissPath+"?part="+id))
	require.NoError(t, p.Wait(`document.readyState === "complete"`))
	return p
}

// What is typed while the database is away stands in its field, is told, and is saved
// once the database is back, each value once.
func TestSavesWaitForTheDatabase(t *testing.T) {
	t.Parallel()
	f := openFrail(t)
	p := f.onLine(t, "trunk-1")
	f.cable.Pull()
	require.NoError(t, p.Fill(pipeField, "11 ft"))
	require.NoError(t, p.WaitText("#unsaved", "Length of trunk-1: 11 ft"))
	require.NoError(t, p.WaitText("#unsaved", "1 change is not saved yet: the database or the server is away"))
	require.NoError(t, p.Wait(`document.querySelector("`+pipeField+`").hasAttribute("data-unsaved")`))
	shown, err := browser.Eval[string](p, `document.querySelector("`+pipeField+`").value`)
	require.NoError(t, err)
	assert.Equal(t, "11 ft", shown)
	// What is typed anew takes its place.
	require.NoError(t, p.Fill(pipeField, "12 ft"))
	require.NoError(t, p.WaitText("#unsaved", "Length of trunk-1: 12 ft"))
	asks, err := browser.Eval[bool](p, `(e => { window.dispatchEvent(e); return e.defaultPrevented; })(
		new Event("beforeunload", { cancelable: true }))`)
	require.NoError(t, err)
	assert.True(t, asks, "who leaves is asked")

	f.cable.Plug()
	require.NoError(t, p.Wait(noStrip))
	require.NoError(t, p.WaitText(".notice", "8 ft → 12 ft"))
	assert.Equal(t, []string{"12 ft"}, f.lengths(t, "trunk-1"))
	assert.Len(t, revisions(t, f.served), 2, "saved once")
}

// A session that has ended is begun again over the page, which goes on where it was.
func TestSigningInOverThePage(t *testing.T) {
	t.Parallel()
	f := openFrail(t)
	p := f.onLine(t, "trunk-1")
	resp, err := clientOf(t, f.url).Post(f.url+"/sign-out", "", nil) // visit has Imre's cookie
	require.NoError(t, err)
	resp.Body.Close()
	require.NoError(t, p.Fill(pipeField, "12 ft"))
	require.NoError(t, p.Wait(`document.querySelector("dialog.who").open`))
	require.NoError(t, p.WaitText("#unsaved", "Length of trunk-1: 12 ft"))
	require.NoError(t, p.Fill("#who-password", "not this one"))
	require.NoError(t, p.Click("#who-in"))
	require.NoError(t, p.WaitText("dialog.who [role=alert]", "Name or password is not right"))
	assert.Equal(t, []string{"8 ft"}, f.lengths(t, "trunk-1"))
	for _, a := range demo.People() {
		if a.Login == "imre" {
			require.NoError(t, p.Fill("#who-password", a.Password))
		}
	}
	require.NoError(t, p.Click("#who-in"))
	require.NoError(t, p.Wait(noStrip+` && !document.querySelector("dialog.who").open`))
	assert.Equal(t, []string{"12 ft"}, f.lengths(t, "trunk-1"))
	at, err := browser.Eval[string](p, `document.querySelector("`+pipeField+`").value + location.pathname`)
	require.NoError(t, err)
	assert.Equal(t, "12 ft"+gneissPath, at)
}

// A server that is killed while somebody types costs nothing: what was typed goes out when
// it is back, also after the page was loaded anew.
func TestSavesWaitForTheServer(t *testing.T) {
	t.Parallel()
	f := openFrail(t)
	p := f.onLine(t, "trunk-1")
	require.NoError(t, p.Fill(pipeField, "9 ft"))
	require.NoError(t, p.WaitText(".notice", "8 ft → 9 ft"))
	f.kill()
	require.NoError(t, p.Fill(pipeField, "12 ft"))
	require.NoError(t, p.WaitText("#unsaved", "1 change is not saved yet: the server does not answer"))
	f.start(t)
	require.NoError(t, p.Wait(noStrip))
	assert.Equal(t, []string{"12 ft"}, f.lengths(t, "trunk-1"))

	f.kill()
	require.NoError(t, p.Fill(pipeField, "13 ft"))
	require.NoError(t, p.WaitText("#unsaved", "Length of trunk-1: 13 ft"))
	f.start(t)
	require.NoError(t, p.Open(f.url+"/house"))
	require.NoError(t, p.Wait(`!sessionStorage.getItem("unsaved").includes("13 ft")`))
	assert.Equal(t, []string{"13 ft"}, f.lengths(t, "trunk-1"))
}

// A request that was carried out, and whose answer was lost, is not carried out again.
func TestARequestSentAgainIsCarriedOutOnce(t *testing.T) {
	t.Parallel()
	w := open(t)
	c := clientOf(t, w.url)
	send := func(path, word string, form url.Values) (int, string) {
		req, err := http.NewRequestWithContext(t.Context(), http.MethodPost, w.url+gneissPath+path,
			strings.NewReader(form.Encode()))
		require.NoError(t, err)
		req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		req.Header.Set("HX-Request", "true")
		req.Header.Set("X-Request", word)
		resp, err := c.Do(req)
		require.NoError(t, err)
		return answer(t, resp)
	}
	add := url.Values{"from": {"1"}, "kind": {"valve"}}
	for range 3 {
		code, body := send("/edit/add", "0123456789abcdef", add)
		require.Equal(t, http.StatusOK, code)
		require.Contains(t, body, "Saved:")
	}
	require.Len(t, revisions(t, w), 2)
	send("/edit/add", "0123456789abcdef0", add)
	require.Len(t, revisions(t, w), 3, "another request with the same content")
	for range 2 {
		code, _ := send("/undo", "undo-0123456789abcdef", url.Values{"from": {"3"}})
		require.Equal(t, http.StatusOK, code)
	}
	require.Len(t, revisions(t, w), 4)
	// Sent at once by an impatient line.
	done := make(chan int, 8)
	for range cap(done) {
		go func() {
			code, _ := send("/edit/line/trunk-1", "at-once-0123456789", url.Values{"from": {"4"}, "f.length": {"30 ft"}})
			done <- code
		}()
	}
	for range cap(done) {
		assert.Equal(t, http.StatusOK, <-done)
	}
	require.Len(t, revisions(t, w), 5)
}

// A button that is pressed twice while its request is on its way sends one.
func TestOnePressIsOneRequest(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 900)
	require.NoError(t, p.Open(w.url+gneissPath+"?part=trunk-1"))
	require.NoError(t, p.Wait(`document.readyState === "complete"`))
	require.NoError(t, p.Slow(300*time.Millisecond))
	_, err := browser.Eval[bool](p, `(() => { const b = document.querySelector('form[action$="/edit/add"] button');
		b.click(); b.click(); b.click(); return true; })()`)
	require.NoError(t, err)
	require.NoError(t, p.WaitText(".notice", "Saved:"))
	require.NoError(t, p.Slow(0))
	require.NoError(t, p.Wait(idle))
	assert.Len(t, revisions(t, w), 2)
}

// A form that would leave the page stays with what was typed while nobody can take it.
func TestAFormThatLeavesThePageWaits(t *testing.T) {
	t.Parallel()
	f := openFrail(t)
	p := visit(t, f.url, 1280, 900)
	require.NoError(t, p.Open(f.url+"/house"))
	require.NoError(t, p.Wait(`document.readyState === "complete"`))
	require.NoError(t, p.Fill("#why", "after the cold trial"))
	f.cable.Pull()
	require.NoError(t, p.Click(`form[action="/house"] .main`))
	require.NoError(t, p.WaitText(".notice",
		"Not sent: the database or the server is away. What you typed is still here."))
	why, err := browser.Eval[string](p, `document.getElementById("why").value`)
	require.NoError(t, err)
	assert.Equal(t, "after the cold trial", why)
	f.cable.Plug()
	require.NoError(t, p.Click(`form[action="/house"] .main`))
	require.NoError(t, p.WaitText("main", "Kept. Every figure follows from now on."))
}

// Pressed twice, a form that leaves the page goes once: a second time it would find the model there.
func TestAFormThatLeavesThePageGoesOnce(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 900)
	require.NoError(t, p.Open(w.url+"/begin"))
	require.NoError(t, p.Wait(`document.readyState === "complete"`))
	require.NoError(t, p.Fill("#name", "Basalt 9"))
	require.NoError(t, p.Fill("#year", "2027"))
	require.NoError(t, p.Slow(300*time.Millisecond))
	_, err := browser.Eval[bool](p, `(() => {
		const b = document.querySelector('form[action="/begin"] button:not([type=button])');
		b.click(); b.click(); setTimeout(() => b.click(), 450); return true; })()`)
	require.NoError(t, err)
	require.NoError(t, p.Wait(`location.pathname.startsWith("/models/basalt-9")`))
	require.NoError(t, p.Slow(0))
	models, err := w.store.Models(t.Context())
	require.NoError(t, err)
	n := 0
	for _, m := range models {
		if strings.HasPrefix(m.Slug, "basalt-9") {
			n++
		}
	}
	assert.Equal(t, 1, n)
}

// A rule that somebody else set meanwhile is not written over: the page says what it is now, keeps
// what was typed and shows what that would change; kept once more it holds. What was not changed
// is not sent.
func TestARuleThatSomebodyElseSetIsTold(t *testing.T) {
	t.Parallel()
	w := open(t)
	other := second(t, w)
	p := visit(t, w.url, 1280, 900)
	require.NoError(t, p.Open(w.url+"/house"))
	resp, err := other.PostForm(w.url+"/house", url.Values{"bleach": {"6 %"}, "v.bleach": {"0"}})
	require.NoError(t, err)
	resp.Body.Close()
	require.NoError(t, p.Fill(`[name=bleach]`, "7 %"))
	require.NoError(t, p.Click(`form[action="/house"] .main`))
	require.NoError(t, p.WaitText("main", "Second Author set “Bleach” to 6 % in the meantime."))
	require.NoError(t, p.Wait(`!!document.querySelector("#changes .changed")`))
	typed, err := browser.Eval[string](p, `document.querySelector("[name=bleach]").value`)
	require.NoError(t, err)
	assert.Equal(t, "7 %", typed)
	rules := func() (said []string) {
		list, err := w.store.HouseRules(t.Context())
		require.NoError(t, err)
		for _, r := range list {
			said = append(said, r.Rule+" "+r.Value)
		}
		return said
	}
	assert.Equal(t, []string{"bleach 6 %"}, rules())
	require.NoError(t, p.Click(`form[action="/house"] .main`))
	require.NoError(t, p.WaitText("main", "Kept. Every figure follows from now on."))
	assert.Equal(t, []string{"bleach 7 %"}, rules())
}
