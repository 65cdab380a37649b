package assembly_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/assembly"
	"coldtap/internal/core/finding"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
	"coldtap/internal/drawing"
	"coldtap/internal/rig"
	"coldtap/internal/rig/told"
	"coldtap/internal/sample"
)

func begin(t *testing.T, blank, units string) *plumbing.Model {
	t.Helper()
	m, err := assembly.Begin(plumbing.Model{ID: "new-2027", Name: "New", Year: 2027, Kind: "trailer", Units: units},
		blank)
	require.NoError(t, err, blank)
	return m
}

func plan(t *testing.T, m *plumbing.Model) (*plumbing.Network, []setting.Answer) {
	t.Helper()
	n, err := plumbing.NewNetwork(m)
	require.NoError(t, err)
	return n, rig.Plan(t, n)
}

// A blank holds together: everyday use and, where the equipment has it,
// winter work at once; no error among its findings.
func TestBlanksHoldTogether(t *testing.T) {
	winter := map[string]bool{"trailer": true, "manifold": true, "plate": true, "motorhome": true, "van": true}
	for _, b := range assembly.Blanks() {
		for _, units := range []string{"us", "si"} {
			m := begin(t, b.ID, units)
			n, answers := plan(t, m)
			if b.ID == "empty" {
				assert.Empty(t, m.Parts)
				continue
			}
			everyday := setting.ForMode(answers, setting.Everyday)
			assert.True(t, everyday.OK, "%s: %s", b.ID, everyday.Why)
			if winter[b.ID] {
				a := setting.ForMode(answers, setting.Antifreeze)
				assert.True(t, a.OK, "%s: %s", b.ID, a.Why)
			}
			for _, f := range finding.Find(n, answers) {
				assert.NotEqual(t, finding.Error, f.Severity, "%s: %s", b.ID, told.Fact(f.Said))
				assert.NotContains(t, []string{"part-loose", "length-missing", "diameter-missing", "hot-cold-mixed",
					"normal-odd", "outlet-dry"}, f.Code, "%s: %s", b.ID, told.Fact(f.Said))
			}
		}
	}
}

// Every answer to every choice of every assembly gives a model that reads, and
// everyday use still works.
func TestEveryChoiceArrivesJoined(t *testing.T) {
	for _, k := range sample.Of(t, 4, assembly.Kinds()) {
		answers := []map[string]string{nil}
		for _, q := range k.Questions {
			for _, c := range q.Choice {
				answers = append(answers, map[string]string{q.Name: c.Value})
			}
		}
		base := "trailer"
		switch k.ID {
		case "tank":
			base = "empty"
		case "pump":
			base = "tank only"
		case "plate":
			base = "port pump"
		}
		for _, a := range answers {
			var m *plumbing.Model
			switch base {
			case "tank only", "port pump":
				done, err := assembly.Add(begin(t, "empty", "us"), assembly.ByID("tank"), nil)
				require.NoError(t, err)
				m = done.Model
				if base == "port pump" {
					done, err = assembly.Add(m, assembly.ByID("pump"), map[string]string{"pickup": "port"})
					require.NoError(t, err)
					m = done.Model
				}
			default:
				m = begin(t, base, "us")
			}
			what := fmt.Sprint(k.ID, a)
			done, err := assembly.Add(m, &k, a)
			require.NoError(t, err, what)
			assert.Contains(t, told.Fact(done.Said), "added ", what)
			assert.Greater(t, len(done.Model.Parts), len(m.Parts), what)
			n, answers := plan(t, done.Model)
			if base == "trailer" && a["check"] != "no" { // a second inlet without a check spills
				assert.True(t, setting.ForMode(answers, setting.Everyday).OK, "%s: %s", what,
					setting.ForMode(answers, setting.Everyday).Why)
			}
			for _, f := range finding.Find(n, answers) {
				assert.NotContains(t, []string{"part-loose", "length-missing", "diameter-missing", "hot-cold-mixed",
					"outlet-side-odd"}, f.Code, "%s: %s", what, told.Fact(f.Said))
			}
		}
	}
}

// Coupled, the portable heater gets its water from the lines that were there.
func TestACoupledHeaterGetsWater(t *testing.T) {
	done, err := assembly.Add(begin(t, "trailer", "us"), assembly.ByID("couplings"), nil)
	require.NoError(t, err)
	n, answers := plan(t, done.Model)
	a := setting.ForMode(answers, setting.Coupled)
	require.True(t, a.OK, a.Why)
	r := flow.Reach(n, a.State, flow.Query{From: a.Mode.From})
	assert.True(t, r.Part(n.Model.Part("portable-heater")))
	assert.True(t, r.Node(n.Node("outside-shower-2.hot")) || r.Node(n.Node("outside-shower.hot")))
}

// A third and a fourth way into a tank get ports of their own, and the tank is
// filled by each.
func TestATankTakesMoreWaysIn(t *testing.T) {
	m := begin(t, "trailer", "si")
	for range 3 {
		done, err := assembly.Add(m, assembly.ByID("barrel"), map[string]string{"to": "tank"})
		require.NoError(t, err)
		m = done.Model
	}
	tank := m.Part("fresh-tank")
	assert.Equal(t, "return2 return3", tank.Data.MorePorts)
	n, answers := plan(t, m)
	a := setting.ForMode(answers, setting.FillBarrel)
	require.True(t, a.OK, a.Why)
	assert.Len(t, a.Mode.From, 3)
	for _, from := range a.Mode.From {
		r := flow.Reach(n, a.State, flow.Query{From: []plumbing.NodeID{from}})
		assert.True(t, r.Part(n.Model.Part("fresh-tank")))
	}
	_, err := drawing.NewSchematic(t.Context(), n, nil)
	assert.NoError(t, err)
}

// A question has no name that the form needs for itself.
func TestQuestionsDoNotCollideWithTheForm(t *testing.T) {
	for _, k := range assembly.Kinds() {
		for _, q := range k.Questions {
			assert.NotContains(t, []string{"from", "with", "options"}, q.Name, k.ID)
		}
	}
}

func TestAssembliesSayWhatTheyMiss(t *testing.T) {
	empty := begin(t, "empty", "us")
	for kind, words := range map[string]string{"pump": "add a tank set first", "city": "add a pump set first",
		"heater": "add a pump set first", "drain": "no cold line yet", "rinse": "no black tank yet",
		"plate":  "container port",
		"barrel": "add a pump set first", "hatch": "add a tank set first", "panel": "nothing to switch",
		"probes": "add a tank set first", "hull": "add a pump set first",
		"air-port": "add a pump set first", "jumper": "no outlet or no inlet"} {
		_, err := assembly.Add(empty, assembly.ByID(kind), nil)
		require.Error(t, err, kind)
		assert.Contains(t, err.Error(), words)
	}
	_, err := assembly.Add(empty, assembly.ByID("tank"), map[string]string{"capacity": "a lot"})
	assert.ErrorContains(t, err, `Capacity of each: "a lot"`)
	_, err = assembly.Add(empty, assembly.ByID("tank"), map[string]string{"fill": "magic"})
	assert.ErrorContains(t, err, "not one of the choices")
}
