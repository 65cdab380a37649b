package run_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

func TestExplore(t *testing.T) {
	models, err := demo.Models()
	require.NoError(t, err)
	for _, m := range models {
		b, err := m.Build(m.StandardOptions()...)
		require.NoError(t, err)
		n, err := plumbing.NewNetwork(b)
		require.NoError(t, err)
		plan, err := setting.Plan(t.Context(), n)
		require.NoError(t, err)
		fmt.Println("==", m.ID)
		everyday := setting.ForMode(plan, setting.Everyday)
		s := everyday.State
		s.Pumps = 0
		x := run.New(n, s, run.Mix{Chlorine: 0.5})
		x.Bring(state.Antifreeze, run.Mix{Glycol: 0.3})
		c := run.Carrier{Film: 0.03}
		drain := setting.ForMode(plan, setting.DrainDown)
		turn := func(to state.State) (acts []state.Act) {
			for i, h := range n.AllHandles() {
				if to.Position(i) != x.State.Position(i) {
					acts = append(acts, state.Act{Verb: state.Turn, Part: h.Part, To: h.Positions[to.Position(i)]})
				}
			}
			return acts
		}
		do := func(what string, st run.Step) {
			o, err := c.Carry(t.Context(), x, st)
			fmt.Printf("%-40s met %v took %.0f s ran %.2f silent %v dry %v err %v astray %.1e\n", what, o.Met, float64(o.Took), sum(o.Ran), o.Silent, o.Dry, err, float64(x.Astray().Liquid))
		}
		if drain.Has() {
			do("drain down", run.Step{Acts: append(turn(drain.States()[0]), drain.Mode.Acts...), Until: run.Until{Sense: run.Dry}})
			var shut []state.Act
			for _, a := range drain.Mode.Acts {
				if a.Verb == state.Open {
					shut = append(shut, state.Act{Verb: state.Shut, Part: a.Part})
				}
			}
			do("shut", run.Step{Acts: append(turn(everyday.State), shut...)})
		}
		af := setting.ForMode(plan, setting.Antifreeze)
		if !af.Has() {
			continue
		}
		do("antifreeze on", run.Step{Acts: append(turn(af.States()[0]), af.Mode.Acts...), Until: run.Until{Sense: run.Silent}})
		for _, p := range n.PartsOf(plumbing.RoleOutlet) {
			for _, side := range n.SidesOf(p) {
				at := n.Node(p.ID + "." + side)
				do(p.ID+" "+side, run.Step{Acts: []state.Act{{Verb: state.Open, Part: p, Sides: []string{side}}},
					Until: run.Until{Sense: run.Coloured, At: []plumbing.NodeID{at}, Least: run.Mix{Glycol: 0.27}, For: 600},
					Then:  []state.Act{{Verb: state.Shut, Part: p}}})
			}
		}
		for at, j := range x.Jugs() {
			fmt.Println("jug", n.Nodes[at].Name(), "used", j.Used)
		}
	}
}

func sum(m map[plumbing.NodeID]quantity.Litre) (v quantity.Litre) {
	for _, k := range slices.Sorted(func(y func(plumbing.NodeID) bool) {
		for k := range m {
			if !y(k) {
				return
			}
		}
	}) {
		v += m[k]
	}
	return v
}
