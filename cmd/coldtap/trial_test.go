package main

import (
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	neturl "net/url"
	"os"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/browser"
	"coldtap/internal/core/trial"
	"coldtap/internal/testworld"
)

// somebody is somebody of the demo world who is signed in.
func somebody(t *testing.T, at, login string) *http.Client {
	t.Helper()
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	c := &http.Client{Jar: jar, CheckRedirect: func(*http.Request,
		[]*http.Request) error {
		return http.ErrUseLastResponse
	}}
	for _, a := range demo.People() {
		if a.Login == login {
			resp, err := c.PostForm(at+"/sign-in", neturl.Values{"login": {a.Login}, "password": {a.Password}})
			require.NoError(t, err)
			resp.Body.Close()
			require.Equal(t, http.StatusSeeOther, resp.StatusCode)
		}
	}
	return c
}

// phone is a browser of its own, at a page as somebody.
func phone(t *testing.T, at, path string, c *http.Client) *browser.Page {
	t.Helper()
	b, err := browser.Start(t.Context(), browser.Still()...)
	require.NoError(t, err)
	t.Cleanup(b.Close)
	p, err := b.NewPage(390, 844)
	require.NoError(t, err)
	u, err := neturl.Parse(at)
	require.NoError(t, err)
	for _, cookie := range c.Jar.Cookies(u) {
		require.NoError(t, p.Cookie(cookie, at))
	}
	require.NoError(t, p.Open(at+path))
	require.NoError(t, p.WaitText("#told", "All is kept"))
	require.NoError(t, p.Open(at+path)) // its worker is there now
	require.NoError(t, p.Wait(`window.shelved || (caches.match(location.pathname).then((x) => { window.shelved = Boolean(x); }), false)`))
	return p
}

// Two phones go through one trial without a network, the application is killed in between, both come back: every tick
// and
// every reading is there, once.
func TestTwoPhonesOnOneTrialAndTheApplicationKilled(t *testing.T) {
	t.Parallel()
	dsn := testworld.Demo.Drilled.Copy(t)
	cmd, at := instance(t, "--demo", "--dsn", dsn)
	url := <-at
	imre, pia := somebody(t, url, "imre"), somebody(t, url, "pia")
	code := begun(t, url, imre)
	one, two := phone(t, url, "/trials/"+code, imre), phone(t, url, "/trials/"+code, pia)
	require.NoError(t, one.Click("#done"))
	require.NoError(t, one.Click("#done")) // with the network
	require.NoError(t, two.Wait(`document.trial.holds().some((e) => e.kind === "done" && e.who === "Imre Valk")`))
	require.NoError(t, one.Offline(true))
	require.NoError(t, two.Offline(true))

	require.NoError(t, one.Click("#done"))
	require.NoError(t, one.Click("#done"))
	require.NoError(t, two.Click("#done"))
	// The second phone goes on to where antifreeze comes, and taps the jug's mark.
	require.NoError(t, two.Wait(`(() => { const i = document.trial.what.steps.findIndex((s) =>
		(s.probes || []).some((p) => p.kind === "jug")); document.trial.kept.at = i + 1; document.trial.save();
		document.dispatchEvent(new Event("trial:changed")); return true; })()`))
	require.NoError(t, two.Click(".stride.now .jug-of"))
	require.NoError(t, two.Click("#done"))
	require.NoError(t, one.WaitText("#told", "wait on this phone"))
	require.NoError(t, two.WaitText("#told", "wait on this phone"))

	require.NoError(t, cmd.Process.Kill())
	_ = cmd.Wait()
	require.NoError(t, one.Open(url+"/trials/"+code)) // closed and opened again, without network and without server
	require.NoError(t, one.Wait(`document.querySelectorAll(".stride.ticked").length === 3`))
	require.NoError(t, one.Click("#done"))

	host := strings.TrimPrefix(url, "http://")
	cmd, at = instance(t, "--demo", "--dsn", dsn, "--addr", host)
	require.Equal(t, url, <-at)
	defer func() {
		_ = cmd.Process.Signal(os.Interrupt)
		_ = cmd.Wait()
	}()
	require.NoError(t, one.Offline(false))
	require.NoError(t, two.Offline(false))
	for _, p := range []*browser.Page{one, two} {
		require.NoError(t, p.WaitText("#told", "All is kept"))
	}
	kept := map[string]trial.Entry{}
	for _, e := range entriesOf(t, url, imre, code) {
		_, twice := kept[e.ID]
		assert.False(t, twice, "an entry is there once")
		kept[e.ID] = e
	}
	for _, p := range []*browser.Page{one, two} {
		require.NoError(t, p.Wait(`document.trial.kept.unsent.length === 0`))
		raw, err := browser.Eval[string](p, `JSON.stringify(document.trial.kept.entries)`)
		require.NoError(t, err)
		var mine []trial.Entry
		require.NoError(t, json.Unmarshal([]byte(raw), &mine))
		for _, e := range mine {
			assert.Contains(t, kept, e.ID)
			assert.Equal(t, e.At, kept[e.ID].At)
		}
	}
	count := map[trial.Kind]int{}
	for _, e := range kept {
		count[e.Kind]++
	}
	assert.Equal(t, 5, count[trial.Done], "four ticks of one phone, one of the other")
	assert.Equal(t, 1, count["jug"], "and the reading")
	require.NoError(t, one.Wait(`document.querySelectorAll(".stride.ticked").length === 5`),
		"each sees what the other ticked")
}

// Technicians write in a trial and in a unit's log while the server is killed: what was acknowledged is there when it is
// back, and what is due follows from it.
func TestWhatTechniciansWroteIsThereAfterAKill(t *testing.T) {
	t.Parallel()
	dsn := testworld.Demo.Drilled.Copy(t)
	cmd, at := instance(t, "--demo", "--dsn", dsn)
	url := <-at
	pia := somebody(t, url, "pia")
	code := begun(t, url, pia)
	resp, err := pia.Get(url + "/units?find=G24-2700123")
	require.NoError(t, err)
	resp.Body.Close()
	unit := resp.Header.Get("Location")
	require.Contains(t, unit, "/units/")
	var mu sync.Mutex
	var ticks, logged []string
	var all sync.WaitGroup
	write := func(send func(name string) (*http.Response, error), good int, list *[]string, who string) {
		for n := 0; ; n++ {
			name := fmt.Sprintf("%s-entry-%d", who, n)
			resp, err := send(name)
			if err != nil {
				return
			}
			_, err = io.ReadAll(resp.Body)
			resp.Body.Close()
			if err != nil || resp.StatusCode != good {
				return
			}
			mu.Lock()
			*list = append(*list, name)
			mu.Unlock()
		}
	}
	for phone := range 3 {
		all.Go(func() {
			write(func(name string) (*http.Response, error) {
				body := fmt.Sprintf(`{"entries":[{"id":%q,"at":%d,"kind":"note","text":"x"}]}`, name, time.Now().UnixMilli())
				return pia.Post(url+"/trials/"+code+"/entries", "application/json", strings.NewReader(body))
			}, http.StatusOK, &ticks, fmt.Sprint("phone", phone))
		})
		all.Go(func() {
			write(func(name string) (*http.Response, error) {
				return pia.PostForm(url+unit, neturl.Values{"do": {"write"}, "mark": {name}, "kind": {"sanitized"},
					"on": {"2026-11-01"}, "words": {name}})
			}, http.StatusSeeOther, &logged, fmt.Sprint("desk", phone))
		})
	}
	require.Eventually(t, func() bool {
		mu.Lock()
		defer mu.Unlock()
		return len(ticks) > 20 && len(logged) > 20
	}, enough, time.Millisecond, "they write on")
	require.NoError(t, cmd.Process.Kill())
	_ = cmd.Wait()
	all.Wait()
	require.NotEmpty(t, ticks)
	require.NotEmpty(t, logged)
	cmd, at = instance(t, "--demo", "--dsn", dsn)
	url = <-at
	defer func() {
		_ = cmd.Process.Signal(os.Interrupt)
		_ = cmd.Wait()
	}()
	pia = somebody(t, url, "pia")
	kept := map[string]bool{}
	for _, e := range entriesOf(t, url, pia, code) {
		kept[e.ID] = true
	}
	for _, name := range ticks {
		require.True(t, kept[name], name)
	}
	page := body(t, pia, url+unit)
	for _, name := range logged {
		require.Contains(t, page, name)
	}
	require.Contains(t, page, "1 November 2027", "a year after it was sanitized")
}

// begun begins a trial on a unit of the demo world, which are there some seconds after the first start.
func begun(t *testing.T, url string, c *http.Client) (code string) {
	t.Helper()
	form := neturl.Values{"serial": {"g24 2700123"}, "task": {"winterize-air-then"}, "place": {"yard"}}
	require.Eventually(t, func() bool {
		resp, err := c.PostForm(url+"/models/gneiss-24-2027/trials", form)
		if err != nil {
			return false
		}
		resp.Body.Close()
		_, code, _ = strings.Cut(resp.Header.Get("Location"), "/trials/")
		return code != ""
	}, enough, 300*time.Millisecond)
	return code
}

func entriesOf(t *testing.T, url string, c *http.Client, code string) []trial.Entry {
	t.Helper()
	resp, err := c.Get(url + "/trials/" + code + "/entries")
	require.NoError(t, err)
	defer resp.Body.Close()
	raw, err := io.ReadAll(resp.Body)
	require.NoError(t, err)
	var got struct{ Entries []trial.Entry }
	require.NoError(t, json.Unmarshal(raw, &got), string(raw))
	return got.Entries
}
