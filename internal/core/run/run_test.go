package run_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
	"coldtap/internal/rig"
)

// simple is a tank, a pump and a tap at the end of 2 m + 10 m of line; a pick-up joins ahead of the
// pump by a 3-way.
const simple = `
model simple Simple si
tank tank Tank @ 1m 0.4m 0.6m capacity=100L heel=1L inside_height=300mm
open-end vent Vent @ 1m 0m 1.2m
tank.vent > vent.in air "hose 16 mm" 0.6m
three-way suction "Suction valve" @ 1.2m 0.4m 0.5m handle=lever pipe=level normal=a
container-port port "Pick-up" @ 1.2m 0.1m 0.5m
pump pump Pump @ 1.5m 0.4m 0.6m flow="10 L/min" cut_out="3 bar"
tank.supply > suction.a supply "hose 10 mm" 1m
port.out > suction.b supply "hose 10 mm" 1m
suction.com > pump.in supply "hose 10 mm" 2m
drain low "Low point" @ 2m 0.4m 0.3m handle=cap pipe=upright normal=closed closure=cap bore=25mm
tee tee Tee @ 2m 0.4m 0.5m
outlet tap Tap @ 5m 0.4m 1.2m type=basin flow="6 L/min"
pump.out > tee.a cold "hose 10 mm" 2m
tee.b > tap.cold cold "hose 10 mm" 10m
tee.c > low.in drain "hose 10 mm" 0.2m
`

type bench struct {
	*run.System
	t *testing.T
	n *plumbing.Network
}

func on(t *testing.T, text string) bench {
	t.Helper()
	m, err := rig.Read(text)
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(m)
	require.NoError(t, err)
	x := begin(n)
	return bench{x, t, n}
}

func (b bench) do(s run.Step) *run.Outcome {
	b.t.Helper()
	o, err := run.Carrier{Film: 0.03}.Carry(b.t.Context(), b.System, s)
	require.NoError(b.t, err)
	return o
}

func (b bench) part(id string) *plumbing.Part { return b.n.Model.Part(id) }

func (b bench) act(v state.Verb, id string) state.Act { return state.Act{Verb: v, Part: b.part(id)} }

func (b bench) turn(id, to string) state.Act {
	return state.Act{Verb: state.Turn, Part: b.part(id), To: to}
}

func (b bench) open(id string) state.Act {
	return state.Act{Verb: state.Open, Part: b.part(id), Sides: b.n.SidesOf(b.part(id))}
}

func (b bench) jug(v quantity.Litre) state.Act {
	return state.Act{Verb: state.Join, Part: b.part("port"),
		With: state.Connection{Kind: state.Container, Fluid: state.Antifreeze, Volume: v}}
}

// metre of 10 mm hose: π/4 · 1 cm² · 100 cm = 78.54 mL.
const metre = 0.0785398

// The colour comes when the way from the jug to the tap has been filled: 1 + 2 + 2 + 10 m.
func TestColourComesWhenTheWayIsFilled(t *testing.T) {
	b := on(t, simple)
	tap := b.n.Node("tap.cold")
	o := b.do(run.Step{Acts: []state.Act{b.turn("suction", "b"), b.jug(0), b.act(state.On, "pump"), b.open("tap")},
		Until: run.Until{Sense: run.Coloured, At: []plumbing.NodeID{tap}, Least: run.Mix{Glycol: 0.27}}})
	assert.True(t, o.Came)
	assert.InDelta(t, 15*metre, float64(o.Ran[tap]), 1e-3)
	assert.InDelta(t, 0.3, o.Arrived[tap].Mix.Glycol, 1e-9, "plain plugs: the front is sharp")
	stays := b.In(b.n.Nodes[b.n.Node("tank.supply")].Links[0])
	require.Len(t, stays, 1)
	assert.Zero(t, stays[0].Mix.Glycol, "the tank's own line is off the way")
}

// A front mixes over a tenth of each of the four hoses that it leaves behind, half of that on each side: of 15 m
// the first pale comes 75 cm before the front, by the middle of the mixed water it is half as strong.
func TestAFrontMixesOnItsWay(t *testing.T) {
	b := on(t, simple)
	tap := b.n.Node("tap.cold")
	pale := func(share float64) quantity.Litre {
		x := begin(b.n)
		o, err := run.Carrier{Smear: 0.1}.Carry(t.Context(), x, run.Step{
			Acts:  []state.Act{b.turn("suction", "b"), b.jug(0), b.act(state.On, "pump"), b.open("tap")},
			Until: run.Until{Sense: run.Coloured, At: []plumbing.NodeID{tap}, Least: run.Mix{Glycol: share}}})
		require.NoError(t, err)
		assert.True(t, o.Came)
		assert.InDelta(t, 0, float64(x.Astray().Glycol), 1e-9)
		return o.Ran[tap]
	}
	assert.InDelta(t, 15*metre, float64(pale(0.29)), 0.8*metre, "all of it")
	first := pale(0.01)
	assert.Less(t, float64(first), 15*metre-0.5*metre, "a pale one comes before")
	assert.Greater(t, float64(first), 15*metre-0.8*metre)
}

// A jug of one litre gives one litre, then air; the next one goes on.
func TestAJugRunsDry(t *testing.T) {
	b := on(t, simple)
	tap := b.n.Node("tap.cold")
	o := b.do(run.Step{Acts: []state.Act{b.turn("suction", "b"), b.jug(1), b.act(state.On, "pump"), b.open("tap")},
		Until: run.Until{Sense: run.Spits, At: []plumbing.NodeID{tap}}})
	assert.True(t, o.Came)
	assert.InDelta(t, 1+15*metre, float64(o.Ran[tap]), 1e-3, "what stood in the way, the litre, then air")
	assert.Greater(t, float64(o.Dry["pump"]), 0.0, "the pump drew air")
	for _, j := range b.Jugs() {
		assert.InDelta(t, 1, float64(j.Used), 1e-6)
		assert.InDelta(t, 0, float64(j.Left.Litre), 1e-6)
	}
}

// 100 mL of 6 % bleach (60 000 mg/L) in 100 L with half of it there: 6 000 mg. What is drawn off
// through the lines is topped up with supply water of 0.5 mg/L.
func TestADoseIsThinnedByToppingUp(t *testing.T) {
	b := on(t, simple)
	tap := b.n.Node("tap.cold")
	b.do(run.Step{Acts: []state.Act{b.act(state.On, "pump"), b.open("tap")},
		Until: run.Until{Sense: run.Ran, At: []plumbing.NodeID{tap}, Litre: 50}, Then: []state.Act{b.act(state.Shut, "tap")}})
	tank := b.part("tank")
	require.InDelta(t, 50, float64(b.Vessel(tank).Liquid.Litre), 0.01)
	b.do(run.Step{Pour: []run.Pour{{Into: tank, Litre: 0.1, Mix: run.Mix{Chlorine: 60_000}}}})
	b.do(run.Step{Pour: []run.Pour{{Into: tank, Litre: 49.9, Mix: run.Mix{Chlorine: 0.5}}}})
	assert.InDelta(t, 0.5*99.9/100+60, float64(b.Vessel(tank).Liquid.Mix.Chlorine), 0.01)
	strip := run.Until{Sense: run.Strong, At: []plumbing.NodeID{tap}, Least: run.Mix{Chlorine: 50}, Litre: 2}
	o := b.do(run.Step{Acts: []state.Act{b.open("tap")}, Until: strip, Then: []state.Act{b.act(state.Shut, "tap")}})
	assert.True(t, o.Came)
	drawn := 15*metre + 2
	assert.InDelta(t, drawn, float64(o.Ran[tap]), 2e-3, "the strip answers when the way is filled, and two litres run on")
	b.do(run.Step{Pour: []run.Pour{{Into: tank, Litre: quantity.Litre(drawn), Mix: run.Mix{Chlorine: 0.5}}}})
	assert.InDelta(t, (60.4995*(100-drawn)+0.5*drawn)/100, float64(b.Vessel(tank).Liquid.Mix.Chlorine), 0.02)
}

// An open low point empties what lies above it, and the tank's line stays shut off behind the pump.
func TestWhatStandsOpenRunsOut(t *testing.T) {
	b := on(t, simple)
	o := b.do(run.Step{Acts: []state.Act{b.turn("low", "open"), b.open("tap")}, Until: run.Until{Sense: run.Dry}})
	low := b.n.Node("low.mouth")
	assert.InDelta(t, 10.2*metre, float64(o.Ran[low]), 0.08, "the tap's line and the drain's own")
	// 0.79 L under 0.9 m by 25 mm: 2 · 0.00079 / (0.62 · π/4 · 0.025² · √(2 · 9.81 · 0.9)) = 1.2 s.
	assert.InDelta(t, 1.2, float64(o.Took), 0.3)
	assert.Zero(t, o.Ran[b.n.Node("tap.cold")], "the lowest opening takes it")
	to := run.Sink{Part: "low", To: plumbing.ToGround}
	assert.InDelta(t, float64(o.Ran[low]), float64(b.Account().Out[to].Liquid), 1e-9)
	shut := b.do(run.Step{Acts: []state.Act{b.turn("low", "closed"), b.act(state.Shut, "tap")}})
	assert.Empty(t, shut.Ran)
	o = b.do(run.Step{Acts: []state.Act{b.act(state.On, "pump"), b.open("tap")},
		Until: run.Until{Sense: run.Solid, At: []plumbing.NodeID{b.n.Node("tap.cold")}}})
	assert.InDelta(t, 10*metre, float64(o.Ran[b.n.Node("tap.cold")]), 0.08, "air first, as much as had run out")
}

// A tank's water leaves by its drain, though its overflow ends lower.
func TestATankLeavesByItsOwnDrain(t *testing.T) {
	b := on(t, simple+`
drain bung "Tank drain" @ 1m 0.4m 0.55m handle=cap pipe=upright normal=closed closure=cap bore=25mm
open-end spill "Overflow end" @ 1m 0.2m 0.2m
tank.drain > bung.in drain "hose 20 mm" 0.1m
tank.overflow > spill.in air "hose 16 mm" 0.8m
`)
	o := b.do(run.Step{Acts: []state.Act{b.turn("bung", "open")}, Until: run.Until{Sense: run.Dry}})
	assert.InDelta(t, 99, float64(o.Ran[b.n.Node("bung.mouth")]), 0.2, "all but the heel")
	assert.Zero(t, o.Ran[b.n.Node("spill.mouth")])
	assert.InDelta(t, 1, float64(b.Vessel(b.part("tank")).Liquid.Litre), 1e-6)
}

// hosed is behind with a water inlet in the place of its tank and pump.
func hosed(t *testing.T) bench {
	t.Helper()
	return on(t, strings.NewReplacer("pump pump Pump @ 1.5m 0.4m 0.6m", "city-inlet city Inlet @ 1.5m 0m 0.6m check_valve",
		` cut_out="3 bar"`, "", `tank.supply > pump.in supply "hose 10 mm" 1m`, "", "pump.out", "city.out").Replace(behind))
}

func (b bench) hose(kind state.ConnectionKind, pressure quantity.Kilopascal) state.Act {
	return state.Act{Verb: state.Join, Part: b.part("city"),
		With: state.Connection{Kind: kind, Pressure: pressure, Flow: 10}}
}

// Water that runs without any pump is heard: a heater behind one open valve takes in from a hose what its air allows.
func TestRunningWaterIsNotSilent(t *testing.T) {
	b := hosed(t)
	heater := b.part("heater")
	b.do(run.Step{Acts: []state.Act{b.turn("plug", "open"), b.turn("relief", "open")}, Until: run.Until{Sense: run.Dry},
		Then: []state.Act{b.turn("plug", "closed"), b.turn("relief", "closed")}})
	o := b.do(run.Step{Acts: []state.Act{b.hose(state.Supply, 300)}, Until: run.Until{Sense: run.Silent}})
	assert.InDelta(t, 20.0*300/(300+101.325), float64(b.Vessel(heater).Liquid.Litre), 0.8)
	assert.Greater(t, float64(o.Took), 60.0, "15 L at 10 L/min")
	o = b.do(run.Step{Acts: []state.Act{b.open("tap")}, Until: run.Until{Sense: run.Silent, For: 30}})
	assert.False(t, o.Came, "the tap runs")
}

// Draining is asked with what stands in each piece now: a film where air has swept, nothing less where nothing went.
func TestDrainingIsAskedWithWhatStandsThere(t *testing.T) {
	b := hosed(t)
	b.do(run.Step{Acts: []state.Act{b.hose(state.Compressed, 200), b.open("tap")}, Until: run.Until{Sense: run.Passed}})
	full, part := 0, 0
	for i, c := range b.Contents() {
		gas := b.Pieces()[i].Gas
		assert.InDelta(t, 1-gas, c.Share, 1e-12)
		if gas == 0 {
			full++
		} else if gas < 0.99 {
			part++
		}
	}
	assert.Positive(t, full)
	assert.Positive(t, part, "a film")
}

// Clear is what has no more of anything in it than is let pass.
func TestClearIsWithinWhatIsLetPass(t *testing.T) {
	for strength, clear := range map[float64]bool{0: true, 0.3: true, 0.3 + 5e-10: true, 0.31: false} {
		b := on(t, simple)
		b.Bring(state.Antifreeze, run.Mix{Glycol: strength})
		tap := b.n.Node("tap.cold")
		b.do(run.Step{Acts: []state.Act{b.jug(20), b.turn("suction", "b"), b.act(state.On, "pump"), b.open("tap")},
			Until: run.Until{Sense: run.Ran, At: []plumbing.NodeID{tap}, Litre: 5}})
		o := b.do(run.Step{Until: run.Until{Sense: run.Clear, At: []plumbing.NodeID{tap}, Litre: 1, Least: run.Mix{Glycol: 0.3},
			For: 60}})
		assert.Equal(t, clear, o.Came, "%v", strength)
	}
}

// What somebody catches in a bucket does not run into the open.
func TestWhatIsCaughtDoesNotRunIntoTheOpen(t *testing.T) {
	b := on(t, simple)
	catch := b.act(state.Catch, "low")
	b.do(run.Step{Acts: []state.Act{catch, b.turn("low", "open"), b.open("tap")}, Until: run.Until{Sense: run.Dry}})
	for sink := range b.Account().Out {
		assert.False(t, sink.To.Open(), "%v", sink)
	}
}

// A tank that is poured over its brim runs over, and what ran over is told.
func TestWhatATankCantHoldRunsOver(t *testing.T) {
	b := on(t, simple)
	o := b.do(run.Step{Pour: []run.Pour{{Into: b.part("tank"), Litre: 5}}})
	assert.InDelta(t, 5, float64(o.Spilled[b.part("tank")]), 1e-9)
}

// With every tap shut nothing moves: the pump is silent. A cross-connected act is refused and says so.
func TestNothingMovesWithoutAWayOut(t *testing.T) {
	b := on(t, simple)
	o := b.do(run.Step{Acts: []state.Act{b.act(state.On, "pump")}, Until: run.Until{Sense: run.Silent}})
	assert.True(t, o.Came)
	_, err := run.Carrier{}.Carry(t.Context(), b.System, run.Step{Acts: []state.Act{b.turn("tee", "open")}})
	assert.ErrorContains(t, err, "tee has no handle")
	_, err = run.Carrier{}.Carry(t.Context(), b.System,
		run.Step{Pour: []run.Pour{{Into: b.part("pump"), Litre: 1, Mix: run.Mix{Chlorine: 500}}}})
	assert.ErrorContains(t, err, "nothing can be poured into pump")
	assert.InDelta(t, 0, float64(b.Astray().Liquid), 1e-12)
	assert.InDelta(t, 0, b.Astray().Chlorine, 1e-12, "what could not be poured did not come")
}

// A copy goes its own way.
func TestACopyGoesItsOwnWay(t *testing.T) {
	b := on(t, simple)
	c := b.Clone()
	b.do(run.Step{Acts: []state.Act{b.turn("low", "open"), b.open("tap")}, Until: run.Until{Sense: run.Dry}})
	for i := range b.n.Links {
		for _, p := range c.In(plumbing.LinkID(i)) {
			if l := b.n.Links[i].Line; l != nil && l.Side != plumbing.Air {
				assert.Zero(t, p.Gas, l.ID)
			}
		}
	}
	assert.Empty(t, c.Account().Out)
}

func BenchmarkWinter(b *testing.B) {
	n := rig.Network(b, "obsidian-33")
	x := begin(n)
	for b.Loop() {
		c := x.Clone()
		for _, p := range n.PartsOf(plumbing.RoleOutlet) {
			if sides := n.SidesOf(p); sides != nil {
				at := n.NodesOf(p, sides[0])
				_, err := run.Carrier{}.Carry(b.Context(), c, run.Step{Acts: []state.Act{{Verb: state.On, Part: n.Pumps[0]},
					{Verb: state.Open, Part: p, Sides: sides[:1]}}, Until: run.Until{Sense: run.Ran, At: at, Litre: 2, For: 60},
					Then: []state.Act{{Verb: state.Shut, Part: p}}})
				require.NoError(b, err)
			}
		}
	}
}

// behind is a heater of 20 L behind one open valve; the other is shut.
const behind = `
model behind Behind si
tank tank Tank @ 1m 0.4m 0.6m capacity=100L heel=1L inside_height=300mm
open-end vent Vent @ 1m 0m 1.2m
tank.vent > vent.in air "hose 16 mm" 0.6m
pump pump Pump @ 1.5m 0.4m 0.6m flow="10 L/min" cut_out="3 bar"
tank.supply > pump.in supply "hose 10 mm" 1m
tee tee Tee @ 2m 0.4m 0.5m
pump.out > tee.a cold "hose 10 mm" 2m
heater heater Heater @ 3m 0.4m 0.5m type=storage-steel capacity=20L inside_height=300mm
drain plug "Heater plug" @ 3m 0.2m 0.5m handle=plug pipe=level normal=closed closure=plug bore=12mm
relief-valve relief Relief @ 3m 0.2m 0.8m handle=lever normal=closed
valve out "Outlet valve" @ 3.5m 0.4m 0.8m handle=lever pipe=level normal=closed
outlet tap Tap @ 5m 0.4m 1.2m type=basin flow="6 L/min"
tee.b > heater.cold cold "hose 10 mm" 1m
heater.drain > plug.in drain "hose 10 mm" 0.1m
heater.relief > relief.in hot "hose 10 mm" 0.1m
heater.hot > out.a hot "hose 10 mm" 1m
out.b > tap.hot hot "hose 10 mm" 1m
tee.c > tap.cold cold "hose 10 mm" 3m
`

// A drained heater behind one open valve takes in what its air allows: 20 L · 300 / (300 + 101.3) = 14.95 L, and
// gives it back when the pressure goes.
func TestAClosedVesselTakesInWhatItsAirAllows(t *testing.T) {
	b := on(t, behind)
	heater, tank := b.part("heater"), b.part("tank")
	b.do(run.Step{Acts: []state.Act{b.turn("plug", "open"), b.turn("relief", "open")}, Until: run.Until{Sense: run.Dry},
		Then: []state.Act{b.turn("plug", "closed"), b.turn("relief", "closed")}})
	left := b.Vessel(heater).Liquid.Litre
	require.Less(t, float64(left), 1.0)
	before := b.Vessel(tank).Liquid.Litre
	o := b.do(run.Step{Acts: []state.Act{b.act(state.On, "pump")}, Until: run.Until{Sense: run.Silent}})
	room := (20 - left) * 300 / (300 + 101.325)
	took := b.Vessel(heater).Liquid.Litre - left
	assert.InDelta(t, float64(room), float64(took), 0.1)
	assert.InDelta(t, float64(took), float64(before-b.Vessel(tank).Liquid.Litre), 0.2, "but for what the lines lacked")
	assert.InDelta(t, float64(took)/10*60, float64(o.Took), 6, "as fast as the pump gives it")
	again := b.do(run.Step{Until: run.Until{Sense: run.Silent}})
	assert.InDelta(t, 0, float64(again.Took), 1, "once")
	b.do(run.Step{Acts: []state.Act{b.act(state.Off, "pump"), b.open("tap")}, Until: run.Until{Sense: run.Dry}})
	assert.InDelta(t, float64(left), float64(b.Vessel(heater).Liquid.Litre), 0.1, "its air presses it out again")
	assert.InDelta(t, 0, float64(b.Astray().Liquid), 1e-9)
}

// A heater that water runs through as through a line is such a vessel too: of 2 L of air 2 · 300 / 401.3 = 1.495 L, once.
func TestAHeaterOnDemandTakesInWhatItsAirAllows(t *testing.T) {
	b := on(t, strings.Replace(behind, "type=storage-steel capacity=20L", "type=on-demand capacity=2L", 1))
	liquid := func() (sum quantity.Litre) {
		for i := range b.n.Links {
			if p := b.n.Links[i].Part; p != nil && p.ID == "heater" {
				for _, x := range b.In(plumbing.LinkID(i)) {
					sum += x.Liquid()
				}
			}
		}
		return sum
	}
	b.do(run.Step{Acts: []state.Act{b.turn("plug", "open"), b.turn("relief", "open")}, Until: run.Until{Sense: run.Dry},
		Then: []state.Act{b.turn("plug", "closed"), b.turn("relief", "closed")}})
	left := liquid()
	require.Less(t, float64(left), 0.2)
	b.do(run.Step{Acts: []state.Act{b.act(state.On, "pump")}, Until: run.Until{Sense: run.Silent}})
	took := float64(liquid() - left)
	assert.Less(t, took, float64((2-left)*300/(300+101.325))+0.05)
	assert.Greater(t, took, 1.2, "but for the air that stood in its line")
	b.do(run.Step{Until: run.Until{Sense: run.Silent}})
	assert.InDelta(t, took, float64(liquid()-left), 0.05, "once")
	assert.InDelta(t, 0, float64(b.Astray().Liquid), 1e-9)
}

// Who waits for so much to run waits no longer than they may; where nothing is looked at nothing is ever seen.
func TestWhoWaitsIsToldWhatCame(t *testing.T) {
	b := on(t, simple)
	tap := b.n.Node("tap.cold")
	open := []state.Act{b.act(state.On, "pump"), b.open("tap")}
	o := b.do(run.Step{Acts: open, Until: run.Until{Sense: run.Ran, At: []plumbing.NodeID{tap}, Litre: 50, For: 60}})
	assert.False(t, o.Came)
	assert.InDelta(t, 60, float64(o.Took), 0.1)
	o = b.do(run.Step{Until: run.Until{Sense: run.Solid, For: 20}})
	assert.False(t, o.Came)
	assert.InDelta(t, 20, float64(o.Took), 0.1)
}

// A bowl that is taken off is poured out, whatever holds the water in the lines on both sides of it.
func TestABowlIsPouredOut(t *testing.T) {
	b := on(t, strings.Replace(simple, `suction.com > pump.in supply "hose 10 mm" 2m`, `
check-valve check Check @ 1.3m 0.4m 0.5m
strainer strainer Strainer @ 1.4m 0.4m 0.5m hold_up=0.1L
suction.com > check.in supply "hose 10 mm" 1m
check.out > strainer.in supply "hose 10 mm" 0.5m
strainer.out > canister.in supply "hose 10 mm" 0.5m
filter canister Canister @ 1.45m 0.4m 0.5m type=canister capacity=1L
canister.out > pump.in supply "hose 10 mm" 0.5m`, 1))
	liquid := func(part string) (sum float64) {
		for i := range b.n.Pieces {
			if p := b.n.Pieces[i].Part; p != nil && p.ID == part {
				sum += float64(b.Pieces()[i].Liquid())
			}
		}
		return sum
	}
	require.InDelta(t, 0.1, liquid("strainer"), 1e-6)
	require.InDelta(t, 1, liquid("canister"), 1e-6)
	b.do(run.Step{Acts: []state.Act{b.turn("strainer", "open")}, Then: []state.Act{b.turn("strainer", "closed")}})
	assert.InDelta(t, 0, liquid("strainer"), 1e-6)
	assert.InDelta(t, 1, liquid("canister"), 1e-6)
	b.do(run.Step{Acts: []state.Act{b.act(state.TakeOut, "canister")}, Then: []state.Act{b.act(state.PutBack, "canister")}})
	assert.InDelta(t, 0, liquid("canister"), 1e-6)
	assert.InDelta(t, 0, float64(b.Astray().Liquid), 1e-9)
	b.do(run.Step{Acts: []state.Act{b.act(state.On, "pump"), b.open("tap")},
		Until: run.Until{Sense: run.Solid, At: []plumbing.NodeID{b.n.Node("tap.cold")}, Litre: 2}})
	assert.InDelta(t, 1, liquid("canister"), 0.01, "it fills again")
}
