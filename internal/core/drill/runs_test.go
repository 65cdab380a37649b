package drill

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/setting"
	"coldtap/internal/rig"
)

// What a wrong run breaks is told, the gravest first; not what the right one breaks too, and no notes.
func TestOnlyWhatIsNewlyBrokenIsTold(t *testing.T) {
	t.Parallel()
	breach := func(rule, part string, s proof.Severity) proof.Breach {
		return proof.Breach{Rule: rule, Part: part, Severity: s}
	}
	task := &Task{Proof: &proof.Proof{Breaches: []proof.Breach{breach("a", "pump", proof.Wrong)}}}
	got := task.fresh(&proof.Proof{Breaches: []proof.Breach{breach("a", "pump", proof.Wrong), breach("b", "pump", proof.Note),
		breach("a", "heater", proof.Wrong), breach("c", "pump", proof.Wrong), breach("a", "pump", proof.Danger)}})
	assert.Equal(t, []proof.Breach{breach("a", "pump", proof.Danger), breach("a", "heater", proof.Wrong),
		breach("c", "pump", proof.Wrong)}, got)
	assert.Empty(t, task.fresh(task.Proof))
}

// Where more stays than in another setting is named by part and line; nowhere where nothing more does.
func TestWhereMoreStaysIsNamed(t *testing.T) {
	t.Parallel()
	n := rig.Network(t, "heater-one-valve")
	a := setting.ForMode(rig.Plan(t, n), setting.DrainDown)
	require.True(t, a.Has())
	assert.Empty(t, staysAt(n, a.State, a.State))
	shut := a.State
	for _, p := range n.PartsOf(plumbing.RoleDrain) {
		h := n.HandleOf(p.ID)
		shut = shut.With(h, n.Handles[h].Index(n.Handles[h].Positions[n.Handles[h].Normal]))
	}
	list := staysAt(n, a.State, shut)
	require.NotEmpty(t, list)
	seen := map[string]bool{}
	least, most := flow.Drain(n, a.State), flow.Drain(n, shut)
	for _, id := range list {
		assert.False(t, seen[id], "%s is named once", id)
		seen[id] = true
	}
	for i := range most.Pieces {
		more := most.Pieces[i].Stays() - least.Pieces[i].Stays()
		if more > drop {
			assert.Contains(t, list, most.Pieces[i].ID(n))
		}
	}
	assert.Empty(t, staysAt(n, shut, a.State), "the other way round")
}

// A handle that stands otherwise is told to be turned, but where it may stand either way.
func TestHandlesAreToldThatMatter(t *testing.T) {
	t.Parallel()
	n := rig.Network(t, "heater-one-valve")
	fill := setting.ForMode(rig.Plan(t, n), setting.FillGravity)
	require.NotEmpty(t, fill.Either)
	for i := range n.AllHandles() {
		handles := make([]plumbing.Positions, len(n.Handles))
		for k := range handles {
			handles[k] = fill.State.Position(plumbing.HandleID(k)).Only()
		}
		other := plumbing.Position(0)
		if fill.State.Position(i) == 0 {
			other = 1
		}
		handles[i] = other.Only()
		want := 1
		if slices.Contains(fill.Either, i) {
			want = 0
		}
		assert.Len(t, new(Solution).toTurn(n, fill, handles), want, n.Handles[i].Part.ID)
	}
}
