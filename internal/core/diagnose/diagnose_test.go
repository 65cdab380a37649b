package diagnose_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/diagnose"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
	"coldtap/internal/rig"
)

// study looks at a demo model in a mode.
func study(t testing.TB, id, mode string) *diagnose.Study {
	t.Helper()
	m, err := demo.Model(id)
	require.NoError(t, err)
	b, err := m.Build(m.StandardOptions()...)
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(b)
	require.NoError(t, err)
	a := setting.ForMode(rig.Plan(t, n), mode)
	require.True(t, a.OK)
	s, err := diagnose.New(t.Context(), diagnose.Case{Net: n, Mode: a})
	require.NoError(t, err)
	return s
}

func lookOf(t *testing.T, s *diagnose.Study, id string) int {
	t.Helper()
	i := slices.IndexFunc(s.Looks, func(l diagnose.Look) bool { return l.ID() == id })
	require.GreaterOrEqual(t, i, 0, "no look %s", id)
	return i
}

func seen(s *diagnose.Seen) (list []string) {
	for _, x := range s.Signs {
		list = append(list, fmt.Sprint(x.Kind, " ", x.Part.ID, " ", x.Word))
	}
	return list
}

// What is seen is what a person would see who stands there: worked out by hand on Gneiss 24.
func TestWhatIsSeenOfAFault(t *testing.T) {
	s := study(t, "gneiss-24-2027", setting.Everyday)
	for _, c := range []struct {
		fault, look string
		want        []string
	}{
		{"", "open.kitchen.hot", []string{"stream kitchen usual", "warmth kitchen hot", "sound pump runs"}},
		{"", "wait", []string{"sound pump silent", "level fresh stays"}},
		{"stands.valve-bypass.0", "open.kitchen.hot",
			[]string{"stream kitchen usual", "warmth kitchen lukewarm", "sound pump runs"}},
		{"stands.valve-bypass.0", "open.kitchen.cold", []string{"stream kitchen usual", "sound pump runs"}},
		{"stands.valve-heater-in.1", "open.kitchen.hot", []string{"stream kitchen nothing", "sound pump silent"}},
		{"stands.valve-heater-in.1", "open.kitchen.cold", []string{"stream kitchen usual", "sound pump runs"}},
		// On a capped suction the switch never stops it.
		{"stands.valve-pickup.1", "open.kitchen.cold", []string{"stream kitchen nothing", "sound pump dry"}},
		{"stands.valve-pickup.1", "wait", []string{"sound pump silent", "level fresh stays"}},
		{"off.pump", "open.kitchen.cold", []string{"stream kitchen nothing", "sound pump silent"}},
		{"off.pump", "see.pump", []string{"stands pump off"}},
		{"stands.valve-heater-in.1", "see.valve-heater-in", []string{"stands valve-heater-in closed"}},
		{"stands.valve-heater-in.1", "turn.valve-heater-in.closed", []string{"stream basin usual", "sound pump runs"}},
		{"stands.heater-relief-valve.1", "wait", []string{"sound pump races", "level fresh falls",
			"wet heater-relief-valve runs"}},
	} {
		l := lookOf(t, s, c.look)
		got := s.Usual[l]
		if c.fault != "" {
			f := slices.IndexFunc(s.Seen, func([]*diagnose.Seen) bool { return false })
			for i := range s.Faults {
				if s.Faults[i].ID() == c.fault {
					f = i
				}
			}
			require.GreaterOrEqual(t, f, 0, c.fault)
			got = s.Seen[f][l]
		}
		assert.Equal(t, c.want, seen(got), "%s, %s", c.fault, c.look)
	}
	// The check valve of the pump lets back: heard with everything shut, seen nowhere else.
	for i := range s.Faults {
		if s.Faults[i].Link >= 0 && s.Faults[i].Part.ID == "pump" {
			assert.Equal(t, []string{"sound pump on-off", "level fresh stays"}, seen(s.Seen[i][lookOf(t, s, "wait")]))
		}
	}
}

// On city water a check valve of the pump that lets back fills the tank: seen on its gauge after two hours.
func TestATankThatFillsByItselfIsSeenOnItsGauge(t *testing.T) {
	s := study(t, "gneiss-24-2027", setting.City)
	for i := range s.Faults {
		if s.Faults[i].Link >= 0 && s.Faults[i].Part.ID == "pump" {
			assert.Contains(t, seen(s.Seen[i][lookOf(t, s, "wait")]), "level fresh rises")
			return
		}
	}
	t.Fatal("the pump's check valve is no fault")
}

// A lifted relief lever and a heater's plug taken out hurt whoever does it: the heater is hot.
func TestDangerousLooksAreKnown(t *testing.T) {
	s := study(t, "gneiss-24-2027", setting.Everyday)
	for look, danger := range map[string]bool{"turn.heater-relief-valve.open": true, "turn.anode.open": true,
		"turn.valve-bypass.open": false, "open.kitchen.hot": false, "wait": false} {
		l := lookOf(t, s, look)
		assert.Equal(t, danger, len(s.Usual[l].Dangers) > 0, look)
		if danger {
			assert.False(t, s.Harmless(l), look)
			assert.Contains(t, []string{"opened-hot", "opened-pressed"}, s.Usual[l].Dangers[0].Rule)
		}
	}
}

// Faults of different classes are told apart by some harmless look, those of one class by none, directly or in steps.
func TestClassesAreWhatNoLookTellsApart(t *testing.T) {
	for _, id := range []string{"gneiss-24-2027", "marl-15-2027"} {
		s := study(t, id, setting.Everyday)
		of := map[int]int{}
		for c, faults := range s.Classes {
			for _, f := range faults {
				of[f] = c
			}
		}
		require.Greater(t, len(s.Classes), 5)
		for a := range s.Faults {
			for b := range s.Faults {
				ca, oka := of[a]
				cb, okb := of[b]
				if !oka || !okb || ca == cb {
					continue
				}
				told := false
				for l := range s.Looks {
					told = told || s.Harmless(l) && s.Seen[a][l].Apart(s.Seen[b][l])
				}
				assert.True(t, told, "%s: %s and %s are two answers, and no look tells them apart", id,
					s.Faults[a].ID(), s.Faults[b].ID())
			}
		}
	}
}

// random are looks that part classes at random, some of them not to be made.
func random(rng *rand.Rand, classes, looks int) *diagnose.Splits {
	s := &diagnose.Splits{}
	for range looks {
		if rng.IntN(6) == 0 {
			s.Groups = append(s.Groups, nil)
			continue
		}
		g := make([]int, classes)
		for c := range g {
			if rng.IntN(3) == 0 {
				g[c] = 1 + rng.IntN(3)
			}
		}
		s.Groups = append(s.Groups, g)
	}
	return s
}

// follow walks a plan for a class and gives how many looks it took and what was left.
func follow(t *testing.T, s *diagnose.Splits, p *diagnose.Plan, class int) (looks int, left []int) {
	t.Helper()
	at := p.Root
	for at.Look >= 0 {
		require.NotNil(t, s.Groups[at.Look], "a look that is not to be made")
		at = at.Next[s.Groups[at.Look][class]]
		require.NotNil(t, at)
		looks++
	}
	return looks, at.Left
}

// The fewest looks are those that trying everything finds, and the plan keeps to them.
func TestTheFewestLooksAreTheFewest(t *testing.T) {
	for seed := range uint64(1000) {
		rng := rand.New(rand.NewPCG(seed, 18))
		n := 2 + rng.IntN(6)
		s := random(rng, n, 1+rng.IntN(7))
		var all []int
		for c := range n {
			all = append(all, c)
		}
		p := s.Fewest(all)
		require.Equal(t, fewest(s, all, map[string]int{}), p.Most, "seed %d", seed)
		require.True(t, p.Exact())
		deepest := 0
		for _, c := range all {
			looks, left := follow(t, s, p, c)
			require.Contains(t, left, c)
			require.Equal(t, looks, p.Looks(s, c))
			deepest = max(deepest, looks)
			for _, o := range left { // together only what no look parts
				for _, g := range s.Groups {
					if g != nil && len(left) > 1 {
						require.Equal(t, g[c], g[o], "seed %d: %v could be parted", seed, left)
					}
				}
			}
		}
		require.LessOrEqual(t, deepest, p.Most, "seed %d", seed)
	}
}

// Above the size that is exact the plan tells all apart within its bound, and the bound below holds: it is no more
// than the exact figure, worked out where that can be done, and what some of the classes take.
func TestBeyondTheExactSizeBoundsHold(t *testing.T) {
	for seed := range uint64(30) {
		rng := rand.New(rand.NewPCG(seed, 7))
		n := diagnose.ExactUpTo + 1 + rng.IntN(12)
		s := random(rng, n, 24)
		each := make([]int, n) // so that all can be told apart
		for c := range each {
			each[c] = c % 5
		}
		s.Groups = append(s.Groups, each)
		var all []int
		for c := range n {
			all = append(all, c)
		}
		p := s.Fewest(all)
		require.LessOrEqual(t, p.Least, p.Most, "seed %d", seed)
		deepest := 0
		for _, c := range all {
			looks, left := follow(t, s, p, c)
			require.Contains(t, left, c)
			deepest = max(deepest, looks)
		}
		require.LessOrEqual(t, deepest, p.Most)
		if n <= 20 {
			require.LessOrEqual(t, p.Least, fewest(s, all, map[string]int{}), "seed %d", seed)
		}
	}
}

// fewest is the fewest looks in the worst case, by trying all; known is what it worked out already.
func fewest(s *diagnose.Splits, classes []int, known map[string]int) int {
	if len(classes) < 2 {
		return 0
	}
	key := fmt.Sprint(classes)
	if v, ok := known[key]; ok {
		return v
	}
	best := -1
	for _, g := range s.Groups {
		if g == nil {
			continue
		}
		parts := map[int][]int{}
		for _, c := range classes {
			parts[g[c]] = append(parts[g[c]], c)
		}
		if len(parts) < 2 {
			continue
		}
		worst := 0
		for _, p := range parts {
			worst = max(worst, 1+fewest(s, p, known))
		}
		if best < 0 || worst < best {
			best = worst
		}
	}
	known[key] = max(best, 0)
	return known[key]
}

func BenchmarkStudy(b *testing.B) {
	for b.Loop() {
		study(b, "gneiss-24-2027", setting.Everyday)
	}
}
