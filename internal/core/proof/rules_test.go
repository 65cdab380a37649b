package proof_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
)

// shop has one of nearly everything: a tank of 100 L, a pick-up at the pump, a city water inlet, a canister, a heater of
// 20 L behind a 3-way valve, a basin over a grey tank, a toilet over a black one, a tap outside, a machine, a trap.
const shop = `
model shop Shop si design_low="-20 °C"
tank tank Tank @ 1m 0.4m 0.6m capacity=100L heel=1L inside_height=300mm
open-end vent Vent @ 1m 0m 1.2m
tank.vent > vent.in air "hose 16 mm" 0.6m
gravity-fill fill Fill @ 1m 0m 1.1m flow="12 L/min"
fill.out > tank.fill supply "hose 32 mm" 0.6m
container-port port Pick-up @ 1.2m 0.1m 0.5m thread=x
three-way pick "Pick-up valve" @ 1.3m 0.4m 0.6m handle=pointer pipe=level normal=a
pump pump Pump @ 1.5m 0.4m 0.6m flow="10 L/min" cut_out="3 bar" dry_run="1 min"
tank.supply > pick.a supply "hose 10 mm" 0.3m
port.out > pick.b supply "hose 10 mm" 0.3m
pick.com > pump.in supply "hose 10 mm" 0.3m
city-inlet city "City water inlet" @ 1.6m 0m 0.6m check_valve regulator="3 bar" flow="12 L/min"
tee t0 "Tee 0" @ 1.8m 0.4m 0.5m
pump.out > t0.a cold "hose 10 mm" 0.3m
city.out > t0.c cold "hose 10 mm" 0.5m
filter canister Canister @ 1.9m 0.4m 0.5m type=canister capacity=1L
t0.b > canister.in cold "hose 10 mm" 0.2m
tee t1 "Tee 1" @ 2m 0.4m 0.5m
canister.out > t1.a cold "hose 10 mm" 0.3m
three-way bypass "Bypass valve" @ 2.2m 0.6m 0.6m handle=pointer pipe=level normal=a
heater heater "Water heater" @ 2.5m 0.8m 0.6m type=storage-clad capacity=20L heel=0.2L inside_height=400mm gas="3 kW"
drain plug "Heater plug" @ 2.5m 1m 0.6m handle=plug pipe=level normal=closed closure=plug bore=25mm
relief-valve relief "Relief valve" @ 2.5m 1m 1.0m handle=lever pipe=level normal=closed opens_at="10 bar" bore=13mm
check-valve check "Heater check valve" @ 2.6m 0.8m 1.0m
tee t9 "Hot tee" @ 2.7m 0.7m 1.0m
t1.c > bypass.com cold "hose 10 mm" 0.3m
bypass.a > heater.cold cold "hose 10 mm" 0.3m
heater.hot > check.in hot "hose 10 mm" 0.2m
check.out > t9.a hot "hose 10 mm" 0.2m
bypass.b > t9.b cold "hose 10 mm" 0.5m
heater.drain > plug.in drain "hose 25 mm" 20mm
heater.relief > relief.in drain "hose 13 mm" 20mm
tee t2 "Tee 2" @ 3m 0.4m 0.5m
tee t3 "Tee 3" @ 3.2m 0.4m 0.5m
tee t4 "Tee 4" @ 3.4m 0.4m 0.5m
tee t5 "Tee 5" @ 3.5m 0.4m 0.5m
t1.b > t2.a cold "hose 10 mm" 0.5m
t2.b > t3.a cold "hose 10 mm" 0.3m
t3.b > t4.a cold "hose 10 mm" 0.3m
t4.b > t5.a cold "hose 10 mm" 0.3m
waste-tank grey "Grey tank" @ 3m 0.4m 0.2m type=grey capacity=30L
waste-tank black "Black tank" @ 4m 0.4m 0.2m type=black capacity=60L
outlet basin Basin @ 4m 0.4m 1.2m type=basin flow="6 L/min" waste=grey
outlet toilet Toilet @ 4m 0.6m 0.8m type=toilet flow="6 L/min" waste=black
outlet outside "Outside tap" @ 4m 0m 0.8m type=outside-tap flow="6 L/min"
outlet spare "Spare tap" @ 4m 0.5m 0.8m type=kitchen flow="6 L/min"
machine washer Washer @ 4m 0.4m 0.6m type=washing-machine cycle=10L waste=grey
trap trap Trap @ 4m 0.4m 0.5m seal=0.3L waste=grey
drain low "Low-point drain" @ 3.5m 0.4m 0.3m handle=cap pipe=upright normal=closed closure=cap bore=13mm
t9.c > basin.hot hot "hose 10 mm" 1m
t2.c > basin.cold cold "hose 10 mm" 1m
t3.c > toilet.cold cold "hose 10 mm" 1m
t4.c > outside.cold cold "hose 10 mm" 1m
t5.b > washer.cold cold "hose 10 mm" 1m id=washer-line
t5.c > low.in drain "hose 10 mm" 0.2m
`

// A row is a rule at a part, or a line: what breaks it, and what comes as near to that as can be and does not.
type row struct {
	rule, part   string
	rig, nearRig string // "" for the shop, and for the same
	start, near  start
	steps, keeps string // what is done; keeps "" for the same
	goal         func(y yard, g *proof.Goal)
	nearGoal     func(y yard, g *proof.Goal) // nil for the same
	limit        *proof.Limits               // nil for the usual
	nearLimit    *proof.Limits               // nil for the same
	supply       string                      // what stands everywhere at the beginning
	nearSupply   string
}

// start is how things stand at the beginning.
type start struct {
	tank   float64            // how full it is, 0 for full
	shares map[string]float64 // how full other parts are
	hot    bool
}

// everyday has all as it should be in the end.
func everyday(y yard, g *proof.Goal) {
	s := state.Normal(y.n)
	g.State = &s
}

func with(change func(y yard, s *state.State)) func(yard, *proof.Goal) {
	return func(y yard, g *proof.Goal) {
		s := state.Normal(y.n)
		change(y, &s)
		g.State = &s
	}
}

const (
	basin = "on pump; open basin cold; ran 3 basin.cold; then shut basin; then off pump"
	hot   = "on pump; open basin hot; ran 3 basin.hot; then shut basin; then off pump"
)

var usual = proof.Limits{Dry: 120, Ceiling: 100, Air: 200}

func limits(change func(l *proof.Limits)) *proof.Limits {
	l := usual
	change(&l)
	return &l
}

func cold(y yard) []plumbing.NodeID { return []plumbing.NodeID{y.n.Node("basin.cold")} }

var rows = []row{
	{rule: "heat-not-full", part: "heater", start: start{shares: map[string]float64{"heater": 0.97}},
		near: start{shares: map[string]float64{"heater": 0.985}}, steps: "heat heater gas"},
	{rule: "heat-apart", part: "portable", rig: hung, steps: "heat portable gas\nturn cold apart",
		keeps: "heat portable gas\nunheat portable\nturn cold apart"},
	{rule: "heat-apart", part: "portable", rig: hung, steps: "heat portable gas\nturn gas apart",
		keeps: "heat portable gas\nunheat portable; turn gas apart"},
	{rule: "opened-pressed", part: "low", steps: "on pump; wait 5\nturn low open", keeps: "off pump\nturn low open"},
	{rule: "opened-pressed", part: "low", steps: "on pump; wait 5; then off pump\nturn low open",
		keeps: "on pump; wait 5; then off pump\nopen basin cold; dry; then shut basin\nturn low open"},
	{rule: "opened-pressed", part: "low", steps: "on pump; turn low open", keeps: "turn low open; on pump"},
	{rule: "shunned", part: "canister", steps: "out canister; turn pick b; join port antifreeze; on pump; open basin cold; " +
		"ran 5 basin.cold; then shut basin; then off pump\nback canister",
		keeps: "out canister; on pump; open basin cold; ran 5 basin.cold; then shut basin; then off pump\nback canister"},
	{rule: "opened-hot", part: "plug", start: start{hot: true}, near: start{hot: true}, steps: "turn plug open",
		keeps: "cool heater; turn plug open"},
	{rule: "opened-hot", part: "plug", start: start{hot: true}, near: start{hot: true},
		steps: "unheat heater\nturn plug open",
		keeps: "cool heater\nturn plug open"}, // switched off it is still hot
	{rule: "opened-hot", part: "relief", start: start{hot: true}, near: start{}, steps: "turn relief open"},
	{rule: "opened-pressed", part: "plug", steps: "on pump\nturn plug open", keeps: "turn plug open"},
	{rule: "opened-pressed", part: "canister", steps: "join city water\nout canister",
		keeps: "join city water\npart city; open outside cold; dry\nout canister"},
	{rule: "heater-met", part: "heater", supply: "chlorine=4.1", nearSupply: "chlorine=3.9", steps: hot},
	{rule: "heater-met", part: "heater", supply: "glycol=0.0031", nearSupply: "glycol=0.0029", steps: hot},
	{rule: "heater-met", part: "heater", supply: "chlorine=50", nearSupply: "chlorine=50", steps: hot,
		keeps: "turn bypass b\n" + hot},
	{rule: "shunned", part: "canister", supply: "chlorine=4.1", nearSupply: "chlorine=3.9", steps: basin},
	{rule: "shunned", part: "canister", supply: "glycol=0.4", nearSupply: "glycol=0.4", steps: basin,
		keeps: "out canister\n" + basin},
	{rule: "shunned", part: "soft", rig: softened, supply: "chlorine=4.1", nearSupply: "chlorine=3.9", steps: basin},
	{rule: "tank-met-antifreeze", part: "tank", start: start{tank: 0.5}, near: start{tank: 0.5}, supply: "glycol=0.0031",
		nearSupply: "glycol=0.0029", steps: "join fill water; wait 10"},
	{rule: "acid-met-chlorine", part: "washer-line", supply: "acid=0.0011 chlorine=1.1",
		nearSupply: "acid=0.0011 chlorine=0.9",
		steps:      basin},
	{rule: "acid-met-chlorine", part: "tank", supply: "acid=0.0011 chlorine=1.1", nearSupply: "acid=0.0009 chlorine=1.1",
		steps: basin},
	{rule: "acid-met-chlorine", part: "grey", steps: "pour trap 2 acid=0.05\npour trap 2 chlorine=50",
		keeps: "pour trap 2 acid=0.05\npour trap 2 "},
	{rule: "acid-met-chlorine", part: "grey", steps: "pour trap 2 acid=0.05\ndump grey\npour trap 0.5 chlorine=50",
		keeps: "pour trap 2 acid=0.05\ndump grey\npour trap 2 \ndump grey\npour trap 0.5 chlorine=50"}, // in the trap only
	{rule: "acid-met-chlorine", part: "outside",
		steps: "catch outside; turn pick b; join port vinegar; on pump; open outside cold; ran 4 outside.cold; then shut outside\n" +
			"join port sanitizer; open outside cold; ran 4 outside.cold; then shut outside",
		keeps: "turn pick b; join port vinegar; on pump; open outside cold; ran 4 outside.cold; then shut outside\n" +
			"join port sanitizer; open outside cold; ran 4 outside.cold; then shut outside"},
	{rule: "too-strong", part: "tank", start: start{tank: 0.5}, near: start{tank: 0.5},
		steps: "pour tank 0.1 chlorine=101",
		keeps: "pour tank 0.1 chlorine=99"},
	{rule: "too-strong", part: "heater", supply: "chlorine=101", nearSupply: "chlorine=99", steps: "wait 1"},
	{rule: "no-way-in", part: "tank", rig: strings.Replace(strings.Replace(shop,
		"fill.out > tank.fill supply \"hose 32 mm\" 0.6m\n", "", 1), "gravity-fill fill", "gravity-fill elsewhere", 1),
		nearRig: shop, start: start{tank: 0.5}, near: start{tank: 0.5}, steps: "pour tank 1 "},
	{rule: "to-the-open", part: "outside", supply: "chlorine=4.1", nearSupply: "chlorine=3.9",
		steps: "on pump; open outside cold; ran 3 outside.cold"},
	{rule: "to-the-open", part: "outside", supply: "glycol=0.0031", nearSupply: "glycol=0.0029",
		steps: "on pump; open outside cold; ran 3 outside.cold"},
	{rule: "to-the-open", part: "outside", supply: "glycol=0.4", nearSupply: "glycol=0.4",
		steps: "on pump; open outside cold; ran 3 outside.cold",
		keeps: "catch outside; on pump; open outside cold; ran 3 outside.cold"},
	{rule: "pump-dry", part: "pump", start: start{tank: 0.01}, near: start{tank: 0.01},
		steps: "on pump; open basin cold; wait 75", keeps: "on pump; open basin cold; wait 55"},
	{rule: "pump-shut", part: "pump", steps: "turn pick b; on pump; wait 61", keeps: "turn pick b; on pump; wait 59"},
	{rule: "pump-shut", part: "pump", steps: "turn pick b; on pump; wait 300", keeps: "turn pick a; on pump; wait 300"},
	{rule: "air-strong", part: "city", steps: "join city air 201", keeps: "join city air 199"},
	{rule: "air-strong", part: "port", rig: strings.Replace(shop, " thread=x", "", 1),
		steps: "turn pick b; join port air 100",
		keeps: "turn pick b; join city air 100"},
	{rule: "air-screened", part: "basin", steps: "join city air 100; open basin cold",
		keeps: "out basin; join city air 100; open basin cold"},
	{rule: "air-screened", part: "basin", steps: "join city air 100; open basin cold",
		keeps: "join city air 100; open outside cold"},
	{rule: "air-in-tank", part: "tank", steps: "join fill air 100", keeps: "join city air 100"},
	{rule: "ammonia-met-chlorine", part: "black", supply: "chlorine=4.1", nearSupply: "chlorine=3.9",
		steps: "on pump; open toilet cold; ran 3 toilet.cold"},
	{rule: "ammonia-met-chlorine", part: "black", supply: "chlorine=50", nearSupply: "chlorine=50",
		steps: "on pump; open toilet cold; ran 3 toilet.cold",
		keeps: "rinse black; on pump; open toilet cold; ran 3 toilet.cold"},
	{rule: "waste-unrinsed", part: "black", supply: "acid=0.0011", nearSupply: "acid=0.0009",
		steps: "on pump; open toilet cold; ran 3 toilet.cold"},
	{rule: "waste-over", part: "grey", steps: "on pump; open basin cold; ran 30.5 basin.cold",
		keeps: "on pump; open basin cold; ran 29.5 basin.cold"},
	{rule: "waste-unnamed", part: "basin", rig: strings.Replace(shop, "type=basin flow=\"6 L/min\" waste=grey",
		"type=basin flow=\"6 L/min\"", 1), steps: basin, keeps: "catch basin\n" + basin},
	{rule: "pump-duty", part: "pump", steps: "on pump; open outside cold; wait 902",
		keeps: "on pump; open outside cold; wait 900",
		limit: limits(func(l *proof.Limits) { l.Duty = run.Duty{On: 900, Off: 600} })},
	{rule: "cycle-longer", part: "washer", limit: limits(func(l *proof.Limits) { l.Jug = 9.5 }),
		nearLimit: limits(func(l *proof.Limits) { l.Jug = 10 }),
		steps:     "turn pick b; join port antifreeze; on pump; open washer cold; ran 10 washer.cold"},
	{rule: "cycle-longer", part: "washer", limit: limits(func(l *proof.Limits) { l.Jug = 4.9 }),
		steps: "turn pick b; join port antifreeze\non pump; open washer cold; ran 10 washer.cold; jugs 2",
		keeps: "turn pick b; join port antifreeze\non pump; open washer cold; ran 10 washer.cold; jugs 3"},
	{rule: "never-came", part: "basin", steps: "on pump; open basin cold; coloured basin.cold",
		keeps: "turn pick b; join port antifreeze; on pump; open basin cold; coloured basin.cold"},
	{rule: "ran-over", part: "tank", steps: "pour tank 0.21 ", keeps: "pour tank 0.19 "},

	{rule: "not-back", part: "bypass", steps: "turn bypass b", keeps: "turn bypass b\nturn bypass a", goal: everyday},
	{rule: "left-on", part: "pump", steps: "on pump", keeps: "on pump\noff pump", goal: everyday},
	{rule: "left-on", part: "heater", steps: "heat heater gas", keeps: "heat heater gas\nunheat heater", goal: everyday},
	{rule: "not-on", part: "pump", steps: "wait 1", keeps: "on pump", goal: with(func(y yard, s *state.State) {
		s.Pumps = s.Pumps.With(y.n.PumpOf(y.n.Model.Part("pump")), true)
	})},
	{rule: "not-on", part: "heater", steps: "wait 1", keeps: "heat heater gas", goal: with(func(y yard, s *state.State) {
		s.Heat = s.Heat.With(0, true)
	})},
	{rule: "not-joined", part: "city", steps: "wait 1", keeps: "join city water",
		goal: with(func(y yard, s *state.State) {
			*s = s.WithJoined(y.n.Node("city.mouth"), state.Usual(y.n.Model.Part("city"), state.Water))
		})},
	{rule: "left-joined", part: "port", steps: "join port antifreeze", keeps: "join port antifreeze\ncap port",
		goal: everyday},
	{rule: "left-open", part: "outside", steps: "open outside cold", keeps: "open outside cold\nshut outside",
		goal: everyday},
	{rule: "never-emptied", part: "portable", rig: hung, steps: "turn cold apart; turn hot apart",
		keeps: "turn cold apart; turn hot apart; tip portable",
		goal:  func(y yard, g *proof.Goal) { g.Emptied = y.parts("portable") }},
	{rule: "bilge-flooded", part: "bung", rig: moored, steps: "turn bung open; dry", start: start{tank: 0.65},
		near: start{tank: 0.55}},
	{rule: "left-in", part: "canister", steps: "wait 1", keeps: "out canister", goal: with(func(y yard, s *state.State) {
		*s = s.WithOut(y.n.FittingOf(y.n.Model.Part("canister")), true)
	})},
	{rule: "left-out", part: "canister", steps: "out canister", keeps: "out canister\nback canister", goal: everyday},
	{rule: "stays-full", part: "washer-line", start: start{shares: map[string]float64{"washer-line": 0.91}},
		near: start{shares: map[string]float64{"washer-line": 0.89}}, steps: "wait 1",
		goal: func(_ yard, g *proof.Goal) { g.Dry = true }},
	{rule: "stays-full", part: "washer-line", steps: "wait 1", goal: func(_ yard, g *proof.Goal) { g.Dry = true },
		nearGoal: func(_ yard, g *proof.Goal) { g.Dry, g.Untreated = true, map[string]bool{"washer-line": true} }},
	{rule: "not-filled", part: "heater", start: start{shares: map[string]float64{"heater": 0.97}},
		near: start{shares: map[string]float64{"heater": 0.985}}, steps: "wait 1",
		goal: func(_ yard, g *proof.Goal) { g.Filled = true }},
	{rule: "not-full", part: "tank", start: start{tank: 0.94}, near: start{tank: 0.96}, steps: "wait 1",
		goal: fullTank(0)},
	{rule: "not-full", part: "tank", start: start{tank: 0.23}, near: start{tank: 0.24}, steps: "wait 1",
		goal: fullTank(0.25)},
	{rule: "not-fresh", part: "tank", supply: "chlorine=1.79", nearSupply: "chlorine=1.81", steps: "wait 1",
		goal: func(y yard, g *proof.Goal) { fullTank(0)(y, g); g.Fresh = 2 }},
	{rule: "not-drinkable", part: "tank", supply: "chlorine=4.05", nearSupply: "chlorine=3.95", steps: "wait 1",
		goal: func(_ yard, g *proof.Goal) { g.Drinkable = 4 }},
	{rule: "never-wet", part: "basin", start: start{tank: 0.01}, near: start{},
		steps: "on pump; open basin cold; wait 30",
		goal:  func(y yard, g *proof.Goal) { g.Wet = cold(y) }},
	{rule: "never-emptied", part: "heater", start: start{shares: map[string]float64{"heater": 0.26}},
		near: start{shares: map[string]float64{"heater": 0.24}}, steps: "wait 1",
		goal: func(y yard, g *proof.Goal) { g.Emptied = y.parts("heater") }},
	{rule: "never-descaled", part: "heater", start: start{shares: map[string]float64{"heater": 0.89}},
		near: start{shares: map[string]float64{"heater": 0.91}}, supply: "acid=0.05", nearSupply: "acid=0.05",
		steps: "wait 100",
		goal:  descaled},
	{rule: "never-descaled", part: "heater", supply: "acid=0.0009", nearSupply: "acid=0.0011", steps: "wait 100",
		goal: descaled},
	{rule: "never-descaled", part: "heater", supply: "acid=0.05", nearSupply: "acid=0.05", steps: "wait 98",
		keeps: "wait 99.5",
		goal:  descaled},
	{rule: "never-steeped", part: "basin", supply: "acid=0.0098", nearSupply: "acid=0.01", steps: basin + "\nwait 100",
		goal: steeped},
	{rule: "never-steeped", part: "basin", supply: "acid=0.01", nearSupply: "acid=0.01", steps: basin + "\nwait 98",
		keeps: basin + "\nwait 100", goal: steeped},
	{rule: "never-steeped", part: "basin", supply: "acid=0.01", nearSupply: "acid=0.01", steps: "wait 100\n" + basin,
		keeps: basin + "\nwait 100", goal: steeped}, // what comes later stands too short
	{rule: "never-hot", part: "heater", steps: "heat heater gas\nwait 98", keeps: "heat heater gas\nwait 100",
		goal: heated},
	{rule: "never-hot", part: "heater", steps: "wait 100", keeps: "heat heater gas\nwait 100", goal: heated},
	{rule: "acid-left", part: "heater", supply: "acid=0.0011", nearSupply: "acid=0.0009", steps: "wait 1",
		goal: func(_ yard, g *proof.Goal) { g.NoAcid = true }},
	{rule: "trap-plain", part: "trap", steps: "pour trap 0.3 glycol=0.29", keeps: "pour trap 0.3 glycol=0.31",
		goal: trapped},
	{rule: "trap-plain", part: "trap", steps: "pour trap 0.26 glycol=0.4", keeps: "pour trap 0.28 glycol=0.4",
		goal: trapped},
	{rule: "frost", part: "washer-line", supply: "glycol=0.29", nearSupply: "glycol=0.31", steps: "wait 1",
		goal: frozen},
	{rule: "frost", part: "washer-line", start: start{shares: map[string]float64{"washer-line": 0.91}},
		near: start{shares: map[string]float64{"washer-line": 0.89}}, steps: "wait 1", goal: frozen},
	{rule: "frost", part: "washer-line", steps: "wait 1", goal: frozen, nearGoal: func(y yard, g *proof.Goal) {
		frozen(y, g)
		g.Untreated = map[string]bool{"washer-line": true}
	}},
	{rule: "too-weak", part: "washer", steps: "wait 1", goal: weakest(false), nearGoal: weakest(true)},
	{rule: "never-coloured", part: "basin", supply: "glycol=0.29", nearSupply: "glycol=0.31", steps: basin,
		goal: func(y yard, g *proof.Goal) { g.Coloured, g.Freeze = cold(y), 0.3 }},
	{rule: "never-strong", part: "basin", supply: "chlorine=49.4", nearSupply: "chlorine=49.6", steps: basin,
		goal: strong(0)},
	{rule: "never-strong", part: "basin", supply: "chlorine=50", nearSupply: "chlorine=50", steps: "wait 3600\n" + basin,
		keeps: basin + "\nwait 3600", goal: strong(3600)}, // before the soak
	{rule: "never-soaked", part: "tank", supply: "chlorine=49.4", nearSupply: "chlorine=49.6", steps: "wait 3600",
		goal: strong(3600)},
	{rule: "never-soaked", part: "tank", start: start{tank: 0.94}, near: start{tank: 0.96}, supply: "chlorine=50",
		nearSupply: "chlorine=50", steps: "wait 3600", goal: strong(3600)},
	{rule: "never-soaked", part: "tank", supply: "chlorine=50", nearSupply: "chlorine=50", steps: "wait 3598",
		keeps: "wait 3600",
		goal:  strong(3600)},
	{rule: "never-clear", part: "basin", supply: "chlorine=2.05", nearSupply: "chlorine=1.95", steps: basin,
		goal: clear},
	{rule: "never-clear", part: "basin", supply: "glycol=0.0031", nearSupply: "glycol=0.0029", steps: basin,
		goal: clear},
	{rule: "never-clear", part: "basin", steps: "wait 1", keeps: basin, goal: clear},
	{rule: "chlorine-left", part: "washer-line", supply: "chlorine=2.05", nearSupply: "chlorine=1.95", steps: "wait 1",
		goal: func(_ yard, g *proof.Goal) { g.Limit = 2 }},
}

func fullTank(level float64) func(yard, *proof.Goal) {
	return func(y yard, g *proof.Goal) { g.Full, g.Level = y.parts("tank"), level }
}

func descaled(y yard, g *proof.Goal) { g.Acid, g.SteepFor = y.parts("heater"), 100 }

func steeped(y yard, g *proof.Goal) {
	g.Steeped, g.SteepLeast, g.SteepFor = cold(y), run.Mix{Acid: 0.01}, 100
}

func heated(_ yard, g *proof.Goal) { g.HotFor = 100 }

func trapped(y yard, g *proof.Goal) { g.Traps, g.Freeze = y.parts("trap"), 0.3 }

func frozen(_ yard, g *proof.Goal) { g.Freeze = 0.3 }

func weakest(enough bool) func(yard, *proof.Goal) {
	return func(y yard, g *proof.Goal) { g.Weakest = &amount.Weakest{ID: "washer", Enough: enough} }
}

func strong(soak quantity.Second) func(yard, *proof.Goal) {
	return func(y yard, g *proof.Goal) { g.Strong, g.Target, g.Soak = cold(y), 50, soak }
}

func clear(y yard, g *proof.Goal) { g.Clear, g.Limit = cold(y), 2 }

// softened has a softener where the canister is.
// moored is a tank over a bilge.
const moored = `
model moored Moored si kind="motor boat"
tank tank Tank @ 1m 0.4m 0.6m capacity=100L inside_height=300mm
open-end vent Vent @ 1m 0m 1.2m
tank.vent > vent.in air "hose 16 mm" 0.6m
drain bung Bung @ 1m 0.4m 0.5m handle=lever pipe=level normal=closed closure=valve bore=19mm
tank.drain > bung.in drain "hose 19 mm" 0.2m
pump pump Pump @ 1.5m 0.4m 0.6m flow="10 L/min" cut_out="3 bar"
tank.supply > pump.in supply "hose 10 mm" 0.3m
outlet tap Tap @ 4m 0m 1m type=kitchen flow="5 L/min"
pump.out > tap.cold cold "hose 10 mm" 1m
`

// hung is a portable gas heater on couplings.
const hung = `
model hung Hung si
tank tank Tank @ 1m 0.4m 0.6m capacity=50L inside_height=300mm
pump pump Pump @ 1.5m 0.4m 0.6m flow="10 L/min" cut_out="3 bar"
tank.supply > pump.in supply "hose 10 mm" 0.3m
coupling cold "Cold coupling" @ 3m 0m 0.7m normal=together
coupling hot "Hot coupling" @ 3m 0m 0.9m normal=together
heater portable "Portable heater" @ 3.2m 0m 1.2m type=portable capacity=1L inside_height=300mm gas="10 kW"
gas-coupling gas "Gas coupling" @ 3m 0m 0.5m normal=together serves=portable
outlet tap Tap @ 4m 0m 1m type=kitchen flow="5 L/min"
pump.out > cold.a cold "hose 10 mm" 1m
cold.b > portable.cold cold "hose 10 mm" 1m
portable.hot > hot.a hot "hose 10 mm" 1m
hot.b > tap.hot hot "hose 10 mm" 1m
`

var softened = strings.NewReplacer("filter canister Canister @ 1.9m 0.4m 0.5m type=canister capacity=1L",
	"softener soft Softener @ 1.9m 0.4m 0.5m handle=knob normal=service capacity=6L", "canister.", "soft.").Replace(shop)

func (y yard) parts(ids ...string) (list []*plumbing.Part) {
	for _, id := range ids {
		list = append(list, y.n.Model.Part(id))
	}
	return list
}

// proves reports whether a procedure breaks a rule at a part.
func (r *row) proves(t *testing.T, from start, steps, supply string, goal func(yard, *proof.Goal),
	limit *proof.Limits) (broken bool, told []string) {
	t.Helper()
	y := on(t, r.rig)
	s := state.Normal(y.n)
	if from.tank > 0 {
		s.Levels = map[string]float64{"tank": from.tank}
	}
	s.Contents = state.Contents{}
	for i := range y.n.Pieces {
		p := &y.n.Pieces[i]
		name := ""
		if p.Part != nil {
			name = p.Part.ID
		} else if l := y.n.Links[p.Link].Line; l != nil {
			name = l.ID
		}
		if share, ok := from.shares[name]; ok {
			s.Contents[plumbing.PieceID(i)] = state.Content{Share: share}
		}
	}
	if limit == nil {
		limit = &usual
	}
	p := proof.Procedure{Start: proof.Start{State: s, Hot: from.hot, Supply: mixOf(y, strings.Fields(supply)),
		Fluids: map[state.Fluid]run.Mix{state.Antifreeze: {Glycol: 0.4}, state.Sanitizer: {Chlorine: 50}, "vinegar": {Acid: 0.05}}},
		Steps: y.steps(steps), Limit: *limit}
	if goal != nil {
		goal(y, &p.Goal)
	}
	got, err := proof.Prove(t.Context(), y.n, &p)
	require.NoError(t, err)
	for _, b := range got.Breaches {
		told = append(told, b.Rule+" "+b.Part)
	}
	return slices.Contains(told, r.rule+" "+r.part), told
}

// Each rule is broken by one thing, and not by another that comes as near to it as can be.
func TestEachRuleComesAndGoes(t *testing.T) {
	tested := map[string]bool{}
	for _, r := range rows {
		t.Run(r.rule+" "+r.part, func(t *testing.T) {
			if r.rig == "" {
				r.rig = shop
			}
			broken, told := r.proves(t, r.start, r.steps, r.supply, r.goal, r.limit)
			assert.True(t, broken, "is broken, of %v", told)
			steps, goal, limit := r.steps, r.goal, r.limit
			if r.keeps != "" {
				steps = r.keeps
			}
			if r.nearRig != "" {
				r.rig = r.nearRig
			}
			if r.nearGoal != nil {
				goal = r.nearGoal
			}
			if r.nearLimit != nil {
				limit = r.nearLimit
			}
			near, supply := r.near, r.nearSupply
			broken, told = r.proves(t, near, steps, supply, goal, limit)
			assert.False(t, broken, "is near, of %v", told)
			for _, b := range told {
				assert.NotContains(t, b, "cant-do", "each step can be done")
			}
		})
		tested[r.rule] = true
	}
	for _, code := range proof.Codes() {
		assert.True(t, tested[code], "%s has no row", code)
	}
	assert.GreaterOrEqual(t, len(proof.Codes()), 49)
}
