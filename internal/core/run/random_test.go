package run_test

import (
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
	"coldtap/internal/rig"
)

// grown is a system that was joined at random: a tank and a pump, tees, valves, check valves and
// heaters, outlets and drains at the ends.
func grown(t testing.TB, rng *rand.Rand) *plumbing.Network {
	t.Helper()
	var b strings.Builder
	high := func() string { return fmt.Sprintf("@ %.1fm 0.4m %.2fm", 1+4*rng.Float64(), 0.3+rng.Float64()) }
	b.WriteString("model grown Grown si\n")
	fmt.Fprintf(&b, "tank tank Tank @ 1m 0.4m 0.6m capacity=%dL heel=1L inside_height=300mm\n", 20+rng.IntN(80))
	b.WriteString("open-end vent Vent @ 1m 0m 1.2m\ntank.vent > vent.in air \"hose 16 mm\" 0.6m\n")
	b.WriteString("pump pump Pump @ 1.5m 0.4m 0.6m flow=\"11 L/min\" cut_out=\"3 bar\"\n")
	b.WriteString("tank.supply > pump.in supply \"semi-rigid 12 mm\" 0.5m\n")
	free := []string{"pump.out"}
	for i := range 6 + rng.IntN(20) {
		at := rng.IntN(len(free))
		from := free[at]
		free = slices.Delete(free, at, at+1)
		id, port := fmt.Sprintf("p%d", i), "a"
		kind := rng.IntN(8)
		if len(free) == 0 && kind > 4 {
			kind = 0
		}
		switch kind {
		case 0, 1, 2:
			fmt.Fprintf(&b, "tee %s Tee %s\n", id, high())
			free = append(free, id+".b", id+".c")
		case 3:
			fmt.Fprintf(&b, "valve %s Valve %s handle=lever pipe=level normal=open\n", id, high())
			free = append(free, id+".b")
		case 4:
			fmt.Fprintf(&b, "heater %s Heater %s type=storage-clad capacity=%dL inside_height=300mm\n", id, high(),
				5+rng.IntN(20))
			port = "cold"
			free = append(free, id+".hot")
		case 5:
			fmt.Fprintf(&b, "drain %s Drain %s handle=cap pipe=upright normal=closed closure=cap bore=13mm\n", id, high())
			port = "in"
		default:
			fmt.Fprintf(&b, "outlet %s Tap %s type=basin flow=\"6 L/min\" hold_up=20mL\n", id, high())
			port = "cold"
		}
		fmt.Fprintf(&b, "%s > %s.%s cold \"semi-rigid 12 mm\" %.2fm\n", from, id, port, 0.3+3*rng.Float64())
	}
	for i, from := range free { // nothing ends loose
		fmt.Fprintf(&b, "outlet e%d Tap %s type=basin flow=\"6 L/min\"\n", i, high())
		fmt.Fprintf(&b, "%s > e%d.cold cold \"semi-rigid 12 mm\" %.2fm\n", from, i, 0.3+3*rng.Float64())
	}
	m, err := rig.Read(b.String())
	require.NoError(t, err, b.String())
	n, err := plumbing.NewNetwork(m)
	require.NoError(t, err)
	return n
}

// networks are those that ship, and some that were grown.
func networks(t testing.TB, rng *rand.Rand) map[string]*plumbing.Network {
	t.Helper()
	all := map[string]*plumbing.Network{}
	for i := range 12 {
		all[fmt.Sprint("grown ", i)] = grown(t, rng)
	}
	for _, name := range rig.Names() {
		all[name] = rig.Network(t, name)
	}
	models, err := demo.Models()
	require.NoError(t, err)
	for _, m := range models {
		built, err := m.Build(m.StandardOptions()...)
		require.NoError(t, err)
		all[m.ID], err = plumbing.NewNetwork(built)
		require.NoError(t, err)
	}
	return all
}

// anything is a step that somebody might do, sensible or not.
func anything(n *plumbing.Network, rng *rand.Rand) run.Step {
	var s run.Step
	taps := slices.DeleteFunc(n.PartsOf(plumbing.RoleOutlet, plumbing.RoleMachine), func(p *plumbing.Part) bool {
		return n.SidesOf(p) == nil
	})
	at := func() []plumbing.NodeID {
		if len(taps) == 0 {
			return nil
		}
		p := taps[rng.IntN(len(taps))]
		return n.NodesOf(p, n.SidesOf(p)[0])
	}
	for range 1 + rng.IntN(3) {
		switch rng.IntN(9) {
		case 0, 1:
			if len(n.Handles) > 0 {
				h := n.Handles[rng.IntN(len(n.Handles))]
				s.Acts = append(s.Acts, state.Act{Verb: state.Turn, Part: h.Part, To: h.Positions[rng.IntN(len(h.Positions))]})
			}
		case 2:
			if len(n.Pumps) > 0 {
				s.Acts = append(s.Acts, state.Act{Verb: state.On, Part: n.Pumps[rng.IntN(len(n.Pumps))]})
			}
		case 3:
			for _, p := range n.Pumps {
				s.Acts = append(s.Acts, state.Act{Verb: state.Off, Part: p})
			}
		case 4, 5:
			if len(taps) > 0 {
				p := taps[rng.IntN(len(taps))]
				s.Acts = append(s.Acts, state.Act{Verb: state.Open, Part: p, Sides: n.SidesOf(p)})
			}
		case 6:
			for _, p := range taps {
				if rng.IntN(2) == 0 {
					s.Acts = append(s.Acts, state.Act{Verb: state.Shut, Part: p})
				}
			}
		case 7:
			ports := n.PartsOf(plumbing.RolePickUp, plumbing.RoleInlet, plumbing.RoleFill, plumbing.RoleBarrel)
			if len(ports) > 0 {
				p := ports[rng.IntN(len(ports))]
				fluid := []state.Fluid{state.Water, state.Sanitizer, state.Antifreeze}[rng.IntN(3)]
				c := state.Usual(p, fluid)
				if c.Kind == state.Container && rng.IntN(2) == 0 {
					c.Volume = quantity.Litre(1 + rng.IntN(5))
				}
				if rng.IntN(3) == 0 {
					c = state.Connection{}
				}
				s.Acts = append(s.Acts, state.Act{Verb: state.Join, Part: p, With: c})
			}
		default:
			if tanks := n.PartsOf(plumbing.RoleTank); len(tanks) > 0 {
				s.Pour = append(s.Pour, run.Pour{Into: tanks[rng.IntN(len(tanks))], Litre: quantity.Litre(10 * rng.Float64()),
					Mix: run.Mix{Chlorine: 500, Acid: 0.02}})
			}
		}
	}
	limit := quantity.Second(30 + rng.IntN(300))
	senses := []run.Until{{}, {Sense: run.Silent}, {Sense: run.Passed}, {Sense: run.Ran, At: at(), Litre: 2},
		{Sense: run.Coloured, At: at(), Least: run.Mix{Glycol: 0.2}}, {Sense: run.Spits, At: at()}, {Sense: run.Dry},
		{Sense: run.Strong, At: at(), Least: run.Mix{Chlorine: 40}, Litre: 0.2}}
	s.Until = senses[rng.IntN(len(senses))]
	s.Until.For = limit
	return s
}

func begin(n *plumbing.Network) *run.System {
	x := run.New(n, state.Normal(n), run.Mix{Chlorine: 0.5})
	x.Bring(state.Antifreeze, run.Mix{Glycol: 0.3})
	x.Bring(state.Sanitizer, run.Mix{Chlorine: 60})
	return x
}

// Whatever is done: of each fluid as much is there and went out as was there and came in, each
// stretch holds what it holds, and shares stay shares.
func TestNothingIsMadeOrLost(t *testing.T) {
	rng := rand.New(rand.NewPCG(14, 26))
	c, events := run.Carrier{Film: 0.03, Smear: 0.1}, 0
	for name, n := range networks(t, rng) {
		own := rand.New(rand.NewPCG(uint64(len(name)), uint64(len(n.Links)))) // maps have no order
		x := begin(n)
		for range 15 {
			s := anything(n, own)
			o, err := c.Carry(t.Context(), x, s)
			if err != nil && !errors.As(err, new(flow.ErrNoFlow)) {
				require.NotErrorAs(t, err, new(run.ErrNoEnd), name)
			}
			if o.Took > 0 {
				events++
			}
			check(t, n, x, name)
			if t.Failed() {
				return
			}
		}
	}
	assert.Greater(t, events, 150, "most of it came to something")
}

func check(t *testing.T, n *plumbing.Network, x *run.System, name string) {
	t.Helper()
	a, astray := x.Account(), x.Astray()
	all := float64(a.Had.Liquid + a.Came.Liquid)
	mg := a.Had.Chlorine + a.Came.Chlorine
	assert.InDelta(t, 0, float64(astray.Liquid), 1e-9*all, "%s: water", name)
	assert.InDelta(t, 0, float64(astray.Glycol), 1e-9*all, "%s: glycol", name)
	assert.InDelta(t, 0, float64(astray.Acid), 1e-9*all, "%s: acid", name)
	assert.InDelta(t, 0, astray.Chlorine, 1e-9*(mg+1), "%s: chlorine", name)
	for i := range n.Links {
		var sum quantity.Litre
		for _, p := range x.In(plumbing.LinkID(i)) {
			sum += p.Litre
			assert.True(t, p.Gas >= 0 && p.Gas <= 1 && p.Mix.Glycol >= 0 && p.Mix.Glycol <= 0.3+1e-9 && p.Litre >= 0 &&
				!math.IsNaN(p.Gas), "%s: %v", name, p)
		}
		if l := &n.Links[i]; l.Line != nil {
			assert.InDelta(t, float64(l.Content), float64(sum), 1e-6, "%s: %s", name, l.Line.ID)
		}
	}
	for _, v := range x.Vessels() {
		assert.True(t, v.Liquid.Litre >= 0 && v.Liquid.Litre <= v.Holds+1e-9, "%s: %s holds %v", name, v.Part.ID, v.Liquid)
	}
}

// The order of parts and lines in the file changes nothing, and nor does doing the same again.
func TestTheSameStepsComeToTheSame(t *testing.T) {
	rng := rand.New(rand.NewPCG(15, 27))
	for range 10 {
		n := grown(t, rng)
		m := *n.Model
		m.Parts, m.Lines = slices.Clone(m.Parts), slices.Clone(m.Lines)
		rng.Shuffle(len(m.Parts), func(i, j int) { m.Parts[i], m.Parts[j] = m.Parts[j], m.Parts[i] })
		rng.Shuffle(len(m.Lines), func(i, j int) { m.Lines[i], m.Lines[j] = m.Lines[j], m.Lines[i] })
		other, err := plumbing.NewNetwork(&m)
		require.NoError(t, err)
		seed := rng.Uint64()
		told := func(n *plumbing.Network) string {
			own := rand.New(rand.NewPCG(seed, 1))
			x := begin(n)
			var b strings.Builder
			for range 20 {
				o, err := run.Carrier{Film: 0.03, Smear: 0.1}.Carry(t.Context(), x, anything(n, own))
				fmt.Fprintf(&b, "%v %.6f %v\n", o.Came, float64(o.Took), err)
			}
			for i := range n.Links {
				for _, p := range x.In(plumbing.LinkID(i)) {
					fmt.Fprintf(&b, "%.6f %.6f %.6f ", float64(p.Litre), p.Gas, p.Mix)
				}
				fmt.Fprintln(&b)
			}
			return b.String()
		}
		assert.Equal(t, told(n), told(other))
		assert.Equal(t, told(n), told(n))
	}
}
