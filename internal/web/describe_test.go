package web_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/browser"
	"coldtap/internal/core/finding"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
	"coldtap/internal/rig"
	"coldtap/internal/rig/told"
)

// begin makes a model in the browser.
func begin(t *testing.T, p *browser.Page, url, name, kind, blank string) {
	t.Helper()
	require.NoError(t, p.Open(url+"/begin"))
	require.NoError(t, p.Fill("#name", name))
	require.NoError(t, p.Fill("#year", "2028"))
	require.NoError(t, p.Fill("#kind", kind))
	require.NoError(t, p.Choose("#units", "si"))
	require.NoError(t, p.Choose("#blank", blank))
	require.NoError(t, p.Click("#begin"))
	require.NoError(t, p.Wait(`!!document.querySelector("#add")`))
}

// Campers with several tanks, pumps and pick-ups, plates, couplings, a boat:
// described from nothing by their lists, each computes as its file does.
func TestWholeCampersAreDescribedByLists(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 900)
	for _, name := range []string{"basalt-28", "flint-11", "mica-5", "obsidian-33", "pumice-9"} {
		m, err := rig.Model(name)
		require.NoError(t, err)
		begin(t, p, w.url, "Copy of "+name, m.Kind, "empty")
		slug := "copy-of-" + name + "-2028"
		for _, list := range []struct{ what, block string }{{"parts", partsBlock(t, m)}, {"lines", linesBlock(m)}} {
			require.NoError(t, p.Open(w.url+"/models/"+slug+"/grid?what="+list.what))
			_, err := browser.Eval[bool](p, `document.querySelector("#paste details").open = true`)
			require.NoError(t, err)
			require.NoError(t, p.Fill("#blockin", list.block))
			require.NoError(t, p.Click("#take"))
			require.NoError(t, p.WaitText(".notice", "Saved:"))
		}
		got, err := plumbing.Read(strings.NewReader(w.document(t, slug)))
		require.NoError(t, err)
		got.ID, got.Name, got.Year, got.Kind, got.Maker, got.Units = m.ID, m.Name, m.Year, m.Kind, m.Maker, m.Units
		got.DesignLow, got.Body, got.Carrying, got.Notes = m.DesignLow, m.Body, m.Carrying, m.Notes
		assert.Equal(t, computed(t, m), computed(t, got), name)
	}
}

// What practice has beyond the plain trailer is put in by assemblies, one click
// each: every way of use that it brings is there at once, and nothing is wrong.
func TestAssembliesBringTheirWaysOfUse(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 900)
	add := func(kind string, choose ...string) {
		t.Helper()
		require.NoError(t, p.Click("#add"))
		require.NoError(t, p.Click("#asm-"+kind))
		require.NoError(t, p.Wait(`!!document.querySelector("#add-assembly")`))
		for i := 0; i+1 < len(choose); i += 2 {
			require.NoError(t, p.Choose(choose[i], choose[i+1]))
		}
		require.NoError(t, p.Click("#add-assembly"))
		require.NoError(t, p.Wait(`!document.querySelector("#add-assembly")`))
		require.NoError(t, p.WaitText(".notice", "added"))
	}
	has := func(slug string, modes ...string) *plumbing.Network {
		t.Helper()
		m, err := plumbing.Read(strings.NewReader(w.document(t, slug)))
		require.NoError(t, err)
		b, err := m.Build(m.StandardOptions()...)
		require.NoError(t, err)
		n, err := plumbing.NewNetwork(b)
		require.NoError(t, err)
		plan := rig.Plan(t, n)
		for _, id := range modes {
			a := setting.ForMode(plan, id)
			assert.True(t, a.OK, "%s: %s", id, a.Why)
		}
		for _, f := range finding.Find(n, plan) {
			assert.NotEqual(t, finding.Error, f.Severity, told.Fact(f.Said))
		}
		return n
	}
	begin(t, p, w.url, "Everything", "motorhome", "motorhome")
	add("barrel")
	add("hatch")
	add("air-port")
	add("couplings")
	add("softener")
	add("panel")
	add("probes")
	n := has("everything-2028", setting.Everyday, setting.FromBarrel, setting.FillHatch, setting.Blow, setting.Coupled,
		setting.Stowed, setting.Antifreeze)
	assert.Len(t, n.PartsOf(plumbing.RoleProbe), 3)
	require.NoError(t, p.Open(w.url+"/models/everything-2028/settings?mode=heater-stowed"))
	text, err := p.Text(".attach")
	require.NoError(t, err)
	assert.Contains(t, text, "its valve shut and parted first")
	assert.Contains(t, text, "at the control panel")

	begin(t, p, w.url, "Afloat", "boat", "trailer")
	add("hull")
	add("jumper")
	has("afloat-2028", setting.Everyday, setting.Antifreeze, setting.JumperOn)
	require.NoError(t, p.Open(w.url+"/models/afloat-2028/settings"))
	text, err = p.Text("#pane-use")
	require.NoError(t, err)
	assert.Contains(t, text, "On dockside water")
	assert.NotContains(t, text, "city water")
}
