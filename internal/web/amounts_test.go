package web_test

import (
	"bytes"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/spreadsheet"
)

// A smaller tank, changed on the System view, is followed by the dose, the
// weight, the times and the schedule.
func TestAmountsFollowTheTank(t *testing.T) {
	t.Parallel()
	at := open(t).url
	p := visit(t, at, 1280, 800)
	amounts := at + "/models/gneiss-24-2027/amounts?from=20:30"
	require.NoError(t, p.Open(amounts))
	for _, words := range []string{"11 tbsp", "452 lb (205 kg)", "43 gal (163 L) ÷ 4.00 gal/min",
		"9 h 27 min, 1 h 3 min of it attended"} {
		require.NoError(t, p.WaitText("#worked", words))
	}
	require.NoError(t, p.Open(at+"/models/gneiss-24-2027?part=fresh"))
	require.NoError(t, p.Fill(`[name="f.data.capacity"]`, "37 gal"))
	require.NoError(t, p.Keys("\r"))
	require.NoError(t, p.WaitText("main", "capacity 43 gal (163 L) → 37 gal"))
	require.NoError(t, p.Open(amounts))
	// 37 gal are 140 L; 140/(140 − 5.3)·50 mg/L is 52 mg/L, 139 mL of bleach,
	// up to 5 fl oz. With heater and lines 182 kg.
	for _, words := range []string{"5 fl oz", "402 lb (182 kg)", "37 gal ÷ 4.00 gal/min",
		"9 h 57 min, 1 h 15 min of it attended"} {
		require.NoError(t, p.WaitText("#worked", words))
	}
}

func TestWhatIfAnswersAtOnceAndKeepsNothing(t *testing.T) {
	t.Parallel()
	at := serve(t)
	p := visit(t, at, 1280, 800)
	amounts := at + "/models/gneiss-24-2027/amounts"
	require.NoError(t, p.Open(amounts))
	require.NoError(t, p.Fill("#r-bleach", "8.25 %"))
	require.NoError(t, p.WaitText("#worked", "Bleach of 8.25 % 7 tbsp"))
	require.NoError(t, p.WaitText("#worked", "It was written for bleach of 5.25"))
	require.NoError(t, p.Fill("#by", "6:30 pm"))
	require.NoError(t, p.WaitText("#worked", "18:30"))
	require.NoError(t, p.Choose("#state", "full"))
	require.NoError(t, p.WaitText("#worked", "Antifreeze, lines full 1.96 gal"))
	require.NoError(t, p.Fill("#r-supply-chlorine", "much"))
	require.NoError(t, p.WaitText("#worked", "Chlorine of the supply: "))
	require.NoError(t, p.Wait(`location.search.includes("bleach=8.25")`))
	require.NoError(t, p.Open(amounts))
	require.NoError(t, p.WaitText("#worked", "Bleach of 5.25 % 11 tbsp"))
}

func TestMixedUpUnitsAreNoticed(t *testing.T) {
	t.Parallel()
	at := serve(t) + "/models/gneiss-24-2027/amounts?typed="
	for typed, words := range map[string]string{
		"5.5 tbsp": "were fluid ounces meant instead of tablespoons?",
		"22 tbsp":  "were fluid ounces written where tablespoons were meant?",
		"11 tbsp":  "It fits what was worked out.",
		"4 cups":   "above the ceiling",
		"3 tbsp":   "weaker than",
		"7 gal":    "were litres meant instead of gallons?",
		"2 gal":    "of antifreeze. It fits what was worked out.",
		"11 lots":  "11 lots",
	} {
		_, body := get(t, at+url.QueryEscape(typed))
		assert.Contains(t, squeeze(body), words, typed)
	}
}

// 19 mm new with a core of 3 mm: at 11 mm 240/352 is used. Weighed, half is.
func TestALookAtTheAnode(t *testing.T) {
	t.Parallel()
	at := serve(t) + "/models/gneiss-24-2027/amounts?anode-on=2029-10-01&anode-new=2027-10-01&anode-now="
	for typed, words := range map[string]string{
		"11+mm": "68.2 % used. Half used",
		"0.30+kg&anode-was=0.45+kg&anode-core=0.15+kg": "50.0 % used.",
		"25+mm": "not thicker than when it was new",
		"thin":  "Anode: ",
	} {
		_, body := get(t, at+typed)
		assert.Contains(t, squeeze(body), words, typed)
	}
	_, body := get(t, at+"11+mm")
	assert.Contains(t, body, "December 2029", "731 days for 68 %, so 73 more for 75 %")
}

func TestAmountsAreExported(t *testing.T) {
	t.Parallel()
	at := serve(t) + "/models/gneiss-24-2027/amounts/file/"
	code, body := get(t, at+"xlsx?bleach=8.25+%25")
	require.Equal(t, http.StatusOK, code)
	sheets, err := spreadsheet.Read([]byte(body))
	require.NoError(t, err)
	var names []string
	for _, s := range sheets {
		names = append(names, s.Name)
	}
	assert.Contains(t, names, "1 Line content")
	assert.Contains(t, body, "PK")
	code, body = get(t, at+"csv?bleach=8.25+%25")
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "\"Bleach, 7\u00a0tbsp\"")
	assert.Contains(t, body, "Bleach,8.25 %,what if")
	code, body = get(t, at+"ics?from=20:30&day=2027-04-03")
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "DTSTART:20270403T203000")
	assert.Contains(t, body, "DTEND:20270404T055700", "across midnight")
	assert.Equal(t, 7, strings.Count(body, "BEGIN:VEVENT"))
	code, body = get(t, at+"csv?target=lots")
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "Strength of the sanitizer")
	code, _ = get(t, at+"doc")
	assert.Equal(t, http.StatusNotFound, code)
	code, body = get(t, strings.Replace(at, "models/gneiss-24-2027/amounts", "figures", 1)+"xlsx")
	require.Equal(t, http.StatusOK, code)
	sheets, err = spreadsheet.Read([]byte(body))
	require.NoError(t, err)
	assert.True(t, bytes.Contains([]byte(strings.Join(sheets[0].Rows[0], " ")), []byte("Gneiss 24 (2027)")))
}

func TestHouseRulesAreTriedThenKeptForTheHouseAndForOneModel(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 800)
	require.NoError(t, p.Open(w.url+"/house"))
	require.NoError(t, p.Fill("#r-target", "65 mg/L"))
	require.NoError(t, p.WaitText("#changes", "Gneiss 24 (2027)"))
	require.NoError(t, p.WaitText("#changes", "11 tbsp, 50.8 mg/L 15 tbsp, 69.2 mg/L"))
	_, body := get(t, w.url+"/models/gneiss-24-2027/amounts")
	assert.Contains(t, body, "11\u00a0tbsp", "nothing is kept yet")
	require.NoError(t, p.Click(".ask.wide .main"))
	require.NoError(t, p.WaitText("[role=status]", "Kept."))
	_, body = get(t, w.url+"/models/gneiss-24-2027/amounts")
	assert.Contains(t, body, "15\u00a0tbsp")
	assert.Contains(t, body, "<b>65 mg/L</b> <small>the house</small>")
	assert.Contains(t, body, "By: Strength of the sanitizer 65 mg/L (the house); Bleach 5.25 % (usual in the trade)")
	_, body = get(t, w.url+"/models/gneiss-24-2027/guide")
	assert.Contains(t, body, "15\u00a0tbsp", "the guide follows")

	code, _ := post(t, w.url+"/house", url.Values{"model": {"gneiss-24-2027"}, "target": {"55 mg/L"}, "v.target": {"0"}})
	require.Equal(t, http.StatusOK, code)
	_, body = get(t, w.url+"/models/gneiss-24-2027/amounts")
	assert.Contains(t, body, "<b>55 mg/L</b> <small>this model</small>")
	_, body = get(t, w.url+"/models/schist-31-2027/amounts")
	assert.Contains(t, body, "<b>65 mg/L</b> <small>the house</small>", "one model's rule leaves the others alone")

	// What can't hold is refused as a whole, and what was typed stays.
	code, body = post(t, w.url+"/house", url.Values{"bleach": {"6 %"}, "soak-low": {"10 h"}, "v.bleach": {"0"}, "v.soak-low": {"0"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "the longest soak is shorter than the shortest")
	assert.Contains(t, body, `value="10 h"`)
	rules, err := w.store.HouseRules(t.Context())
	require.NoError(t, err)
	require.Len(t, rules, 2)

	// An empty value takes a rule back.
	code, _ = post(t, w.url+"/house", url.Values{"model": {"gneiss-24-2027"}, "target": {""}, "v.target": {"1"}})
	require.Equal(t, http.StatusOK, code)
	_, body = get(t, w.url+"/models/gneiss-24-2027/amounts")
	assert.Contains(t, body, "<b>65 mg/L</b> <small>the house</small>")
	code, _ = get(t, w.url+"/house?model=nothing")
	assert.Equal(t, http.StatusNotFound, code)
}
