package web_test

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"math/rand/v2"
	"mime/multipart"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/crypto/bcrypt"

	"coldtap/demo"
	"coldtap/internal/app"
	"coldtap/internal/browser"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/people"
)

const gneissPath = "/models/gneiss-24-2027"

// from is the revision that forms of a page start from.
func (w *served) from(t testing.TB, slug string) string {
	t.Helper()
	row, _, err := w.store.Current(t.Context(), slug)
	require.NoError(t, err)
	return fmt.Sprint(row.Revision)
}

func (w *served) document(t testing.TB, slug string) string {
	t.Helper()
	_, rev, err := w.store.Current(t.Context(), slug)
	require.NoError(t, err)
	return rev.Document
}

func TestFiftyEditsAndFiftyUndosGiveTheFirstDocumentBack(t *testing.T) {
	t.Parallel()
	w := open(t)
	slug := "gneiss-24-2027"
	first := w.document(t, slug)
	rng := rand.New(rand.NewPCG(50, 50))
	send := func(path string, form url.Values) {
		form.Set("from", w.from(t, slug))
		code, body := post(t, w.url+gneissPath+path, form)
		require.Equal(t, http.StatusSeeOther, code, "%s %v: %s", path, form, squeeze(body))
	}
	states := map[string]bool{first: true}
	for done := 0; done < 50; {
		m, err := plumbing.Read(strings.NewReader(w.document(t, slug)))
		require.NoError(t, err)
		before := w.from(t, slug)
		line, part := m.Lines[rng.IntN(len(m.Lines))], m.Parts[rng.IntN(len(m.Parts))]
		switch rng.IntN(8) {
		case 0, 1, 2:
			send("/edit/line/"+line.ID, url.Values{"f.length": {fmt.Sprintf("%d in", 130+rng.IntN(90))}})
		case 3:
			send("/edit/part/"+part.ID, url.Values{"f.name": {fmt.Sprintf("%s %d", part.Name, done)},
				"f.place.height": {fmt.Sprintf("%d in", 10+rng.IntN(40))}})
		case 4:
			send("/edit/add", url.Values{"kind": {"tee"}, "name": {fmt.Sprint("Tee ", done)}, "line": {line.ID}})
		case 5:
			send("/assemblies/accumulator", url.Values{})
		case 6:
			if part.Role() == plumbing.RoleWaste {
				continue
			}
			send("/edit/remove", url.Values{"ids": {part.ID}})
		default:
			send("/edit/nudge", url.Values{"part": {part.ID}, "dx": {"1"}, "dy": {fmt.Sprint(done - 60)}})
		}
		if now := w.from(t, slug); now == before {
			continue // the same length again
		}
		done++
		states[w.document(t, slug)] = true
	}
	assert.Greater(t, len(states), 45)
	last := w.document(t, slug)
	for range 50 {
		send("/undo", url.Values{})
	}
	assert.Equal(t, first, w.document(t, slug), "byte for byte")
	code, body := post(t, w.url+gneissPath+"/undo", url.Values{"from": {w.from(t, slug)}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "nothing left to undo")
	for range 50 {
		send("/redo", url.Values{})
	}
	assert.Equal(t, last, w.document(t, slug))
}

func TestARefusedFieldKeepsWhatWasTyped(t *testing.T) {
	t.Parallel()
	w := open(t)
	code, body := post(t, w.url+gneissPath+"/edit/line/trunk-1",
		url.Values{"from": {"1"}, "part": {"trunk-1"}, "f.length": {"nine-ish"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "Not saved.")
	assert.Contains(t, body, "&#34;nine-ish&#34;")
	assert.Contains(t, body, `value="nine-ish"`)
	assert.Equal(t, "1", w.from(t, "gneiss-24-2027"))
}

func TestAChangedLengthIsAnsweredWithWhatFollows(t *testing.T) {
	t.Parallel()
	url_ := open(t).url
	p := visit(t, url_, 1280, 900)
	require.NoError(t, p.Open(url_+gneissPath+"?part=trunk-1"))
	require.NoError(t, p.Fill("#in-line-length", "12 ft"))
	require.NoError(t, p.WaitText(".notice", "length 8 ft → 12 ft"))
	require.NoError(t, p.WaitText(".notice", "Antifreeze, lines drained"))
	require.NoError(t, p.Click("#undo"))
	require.NoError(t, p.WaitText(".notice", "undo: Line trunk-1"))
	require.NoError(t,
		p.Wait(`document.querySelector("#in-line-length") === null || document.querySelector("#in-line-length").value === "8 ft"`))
	// And by the keys.
	_, err := browser.Eval[bool](p, "document.activeElement.blur(),true")
	require.NoError(t, err)
	require.NoError(t, p.Keys("r"))
	require.NoError(t, p.WaitText(".notice", "redo: Line trunk-1"))
	require.NoError(t, p.Keys("?"))
	require.NoError(t, p.Wait(`document.getElementById("keys").open`))
}

func TestTheTankChangedOnTheSystemViewChangesTheDose(t *testing.T) {
	t.Parallel()
	w := open(t)
	_, before := get(t, w.url+gneissPath+"/amounts")
	code, _ := post(t, w.url+gneissPath+"/edit/part/fresh", url.Values{"from": {"1"}, "f.data.capacity": {"37 gal"}})
	require.Equal(t, http.StatusSeeOther, code)
	_, after := get(t, w.url+gneissPath+"/amounts")
	assert.NotEqual(t, before, after)
	assert.Contains(t, after, "37 gal")
}

// second adds another author.
func second(t *testing.T, w *served) *http.Client {
	t.Helper()
	h, err := people.Hash("another author here", bcrypt.MinCost)
	require.NoError(t, err)
	require.NoError(t, w.store.AddPerson(t.Context(), &app.Person{Login: "second", Name: "Second Author",
		Role: people.Author, Password: h, Active: true}))
	c := client(t, w.url, "")
	resp, err := c.PostForm(w.url+"/sign-in", url.Values{"login": {"second"}, "password": {"another author here"}})
	require.NoError(t, err)
	resp.Body.Close()
	require.Equal(t, http.StatusSeeOther, resp.StatusCode)
	return c
}

// The same person's changes follow one another even where the page they were
// made on is behind.
func TestOnesOwnChangesDoNotCollide(t *testing.T) {
	t.Parallel()
	w := open(t)
	for line, length := range map[string]string{"trunk-1": "9 ft", "trunk-2": "5 ft"} {
		code, _ := post(t, w.url+gneissPath+"/edit/line/"+line, url.Values{"from": {"1"}, "f.length": {length}})
		require.Equal(t, http.StatusSeeOther, code)
	}
	m, err := plumbing.Read(strings.NewReader(w.document(t, "gneiss-24-2027")))
	require.NoError(t, err)
	assert.Equal(t, "9 ft", m.Line("trunk-1").Length.String())
	assert.Equal(t, "5 ft", m.Line("trunk-2").Length.String())
}

func TestTwoPeopleOnOneModel(t *testing.T) {
	t.Parallel()
	w := open(t)
	other := second(t, w)
	one := newPage(t, 1280, 900)
	enter(t, one, w.url, other)
	two := visit(t, w.url, 1280, 900)
	require.NoError(t, one.Open(w.url+gneissPath+"?part=trunk-1"))
	require.NoError(t, two.Open(w.url+gneissPath+"?part=trunk-2"))
	require.NoError(t, one.Fill("#in-line-length", "9 ft"))
	require.NoError(t, one.WaitText(".notice", "8 ft → 9 ft"))
	// The second started from the state before: another thing goes in beside it.
	require.NoError(t, two.Fill("#in-line-length", "4 ft"))
	require.NoError(t, two.WaitText(".notice", "Meanwhile Second Author changed the model too; you see both."))
	m, err := plumbing.Read(strings.NewReader(w.document(t, "gneiss-24-2027")))
	require.NoError(t, err)
	assert.Equal(t, "9 ft", m.Line("trunk-1").Length.String())
	assert.Equal(t, "4 ft", m.Line("trunk-2").Length.String())
	held, err := w.store.HeldEdits(t.Context(), "gneiss-24-2027", by(t, w, "imre"))
	require.NoError(t, err)
	assert.Empty(t, held)
	// Both change the same: what is there stays, and it is told; once, however
	// often it is sent.
	for range 2 {
		code, _ := post(t, w.url+gneissPath+"/edit/line/trunk-1", url.Values{"from": {"1"}, "f.length": {"10 ft"}})
		assert.Equal(t, http.StatusSeeOther, code)
	}
	held, err = w.store.HeldEdits(t.Context(), "gneiss-24-2027", by(t, w, "imre"))
	require.NoError(t, err)
	require.Len(t, held, 1)
	kept, err := w.store.HeldEdit(t.Context(), "gneiss-24-2027", held[0].ID)
	require.NoError(t, err)
	capital := *kept
	capital.Document = strings.Replace(kept.Document, "Fresh tank", "Fresh Tank", 1)
	require.NotEqual(t, kept.Document, capital.Document)
	alike, err := w.store.HeldAlike(t.Context(), "gneiss-24-2027", &capital)
	require.NoError(t, err)
	assert.Zero(t, alike, "a name with another capital is another change")
	_, body := get(t, fmt.Sprintf("%s%s/held/%d", w.url, gneissPath, held[0].ID))
	assert.Contains(t, body, `id="conflicts"`)
	assert.NotContains(t, body, `id="merge"`, "nothing is left to merge")
	_, body = get(t, w.url+gneissPath)
	assert.Contains(t, squeeze(body), "A change of yours waits")
	require.NoError(t, two.Open(fmt.Sprintf("%s%s/held/%d", w.url, gneissPath, held[0].ID)))
	found, err := two.Axe("testdata/axe.min.js")
	require.NoError(t, err)
	assert.Empty(t, found)

	// It is its author's: nobody else settles it, and what lost is found again.
	theirs := fmt.Sprintf("%s%s/held/%d", w.url, gneissPath, held[0].ID)
	resp, err := other.PostForm(theirs, url.Values{"act": {"drop"}})
	require.NoError(t, err)
	code, _ := answer(t, resp)
	assert.Equal(t, http.StatusForbidden, code)
	require.NoError(t, two.Click("#mine"))
	require.NoError(t, two.WaitText("h1", "System of"))
	m, err = plumbing.Read(strings.NewReader(w.document(t, "gneiss-24-2027")))
	require.NoError(t, err)
	assert.Equal(t, "10 ft", m.Line("trunk-1").Length.String())
	assert.Equal(t, "4 ft", m.Line("trunk-2").Length.String(), "what did not collide stays")
	_, body = get(t, w.url+gneissPath+"/history")
	assert.Contains(t, squeeze(body), "Imre Valk merged it. <ul> <li>Line trunk-1, length: 9 ft did not go in; 10 ft stayed.")
	code, body = get(t, theirs)
	assert.Equal(t, http.StatusNotFound, code)
	assert.Contains(t, body, "Imre Valk merged it")
}

// Gneiss 24 from nothing: assemblies, then the parts' figures and the list of
// lines as they stand in a spreadsheet. Every click, choice and paste counts.
func TestGneissFromNothingInUnderFortyActions(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 900)
	actions := 0
	do := func(err error) {
		t.Helper()
		actions++
		require.NoError(t, err)
	}
	require.NoError(t, p.Open(w.url+"/begin"))
	do(p.Fill("#name", "Gneiss"))
	do(p.Fill("#year", "2028"))
	do(p.Choose("#blank", "empty"))
	do(p.Click("#begin"))
	require.NoError(t, p.WaitText(".firststeps", "Nothing is described yet"))
	add := func(kind string, answers ...string) {
		t.Helper()
		do(p.Click("#add"))
		do(p.Click("#asm-" + kind))
		require.NoError(t, p.Wait(`!!document.querySelector("#add-assembly")`))
		for _, a := range answers {
			do(p.Click(a))
		}
		do(p.Click("#add-assembly"))
		require.NoError(t, p.Wait(`!document.querySelector("#add-assembly")`))
		require.NoError(t, p.WaitText(".notice", "added"))
	}
	add("tank")
	add("pump")
	add("city")
	add("heater")
	add("branch", "#q-outlets-basin", "#q-outlets-shower", "#q-outlets-outside-shower", "#q-outlets-toilet",
		"#q-outlets-sprayer")
	add("drain")
	add("waste")
	add("rinse")
	// The rest is in the lists: names, places, figures, and every line.
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	paste := func(what, block string, whole bool) {
		t.Helper()
		require.NoError(t, p.Open(w.url+"/models/gneiss-2028/grid?what="+what))
		_, err := browser.Eval[bool](p, `document.querySelector("#paste details").open = true`)
		require.NoError(t, err)
		do(p.Fill("#blockin", block))
		if whole {
			do(p.Click("#whole"))
		}
		do(p.Click("#take"))
		require.NoError(t, p.Wait(`!!document.querySelector(".notice")`))
		text, err := p.Text(".notice")
		require.NoError(t, err)
		require.Contains(t, text, "Saved:")
	}
	paste("parts", partsBlock(t, m), false)
	paste("lines", linesBlock(m), true)
	t.Logf("%d actions", actions)
	assert.Less(t, actions, 40)

	got, err := plumbing.Read(strings.NewReader(w.document(t, "gneiss-2028")))
	require.NoError(t, err)
	// What the lists do not carry is the head of the model.
	got.ID, got.Name, got.Year, got.Kind, got.Maker, got.Units = m.ID, m.Name, m.Year, m.Kind, m.Maker, m.Units
	got.DesignLow, got.Body, got.Carrying, got.Notes = m.DesignLow, m.Body, m.Carrying, m.Notes
	assert.Equal(t, computed(t, m), computed(t, got))
}

// shot of a JPEG with a position written by the camera.
func photo(t *testing.T) []byte {
	t.Helper()
	img := image.NewRGBA(image.Rect(0, 0, 2400, 1200))
	for x := range 2400 {
		img.Set(x, x/2, color.RGBA{200, 10, 10, 255})
	}
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, img, nil))
	exif := append([]byte("Exif\x00\x00MM\x00\x2a\x00\x00\x00\x08\x00\x00"), []byte("GPS 51.5007N 0.1246W")...)
	segment := binary.BigEndian.AppendUint16([]byte{0xFF, 0xE1}, uint16(len(exif)+2))
	raw := b.Bytes()
	return append(append(append([]byte{}, raw[:2]...), append(segment, exif...)...), raw[2:]...)
}

func TestPhotographsAreScaledAndLoseTheirPosition(t *testing.T) {
	t.Parallel()
	w := open(t)
	raw := photo(t)
	require.Contains(t, string(raw), "GPS")
	up := func(content []byte) (int, string) {
		var b bytes.Buffer
		form := multipart.NewWriter(&b)
		f, err := form.CreateFormFile("file", "pump.jpg")
		require.NoError(t, err)
		_, err = f.Write(content)
		require.NoError(t, err)
		require.NoError(t, form.Close())
		resp, err := clientOf(t, w.url).Post(w.url+gneissPath+"/parts/pump/photos", form.FormDataContentType(), &b)
		require.NoError(t, err)
		return answer(t, resp)
	}
	code, _ := up(raw)
	require.Equal(t, http.StatusSeeOther, code)
	list, err := w.store.Photos(t.Context(), "gneiss-24-2027", "pump")
	require.NoError(t, err)
	require.Len(t, list, 1)
	_, kept := get(t, fmt.Sprintf("%s%s/photos/%d/image", w.url, gneissPath, list[0].ID))
	assert.NotContains(t, kept, "GPS")
	cfg, err := jpeg.DecodeConfig(strings.NewReader(kept))
	require.NoError(t, err)
	assert.Equal(t, [2]int{1600, 800}, [2]int{cfg.Width, cfg.Height})
	code, body := up([]byte("<svg onload='x'/>"))
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "neither a JPEG nor a PNG")

	p := visit(t, w.url, 1280, 1600)
	require.NoError(t, p.Open(w.url+gneissPath+"?part=pump"))
	require.NoError(t, p.Click("#tab-photos"))
	require.NoError(t, p.Click(".photo .pic"))
	require.NoError(t, p.Wait(`document.querySelector(".photo ellipse").getAttribute("cx") !== "50.0"`))
}

// One photograph of a panel carries several marks and a caption; a mark moves by the
// keyboard; what is on no photograph is listed.
func TestAPanelsPhotographHasSeveralMarks(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 1000)
	require.NoError(t, p.Open(w.url+gneissPath+"/photos"))
	require.NoError(t, p.WaitText("main", "Bypass valve"))
	require.NoError(t, p.File("#panel-file", write(t, "panel.jpg", photograph(t))))
	require.NoError(t, p.Fill("#panel-caption", "Heater bay, panel off"))
	require.NoError(t, p.Click("#panel-add"))
	require.NoError(t, p.WaitText("figcaption", "Heater bay, panel off"))
	for _, part := range []string{"valve-bypass", "valve-heater-in"} {
		require.NoError(t, p.Choose(".photolist select", part))
		require.NoError(t, p.Click(".photo .pic"))
		require.NoError(t, p.Wait(`!!document.querySelector('.pin[data-part="`+part+`"]')`))
	}
	marks := func() []app.PhotoMark {
		list, err := w.store.AllPhotos(t.Context(), "gneiss-24-2027")
		require.NoError(t, err)
		require.Len(t, list, 1)
		return list[0].Marks
	}
	require.Len(t, marks(), 2)
	was := marks()[0].X
	_, err := browser.Eval[bool](p, `document.querySelector('.pin[data-part="valve-bypass"]').focus(), true`)
	require.NoError(t, err)
	_, err = browser.Eval[bool](p, `(() => { for (let i = 0; i < 2; i++) document.activeElement.dispatchEvent(new `+
		`KeyboardEvent("keydown", { key: "ArrowRight", bubbles: true, cancelable: true })); return true })()`)
	require.NoError(t, err)
	require.Eventually(t, func() bool { return marks()[0].X > was+0.015 }, patience, 50*time.Millisecond)
	_, page := get(t, w.url+gneissPath+"/photos")
	lacks := page[strings.Index(page, "are on no photograph"):strings.Index(page, "panel-file")]
	assert.NotContains(t, lacks, "?part=valve-bypass")
	assert.Contains(t, lacks, "?part=valve-heater-out")
	_, part := get(t, w.url+gneissPath+"?part=valve-heater-in")
	assert.Contains(t, part, "/image", "the panel shows the part too")
	// The marks follow a part to another id, and back.
	post(t, w.url+gneissPath+"/edit/part/valve-heater-in", url.Values{"from": {w.from(t, "gneiss-24-2027")},
		"f.id": {"heater-inlet"}})
	_, part = get(t, w.url+gneissPath+"?part=heater-inlet")
	assert.Contains(t, part, "/image", "under its new id")
	post(t, w.url+gneissPath+"/undo", url.Values{"from": {w.from(t, "gneiss-24-2027")}})
	_, part = get(t, w.url+gneissPath+"?part=valve-heater-in")
	assert.Contains(t, part, "/image", "and back")
}

func TestTheFaultyListIsMendedInThePageAndGoesIn(t *testing.T) {
	t.Parallel()
	w := open(t)
	lists, err := demo.Lists()
	require.NoError(t, err)
	var b bytes.Buffer
	form := multipart.NewWriter(&b)
	f, err := form.CreateFormFile("file", lists[0].Name)
	require.NoError(t, err)
	_, err = f.Write(lists[0].File)
	require.NoError(t, err)
	require.NoError(t, form.Close())
	resp, err := clientOf(t, w.url).Post(w.url+"/models/ashlar-20-2027/imports", form.FormDataContentType(), &b)
	require.NoError(t, err)
	code, _ := answer(t, resp)
	require.Equal(t, http.StatusSeeOther, code)
	at := w.url + resp.Header.Get("Location")

	p := visit(t, w.url, 1280, 900)
	require.NoError(t, p.Open(at))
	require.NoError(t, p.WaitText("#faulty", "2 wait"))
	require.NoError(t, p.WaitText("#row-9", "is not a size in the table"))
	require.NoError(t, p.WaitText("#row-7", "The length is missing; the line keeps its 2 ft"))
	require.NoError(t, p.WaitText("#row-12", "Is “Toilett” the same as “Toilet”?"))
	require.NoError(t, p.Click("#take"))
	require.NoError(t, p.WaitText(".notice", "took in lines: 0 new, 7 changed"))
	// Mend the rest where it stands.
	require.NoError(t, p.Fill("#c-7-4", "2.25"))
	require.NoError(t, p.WaitText("#row-7", "length: 2 ft → 2.25 ft"))
	require.NoError(t, p.Click(`.askedone button[value="yes"]`))
	require.NoError(t, p.Wait(`!document.querySelector(".askedone")`))
	require.NoError(t, p.Fill("#c-9-3", "½ in"))
	require.NoError(t, p.WaitText("#faulty", "1 wait"))
	// On a slow line each waits for the one before, and none is dropped.
	require.NoError(t, p.Slow(300*time.Millisecond))
	require.NoError(t, p.Fill("#c-11-0", "h-shower"))
	require.NoError(t, p.Fill("#c-11-1", "Hot tee, basin, c"))
	require.NoError(t, p.Wait(`!document.querySelector("#faulty")`))
	require.NoError(t, p.Click("#take"))
	require.NoError(t, p.WaitText(".notice", "took in lines"))
	m, err := plumbing.Read(strings.NewReader(w.document(t, "ashlar-20-2027")))
	require.NoError(t, err)
	assert.Equal(t, "2.25 ft", m.Line("trunk-2").Length.String())
	assert.Equal(t, "8.5 ft", m.Line("trunk-1").Length.String())
	_, back := get(t, at+"/file")
	assert.Equal(t, string(lists[0].File), back, "the file stays as it came")
	require.NoError(t, p.Choose("#sheet", "1"))
	require.NoError(t, p.WaitText("#row-2", "118"))
}

// A handle turned by hand is kept for a way of use with a reason, printed with its mark,
// and let go; what could hurt somebody is not kept.
func TestASettingIsKeptByHand(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 800)
	require.NoError(t, p.Open(w.url+gneissPath+"/settings?mode=everyday&set=valve-heater-in.closed"))
	require.NoError(t, p.WaitText("#rail", "This setting can't be kept"))
	require.NoError(t, p.Open(w.url+gneissPath+"/settings?mode=everyday&set=valve-bypass.open"))
	require.NoError(t, p.Fill("#keep-reason", "the plant ships it so"))
	require.NoError(t, p.Click("#keep"))
	require.NoError(t, p.WaitText("#rail .kept", "Kept by Imre Valk: the plant ships it so"))
	_, card := get(t, w.url+gneissPath+"/guide/card/card")
	assert.Contains(t, card, "Imre Valk chose this setting: the plant ships it so")
	_, guide := get(t, w.url+gneissPath+"/guide")
	assert.Contains(t, guide, "Imre Valk chose this setting: the plant ships it so")
	require.NoError(t, p.Open(w.url+gneissPath))
	require.NoError(t, p.WaitText(".findings", "does not meet its goal"))
	require.NoError(t, p.Open(w.url+gneissPath+"/settings?mode=everyday"))
	require.NoError(t, p.Click("#let-go"))
	require.NoError(t, p.Wait(`!document.querySelector("#rail .kept")`))
	require.NoError(t, p.WaitText(".verdict", "Goal met"))
}

// A warning is accepted with a reason and a name, an error by a reviewer only, a danger
// never; what was accepted can be opened again.
func TestFindingsAreAccepted(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 800)
	require.NoError(t, p.Open(w.url+gneissPath))
	require.NoError(t, p.Click(".findings > ol a"))
	require.NoError(t, p.Fill("#accept-reason", "the fill is slow"))
	require.NoError(t, p.Click("#accept"))
	require.NoError(t, p.WaitText(".accepted", "Imre Valk: the fill is slow"))
	require.NoError(t, p.WaitText("#tab-findings", "10"))
	_, err := browser.Eval[bool](p, `document.querySelector(".accepted").open = true`)
	require.NoError(t, err)
	require.NoError(t, p.Click(".accepted button"))
	require.NoError(t, p.WaitText("#tab-findings", "11"))

	from := w.from(t, "gneiss-24-2027")
	post(t, w.url+gneissPath+"/edit/part/city", url.Values{"from": {from}, "f.data.check_valve": {"no"}})
	post(t, w.url+gneissPath+"/edit/line/trunk-1", url.Values{"from": {w.from(t, "gneiss-24-2027")}, "f.length": {""}})
	accept := func(c *http.Client, finding string) string {
		resp, err := c.PostForm(w.url+gneissPath+"/accept", url.Values{"from": {w.from(t, "gneiss-24-2027")},
			"finding": {finding}, "reason": {"so be it"}})
		require.NoError(t, err)
		_, body := answer(t, resp)
		return body
	}
	author, reviewer := clientOf(t, w.url), client(t, w.url, "odile")
	assert.Contains(t, accept(author, "length-missing|trunk-1"), "by a reviewer only")
	assert.NotContains(t, w.document(t, "gneiss-24-2027"), "accepted")
	accept(reviewer, "length-missing|trunk-1")
	assert.Contains(t, w.document(t, "gneiss-24-2027"), "so be it")
	assert.Contains(t, accept(reviewer, "city-no-check|city"), "never accepted")
}

// A model is retired and brought back, and the next model year begins from it.
func TestAModelIsRetiredAndGoesOnAsTheNextYear(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 900)
	require.NoError(t, p.Open(w.url+gneissPath))
	require.NoError(t, p.Click("#tab-model"))
	require.NoError(t, p.Fill("#retire-reason", "the mould is worn out"))
	require.NoError(t, p.Click("#retire"))
	require.NoError(t, p.WaitText(".notice", "retired the model: the mould is worn out"))
	require.NoError(t, p.Open(w.url+"/"))
	require.NoError(t, p.WaitText(".retired", "Gneiss 24"))
	require.NoError(t, p.Open(w.url+gneissPath))
	require.NoError(t, p.WaitText(".which", "retired"))
	require.NoError(t, p.Click("#tab-model"))
	require.NoError(t, p.Click("#next-year"))
	require.NoError(t, p.Wait(`document.readyState === "complete" && document.querySelector("#year").value === "2028"`))
	require.NoError(t, p.Click("#begin"))
	require.NoError(t, p.WaitText(".which", "Gneiss 24 (2028)"))
	assert.Contains(t, w.document(t, "gneiss-24-2028"), `"number": 16`, "the numbers go with the parts")
	assert.NotContains(t, w.document(t, "gneiss-24-2028"), `"retired"`)
	require.NoError(t, p.Open(w.url+gneissPath))
	require.NoError(t, p.Click("#tab-model"))
	require.NoError(t, p.Click("#bring-back"))
	require.NoError(t, p.WaitText(".notice", "brought the model back"))
}

// Options are made, bound and seen in the browser.
func TestAnOptionIsMadeInTheBrowser(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 900)
	require.NoError(t, p.Open(w.url+gneissPath+"/options"))
	require.NoError(t, p.Fill("#o-new-name", "Winter pack"))
	require.NoError(t, p.Click("#o-new-save"))
	require.NoError(t, p.WaitText(".notice", "added the option Winter pack"))
	_, err := browser.Eval[bool](p, `document.querySelector("#option-winter-pack details").open = true`)
	require.NoError(t, err)
	require.NoError(t, p.Click("#adds-winter-pack-pickup"))
	require.NoError(t, p.Click("#adds-winter-pack-pickup-hose"))
	require.NoError(t, p.Click("#things-winter-pack"))
	require.NoError(t, p.WaitText("#option-winter-pack dd", "Winter pick-up hose"))
	require.NoError(t, p.Open(w.url+gneissPath))
	require.NoError(t, p.WaitText(".build summary", "without options"))
	require.NoError(t, p.Wait(`!document.querySelector('[data-part="pickup"]')`))
	require.NoError(t, p.Open(w.url+gneissPath+"?with=winter-pack"))
	require.NoError(t, p.WaitText(".build summary", "with Winter pack"))
	require.NoError(t, p.Wait(`!!document.querySelector('[data-part="pickup"]')`))
}

func TestAModelBeginsFromAFileACopyOrABlank(t *testing.T) {
	t.Parallel()
	w := open(t)
	code, body := post(t, w.url+"/begin", url.Values{"how": {"copy"}, "name": {"Ashlar 20"}, "year": {"2028"},
		"copy": {"ashlar-20-2027"}})
	require.Equal(t, http.StatusSeeOther, code, body)
	assert.Contains(t, w.document(t, "ashlar-20-2028"), `"year": 2028`)
	code, body = post(t, w.url+"/begin", url.Values{"how": {"copy"}, "name": {"Ashlar 20"}, "year": {"2028"},
		"copy": {"ashlar-20-2027"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "already")
	for _, wrong := range []url.Values{{"name": {""}, "year": {"2028"}}, {"name": {"X"}, "year": {"next"}},
		{"how": {"copy"}, "name": {"X"}, "year": {"2028"}, "copy": {"none"}},
		{"name": {"X"}, "year": {"2028"}, "blank": {"ship"}, "units": {"us"}}} {
		code, body = post(t, w.url+"/begin", wrong)
		assert.Equal(t, http.StatusUnprocessableEntity, code, wrong)
		assert.Contains(t, body, "Not begun.")
	}
	_, exported := get(t, w.url+"/models/tuff-9-2027/file")
	renamed := strings.Replace(exported, `"id": "tuff-9-2027"`, `"id": "tuff-9-2099"`, 1)
	for content, want := range map[string]int{renamed: http.StatusSeeOther,
		strings.Replace(renamed, `"pump.in"`, `"pump.inn"`, 1): http.StatusUnprocessableEntity} {
		var b bytes.Buffer
		form := multipart.NewWriter(&b)
		require.NoError(t, form.WriteField("how", "file"))
		f, err := form.CreateFormFile("file", "model.json")
		require.NoError(t, err)
		_, err = f.Write([]byte(content))
		require.NoError(t, err)
		require.NoError(t, form.Close())
		resp, err := clientOf(t, w.url).Post(w.url+"/begin", form.FormDataContentType(), &b)
		require.NoError(t, err)
		code, body := answer(t, resp)
		assert.Equal(t, want, code, body)
	}
	_, again := get(t, w.url+"/models/tuff-9-2099/file")
	assert.Equal(t, renamed, again, "import of an export is identical")
}

// A model file whose id is taken comes in under another name or year, or as the
// next state of that model; it is not lost by being asked.
func TestAModelFileWhoseIdIsTaken(t *testing.T) {
	t.Parallel()
	w := open(t)
	const slug = "tuff-9-2027"
	_, exported := get(t, w.url+"/models/"+slug+"/file")
	changed := strings.Replace(exported, `"name": "Tuff 9"`, `"name": "Tuff nine"`, 1)
	require.NotEqual(t, exported, changed)
	send := func(path string, fields map[string]string) (int, string) {
		t.Helper()
		var b bytes.Buffer
		form := multipart.NewWriter(&b)
		for name, value := range fields {
			if name == "file" {
				f, err := form.CreateFormFile("file", "model.json")
				require.NoError(t, err)
				_, err = f.Write([]byte(value))
				require.NoError(t, err)
			} else {
				require.NoError(t, form.WriteField(name, value))
			}
		}
		require.NoError(t, form.Close())
		resp, err := clientOf(t, w.url).Post(w.url+path, form.FormDataContentType(), &b)
		require.NoError(t, err)
		return answer(t, resp)
	}
	code, body := send("/begin", map[string]string{"how": "file", "file": changed})
	require.Equal(t, http.StatusConflict, code)
	assert.Contains(t, squeeze(body), "The file differs from it in one part, line or head.")
	assert.Contains(t, body, "as-next")
	code, body = send("/begin", map[string]string{"how": "file", "file": exported})
	require.Equal(t, http.StatusConflict, code)
	assert.Contains(t, body, "says the same")

	// Under a name that is taken too: told, and asked again.
	code, body = send("/begin/file", map[string]string{"text": changed, "as": "other", "name": "Tuff 9",
		"year": "2027"})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "give another name or year")
	assert.Contains(t, body, "Tuff nine", "the file is still there")
	code, _ = send("/begin/file", map[string]string{"text": changed, "as": "other", "name": "Tuff 9", "year": "2031"})
	require.Equal(t, http.StatusSeeOther, code)
	assert.Contains(t, w.document(t, "tuff-9-2031"), `"year": 2031`)

	code, _ = send("/begin/file", map[string]string{"text": changed, "as": "next", "from": "1"})
	require.Equal(t, http.StatusSeeOther, code)
	assert.Contains(t, w.document(t, slug), "Tuff nine")
	assert.Equal(t, "2", w.from(t, slug))
	code, _ = send("/begin/file", map[string]string{"text": changed, "as": "next", "from": "2"})
	require.Equal(t, http.StatusSeeOther, code)
	assert.Equal(t, "2", w.from(t, slug), "the same again is no new state")
}

func TestHistoryRestoresAndCompares(t *testing.T) {
	t.Parallel()
	w := open(t)
	first := w.document(t, "gneiss-24-2027")
	post(t, w.url+gneissPath+"/edit/line/trunk-1", url.Values{"from": {"1"}, "f.length": {"9 ft"}})
	post(t, w.url+gneissPath+"/edit/part/fresh", url.Values{"from": {"2"}, "f.data.capacity": {"37 gal"}})
	_, followed := get(t, w.url+gneissPath+"/history/2")
	assert.Contains(t, followed, "→", "what followed in figures")
	code, _ := get(t, w.url+gneissPath+"/history/99")
	assert.Equal(t, http.StatusNotFound, code)
	_, line := get(t, w.url+gneissPath+"/history?a=1")
	assert.Contains(t, line, "history?a=1&amp;b=2", "the second point is picked next")
	_, body := get(t, w.url+gneissPath+"/history?a=1&b=3")
	assert.Contains(t, body, "Line trunk-1: length 8 ft → 9 ft")
	assert.Contains(t, body, "<td>capacity</td>")
	assert.Contains(t, body, "mark-changed", "on the drawing too")
	code, _ = post(t, w.url+gneissPath+"/restore/1", url.Values{"from": {"3"}})
	assert.Equal(t, http.StatusSeeOther, code)
	assert.Equal(t, first, w.document(t, "gneiss-24-2027"))
	_, body = get(t, w.url+"/audit")
	assert.Contains(t, body, "not for your role")
}

func TestAPlaceIsDraggedInTheSideView(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 900)
	require.NoError(t, p.Open(w.url+gneissPath+"/layout?part=outside-shower"))
	_, err := browser.Eval[bool](p, `(() => {
		const g = document.querySelector('.side-view [data-part="outside-shower"]'), c = g.querySelector("circle").getBoundingClientRect();
		const at = (type, dy) => g.dispatchEvent(new PointerEvent(type, {bubbles: true, cancelable: true, pointerId: `+
		`1, button: 0, clientX: c.x + 10, clientY: c.y + 10 + dy}));
		at("pointerdown", 0); at("pointermove", -40); at("pointerup", -40);
		return true })()`)
	require.NoError(t, err)
	require.NoError(t, p.WaitText(".notice", "height 40 in →"))
	m, err := plumbing.Read(strings.NewReader(w.document(t, "gneiss-24-2027")))
	require.NoError(t, err)
	assert.Greater(t, float64(m.Part("outside-shower").Place.Height.Value()), 40*0.0254+0.05)
}

func TestTheGridIsWorkedByKeyboard(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 900)
	require.NoError(t, p.Open(w.url+gneissPath+"/grid"))
	_, err := browser.Eval[bool](p,
		`document.getElementById("g-trunk-1-length").focus(),document.getElementById("g-trunk-1-length").select(),true`)
	require.NoError(t, err)
	require.NoError(t, p.Keys("9 ft\r"))
	require.NoError(t, p.WaitText(".notice", "length 8 ft → 9 ft"))
	require.NoError(t, p.Wait(`document.activeElement.id === "g-trunk-2-length"`))
	// A block pasted into the grid goes in whole; the grid gives one back.
	_, err = browser.Eval[bool](p, `(() => { const d = new DataTransfer(); d.setData("text/plain", `+
		`"Line\tLength\ntrunk-3\t3 ft\ntrunk-4\t6 ft\n");
		document.activeElement.dispatchEvent(new ClipboardEvent("paste", {clipboardData: d, bubbles: true, cancelable: true})); return true })()`)
	require.NoError(t, err)
	require.NoError(t, p.WaitText(".notice", "took in lines: 0 new, 2 changed"))
	block, err := browser.Eval[string](p, `document.getElementById("block").value`)
	require.NoError(t, err)
	assert.Regexp(t, regexp.MustCompile(`trunk-4\t[^\n]*6 ft`), block)
}

// The main path without a mouse: search, a part, its figure, undo, redo, the
// list of keys.
func TestTheMainPathByKeyboardAlone(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 900)
	require.NoError(t, p.Open(w.url+"/figures"))
	require.NoError(t, p.Keys("/"))
	require.NoError(t, p.Wait(`location.pathname === "/" && document.activeElement.id === "q"`))
	require.NoError(t, p.Keys("bypass"))
	require.NoError(t, p.WaitText("#models", "Bypass valve"))
	// What was found by the last letter is there: what comes later would take the focus away.
	require.NoError(t, p.Wait(`location.search === "?q=bypass" && !document.querySelector(".htmx-swapping, .htmx-settling")`))
	tabTo := func(js string) {
		t.Helper()
		for range 150 {
			if ok, err := browser.Eval[bool](p, js); err == nil && ok {
				return
			}
			require.NoError(t, p.Keys("\t"))
		}
		t.Fatalf("the tab key never comes to %s", js)
	}
	tabTo(`document.activeElement.textContent === "Bypass valve" && document.activeElement.href.includes("gneiss")`)
	require.NoError(t, p.Keys("\r"))
	require.NoError(t, p.WaitText("#rail", "Bypass valve"))
	require.NoError(t, p.Wait(`document.readyState === "complete"`))
	require.NoError(t, p.Keys("i"))
	require.NoError(t, p.Wait(`document.activeElement.id === "in-part-name"`))
	require.NoError(t, p.Keys("\x1b"))
	require.NoError(t, p.Wait(`document.activeElement.id === "pick-valve-bypass"`))
	require.NoError(t, p.Keys("i\t"))
	require.NoError(t, p.Wait(`document.activeElement.id === "in-part-label"`))
	require.NoError(t, p.Keys("BYPASS"))
	require.NoError(t, p.Keys("\t"))
	require.NoError(t, p.WaitText(".notice", "Bypass valve: label on the unit BYPASS"))
	_, err := browser.Eval[bool](p, "document.activeElement.blur(),true")
	require.NoError(t, err)
	require.NoError(t, p.Keys("u"))
	require.NoError(t, p.WaitText(".notice", "undo: Bypass valve"))
	require.NoError(t, p.Keys("r"))
	require.NoError(t, p.WaitText(".notice", "redo: Bypass valve"))
	require.NoError(t, p.Keys("a"))
	require.NoError(t, p.Wait(`document.querySelector("details.adds").open`))
}

func TestOnAPhoneItIsReadAndSaysWhatNeedsMoreRoom(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 390, 844)
	require.NoError(t, p.Open(w.url+gneissPath+"?part=pump"))
	seen := func(css string) bool {
		ok, err := browser.Eval[bool](p,
			`[...document.querySelectorAll("`+css+`")].some(e => e.getClientRects().length > 0)`)
		require.NoError(t, err)
		return ok
	}
	assert.False(t, seen(".inspect"))
	assert.True(t, seen("#rail dl"), "its figures can be read")
	text, err := p.Text("main")
	require.NoError(t, err)
	assert.Contains(t, text, "needs a wider screen")
	wide, err := browser.Eval[bool](p,
		"document.documentElement.scrollWidth > document.documentElement.clientWidth + 1")
	require.NoError(t, err)
	assert.False(t, wide, "the page does not scroll sideways")
}
