package paper_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/draft"
	"coldtap/internal/core/drill"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/fault"
	"coldtap/internal/core/house"
	"coldtap/internal/core/paper"
	"coldtap/internal/core/words"
	"coldtap/internal/rig"
)

// A reason that has no effects says nothing of them.
func TestAReasonSaysItsEffectsWhereItHasSome(t *testing.T) {
	n := rig.Network(t, "mica-5")
	p := words.English(n.System())
	bare := paper.ReasonOf(p, n, drill.Reason{Said: []fact.Fact{fact.Of("it", "Turn it.")}, Parts: []string{"pump"},
		Danger: true})
	assert.Equal(t, paper.Reason{Said: []string{"Turn it."}, Parts: []string{"pump"}, Danger: true}, bare)
	with := paper.ReasonOf(p, n, drill.Reason{Effects: []fault.Effect{{What: fault.RunsOut}}})
	assert.Len(t, with.Said, 1)
}

// Every exercise can be told, no two choices in the same words, and is the same after it was kept as JSON.
func TestExercisesAreToldAndKept(t *testing.T) {
	for _, name := range []string{"mica-5", "heater-one-valve", "softener"} {
		n := rig.Network(t, name)
		in := drill.Inputs{Inputs: draft.Inputs{Net: n, Plan: rig.Plan(t, n), House: house.Usual(n.System())}}
		set, err := drill.Make(t.Context(), in)
		require.NoError(t, err)
		require.NotEmpty(t, set.Exercises)
		p := words.English(n.System())
		for i := range set.Exercises {
			x := paper.Of(p, n, &set.Exercises[i])
			raw, err := json.Marshal(x)
			require.NoError(t, err)
			var again paper.Paper
			require.NoError(t, json.Unmarshal(raw, &again))
			back, err := json.Marshal(again)
			require.NoError(t, err)
			assert.JSONEq(t, string(raw), string(back))
			for _, bad := range []string{"%!", "drill.", "seen.", "look.", "{", "0x"} {
				text := strings.Join(append(append([]string{x.Ask}, x.Told...), x.Hints...), " ")
				for _, o := range x.Options {
					text += " " + o.Said
				}
				for _, s := range x.Shows {
					text += " " + s.Look + strings.Join(s.Seen, " ")
				}
				for _, r := range x.Reasons {
					text += strings.Join(r.Said, " ")
				}
				assert.NotContains(t, text, bad, x.Key)
			}
			said := map[string]bool{}
			for _, o := range x.Options {
				assert.False(t, said[o.Said], "%s: “%s” twice", x.Key, o.Said)
				said[o.Said] = true
			}
			require.Len(t, x.Shows, len(x.Looks))
		}
	}
}

// By hand: 140 mL at 356.6 mg/L a litre give 49.9 mg/L.
func TestTheStrengthIsTold(t *testing.T) {
	x := paper.Paper{Solution: drill.Solution{Kind: drill.Amount, PerLitre: 356.6}}
	p := words.English(0)
	assert.Equal(t, "140 mL gives 49.9 mg/L in the end.", strings.ReplaceAll(x.Gives(p, "140 mL"), "\u00a0", " "))
	assert.Empty(t, x.Gives(p, "plenty"))
}
