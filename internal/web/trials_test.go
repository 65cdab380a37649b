package web_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"html"
	"math/rand/v2"
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
	"coldtap/internal/core/draft"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/trial"
	"coldtap/internal/pretend"
	"coldtap/internal/pretend/script"
	"coldtap/internal/sample"
)

const gneissTrials = "/models/gneiss-24-2027/trials"

// goes sends a form as somebody, and gives where that leads.
func goes(t *testing.T, c *http.Client, address string, form url.Values) (status int, to, body string) {
	t.Helper()
	resp, err := c.PostForm(address, form)
	require.NoError(t, err)
	status, body = answer(t, resp)
	return status, resp.Header.Get("Location"), body
}

func looks(t *testing.T, c *http.Client, address string) (int, string) {
	t.Helper()
	resp, err := c.Get(address)
	require.NoError(t, err)
	return answer(t, resp)
}

// tried makes a trial of winterizing on a pretended unit of the demo world, and gives its word.
func tried(t *testing.T, w *served, c *http.Client, truth pretend.Truth, seed uint64) string {
	t.Helper()
	status, to, body := goes(t, c, w.url+gneissTrials, url.Values{"serial": {"G24-2700123"},
		"task": {"winterize-air-then"}})
	require.Equal(t, http.StatusSeeOther, status, body)
	code := strings.TrimPrefix(to, "/trials/")
	doc, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	b, err := doc.Build(doc.StandardOptions()...)
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(b)
	require.NoError(t, err)
	plan, err := setting.Plan(t.Context(), n)
	require.NoError(t, err)
	rules := house.Usual(doc.System())
	d := draft.NewMaker(draft.Inputs{Net: n, Plan: plan, House: rules}).Make(t.Context(), "winterize-air-then")
	h := pretend.House{RunOut: float64(house.RunOut.Of(rules)), Alone: house.Alone.Of(rules), Start: 1}
	seen := pretend.Usual.Blur(rand.New(rand.NewPCG(seed, 1)), pretend.Do(n, truth, h, script.Of(n, d.Procedure)))
	list := []trial.Entry{{ID: "helper-was-there", At: time.Now().UnixMilli(), Kind: trial.Helper, Value: 1}}
	for i, s := range seen {
		if s.Kind == "jug" {
			list = append(list, trial.Entry{ID: fmt.Sprintf("pretended-%d", i), At: time.Now().UnixMilli(), Step: s.Key,
				Kind:  "jug",
				Value: s.Value})
		}
	}
	sends(t, w, c, code, list)
	status, _, body = goes(t, c, w.url+"/trials/"+code+"/state", url.Values{"to": {"finished"}})
	require.Equal(t, http.StatusSeeOther, status, body)
	return code
}

// sends sends entries as a phone does.
func sends(t *testing.T, w *served, c *http.Client, code string, list []trial.Entry) {
	t.Helper()
	raw, err := json.Marshal(map[string]any{"entries": list})
	require.NoError(t, err)
	resp, err := c.Post(w.url+"/trials/"+code+"/entries", "application/json", bytes.NewReader(raw))
	require.NoError(t, err)
	status, body := answer(t, resp)
	require.Equal(t, http.StatusOK, status, body)
}

// comparison is the page of a trial when it is worked out.
func comparison(t *testing.T, w *served, c *http.Client, code string) (page string) {
	t.Helper()
	require.Eventually(t, func() bool {
		_, page = looks(t, c, w.url+"/trials/"+code+"/compare")
		return strings.Contains(page, "Measured beside computed") && !strings.Contains(page, "underway")
	}, 3*time.Minute, 200*time.Millisecond)
	return page
}

// effects is the page of what a correction changes when it is worked out.
func effects(t *testing.T, w *served, c *http.Client, address string) (page string) {
	t.Helper()
	require.Eventually(t, func() bool {
		status, text := looks(t, c, w.url+address)
		page = text
		return status == http.StatusOK && !strings.Contains(page, "underway")
	}, 3*time.Minute, 300*time.Millisecond)
	return page
}

// asks are the fields that a page of effects sends: what somebody looked at.
func asks(t *testing.T, page string) url.Values {
	t.Helper()
	form := url.Values{}
	for _, m := range regexp.MustCompile(`name="(of|after)"\s+value="([^"]*)"`).FindAllStringSubmatch(page, -1) {
		form.Set(m[1], html.UnescapeString(m[2]))
	}
	require.Len(t, form, 2)
	return form
}

var correctionLink = regexp.MustCompile(`/trials/[A-Z2-7]{26}/compare/\d+`)

// broken counts the lines of the published guide that no longer hold.
func broken(t *testing.T, w *served) (n int) {
	t.Helper()
	require.Eventually(t, func() bool {
		_, page := get(t, w.url+gneissReview)
		m := regexp.MustCompile(`<b>(\d+)\s+lines? no longer`).FindStringSubmatch(regexp.MustCompile(`\s+`).ReplaceAllString(page, " "))
		if m == nil || strings.Contains(page, "underway") {
			return false
		}
		fmt.Sscan(m[1], &n)
		return true
	}, 3*time.Minute, 300*time.Millisecond)
	return n
}

// A correction of a line: the model, its figures and the list of guides follow, and go back when it is undone.
func TestACorrectionOfAModelIsTakenOverAndUndone(t *testing.T) {
	t.Parallel()
	w := openTried(t)
	imre := client(t, w.url, "imre")
	code := trialCodes(t, w)[2]
	page := comparison(t, w, imre, code)
	assert.Contains(t, page, "It came out otherwise, and this explains it")
	assert.Contains(t, page, "Measure the lines with a tape")
	at := correctionLink.FindString(page)
	require.NotEmpty(t, at)
	before, figures := length(t, w, "h-outside"), figuresOf(t, w, "gneiss-24-2027")
	stale := broken(t, w)
	told := effects(t, w, imre, at)
	assert.Contains(t, told, "more of")
	assert.Contains(t, told, "the antifreeze at the weakest place would be", "more water of a longer line thins it")
	other := asks(t, told)
	other.Set("after", "99 ft")
	status, _, body := goes(t, imre, w.url+at, other)
	assert.Equal(t, http.StatusUnprocessableEntity, status, "nothing is made but what was looked at")
	assert.Contains(t, body, "was changed since you looked")
	status, to, body := goes(t, imre, w.url+at, asks(t, told))
	require.Equal(t, http.StatusSeeOther, status, body)
	assert.Contains(t, to, code)
	assert.Equal(t, before, length(t, w, "h-outside"), "it waits for the reviewer")
	id := regexp.MustCompile(`/corrections/(\d+)`).FindStringSubmatch(comparison(t, w, imre, code))
	require.NotNil(t, id)
	status, _, body = goes(t, client(t, w.url, "odile"), w.url+"/corrections/"+id[1], url.Values{"do": {"take"}})
	require.Equal(t, http.StatusSeeOther, status, body)
	after := length(t, w, "h-outside")
	assert.NotEqual(t, before, after)
	assert.NotEqual(t, figures, figuresOf(t, w, "gneiss-24-2027"), "what is computed follows")
	assert.Greater(t, broken(t, w), stale, "guides that no longer hold are told")
	page = comparison(t, w, imre, code)
	assert.Contains(t, page, "It came out as computed", "on the corrected model the trial agrees")
	_, history := get(t, w.url+"/models/gneiss-24-2027/history")
	assert.Contains(t, history, "trial of Winterize: air, then antifreeze on G24-2700140", "the trial is the reason")

	status, _, body = goes(t, imre, w.url+"/corrections/"+id[1], url.Values{"do": {"undo"}})
	require.Equal(t, http.StatusSeeOther, status, body)
	assert.Equal(t, before, length(t, w, "h-outside"))
	assert.Equal(t, figures, figuresOf(t, w, "gneiss-24-2027"))
	assert.Equal(t, stale, broken(t, w))
}

func length(t *testing.T, w *served, line string) string {
	t.Helper()
	_, rev, err := w.store.Current(t.Context(), "gneiss-24-2027")
	require.NoError(t, err)
	doc, err := rev.Read()
	require.NoError(t, err)
	return doc.Line(line).Length.String()
}

// figuresOf is the file of what is computed for a model.
func figuresOf(t *testing.T, w *served, slug string) string {
	t.Helper()
	status, body := get(t, w.url+"/models/"+slug+"/amounts/file/csv")
	require.Equal(t, http.StatusOK, status)
	return body
}

// A correction of an allowance of the house: other models follow. One that lowers what keeps lines safe waits for the
// reviewer.
func TestACorrectionOfAnAllowanceGoesToAllModels(t *testing.T) {
	t.Parallel()
	w := openTried(t)
	imre, odile := client(t, w.url, "imre"), client(t, w.url, "odile")
	code := tried(t, w, imre, pretend.Truth{Overrun: 0.2}, 1)
	page := comparison(t, w, imre, code)
	require.Contains(t, page, "run at each outlet side until it is coloured")
	at := correctionLink.FindString(page)
	ashlar := figuresOf(t, w, "ashlar-20-2026")
	told := effects(t, w, imre, at)
	assert.Contains(t, told, "Ashlar 20", "the other models are told")
	assert.NotContains(t, told, "Ask the reviewer", "more overrun protects more")
	status, _, body := goes(t, imre, w.url+at, asks(t, told))
	require.Equal(t, http.StatusSeeOther, status, body)
	assert.NotEqual(t, ashlar, figuresOf(t, w, "ashlar-20-2026"), "other models follow")
	rules, err := w.store.HouseRules(t.Context())
	require.NoError(t, err)
	require.Len(t, rules, 1)
	assert.Contains(t, rules[0].Why, "trial of Winterize: air, then antifreeze on G24-2700123")

	// Now the units take less than the house allows: that needs the reviewer.
	code = tried(t, w, imre, pretend.Truth{Overrun: -0.05}, 2)
	page = comparison(t, w, imre, code)
	require.Contains(t, page, "less run at each outlet side")
	at = correctionLink.FindString(page)
	told = effects(t, w, imre, at)
	assert.Contains(t, told, "the overrun at each outlet side would be")
	assert.Contains(t, told, "Ask the reviewer for it")
	status, _, body = goes(t, imre, w.url+at, asks(t, told))
	require.Equal(t, http.StatusSeeOther, status, body)
	again, err := w.store.HouseRules(t.Context())
	require.NoError(t, err)
	assert.Equal(t, rules[0].Value, again[0].Value, "it waits")
	asked, err := w.store.CorrectionsAsked(t.Context())
	require.NoError(t, err)
	require.Len(t, asked, 1)
	to := fmt.Sprintf("%s/corrections/%d", w.url, asked[0].ID)
	status, _, body = goes(t, imre, to, url.Values{"do": {"take"}})
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, body, "the reviewer takes it over")
	status, _, _ = goes(t, odile, to, url.Values{"do": {"take"}})
	assert.Equal(t, http.StatusSeeOther, status)
	again, err = w.store.HouseRules(t.Context())
	require.NoError(t, err)
	assert.NotEqual(t, rules[0].Value, again[0].Value, "the reviewer took it over")
	status, _, _ = goes(t, odile, to, url.Values{"do": {"undo"}})
	assert.Equal(t, http.StatusSeeOther, status)
	again, err = w.store.HouseRules(t.Context())
	require.NoError(t, err)
	first, err := house.Usual(0).With("", map[string]string{"overrun": rules[0].Value})
	require.NoError(t, err)
	back, err := house.Usual(0).With("", map[string]string{"overrun": again[0].Value})
	require.NoError(t, err)
	assert.InDelta(t, float64(house.Overrun.Of(first)), float64(house.Overrun.Of(back)), 0.002, "undone: back")
}

// Technicians see the units of their own dealer, and the trials on them; the public nothing.
func TestATechnicianSeesTheirOwnDealersUnits(t *testing.T) {
	t.Parallel()
	w := openTried(t)
	pia, sam, imre, nobody := client(t, w.url, "pia"), client(t, w.url, "sam"), client(t, w.url, "imre"), client(t,
		w.url, "")
	unit, err := w.store.UnitBySerial(t.Context(), app.SerialKey("G24-2700123"))
	require.NoError(t, err)
	at, code := fmt.Sprintf("/units/%d", unit.ID), trialCodes(t, w)[0]
	for _, address := range []string{at, at + "/calendar.ics", "/u/" + unit.Code, "/trials/" + code, "/trials/" + code +
		"/entries",
		"/trials/" + code + "/compare", "/trials/" + code + "/file/json"} {
		status, _ := looks(t, sam, w.url+address)
		assert.Equal(t, http.StatusNotFound, status, "%s as of another dealer", address)
		status, _ = looks(t, nobody, w.url+address)
		assert.Equal(t, http.StatusSeeOther, status, "%s as nobody", address)
		for _, c := range []*http.Client{pia, imre} {
			status, _ = looks(t, c, w.url+address)
			assert.Contains(t, []int{http.StatusOK, http.StatusSeeOther}, status, address)
		}
	}
	status, _, _ := goes(t, sam, w.url+at, url.Values{"do": {"write"}, "kind": {"noted"}, "words": {"x"}})
	assert.Equal(t, http.StatusNotFound, status)
	_, list := looks(t, sam, w.url+"/units?ahead=365")
	assert.NotContains(t, list, "G24-2700123")
	assert.Contains(t, list, "T9-2700012")
	_, list = looks(t, sam, w.url+gneissTrials)
	assert.NotContains(t, list, "G24-2700123")
	_, list = looks(t, imre, w.url+"/units?ahead=365")
	assert.Contains(t, list, "G24-2700123")
	status, _ = looks(t, sam, w.url+"/units?find=g24+2700123")
	assert.Equal(t, http.StatusOK, status, "it is not found")
	status, to, _ := goes(t, sam, w.url+"/units", url.Values{"serial": {"G24-2700200"}, "use": {"holidays"}})
	require.Equal(t, http.StatusSeeOther, status)
	status, _ = looks(t, pia, w.url+to)
	assert.Equal(t, http.StatusNotFound, status, "what sam adds is of Lakeside")
}

// What was done is written in the log, what is due follows, and what was wrong is taken back.
func TestALogIsKept(t *testing.T) {
	t.Parallel()
	w := openTried(t)
	pia := client(t, w.url, "pia")
	status, to, body := goes(t, pia, w.url+"/units", url.Values{"serial": {"G24-2700300"}, "use": {"holidays"},
		"made": {"2026-05-01"}})
	require.Equal(t, http.StatusSeeOther, status, body)
	at := w.url + to
	_, page := looks(t, pia, at)
	assert.Contains(t, page, "Sanitize")
	assert.Contains(t, page, "as computed: no winter of this unit is written down yet")
	write := func(form url.Values) (int, string) {
		form.Set("do", "write")
		form.Set("mark", app.NewCode())
		status, _, body := goes(t, pia, at, form)
		return status, body
	}
	status, body = write(url.Values{"kind": {"winterized"}, "on": {"2026-10-02"}, "jugs": {"3"}})
	require.Equal(t, http.StatusSeeOther, status, body)
	status, _ = write(url.Values{"kind": {"anode-look"}, "on": {"2026-10-02"}, "anode": {"heater"}, "share": {"80 %"}})
	require.Equal(t, http.StatusSeeOther, status)
	_, page = looks(t, pia, at)
	assert.Contains(t, page, "3 jugs of antifreeze, by what it took in 1 winter")
	assert.Contains(t, page, "Change the anode")
	assert.Contains(t, page, "1 April 2027")
	for _, wrong := range []url.Values{{"kind": {"winterized"}, "on": {"2026-10-02"}, "jugs": {"three"}},
		{"kind": {"sanitized"}, "on": {"2031-01-01"}}, {"kind": {"sanitized"}, "on": {"2.10.2026"}},
		{"kind": {"anode-look"}, "on": {"2026-10-02"}, "anode": {"heater"}, "share": {"180"}}, {"kind": {"noted"},
			"on": {"2026-10-02"}}} {
		status, body := write(wrong)
		assert.Equal(t, http.StatusUnprocessableEntity, status)
		assert.Contains(t, body, `role="alert"`)
	}
	mark := regexp.MustCompile(`name="mark"\s+value="([A-Z2-7]{26})"><button`).FindStringSubmatch(page)
	require.NotNil(t, mark)
	status, _, _ = goes(t, pia, at, url.Values{"do": {"take-back"}, "mark": {mark[1]}})
	require.Equal(t, http.StatusSeeOther, status)
	_, page = looks(t, pia, at)
	assert.Contains(t, squeeze(page), "taken back by Pia Lund")
	_, calendar := looks(t, pia, at+"/calendar.ics")
	assert.Contains(t, calendar, "BEGIN:VEVENT")
	assert.Contains(t, calendar, "G24-2700300: Sanitize")
	ashlar, err := w.store.UnitBySerial(t.Context(), "A202600044")
	require.NoError(t, err)
	form := url.Values{"do": {"change"}, "use": {"stored"}, "build": {"washing-machine"}, "note": {"bought second-hand"}}
	status, _, body = goes(t, pia, fmt.Sprintf("%s/units/%d", w.url, ashlar.ID), form)
	require.Equal(t, http.StatusSeeOther, status, body)
	ashlar, err = w.store.UnitBySerial(t.Context(), "A202600044")
	require.NoError(t, err)
	assert.Equal(t, "washing-machine", ashlar.Build)
	form.Set("build", "no-such-thing")
	status, _, _ = goes(t, pia, fmt.Sprintf("%s/units/%d", w.url, ashlar.ID), form)
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	status, _, body = goes(t, pia, w.url+"/units", url.Values{"serial": {"g24 2700300"}, "use": {"holidays"}})
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, body, "is kept already")
}

// Owners' reports on the same step stand together beside the trials of it, and are answered together.
func TestAlikeReportsAreAnsweredTogether(t *testing.T) {
	t.Parallel()
	w := openTried(t)
	list, err := w.store.PublishedOf(t.Context(), "gneiss-24-2027")
	require.NoError(t, err)
	readers := &app.Readers{Store: w.store, Now: time.Now}
	for i, words := range []string{"No water comes at the basin.", "The basin stays dry."} {
		r := app.Report{Code: app.NewCode(), Build: "plain", Task: "winterize-air-then", Step: 4, Words: words}
		require.NoError(t, readers.Send(t.Context(), &list[0], r, fmt.Sprint("192.0.2.", i)))
	}
	_, page := get(t, w.url+gneissTrials)
	assert.Contains(t, page, "2 open")
	assert.Contains(t, comparison(t, w, client(t, w.url, "imre"), trialCodes(t, w)[0]), "The basin stays dry.")
	row, _, err := w.store.Head(t.Context(), "gneiss-24-2027")
	require.NoError(t, err)
	reports, err := w.store.ReportsOf(t.Context(), row.ID)
	require.NoError(t, err)
	form := url.Values{"do": {"answer"}, "words": {"Open the pick-up valve first."}, "also": {fmt.Sprint(reports[0].ID),
		fmt.Sprint(reports[1].ID)}}
	status, _ := post(t, fmt.Sprintf("%s%s/reports/%d", w.url, gneissReview, reports[0].ID), form)
	require.Equal(t, http.StatusSeeOther, status)
	reports, err = w.store.ReportsOf(t.Context(), row.ID)
	require.NoError(t, err)
	for _, r := range reports[:2] {
		assert.Equal(t, app.ReportAnswered, r.State)
		assert.Equal(t, "Open the pick-up valve first.", r.Answer)
	}
}

// A value out of any sensible range is asked back in the unit that was likely meant; a drain that was not opened, a
// photograph and what worked instead are written down.
func TestThePhoneAsksBackAndKeeps(t *testing.T) {
	t.Parallel()
	w := openTried(t)
	pia := client(t, w.url, "pia")
	status, to, body := goes(t, pia, w.url+gneissTrials, url.Values{"serial": {"G24-2700123"}, "task": {"sanitize"}})
	require.Equal(t, http.StatusSeeOther, status, body)
	p := newPage(t, 390, 844)
	enter(t, p, w.url, pia)
	require.NoError(t, p.Open(w.url+to))
	require.NoError(t, p.WaitText("#told", "All is kept"))
	hose := `[...document.querySelectorAll(".stride.now .panel h3")].find((x) => x.textContent.includes("hose gives")).parentElement`
	require.NoError(t, p.Wait(`(() => { const b = `+hose+`; b.querySelector("input").value = "150";
		b.querySelector("button").click(); return true; })()`))
	require.NoError(t, p.WaitText(".stride.now .asks", "Look again"))
	offered, err := browser.Eval[string](p, `document.querySelector(".stride.now .asks button").textContent`)
	require.NoError(t, err)
	assert.Equal(t, "Keep 150 gal/min", offered, "in no other unit it is sensible either")
	tank := `[...document.querySelectorAll(".stride.now .panel h3")].find((x) => x.textContent.includes("full to")).parentElement`
	require.NoError(t, p.Wait(`(() => { const b = `+tank+`; b.querySelector("input").value = "25";
		b.querySelector("button").click(); return true; })()`))
	require.NoError(t, p.Wait(`document.trial.holds().some((e) => e.kind === "start-level" && e.value === 0.25)`))
	// The caught water of the drained tank in litres, typed as gallons.
	require.NoError(t, p.Wait(`(() => { const i = document.trial.what.steps
		.findIndex((s) => (s.probes || []).some((x) => x.kind === "caught"));
		document.trial.kept.at = i + 1; document.dispatchEvent(new Event("trial:changed")); return i >= 0; })()`))
	caught := `[...document.querySelectorAll(".stride.now .panel h3")].find((x) => x.textContent.includes("Caught")).parentElement`
	require.NoError(t, p.Wait(`(() => { const b = `+caught+`; b.querySelector("input").value = "161";
		b.querySelector("button").click(); return true; })()`))
	require.NoError(t, p.WaitText(".stride.now .asks", "161 L"))
	require.NoError(t, p.Wait(`(() => { [...document.querySelectorAll(".stride.now .asks button")]
		.find((b) => b.textContent === "161 L").click(); return true; })()`))
	require.NoError(t, p.Wait(`document.trial.holds().some((e) => e.kind === "caught" && Math.abs(e.value - 161) < 0.01)`))
	require.NoError(t, p.Wait(`(() => { const d = [...document.querySelectorAll(".stride.now details")].find((x) =>
		x.textContent.includes("could not be done")); d.open = true; d.querySelector("textarea").value = "The drain is frozen: thawed it first.";
		d.querySelector("button").click(); return true; })()`))
	// A photograph that was taken without a network comes when there is one.
	require.NoError(t, p.Offline(true))
	require.NoError(t, p.Wait(`window.taken || (window.taken = true, (() => { const c = document.createElement("canvas");
		c.width = c.height = 40; c.getContext("2d").fillRect(5, 5, 20, 20);
		c.toBlob((b) => document.trial.photo(b, "", "the drain"), "image/jpeg"); })(), true)`))
	require.NoError(t, p.WaitText("#told", "wait on this phone"))
	require.NoError(t, p.Wait(`document.trial.holds().some((e) => e.kind === "photo")`))
	require.NoError(t, p.Wait(`(document.trial.kept.at = 0, document.dispatchEvent(new Event("trial:changed")), true)`))
	require.NoError(t, p.Wait(`[...document.querySelectorAll(".stride.now .shots img")].some((x) => x.naturalWidth > 0)`))
	require.NoError(t, p.Offline(false))
	require.NoError(t, p.WaitText("#told", "All is kept"))
	code := strings.TrimPrefix(to, "/trials/")
	page := comparison(t, w, pia, code)
	assert.Contains(t, page, "The drain is frozen: thawed it first.")
	assert.Contains(t, page, "was 25 % full")
	at := regexp.MustCompile(`/trials/[A-Z2-7]{26}/photo/[A-Za-z0-9-]+`).FindString(page)
	require.NotEmpty(t, at, "the photograph is there")
	status, raw := looks(t, pia, w.url+at)
	assert.Equal(t, http.StatusOK, status)
	assert.True(t, strings.HasPrefix(raw, "\xff\xd8"), "it is a picture")
	wrong, err := p.Axe("testdata/axe.min.js")
	require.NoError(t, err)
	assert.Empty(t, wrong)
}

// A trial is written as CSV and JSON, with all that was written down.
func TestATrialIsWrittenOut(t *testing.T) {
	t.Parallel()
	w := openTried(t)
	code := trialCodes(t, w)[2]
	_, raw := get(t, w.url+"/trials/"+code+"/file/json")
	var file struct {
		Format, Serial string
		Entries        []trial.Entry
	}
	require.NoError(t, json.Unmarshal([]byte(raw), &file))
	assert.Equal(t, "coldtap-trial/1", file.Format)
	x, err := w.store.TrialByCode(context.Background(), code)
	require.NoError(t, err)
	rows, err := w.store.TrialEntries(context.Background(), x.ID)
	require.NoError(t, err)
	assert.Len(t, file.Entries, len(rows))
	_, text := get(t, w.url+"/trials/"+code+"/file/csv")
	assert.Len(t, strings.Split(strings.TrimSpace(text), "\n"), len(rows)+1)
	assert.Contains(t, text, "The shower hose was frozen")
}

// The envelope of a guide says how it came out on units.
func TestAGuideSaysHowItCameOut(t *testing.T) {
	t.Parallel()
	w := openTried(t)
	_, body := stranger(t, w.url+gneissRead+"/do/winterize-air-then")
	assert.Contains(t, body, "was tried on 2 units, last on 12 November 2026")
	assert.Contains(t, body, "measured,")
	_, body = stranger(t, w.url+gneissRead+"/do/drain-down")
	assert.Contains(t, body, "This was not tried on a unit yet")
	_, raw := stranger(t, w.url+gneissRead+"/envelope.json")
	var e struct{ Tried []app.TriedOf }
	require.NoError(t, json.Unmarshal([]byte(raw), &e))
	require.Len(t, e.Tried, 2)
	assert.Equal(t, 2, e.Tried[0].Trials)
	jug := e.Tried[0].Came[len(e.Tried[0].Came)-1]
	assert.InDelta(t, 6.0, jug.Measured, 0.6, "one as computed, one a litre more")
	assert.InDelta(t, 5.57, jug.Computed, 0.01)
}

// The pages of trials and units are accessible, on the desk and on the phone.
func TestPagesOfTrialsAreAccessible(t *testing.T) {
	t.Parallel()
	w := openTried(t)
	codes := trialCodes(t, w)
	comparison(t, w, client(t, w.url, "imre"), codes[2])
	for _, width := range []int64{1280, 390} {
		p := visit(t, w.url, width, 800)
		for _, path := range sample.Of(t, 2, []string{"/units", "/units/1", gneissTrials,
			"/trials/" + codes[2] + "/compare", "/trials/" + codes[2] + "/compare/0", "/trials/" + codes[0]}) {
			require.NoError(t, p.Open(w.url+path))
			found, err := p.Axe("testdata/axe.min.js")
			require.NoError(t, err)
			assert.Empty(t, found, "%s at %d", path, width)
			wide, err := browser.Eval[int](p, `document.documentElement.scrollWidth - innerWidth`)
			require.NoError(t, err)
			assert.LessOrEqual(t, wide, 0, "%s at %d needs no scrolling sideways", path, width)
		}
	}
}

// Every procedure of every demo model can be taken to a unit, and the comparison of what somebody ticked there
// answers.
func TestEveryProcedureCanBeTakenToAUnit(t *testing.T) {
	t.Parallel()
	w := openTried(t)
	imre := client(t, w.url, "imre")
	models, err := w.store.Models(t.Context())
	require.NoError(t, err)
	option := regexp.MustCompile(`<option\s+value="([a-z-]+)"`)
	for _, m := range sample.Of(t, 1, models) {
		serial := "ALL-" + m.Slug
		status, _, body := goes(t, imre, w.url+"/units", url.Values{"serial": {serial}, "model": {m.Slug},
			"use": {"holidays"}})
		require.Equal(t, http.StatusSeeOther, status, body)
		_, page := looks(t, imre, w.url+"/models/"+m.Slug+"/trials")
		_, form, ok := strings.Cut(page, `id="tr-task"`)
		require.True(t, ok)
		form, _, _ = strings.Cut(form, "</select>")
		tasks := option.FindAllStringSubmatch(form, -1)
		require.Greater(t, len(tasks), 5, m.Slug)
		for i, task := range tasks {
			status, to, body := goes(t, imre, w.url+"/models/"+m.Slug+"/trials", url.Values{"serial": {serial},
				"task": {task[1]}})
			require.Equal(t, http.StatusSeeOther, status, "%s %s: %s", m.Slug, task[1], body)
			status, page := looks(t, imre, w.url+to)
			require.Equal(t, http.StatusOK, status)
			var what app.TrialSteps
			_, raw, _ := strings.Cut(page, `id="trial-steps">`)
			raw, _, _ = strings.Cut(raw, "</script>")
			require.NoError(t, json.Unmarshal([]byte(raw), &what))
			assert.Equal(t, len(what.Steps), strings.Count(page, `class="stride"`), "a panel for every step: %s %s", m.Slug,
				task[1])
			if i%5 == 0 { // the comparison carries out much
				code := strings.TrimPrefix(to, "/trials/")
				sends(t, w, imre, code, []trial.Entry{{ID: "tick-of-all", At: 1, Step: what.Steps[0].Key, Kind: trial.Done}})
				assert.Contains(t, comparison(t, w, imre, code), "Nothing was measured", "%s %s", m.Slug, task[1])
			}
		}
	}
}

// What a trial says in the log of its unit goes with the trial; two trials on one unit are told as one unit.
func TestTheLogFollowsTheTrial(t *testing.T) {
	t.Parallel()
	w := openTried(t)
	imre := client(t, w.url, "imre")
	unit, err := w.store.UnitBySerial(t.Context(), "G242700123")
	require.NoError(t, err)
	entries := func() (n int) {
		list, err := w.store.UnitEntries(t.Context(), unit.ID)
		require.NoError(t, err)
		for _, e := range list {
			if e.TrialID != 0 {
				n++
			}
		}
		return n
	}
	before := entries()
	code := tried(t, w, imre, pretend.Truth{}, 3)
	assert.Equal(t, before+2, entries(), "the trial, and that it was made ready for the winter")
	_, body := stranger(t, w.url+gneissRead+"/envelope.json")
	var e struct{ Tried []app.TriedOf }
	require.NoError(t, json.Unmarshal([]byte(body), &e))
	assert.Equal(t, 3, e.Tried[0].Trials)
	assert.Equal(t, 2, e.Tried[0].Units, "two of them on one unit")
	for _, to := range []string{"open", "finished", "dropped"} {
		status, _, body := goes(t, imre, w.url+"/trials/"+code+"/state", url.Values{"to": {to}})
		require.Equal(t, http.StatusSeeOther, status, body)
		want := before
		if to == "finished" {
			want += 2
		}
		assert.Equal(t, want, entries(), to)
	}
}
