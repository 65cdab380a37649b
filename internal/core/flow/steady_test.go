package flow_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
	"coldtap/internal/rig"
)

// given reads a quantity that the test knows to be readable.
func given[U quantity.Unit](text string) quantity.Given[U] {
	g, err := quantity.Read[U](text)
	if err != nil {
		panic(err)
	}
	return g
}

// headLost is what a ½ in PEX line loses, worked out here on its own:
// Hazen–Williams and one velocity head.
func headLost(lpm, metres float64) float64 {
	const d, c = 0.485 * 0.0254, 150
	q := lpm / 60000
	v := q / (math.Pi / 4 * d * d)
	return 10.67*metres*math.Pow(q, 1.852)/(math.Pow(c, 1.852)*math.Pow(d, 4.87)) + v*v/(2*9.80665)
}

func TestHalfInchPexLosesWhatTheTablesSay(t *testing.T) {
	// A tap that gives 2 gal/min at the end of 10 m of ½ in: 0.119 m are lost in
	// each metre, and one velocity head at the line's ends.
	parts := []plumbing.Part{{ID: "a", Kind: plumbing.Tee, Name: "A"}, {ID: "b", Kind: plumbing.Tee, Name: "B"}}
	n, sc := bench(t, parts, []plumbing.Line{
		{ID: "in", From: "in.out", To: "a.a", Length: length(0.1), Size: "PEX 1/2"},
		{ID: "half", From: "a.b", To: "b.a", Length: length(10), Size: "PEX 1/2"},
		{ID: "out", From: "b.b", To: "tap.cold", Length: length(0.1), Size: "PEX 1/2"},
	})
	n.Model.Part("tap").Data.Flow = given[quantity.LitrePerMinute]("9.9 L/min") // so that about 2 gal/min run
	st, err := flow.SteadyFlow(t.Context(), n, sc)
	require.NoError(t, err)
	lpm := float64(st.Out[n.Node("tap.cold")])
	require.InDelta(t, 2*3.785411784, lpm, 0.3)
	v := lpm / 60000 / (math.Pi / 4 * math.Pow(0.485*0.0254, 2))
	perMetre := 0.119 * math.Pow(lpm/(2*3.785411784), 1.852)
	assert.InDelta(t, 10*perMetre+v*v/(2*9.80665), float64(st.Head[n.Node("a.b")]-st.Head[n.Node("b.a")]), 0.01)
}

// bench is a supply of 300 kPa and 20 L/min, then lines to a tap of 6 L/min at
// 300 kPa, all level.
func bench(t *testing.T, parts []plumbing.Part, lines []plumbing.Line) (*plumbing.Network, state.State) {
	t.Helper()
	m := &plumbing.Model{ID: "bench", Units: "si"}
	m.Parts = append(parts,
		plumbing.Part{ID: "in", Kind: plumbing.CityInlet, Name: "Inlet"},
		plumbing.Part{ID: "tap", Kind: plumbing.Outlet, Name: "Tap",
			Data: plumbing.Data{Flow: given[quantity.LitrePerMinute]("6 L/min"),
				RatedAt: given[quantity.Kilopascal]("300 kPa")}})
	for _, l := range lines {
		l.Size, l.Side = "PEX 1/2", plumbing.Cold
		m.Lines = append(m.Lines, l)
	}
	n, err := plumbing.NewNetwork(m)
	require.NoError(t, err)
	sc := state.Normal(n).WithOpen(n.Node("tap.cold"), true).
		WithJoined(n.Node("in.mouth"), state.Connection{Kind: state.Supply, Pressure: 300, Flow: 20})
	return n, sc
}

func length(metres float64) quantity.Given[quantity.Millimetre] {
	return given[quantity.Millimetre](fmt.Sprintf("%.3f m", metres))
}

// tapHead is what the tap and the supply's own curve take, in metres, at a flow.
func rest(lpm float64) float64 {
	metre := 1000 / (0.998 * 1000 * 9.80665)
	const d = 0.485 * 0.0254
	inlet := 2.5 * math.Pow(lpm/60000/(math.Pi/4*d*d), 2) / (2 * 9.80665)
	return 300*metre*(lpm/6)*(lpm/6) - 300*metre*(1-lpm/20) + inlet
}

// root finds where a rising function is nought.
func root(f func(float64) float64) float64 {
	lo, hi := 0.0, 100.0
	for range 200 {
		if mid := (lo + hi) / 2; f(mid) < 0 {
			lo = mid
		} else {
			hi = mid
		}
	}
	return lo
}

func TestSeriesParallelAndLoopAgreeWithHandResults(t *testing.T) {
	tee := func(id string) plumbing.Part { return plumbing.Part{ID: id, Kind: plumbing.Tee, Name: id} }
	solve := func(n *plumbing.Network, sc state.State) *flow.Steady {
		s, err := flow.SteadyFlow(t.Context(), n, sc)
		require.NoError(t, err)
		return s
	}
	at := func(n *plumbing.Network, s *flow.Steady, line string) float64 {
		for i, l := range n.AllLinks() {
			if l.Line != nil && l.Line.ID == line {
				return float64(s.Flow[i])
			}
		}
		t.Fatalf("no line %s", line)
		return 0
	}
	// Two lines in series.
	n, sc := bench(t, []plumbing.Part{{ID: "v", Kind: plumbing.Strainer, Name: "V"}}, []plumbing.Line{
		{ID: "a", From: "in.out", To: "v.in", Length: length(30)},
		{ID: "b", From: "v.out", To: "tap.cold", Length: length(50)}})
	strainer := func(q float64) float64 {
		return 3 * math.Pow(q/60000/(math.Pi/4*0.0123190*0.0123190), 2) / (2 * 9.80665)
	}
	want := root(func(q float64) float64 { return rest(q) + headLost(q, 30) + headLost(q, 50) + strainer(q) })
	s := solve(n, sc)
	assert.InEpsilon(t, want, at(n, s, "b"), 0.001)

	// A loop of two branches of 40 m and 10 m between two tees.
	n, sc = bench(t, []plumbing.Part{tee("x"), tee("y")}, []plumbing.Line{
		{ID: "a", From: "in.out", To: "x.a", Length: length(20)},
		{ID: "long", From: "x.b", To: "y.a", Length: length(40)},
		{ID: "short", From: "y.b", To: "x.c", Length: length(10)},
		{ID: "z", From: "y.c", To: "tap.cold", Length: length(5)}})
	split := func(q float64) float64 { // share through the long branch
		return root(func(x float64) float64 { return headLost(x*q/100, 40) - headLost(q-x*q/100, 10) }) / 100 * q
	}
	want = root(func(q float64) float64 { return rest(q) + headLost(q, 20) + headLost(split(q), 40) + headLost(q, 5) })
	s = solve(n, sc)
	assert.InEpsilon(t, want, at(n, s, "z"), 0.001)
	assert.InEpsilon(t, split(want), at(n, s, "long"), 0.001)
	assert.InEpsilon(t, want-split(want), -at(n, s, "short"), 0.001, "it runs against its drawing")
}

func TestAClosedSystemIsStillAndThePumpFallsSilent(t *testing.T) {
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(m)
	require.NoError(t, err)
	sc := state.Normal(n)
	sc.Pumps = state.AllPumps(n)
	s, err := flow.SteadyFlow(t.Context(), n, sc)
	require.NoError(t, err)
	assert.Equal(t, flow.Silent, s.Pumps["pump"])
	sc.Open = state.Sides(n.Node("kitchen.cold"))
	s, err = flow.SteadyFlow(t.Context(), n, sc)
	require.NoError(t, err)
	assert.Equal(t, flow.Running, s.Pumps["pump"])
	assert.InDelta(t, 5.7, float64(s.Out[n.Node("kitchen.cold")]), 1.2, "near its rated flow")
	sc.Pumps = 0
	s, err = flow.SteadyFlow(t.Context(), n, sc)
	require.NoError(t, err)
	assert.Equal(t, flow.Off, s.Pumps["pump"])
	assert.Zero(t, s.Out[n.Node("kitchen.cold")], "the tank is lower than the tap")
}

// conditions checks a solution from outside: balance at every part, the head
// law of every line, no one-way backwards.
func conditions(t *testing.T, n *plumbing.Network, s *flow.Steady, what string) {
	t.Helper()
	in := map[*plumbing.Part]float64{}
	size := 1e-6
	for i, l := range n.AllLinks() {
		q := float64(s.Flow[i])
		size = max(size, math.Abs(q))
		if l.OneWay {
			require.GreaterOrEqual(t, q, 0.0, "%s: a one-way of %v runs backwards", what, l.Part)
			if q == 0 && (l.Pump == plumbing.None || l.Idle) && s.Known[l.A] && s.Known[l.B] {
				require.LessOrEqual(t, float64(s.Head[l.A]-s.Head[l.B]), 1e-6, "%s: %v is shut with head in its favour",
					what, l.Part)
			}
		}
		if l.Line == nil {
			continue
		}
		in[n.Nodes[l.A].Part] -= q
		in[n.Nodes[l.B].Part] += q
		if s.Known[l.A] && s.Known[l.B] && math.Abs(q) > 1e-3 {
			d, _ := l.Line.InsideDiameter()
			dm, cube := float64(d)/1000, math.Abs(q)/60000
			v := cube / (math.Pi / 4 * dm * dm)
			lost := 10.67*float64(l.Line.Length.Value())/1000*math.Pow(cube,
				1.852)/(math.Pow(150, 1.852)*math.Pow(dm, 4.87)) + v*v/(2*9.80665)
			require.InDelta(t, math.Copysign(lost, q), float64(s.Head[l.A]-s.Head[l.B]), 1e-6, "%s: head law of %s",
				what, l.Line.ID)
		}
	}
	for node, q := range s.Out {
		p := n.Nodes[node].Part
		require.GreaterOrEqual(t, float64(q), 0.0, "%s: %s sucks", what, p.ID)
		if p.Role() == plumbing.RoleInlet || p.Role() == plumbing.RoleFill {
			in[p] += float64(q)
		} else {
			in[p] -= float64(q)
		}
	}
	for p, sum := range in {
		if p.Role() == plumbing.RoleTank || p.Role() == plumbing.RoleWaste || p.Role() == plumbing.RolePickUp ||
			p.Role() == plumbing.RoleJoint {
			continue // water ends or begins there
		}
		require.InDelta(t, 0, sum, 1e-9*size+1e-7, "%s: balance at %s", what, p.ID)
	}
}

func TestConditionsOnEveryDemoSetting(t *testing.T) {
	models, err := demo.Models()
	require.NoError(t, err)
	for _, m := range models {
		b, err := m.Build(m.StandardOptions()...)
		require.NoError(t, err)
		n, err := plumbing.NewNetwork(b)
		require.NoError(t, err)
		for _, a := range rig.Plan(t, n) {
			if !a.OK {
				continue
			}
			sc := a.State
			all := state.EverySide(n)
			for node := range all {
				sc.Open = state.Sides(node)
				s, err := flow.SteadyFlow(t.Context(), n, sc)
				require.NoError(t, err, "%s %s", m.ID, a.Mode.ID)
				conditions(t, n, s, m.ID+" "+a.Mode.ID+" "+n.Nodes[node].Name())
			}
			sc.Open = all
			s, err := flow.SteadyFlow(t.Context(), n, sc)
			require.NoError(t, err)
			conditions(t, n, s, m.ID+" "+a.Mode.ID+" all")
		}
	}
}

func TestBypassLeftOpenSplitsTheFlow(t *testing.T) {
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(m)
	require.NoError(t, err)
	everyday := setting.ForMode(rig.Plan(t, n), setting.Everyday)
	h := n.HandleOf("valve-bypass")
	sc := everyday.State.With(h, n.Handles[h].Index("open")).WithOpen(n.Node("kitchen.hot"), true)
	sc.Pumps = state.AllPumps(n)
	s, err := flow.SteadyFlow(t.Context(), n, sc)
	require.NoError(t, err)
	by := map[string]float64{}
	for i, l := range n.AllLinks() {
		if l.Line != nil {
			by[l.Line.ID] = float64(s.Flow[i])
		}
	}
	// The loop's own equation: from one bypass tee to the other the head lost
	// through the tube is that lost through the heater.
	velocity := func(q, d float64) float64 {
		return math.Pow(q/60000/(math.Pi/4*d*d), 2) / (2 * 9.80665)
	}
	const bore, inch = 0.485 * 0.0254, 0.0254
	tube := func(q float64) float64 { return 2*headLost(q, 5*inch) + 0.5*velocity(q, bore) }
	heater := func(q float64) float64 {
		return 2*headLost(q, 5*inch) + 2*headLost(q, 8*inch) + 2*0.5*velocity(q, bore) + 2*velocity(q, bore)
	}
	total := by["heater-feed"]
	through := root(func(x float64) float64 { return heater(x) - tube(total-x) })
	assert.InEpsilon(t, through, by["heater-in"], 0.001)
	assert.InEpsilon(t, total-through, by["tube-1"], 0.001)
	assert.Greater(t, by["tube-1"], by["heater-in"], "the short tube carries more than the way through the heater")
	assert.Greater(t, by["heater-in"], 0.1)
	assert.InDelta(t, by["heater-feed"], by["tube-1"]+by["heater-in"], 1e-6)
}

func TestOrderOfPartsChangesNoFlow(t *testing.T) {
	m, err := demo.Model("schist-31-2027")
	require.NoError(t, err)
	outs := func() map[string]string {
		n, err := plumbing.NewNetwork(m)
		require.NoError(t, err)
		sc := state.Normal(n)
		sc.Open = state.EverySide(n)
		sc.Pumps = state.AllPumps(n)
		s, err := flow.SteadyFlow(t.Context(), n, sc)
		require.NoError(t, err)
		got := map[string]string{}
		for node, q := range s.Out {
			got[n.Nodes[node].Name()] = fmt.Sprintf("%.9f", q)
		}
		return got
	}
	want := outs()
	rng := rand.New(rand.NewPCG(4, 4))
	rng.Shuffle(len(m.Parts), func(i, j int) { m.Parts[i], m.Parts[j] = m.Parts[j], m.Parts[i] })
	slices.Reverse(m.Lines)
	assert.Equal(t, want, outs())
}

func TestConditionsOnRandomNetworks(t *testing.T) {
	rng := rand.New(rand.NewPCG(11, 12))
	flowed := 0
	for i := range 500 {
		m := &plumbing.Model{ID: "random", Units: "si"}
		grow(m, rng, 15+rng.IntN(40))
		n, err := plumbing.NewNetwork(m)
		require.NoError(t, err)
		sc := state.Normal(n)
		if rng.IntN(3) > 0 {
			sc.Pumps = state.AllPumps(n)
		}
		for h := range n.AllHandles() {
			sc.Handles[h] = 1 << rng.IntN(len(n.Handles[h].Positions))
		}
		for node := range state.EverySide(n) {
			sc = sc.WithOpen(node, rng.IntN(2) == 0)
		}
		for j, node := range n.AllNodes() {
			if node.Part.Role() == plumbing.RoleInlet && node.Outside && rng.IntN(2) == 0 {
				sc = sc.WithJoined(j, state.Connection{Kind: state.Supply,
					Pressure: 200 + quantity.Kilopascal(rng.IntN(200)),
					Flow:     10 + quantity.LitrePerMinute(rng.IntN(15))})
			}
		}
		s, err := flow.SteadyFlow(t.Context(), n, sc)
		require.NoError(t, err, "network %d", i)
		conditions(t, n, s, fmt.Sprintf("network %d", i))
		for _, q := range s.Out {
			if q > 0.1 {
				flowed++
				break
			}
		}
	}
	assert.Greater(t, flowed, 250, "half of them flow")
}

// grow makes a random system of tees, valves, checks and taps at random heights.
func grow(m *plumbing.Model, rng *rand.Rand, lines int) {
	height := func() plumbing.Place {
		return plumbing.Place{Height: given[quantity.Metre](fmt.Sprintf("%.2f m", 0.3+1.5*rng.Float64()))}
	}
	m.Parts = append(m.Parts,
		plumbing.Part{ID: "tank", Kind: plumbing.Tank, Name: "Tank", Place: height(),
			Data: plumbing.Data{InsideHeight: given[quantity.Millimetre]("300 mm")}},
		plumbing.Part{ID: "pump", Kind: plumbing.Pump, Name: "Pump", Place: height(),
			Data: plumbing.Data{Flow: given[quantity.LitrePerMinute]("11 L/min"),
				CutOut: given[quantity.Kilopascal]("380 kPa")}})
	free := []string{"pump.out"}
	join := func(a, b string) {
		m.Lines = append(m.Lines, plumbing.Line{ID: fmt.Sprintf("l%d", len(m.Lines)), From: a, To: b,
			Side: plumbing.Cold, Size: "PEX 1/2", Length: length(0.2 + 4*rng.Float64())})
	}
	join("tank.supply", "pump.in")
	kinds := []plumbing.Kind{plumbing.Tee, plumbing.Tee, plumbing.Tee, plumbing.Valve, plumbing.CheckValve,
		plumbing.ThreeWay, plumbing.Heater, plumbing.Outlet, plumbing.Outlet, plumbing.CityInlet, plumbing.LowPoint}
	for len(m.Lines) < lines {
		i := rng.IntN(len(free))
		at := free[i]
		free = slices.Delete(free, i, i+1)
		if len(free) > 2 && rng.IntN(5) == 0 {
			j := rng.IntN(len(free))
			join(at, free[j])
			free = slices.Delete(free, j, j+1)
			continue
		}
		kind := kinds[rng.IntN(len(kinds))]
		if len(free) < 2 {
			kind = plumbing.Tee
		}
		p := plumbing.Part{ID: fmt.Sprintf("p%d", len(m.Parts)), Kind: kind, Name: "P", Place: height(),
			Data: plumbing.Data{Flow: given[quantity.LitrePerMinute]("6 L/min"), CheckValve: true}}
		if kind == plumbing.CityInlet {
			p.Data.Flow = quantity.Given[quantity.LitrePerMinute]{}
		}
		m.Parts = append(m.Parts, p)
		ports := p.Ports()
		k := rng.IntN(len(ports))
		join(at, p.ID+"."+ports[k].Name)
		if kind != plumbing.Outlet {
			for x, port := range ports {
				if x != k {
					free = append(free, p.ID+"."+port.Name)
				}
			}
		}
	}
}

func BenchmarkSteadyFlow200Lines(b *testing.B) {
	m := &plumbing.Model{ID: "random", Units: "si"}
	grow(m, rand.New(rand.NewPCG(1, 200)), 200)
	n, err := plumbing.NewNetwork(m)
	require.NoError(b, err)
	sc := state.Normal(n)
	sc.Open = state.EverySide(n)
	sc.Pumps = state.AllPumps(n)
	for b.Loop() {
		if _, err := flow.SteadyFlow(b.Context(), n, sc); err != nil {
			b.Fatal(err)
		}
	}
}
