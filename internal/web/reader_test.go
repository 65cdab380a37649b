package web_test

import (
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/app"
	"coldtap/internal/browser"
	"coldtap/internal/core/chapter"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/guide/said"
	"coldtap/internal/guide/standing"
	"coldtap/internal/sample"
)

// gneissRead is where the published guide of Gneiss 24 is read.
const gneissRead = "/read/gneiss-24-2027/A/plain/us"

// stranger asks for a page without being signed in.
func stranger(t testing.TB, address string) (*http.Response, string) {
	t.Helper()
	c := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	resp, err := c.Get(address)
	require.NoError(t, err)
	defer resp.Body.Close()
	raw, err := io.ReadAll(resp.Body)
	require.NoError(t, err)
	return resp, string(raw)
}

// Everybody finds a published guide, by model or by serial number, and what is not published is not there.
func TestReadersFindPublishedGuidesOnly(t *testing.T) {
	t.Parallel()
	w := openPublished(t)
	_, body := stranger(t, w.url+"/read")
	assert.Contains(t, body, "Gneiss 24 (2027)")
	assert.NotContains(t, body, "Tuff 9")
	resp, _ := stranger(t, w.url+"/read?serial=g24-2700123")
	assert.Equal(t, gneissRead, resp.Header.Get("Location"), "the number finds the guide and its one build")
	_, body = stranger(t, w.url+"/read?serial=T9-1")
	assert.Contains(t, body, "No guide is published for this serial number.")
	resp, _ = stranger(t, w.url+"/read/gneiss-24-2027")
	assert.Equal(t, "/read/gneiss-24-2027/A", resp.Header.Get("Location"))
	var same string
	for _, path := range []string{"/read/tuff-9-2027", "/read/tuff-9-2027/A", "/read/tuff-9-2027/A/plain/us/chapter",
		"/read/none",
		"/read/gneiss-24-2027/B", "/read/gneiss-24-2027/A/winter/us", "/read/gneiss-24-2027/A/plain/xx", gneissRead +
			"/do/none",
		gneissRead + "/photo/1.jpg", gneissRead + "/photo/model.json"} {
		resp, body := stranger(t, w.url+path)
		assert.Equal(t, http.StatusNotFound, resp.StatusCode, path)
		if same == "" {
			same = body
		}
		assert.Equal(t, same, body, "%s is as if it had never been", path)
	}
}

// What the public gets has no name of anybody, nothing of a draft, and no address of inside.
func TestPublishedPagesTellNothingOfInside(t *testing.T) {
	t.Parallel()
	w := openPublished(t)
	var keep struct{ Keep []string }
	_, raw := stranger(t, w.url+gneissRead+"/keep.json")
	require.NoError(t, json.Unmarshal([]byte(raw), &keep))
	require.Greater(t, len(keep.Keep), 10)
	for _, path := range append(keep.Keep, "/read", gneissRead+"/envelope.json", "/read/worker.js") {
		resp, body := stranger(t, w.url+path)
		require.Equal(t, http.StatusOK, resp.StatusCode, path)
		for _, a := range demo.People() {
			assert.NotContains(t, body, a.Name, path)
		}
		for _, inside := range []string{"/models/", "/house", "/sign-in", "The hot cycle is new this year",
			"First guide of the model year"} {
			assert.NotContains(t, body, inside, path)
		}
		assert.Contains(t, resp.Header.Get("Content-Security-Policy"), "default-src 'none'", path)
		assert.NotContains(t, resp.Header.Get("Set-Cookie"), "coldtap=", path)
	}
}

// A danger in a published guide warns readers by itself, and the warning goes when it holds again.
func TestADangerWarnsReaders(t *testing.T) {
	t.Parallel()
	w := openPublished(t)
	warned := func(of bool) func() bool {
		return func() bool {
			get(t, w.url+"/models/gneiss-24-2027/review") // who opens it has it looked at
			_, raw := stranger(t, w.url+gneissRead+"/envelope.json")
			var e struct {
				Dangers []string
				Checked string
			}
			assert.NoError(t, json.Unmarshal([]byte(raw), &e))
			return e.Checked != "" && of == strings.Contains(strings.Join(e.Dangers, "; "), "Sanitize")
		}
	}
	require.Eventually(t, warned(true), time.Minute, 100*time.Millisecond, "the dose for 38 gal is too weak for 43")
	_, body := stranger(t, w.url+gneissRead+"/do/sanitize")
	assert.Contains(t, body, "Do not follow this")
	row, _, err := w.store.Head(t.Context(), "gneiss-24-2027")
	require.NoError(t, err)
	_, err = (&app.Edits{Store: w.store}).Change(t.Context(), "gneiss-24-2027", row.Revision, by(t, w, "imre"),
		func(m *plumbing.Model) (*edit.Done, error) {
			c := *m
			c.Parts = append([]plumbing.Part(nil), m.Parts...)
			c.Part("fresh").Data.Capacity, _ = quantity.Read[quantity.Litre]("38 gal")
			return &edit.Done{Model: &c, Said: fact.Of("it", "as it was")}, nil
		})
	require.NoError(t, err)
	require.Eventually(t, warned(false), time.Minute, 100*time.Millisecond, "the dose is right again")
	require.Eventually(t, func() bool {
		_, body := stranger(t, w.url+gneissRead+"/do/sanitize")
		return !strings.Contains(body, "Do not follow this")
	}, time.Minute, 100*time.Millisecond)
}

// A reader opens a procedure on the phone, loses the network, reaches the last step, closes, and comes back where
// they were.
func TestAReaderGoesOnWithoutNetwork(t *testing.T) {
	t.Parallel()
	w := openPublished(t)
	p := newPage(t, 390, 844)
	require.NoError(t, p.Open(w.url+gneissRead+"/do/sanitize"))
	require.NoError(t, p.Open(w.url+gneissRead))
	require.NoError(t, p.WaitText("#kept", "opens without a network"))
	require.NoError(t, p.Offline(true))
	require.NoError(t, p.Open(w.url+gneissRead+"/do/sanitize"))
	require.NoError(t, p.Click("#done"))
	steps, err := browser.Eval[int](p, `Number(document.body.dataset.steps)`)
	require.NoError(t, err)
	require.Greater(t, steps, 20)
	for n := 1; n < steps; n++ {
		require.NoError(t, p.Click("#done"))
	}
	require.NoError(t, p.WaitText(".stride.now .count", fmt.Sprintf("Step %d of %d", steps, steps)))
	require.NoError(t, p.WaitText("[data-checked]", "there is no network now"))
	require.NoError(t, p.Open(w.url+gneissRead)) // closed, and opened again
	require.NoError(t, p.WaitText("#was", fmt.Sprintf("You were at step %d", steps)))
	require.NoError(t, p.Click("#was a"))
	require.NoError(t, p.WaitText(".stride.now .count", fmt.Sprintf("Step %d of %d", steps, steps)))
	drawn, err := browser.Eval[bool](p,
		`getComputedStyle(document.querySelector(".layout .shell")).fill !== "rgb(0, 0, 0)"`)
	require.NoError(t, err)
	assert.True(t, drawn, "styles are there too")
	require.NoError(t, p.Click("#done"))
	require.NoError(t, p.WaitText(".stride.now h2", "Done"))
	require.NoError(t, p.Click("#done"))
	require.NoError(t, p.WaitText("h1", "Gneiss 24"))
	gone, err := browser.Eval[bool](p, `document.getElementById("was").hidden`)
	require.NoError(t, err)
	assert.True(t, gone, "it is ended")
	require.NoError(t, p.Offline(false))
}

// A page that was opened before a danger was known warns as soon as there is a network again, and says until then when
// it
// was last checked.
func TestAPageThatWasKeptIsWarned(t *testing.T) {
	t.Parallel()
	w := openPublished(t)
	p := newPage(t, 390, 844)
	require.NoError(t, p.Open(w.url+gneissRead+"/do/sanitize"))
	require.NoError(t, p.WaitText("[data-checked]", "Last checked"))
	require.NoError(t, p.Offline(true))
	require.Eventually(t, func() bool {
		_, body := get(t, w.url+gneissReview)
		return strings.Contains(body, "readers are warned")
	}, time.Minute, 200*time.Millisecond)
	calm, err := browser.Eval[bool](p, `!document.querySelector("#envelope .alarm")`)
	require.NoError(t, err)
	assert.True(t, calm, "it does not know yet")
	require.NoError(t, p.Offline(false))
	require.NoError(t, p.Click("#done"))
	require.NoError(t, p.WaitText("#envelope", "can do harm"))
}

// Units are chosen once.
func TestUnitsAreChosenOnce(t *testing.T) {
	t.Parallel()
	w := openPublished(t)
	p := newPage(t, 390, 844)
	require.NoError(t, p.Open(w.url+gneissRead))
	require.NoError(t, p.Click(`[data-units="si"]`))
	require.NoError(t, p.Wait(`location.pathname.endsWith("/si")`))
	require.NoError(t, p.Open(w.url+gneissRead+"/chapter"))
	require.NoError(t, p.Wait(`location.pathname.endsWith("/si/chapter")`))
	require.NoError(t, p.WaitText("main", "144 L (38.0 gal)"))
}

// Two phones go through one sanitizing: each sees what the other ticked, also what was ticked without a network.
func TestTwoPhonesOnOneSanitizing(t *testing.T) {
	t.Parallel()
	w := openPublished(t)
	one := newPage(t, 390, 844)
	require.NoError(t, one.Open(w.url+gneissRead+"/do/sanitize"))
	for range 3 {
		require.NoError(t, one.Click("#done"))
	}
	require.NoError(t, one.Click(".pair summary"))
	require.NoError(t, one.Click("#pair"))
	require.NoError(t, one.Wait(`!!document.querySelector("#pair-link a")`))
	link, err := browser.Eval[string](one, `document.querySelector("#pair-link a").href`)
	require.NoError(t, err)
	code := link[strings.LastIndexByte(link, '/')+1:]
	two := newPage(t, 390, 844)
	require.NoError(t, two.Open(link))
	require.NoError(t, two.WaitText("#pairing", "at the taps"))
	require.NoError(t, two.Wait(`document.querySelectorAll(".stride.ticked").length === 2`))
	require.NoError(t, two.Offline(true))
	for range 4 {
		require.NoError(t, two.Click("#done"))
	}
	require.NoError(t, two.WaitText("#pairing", "ticks wait for the network"))
	require.NoError(t, one.Click("#done"))
	require.NoError(t, two.Offline(false))
	require.NoError(t, one.Wait(`document.querySelectorAll(".stride.ticked").length === 3`))
	require.NoError(t, two.Wait(`document.querySelectorAll(".stride.ticked").length === 3`))
	require.NoError(t, one.WaitText("#pairing", "The other is at step 4"))
	list, err := w.store.Marks(t.Context(), code)
	require.NoError(t, err)
	names := map[string]bool{}
	for _, m := range list {
		assert.False(t, names[m.Mark])
		names[m.Mark] = true
	}
}

// The first load of a step is small, and the steps after it cost next to nothing.
func TestAStepIsSmall(t *testing.T) {
	t.Parallel()
	w := openPublished(t)
	p := newPage(t, 390, 844)
	require.NoError(t, p.Open(w.url+gneissRead+"/do/sanitize"))
	const all = `[...performance.getEntriesByType("navigation"), ...performance.getEntriesByType("resource")]
		.reduce((n, e) => n + e.transferSize, 0)`
	require.NoError(t, p.Wait(`document.fonts.status === "loaded"`))
	first, err := browser.Eval[int](p, all)
	require.NoError(t, err)
	t.Logf("first load of a step: %d bytes", first)
	assert.Less(t, first, 150_000)
	for range 10 {
		before, err := browser.Eval[int](p, all)
		require.NoError(t, err)
		require.NoError(t, p.Click("#done"))
		after, err := browser.Eval[int](p, all)
		require.NoError(t, err)
		assert.LessOrEqual(t, after-before, 15_000)
	}
}

// What did not work is sent with its step, answered, and seen by who sent it alone; too much is refused.
func TestAReportReachesTheSpecialist(t *testing.T) {
	t.Parallel()
	w := openPublished(t)
	p := newPage(t, 390, 844)
	require.NoError(t, p.Open(w.url+gneissRead+"/do/sanitize"))
	require.NoError(t, p.Click("#done"))
	require.NoError(t, p.Click("#done"))
	require.NoError(t, p.Click(".report summary"))
	require.NoError(t, p.Fill("#words", "The drain is behind the step on mine. <b>Really</b>"))
	require.NoError(t, p.Click("#report button"))
	require.NoError(t, p.WaitText("#reported", "Sent. Thank you."))
	answer, err := browser.Eval[string](p, `document.querySelector("#reported a").href`)
	require.NoError(t, err)
	_, body := get(t, w.url+"/models/gneiss-24-2027/review/reports")
	assert.Contains(t, body, "The drain is behind the step on mine. &lt;b&gt;Really")
	assert.Contains(t, squeeze(body), "Sanitize, step 2")
	id := regexp.MustCompile(`review/reports/(\d+)"`).FindStringSubmatch(body)[1]
	code, _ := post(t, w.url+"/models/gneiss-24-2027/review/reports/"+id, url.Values{"do": {"answer"},
		"words": {"It was moved in May."}})
	assert.Equal(t, http.StatusSeeOther, code)
	_, body = stranger(t, answer)
	assert.Contains(t, body, "It was moved in May.")
	for _, a := range demo.People() {
		assert.NotContains(t, body, a.Name)
	}
	other := "7"
	if strings.HasSuffix(answer, other) {
		other = "6"
	}
	resp, _ := stranger(t, answer[:len(answer)-1]+other)
	assert.Equal(t, http.StatusNotFound, resp.StatusCode, "nobody sees others’ reports by guessing")

	code, _ = post(t, w.url+"/models/gneiss-24-2027/review/reports/"+id, url.Values{"do": {"finding"},
		"finding": {"The drain is behind the step."}})
	assert.Equal(t, http.StatusSeeOther, code)
	_, body = get(t, w.url+"/models/gneiss-24-2027")
	assert.Contains(t, body, "The drain is behind the step.", "it is a finding of the model")

	send := func(words string) int {
		resp, err := http.PostForm(w.url+"/readers/report", url.Values{"model": {"gneiss-24-2027"}, "letter": {"A"},
			"build": {"plain"},
			"task":  {"sanitize"}, "step": {"1"}, "words": {words}})
		require.NoError(t, err)
		resp.Body.Close()
		return resp.StatusCode
	}
	assert.Equal(t, http.StatusUnprocessableEntity, send(strings.Repeat("x", 1300)))
	assert.Equal(t, http.StatusUnprocessableEntity, send(" "))
	assert.Equal(t, http.StatusRequestEntityTooLarge, send(strings.Repeat("x", 80_000)))
	refused := false
	for range 12 {
		refused = refused || send("once more") == http.StatusTooManyRequests
	}
	assert.True(t, refused, "one place does not send for ever")
}

// Pages of readers are accessible, light and dark, on the phone.
func TestReadersPagesAreAccessible(t *testing.T) {
	t.Parallel()
	w := openPublished(t)
	p := newPage(t, 390, 844)
	for _, theme := range []string{"light", "dark"} {
		require.NoError(t, p.Theme(theme))
		for _, path := range sample.Of(t, 3, []string{"/read", "/read?serial=X-1", "/read/none", gneissRead,
			gneissRead + "/do/sanitize", gneissRead + "/do/winterize-air-then", gneissRead + "/chapter"}) {
			require.NoError(t, p.Open(w.url+path))
			if strings.Contains(path, "/do/") {
				for range 3 {
					require.NoError(t, p.Click("#done"))
				}
				require.NoError(t, p.Wait(`document.getAnimations().length === 0`))
			}
			found, err := p.Axe("testdata/axe.min.js")
			require.NoError(t, err)
			assert.Empty(t, found, "%s %s", theme, path)
		}
	}
}

// One danger alone warns readers, in the edition that they read; what is no danger, and what dealers alone read, does
// not.
func TestOneDangerWarns(t *testing.T) {
	t.Parallel()
	w := openPublished(t)
	g, err := w.store.PublishedGuide(t.Context(), "gneiss-24-2027", "A")
	require.NoError(t, err)
	told := func(edition chapter.Edition, danger bool) (titles []string) {
		list := []app.BuildStanding{{Build: "plain", Edition: string(edition), Standing: standing.Standing{List: []standing.Broken{
			{Difference: said.Difference{Block: "have", Title: [2]string{"What you have", ""}}, Danger: danger}}}}}
		raw, err := json.Marshal(list)
		require.NoError(t, err)
		row := &app.StandingRow{PublishedID: g.ID, OfState: "as it is now", Body: string(raw), Broken: 1, CheckedAt: time.Now()}
		if danger {
			row.Dangers = 1
		}
		require.NoError(t, w.store.SaveStanding(t.Context(), row))
		_, body := stranger(t, w.url+gneissRead+"/envelope.json")
		var e struct{ Dangers []string }
		require.NoError(t, json.Unmarshal([]byte(body), &e))
		return e.Dangers
	}
	assert.Equal(t, []string{"What you have"}, told(chapter.Owner, true))
	assert.Empty(t, told(chapter.Owner, false))
	assert.Empty(t, told(chapter.Dealer, true))
}
