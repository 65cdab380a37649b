package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/rig"
	"coldtap/internal/sample"
)

const (
	gneiss = "../../demo/models/gneiss-24-2027.json"
	ashlar = "../../demo/models/ashlar-20-2027.json"
)

func runs(t *testing.T, args ...string) (string, error) {
	t.Helper()
	var out bytes.Buffer
	err := run(t.Context(), args, &out)
	return out.String(), err
}

func TestCheckSaysPositionsAndAmounts(t *testing.T) {
	out, err := runs(t, "check", gneiss)
	require.NoError(t, err)
	assert.Contains(t, out, "Heater inlet valve: closed")
	assert.Contains(t, out, "On city water: same positions as everyday")
	out, err = runs(t, "check", gneiss, "--json")
	require.NoError(t, err)
	var r report
	require.NoError(t, json.Unmarshal([]byte(out), &r))
	assert.Equal(t, 43, r.Lines)
	i := slices.IndexFunc(r.Modes, func(m modeReport) bool { return m.ID == "antifreeze" })
	require.GreaterOrEqual(t, i, 0)
	assert.Equal(t, "closed", r.Modes[i].Positions["valve-heater-in"])
	require.Len(t, r.Proofs, len(draft.IDs()))
	weak := map[string]string{"winterize-pump": "too-weak", "winterize-hand-pump": "too-weak", "winterize-tank": "too-weak",
		"winterize-drain": "frost"}
	for _, p := range r.Proofs {
		if p.Cant != "" {
			assert.Empty(t, p.Steps)
			continue
		}
		if assert.Equal(t, weak[p.ID] == "", p.Proven, p.ID); !p.Proven {
			assert.Equal(t, weak[p.ID], p.Breaches[0].Rule, "no draining nor the pump alone protects the weakest point")
		}
		for _, s := range p.Steps {
			assert.True(t, s.Came, "%s: %s", p.ID, s.For)
			assert.NotContains(t, strings.Join(s.Acts, " "), "act.", "each act has its words")
		}
	}
}

// A procedure that is a danger on a model makes check say so, and exit with 1.
func TestCheckExitsWith1OnADangerousProcedure(t *testing.T) {
	m, err := rig.Model("no-bypass")
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "no-bypass.json")
	var b strings.Builder
	require.NoError(t, plumbing.Write(&b, m))
	require.NoError(t, os.WriteFile(file, []byte(b.String()), 0o600))
	out, err := runs(t, "check", file)
	var e exit
	require.ErrorAs(t, err, &e)
	assert.Equal(t, 1, e.code)
	assert.Contains(t, out, "danger: Water heater: sanitizer or antifreeze gets into it")
}

func TestCheckExitsWith2OnAFileItCantRead(t *testing.T) {
	bad := filepath.Join(t.TempDir(), "bad.json")
	require.NoError(t, os.WriteFile(bad, []byte(`{"format": 3}`), 0o600))
	for _, name := range []string{bad, "missing.json"} {
		_, err := runs(t, "check", name)
		var e exit
		require.ErrorAs(t, err, &e)
		assert.Equal(t, 2, e.code)
	}
}

func TestCheckExitsWith1OnAnErrorFinding(t *testing.T) {
	doc, err := os.ReadFile(gneiss)
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "unchecked.json")
	bad := strings.Replace(string(doc), `"check_valve": true, "regulator"`, `"regulator"`, 1)
	require.NotEqual(t, string(doc), bad)
	require.NoError(t, os.WriteFile(file, []byte(bad), 0o600))
	out, err := runs(t, "check", file)
	var e exit
	require.ErrorAs(t, err, &e)
	assert.Equal(t, 1, e.code)
	assert.Contains(t, out, "City water inlet has no check valve.")
}

func TestSchemaAndGuide(t *testing.T) {
	out, err := runs(t, "schema")
	require.NoError(t, err)
	assert.True(t, json.Valid([]byte(out)))
	file := filepath.Join(t.TempDir(), "guide.html")
	_, err = runs(t, "guide", gneiss, "-o", file)
	require.NoError(t, err)
	b, err := os.ReadFile(file)
	require.NoError(t, err)
	assert.Contains(t, string(b), "Winterize: air, then antifreeze")
	assert.NotContains(t, string(b), "the check before handing over")
	dealer, err := runs(t, "guide", gneiss, "--edition", "dealer")
	require.NoError(t, err)
	assert.Contains(t, dealer, "the check before handing over")
	_, err = runs(t, "guide", gneiss, "--edition", "nobody")
	assert.ErrorContains(t, err, `there is no edition "nobody"`)
}

// unproven is that a guide was written, and that not all of it is proven: each procedure is named, once.
func unproven(t *testing.T, err error) {
	t.Helper()
	var e exit
	require.ErrorAs(t, err, &e)
	assert.Equal(t, 1, e.code)
	assert.Contains(t, err.Error(), "not all of it is proven")
	assert.Equal(t, 1, strings.Count(err.Error(), "ashlar-20-2027: Winterize: air, then antifreeze: "))
	assert.NotContains(t, err.Error(), "gneiss")
}

// A guide is written in every format and edition; what an edition has no format for is said.
func TestGuideFormatsAndEditions(t *testing.T) {
	of := map[string]string{"html": "<!doctype html>", "csv": "Model,Figure", "json": "{", "md": "PK", "dita": "PK",
		"pdf": "%PDF"}
	for _, format := range sample.Of(t, 2, slices.Sorted(maps.Keys(of))) {
		begins := of[format]
		out, err := runs(t, "guide", gneiss, "--format", format)
		require.NoError(t, err, format)
		assert.True(t, strings.HasPrefix(out, begins), format)
	}
	card, err := runs(t, "guide", gneiss, "--edition", "card", "--address", "https://guides.example/")
	require.NoError(t, err)
	assert.Contains(t, card, "Water valve positions")
	assert.Contains(t, card, `class="code"`)
	table, err := runs(t, "guide", gneiss, ashlar, "--edition", "figures", "--format", "md")
	require.NoError(t, err)
	assert.Contains(t, table, "| Gneiss 24 (2027) |")
	assert.Contains(t, table, "| Ashlar 20 (2027) |")
	together, err := runs(t, "guide", ashlar, "--together")
	unproven(t, err)
	assert.Contains(t, together, "(only with Washing machine)")
	for _, wrong := range [][]string{{"--format", "docx"}, {"--edition", "card", "--format", "md"},
		{"--edition", "figures", "--format", "dita"}, {"--format", "pdf", "--paper", "A0"}} {
		_, err := runs(t, append([]string{"guide", gneiss}, wrong...)...)
		assert.Error(t, err, wrong)
	}
}

// Every build of a model, and one by name: what an option adds is there only
// with it.
func TestCheckAndGuideForAnyBuild(t *testing.T) {
	doc, err := os.ReadFile(ashlar)
	require.NoError(t, err)
	m, err := plumbing.Read(strings.NewReader(string(doc)))
	require.NoError(t, err)
	require.NotEmpty(t, m.Options)
	out, err := runs(t, "check", "--all-builds", "--json", ashlar)
	require.NoError(t, err)
	var all []report
	require.NoError(t, json.Unmarshal([]byte(out), &all))
	require.Len(t, all, 1<<len(m.Options))
	counts := map[string]int{}
	for _, r := range all {
		counts[strings.Join(r.Options, "+")] = r.Parts
	}
	for _, o := range m.Options {
		b, err := m.Build(o.ID)
		require.NoError(t, err)
		assert.Equal(t, len(b.Parts), counts[o.ID], "%s alone", o.ID)
		args := []string{"check", "--json", ashlar, "--with", o.ID}
		for _, standard := range m.StandardOptions() {
			if standard != o.ID {
				args = append(args, "--without", standard)
			}
		}
		out, err = runs(t, args...)
		require.NoError(t, err)
		var one report
		require.NoError(t, json.Unmarshal([]byte(out), &one))
		assert.Equal(t, counts[o.ID], one.Parts)
		assert.Equal(t, []string{o.ID}, one.Options)
	}
	_, err = runs(t, "check", ashlar, "--with", "sun-roof")
	assert.ErrorContains(t, err, `no option "sun-roof"; it has `)
	dir := t.TempDir()
	_, err = runs(t, "guide", gneiss, ashlar, "--out", dir)
	unproven(t, err)
	pages, err := filepath.Glob(filepath.Join(dir, "*.html"))
	require.NoError(t, err)
	assert.Len(t, pages, 2)
	_, err = runs(t, "guide", gneiss, ashlar)
	assert.ErrorContains(t, err, "need a folder")
}

// Of several files one that can't be read does not hide what the others say.
func TestCheckGoesOnPastAFileItCantRead(t *testing.T) {
	out, err := runs(t, "check", "missing.json", gneiss)
	var e exit
	require.ErrorAs(t, err, &e)
	assert.Equal(t, 2, e.code)
	assert.Contains(t, err.Error(), "missing.json")
	assert.Contains(t, out, "Heater inlet valve: closed")
}

func TestHelpTellsFlags(t *testing.T) {
	for command, flag := range map[string]string{"check": "--all-builds", "guide": "--out",
		"serve": "--secure-cookies"} {
		out, err := runs(t, command, "--help")
		require.NoError(t, err)
		assert.Contains(t, out, flag, command)
	}
	_, err := runs(t, "check", gneiss, "--jason")
	assert.ErrorContains(t, err, "unknown flag: --jason")
}

// start runs the built program and waits for its address.
func start(t *testing.T, bin, data string) (*exec.Cmd, string) {
	t.Helper()
	cmd := exec.Command(bin, "serve", "--demo", "--data", data, "--addr", "127.0.0.1:0")
	cmd.Stderr = os.Stderr
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	line, err := bufio.NewReader(out).ReadString('\n')
	require.NoError(t, err)
	_, url, ok := strings.Cut(strings.TrimSpace(line), "serves on ")
	require.True(t, ok, line)
	return cmd, url
}

// signedIn is a client in which the author is signed in.
func signedIn(t *testing.T, at string) *http.Client {
	t.Helper()
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	c := &http.Client{Jar: jar}
	a := demo.People()[0]
	resp, err := c.PostForm(at+"/sign-in", url.Values{"login": {a.Login}, "password": {a.Password}})
	require.NoError(t, err)
	resp.Body.Close()
	require.Equal(t, http.StatusOK, resp.StatusCode)
	return c
}

func body(t *testing.T, c *http.Client, url string) string {
	t.Helper()
	resp, err := c.Get(url)
	require.NoError(t, err)
	defer resp.Body.Close()
	b, err := io.ReadAll(resp.Body)
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, resp.StatusCode, fmt.Sprint(url, string(b)))
	return string(b)
}

// What was acknowledged is there after the application, and then the
// database, was killed in the middle of edits.
func TestNothingAcknowledgedIsLostWhenKilled(t *testing.T) {
	bin, err := program()
	require.NoError(t, err)
	data, err := os.MkdirTemp("", "coldtap-edits")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(data, 0o755))
	t.Cleanup(func() { os.RemoveAll(data) })
	cmd, at := start(t, bin, data)
	c := signedIn(t, at)

	// edit sets a length and reports whether that was acknowledged.
	inches := 130
	edit := func() bool {
		inches++
		resp, err := c.PostForm(at+"/models/gneiss-24-2027/edit/line/trunk-1",
			url.Values{"from": {"1"}, "f.length": {fmt.Sprintf("%d in", inches)}})
		if err != nil {
			return false
		}
		defer resp.Body.Close()
		b, err := io.ReadAll(resp.Body)
		return err == nil && resp.StatusCode == http.StatusOK && strings.Contains(string(b), "System of")
	}
	kept := func(acknowledged int) {
		t.Helper()
		doc := body(t, c, at+"/models/gneiss-24-2027/file")
		m, err := plumbing.Read(strings.NewReader(doc))
		require.NoError(t, err)
		got := float64(m.Line("trunk-1").Length.Value()) / 25.4
		assert.GreaterOrEqual(t, got, float64(acknowledged)-0.01)
		assert.LessOrEqual(t, got, float64(inches)+0.01)
	}
	acknowledged := 0
	publishes(t, at) // until then the model is locked
	for edit() {
		if acknowledged = inches; acknowledged == 135 {
			go cmd.Process.Kill() // in the middle of another
		}
	}
	require.Greater(t, acknowledged, 131, "some edits went through")
	cmd.Wait()
	cmd, at = start(t, bin, data)
	c = signedIn(t, at)
	kept(acknowledged)
	assert.Contains(t, body(t, c, at+"/"), "Gneiss 24")

	// The database alone: it comes back by itself, and so do the pages.
	require.True(t, edit())
	pid, err := os.ReadFile(filepath.Join(data, "data", "server.pid"))
	require.NoError(t, err)
	number, err := strconv.Atoi(strings.TrimSpace(string(pid)))
	require.NoError(t, err)
	acknowledged = inches
	for i := range 40 {
		if i == 5 {
			require.NoError(t, syscall.Kill(number, syscall.SIGKILL))
		}
		if edit() {
			acknowledged = inches
		}
	}
	require.Eventually(t, edit, enough, 50*time.Millisecond, "the pages come back by themselves")
	kept(max(acknowledged, inches))
	require.NoError(t, cmd.Process.Signal(syscall.SIGTERM))
	assert.NoError(t, cmd.Wait(), "a gentle stop ends without an error")
}
