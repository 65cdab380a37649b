package web_test

import (
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/crypto/bcrypt"

	"coldtap/demo"
	"coldtap/internal/browser"
	"coldtap/internal/sample"
	"coldtap/internal/store"
	"coldtap/internal/testdb"
	"coldtap/internal/web"
)

// views are the addresses of every kind of page.
var views = []string{
	"/sign-in", "/me", "/jobs", "/", "/?q=bypass", "/?q=zzz", "/figures", "/figures?m=gneiss-24-2027&m=tuff-9-2027",
	"/compare", "/compare?a=ashlar-20-2026&b=ashlar-20-2027",
	"/models/gneiss-24-2027?part=valve-bypass", "/models/schist-31-2027?finding=1",
	"/models/ashlar-20-2027?with=washing-machine&with=winter-pack&with=none",
	"/begin", "/models/gneiss-24-2027?part=trunk-1", "/models/gneiss-24-2027/grid",
	"/models/gneiss-24-2027/grid?what=parts", "/models/gneiss-24-2027/history?a=1&b=1",
	"/models/ashlar-20-2027/options", "/models/gneiss-24-2027/photos", "/models/gneiss-24-2027/history?a=1",
	"/models/gneiss-24-2027/layout", "/models/gneiss-24-2027/imports", "/models/ashlar-20-2027/imports/1",
	"/models/gneiss-24-2027/assemblies/branch",
	"/models/gneiss-24-2027/layout?part=outside-shower",
	"/models/gneiss-24-2027/settings?mode=antifreeze&set=valve-heater-in.open",
	"/models/marl-15-2027/settings?mode=city", "/models/gneiss-24-2027/settings?mode=drain-down",
	"/models/schist-31-2027/settings?mode=everyday&why=3&fault=1",
	"/models/feldspar-c7-2027/settings?mode=air", "/models/ashlar-20-2027/settings/matrix",
	"/models/schist-31-2027/guide/card/card", "/models/gneiss-24-2027/amounts?typed=5.5+tbsp",
	"/house?target=65+mg/L", "/house?model=gneiss-24-2027", "/models/gneiss-24-2027/guide",
	"/models/feldspar-c7-2027/guide", "/models/marl-15-2027/procedures",
	"/models/gneiss-24-2027/procedures/winterize-air-then?skip=2", "/models/gneiss-24-2027/procedures/sanitize?edit=yes",
	"/models/marl-15-2027/procedures/winterize-pump", "/models/tuff-9-2027/procedures/sanitize/plan?units=3&people=2",
	"/models/tuff-9-2027/procedures/drain-down/file/print", "/models/gneiss-24-2027/guide?edit=yes&edition=dealer",
	"/models/gneiss-24-2027/procedures/winterize-pump?fault=stands.valve-heater-in.0",
	"/models/gneiss-24-2027/guide/read", "/models/gneiss-24-2027/guide/card/quick", "/models/tuff-9-2027/guide/card/tags",
	"/models/gneiss-24-2027/review", "/models/tuff-9-2027/review/read", "/models/gneiss-24-2027/review/reports",
	"/models/ashlar-20-2027/guide?builds=all&edition=dealer", "/models/tuff-9-2027/guide?edition=dealer",
}

func TestEveryModelsPagesAnswer(t *testing.T) {
	t.Parallel()
	url := serve(t)
	models, err := demo.Models()
	require.NoError(t, err)
	for _, m := range models {
		for _, view := range []string{"", "/layout", "/settings", "/amounts", "/procedures", "/guide", "/file"} {
			code, _ := get(t, url+"/models/"+m.ID+view)
			assert.Equal(t, http.StatusOK, code, m.ID+view)
		}
	}
}

func TestAFindingLightsUpItsParts(t *testing.T) {
	t.Parallel()
	url := serve(t)
	p := visit(t, url, 1280, 800)
	require.NoError(t, p.Open(url+"/models/schist-31-2027"))
	require.NoError(t, p.Click("#finding-label-misleads-plate-filter"))
	require.NoError(t, p.Wait(`document.querySelector('[data-part="plate-filter"]').classList.contains('mark-breach')`))
	require.NoError(t, p.Click("#pick-plate-filter"))
	require.NoError(t, p.WaitText("#rail", "Filter inlet valve b"))
	require.NoError(t, p.WaitText("#rail", "does not bypass the heater"))
}

func TestSearchFindsPartsAndLabels(t *testing.T) {
	t.Parallel()
	url := serve(t)
	p := visit(t, url, 1280, 800)
	require.NoError(t, p.Open(url+"/"))
	require.NoError(t, p.Click("#q"))
	require.NoError(t, p.Keys("winterize"))
	require.NoError(t, p.WaitText("#models", "Pick-up valve"))
	text, err := p.Text("#models")
	require.NoError(t, err)
	assert.NotContains(t, text, "Tuff 9")
}

func TestOptionsChangeTheBuildShown(t *testing.T) {
	t.Parallel()
	url := serve(t)
	_, plain := get(t, url+"/models/ashlar-20-2027")
	_, washer := get(t, url+"/models/ashlar-20-2027?with=washing-machine")
	assert.NotContains(t, plain, `data-part="washer"`)
	assert.Contains(t, washer, `data-part="washer"`)
	_, guide := get(t, url+"/models/ashlar-20-2027/guide/whole?with=washing-machine")
	assert.Contains(t, guide, "Washing machine, hot: run its own short cycle")
}

func TestZoomByKeyboard(t *testing.T) {
	t.Parallel()
	url := serve(t)
	p := visit(t, url, 1280, 800)
	require.NoError(t, p.Open(url+"/models/gneiss-24-2027"))
	_, err := browser.Eval[bool](p, `document.querySelector('.drawing').focus(),true`)
	require.NoError(t, err)
	require.NoError(t, p.Keys("+"))
	require.NoError(t, p.Wait(`document.querySelector('svg.schematic').style.width==='125%'`))
	require.NoError(t, p.Keys("n"))
	require.NoError(t, p.Wait(`document.activeElement.classList.contains('part')`))
}

func TestPagesAnswerAndLoadNothingFromOutside(t *testing.T) {
	t.Parallel()
	url := serve(t)
	for _, path := range views {
		code, body := get(t, url+path)
		assert.Equal(t, http.StatusOK, code, path)
		for _, attr := range []string{`src="http`, `href="http`, `url(http`, "style=\""} {
			assert.NotContains(t, body, attr, path)
		}
		if !strings.Contains(path, "/assemblies/") { // asked for by a page, and not one itself
			assert.Contains(t, body, "</html>", path)
		}
	}
	for _, file := range []string{"css/bootstrap.min.css", "css/theme.css", "js/htmx.min.js",
		"fonts/atkinson-hyperlegible-next-latin-wght-normal.woff2", "licences/htmx-2.0.11.txt"} {
		code, body := get(t, url+"/static/"+file)
		assert.Equal(t, http.StatusOK, code, file)
		if strings.HasSuffix(file, ".css") {
			assert.NotContains(t, body, "url(http", file)
		}
	}
}

func TestErrorsSayWhatToDo(t *testing.T) {
	t.Parallel()
	url := serve(t)
	code, body := get(t, url+"/models/none")
	assert.Equal(t, http.StatusNotFound, code)
	assert.Contains(t, body, "look in the list")
	code, body = get(t, url+"/models/gneiss-24-2027/settings?set=valve-bypass.ajar")
	assert.Equal(t, http.StatusBadRequest, code)
	assert.Contains(t, body, "no handle &#34;valve-bypass&#34; with a position &#34;ajar&#34;")
	for query, words := range map[string]string{"open=kitchen.warm": "no outlet side &#34;kitchen.warm&#34;",
		"pump=maybe": "no pump &#34;maybe&#34;", "at=city.wine": "no port &#34;city&#34; that takes &#34;wine&#34;"} {
		code, body = get(t, url+"/models/gneiss-24-2027/settings?"+query)
		assert.Equal(t, http.StatusBadRequest, code, query)
		assert.Contains(t, body, words)
	}
}

func TestDoseFollowsTheProduct(t *testing.T) {
	t.Parallel()
	url := serve(t)
	_, weak := get(t, url+"/models/gneiss-24-2027/amounts?bleach=5.25+%25")
	_, strong := get(t, url+"/models/gneiss-24-2027/amounts?bleach=8.25+%25")
	assert.Contains(t, weak, "<span class=\"big\">11\u00a0tbsp</span>")
	assert.Contains(t, strong, "<span class=\"big\">7\u00a0tbsp</span>", "11 tbsp · 5.25 / 8.25, exactly 6.9")
	_, over := get(t, url+"/models/gneiss-24-2027/amounts?target=150+mg/L&ceiling=140+mg/L")
	assert.Contains(t, over, "above the ceiling")
	_, wrong := get(t, url+"/models/gneiss-24-2027/amounts?target=lots")
	assert.Contains(t, wrong, "Strength of the sanitizer: ")
	assert.Contains(t, wrong, "11\u00a0tbsp", "the house's rules go on")
}

func TestDatabaseAwayIsSaid(t *testing.T) {
	t.Parallel()
	st, err := store.Open(t.Context(), testdb.DSN(t))
	require.NoError(t, err)
	h, err := web.New(st, web.Options{Cost: bcrypt.MinCost})
	require.NoError(t, err)
	require.NoError(t, st.Close())
	rec := httptest.NewRecorder()
	h.ServeHTTP(rec, httptest.NewRequest(http.MethodGet, "/ready", nil))
	assert.Equal(t, http.StatusServiceUnavailable, rec.Code)
	rec = httptest.NewRecorder()
	h.ServeHTTP(rec, httptest.NewRequest(http.MethodGet, "/health", nil))
	assert.Equal(t, http.StatusOK, rec.Code)
	for _, cookie := range []string{"", "coldtap=anything"} {
		rec = httptest.NewRecorder()
		req := httptest.NewRequest(http.MethodPost, "/sign-in", strings.NewReader("login=imre&password=x"))
		req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		req.Header.Set("Cookie", cookie)
		h.ServeHTTP(rec, req)
		assert.Equal(t, http.StatusServiceUnavailable, rec.Code)
		assert.Contains(t, rec.Body.String(), "Nothing that was saved is lost")
	}
}

func TestTurningAHandleOnTheDrawingChangesTheVerdict(t *testing.T) {
	t.Parallel()
	url := serve(t)
	p := visit(t, url, 1280, 800)
	require.NoError(t, p.Open(url+"/"))
	require.NoError(t, p.Click(`a[href="/models/gneiss-24-2027"]`))
	require.NoError(t, p.WaitText(".which", "Gneiss 24"))
	require.NoError(t, p.Open(url+"/models/gneiss-24-2027/settings?mode=antifreeze"))
	require.NoError(t, p.WaitText(".verdict", "Goal met"))
	require.NoError(t, p.Click("#turn-valve-heater-in"))
	require.NoError(t, p.WaitText(".verdict", "Water heater would fill with antifreeze."))
	// The symbol has turned, the address can be shared, and back goes back.
	require.NoError(t, p.Wait(`document.querySelector('[data-part="valve-heater-in"]').classList.contains('pos-open')`))
	at, err := browser.Eval[string](p, "location.search")
	require.NoError(t, err)
	assert.Contains(t, at, "valve-heater-in.open")
	require.NoError(t, p.Click(".reset"))
	require.NoError(t, p.WaitText(".verdict", "Goal met"))
}

func TestTurningAHandleByKeyboard(t *testing.T) {
	t.Parallel()
	url := serve(t)
	p := visit(t, url, 1280, 800)
	require.NoError(t, p.Open(url+"/models/gneiss-24-2027/settings?mode=antifreeze"))
	_, err := browser.Eval[bool](p, `document.querySelector('#turn-valve-bypass').focus(),true`)
	require.NoError(t, err)
	require.NoError(t, p.Keys("\r"))
	require.NoError(t, p.WaitText(".verdict", "kitchen tap hot, outside shower hot, shower hot: no antifreeze comes."))
	require.NoError(t, p.Wait(`document.activeElement.id === "turn-valve-bypass"`), "the focus stays on the handle")
}

func TestTheBypassLeftOpenIsSeenToSplitTheFlow(t *testing.T) {
	t.Parallel()
	url := serve(t)
	p := visit(t, url, 1280, 800)
	require.NoError(t, p.Open(url+"/models/gneiss-24-2027/settings?mode=antifreeze"))
	require.NoError(t, p.Click("#mode-everyday"))
	require.NoError(t, p.WaitText(".verdict", "Goal met"))
	require.NoError(t, p.Click("#tab-taps"))
	require.NoError(t, p.Click("#way-kitchen-hot"))
	require.NoError(t, p.Click("#tab-now"))
	require.NoError(t, p.WaitText("#rail", "hot side runs"))
	require.NoError(t, p.Click("#turn-valve-bypass"))
	require.NoError(t, p.WaitText(".verdict", "are also fed past the heater"))
	// Both branches of the loop move.
	for _, line := range []string{"tube-1", "tube-2", "heater-in", "heater-out", "h-kitchen"} {
		at := `[...document.querySelectorAll('.flows .moving')].some(m => m.getAttribute('d') === ` +
			`document.querySelector('[data-line="` + line + `"] .run').getAttribute('d'))`
		require.NoError(t, p.Wait(at), line)
	}
	// The pump off: nothing moves any more.
	require.NoError(t, p.Click("#turn-pump"))
	require.NoError(t, p.Wait(`document.querySelectorAll('.flows .moving').length === 0`))
}

func TestAFaultAndAProofAreShownOnTheDrawing(t *testing.T) {
	t.Parallel()
	url := serve(t)
	p := visit(t, url, 1280, 800)
	require.NoError(t, p.Open(url+"/models/gneiss-24-2027/settings?mode=antifreeze"))
	require.NoError(t, p.Click("#tab-whatif"))
	require.NoError(t, p.Click(".faults li:first-child a"))
	require.NoError(t, p.WaitText(".verdict", "Water heater takes about 10"))
	require.NoError(t, p.Wait(`document.querySelector('[data-part="valve-heater-in"]').classList.contains('pos-open')`))
	require.NoError(t, p.Click(".reset"))
	require.NoError(t, p.WaitText(".verdict", "Goal met"))
	require.NoError(t, p.Click("#tab-why"))
	require.NoError(t, p.Click(".clauses li:first-child a"))
	require.NoError(t, p.Wait(`document.querySelectorAll('.line.way-path').length > 3`))
	require.NoError(t, p.WaitText(".verdict", "by way of Winter pick-up hose"))
}

func TestWhatStaysFollowsADrain(t *testing.T) {
	t.Parallel()
	url := serve(t)
	p := visit(t, url, 1280, 800)
	require.NoError(t, p.Open(url+"/models/tuff-9-2027/settings?mode=drain-down"))
	require.NoError(t, p.WaitText("#rail", "Pump strainer"))
	require.NoError(t, p.Wait(`document.querySelector('[data-part="strainer"]').classList.contains('mark-stays')`))
	require.NoError(t, p.Click("#turn-strainer"))
	require.NoError(t, p.Wait(`!document.querySelector('[data-part="strainer"]').classList.contains('mark-stays')`))
}

func TestMarlTellsWhyItHasNoCityModeAndWhatIsDry(t *testing.T) {
	t.Parallel()
	url := serve(t)
	_, body := get(t, url+"/models/marl-15-2027/settings?mode=city")
	assert.Contains(t, body, "This model has no city water inlet.")
	_, body = get(t, url+"/models/marl-15-2027")
	assert.Contains(t, body, "Galley tap, hot")
	_, body = get(t, url+"/models/marl-15-2027/settings?mode=drain-down&set=crossover.closed")
	assert.Contains(t, body, "Crossover valve")
	assert.Contains(t, body, "What would let out more")
}

func TestNothingForAxeInEitherTheme(t *testing.T) {
	t.Parallel()
	url := serve(t)
	for _, screen := range []struct {
		theme string
		wide  int64
	}{{"light", 1280}, {"dark", 1280}, {"light", 390}} {
		p := visit(t, url, screen.wide, 800)
		require.NoError(t, p.Theme(screen.theme))
		for _, path := range sample.Of(t, 4, views) {
			if strings.Contains(path, "/assemblies/") {
				continue
			}
			require.NoError(t, p.Open(url+path))
			found, err := p.Axe("testdata/axe.min.js")
			require.NoError(t, err, path)
			assert.Empty(t, found, "%s %d %s", screen.theme, screen.wide, path)
			wide, err := browser.Eval[bool](p, "document.documentElement.scrollWidth > innerWidth + 1")
			require.NoError(t, err)
			assert.False(t, wide, "%d %s scrolls sideways", screen.wide, path)
		}
	}
}
