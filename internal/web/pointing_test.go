package web_test

import (
	"fmt"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/browser"
	"coldtap/internal/core/plumbing"
)

// drag takes what is in the middle of one element and lets it go elsewhere: at the middle
// of another, moved by some pixels.
func drag(t *testing.T, p *browser.Page, from, to string, dx, dy int) {
	t.Helper()
	_, err := browser.Eval[bool](p, fmt.Sprintf(`(() => {
		const middle = (css) => { const r = document.querySelector(css).getBoundingClientRect();
			return [r.x + r.width / 2, r.y + r.height / 2]; };
		const [x, y] = middle(%q), [u, v] = middle(%q);
		const fire = (type, x, y, el) => el.dispatchEvent(new PointerEvent(type, { clientX: x, clientY: y, bubbles: true,
			cancelable: true, pointerId: 7, button: 0 }));
		const el = document.querySelector(%q);
		fire("pointerdown", x, y, el);
		fire("pointermove", (x + u + %d) / 2, (y + v + %d) / 2, document);
		fire("pointermove", u + %d, v + %d, document);
		fire("pointerup", u + %d, v + %d, document);
		return true })()`, from, to, from, dx, dy, dx, dy, dx, dy))
	require.NoError(t, err)
}

func (w *served) model(t *testing.T, slug string) *plumbing.Model {
	t.Helper()
	m, err := plumbing.Read(strings.NewReader(w.document(t, slug)))
	require.NoError(t, err)
	return m
}

func TestTwoPortsAreJoinedByPointing(t *testing.T) {
	t.Parallel()
	w := open(t)
	post(t, w.url+gneissPath+"/edit/remove", url.Values{"from": {"1"}, "ids": {"c-toilet"}})
	p := visit(t, w.url, 1280, 800)
	require.NoError(t, p.Open(w.url+gneissPath))
	require.NoError(t, p.Wait(`document.readyState === "complete"`))
	require.NoError(t, p.Keys("j"))
	require.NoError(t, p.WaitText("#join-told", "where it begins"))
	require.NoError(t, p.Click("#pick-tee-c-sprayer"))
	require.NoError(t, p.WaitText("#join-told", "where it leads"))
	require.NoError(t, p.Click("#pick-toilet"))
	require.NoError(t, p.WaitText("#port-menu", "cold"))
	require.NoError(t, p.Click("#port-menu button"))
	require.NoError(t, p.WaitText(".notice", "joined"))
	m := w.model(t, "gneiss-24-2027")
	l := m.Lines[len(m.Lines)-1]
	assert.Equal(t, []string{"tee-c-sprayer.b", "toilet.cold"}, []string{l.From, l.To})
	require.NoError(t, p.WaitText("#h-i", "to Toilet"))
	// Pointing at a line puts a tee into it; Esc ends it.
	require.NoError(t, p.Click("#join-by"))
	require.NoError(t, p.Keys("\x1b"))
	require.NoError(t, p.Wait(`!document.documentElement.hasAttribute("data-joining")`))
}

func TestASymbolIsDraggedOnTheSchematic(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 800)
	require.NoError(t, p.Open(w.url+gneissPath))
	require.NoError(t, p.Wait(`document.readyState === "complete"`))
	drag(t, p, "#pick-drain-tank", "#pick-drain-tank", 0, 40)
	require.NoError(t, p.WaitText(".notice", "moved Tank drain on the drawing"))
	assert.Positive(t, w.model(t, "gneiss-24-2027").Drawing["drain-tank"].Y)
	chosen, err := browser.Eval[bool](p, `location.search.includes("drain-tank")`)
	require.NoError(t, err)
	assert.False(t, chosen, "a drag is no click")
}

func TestWhatHasNoPlaceLiesInATray(t *testing.T) {
	t.Parallel()
	w := open(t)
	number := w.model(t, "gneiss-24-2027").Part("toilet").Number
	require.Positive(t, number)
	post(t, w.url+gneissPath+"/edit/part/toilet", url.Values{"from": {"1"}, "f.place.front": {""}, "f.place.left": {""}})
	p := visit(t, w.url, 1280, 800)
	require.NoError(t, p.Open(w.url+gneissPath+"/layout"))
	require.NoError(t, p.WaitText(".tray", "Toilet"))
	none, err := browser.Eval[bool](p, `!document.querySelector('.plan .place[data-part="toilet"]')`)
	require.NoError(t, err)
	assert.True(t, none, "it is not drawn where it is not")
	require.NoError(t, p.Click("#tab-tray"))
	drag(t, p, `[data-tray="toilet"]`, "svg.plan", 20, 10)
	require.NoError(t, p.WaitText(".notice", "Toilet"))
	m := w.model(t, "gneiss-24-2027")
	assert.InDelta(t, float64(m.Body.Length.Value())/2000, float64(m.Part("toilet").Place.Front.Value()), 0.8)
	assert.Equal(t, number, m.Part("toilet").Number, "its number stays")
}
