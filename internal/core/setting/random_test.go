package setting_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
	"coldtap/internal/rig"
	"coldtap/internal/sample"
)

// builder makes a random system around a tank, a pump, a pick-up, a city
// inlet and a heater, with valves, checks and selectors strewn in.
type builder struct {
	rng   *rand.Rand
	m     *plumbing.Model
	count int
}

func (b *builder) part(k plumbing.Kind) string {
	b.count++
	p := plumbing.Part{ID: fmt.Sprintf("p%02d-%s", b.rng.IntN(90)+10, string(k)+fmt.Sprint(b.count)), Kind: k,
		Name: string(k), Data: plumbing.Data{CheckValve: b.rng.IntN(6) > 0}}
	if list := k.Info().Positions; len(list) > 0 {
		p.Normal = list[b.rng.IntN(len(list))]
	}
	if k == plumbing.LowPoint {
		p.Normal = "closed"
	}
	b.m.Parts = append(b.m.Parts, p)
	return p.ID
}

func (b *builder) line(from, to string, side plumbing.Side) {
	b.m.Lines = append(b.m.Lines, plumbing.Line{ID: fmt.Sprintf("l%03d", len(b.m.Lines)), From: from, To: to,
		Side: side})
}

// run joins two ports, sometimes through a valve or a check valve.
func (b *builder) run(from, to string, side plumbing.Side, often int) {
	switch b.rng.IntN(often) {
	case 0:
		v := b.part(plumbing.Valve)
		b.line(from, v+".a", side)
		from = v + ".b"
	case 1:
		if b.rng.IntN(3) == 0 {
			c := b.part(plumbing.CheckValve)
			b.line(from, c+".in", side)
			from = c + ".out"
		}
	}
	b.line(from, to, side)
}

func randomSystem(rng *rand.Rand) *plumbing.Model {
	b := &builder{rng: rng, m: &plumbing.Model{ID: "random", Units: "us"}}
	tank, pump, city, port := b.part(plumbing.Tank), b.part(plumbing.Pump), b.part(plumbing.CityInlet),
		b.part(plumbing.ContainerPort)
	if rng.IntN(2) == 0 {
		v := b.part(plumbing.ThreeWay)
		b.run(tank+".supply", v+".a", plumbing.Supply, 9)
		b.run(port+".out", v+".b", plumbing.Supply, 9)
		b.run(v+".com", pump+".in", plumbing.Supply, 9)
	} else {
		t, v, w := b.part(plumbing.Tee), b.part(plumbing.Valve), b.part(plumbing.Valve)
		b.line(tank+".supply", v+".a", plumbing.Supply)
		b.line(v+".b", t+".a", plumbing.Supply)
		b.line(port+".out", w+".a", plumbing.Supply)
		b.line(w+".b", t+".b", plumbing.Supply)
		b.line(t+".c", pump+".in", plumbing.Supply)
	}
	join := b.part(plumbing.Tee)
	b.run(pump+".out", join+".a", plumbing.Cold, 6)
	b.run(city+".out", join+".b", plumbing.Cold, 5)
	cold := join + ".c"
	if rng.IntN(3) > 0 { // a line back to the tank
		t, v := b.part(plumbing.Tee), b.part(plumbing.Valve)
		b.line(cold, t+".a", plumbing.Cold)
		b.line(t+".b", v+".a", plumbing.Supply)
		b.line(v+".b", tank+".return", plumbing.Supply)
		cold = t + ".c"
	}
	in, heater := b.part(plumbing.Tee), b.part(plumbing.Heater)
	b.run(cold, in+".a", plumbing.Cold, 7)
	hot := b.bypass(in+".b", heater)
	cold = in + ".c"
	for i := range 2 + rng.IntN(3) {
		tap := b.part(plumbing.Outlet)
		c := b.part(plumbing.Tee)
		b.run(cold, c+".a", plumbing.Cold, 9)
		b.run(c+".b", tap+".cold", plumbing.Cold, 8)
		cold = c + ".c"
		if i == 0 || rng.IntN(2) == 0 {
			h := b.part(plumbing.Tee)
			b.run(hot, h+".a", plumbing.Hot, 9)
			b.run(h+".b", tap+".hot", plumbing.Hot, 8)
			hot = h + ".c"
		}
	}
	switch rng.IntN(3) {
	case 0: // hot and cold ends joined by a valve
		v := b.part(plumbing.Valve)
		b.line(cold, v+".a", plumbing.Cold)
		b.line(v+".b", hot, plumbing.Hot)
	default:
		for _, end := range []string{cold, hot} {
			b.line(end, b.part(plumbing.LowPoint)+".in", plumbing.Drain)
		}
	}
	b.selector()
	return b.m
}

// bypass joins a heater in one of five ways and gives the hot line's start.
func (b *builder) bypass(feed, heater string) string {
	kind := b.rng.IntN(5)
	if kind == 0 {
		b.line(feed, heater+".cold", plumbing.Cold)
		return heater + ".hot"
	}
	if kind == 1 {
		v, c, t := b.part(plumbing.ThreeWay), b.part(plumbing.CheckValve), b.part(plumbing.Tee)
		b.line(feed, v+".com", plumbing.Cold)
		b.line(v+".a", heater+".cold", plumbing.Cold)
		b.line(heater+".hot", c+".in", plumbing.Hot)
		b.line(c+".out", t+".a", plumbing.Hot)
		b.line(v+".b", t+".b", plumbing.Hot)
		return t + ".c"
	}
	if kind == 2 {
		v, w := b.part(plumbing.ThreeWay), b.part(plumbing.ThreeWay)
		b.line(feed, v+".com", plumbing.Cold)
		b.line(v+".a", heater+".cold", plumbing.Cold)
		b.line(heater+".hot", w+".a", plumbing.Hot)
		b.line(v+".b", w+".b", plumbing.Hot)
		return w + ".com"
	}
	t, u, tube := b.part(plumbing.Tee), b.part(plumbing.Tee), b.part(plumbing.Valve)
	b.line(feed, t+".a", plumbing.Cold)
	b.line(t+".b", tube+".a", plumbing.Cold)
	b.line(tube+".b", u+".b", plumbing.Hot)
	if kind == 3 {
		v, w := b.part(plumbing.Valve), b.part(plumbing.Valve)
		b.line(t+".c", v+".a", plumbing.Cold)
		b.line(v+".b", heater+".cold", plumbing.Cold)
		b.line(heater+".hot", w+".a", plumbing.Hot)
		b.line(w+".b", u+".a", plumbing.Hot)
	} else {
		b.line(t+".c", heater+".cold", plumbing.Cold)
		b.line(heater+".hot", u+".a", plumbing.Hot)
	}
	return u + ".c"
}

// selector lets a plate handle drive two of the valves.
func (b *builder) selector() {
	var ids []string
	for _, p := range b.m.Parts {
		if p.Role() == plumbing.RoleShutOff || p.Role() == plumbing.RoleDiverter {
			ids = append(ids, p.ID)
		}
	}
	if len(ids) < 3 || b.rng.IntN(2) == 0 {
		return
	}
	b.rng.Shuffle(len(ids), func(i, j int) { ids[i], ids[j] = ids[j], ids[i] })
	var choices []plumbing.Choice
	for i := range 2 + b.rng.IntN(2) {
		sets := map[string]string{}
		for _, id := range ids[:2] {
			list := b.m.Part(id).Kind.Info().Positions
			sets[id] = list[b.rng.IntN(2)]
		}
		choices = append(choices, plumbing.Choice{ID: fmt.Sprint("s", i), Sets: sets})
	}
	b.m.Parts = append(b.m.Parts, plumbing.Part{ID: "plate", Kind: plumbing.Selector, Name: "plate", Selector: choices,
		Normal: "s0"})
}

func TestSearchAgreesWithTryingAllOnRandomSystems(t *testing.T) {
	asked, met, selectors := 0, 0, 0
	for _, seed := range sample.Seeds(t, 120, 2000) {
		n, mode := randomQuestion(t, rand.New(rand.NewPCG(seed, 8)))
		asked++
		if n.HandleOf("plate") >= 0 {
			selectors++
		}
		base := state.Normal(n)
		got, ok, err := setting.Find(t.Context(), n, &mode, base)
		require.NoError(t, err)
		want, wantOK := tryAll(n, &mode, base)
		require.Equal(t, wantOK, ok, "system %d %s", seed, mode.ID)
		if !ok {
			continue
		}
		met++
		require.Equal(t, changes(base, want), changes(base, got.Handles), "system %d %s: as many changes", seed,
			mode.ID)
		require.Equal(t, which(base, want), which(base, got.Handles), "system %d %s: the same handles", seed, mode.ID)
		checkEither(t, n, &mode, got)
	}
	assert.GreaterOrEqual(t, met, asked/4, "enough of them can meet their goal")
	assert.Greater(t, selectors, asked/10)
	t.Logf("%d of %d meet their goal, %d with a selector", met, asked, selectors)
}

// randomQuestion is a random system and a mode that it has, small enough to try all.
func randomQuestion(t *testing.T, rng *rand.Rand) (*plumbing.Network, setting.Mode) {
	t.Helper()
	for {
		n := network(t, randomSystem(rng))
		if len(n.Handles) < 8 || len(n.Handles) > 11 {
			continue
		}
		modes := setting.Modes(n)
		if mode := modes[rng.IntN(len(modes))]; mode.LeftOut.ID == "" {
			return n, mode
		}
	}
}

func which(base state.State, handles []plumbing.Positions) (list []int) {
	for i, h := range handles {
		if h != base.Handles[i] {
			list = append(list, i)
		}
	}
	return list
}

func changes(base state.State, handles []plumbing.Positions) int { return len(which(base, handles)) }

// checkEither turns the handles marked as either in all combinations.
func checkEither(t *testing.T, n *plumbing.Network, m *setting.Mode, s state.State) {
	list := setting.Either(n, m, s)
	pos := make([]plumbing.Position, len(n.Handles))
	for i := range n.AllHandles() {
		pos[i] = s.Position(i)
	}
	var walk func(k int)
	walk = func(k int) {
		if k == len(list) {
			require.True(t, meets(n, m, pos), "handles %v in positions %v", list, pos)
			return
		}
		for p := range n.Handles[list[k]].All() {
			pos[list[k]] = p
			walk(k + 1)
		}
	}
	walk(0)
	require.False(t, slices.ContainsFunc(list, func(h plumbing.HandleID) bool { _, fixed := m.Fixed[h]; return fixed }))
}

func BenchmarkFindLargestDemoModel(b *testing.B) {
	n := network(b, schist(b))
	m := setting.ByID(setting.Modes(n), setting.Antifreeze)
	base := state.Normal(n)
	for b.Loop() {
		setting.Find(b.Context(), n, m, base)
	}
}

// BenchmarkTryingAllLargestDemoModel is what the search is compared with.
func BenchmarkTryingAllLargestDemoModel(b *testing.B) {
	n := network(b, schist(b))
	m := setting.ByID(setting.Modes(n), setting.Antifreeze)
	base := state.Normal(n)
	for b.Loop() {
		tryAll(n, m, base)
	}
}

// twentyFour is a made-up system of 24 two-way valves: a ladder of branches,
// each with two valves, and a heater behind a three-valve bypass.
func twentyFour(tb testing.TB) (*plumbing.Network, *setting.Mode) {
	b := &builder{rng: rand.New(rand.NewPCG(24, 24)), m: &plumbing.Model{ID: "ladder", Units: "us"}}
	tank, pump, port := b.part(plumbing.Tank), b.part(plumbing.Pump), b.part(plumbing.ContainerPort)
	valve := func(from, to string, side plumbing.Side) {
		v := b.part(plumbing.Valve)
		b.line(from, v+".a", side)
		b.line(v+".b", to, side)
	}
	t := b.part(plumbing.Tee)
	valve(tank+".supply", t+".a", plumbing.Supply)
	valve(port+".out", t+".b", plumbing.Supply)
	b.line(t+".c", pump+".in", plumbing.Supply)
	back, in, out := b.part(plumbing.Tee), b.part(plumbing.Tee), b.part(plumbing.Tee)
	b.line(pump+".out", back+".a", plumbing.Cold)
	valve(back+".b", tank+".return", plumbing.Supply)
	feed, heater := b.part(plumbing.Tee), b.part(plumbing.Heater)
	b.line(back+".c", feed+".a", plumbing.Cold)
	b.line(feed+".b", in+".a", plumbing.Cold)
	valve(in+".b", heater+".cold", plumbing.Cold)
	valve(in+".c", out+".b", plumbing.Hot)
	valve(heater+".hot", out+".a", plumbing.Hot)
	cold, hot := feed+".c", out+".c"
	for range 9 {
		tap, c, h := b.part(plumbing.Outlet), b.part(plumbing.Tee), b.part(plumbing.Tee)
		b.line(cold, c+".a", plumbing.Cold)
		b.line(hot, h+".a", plumbing.Hot)
		valve(c+".b", tap+".cold", plumbing.Cold)
		valve(h+".b", tap+".hot", plumbing.Hot)
		cold, hot = c+".c", h+".c"
	}
	n := network(tb, b.m)
	require.Len(tb, n.Handles, 24)
	return n, setting.ByID(setting.Modes(n), setting.Antifreeze)
}

func TestTwentyFourValvesHaveASetting(t *testing.T) {
	n, m := twentyFour(t)
	s, ok, err := setting.Find(t.Context(), n, m, state.Normal(n))
	require.NoError(t, err)
	require.True(t, ok)
	assert.Empty(t, setting.Judge(n, m, s))
}

func BenchmarkFind24TwoWayValves(b *testing.B) {
	n, m := twentyFour(b)
	base := state.Normal(n)
	for b.Loop() {
		setting.Find(b.Context(), n, m, base)
	}
}

func BenchmarkPlanLargestDemoModel(b *testing.B) {
	m := schist(b)
	for b.Loop() {
		b.StopTimer()
		n := network(b, m) // of a structure of its own: nothing is known of it
		b.StartTimer()
		rig.Plan(b, n)
	}
}

// BenchmarkPlanAfterALength is the plan of a model of which one length was
// changed.
func BenchmarkPlanAfterALength(b *testing.B) {
	m := schist(b)
	before := network(b, m)
	rig.Plan(b, before)
	for b.Loop() {
		b.StopTimer()
		n := network(b, m)
		n.Share(before)
		b.StartTimer()
		rig.Plan(b, n)
	}
}
