package procedure_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/procedure"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/rig"
)

func inputs(t *testing.T, change func(m *plumbing.Model)) procedure.Inputs {
	t.Helper()
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	change(m)
	n, err := plumbing.NewNetwork(m)
	require.NoError(t, err)
	return procedure.Inputs{Net: n, Plan: rig.Plan(t, n), House: house.Usual(quantity.US)}
}

func same(*plumbing.Model) {}

// find gives the index of the first step with an act and some words.
func find(t *testing.T, p procedure.Procedure, act procedure.Act, words string) int {
	t.Helper()
	i := slices.IndexFunc(p.Steps, func(s procedure.Step) bool {
		return s.Act == act && strings.Contains(s.Words, words)
	})
	require.GreaterOrEqual(t, i, 0, "%s %q", act, words)
	return i
}

func TestWinterizeIsInASafeOrder(t *testing.T) {
	p := procedure.Winterize(inputs(t, same))
	require.Empty(t, p.CantDo)
	off := find(t, p, procedure.Switch, "Heater off")
	relieved := find(t, p, procedure.Switch, "hot tap")
	plug := find(t, p, procedure.Drain, "anode rod")
	bypass := find(t, p, procedure.Set, "winter")
	jug := find(t, p, procedure.Attach, "antifreeze container")
	first := slices.IndexFunc(p.Steps, func(s procedure.Step) bool { return s.Until == "fully coloured" })
	assert.IsIncreasing(t, []int{off, relieved, plug, bypass, jug, first})

	turn := map[string]string{}
	for _, h := range p.Steps[bypass].Turn {
		turn[h.Part.ID] = h.Position
	}
	assert.Equal(t, map[string]string{"valve-pickup": "b", "valve-heater-in": "closed", "valve-heater-out": "closed",
		"valve-bypass": "open"}, turn)
	assert.Contains(t, p.Steps[plug].Tools, "1 1/16 in socket, 6 in extension")

	var coloured []string
	for _, s := range p.Steps {
		if s.Until == "fully coloured" {
			coloured = append(coloured, s.Parts[0].ID)
		}
	}
	assert.ElementsMatch(t, []string{"outside-shower", "shower", "basin", "toilet", "sprayer", "kitchen"}, coloured)
	assert.Equal(t, "outside-shower", coloured[0], "the farthest first")
	// The kitchen's hot side is fed from beyond the heater; the toilet has none.
	assert.Equal(t, "toilet", coloured[len(coloured)-1])
}

func TestCautionsStandAtTheirSteps(t *testing.T) {
	in := inputs(t, same)
	winter, clean := procedure.Winterize(in), procedure.Sanitize(in)
	for _, c := range []struct {
		p       procedure.Procedure
		act     procedure.Act
		step    string // words of the step it stands at
		caution string
	}{
		{winter, procedure.Switch, "Heater off", "scalds"},
		{winter, procedure.Drain, "anode rod", "under pressure"},
		{winter, procedure.Drain, "anode rod", "scalds"},
		{winter, procedure.Attach, "antifreeze container", "Automotive antifreeze"},
		{winter, procedure.Attach, "antifreeze container", "Do not thin"},
		{winter, procedure.Drain, "low-point drain", "Chock the wheels"},
		{clean, procedure.Pour, "Pour it into", "Never bring it together with acid"},
		{clean, procedure.Pour, "Pour it into", "never pour it in neat"},
		{clean, procedure.Fill, "Fill the tank.", "unattended"},
		{clean, procedure.Look, "Only then heat", "empty heater"},
	} {
		s := c.p.Steps[find(t, c.p, c.act, c.step)]
		assert.True(t, slices.ContainsFunc(s.Cautions, func(x procedure.Caution) bool {
			return strings.Contains(x.Words, c.caution)
		}),
			"%s: %q lacks %q", c.p.ID, s.Words, c.caution)
	}
}

// Only what has wheels is told to chock them.
func TestNobodyChocksTheWheelsOfABoat(t *testing.T) {
	for kind, words := range map[string]string{"motorhome": "Chock the wheels", "boat": "the bilge is dry",
		"truck camper": "stands on jacks"} {
		in := inputs(t, func(m *plumbing.Model) { m.Kind = kind })
		p := procedure.Winterize(in)
		s := p.Steps[find(t, p, procedure.Drain, "low-point drain")]
		for _, caution := range []string{"Chock the wheels", "the bilge is dry", "stands on jacks"} {
			has := slices.ContainsFunc(s.Cautions, func(x procedure.Caution) bool {
				return strings.Contains(x.Words, caution)
			})
			assert.Equal(t, caution == words, has, "%s: %s", kind, caution)
		}
	}
}

// Nobody reaches under the floor for drains that are all inside.
func TestInsideReachIsNotUnderTheFloor(t *testing.T) {
	in := inputs(t, func(m *plumbing.Model) {
		for i := range m.Parts {
			m.Parts[i].Place.Reach = "inside, under the bench"
		}
	})
	for _, s := range procedure.Winterize(in).Steps {
		for _, c := range s.Cautions {
			assert.NotContains(t, c.Words, "under the floor", s.Words)
		}
	}
}

func TestStepsFollowTheEquipment(t *testing.T) {
	p := procedure.Winterize(inputs(t, func(m *plumbing.Model) {
		m.Parts = slices.DeleteFunc(m.Parts, func(p plumbing.Part) bool {
			return p.Role() == plumbing.RoleTrap || p.ID == "rinse"
		})
		m.Lines = slices.DeleteFunc(m.Lines, func(l plumbing.Line) bool { return l.ID == "rinse-line" })
	}))
	for _, s := range p.Steps {
		assert.NotContains(t, s.Words, "trap")
		assert.NotContains(t, s.Words, "rinse inlet")
	}
	none := procedure.Winterize(inputs(t, func(m *plumbing.Model) {
		m.Parts = slices.DeleteFunc(m.Parts, func(p plumbing.Part) bool { return p.ID == "pickup" })
		m.Lines = slices.DeleteFunc(m.Lines, func(l plumbing.Line) bool { return l.ID == "pickup-hose" })
	}))
	assert.Contains(t, none.CantDo, "no winter pick-up")
}

func TestSanitizePutsTheBypassBack(t *testing.T) {
	in := inputs(t, same)
	p := procedure.Sanitize(in)
	find(t, p, procedure.Set, "passes the heater by")
	back := p.Steps[find(t, p, procedure.Set, "back to everyday")]
	everyday := setting.ForMode(in.Plan, setting.Everyday)
	for _, h := range back.Turn {
		i := in.Net.HandleOf(h.Part.ID)
		assert.Equal(t, in.Net.Handles[i].Positions[everyday.State.Position(i)], h.Position)
	}
	assert.Len(t, back.Turn, 3)
}

func TestSameModelSameText(t *testing.T) {
	assert.Equal(t, procedure.Winterize(inputs(t, same)), procedure.Winterize(inputs(t, func(m *plumbing.Model) {
		slices.Reverse(m.Parts)
		slices.Reverse(m.Lines)
	})))
}
