package chapter_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/chapter"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/rig"
	"coldtap/internal/rig/drafted"
)

func body[T chapter.Body](blocks []chapter.Block) (b T) {
	for _, x := range blocks {
		if got, ok := x.Body.(T); ok {
			return got
		}
	}
	return b
}

// What a camper has stands in some block, and nothing stands there that it has not: parts against blocks and blocks
// against parts.
func TestBlocksTellWhatThereIs(t *testing.T) {
	told := map[plumbing.Role]bool{plumbing.RoleTank: true, plumbing.RoleHeater: true, plumbing.RoleOutlet: true,
		plumbing.RoleMachine: true, plumbing.RoleFilter: true, plumbing.RoleWaste: true, plumbing.RoleFill: true,
		plumbing.RoleInlet: true, plumbing.RolePickUp: true, plumbing.RoleDrain: true, plumbing.RoleRinse: true,
		plumbing.RoleHatch: true, plumbing.RoleBarrel: true, plumbing.RolePump: true}
	for _, m := range drafted.Campers(t) {
		in := drafted.Inputs(t, m)
		blocks, err := chapter.Draft(t.Context(), in)
		require.NoError(t, err)
		seen := map[*plumbing.Part]bool{}
		for _, f := range body[chapter.Have](blocks).Lines {
			seen[f.Args[0].(*plumbing.Part)] = true
		}
		for _, p := range body[chapter.Points](blocks).Rows {
			assert.False(t, seen[p.Part], "%s: %s stands there twice", m.ID, p.Part.ID)
			seen[p.Part] = true
			assert.False(t, p.For.IsZero(), "%s: what %s is for", m.ID, p.Part.ID)
		}
		for _, p := range in.Net.AllParts() {
			assert.Equal(t, told[p.Role()], seen[p] && told[p.Role()], "%s: %s", m.ID, p.ID)
		}
		for p := range seen {
			assert.Same(t, p, in.Net.Model.Part(p.ID), "%s: %s is none of its parts", m.ID, p.ID)
		}
		ids := map[string]bool{}
		for _, b := range blocks {
			assert.False(t, ids[b.ID])
			ids[b.ID] = true
		}
	}
}

// A heater that can be passed by has a sheet for it, with the handles that differ; one that can't has none.
func TestTheBypassSheetHasTheHandlesThatDiffer(t *testing.T) {
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	blocks, err := chapter.Draft(t.Context(), drafted.Inputs(t, m))
	require.NoError(t, err)
	var got []string
	for _, h := range body[chapter.Bypass](blocks).Handles {
		got = append(got, h.Part.ID+" "+h.In+" "+h.Out)
	}
	slices.Sort(got)
	assert.Equal(t, []string{"valve-bypass closed open", "valve-heater-in open closed", "valve-heater-out open closed"}, got)
	none, err := rig.Model("no-bypass")
	require.NoError(t, err)
	blocks, err = chapter.Draft(t.Context(), drafted.Inputs(t, none))
	require.NoError(t, err)
	assert.Empty(t, body[chapter.Bypass](blocks).Handles)
}

// Points tell what they are for: a tank's drain empties it, a low point the side it is on, a fill its tank, a city inlet
// no tank.
func TestPointsTellWhatTheyAreFor(t *testing.T) {
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	blocks, err := chapter.Draft(t.Context(), drafted.Inputs(t, m))
	require.NoError(t, err)
	got := map[string]string{}
	stays := map[string]string{}
	for _, p := range body[chapter.Points](blocks).Rows {
		got[p.Part.ID], stays[p.Part.ID] = p.For.ID, p.Ends.ID
		if p.For.ID == "point.low-point" {
			assert.Equal(t, "drain-"+strings.TrimPrefix(string(p.For.Args[0].(fact.Word)), "side."), p.Part.ID)
		}
	}
	assert.Equal(t, map[string]string{"gravity-fill": "point.fills", "city": "point.city", "pickup": "point.pick-up",
		"rinse": "point.rinse", "drain-tank": "point.empties", "anode": "point.empties",
		"drain-cold": "point.low-point", "drain-hot": "point.low-point"}, got)
	assert.Equal(t, "point.stay", stays["gravity-fill"])
}

// A symptom has its causes, each with what to do, and stands once.
func TestTroublesTellCausesAndWhatToDo(t *testing.T) {
	for _, m := range drafted.Campers(t) {
		blocks, err := chapter.Draft(t.Context(), drafted.Inputs(t, m))
		require.NoError(t, err)
		seen := map[string]bool{}
		for _, s := range body[chapter.Troubles](blocks).Rows {
			key := s.Said.Key()
			if s.Effect != nil {
				key = s.Effect.Key()
				assert.NotEmpty(t, s.Modes, "%s: %s", m.ID, key)
			}
			assert.False(t, seen[key], "%s: %s", m.ID, key)
			seen[key] = true
			assert.NotEmpty(t, s.Causes, "%s: %s", m.ID, key)
			for _, c := range s.Causes {
				assert.False(t, c.Said.IsZero() || c.Do.IsZero(), "%s: %s", m.ID, key)
			}
		}
	}
}

// The bypass left as for winter is a cause of what it leads to, and each of its handles is told with how it should stand.
func TestTheBypassLeftIsACause(t *testing.T) {
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	blocks, err := chapter.Draft(t.Context(), drafted.Inputs(t, m))
	require.NoError(t, err)
	found := 0
	for _, s := range body[chapter.Troubles](blocks).Rows {
		for _, c := range s.Causes {
			if c.Said.ID == "fault.left-bypassed" {
				found++
				assert.Len(t, c.Do.Args[0], 3, "three handles")
			}
		}
	}
	assert.Positive(t, found)
}

// An owner is told the figures that somebody has need of, of ways to flush the house's alone; a dealer has every way.
func TestFiguresAreThoseThatSomebodyNeeds(t *testing.T) {
	in := drafted.Inputs(t, drafted.Model(t, "gneiss-24-2027"))
	rows := func(e chapter.Edition) (list []string) {
		in.Edition = e
		blocks, err := chapter.Draft(t.Context(), in)
		require.NoError(t, err)
		for _, r := range body[chapter.FigureTable](blocks).Rows {
			list = append(list, r.ID)
		}
		return list
	}
	for _, e := range []chapter.Edition{chapter.Owner, chapter.Dealer} {
		list := rows(e)
		for _, id := range []string{"part/fresh", "part/heater", "content", "soak", "dose/fresh/measured",
			"flush/lines-pushed/water", "antifreeze/antifreeze/drained", "weight", "air"} {
			assert.Contains(t, list, id, e)
		}
		assert.Equal(t, e == chapter.Dealer, slices.Contains(list, "flush/drained/water"), e)
		assert.Less(t, len(list), len(in.Report.Figures)/2, "most stand on the worksheets only")
		for _, id := range list {
			assert.Regexp(t, `^(part/|time/|loads/|antifreeze/.*/(blown|drained)$|flush/.*/(refills|water)$|dose/.*/(measured|final)$|`+
				`content$|soak$|keep-fresh$|descale/|weight$|weight/left$|air$)`, id)
		}
	}
}
