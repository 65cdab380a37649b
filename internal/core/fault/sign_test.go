package fault

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
)

// What somebody notices of a step: much more or less than it should be, of what runs out and of the time it takes; not
// what is within a quarter of it, or less than a jug's rest or a few seconds.
func TestSignsAreWhatSomebodyNotices(t *testing.T) {
	t.Parallel()
	outcome := func(came bool, ran quantity.Litre, took quantity.Second) *run.Outcome {
		o := &run.Outcome{Came: came}
		o.Ran, o.Took = map[plumbing.NodeID]quantity.Litre{1: ran}, took
		return o
	}
	s := &proof.Step{Step: run.Step{Until: run.Until{Sense: run.Clear, At: []plumbing.NodeID{1}}}}
	for _, x := range []struct {
		name       string
		should, is *run.Outcome
		want       string
	}{
		{"the same", outcome(true, 4, 60), outcome(true, 4, 60), ""},
		{"more", outcome(true, 4, 60), outcome(true, 5.1, 60), "sign.more"},
		{"not much more", outcome(true, 4, 60), outcome(true, 4.9, 60), ""},
		{"less", outcome(true, 4, 60), outcome(true, 2.9, 60), "sign.less"},
		{"not much less", outcome(true, 4, 60), outcome(true, 3.1, 60), ""},
		{"more of little", outcome(true, 0.4, 60), outcome(true, 0.69, 60), ""},
		{"less of little", outcome(true, 0.4, 60), outcome(true, 0.11, 60), ""},
		{"longer", outcome(true, 4, 60), outcome(true, 4, 76), "sign.longer"},
		{"not much longer", outcome(true, 4, 60), outcome(true, 4, 74), ""},
		{"shorter", outcome(true, 4, 60), outcome(true, 4, 44), "sign.shorter"},
		{"a few seconds", outcome(true, 4, 5), outcome(true, 4, 14), ""},
		{"nothing", outcome(true, 4, 60), outcome(false, 0.2, 60), "sign.nothing"},
		{"never", outcome(true, 4, 60), outcome(false, 9, 60), "sign.never"},
		{"it does not come anyway", outcome(false, 4, 60), outcome(false, 4, 60), ""},
	} {
		assert.Equal(t, x.want, signOf(s, x.should, x.is).ID, x.name)
	}
	over := outcome(true, 4, 60)
	over.Spilled = map[*plumbing.Part]quantity.Litre{{ID: "tank"}: 0.21}
	assert.Equal(t, "sign.runs-over", signOf(s, outcome(true, 4, 60), over).ID)
	assert.Empty(t, signOf(s, over, over).ID, "it runs over anyway")
	races := outcome(true, 4, 60)
	races.Dry = map[string]quantity.Second{"pump": 3.1}
	assert.Equal(t, "sign.races", signOf(s, outcome(true, 4, 60), races).ID)
	races.Dry["pump"] = 2.9
	assert.Empty(t, signOf(s, outcome(true, 4, 60), races).ID)
}
