package web_test

import (
	"bytes"
	"image"
	"image/jpeg"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/finding"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
	"coldtap/internal/rig/habits"
)

// write puts a file where the browser finds it.
func write(t *testing.T, name string, content []byte) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, content, 0o600))
	return path
}

func photograph(t *testing.T) []byte {
	t.Helper()
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, image.NewRGBA(image.Rect(0, 0, 320, 240)), nil))
	return b.Bytes()
}

// A whole day: from nothing and engineering's own list to a trailer of forty-four lines
// without an error or a warning, with an option, photographs and kept settings. A click, a
// key chord, a filled field, a chosen file are an action each.
func TestAWholeDayFromEngineeringsListToACleanTrailer(t *testing.T) {
	t.Parallel()
	const mostActions = 110
	w := openEmpty(t)
	p := visit(t, w.url, 1280, 800)
	list := habits.Day()
	raw, err := list.File()
	require.NoError(t, err)
	file, photo := write(t, "basalt-18.xlsx", raw), write(t, "panel.jpg", photograph(t))
	actions := 0
	do := func(err error) {
		t.Helper()
		actions++
		require.NoError(t, err)
	}
	sees := func(css, words string) { t.Helper(); require.NoError(t, p.WaitText(css, words)) }
	ready := func(js string) {
		t.Helper()
		require.NoError(t, p.Wait(`document.readyState === "complete" && `+js))
	}

	// Begin with nothing.
	require.NoError(t, p.Open(w.url+"/"))
	do(p.Click(`.mains a[href="/begin"]`))
	ready(`!!document.querySelector("#name")`)
	do(p.Fill("#name", "Basalt 18"))
	do(p.Fill("#year", "2028"))
	do(p.Choose("#blank", "empty"))
	do(p.Click("#begin"))
	sees(".firststeps", "Nothing is described yet")

	// Bring the list that engineering keeps: the parts, then the lines.
	do(p.Click(".firststeps a[href$='/imports']"))
	ready(`!!document.querySelector("#file")`)
	do(p.File("#file", file))
	do(p.Click(".fields .main"))
	ready(`!!document.querySelector("#take")`)
	do(p.Click("#take"))
	sees(".notice", "took in parts: 40 new")
	do(p.Choose("#sheet", "1"))
	require.NoError(t, p.Wait(`document.querySelector("#what").value === "lines" && !document.querySelector(".askedone")`))
	do(p.Click("#take"))
	sees(".notice", "took in lines: 44 new")
	do(p.Click(`.tabs a[href$="/basalt-18-2028"]`))
	sees("#tab-findings", "Findings")

	// Mend what is found: mounted handles, normal positions.
	ready(`!!document.querySelector("#pick-heater-relief-valve")`)
	do(p.Click("#pick-heater-relief-valve"))
	sees("#h-i", "Heater relief valve")
	do(p.Click("#tab-look"))
	do(p.Choose("[id='in-part-reading.handle']", "lever"))
	sees(".notice", "handle")
	do(p.Click("#pick-bypass-valve"))
	sees("#h-i", "Bypass valve")
	do(p.Click("#tab-figures"))
	do(p.Choose("#in-part-normal", "closed"))
	sees(".notice", "normal")
	do(p.Click("#tab-findings"))
	do(p.Click("[id^='finding-assumed']"))
	do(p.Click("#confirm-everything"))
	sees(".notice", "confirmed")
	accept := func(code, reason string) {
		t.Helper()
		do(p.Click("[id^='finding-" + code + "']"))
		do(p.Fill("#accept-reason", reason))
		do(p.Click("#accept"))
		sees(".accepted", reason)
	}
	accept("port-hose-holds", "the hose hangs out and runs dry")
	accept("pocket", "blown through in winter")

	// An option that some units have.
	do(p.Click(".bar a[href$='/options']"))
	ready(`!!document.querySelector("#o-new-name")`)
	do(p.Fill("#o-new-name", "Winter pack"))
	do(p.Click("#o-new-save"))
	sees(".notice", "added the option Winter pack")
	do(p.Click("#option-winter-pack summary"))
	do(p.Click("#adds-winter-pack-pick-up-hose"))
	do(p.Click("#adds-winter-pack-pick-up-hose-pick-up-valve"))
	do(p.Click("#things-winter-pack"))
	sees("#option-winter-pack dd", "Pick-up hose")
	do(p.Click("#o-winter-pack-standard"))
	do(p.Click("#o-winter-pack-save"))
	sees("#option-winter-pack h2", "fitted unless left out")

	// Photographs of two panels, each with its mark.
	do(p.Click(".bar a[href$='/basalt-18-2028']"))
	for _, part := range []string{"bypass-valve", "cold-low-point"} {
		ready(`!!document.querySelector("#pick-` + part + `")`)
		do(p.Click("#pick-" + part))
		ready(`document.querySelector("#rail").dataset.for === "` + part + `"`)
		do(p.Click("#tab-photos"))
		do(p.File("#pane-photos input[type=file]", photo))
		do(p.Click("#pane-photos .line-form button"))
		ready(`!!document.querySelector("#pane-photos .pic")`)
		do(p.Click("#tab-photos"))
		do(p.Click(".photo .pic"))
	}

	// Settings that the plant wants so.
	for _, mode := range []string{"city", "storage"} {
		do(p.Click(`.tabs a[href$="/settings"]`))
		ready(`!!document.querySelector("#mode-` + mode + `")`)
		do(p.Click("#mode-" + mode))
		ready(`document.querySelector("#rail").dataset.for === "` + mode + `"`)
		do(p.Click("#turn-pick-up-valve"))
		ready(`!!document.querySelector("#keep-reason")`)
		do(p.Fill("#keep-reason", "the hose port is open for the inspector"))
		do(p.Click("#keep"))
		sees("#rail .kept", "Kept by Imre Valk")
	}

	m, err := plumbing.Read(strings.NewReader(w.document(t, "basalt-18-2028")))
	require.NoError(t, err)
	assert.Len(t, m.Lines, 44)
	assert.Len(t, m.Kept, 2)
	built, err := m.Build(m.StandardOptions()...)
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(built)
	require.NoError(t, err)
	plan, err := setting.Plan(t.Context(), n)
	require.NoError(t, err)
	open, _ := finding.Split(finding.Find(n, plan), m.Accepted)
	for _, f := range open {
		assert.Equal(t, finding.Note, f.Severity, "%s %v", f.Code, f.Parts)
	}
	for _, part := range []string{"bypass-valve", "cold-low-point"} {
		_, page := get(t, w.url+"/models/basalt-18-2028?part="+part)
		assert.Contains(t, page, "/image\"", "a photograph of %s", part)
	}
	t.Logf("a whole day: %d actions", actions)
	assert.LessOrEqual(t, actions, mostActions)
}
