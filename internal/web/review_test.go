package web_test

import (
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/crypto/bcrypt"

	"coldtap/internal/app"
	"coldtap/internal/browser"
	"coldtap/internal/people"
	"coldtap/internal/testworld"
	"coldtap/internal/web"
)

const gneissReview = "/models/gneiss-24-2027/review"

// as opens a browser in which somebody of the demo world is signed in.
func as(t testing.TB, w *served, login string) *browser.Page {
	t.Helper()
	p := newPage(t, 1280, 800)
	enter(t, p, w.url, client(t, w.url, login))
	return p
}

// secondAuthor signs a second author up, and in.
func secondAuthor(t testing.TB, w *served) *http.Client {
	t.Helper()
	mira := people.Account{Login: "mira", Name: "Mira Holt", Password: "a kettle in the snow", Role: people.Author}
	require.NoError(t, (&app.Accounts{Store: w.store, Cost: bcrypt.MinCost}).SignUp(t.Context(), []people.Account{mira}))
	c := client(t, w.url, "")
	resp, err := c.PostForm(w.url+"/sign-in", url.Values{"login": {mira.Login}, "password": {mira.Password}})
	require.NoError(t, err)
	resp.Body.Close()
	require.Equal(t, http.StatusSeeOther, resp.StatusCode)
	return c
}

// A guide that takes long to publish is followed on the page of what is under way, not left as if nothing had come of it.
func TestPublishingThatTakesLongerIsFollowed(t *testing.T) {
	t.Parallel()
	w := servingWith(t, testworld.Open(t, worlds.Published), web.Options{Awaited: time.Nanosecond})
	do := func(c *http.Client, what, basis string) {
		resp, err := c.PostForm(w.url+gneissReview, url.Values{"do": {what}, "basis": {basis}})
		require.NoError(t, err)
		code, body := answer(t, resp)
		require.Equal(t, http.StatusSeeOther, code, between(body, `role="alert"`, "<"))
	}
	author, reviewer := client(t, w.url, "imre"), client(t, w.url, "odile")
	do(author, "update", "")
	do(author, "send", "")
	resp, err := reviewer.Get(w.url + gneissReview)
	require.NoError(t, err)
	_, body := answer(t, resp)
	do(reviewer, "approve", between(body, `name="basis" value="`, `"`))
	imre := as(t, w, "imre")
	require.NoError(t, imre.Open(w.url+gneissReview))
	require.NoError(t, imre.Click(`button[value="publish"]`))
	require.NoError(t, imre.WaitText("#jobs", "Publishing the guide of Gneiss 24"))
	require.NoError(t, imre.WaitText("#jobs", "done"))
	require.NoError(t, imre.Open(w.url+gneissReview))
	require.NoError(t, imre.WaitText(".revision-card", "Revision B"))
}

// Two authors and a reviewer take a guide from draft to readers, and it replaces the one before.
func TestAGuideGoesToReaders(t *testing.T) {
	t.Parallel()
	w := openPublished(t)
	mira := secondAuthor(t, w)
	imre, odile := as(t, w, "imre"), as(t, w, "odile")

	// What no longer holds is taken over into the draft.
	require.NoError(t, imre.Open(w.url+gneissReview))
	require.NoError(t, imre.WaitText(".revision-card", "no longer hold"))
	require.NoError(t, imre.Click(`button[value="update"]`))
	require.NoError(t, imre.WaitText(".saidso", "The draft is up to date"))
	require.NoError(t, imre.WaitText(".revision-card", "The draft has taken them over"))

	require.NoError(t, imre.Fill("#rv-note", "The tank is 43 gal."))
	require.NoError(t, imre.Click(`button[value="send"]`))
	require.NoError(t, imre.WaitText(".way [aria-current]", "In review"))

	// The reviewer reads, comments on a sentence, and keeps what was seen.
	require.NoError(t, odile.Open(w.url+gneissReview+"/read"))
	require.NoError(t, odile.Click("#b-have .said"))
	require.NoError(t, odile.WaitText("#b-have .quoted", "Fresh tank"))
	require.NoError(t, odile.Fill("#say-have", "Is the heel in this?"))
	require.NoError(t, odile.Click(`#b-have button[value="comment"]`))
	require.NoError(t, odile.WaitText("#b-have .thread", "Is the heel in this?"))
	require.NoError(t, odile.Click(`form[action$="/seen"] button`))
	require.NoError(t, odile.WaitText(".guidebar", "nothing changed since you looked"))
	require.NoError(t, odile.Open(w.url+gneissReview))
	require.NoError(t, odile.WaitText(".stops", "Is the heel in this?"))
	disabled, err := browser.Eval[bool](odile, `document.querySelector('button[value="approve"]').disabled`)
	require.NoError(t, err)
	assert.True(t, disabled, "a comment is open")

	// The other author writes something, the first one answers; the reviewer sees what changed.
	row, _, err := w.store.Head(t.Context(), "gneiss-24-2027")
	require.NoError(t, err)
	resp, err := mira.PostForm(w.url+"/models/gneiss-24-2027/guide?edit=yes",
		url.Values{"from": {fmt.Sprint(row.Revision)}, "do": {"write"}, "block": {"have"}, "title": {"Heel"},
			"text": {"The heel stays in the tank."}})
	require.NoError(t, err)
	code, _ := answer(t, resp)
	require.Equal(t, http.StatusSeeOther, code)
	require.NoError(t, imre.Open(w.url+gneissReview+"/read"))
	require.NoError(t, imre.Click("#b-have .thread summary"))
	require.NoError(t, imre.Fill("#b-have .thread textarea", "It is; a text says so now."))
	require.NoError(t, imre.Click(`#b-have .thread button[value="comment"]`))
	require.NoError(t, imre.WaitText("#b-have .thread", "It is; a text says so now."))
	require.NoError(t, odile.Open(w.url+gneissReview+"/read"))
	require.NoError(t, odile.WaitText(".guidebar", "1 changed since you looked"))
	require.NoError(t, odile.WaitText(".changed-mark", "new since you looked"))
	require.NoError(t, odile.Click(`#b-have .thread button[value="done"]`))
	require.NoError(t, odile.WaitText("#b-have .thread", "done by Odile Brandt"))
	found, err := odile.Axe("testdata/axe.min.js")
	require.NoError(t, err)
	assert.Empty(t, found)

	// Nobody approves their own: the second author can't even as a reviewer.
	m, err := w.store.Login(t.Context(), "mira")
	require.NoError(t, err)
	_, err = w.store.SetRole(t.Context(), m.ID, people.Reviewer)
	require.NoError(t, err)
	resp, err = mira.PostForm(w.url+"/sign-in", url.Values{"login": {"mira"}, "password": {"a kettle in the snow"}})
	require.NoError(t, err)
	resp.Body.Close()
	resp, err = mira.Get(w.url + gneissReview)
	require.NoError(t, err)
	_, body := answer(t, resp)
	basis := between(body, `name="basis" value="`, `"`)
	require.Len(t, basis, 64)
	resp, err = mira.PostForm(w.url+gneissReview, url.Values{"do": {"approve"}, "basis": {basis}})
	require.NoError(t, err)
	code, body = answer(t, resp)
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "another reviewer does")

	require.NoError(t, odile.Open(w.url+gneissReview))
	require.NoError(t, odile.Fill("#rv-words", "Good."))
	require.NoError(t, odile.Click(`button[value="approve"]`))
	require.NoError(t, odile.WaitText(".way [aria-current]", "Approved"))
	require.NoError(t, imre.Open(w.url+gneissReview))
	require.NoError(t, imre.Click(`button[value="publish"]`))
	require.NoError(t, imre.WaitText("h2", "Draft"))
	require.NoError(t, imre.Open(w.url+gneissReview))
	require.NoError(t, imre.WaitText(".revision-card", "Revision B"))
	found, err = imre.Axe("testdata/axe.min.js")
	require.NoError(t, err)
	assert.Empty(t, found)

	r, _ := stranger(t, w.url+"/read/gneiss-24-2027")
	assert.Equal(t, "/read/gneiss-24-2027/B", r.Header.Get("Location"))
	_, page := stranger(t, w.url+gneissRead)
	assert.Contains(t, page, "A newer revision has replaced this one")
	_, page = stranger(t, w.url+"/read/gneiss-24-2027/B/plain/us/chapter")
	assert.Contains(t, page, "The heel stays in the tank.")
	assert.Contains(t, page, "43.0\u00a0gal")

	// What changed against the last one, as a reader wants it.
	require.NoError(t, imre.Open(w.url+"/models/gneiss-24-2027/published/B/changes"))
	require.NoError(t, imre.WaitText("h1", "What changed from A to B"))
	require.NoError(t, imre.WaitText("#main", "Fresh tank, capacity: 38 gal → 43 gal"))
	require.NoError(t, imre.WaitText("#main", "38.0"))
	found, err = imre.Axe("testdata/axe.min.js")
	require.NoError(t, err)
	assert.Empty(t, found)

	trail, err := w.store.AuditTrail(t.Context(), 200)
	require.NoError(t, err)
	var actions []string
	for _, n := range trail {
		actions = append(actions, n.Action)
	}
	assert.Subset(t, actions, []string{"brought draft up to date", "sent guide to review", "commented on guide",
		"answered a comment",
		"settled a comment", "approved guide", "published guide"})

	// Withdrawn, it stays readable and says what to do instead.
	c := client(t, w.url, "odile")
	resp, err = c.PostForm(w.url+gneissReview, url.Values{"do": {"withdraw"}, "letter": {"B"},
		"words": {"Ask your dealer for the sheet."}})
	require.NoError(t, err)
	code, _ = answer(t, resp)
	assert.Equal(t, http.StatusSeeOther, code)
	r, _ = stranger(t, w.url+"/read/gneiss-24-2027")
	assert.Equal(t, http.StatusNotFound, r.StatusCode)
	_, page = stranger(t, w.url+"/read/gneiss-24-2027/B/plain/us")
	assert.Contains(t, page, "This guide is withdrawn. Do not follow it.")
	assert.Contains(t, page, "Ask your dealer for the sheet.")
}

func between(s, from, to string) string {
	_, rest, _ := strings.Cut(s, from)
	got, _, _ := strings.Cut(rest, to)
	return got
}

// What stands in the way of an approval is named, each with the way to it.
func TestStopsAreNamedWithALink(t *testing.T) {
	t.Parallel()
	w := openPublished(t)
	resp, err := client(t, w.url, "odile").Get(w.url + "/models/tuff-9-2027/review")
	require.NoError(t, err)
	_, body := answer(t, resp)
	body = squeeze(body)
	assert.Contains(t, body, "4 in the way of an approval")
	assert.Contains(t, body, `<a href="/models/tuff-9-2027/procedures/winterize-pump">Open the procedure</a>`)
	assert.Contains(t, body, `<a href="/models/tuff-9-2027/review/read#c-1">Open the comment</a>`)
	resp, err = client(t, w.url, "odile").PostForm(w.url+"/models/tuff-9-2027/review", url.Values{"do": {"approve"},
		"basis": {between(body, `name="basis" value="`, `"`)}})
	require.NoError(t, err)
	code, body := answer(t, resp)
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "4 things stand in the way of an approval")
}
