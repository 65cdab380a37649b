package setting_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
	"coldtap/internal/rig"
	"coldtap/internal/rig/told"
)

func gneiss(t testing.TB) *plumbing.Model {
	t.Helper()
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	return m
}

func network(t testing.TB, m *plumbing.Model) *plumbing.Network {
	t.Helper()
	n, err := plumbing.NewNetwork(m)
	require.NoError(t, err)
	return n
}

func positions(n *plumbing.Network, s state.State) map[string]string {
	out := map[string]string{}
	for i, h := range n.AllHandles() {
		out[h.Part.ID] = h.Positions[s.Position(i)]
	}
	return out
}

func TestGneissPositionsAreFound(t *testing.T) {
	n := network(t, gneiss(t))
	plan := rig.Plan(t, n)
	shut := map[string]string{"anode": "closed", "heater-relief-valve": "closed", "strainer": "closed",
		"drain-cold": "closed", "drain-hot": "closed", "drain-tank": "closed"}
	want := map[string]map[string]string{
		setting.Everyday: {"valve-pickup": "a", "valve-heater-in": "open", "valve-heater-out": "open",
			"valve-bypass": "closed"},
		setting.City: {"valve-pickup": "a", "valve-heater-in": "open", "valve-heater-out": "open",
			"valve-bypass": "closed"},
		setting.Sanitize: {"valve-pickup": "a", "valve-heater-in": "closed", "valve-heater-out": "closed",
			"valve-bypass": "open"},
		setting.Antifreeze: {"valve-pickup": "b", "valve-heater-in": "closed", "valve-heater-out": "closed",
			"valve-bypass": "open"},
	}
	for _, a := range plan {
		if want[a.Mode.ID] == nil {
			continue
		}
		require.True(t, a.OK, a.Mode.ID)
		got := positions(n, a.State)
		for id, pos := range shut {
			assert.Equal(t, pos, got[id], a.Mode.ID)
			delete(got, id)
		}
		assert.Equal(t, want[a.Mode.ID], got, a.Mode.ID)
		assert.Empty(t, setting.Judge(n, &a.Mode, a.State))
		assert.Len(t, setting.Prove(n, &a.Mode, a.State), len(a.Mode.Clauses))
	}
	assert.Equal(t, setting.Everyday, plan[1].SameAs, "city water needs no other position")
}

func TestAHandleWrongIsSaid(t *testing.T) {
	n := network(t, gneiss(t))
	a := *setting.ForMode(rig.Plan(t, n), setting.Antifreeze)
	turn := func(id, pos string) []string {
		h := n.HandleOf(id)
		var words []string
		for _, b := range setting.Judge(n, &a.Mode, a.State.With(h, n.Handles[h].Index(pos))) {
			words = append(words, told.Fact(b.Said))
		}
		return words
	}
	assert.Equal(t, []string{"Water heater would fill with antifreeze."}, turn("valve-heater-in", "open"))
	assert.Contains(t, turn("valve-bypass", "closed"), "Kitchen tap, hot: no antifreeze comes.")
	assert.Contains(t, turn("valve-pickup", "a"),
		"The pump would draw from the fresh tank as well: its water thins the antifreeze.")
	assert.Contains(t, turn("drain-cold", "open"), "Antifreeze would run out at the cold low-point drain.")
}

// plainPipe takes the three bypass valves and the tube out of the Gneiss.
func plainPipe(t testing.TB) *plumbing.Model {
	m := gneiss(t)
	gone := map[string]bool{"valve-bypass": true, "valve-heater-in": true, "valve-heater-out": true,
		"tee-bypass-cold": true, "tee-bypass-hot": true}
	var parts []plumbing.Part
	for _, p := range m.Parts {
		if !gone[p.ID] {
			parts = append(parts, p)
		}
	}
	m.Parts = parts
	var lines []plumbing.Line
	for _, l := range m.Lines {
		switch l.ID {
		case "heater-feed":
			l.To = "heater.cold"
		case "h-trunk-1":
			l.From = "heater.hot"
		case "heater-in", "heater-cold", "tube-1", "tube-2", "heater-hot", "heater-out":
			continue
		}
		lines = append(lines, l)
	}
	m.Lines = lines
	return m
}

func TestWithoutBypassTheReasonIsNamed(t *testing.T) {
	n := network(t, plainPipe(t))
	// Every mode that wants the heater left out, and no other, fails on it.
	apart := []string{setting.Bypassed, setting.Sanitize, setting.Flush, setting.HeaterAlone, setting.DoseLines,
		setting.Blow, setting.Antifreeze, setting.HandPump}
	for _, a := range rig.Plan(t, n) {
		if !slices.Contains(apart, a.Mode.ID) && a.Mode.ID != setting.Storage {
			assert.True(t, a.OK || a.Mode.LeftOut.ID != "" || a.Mode.ID == setting.FillContainer ||
				a.Mode.ID == setting.DoseTank, a.Mode.ID)
			continue
		}
		if a.Mode.ID == setting.Storage {
			assert.Equal(t, "From the basin tap an open way that no handle shuts leads to the water heater.",
				told.Fact(a.Why))
			continue
		}
		assert.False(t, a.OK)
		assert.Regexp(t, `^Every way from the .* to the .*, hot runs through the water heater: this heater has no bypass\.$`, told.Fact(a.Why))
	}
}

func TestAModeThatTheEquipmentLacksIsLeftOut(t *testing.T) {
	m := gneiss(t)
	m.Parts = without(m.Parts, "city")
	var lines []plumbing.Line
	for _, l := range m.Lines {
		if l.ID != "city-in" {
			lines = append(lines, l)
		}
	}
	m.Lines = lines
	a := setting.ForMode(rig.Plan(t, network(t, m)), setting.City)
	assert.False(t, a.OK)
	assert.Equal(t, "This model has no city water inlet.", told.Fact(a.Why))
}

func without(parts []plumbing.Part, id string) []plumbing.Part {
	var out []plumbing.Part
	for _, p := range parts {
		if p.ID != id {
			out = append(out, p)
		}
	}
	return out
}

func TestOrderOfPartsChangesNothing(t *testing.T) {
	want := rig.Plan(t, network(t, gneiss(t)))
	rng := rand.New(rand.NewPCG(1, 2))
	for range 20 {
		m := gneiss(t)
		rng.Shuffle(len(m.Parts), func(i, j int) { m.Parts[i], m.Parts[j] = m.Parts[j], m.Parts[i] })
		rng.Shuffle(len(m.Lines), func(i, j int) { m.Lines[i], m.Lines[j] = m.Lines[j], m.Lines[i] })
		got := rig.Plan(t, network(t, m))
		for i := range want {
			assert.Equal(t, want[i].State, got[i].State)
			assert.Equal(t, want[i].OK, got[i].OK)
		}
	}
}

// TestSearchAgreesWithTryingAll turns every free handle of every demo model,
// with and without its options, every way, and compares, with a reach of the
// test's own.
func TestSearchAgreesWithTryingAll(t *testing.T) {
	builds := map[string]*plumbing.Model{"plain pipe": plainPipe(t)}
	models, err := demo.Models()
	require.NoError(t, err)
	for _, m := range models {
		var all []string
		for _, o := range m.Options {
			all = append(all, o.ID)
		}
		for _, with := range [][]string{nil, all} {
			builds[fmt.Sprint(m.ID, with)], err = m.Build(with...)
			require.NoError(t, err)
		}
	}
	for name, m := range builds {
		n := network(t, m)
		base := state.Normal(n)
		for _, mode := range setting.Modes(n) {
			if mode.LeftOut.ID != "" {
				continue
			}
			got, ok, err := setting.Find(t.Context(), n, &mode, base)
			require.NoError(t, err)
			want, wantOK := tryAll(n, &mode, base)
			require.Equal(t, wantOK, ok, "%s %s", name, mode.ID)
			if !ok {
				continue
			}
			assert.Equal(t, want, got.Handles, "%s %s", name, mode.ID)
			checkEither(t, n, &mode, got)
			if mode.ID == setting.Everyday {
				base = got
			}
		}
	}
}

// Closing a two-way valve never adds reach; opening one never takes any away.
func TestTwoWayValvesKeepTheOrderOfReach(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 70))
	tried := 0
	for range 150 {
		n := network(t, randomSystem(rng))
		s := state.Normal(n)
		if rng.IntN(2) == 0 {
			s.Pumps = state.AllPumps(n)
		}
		for h, x := range n.AllHandles() {
			s = s.With(h, plumbing.Position(rng.IntN(len(x.Positions))))
		}
		from := []plumbing.NodeID{plumbing.NodeID(rng.IntN(len(n.Nodes)))}
		for h, x := range n.AllHandles() {
			if x.Part.Role() != plumbing.RoleShutOff {
				continue
			}
			open := flow.Reach(n, s.With(h, x.Index("open")), flow.Query{From: from})
			shut := flow.Reach(n, s.With(h, x.Index("closed")), flow.Query{From: from})
			for node := range n.AllNodes() {
				require.False(t, shut.Node(node) && !open.Node(node), "closing %s lets water to %s", x.Part.ID,
					n.Nodes[node].Name())
			}
			tried++
		}
	}
	assert.Greater(t, tried, 300)
}

func tryAll(n *plumbing.Network, m *setting.Mode, base state.State) ([]plumbing.Positions, bool) {
	pos := make([]plumbing.Position, len(n.Handles))
	best, bestCost, bestKey := []plumbing.Positions(nil), 1<<30, ""
	var walk func(i plumbing.HandleID)
	walk = func(i plumbing.HandleID) {
		if int(i) == len(pos) {
			cost, key := 0, ""
			for h := range n.AllHandles() {
				if pos[h] != base.Position(h) {
					cost++
					key += "1"
				} else {
					key += "0"
				}
			}
			if cost > bestCost || cost == bestCost && key >= bestKey || !meets(n, m, pos) {
				return
			}
			best, bestCost, bestKey = make([]plumbing.Positions, len(pos)), cost, key
			for h, p := range pos {
				best[h] = p.Only()
			}
			return
		}
		if f, ok := m.Fixed[i]; ok {
			pos[i] = f
			walk(i + 1)
			return
		}
		for p := range n.Handles[i].All() {
			pos[i] = p
			walk(i + 1)
		}
	}
	walk(0)
	return best, best != nil
}

func meets(n *plumbing.Network, m *setting.Mode, pos []plumbing.Position) bool {
	for _, c := range m.Clauses {
		wet := map[plumbing.NodeID]bool{}
		for _, f := range c.From {
			wet[f] = true
		}
		for grew := true; grew; {
			grew = false
			for _, l := range n.Links {
				if l.Handle >= 0 && l.Open&(1<<pos[l.Handle]) == 0 || l.Pump >= 0 && !l.Idle &&
					!m.Start.Pumps.Has(l.Pump) {
					continue
				}
				blocked := false
				for _, w := range c.Without {
					blocked = blocked || n.Nodes[l.A].Part == w || n.Nodes[l.B].Part == w
				}
				if blocked {
					continue
				}
				if wet[l.A] && !wet[l.B] {
					wet[l.B], grew = true, true
				}
				if wet[l.B] && !wet[l.A] && !l.OneWay {
					wet[l.A], grew = true, true
				}
			}
		}
		hit := false
		for _, to := range c.To {
			hit = hit || wet[to]
		}
		if hit != c.Must {
			return false
		}
	}
	return true
}

func schist(t testing.TB) *plumbing.Model {
	t.Helper()
	m, err := demo.Model("schist-31-2027")
	require.NoError(t, err)
	return m
}

func TestAshlarsManifold(t *testing.T) {
	m, err := demo.Model("ashlar-20-2027")
	require.NoError(t, err)
	b, err := m.Build()
	require.NoError(t, err)
	n := network(t, b)
	plan := rig.Plan(t, n)
	// Suction valve, taps valve, tank valve, heater bypass: from the manifold by hand.
	want := map[string][4]string{
		setting.Everyday: {"a", "open", "closed", "a"}, setting.City: {"a", "open", "closed", "a"},
		setting.BackFill:      {"a", "open", "open", "a"},
		setting.FillContainer: {"b", "open", "open", "a"}, setting.DoseLines: {"b", "open", "closed", "b"},
		setting.Antifreeze: {"b", "open", "closed", "b"},
	}
	for id, w := range want {
		a := setting.ForMode(plan, id)
		require.True(t, a.OK, "%s: %s", id, a.Why)
		got := positions(n, a.State)
		assert.Equal(t, w, [4]string{got["valve-suction"], got["valve-taps"], got["valve-tank"], got["valve-bypass"]},
			id)
	}
	assert.Equal(t, setting.Everyday, setting.ForMode(plan, setting.City).SameAs)
	assert.Equal(t, setting.DoseLines, setting.ForMode(plan, setting.Antifreeze).SameAs)
}

func TestSchistsPlate(t *testing.T) {
	n := network(t, schist(t))
	plan := rig.Plan(t, n)
	want := map[string][2]string{
		setting.Everyday: {"tank", "taps"}, setting.City: {"mains", "taps"}, setting.BackFill: {"mains", "tank"},
		setting.FillContainer: {"port", "tank"}, setting.DoseLines: {"port", "taps"},
		setting.Antifreeze: {"port", "taps"},
	}
	for id, w := range want {
		a := setting.ForMode(plan, id)
		require.True(t, a.OK, "%s: %s", id, a.Why)
		got := positions(n, a.State)
		assert.Equal(t, w, [2]string{got["plate-source"], got["plate-to"]}, id)
	}
}

func TestProofsOfWhatIsKeptAway(t *testing.T) {
	n := network(t, gneiss(t))
	a := setting.ForMode(rig.Plan(t, n), setting.Antifreeze)
	cut := map[string]bool{}
	for _, p := range setting.Prove(n, &a.Mode, a.State) {
		if p.Clause.Aim == setting.HeaterOut {
			for _, li := range p.Cut {
				cut[n.Links[li].Part.ID] = true
			}
		}
	}
	assert.Equal(t, map[string]bool{"valve-heater-in": true, "valve-heater-out": true}, cut)
	assert.Empty(t, a.Either)
}

func TestPlainPipeForTheHotValveSaysWhatWouldMendIt(t *testing.T) {
	m := gneiss(t)
	m.Parts = without(m.Parts, "valve-heater-out")
	m.Line("heater-hot").To = "tee-bypass-hot.a"
	m.Lines = slices.DeleteFunc(m.Lines, func(l plumbing.Line) bool { return l.ID == "heater-out" })
	n := network(t, m)
	plan := rig.Plan(t, n)
	a := setting.ForMode(plan, setting.Antifreeze)
	require.False(t, a.OK)
	assert.Contains(t, told.Fact(a.Why), "Water heater gets no antifreeze")
	base := setting.ForMode(plan, setting.Everyday).State
	fittings := mends(t, n, &a.Mode, base)
	var words []string
	for _, d := range fittings {
		words = append(words, told.Fact(d.Said(n)))
	}
	assert.Equal(t, []string{
		"A shut-off valve between the water heater and the bypass tee, hot.",
		"A check valve between the water heater and the bypass tee, hot, passing towards the bypass tee, hot.",
	}, words)
	assert.Nil(t, mends(t, n, &plan[0].Mode, base), "everyday needs none")
	// With no bypass at all one fitting is not enough.
	bare := network(t, plainPipe(t))
	b := setting.ForMode(rig.Plan(t, bare), setting.Antifreeze)
	assert.Empty(t, mends(t, bare, &b.Mode, state.Normal(bare)))
}

func mends(t *testing.T, n *plumbing.Network, m *setting.Mode, base state.State) []setting.Remedy {
	t.Helper()
	list, err := setting.Remedies(t.Context(), n, m, base)
	require.NoError(t, err)
	return list
}
