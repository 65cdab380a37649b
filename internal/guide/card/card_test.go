package card_test

import (
	"image"
	_ "image/png"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/browser"
	"coldtap/internal/core/chapter"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/guide/card"
	"coldtap/internal/rig/drafted"
	"coldtap/internal/sample"
)

func whole(t *testing.T, m *plumbing.Model) chapter.Inputs {
	return drafted.Whole(t, m, m.StandardOptions())
}

// pages prints a card and gives its pages as pictures of 10 pixels a millimetre.
func pages(t *testing.T, p *browser.Printer, k card.Kind, in chapter.Inputs, paper browser.Paper, draw bool) (list []string) {
	t.Helper()
	page, err := card.Page(k, in, "https://guides.example/models/x/guide")
	require.NoError(t, err)
	raw, err := p.Print(t.Context(), page, paper)
	require.NoError(t, err)
	dir := t.TempDir()
	pdf := filepath.Join(dir, "card.pdf")
	require.NoError(t, os.WriteFile(pdf, raw, 0o644))
	if !draw {
		info, err := exec.Command("pdfinfo", pdf).Output()
		require.NoError(t, err)
		m := regexp.MustCompile(`Pages: +(\d+)`).FindSubmatch(info)
		return make([]string, int(m[1][0]-'0'))
	}
	require.NoError(t, exec.Command("pdftoppm", "-r", "254", "-png", pdf, filepath.Join(dir, "page")).Run())
	list, err = filepath.Glob(filepath.Join(dir, "page*.png"))
	require.NoError(t, err)
	return list
}

// ink gives the longest black run in any row of a picture, in pixels, and how far it is from ink to the nearest edge.
func ink(t *testing.T, file string) (run, edge int) {
	t.Helper()
	f, err := os.Open(file)
	require.NoError(t, err)
	defer f.Close()
	img, _, err := image.Decode(f)
	require.NoError(t, err)
	b := img.Bounds()
	edge = b.Dx()
	for y := b.Min.Y; y < b.Max.Y; y++ {
		now := 0
		for x := b.Min.X; x < b.Max.X; x++ {
			r, g, bl, _ := img.At(x, y).RGBA()
			if r>>8 < 8 && g>>8 < 8 && bl>>8 < 8 {
				now++
				run = max(run, now)
			} else {
				now = 0
			}
			if r>>8 < 200 {
				edge = min(edge, x-b.Min.X, b.Max.X-1-x, y-b.Min.Y, b.Max.Y-1-y)
			}
		}
	}
	return run, edge
}

// The rule on a valve card measures 100 mm in print on either paper, and nothing stands in the outer 10 mm.
func TestTheRuleMeasuresAHundredMillimetres(t *testing.T) {
	p := &browser.Printer{}
	defer p.Close()
	in := whole(t, drafted.Model(t, "gneiss-24-2027"))
	for _, paper := range []browser.Paper{browser.A4, browser.Letter} {
		longest := 0
		for _, file := range pages(t, p, card.Valve, in, paper, true) {
			run, edge := ink(t, file)
			longest = max(longest, run)
			assert.GreaterOrEqual(t, edge, 100, paper)
		}
		assert.InDelta(t, 1000, longest, 4, paper)
	}
}

// Winter and spring are one sheet and sanitizing its back, for every camper and on either paper.
func TestTheQuickCardIsOneSheet(t *testing.T) {
	p := &browser.Printer{}
	defer p.Close()
	for _, m := range sample.Of(t, 3, drafted.Campers(t)) {
		in := whole(t, m)
		page, err := card.Page(card.Quick, in, "")
		require.NoError(t, err)
		sides, lacking := strings.Count(string(page), `<article class="quickcard`), 0
		for _, x := range in.Tasks {
			on := (x.Part == chapter.Winter || x.Part == chapter.Spring) && x.ID != "winterize-again" && x.ID != "storage"
			if x.Wrong != nil && x.Has() && (on || x.ID == "sanitize") {
				lacking++
			}
		}
		assert.Equal(t, lacking, strings.Count(string(page), "What this does not reach"), "%s: told on the card too", m.ID)
		for _, paper := range []browser.Paper{browser.A4, browser.Letter} {
			got := len(pages(t, p, card.Quick, in, paper, false))
			assert.Equal(t, max(1, sides), got, "%s on %s", m.ID, paper)
		}
	}
}

// A valve card has every handle that some way of use turns, each way of use with its own hookups, plate words and a code.
func TestTheValveCard(t *testing.T) {
	in := whole(t, drafted.Model(t, "schist-31-2027"))
	c := chapter.CardOf(in.Inputs)
	require.NotEmpty(t, c.Handles)
	raw, err := card.Card(card.Valve, in, "https://guides.example/")
	require.NoError(t, err)
	text := string(raw)
	for i, p := range c.Handles {
		assert.Contains(t, text, p.Name)
		turned := false
		for k := range c.Settings {
			turned = turned || c.Cells[k][i].Position != c.Cells[0][i].Position
		}
		assert.True(t, turned, p.ID)
	}
	modes := 0
	for _, s := range c.Settings {
		modes += 1 + len(s.Also)
	}
	assert.Equal(t, modes, strings.Count(text, `<th scope="row">`))
	assert.Contains(t, text, `<span class="plate">BYPASS</span>`)
	assert.Contains(t, text, "does not bypass the heater", "a plate that misleads is told")
	assert.Contains(t, text, `class="code"`)
	city := text[strings.Index(text, "On city water"):]
	assert.Regexp(t, `^[^|]*?pump switch off`, city[:strings.Index(city, "</tr>")])
	bare, err := card.Card(card.Valve, in, "")
	require.NoError(t, err)
	assert.NotContains(t, string(bare), `class="code"`)
}

// Tags are those that the procedures ask for, each once.
func TestTagsAreHungUp(t *testing.T) {
	in := whole(t, drafted.Model(t, "gneiss-24-2027"))
	raw, err := card.Card(card.Tags, in, "")
	require.NoError(t, err)
	assert.Equal(t, 1, strings.Count(string(raw), "Water heater is empty: do not switch on"))
	assert.Equal(t, len(chapter.TagsOf(in.Tasks)), strings.Count(string(raw), `class="tag"`))
	for _, task := range in.Tasks {
		if task.Read != nil {
			for _, f := range task.Read.Tags {
				assert.Contains(t, tagKeys(in.Tasks), f.Key())
			}
		}
	}
}

func tagKeys(tasks []chapter.Task) (list []string) {
	for _, t := range chapter.TagsOf(tasks) {
		list = append(list, t.Said.Key())
	}
	return list
}
