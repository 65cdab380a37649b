package web_test

import (
	"encoding/csv"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	ics "github.com/arran4/golang-ical"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/browser"
)

// The run is played to its end on the drawing; a step that is dragged to a wrong place breaks a rule
// that is named and lit up; undone, all is proven again.
func TestARunPlaysAndAWrongOrderIsNamed(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 800)
	require.NoError(t, p.Open(w.url+"/models/gneiss-24-2027/procedures/drain-down"))
	require.NoError(t, p.Wait(`document.querySelector("#play").dataset.ready > 8`))
	require.NoError(t, p.Choose("#speed", "3"))
	level := `+document.querySelector('.schematic [data-level="fresh"]').getAttribute("height")`
	full, err := browser.Eval[float64](p, level)
	require.NoError(t, err)
	require.NoError(t, p.Click(`[data-play="go"]`))
	require.NoError(t, p.WaitText("#moment", "step 9"))
	require.NoError(t, p.WaitText(`[data-play="go"]`, "Play"))
	require.NoError(t, p.Wait(`!!document.querySelector("#step-9[aria-current=step]")`))
	empty, err := browser.Eval[float64](p, level)
	require.NoError(t, err)
	assert.Less(t, empty, full/10, "the tank has run out on the drawing")
	// The bypass was opened for draining, and stands shut again in the end.
	at := `document.querySelector('.part[data-part="valve-bypass"] .symbol').dataset.at`
	require.NoError(t, p.Wait(at+` === "closed"`))
	require.NoError(t, p.Click(`[data-jump="5"]`))
	require.NoError(t, p.Wait(at+` === "open"`))

	require.NoError(t, p.Click(".editing a"))
	require.NoError(t, p.Wait(`!!document.querySelector(".stepedit")`))
	_, err = browser.Eval[bool](p, `(() => {
		const data = new DataTransfer(), from = document.querySelector("#step-1 .drag");
		const to = document.querySelector("#step-9");
		for (const [el, name] of [[from, "dragstart"], [to, "dragover"], [to, "drop"]]) {
			el.dispatchEvent(new DragEvent(name, { bubbles: true, cancelable: true, dataTransfer: data }));
		}
		return true;
	})()`)
	require.NoError(t, err)
	require.NoError(t, p.WaitText("#playboard .bar", "dangerous"))
	require.NoError(t, p.WaitText(".runsteps .breaches", "opened while scalding water stands behind it"))
	require.NoError(t, p.Click(`.runsteps [data-rule="opened-hot"] button`))
	marked := `!!document.querySelector('.schematic [data-part="heater-relief-valve"].mark-breach')`
	require.NoError(t, p.Wait(marked), "what is opened first of it")
	require.NoError(t, p.Click("#undo"))
	require.NoError(t, p.WaitText("#playboard .bar", "✓ proven"))
	require.NoError(t, p.WaitText("#step-1", "Switch the heater off"))
}

// What is left out on purpose is seen and named, and kept nowhere.
func TestALeftOutStepIsNamedAndNotKept(t *testing.T) {
	t.Parallel()
	at := serve(t) + "/models/gneiss-24-2027/procedures/drain-down"
	_, body := get(t, at+"?skip=1")
	assert.Contains(t, body, "Something is left out on purpose")
	assert.Contains(t, body, "opened while scalding water stands behind it")
	_, body = get(t, at+"?leave=9.valve-bypass")
	assert.Contains(t, squeeze(body), "Bypass valve is not forgotten after all")
	_, body = get(t, at)
	assert.NotContains(t, body, "left out on purpose")
	assert.Contains(t, body, "✓ proven")
}

// Steps are moved, taken out, put back, reworded and added; nonsense is refused and changes nothing.
func TestStepsAreChangedByHand(t *testing.T) {
	t.Parallel()
	w := open(t)
	c := clientOf(t, w.url)
	at := w.url + "/models/gneiss-24-2027/procedures/use-tank"
	page := func() string {
		resp, err := c.Get(at + "?edit=yes")
		require.NoError(t, err)
		_, body := answer(t, resp)
		return body
	}
	post := func(do, key string, more ...string) int {
		from := after(t, page(), `name="from" value="`, `"`)
		f := url.Values{"from": {from}, "do": {do}, "key": {key}}
		for i := 0; i+1 < len(more); i += 2 {
			f.Set(more[i], more[i+1])
		}
		resp, err := c.PostForm(at+"/steps", f)
		require.NoError(t, err)
		code, _ := answer(t, resp)
		return code
	}
	key := func(number string) string { return after(t, page(), `data-step="`+number+`" data-key="`, `"`) }
	first, second := key("1"), key("2")
	assert.Equal(t, http.StatusSeeOther, post("down", first))
	assert.Equal(t, second, key("1"))
	assert.Contains(t, page(), "✗", "an outlet that is opened before the pump is on gives nothing")
	assert.Equal(t, http.StatusSeeOther, post("up", first))
	assert.Equal(t, first, key("1"))
	assert.Equal(t, http.StatusSeeOther, post("leave", second))
	assert.NotEqual(t, second, key("2"))
	assert.Contains(t, page(), "Taken out")
	assert.Equal(t, http.StatusSeeOther, post("back", second))
	assert.Equal(t, second, key("2"))
	assert.Equal(t, http.StatusSeeOther, post("reword", first, "words", "Pump on & <listen>"))
	assert.Contains(t, page(), "Pump on &amp; &lt;listen&gt;")
	assert.Equal(t, http.StatusSeeOther, post("add", first, "words", "Look under the sink", "minutes", "2"))
	assert.Contains(t, key("2"), "by-hand-")
	assert.Contains(t, page(), "Look under the sink")
	for _, bad := range [][]string{{"words", ""}, {"deed", "turn pump open"}, {"deed", "turn no-such-part open"}, {"deed", "burn pump"},
		{"words", "x", "minutes", "many"}, {"words", strings.Repeat("x", 601)}} {
		assert.Equal(t, http.StatusUnprocessableEntity, post("add", first, bad...), bad)
	}
	assert.Equal(t, http.StatusUnprocessableEntity, post("leave", "no-such-step"))
	assert.Equal(t, http.StatusSeeOther, post("reset", ""))
	assert.NotContains(t, page(), "Look under the sink")
	assert.Contains(t, page(), "✓ proven")
}

// after is what stands in a text between two others.
func after(t *testing.T, text, from, to string) string {
	t.Helper()
	_, rest, ok := strings.Cut(text, from)
	require.True(t, ok, from)
	got, _, ok := strings.Cut(rest, to)
	require.True(t, ok, to)
	return got
}

func TestTheListSaysWhatIsProvenAndWhatCantBeHad(t *testing.T) {
	t.Parallel()
	at := serve(t)
	_, body := get(t, at+"/models/gneiss-24-2027/procedures")
	assert.Contains(t, squeeze(body), `winterize-air-then">Winterize: air, then antifreeze</a></th> `+
		`<td><span class="proof yes">✓ proven`)
	assert.Contains(t, body, "chosen")
	_, body = get(t, at+"/models/marl-15-2027/procedures")
	assert.Contains(t, squeeze(body), "This model has no winter pick-up: there is no port to draw antifreeze "+
		"from a container. Instead: "+
		`<a href="/models/marl-15-2027/procedures/winterize-drain">Winterize: drain only</a>`)
	_, body = get(t, at+"/models/marl-15-2027/procedures/winterize-pump")
	assert.Contains(t, body, "Not on this model")
	code, _ := get(t, at+"/models/marl-15-2027/procedures/winterize-pump/film")
	assert.Equal(t, http.StatusNotFound, code)
	code, _ = get(t, at+"/models/marl-15-2027/procedures/nothing")
	assert.Equal(t, http.StatusNotFound, code)
}

// Files say what the page says: as many steps, the same times, in formats that others read.
func TestProceduresAreWrittenAsFiles(t *testing.T) {
	t.Parallel()
	at := serve(t) + "/models/gneiss-24-2027/procedures/drain-down"
	_, page := get(t, at)
	steps := strings.Count(page, "data-step=")
	_, md := get(t, at+"/file/md")
	assert.Equal(t, steps, strings.Count(md, ". [ ] "))
	assert.Contains(t, md, "Proven on this model's plumbing.")
	_, table := get(t, at+"/file/csv")
	r := csv.NewReader(strings.NewReader(strings.TrimPrefix(table, "\ufeff")))
	r.FieldsPerRecord = -1
	rows, err := r.ReadAll()
	require.NoError(t, err)
	assert.Len(t, rows, steps+2)
	_, print := get(t, at+"/file/print")
	assert.Contains(t, print, "It lies:")
	code, _ := get(t, at+"/file/doc")
	assert.Equal(t, http.StatusNotFound, code)

	_, file := get(t, at+"/file/ics?units=2&by=ready&at=2027-04-02T17:00")
	cal, err := ics.ParseCalendar(strings.NewReader(file))
	require.NoError(t, err)
	last := ""
	for _, e := range cal.Events() {
		last = max(last, e.GetProperty(ics.ComponentPropertyDtEnd).Value)
	}
	assert.Equal(t, "20270402T170000", last, "all is ready when it was asked for")
	_, plan := get(t, at+"/plan?units=2&by=ready&at=2027-04-02T17:00")
	assert.Contains(t, plan, "Friday 2 April, 17:00")
	code, body := get(t, at+"/plan?units=0")
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "a number from 1 to 50")
}

// A photograph stands once, with its mark, at the first step that does something at its part.
func TestPhotographsStandAtTheirSteps(t *testing.T) {
	t.Parallel()
	w := open(t)
	c := clientOf(t, w.url)
	body, kind := file(t, "a.jpg", photograph(t))
	resp, err := c.Post(w.url+"/models/gneiss-24-2027/parts/anode/photos", kind, body)
	require.NoError(t, err)
	resp.Body.Close()
	resp, err = c.Get(w.url + "/models/gneiss-24-2027/procedures/drain-down")
	require.NoError(t, err)
	_, page := answer(t, resp)
	assert.Equal(t, 1, strings.Count(page, `class="photo at-step"`))
	step := after(t, page, `id="step-5"`, `id="step-6"`)
	assert.Contains(t, step, `/photos/1/image`)
}

// Whatever is followed from a procedure of a chosen build is of that build.
func TestAProcedureKeepsTheChosenBuild(t *testing.T) {
	t.Parallel()
	url, path := serve(t), "/models/ashlar-20-2027/procedures/drain-down"
	address := regexp.MustCompile(`(?:href|action|hx-get|data-film)="(` + path + `[^"]*)"`)
	for _, query := range []string{"?with=washing-machine", "?edit=yes&with=washing-machine"} {
		_, body := get(t, url+path+query)
		all := address.FindAllStringSubmatch(body, -1)
		require.Greater(t, len(all), 8)
		for _, a := range all {
			assert.Contains(t, a[1], "with=washing-machine")
		}
	}
	_, plan := get(t, url+path+"/plan?with=washing-machine")
	assert.Contains(t, squeeze(plan), `type="hidden" name="with" value="washing-machine"`)
}

// One thing wrong with the unit: what shows first and what it leads to, and the procedure carried out so.
func TestOneThingWrongIsCarriedOut(t *testing.T) {
	t.Parallel()
	w := open(t)
	at := w.url + gneissPath + "/procedures/winterize-pump"
	_, page := get(t, at+"/wrong")
	assert.Contains(t, page, "Water heater: sanitizer or antifreeze gets into it")
	assert.Regexp(t, regexp.MustCompile(`Step \d+: [^<]+\.`), page)
	met := strings.Index(page, "Water heater: sanitizer or antifreeze gets into it")
	link := after(t, page[strings.LastIndex(page[:met], `<a href="`):], `<a href="`, `"`)
	require.Contains(t, link, "fault=", "the fault that it stands at")
	_, wrong := get(t, w.url+link)
	assert.Contains(t, wrong, "carried out so, what follows is marked")
	assert.Contains(t, wrong, `data-rule="heater-met"`)
	_, right := get(t, at)
	assert.NotContains(t, right, `data-rule="heater-met"`)
	code, film := get(t, w.url+strings.Replace(link, "?", "/film?", 1))
	assert.Equal(t, http.StatusOK, code)
	_, usual := get(t, at+"/film")
	assert.NotEqual(t, usual, film)
	code, _ = get(t, at+"?fault=no-such-fault")
	assert.Equal(t, http.StatusOK, code, "one that is no longer there is none")
}

// What an added step does is chosen among what the model has.
func TestDeedsAreChosen(t *testing.T) {
	t.Parallel()
	w := open(t)
	_, form := get(t, w.url+gneissPath+"/procedures/use-tank/adding?key=x&number=3")
	assert.Contains(t, form, `<option value="turn valve-bypass open">`)
	assert.Contains(t, form, `<option value="on pump">`)
	assert.Contains(t, form, `<option value="open shower hot">`)
	assert.Contains(t, form, `<option value="dump grey">`)
	assert.NotContains(t, form, `value="turn pump`)
}

// A plan orders strips by what is read, and the rod of a heater that is opened.
func TestAPlanOrdersWhatIsUsed(t *testing.T) {
	t.Parallel()
	w := open(t)
	_, plan := get(t, w.url+gneissPath+"/procedures/sanitize/plan?units=2")
	one := after(t, plan, "<li>", " test strips")
	assert.Contains(t, one, "bleach")
	assert.Regexp(t, regexp.MustCompile(`<li>\d*[02468] test strips</li>`), plan, "as many for each unit")
	_, plan = get(t, w.url+gneissPath+"/procedures/heater-care/plan?units=2")
	assert.Contains(t, plan, "2 anode rods for the water heater")
}

func TestRangesAreTold(t *testing.T) {
	t.Parallel()
	at := serve(t) + "/models/gneiss-24-2027/procedures"
	_, body := get(t, at+"/drain-down/ranges")
	assert.Contains(t, squeeze(body), "✗</b> 2° off level, right side up")
	assert.Contains(t, squeeze(body), "✓</b> tanks a quarter full: holds")
	_, md := get(t, at+"/drain-down/file/md")
	assert.Contains(t, md, "## Where it does not hold")
}

// While a newer state is carried out the older is shown and says so; the page asks again until it is there.
func TestTheGuidesProceduresFollowAnEdit(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 800)
	require.NoError(t, p.Open(w.url+gneissPath+"/guide"))
	require.NoError(t, p.WaitText("#guide", "Winterize: air, then antifreeze"))
	code, _ := post(t, w.url+gneissPath+"/edit/part/kitchen", url.Values{"from": {"1"}, "f.name": {"Galley tap"}})
	require.Equal(t, http.StatusSeeOther, code)
	err := p.Open(w.url + gneissPath + "/guide")
	require.NoError(t, err)
	for range 4 { // while others work it takes its turn, and rests
		if err = p.WaitText("#guide", "Galley tap"); err == nil {
			break
		}
	}
	require.NoError(t, err)
	require.NoError(t, p.WaitText("h1", "Water system")) // the rest of the guide still stands around them
}
