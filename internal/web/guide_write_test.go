package web_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/browser"
)

// writes opens the guide of Gneiss 24 to be written, with its procedures.
func writes(t *testing.T, w *served, query string) *browser.Page {
	t.Helper()
	p := visit(t, w.url, 1280, 900)
	require.NoError(t, p.Open(w.url+gneissPath+"/guide?edit=yes"+query))
	require.NoError(t, p.WaitText("#guide", "Winterize: air, then antifreeze"))
	require.NoError(t, p.Wait(`!!document.querySelector("#guide .said[tabindex]")`))
	return p
}

// A sentence is reworded where it stands, by mouse or keys; what follows the model in it stays, and what stands for
// nothing is refused with what was typed left as it is. Undo takes it back.
func TestASentenceIsReworded(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := writes(t, w, "")
	require.NoError(t, p.Wait(`document.querySelector("#b-have .said").focus() || true`))
	require.NoError(t, p.Keys("\r"))
	require.NoError(t, p.WaitText("#say-have", "Drafted: Fresh tank: 43.0"))
	require.NoError(t, p.Fill("#reword", "You carry {9:b}"))
	require.NoError(t, p.Click(`#say-have button[value="reword"]`))
	require.NoError(t, p.WaitText("#guide-said", "{9:b} stands for nothing"))
	typed, err := browser.Eval[string](p, `document.querySelector("#reword").value`)
	require.NoError(t, err)
	assert.Equal(t, "You carry {9:b}", typed)
	require.NoError(t, p.Fill("#reword", "You carry {2:b} in {1:r}, [[weight]] in all"))
	require.NoError(t, p.Click(`#say-have button[value="reword"]`))
	require.NoError(t, p.WaitText("#b-have", "You carry 43.0 gal (163 L) in the fresh tank, 452 lb (205 kg) in all"))
	require.NoError(t, p.WaitText("#guide-said", "Kept"))
	code, _ := post(t, w.url+gneissPath+"/edit/part/fresh", url.Values{"from": {"2"}, "f.data.capacity": {"40 gal"}})
	require.Equal(t, http.StatusSeeOther, code)
	_, whole := get(t, w.url+gneissPath+"/guide/whole")
	assert.Contains(t, squeeze(whole), "You carry 40.0")
	require.NoError(t, p.Open(w.url+gneissPath+"/guide?edit=yes"))
	require.NoError(t, p.Click("#undo"))
	require.NoError(t, p.WaitText("#b-have", "You carry 43.0"))
	require.NoError(t, p.Click("#undo"))
	require.NoError(t, p.WaitText("#b-have", "Fresh tank: 43.0"))
}

// A figure is set by hand with a reason and a name; one that makes a danger can't be kept, and the computed one comes
// back.
func TestAFigureIsSetByHand(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := writes(t, w, "")
	const bleach = `#b-figures .live[data-ref="dose/fresh/measured"]`
	require.NoError(t, p.Click(bleach))
	require.NoError(t, p.WaitText("#say-figures", "the model gives 11 tbsp"))
	require.NoError(t, p.WaitText("#say-figures", "Strength of the sanitizer"))
	set := func(value, reason string) {
		require.NoError(t, p.Fill("#by-hand", value))
		require.NoError(t, p.Fill("#by-reason", reason))
		require.NoError(t, p.Click(`#say-figures button[value="figure"]`))
	}
	set("3 cups", "so it was")
	require.NoError(t, p.WaitText("#guide-said", "This can't be kept: It makes"))
	set("12 tbsp", "")
	require.NoError(t, p.WaitText("#guide-said", "say why this figure"))
	set("12 tbsp", "a measuring cup of that size comes with it")
	require.NoError(t, p.WaitText(bleach, "12 tbsp"))
	_, dealer := get(t, w.url+gneissPath+"/guide/whole?edition=dealer")
	assert.Contains(t, squeeze(dealer), "12 tbsp")
	_, figures := get(t, w.url+gneissPath+"/guide/file/csv")
	assert.Contains(t, figures, "12 tbsp,yes,a measuring cup of that size comes with it")
	require.NoError(t, p.Click(bleach))
	require.NoError(t, p.Click(`#say-figures button[value="figure-back"]`))
	require.NoError(t, p.Wait(`document.querySelector('`+bleach+`').textContent.startsWith("11")`))
}

const ids = `[...document.querySelectorAll("#guide .block")].map((b) => b.id)`

// A block is moved by a key, and its button stays under the hand; it is dragged by its handle.
func TestBlocksAreMovedByKeysAndDragged(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := writes(t, w, "")
	require.NoError(t, p.Wait(`document.querySelector('#b-bypass button[value="up"]').focus() || true`))
	require.NoError(t, p.Keys("\r"))
	require.NoError(t, p.Wait(ids+`.indexOf("b-bypass") < `+ids+`.indexOf("b-points")`))
	require.NoError(t, p.Wait(`document.activeElement.value === "up" && !!document.activeElement.closest("#b-bypass")`))
	require.NoError(t, p.Wait(`(() => {
		const grip = document.querySelector("#b-have [data-drag]"), to = document.querySelector("#b-bypass");
		grip.scrollIntoView();
		const at = grip.getBoundingClientRect();
		grip.setPointerCapture = () => {};
		const fire = (type, el, y) => el.dispatchEvent(new PointerEvent(type, { bubbles: true, clientX: at.x + 5, clientY: y,
			pointerId: 1 }));
		fire("pointerdown", grip, at.y + 5);
		const y = to.getBoundingClientRect().top + 2;
		fire("pointermove", grip, y);
		fire("pointerup", grip, y);
		return true;
	})()`))
	require.NoError(t, p.Wait(ids+`.indexOf("b-have") === `+ids+`.indexOf("b-bypass") - 1`))
	require.NoError(t, p.Wait(ids+`.indexOf("b-where") === 0`))
	_, page := get(t, w.url+gneissPath+"/guide")
	assert.Less(t, strings.Index(page, `id="b-where"`), strings.Index(page, `id="b-have"`))
	assert.Less(t, strings.Index(page, `id="b-have"`), strings.Index(page, `id="b-bypass"`))
}

// Words are found in the text, and Enter goes from place to place.
func TestTheTextIsSearched(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := writes(t, w, "")
	require.NoError(t, p.Fill("#guide-find", "anode"))
	require.NoError(t, p.Wait(`/^\d+ places$/.test(document.querySelector(".finds output").textContent)`))
	require.NoError(t, p.Wait(`document.querySelector("#guide-find").focus() || true`))
	require.NoError(t, p.Keys("\r"))
	require.NoError(t, p.Wait(`/^1 of \d+$/.test(document.querySelector(".finds output").textContent)`))
	require.NoError(t, p.Fill("#guide-find", "ice maker"))
	require.NoError(t, p.WaitText(".finds output", "nowhere"))
}

// What is refused loses nothing: too much, or what stands for nothing on this model.
func TestAWrongTextIsRefusedAndKept(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := writes(t, w, "")
	require.NoError(t, p.Click("#b-have .opens-write summary"))
	require.NoError(t, p.Wait(`!!document.querySelector("#text-write-have")`))
	require.NoError(t, p.Fill("#text-write-have", "The tank holds [[part/nowhere]]."))
	require.NoError(t, p.WaitText("#pre-write-have", "This model has nothing that [[part/nowhere]] stands for"))
	require.NoError(t, p.Click(`#b-have button[value="write"]`))
	require.NoError(t, p.WaitText("#guide-said", "has nothing that [[part/nowhere]] stands for"))
	typed, err := browser.Eval[string](p, `document.querySelector("#text-write-have").value`)
	require.NoError(t, err)
	assert.Equal(t, "The tank holds [[part/nowhere]].", typed)
	code, body := post(t, w.url+gneissPath+"/guide", url.Values{"from": {"1"}, "block": {"have"}, "do": {"write"},
		"text": {strings.Repeat("x", 20_001)}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "at most 20 000 characters")
	require.NoError(t, p.Fill("#text-write-have", "The tank holds [[part/fresh]]."))
	require.NoError(t, p.WaitText("#pre-write-have", "The tank holds 43.0 gal (163 L)."))
	require.NoError(t, p.Wait(`(() => { document.querySelector("#b-have select[name=mode]").value = "everyday"; return true; })()`))
	require.NoError(t, p.Click(`#b-have button[value="write"]`))
	require.NoError(t, p.WaitText("#b-text-1", "The tank holds 43.0 gal (163 L)."))
	require.NoError(t, p.Wait(`!!document.querySelector("#b-text-1 svg.schematic")`))
}

// Two authors write in one guide at once: what they do to different things comes together.
func TestTwoAuthorsWriteInOneGuide(t *testing.T) {
	t.Parallel()
	w := open(t)
	write := func(form url.Values) {
		form.Set("from", "1")
		code, body := post(t, w.url+gneissPath+"/guide?edit=yes", form)
		require.Equal(t, http.StatusSeeOther, code, body)
	}
	write(url.Values{"block": {"have"}, "do": {"write"}, "title": {"One"}, "text": {"of one author"}})
	write(url.Values{"block": {"valves"}, "do": {"hide"}})
	write(url.Values{"do": {"figure"}, "figure": {"soak"}, "value": {"5 h to 8 h"}, "reason": {"house custom"}})
	_, whole := get(t, w.url+gneissPath+"/guide/whole")
	assert.Contains(t, whole, "of one author")
	assert.NotContains(t, whole, `id="b-valves"`)
	assert.Contains(t, whole, "5 h to 8 h")
}

// A text that somebody else wrote is held against the model, and a sentence of it taken over.
func TestAnothersTextIsTakenOver(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 900)
	require.NoError(t, p.Open(w.url+gneissPath+"/guide/read"))
	require.NoError(t, p.Fill("#other-text", "The fresh tank holds 43 litres. The tank holds 43 gal. Use bleach of 8.25 %."))
	require.NoError(t, p.Click(".readtext form button"))
	require.NoError(t, p.WaitText(".tally", "2 differ"))
	require.NoError(t, p.WaitText(".tally", "1 can't be told"))
	require.NoError(t, p.WaitText(".read li.v-differs", "litres written for gallons"))
	require.NoError(t, p.WaitText(".read", "put right what differs first"))
	require.NoError(t, p.Click(".read li.v-differs form button"))
	require.NoError(t, p.WaitText("#guide-said", "Kept"))
	_, page := get(t, w.url+gneissPath+"/guide")
	text := squeeze(after(t, page, `id="b-text-1"`, "</section>"))
	assert.Contains(t, text, "The fresh tank holds")
	assert.Contains(t, text, "43.0 gal (163 L)")
	code, body := post(t, w.url+gneissPath+"/guide/read", url.Values{"text": {strings.Repeat("The tank. ", 10_001)}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "at most 100000 are read at once")
}

// A guide leaves as files of every kind, a PDF as a job that can be left; what there is none of is said.
func TestAGuideLeavesAsFiles(t *testing.T) {
	t.Parallel()
	w := open(t)
	at := w.url + gneissPath + "/guide/file/"
	for kind, begins := range map[string]string{"html": "<!doctype html>", "csv": "Model,Figure", "json": "{", "md": "PK",
		"dita": "PK"} {
		resp, err := clientOf(t, w.url).Get(at + kind)
		require.NoError(t, err)
		disposition := resp.Header.Get("Content-Disposition")
		code, body := answer(t, resp)
		assert.Equal(t, http.StatusOK, code, kind)
		assert.True(t, strings.HasPrefix(body, begins), kind)
		assert.Contains(t, disposition, "gneiss-24-2027-owner", kind)
	}
	waited := func(address string) (file string) {
		require.Eventually(t, func() bool {
			code, body := get(t, address)
			assert.Equal(t, http.StatusOK, code, address)
			file = body
			return !strings.Contains(body, "<html") || !assert.Contains(t, body, "You may leave this page")
		}, time.Minute, 100*time.Millisecond)
		return file
	}
	assert.True(t, strings.HasPrefix(waited(at+"pdf?paper=Letter"), "%PDF"))
	assert.True(t, strings.HasPrefix(waited(at+"pdf?edition=card"), "%PDF"))
	archive := waited(at + "zip?edition=dealer")
	z, err := zip.NewReader(strings.NewReader(archive), int64(len(archive)))
	require.NoError(t, err)
	var names []string
	for _, f := range z.File {
		names = append(names, f.Name)
	}
	assert.Contains(t, names, "guide.pdf")
	for _, wrong := range []string{"docx", "pdf?paper=A0", "md?edition=card"} {
		code, _ := get(t, at+wrong)
		assert.Equal(t, http.StatusNotFound, code, wrong)
	}
	_, card := get(t, w.url+gneissPath+"/guide/card/card")
	assert.Contains(t, card, `class="code"`)
	_, jobs := get(t, w.url+"/jobs")
	assert.Contains(t, jobs, "Writing the guide of Gneiss 24 (2027) as pdf")
}

// A photograph stands in the guide with the number of what is marked on it, and leaves with it.
func TestAPhotographStandsInTheGuide(t *testing.T) {
	t.Parallel()
	w := open(t)
	var b bytes.Buffer
	form := multipart.NewWriter(&b)
	f, err := form.CreateFormFile("file", "pump.jpg")
	require.NoError(t, err)
	_, err = f.Write(photo(t))
	require.NoError(t, err)
	require.NoError(t, form.WriteField("caption", "The pump under the bench"))
	require.NoError(t, form.Close())
	_, before := get(t, w.url+gneissPath+"/guide")
	assert.NotContains(t, before, `id="b-photos"`)
	resp, err := clientOf(t, w.url).Post(w.url+gneissPath+"/parts/pump/photos", form.FormDataContentType(), &b)
	require.NoError(t, err)
	code, _ := answer(t, resp)
	require.Equal(t, http.StatusSeeOther, code)
	_, page := get(t, w.url+gneissPath+"/guide")
	at := after(t, page, `id="b-photos"`, "</section>")
	assert.Contains(t, at, "The pump under the bench")
	assert.Contains(t, at, `class="ring"`)
	assert.Contains(t, at, gneissPath+"/photos/1/image")
	_, alone := get(t, w.url+gneissPath+"/guide/file/html")
	assert.Contains(t, alone, "data:image/jpeg;base64,")
	resp, err = clientOf(t, w.url).Get(w.url + gneissPath + "/guide/file/dita")
	require.NoError(t, err)
	raw, err := io.ReadAll(resp.Body)
	require.NoError(t, err)
	require.NoError(t, resp.Body.Close())
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	require.NoError(t, err)
	found := false
	for _, f := range z.File {
		found = found || f.Name == "pictures/photo-1.jpg"
	}
	assert.True(t, found)
}

// A block is said to hold for some units: a build that is another has not got it.
func TestABlockHoldsForSomeUnits(t *testing.T) {
	t.Parallel()
	w := open(t)
	at := w.url + "/models/ashlar-20-2027/guide"
	write := func(form url.Values) {
		code, body := post(t, at+"?edit=yes", form)
		require.Equal(t, http.StatusSeeOther, code, body)
	}
	write(url.Values{"from": {"1"}, "block": {"have"}, "do": {"write"}, "text": {"For the washer alone."}})
	write(url.Values{"from": {"2"}, "block": {"text-1"}, "do": {"restrict"}, "option.washing-machine": {"with"},
		"from-serial": {"A20-2700100"}})
	_, plain := get(t, at+"/whole")
	assert.NotContains(t, plain, "For the washer alone.")
	_, washer := get(t, at+"/whole?with=washing-machine")
	assert.Contains(t, washer, "For the washer alone.")
	assert.Contains(t, washer, "Only from serial number A20-2700100.")
	_, all := get(t, at+"/whole?builds=all")
	assert.Equal(t, 1, strings.Count(all, "For the washer alone."))
}

// The words of the house stand in every guide: its name and mark, its caution, its warranty at the work it is for; the
// sides of the vehicle as it calls them; steps as it tells them.
func TestTheHousesWordsStandInGuides(t *testing.T) {
	t.Parallel()
	w := open(t)
	form := url.Values{"maker-name": {"Stonecrop & Daughters"}, "maker-mark": {"S&D"}, "fixed-caution": {"Read all of it first."},
		"warranty-winter": {"Frost damage is covered if this was followed."}, "sides": {"road side, kerb side"},
		"tone": {"terse"}}
	for rule := range form {
		form.Set("v."+rule, "0")
	}
	code, body := post(t, w.url+"/house", form)
	require.Equal(t, http.StatusOK, code, body)
	_, page := get(t, w.url+gneissPath+"/guide/whole")
	for _, words := range []string{"Stonecrop &amp; Daughters", "S&amp;D", "Read all of it first.", "road side", "kerb side"} {
		assert.Contains(t, page, words)
	}
	assert.Equal(t, 3, strings.Count(page, "Frost damage is covered"), "two ways of winterizing, and spring")
	assert.NotContains(t, page, `<p class="notes">`)
}

// On a phone the guide has its contents, and nothing of it is wider than the screen.
func TestAGuideFitsAPhone(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 390, 844)
	for _, model := range []string{"gneiss-24-2027", "schist-31-2027"} {
		require.NoError(t, p.Open(w.url+"/models/"+model+"/guide?edition=dealer"))
		require.NoError(t, p.WaitText("#guide", "Winterize"))
		require.NoError(t, p.Wait(`document.querySelectorAll("#g-contents a").length > 20`))
		wide, err := browser.Eval[float64](p, `document.documentElement.scrollWidth`)
		require.NoError(t, err)
		assert.LessOrEqual(t, wide, 390.0, model)
		small, err := browser.Eval[float64](p, `Math.min(...[...document.querySelectorAll("#guide .do")].map((e) => `+
			`parseFloat(getComputedStyle(e).fontSize)))`)
		require.NoError(t, err)
		assert.GreaterOrEqual(t, small, 16.0, fmt.Sprint(model, ": steps can be read"))
	}
}
