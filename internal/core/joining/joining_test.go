package joining_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/joining"
	"coldtap/internal/core/plumbing"
)

func TestNamesMeanKindsInTheWordsOfTheTrade(t *testing.T) {
	for name, want := range map[string]string{
		"Fresh tank": "tank", "FW tank": "tank", "Grey tank": "waste-tank", "Tank vent": "open-end",
		"Overflow": "open-end", "Tank drain": "drain", "Low pt. drain, cold": "drain", "Lowpoint hot": "drain",
		"Pump check valve": "check-valve", "NRV at pump": "check-valve", "Check": "check-valve",
		"Pump strainer": "strainer", "Shurly pump": "pump", "Htr bypass vlv": "valve", "Shut-off, heater cold": "valve",
		"3-way valve": "three-way", "Winterizing port": "container-port", "City water": "city-inlet",
		"Mains inlet": "city-inlet", "Filler": "gravity-fill", "Gravity fill": "gravity-fill", "Tee at pump": "tee",
		"T3": "tee", "Tee shower": "tee", "Heater in tee": "tee", "Hot manifold": "manifold", "Boiler": "heater",
		"Water heater": "heater", "T&P valve": "relief-valve", "Galley faucet": "outlet kitchen",
		"Bathroom faucet": "outlet basin", "Kitchen": "outlet kitchen", "Ext. shower": "outlet outside-shower",
		"WC": "outlet toilet", "Ice maker": "machine ice-maker", "Expansion tank": "accumulator",
		"Drain heater": "", "Gizmo": "", "": "",
	} {
		kind, typ, ok := joining.Meaning(name)
		got := string(kind)
		if kind == plumbing.Outlet || kind == plumbing.Machine {
			got += " " + typ
		}
		if !ok {
			got = ""
		}
		assert.Equal(t, want, got, name)
	}
}

// read reads rows into an empty model.
func read(directed bool, answers map[string]string, rows ...joining.Row) *joining.Plan {
	return joining.Read(&plumbing.Model{}, rows, directed, answers)
}

func ids(p *joining.Plan) (list []string) {
	for _, q := range p.Questions {
		list = append(list, q.ID)
	}
	return list
}

func TestACheckIsJoinedOnlyFromAStatedWay(t *testing.T) {
	rows := []joining.Row{{From: "Tee 1", To: "Check"}, {From: "Check", To: "Tee 2"}}
	plan := read(true, nil, rows...)
	assert.Empty(t, plan.Questions, "origin and destination tell the way")
	assert.Equal(t, []string{"in", "out"}, []string{plan.Joints[0].Ends[1].Port, plan.Joints[1].Ends[0].Port})
	assert.True(t, plan.Joints[0].Ends[1].Inferred)

	plan = read(false, nil, rows...)
	assert.Equal(t, []string{"way"}, ids(plan))
	assert.Equal(t, []string{"way"}, plan.Joints[0].Asks)
	plan = read(false, map[string]string{"way": "no"}, rows...)
	assert.Equal(t, []string{"flow:check"}, ids(plan))
	plan = read(false, map[string]string{"way": "no", "flow:check": "tee 2"}, rows...)
	assert.Equal(t, []string{"out", "in"}, []string{plan.Joints[0].Ends[1].Port, plan.Joints[1].Ends[0].Port},
		"what was answered holds")

	against := append(rows, joining.Row{From: "Shower", To: "Tee 1"})
	assert.Contains(t, ids(read(true, nil, against...)), "way", "a row that runs from a tap speaks against the heads")
}

// The last words of a name may be a port, one or several of them; what is a thing of its own is none.
func TestTheLastWordsOfANameMayBeAPort(t *testing.T) {
	for name, port := range map[string]string{"Heater hot": "hot", "Water heater cold inlet": "cold", "Pump outlet": "out",
		"Fresh tank drain port": "drain", "Water heater (hot)": "hot"} {
		plan := read(true, nil, joining.Row{From: name, To: "Tee 1"})
		assert.Equal(t, port, plan.Joints[0].Ends[0].Port, name)
		assert.False(t, plan.Joints[0].Ends[0].Inferred, name)
	}
	plan := read(true, nil, joining.Row{From: "Fresh tank drain", To: "Tee 1"})
	assert.Equal(t, plumbing.Drain, plumbing.Side(plan.Parts[0].Kind.Info().Role), "a drain, not a port of a tank")
}

// What stands beside a check tells its way, and one answer tells a whole chain.
func TestNeighboursTellTheWay(t *testing.T) {
	no := map[string]string{"way": "no"}
	plan := read(false, no, joining.Row{From: "Tee 1", To: "Check"}, joining.Row{From: "Check", To: "City inlet"})
	assert.Empty(t, ids(plan))
	assert.Equal(t, []string{"out", "in"}, []string{plan.Joints[0].Ends[1].Port, plan.Joints[1].Ends[0].Port})

	chain := []joining.Row{{From: "Tee 1", To: "Strainer"}, {From: "Water pump", To: "Strainer"},
		{From: "Water pump", To: "Check"}, {From: "Check", To: "Tee 2"}}
	plan = read(false, no, chain...)
	assert.Len(t, ids(plan), 1, "%v", ids(plan))
	for i := range chain {
		assert.NotEmpty(t, plan.Joints[i].Asks, "row %d waits", i)
	}
	plan = read(false, map[string]string{"way": "no", ids(plan)[0]: "tee 1"}, chain...)
	assert.Empty(t, ids(plan))
	assert.Equal(t, "in", plan.Joints[2].Ends[1].Port)
	assert.Equal(t, "out", plan.Joints[3].Ends[0].Port)
}

func TestAHeaterIsJoinedFromWayOrSideAndElseAsked(t *testing.T) {
	rows := []joining.Row{{From: "Tee 1", To: "Water heater"}, {From: "Tee 2", To: "Water heater"}}
	plan := read(true, map[string]string{"way": "no"}, rows...)
	assert.Equal(t, []string{"hot:water heater"}, ids(plan))
	rows[1].Side = plumbing.Hot
	plan = read(true, map[string]string{"way": "no"}, rows...)
	assert.Empty(t, ids(plan), "one side is told, so the other line is the other")
	assert.Equal(t, []string{"cold", "hot"}, []string{plan.Joints[0].Ends[1].Port, plan.Joints[1].Ends[1].Port})
}

func TestWhatIsCrowdedOrJoinedToItselfIsTold(t *testing.T) {
	plan := read(true, nil, joining.Row{From: "Tee 1", To: "Tee 2"}, joining.Row{From: "Tee 1", To: "Tee 3"},
		joining.Row{From: "Tee 1", To: "Tee 4"}, joining.Row{From: "Tee 1", To: "Tee 5"},
		joining.Row{From: "Tee 6", To: "tee 6"})
	assert.Equal(t, "crowded", plan.Joints[0].Faults[0].Code)
	assert.Equal(t, []int{0, 1, 2, 3}, plan.Joints[3].Faults[0].Rows)
	assert.Equal(t, "same-part", plan.Joints[4].Faults[0].Code)
}

func TestASlipOfThePenIsAskedNotAdded(t *testing.T) {
	rows := []joining.Row{{From: "Water pump", To: "Accumulator"}, {From: "Accumulatr", To: "Tee 1"}}
	plan := read(true, nil, rows...)
	assert.Contains(t, ids(plan), "same:Accumulator|Accumulatr")
	plan = read(true, map[string]string{"same:Accumulator|Accumulatr": "yes"}, rows...)
	assert.Len(t, plan.Parts, 3)
	plan = read(true, nil, joining.Row{From: "Tee 1", To: "Tee 2"}, joining.Row{From: "Hot tee", To: "Cold tee"})
	assert.Empty(t, ids(plan), "numbers and words of the trade tell parts apart")
}

// Whatever the names, no port is given twice, and every end is given, asked for or told.
func FuzzRead(f *testing.F) {
	f.Add("Pump", "Tee 1", "Tee 1", "Heater (cold)", true)
	f.Add("Check", "T2", "Check - in", "Water heater hot", false)
	f.Fuzz(func(t *testing.T, a, b, c, d string, directed bool) {
		plan := read(
			directed,
			nil,
			joining.Row{From: a, To: b},
			joining.Row{From: b, To: c},
			joining.Row{From: c, To: d},
			joining.Row{From: d, To: a},
		)
		used := map[string]bool{}
		for _, j := range plan.Joints {
			for _, e := range j.Ends {
				if e.Part == "" {
					assert.True(t, len(j.Asks)+len(j.Faults) > 0, "%q %q %q %q: %+v", a, b, c, d, j)
					continue
				}
				if len(j.Asks)+len(j.Faults) == 0 && e.Inferred {
					ref := e.Part + "." + e.Port
					assert.False(t, used[ref], ref)
					used[ref] = true
				}
			}
		}
	})
}

// A heater's relief is what a relief valve is joined to, whose kind is told; a part whose kind is only supposed is asked
// about like any other. One line more is the other side only where one side is joined.
func TestAHeatersEndsAreThoseThatAreTold(t *testing.T) {
	plan := read(true, map[string]string{"way": "no"}, joining.Row{From: "T&P valve", To: "Water heater"},
		joining.Row{From: "Tee 1", To: "Water heater"})
	assert.Equal(t, "relief", plan.Joints[0].Ends[1].Port)
	assert.Equal(t, []string{"hot:water heater"}, ids(plan), "with neither side known, which it is has to be asked")
	plan = read(true, map[string]string{"way": "no"}, joining.Row{From: "Tee 1", To: "Water heater", Side: plumbing.Cold},
		joining.Row{From: "Tee 2", To: "Water heater"})
	assert.Empty(t, ids(plan))
	assert.Equal(t, "hot", plan.Joints[1].Ends[1].Port)
}
