package proof_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
	"coldtap/internal/rig"
)

// wet is a tank of 200 L whose pump serves a basin over a grey tank of 30 L, a toilet over a black
// tank, and a shower outside.
const wet = `
model wet Wet si
tank tank Tank @ 1m 0.4m 0.6m capacity=200L heel=1L inside_height=300mm
open-end vent Vent @ 1m 0m 1.2m
tank.vent > vent.in air "hose 16 mm" 0.6m
gravity-fill fill Fill @ 1m 0m 1.1m
fill.out > tank.fill supply "hose 32 mm" 0.6m
pump pump Pump @ 1.5m 0.4m 0.6m flow="10 L/min" cut_out="3 bar"
tank.supply > pump.in supply "hose 10 mm" 1m
tee one "Tee 1" @ 2m 0.4m 0.5m
tee two "Tee 2" @ 2.5m 0.4m 0.5m
pump.out > one.a cold "hose 10 mm" 2m
one.b > two.a cold "hose 10 mm" 0.5m
waste-tank grey "Grey tank" @ 3m 0.4m 0.2m type=grey capacity=30L
waste-tank black "Black tank" @ 4m 0.4m 0.2m type=black capacity=60L
outlet basin Basin @ 5m 0.4m 1.2m type=basin flow="6 L/min" waste=grey
outlet toilet Toilet @ 5m 0.6m 0.8m type=toilet flow="6 L/min" waste=black
outlet outside "Outside shower" @ 5m 0m 0.8m type=outside-shower flow="6 L/min"
one.c > basin.cold cold "hose 10 mm" 2m
two.b > toilet.cold cold "hose 10 mm" 2m
two.c > outside.cold cold "hose 10 mm" 2m
`

// yard is a network with its parts by id.
type yard struct {
	t *testing.T
	n *plumbing.Network
}

func on(t *testing.T, text string) yard {
	t.Helper()
	m, err := rig.Read(text)
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(m)
	require.NoError(t, err)
	return yard{t, n}
}

func (y yard) act(v state.Verb, part string) state.Act {
	return state.Act{Verb: v, Part: y.n.Model.Part(part), Sides: []string{"cold"}}
}

// lets is a step in which the pump runs and an outlet stands open for some litres.
func (y yard) lets(part string, v quantity.Litre) proof.Step {
	return proof.Step{Step: run.Step{Acts: []state.Act{y.act(state.On, "pump"), y.act(state.Open, part)},
		Until: run.Until{Sense: run.Ran, At: []plumbing.NodeID{y.n.Node(part + ".cold")}, Litre: v},
		Then:  []state.Act{y.act(state.Shut, part), y.act(state.Off, "pump")}}}
}

// pours is a step in which something goes into the tank.
func (y yard) pours(v quantity.Litre, m run.Mix) proof.Step {
	return proof.Step{Step: run.Step{Pour: []run.Pour{{Into: y.n.Model.Part("tank"), Litre: v, Mix: m}}}}
}

// does is a step of one act.
func (y yard) does(v state.Verb, part string) proof.Step {
	return proof.Step{Step: run.Step{Acts: []state.Act{y.act(v, part)}}}
}

func TestWasteAndDuty(t *testing.T) {
	y := on(t, wet)
	bleached, sour := run.Mix{Chlorine: 4000}, run.Mix{Acid: 0.05}
	rested := y.lets("outside", 100)
	rested.Rests = true
	inParts := y.lets("basin", 100)
	inParts.Until.Room = true
	for _, test := range []struct {
		name  string
		steps []proof.Step
		want  []string // rule, step and part
	}{
		{"a grey tank of 30 L takes 29 L", []proof.Step{y.lets("basin", 29)}, nil},
		{"and no 31", []proof.Step{y.lets("basin", 31)}, []string{"waste-over 0 grey"}},
		{"by and by neither", []proof.Step{y.lets("basin", 20), y.lets("basin", 20)}, []string{"waste-over 1 grey"}},
		{"emptied it has room again",
			[]proof.Step{y.lets("basin", 20), y.does(state.Dump, "grey"), y.lets("basin", 20)}, nil},
		{"whoever watches its gauge stops before", []proof.Step{inParts}, nil},
		{"sanitizer meets what stands in the black tank", []proof.Step{y.pours(2, bleached), y.lets("toilet", 5)},
			[]string{"ammonia-met-chlorine 1 black"}},
		{"rinsed it may come",
			[]proof.Step{y.does(state.Rinse, "black"), y.pours(2, bleached), y.lets("toilet", 5)}, nil},
		{"vinegar only soils it", []proof.Step{y.pours(10, sour), y.lets("toilet", 5)}, []string{"waste-unrinsed 1 black"}},
		{"acid and chlorine meet in the tank", []proof.Step{y.pours(10, sour), y.pours(2, bleached)},
			[]string{"acid-met-chlorine 1 tank"}},
		{"100 L by a pump of some 6 L/min take over a quarter of an hour", []proof.Step{y.lets("outside", 100)},
			[]string{"pump-duty 0 pump"}},
		{"with rests they may", []proof.Step{rested}, nil},
	} {
		start := state.Normal(y.n)
		start.Levels = map[string]float64{"tank": 0.9}
		p := proof.Procedure{Start: proof.Start{State: start}, Steps: test.steps,
			Limit: proof.Limits{Dry: 120, Duty: run.Duty{On: 900, Off: 600}}}
		got, err := proof.Prove(t.Context(), y.n, &p)
		require.NoError(t, err)
		var list []string
		for _, b := range got.Breaches {
			list = append(list, fmt.Sprintf("%s %d %s", b.Rule, b.Step, b.Part))
		}
		assert.Equal(t, test.want, list, test.name)
	}
}

// A pump that may run for a quarter of an hour rests as often as it takes, and the rests are time.
func TestAPumpRests(t *testing.T) {
	y := on(t, wet)
	prove := func(rests bool) *run.Outcome {
		s := y.lets("outside", 150)
		s.Rests = rests
		p := proof.Procedure{Start: proof.Start{State: state.Normal(y.n)}, Steps: []proof.Step{s},
			Limit: proof.Limits{Duty: run.Duty{On: 900, Off: 600}}}
		got, err := proof.Prove(t.Context(), y.n, &p)
		require.NoError(t, err)
		return got.Outcomes[0]
	}
	through, rested := prove(false), prove(true)
	assert.Equal(t, int(through.Took/900), rested.Rests)
	assert.InDelta(t, float64(through.Took)+600*float64(rested.Rests), float64(rested.Took), 1)
	assert.InDelta(t, 900, float64(rested.Stretch["pump"]), 1)
	assert.InDelta(t, float64(through.Took), float64(through.Stretch["pump"]), 1)
}

// What is caught under a part stays in its bucket: acid and chlorine meet there though they never stood
// together anywhere else. So they do in the traps on the way to a waste tank that was emptied between.
func TestBucketsAndTrapsKeepWhatRanLast(t *testing.T) {
	y := on(t, wet)
	grey, outside := y.n.Model.Part("grey"), y.n.Model.Part("outside")
	x := proof.Begin(t.Context(), y.n, &proof.Procedure{Start: proof.Start{State: state.Normal(y.n)}})
	carry := func(s proof.Step) {
		t.Helper()
		_, err := run.Carrier{}.Carry(t.Context(), x, s.Step)
		require.NoError(t, err)
	}
	carry(y.does(state.Catch, "outside"))
	carry(y.lets("outside", 3))
	assert.InDelta(t, 3, float64(x.Bucket(outside).Litre), 1e-6)
	carry(y.lets("basin", 4))
	assert.InDelta(t, 4, float64(x.Waste(grey).Stands.Litre), 1e-6)
	assert.InDelta(t, 1, float64(x.Waste(grey).Last.Litre), 1e-9)
	carry(y.does(state.Dump, "grey"))
	assert.Zero(t, x.Waste(grey).Stands.Litre)
	assert.InDelta(t, 1, float64(x.Waste(grey).Last.Litre), 1e-9, "the traps are as they were")
	assert.InDelta(t, 0, float64(x.Astray().Liquid), 1e-9)
}

// washed draws antifreeze from jugs into a machine whose cycle takes 10 L.
const washed = `
model washed Washed si
container-port port "Pick-up" @ 1.2m 0.1m 0.5m
pump pump Pump @ 1.5m 0.4m 0.6m flow="10 L/min" cut_out="3 bar"
port.out > pump.in supply "hose 10 mm" 1m
machine washer Washer @ 3m 0.4m 0.6m type=washing-machine cycle=10L
pump.out > washer.cold cold "hose 10 mm" 2m
`

// A cycle that draws more than a jug holds draws air, unless as many jugs are poured together as it takes.
func TestACycleLongerThanTheJug(t *testing.T) {
	y := on(t, washed)
	antifreeze := state.Connection{Kind: state.Container, Fluid: state.Antifreeze}
	join := proof.Step{Step: run.Step{Acts: []state.Act{{Verb: state.Join, Part: y.n.Model.Part("port"), With: antifreeze}}}}
	for pool, want := range map[int]int{0: 1, 2: 1, 3: 0, -1: 0} {
		runs := y.lets("washer", 10)
		runs.Pool = max(0, pool)
		jug := quantity.Litre(4)
		if pool < 0 {
			jug = 0 // the house has none: it draws from a drum
		}
		p := proof.Procedure{Start: proof.Start{State: state.Normal(y.n),
			Fluids: map[state.Fluid]run.Mix{state.Antifreeze: {Glycol: 0.4}}},
			Steps: []proof.Step{join, runs}, Limit: proof.Limits{Jug: jug}}
		got, err := proof.Prove(t.Context(), y.n, &p)
		require.NoError(t, err)
		count := 0
		for _, b := range got.Breaches {
			if b.Rule == "cycle-longer" {
				count++
			}
		}
		assert.Equal(t, want, count, "%d jugs together", pool)
	}
}

// Rests are no work, and no idleness either: a pump that rested within a step goes on from where it was.
func TestRestsAreNoIdleTime(t *testing.T) {
	y := on(t, wet)
	first := y.lets("outside", 150)
	first.Rests, first.Then = true, nil // the pump stays on
	then := proof.Step{Step: run.Step{Until: run.Until{Sense: run.Passed, For: 800}}}
	p := proof.Procedure{Start: proof.Start{State: state.Normal(y.n)}, Steps: []proof.Step{first, then},
		Limit: proof.Limits{Dry: 1e6, Duty: run.Duty{On: 900, Off: 600}}}
	got, err := proof.Prove(t.Context(), y.n, &p)
	require.NoError(t, err)
	left := got.Outcomes[0].Pumps["pump"] - 900*quantity.Second(got.Outcomes[0].Rests)
	require.Greater(t, float64(left), 100.0, "it had run on since its last rest")
	assert.InDelta(t, float64(left)+800, float64(got.Outcomes[1].Stretch["pump"]), 5)
}
