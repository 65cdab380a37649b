package web_test

import (
	"fmt"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/browser"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
)

// idle is true when nothing is on its way to the server any more: an answer
// sends what still waits before it is through.
const idle = `!document.querySelector(".htmx-request")`

// Twenty fields are typed through one after the other while each is still being
// saved on a slow line: every letter stands in its field and in the document,
// and none was taken for a command.
func TestTypingThroughTwentyFieldsWithSavesInFlight(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 900)
	require.NoError(t, p.Open(w.url+gneissPath+"?part=valve-pickup"))
	require.NoError(t, p.Wait(`document.readyState === "complete"`))
	require.NoError(t, p.Slow(400*time.Millisecond))
	const at = `document.activeElement.matches("#rail .inspect input.form-control") ? document.activeElement.name : ""`
	typed := map[string]string{}
	for _, pane := range []string{"figures", "place", "look"} {
		require.NoError(t, p.Click("#tab-"+pane))
		_, err := browser.Eval[bool](p, `document.querySelector("#pane-`+pane+` input.form-control").focus(), true`)
		require.NoError(t, err)
		for range 40 {
			name, err := browser.Eval[string](p, at)
			require.NoError(t, err)
			path := strings.TrimPrefix(name, "f.")
			if name != "" && path != "id" && typed[path] == "" {
				text := fmt.Sprintf("rural bur %d, u r a n p", len(typed))
				switch {
				case path == "place.height":
					text = "up there" // refused: it holds up no other
				case path == "place.front", path == "place.left", strings.HasPrefix(path, "port_heights."):
					text = fmt.Sprintf("%d in", 20+len(typed))
				case path == "data.rating":
					text = "90 psi"
				}
				_, err = browser.Eval[bool](p, `document.activeElement.select(), true`)
				require.NoError(t, err)
				require.NoError(t, p.Keys(text))
				typed[path] = text
			}
			require.NoError(t, p.Keys("\t"))
			inside, err := browser.Eval[bool](p, `!!document.activeElement.closest("#pane-`+pane+`")`)
			require.NoError(t, err)
			if !inside {
				break
			}
		}
	}
	require.GreaterOrEqual(t, len(typed), 20, "%v", typed)
	require.NoError(t, p.Slow(0))
	require.NoError(t, p.Wait(idle))
	m, err := plumbing.Read(strings.NewReader(w.document(t, "gneiss-24-2027")))
	require.NoError(t, err)
	var paths []string
	for path := range typed {
		paths = append(paths, path)
	}
	for path, text := range edit.Texts(m, edit.OfPart, "valve-pickup", paths) {
		if path == "place.height" {
			assert.Equal(t, "26 in", text)
		} else {
			assert.Equal(t, typed[path], text, "%s in the document", path)
		}
		shown, err := browser.Eval[string](p, fmt.Sprintf(`document.getElementById("in-part-%s").value`, path))
		require.NoError(t, err)
		assert.Equal(t, typed[path], shown, "%s on the page", path)
	}
	for _, r := range revisions(t, w) {
		assert.NotContains(t, r, "undo")
		assert.NotContains(t, r, "redo")
	}
}

// revisions are the reasons of all states of the first demo model.
func revisions(t *testing.T, w *served) (reasons []string) {
	t.Helper()
	list, err := w.store.Revisions(t.Context(), "gneiss-24-2027")
	require.NoError(t, err)
	for _, r := range list {
		reasons = append(reasons, r.Reason)
	}
	return reasons
}

// A save, and a click on a finding, leave the page where it stands.
func TestTheScrollStandsStill(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 700)
	require.NoError(t, p.Open(w.url+gneissPath+"?part=trunk-1"))
	require.NoError(t, p.Wait(`document.readyState === "complete" && document.fonts.status === "loaded"`))
	top := func(css string) (y float64) {
		y, err := browser.Eval[float64](p, fmt.Sprintf(`document.querySelector(%q).getBoundingClientRect().top`, css))
		require.NoError(t, err)
		return y
	}
	show := func(css string) {
		_, err := browser.Eval[bool](p,
			fmt.Sprintf(`document.querySelector(%q).scrollIntoView({block: "center", behavior: "instant"}), true`, css))
		require.NoError(t, err)
	}
	show("#in-line-length")
	before := top("#in-line-length")
	require.NoError(t, p.Fill("#in-line-length", "12 ft"))
	require.NoError(t, p.WaitText(".notice", "8 ft → 12 ft"))
	assert.InDelta(t, before, top("#in-line-length"), 2)

	require.NoError(t, p.Click("#tab-findings"))
	show(".findings a")
	before = top(".findings a")
	_, err := browser.Eval[bool](p, `document.querySelector(".findings a").click(), true`)
	require.NoError(t, err)
	require.NoError(t, p.Wait(`!!document.querySelector(".findings a[aria-current]")`))
	assert.InDelta(t, before, top(".findings a"), 2)
}

// Undo takes back one's own last change; for another's it asks.
func TestUndoAsksBeforeItTakesAnothersChangeBack(t *testing.T) {
	t.Parallel()
	w := open(t)
	other := second(t, w)
	resp, err := other.PostForm(w.url+gneissPath+"/edit/line/trunk-1",
		url.Values{"from": {"1"}, "f.length": {"9 ft"}})
	require.NoError(t, err)
	resp.Body.Close()
	p := visit(t, w.url, 1280, 900)
	require.NoError(t, p.Open(w.url+gneissPath))
	require.NoError(t, p.Click("#undo"))
	require.NoError(t, p.WaitText(".notice", "Second Author made the last change: Line trunk-1: length 8 ft → 9 ft"))
	assert.Equal(t, "2", w.from(t, "gneiss-24-2027"), "nothing is taken back before it was meant")
	require.NoError(t, p.Click("#anyones"))
	require.NoError(t, p.WaitText(".notice", "undo: Line trunk-1"))
	require.NoError(t, p.Click("#redo"))
	require.NoError(t, p.WaitText(".notice", "redo: Line trunk-1"))
	assert.Equal(t, "4", w.from(t, "gneiss-24-2027"))
}

// What a change breaks is told as an alarm, not as a success.
func TestAChangeThatBringsErrorsSaysSo(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 900)
	require.NoError(t, p.Open(w.url+gneissPath+"?part=pump"))
	require.NoError(t, p.Click("#tab-ports"))
	require.NoError(t, p.Click("#remove"))
	require.NoError(t, p.WaitText(".notice.bad", "It brings"))
	require.NoError(t, p.WaitText(".notice.bad dt", "New error"))
	require.NoError(t, p.Keys("\x1b"))
	require.NoError(t, p.Wait(`!document.querySelector(".notice")`))
}

// The pane of the model stays shown from field to field.
func TestTheModelsPaneStaysShown(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 900)
	require.NoError(t, p.Open(w.url+gneissPath))
	require.NoError(t, p.Click("#tab-model"))
	require.NoError(t, p.Fill("#in-head-name", "Gneiss long"))
	require.NoError(t, p.WaitText(".notice", "name Gneiss 24 → Gneiss long"))
	require.NoError(t, p.Fill("#in-head-kind", "fifth wheel"))
	require.NoError(t, p.WaitText(".notice", "kind"))
	shown, err := browser.Eval[bool](p, `!document.querySelector("#pane-model").hidden`)
	require.NoError(t, err)
	assert.True(t, shown)
}

// A save that gets no answer is told; what was typed stays, and goes when the next field is
// answered.
func TestAFailedSaveIsToldAndSentAgain(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 900)
	require.NoError(t, p.Open(w.url+gneissPath+"?part=pump"))
	require.NoError(t, p.Wait(`document.readyState === "complete"`))
	require.NoError(t, p.Offline(true))
	require.NoError(t, p.Fill("#in-part-name", "Galley pump"))
	require.NoError(t, p.WaitText("#unsaved", "1 change is not saved yet: the server does not answer"))
	require.NoError(t, p.Offline(false))
	require.NoError(t, p.Fill("#in-part-label", "PUMP 2"))
	require.NoError(t, p.WaitText(".notice", "Saved:"))
	require.NoError(t, p.Wait(`document.querySelector("#h-i").textContent.includes("Galley pump")`))
	require.NoError(t, p.Wait(idle))
	m, err := plumbing.Read(strings.NewReader(w.document(t, "gneiss-24-2027")))
	require.NoError(t, err)
	assert.Equal(t, []string{"Galley pump", "PUMP 2"}, []string{m.Part("pump").Name, m.Part("pump").Label})
}

// Enter in a field saves it once.
func TestEnterSavesOnce(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 900)
	require.NoError(t, p.Open(w.url+gneissPath+"?part=trunk-1"))
	require.NoError(t, p.Wait(`document.readyState === "complete"`))
	_, err := browser.Eval[bool](p, `document.querySelector("#in-line-length").select(), true`)
	require.NoError(t, err)
	require.NoError(t, p.Keys("11 ft\r"))
	require.NoError(t, p.WaitText(".notice", "8 ft → 11 ft"))
	require.NoError(t, p.Wait(idle))
	sent, err := browser.Eval[int](p,
		`performance.getEntriesByType("resource").filter(r => r.initiatorType === "xmlhttprequest").length`)
	require.NoError(t, err)
	assert.Equal(t, 1, sent)
	focus, err := browser.Eval[string](p, `document.activeElement.id`)
	require.NoError(t, err)
	assert.Equal(t, "in-line-length", focus)
	assert.Equal(t, "2", w.from(t, "gneiss-24-2027"))
}
