package setting_test

import (
	"fmt"
	"math"
	"math/bits"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
	"coldtap/internal/rig"
	"coldtap/internal/rig/told"
)

// A diverter that shuts one branch while the other runs: antifreeze goes
// through both in two turns, the nearer to how it stands first; drained in two
// turns the second branch runs out as well.
func TestWhatNoSingleSettingDoesIsDoneInTurns(t *testing.T) {
	n, plan := changedRig(t, "in-turns", func(*plumbing.Model) {})
	for _, mode := range []string{setting.Sanitize, setting.Flush, setting.Antifreeze, setting.DoseLines} {
		a := setting.ForMode(plan, mode)
		require.False(t, a.OK, mode)
		require.Len(t, a.Turns, 2, mode)
		split := n.HandleOf("split")
		assert.Equal(t, n.Handles[split].Index("a"), a.Turns[0].State.Position(split))
		assert.Equal(t, n.Handles[split].Index("b"), a.Turns[1].State.Position(split))
		served := map[string]bool{}
		for _, turn := range a.Turns {
			assert.Equal(t, a.Mode.Start.Pumps, turn.State.Pumps, "the pump is on in each turn")
			for _, b := range setting.Judge(n, &a.Mode, turn.State) {
				assert.True(t, b.Clause.Must, "%s: no turn breaks what must not be", mode)
			}
			for _, c := range turn.Meets {
				served[told.Fact(fact.Of("it", c.Subject()))] = true
			}
		}
		assert.Equal(t, map[string]bool{"Galley tap, cold": true, "Rear shower, cold": true}, served, mode)
	}
	assert.Nil(t, setting.ForMode(plan, setting.Everyday).Turns, "nobody lives in turns")

	// By hand: 3 m of 22 mm pipe (17.9 mm inside) hold 0.755 L, and 1.5 m half
	// of that. Of the branch that is shut when the other runs out, all stays.
	a := setting.ForMode(plan, setting.DrainDown)
	require.Len(t, a.Turns, 2)
	rear := n.Model.Lines[len(n.Model.Lines)-1]
	require.Equal(t, "rear.cold", rear.To)
	galley := n.Model.Lines[len(n.Model.Lines)-2]
	assert.InDelta(t, 2, float64(rear.Content()/galley.Content()), 1e-9)
	assert.InDelta(t, float64(galley.Content()), float64(a.Turns[1].Out), 1e-6, "the shorter branch is the second")
	assert.InDelta(t, float64(galley.Content()), float64(flow.Drain(n, a.Turns[0].State).Stays(n, galley.ID)), 1e-9)
}

// What a turn more lets out must be worth it: from half a decilitre on.
func TestATurnMoreIsWorthHalfADecilitre(t *testing.T) {
	for litres, turns := range map[float64]int{0.06: 2, 0.04: 0} {
		_, plan := changedRig(t, "in-turns", func(m *plumbing.Model) {
			l := &m.Lines[len(m.Lines)-2] // to the galley: 17.9 mm inside
			require.Equal(t, "galley.cold", l.To)
			d, _ := l.InsideDiameter()
			area := math.Pi / 4 * float64(d) * float64(d) / 1e6
			l.Length = quantity.Of(quantity.Millimetre(litres/1000/area*1000), quantity.SI)
		})
		assert.Len(t, setting.ForMode(plan, setting.DrainDown).Turns, turns, "%v L", litres)
	}
}

// cover is the fewest settings that between them meet every must, by trying
// all positions and all sets of what they meet; 0 where none do.
func cover(n *plumbing.Network, m *setting.Mode) int {
	var musts []setting.Clause
	no := *m
	no.Clauses = nil
	for _, c := range m.Clauses {
		if c.Must {
			musts = append(musts, c)
		} else {
			no.Clauses = append(no.Clauses, c)
		}
	}
	can := map[uint64]bool{}
	pos := make([]plumbing.Position, len(n.Handles))
	var walk func(i plumbing.HandleID)
	walk = func(i plumbing.HandleID) {
		if int(i) < len(pos) {
			for p := range n.Handles[i].All() {
				if f, fixed := m.Fixed[i]; fixed && p != f {
					continue
				}
				pos[i] = p
				walk(i + 1)
			}
			return
		}
		if !meets(n, &no, pos) {
			return
		}
		var set uint64
		for k, c := range musts {
			one := *m
			one.Clauses = []setting.Clause{c}
			if meets(n, &one, pos) {
				set |= 1 << k
			}
		}
		can[set] = true
	}
	walk(0)
	all := uint64(1)<<len(musts) - 1
	reached := map[uint64]bool{0: true}
	for turns := 1; turns <= 5; turns++ {
		next := map[uint64]bool{}
		for have := range reached {
			for set := range can {
				next[have|set] = true
			}
		}
		if next[all] {
			return turns
		}
		reached = next
	}
	return 0
}

// diverted is a random system in which two tees are 3-way valves: water gets to
// one branch or the other.
func diverted(rng *rand.Rand) *plumbing.Model {
	m := randomSystem(rng)
	port := map[string]string{"a": "com", "b": "a", "c": "b"}
	for range 2 {
		i := rng.IntN(len(m.Parts))
		for m.Parts[i].Kind != plumbing.Tee {
			i = (i + 1) % len(m.Parts)
		}
		m.Parts[i].Kind, m.Parts[i].Normal = plumbing.ThreeWay, "a"
		for k := range m.Lines {
			for _, end := range []*string{&m.Lines[k].From, &m.Lines[k].To} {
				if id, name := plumbing.PartOf(*end); id == m.Parts[i].ID {
					*end = id + "." + port[name]
				}
			}
		}
	}
	return m
}

func TestSequencesAreTheShortest(t *testing.T) {
	rng := rand.New(rand.NewPCG(10, 10))
	found, none := 0, 0
	for range 400 {
		n := network(t, diverted(rng))
		if len(n.Handles) > 9 {
			continue
		}
		plan, err := setting.Plan(t.Context(), n)
		require.NoError(t, err)
		for i := range plan {
			a := &plan[i]
			if a.OK || a.Mode.Drains || !a.Has() || a.Mode.Group != setting.Clean && a.Mode.Group != setting.Winter ||
				a.Mode.ID == setting.Storage || a.Mode.ID == setting.HeaterAlone || a.Mode.Measure {
				continue
			}
			want := cover(n, &a.Mode)
			if want > 4 {
				want = 0
			}
			require.Len(t, a.Turns, want, a.Mode.ID)
			if want == 0 {
				none++
				continue
			}
			found++
			for _, turn := range a.Turns {
				for h := range n.AllHandles() {
					require.Equal(t, 1, bits.OnesCount32(uint32(turn.State.Handles[h])), "each handle stands somewhere")
				}
			}
		}
		if found > 30 && none > 30 {
			break
		}
	}
	t.Logf("%d in turns, %d not even so", found, none)
	assert.Greater(t, found, 30)
	assert.Greater(t, none, 30)
}

// diverters is a made-up system of 24 handles that takes two settings: a
// diverter shuts one branch while the other runs, each with its valves.
func diverters(tb testing.TB) *plumbing.Network {
	f := family{name: "diverters", build: func(b *builder, size int) {
		v := b.part(plumbing.ThreeWay)
		b.line(b.source(), v+".com", plumbing.Cold)
		for _, leg := range []string{".a", ".b"} {
			at := v + leg
			for i := range (size - 2) / 2 {
				in, out, tap := b.tee()
				b.line(at, in, plumbing.Cold)
				b.valve(fmt.Sprintf("v%s%02d", leg[1:], i), tap, b.part(plumbing.Outlet)+".cold", "closed")
				at = out
			}
		}
	}}
	return f.network(tb, 24)
}

func TestManyHandlesInTurns(t *testing.T) {
	n := diverters(t)
	require.Len(t, n.Handles, 24)
	turns, err := setting.Sequence(t.Context(), n, setting.ByID(setting.Modes(n), setting.Antifreeze), state.Normal(n))
	require.NoError(t, err)
	assert.Len(t, turns, 2)
}

func BenchmarkSequence24Handles(b *testing.B) {
	n := diverters(b)
	m := setting.ByID(setting.Modes(n), setting.Antifreeze)
	base := state.Normal(n)
	for b.Loop() {
		if _, err := setting.Sequence(b.Context(), n, m, base); err != nil {
			b.Fatal(err)
		}
	}
}

// BenchmarkFind24HandlesTwoPumps asks for one mode's setting where each of two
// pumps has its suction and its pick-up.
func BenchmarkFind24HandlesTwoPumps(b *testing.B) {
	i := slices.IndexFunc(families, func(f family) bool { return f.name == "two suctions" })
	n := families[i].network(b, 24)
	m := setting.ByID(setting.Modes(n), setting.Antifreeze)
	base := state.Normal(n)
	if len(n.Pumps) != 2 || len(n.Handles) != 24 {
		b.Fatal(len(n.Pumps), len(n.Handles))
	}
	for b.Loop() {
		if _, _, err := setting.Find(b.Context(), n, m, base); err != nil {
			b.Fatal(err)
		}
	}
}

func BenchmarkSequence(b *testing.B) {
	n := rig.Network(b, "in-turns")
	m := setting.ByID(setting.Modes(n), setting.Antifreeze)
	base := state.Normal(n)
	for b.Loop() {
		if _, err := setting.Sequence(b.Context(), n, m, base); err != nil {
			b.Fatal(err)
		}
	}
}
