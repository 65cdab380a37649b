package file_test

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/browser"
	"coldtap/internal/core/chapter"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/guide"
	"coldtap/internal/guide/file"
	"coldtap/internal/rig/drafted"
)

// written is prose of a hand's own with all that Markdown has.
const written = "Read **this** *first*, `now`.\n\n# Head\n\n- one\n- two\n\n1. a\n2. b\n\n> said\n\n    code\n\n---\n\n" +
	"[on](https://example.org/?a=1&b=2) & more <script>x</script> [[part/fresh]]"

func made(t testing.TB, id string, e chapter.Edition, print file.Print) *file.Guide {
	t.Helper()
	m := drafted.Model(t, id)
	m.Chapter = &plumbing.Written{Prose: map[string]plumbing.Prose{"text-1": {Title: "A word & more", Text: written}},
		Order: []string{"have", "text-1"}}
	in := drafted.Whole(t, m, m.StandardOptions())
	in.Edition = e
	d, err := guide.New(t.Context(), in, guide.Options{})
	require.NoError(t, err)
	return &file.Guide{Doc: d, In: in, Print: print}
}

func raw(t *testing.T, g *file.Guide, f file.Format) []byte {
	t.Helper()
	var b bytes.Buffer
	require.NoError(t, g.Write(t.Context(), &b, f))
	return b.Bytes()
}

func unzipped(t *testing.T, raw []byte) map[string]string {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	require.NoError(t, err)
	got := map[string]string{}
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(t, err)
		text, err := io.ReadAll(r)
		require.NoError(t, err)
		got[f.Name] = string(text)
	}
	return got
}

// Topics are valid by the document types of DITA, the map leads to each, and each picture is there.
func TestTopicsAreValid(t *testing.T) {
	at, err := filepath.Abs("../../../var/dita/usr/share/dita-ot/catalog-dita.xml")
	require.NoError(t, err)
	require.FileExists(t, at, "make need-test brings the document types of DITA")
	for _, e := range chapter.Editions() {
		files := unzipped(t, raw(t, made(t, "schist-31-2027", e, nil), file.DITA))
		dir := t.TempDir()
		require.NoError(t, os.Mkdir(filepath.Join(dir, "pictures"), 0o755))
		args := []string{"--noout", "--nonet", "--valid"}
		for name, text := range files {
			require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o644))
			if !strings.HasSuffix(name, ".svg") {
				args = append(args, filepath.Join(dir, name))
			}
		}
		require.Greater(t, len(args), 20)
		cmd := exec.Command("xmllint", args...)
		cmd.Env = append(os.Environ(), "XML_CATALOG_FILES="+at)
		said, err := cmd.CombinedOutput()
		assert.NoError(t, err, "%s", said)
		assert.Empty(t, string(said))
		for name, text := range files {
			for _, m := range regexp.MustCompile(`href="([^":]+)"`).FindAllStringSubmatch(text, -1) {
				assert.Contains(t, files, m[1], "%s leads to it", name)
			}
		}
		assert.Contains(t, files["guide.ditamap"], `<topicref href="t-task-sanitize.dita" type="task"/>`)
		assert.Contains(t, files["t-text-1.dita"], `<xref href="https://example.org/?a=1&amp;b=2"`)
		assert.NotContains(t, files["t-text-1.dita"], "script")
	}
}

// Everything together can be read without Cold Tap, and is the same when it is made again.
func TestEverythingIsInTheArchive(t *testing.T) {
	g := made(t, "gneiss-24-2027", chapter.Owner, nil)
	first := raw(t, g, file.Zip)
	assert.Equal(t, first, raw(t, made(t, "gneiss-24-2027", chapter.Owner, nil), file.Zip))
	files := unzipped(t, first)
	for _, name := range []string{"README.txt", "guide.html", "text/guide.md", "topics/guide.ditamap", "figures.csv",
		"figures.json", "model.json", "model.schema.json", "rules.json"} {
		assert.Contains(t, files, name)
	}
	m, err := plumbing.Read(strings.NewReader(files["model.json"]))
	require.NoError(t, err)
	assert.Equal(t, g.In.Net.Model.ID, m.ID)
	for _, p := range regexp.MustCompile(`\((pictures/[^)]+)\)`).FindAllStringSubmatch(files["text/guide.md"], -1) {
		assert.Contains(t, files, "text/"+p[1])
		assert.Contains(t, files["text/"+p[1]], `xmlns="http://www.w3.org/2000/svg"`)
		assert.Contains(t, files["text/"+p[1]], "<style>.")
	}
	rows, err := csv.NewReader(strings.NewReader(files["figures.csv"])).ReadAll()
	require.NoError(t, err)
	bleach := ""
	for _, r := range rows {
		if r[1] == "dose/fresh/measured" {
			bleach = r[3]
		}
	}
	assert.Equal(t, "11\u00a0tbsp", bleach)
	var figures struct {
		Figures []struct {
			ID   string
			From []string
		}
	}
	require.NoError(t, json.Unmarshal([]byte(files["figures.json"]), &figures))
	for _, f := range figures.Figures {
		assert.NotEmpty(t, f.From, "%s is computed from something", f.ID)
	}
	var rules []struct{ ID, Value string }
	require.NoError(t, json.Unmarshal([]byte(files["rules.json"]), &rules))
	assert.Len(t, rules, len(house.Rules()))
}

// A page that stands alone loads nothing from anywhere.
func TestAPageStandsAlone(t *testing.T) {
	page := string(raw(t, made(t, "gneiss-24-2027", chapter.Owner, nil), file.HTML))
	for _, m := range regexp.MustCompile(`(?:src|href)=["']([^"']+)["']|url\(([^)]{1,30})`).FindAllStringSubmatch(page, -1) {
		at := m[1] + m[2]
		assert.True(t, strings.HasPrefix(at, "#") || strings.HasPrefix(at, "data:") || at == "https://example.org/?a=1&amp;b=2",
			"it loads %s", at)
	}
	assert.NotContains(t, page, "<script")
}

// A PDF has its contents, bookmarks by headings and tags, and no browser is an error that says what to do.
func TestThePrintedGuide(t *testing.T) {
	printer := &browser.Printer{}
	defer printer.Close()
	print := func(ctx context.Context, page []byte) ([]byte, error) {
		return printer.Print(ctx, page, browser.Letter)
	}
	g := made(t, "tuff-9-2027", chapter.Owner, print)
	pdf := filepath.Join(t.TempDir(), "guide.pdf")
	require.NoError(t, os.WriteFile(pdf, raw(t, g, file.PDF), 0o644))
	info, err := exec.Command("pdfinfo", pdf).CombinedOutput()
	require.NoError(t, err)
	assert.Regexp(t, `Title: +Tuff 9 \(2027\): Water system`, string(info))
	assert.Regexp(t, `Tagged: +yes`, string(info))
	assert.Regexp(t, `Page size: +612 x 792 pts`, string(info))
	text, err := exec.Command("pdftotext", "-layout", pdf, "-").Output()
	require.NoError(t, err)
	pages := strings.Split(string(text), "\f")
	require.Greater(t, len(pages), 5)
	assert.Contains(t, pages[0], "Tuff 9 (2027)")
	assert.NotContains(t, pages[0], "1 /", "the cover has no number")
	assert.Contains(t, pages[1], "Sanitize")
	for i, p := range pages[1 : len(pages)-1] {
		assert.Regexp(t, `Tuff 9 \(2027\)\s+Water system`, p, "running head of page %d", i+2)
		flat := strings.Join(strings.Fields(p), " ")
		assert.Contains(t, flat, strconv.Itoa(i+2)+" / "+strconv.Itoa(len(pages)-1))
	}
	raw, err := os.ReadFile(pdf)
	require.NoError(t, err)
	assert.Contains(t, string(raw), "/Outlines")
	contents := strings.Join(strings.Fields(pages[1]), " ")
	for _, s := range g.Doc.Sections { // the contents say on which page each section really begins
		page := 0
		for i := 2; i < len(pages); i++ {
			flat := strings.Join(strings.Fields(pages[i]), " ")
			if strings.Contains(flat, s.Title) && (page == 0 || browser.PageOf(raw)["b-"+s.ID] == i+1) {
				page = i + 1
			}
		}
		assert.Equal(t, browser.PageOf(raw)["b-"+s.ID], page, s.Title)
		assert.Contains(t, contents, s.Title+" "+strconv.Itoa(page))
	}

	g.Print = nil
	assert.ErrorIs(t, g.Write(t.Context(), io.Discard, file.PDF), file.ErrNoPrinter)
}

// BenchmarkChapterPDF prints the dealer's chapter of the largest demo model.
func BenchmarkChapterPDF(b *testing.B) {
	printer := &browser.Printer{}
	defer printer.Close()
	g := made(b, "schist-31-2027", chapter.Dealer, func(ctx context.Context, page []byte) ([]byte, error) {
		return printer.Print(ctx, page, browser.A4)
	})
	require.NoError(b, g.Write(b.Context(), io.Discard, file.PDF)) // the browser is started
	for b.Loop() {
		require.NoError(b, g.Write(b.Context(), io.Discard, file.PDF))
	}
	b.ReportMetric(float64(b.Elapsed().Milliseconds())/float64(b.N), "ms/op")
}
