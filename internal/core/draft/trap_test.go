package draft_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/amend"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/finding"
	"coldtap/internal/core/proof"
)

// Each demo model has a trap: some step meets it, and when what that step does there is left out a rule
// says so, at the place of the trap; where no step can meet it a finding does.
func TestEveryTrapIsMet(t *testing.T) {
	for _, trap := range []struct {
		model, procedure string
		what             string
		steps            func(key string) bool // that meet it
		leave            string                // parts that are left as they were in them; "" for the whole steps
		rule, at         string                // what then breaches, and where
		finding          string                // that tells of it besides; "" for none
	}{
		{"gneiss-24-2027", "winterize-air-then", "the loop of the outside shower dips below its low point",
			func(k string) bool { return strings.Contains(k, "@outside-shower.") }, "", "never-coloured", "outside-shower", ""},
		{"schist-31-2027", "winterize-air-then", "only its own run treats the ice maker's line",
			func(k string) bool { return strings.Contains(k, "@ice-maker.") }, "", "never-coloured", "ice-maker",
			"label-misleads"},
		{"ashlar-20-2027", "winterize-air", "the hose behind the 3-way holds water",
			func(k string) bool { return strings.HasPrefix(k, "suck-hose") }, "", "frost", "port-hose", ""},
		{"marl-15-2027", "drain-down", "the boot wash drains only with the crossover open",
			func(k string) bool { return strings.HasPrefix(k, "drain@") }, "crossover", "stays-full", "", ""},
		{"feldspar-c7-2027", "drain-down", "the shower's mixer keeps water unless it is left half-way",
			func(k string) bool { return strings.HasPrefix(k, "drain@") }, "shower", "stays-full", "", ""},
		{"feldspar-c7-2027", "winterize-pump", "the frost valve loses antifreeze when the boiler is left in",
			func(k string) bool { return strings.HasPrefix(k, "winter-position") }, "bypass-in bypass-out", "heater-met",
			"boiler", ""},
		{"tuff-9-2027", "drain-down", "the strainer stays full unless it is opened",
			func(k string) bool { return strings.HasPrefix(k, "open-bowl") }, "", "stays-full", "strainer", ""},
		{"tuff-9-2027", "winterize-pump", "the diverter stands where it is when the battery is off",
			func(k string) bool { return strings.HasPrefix(k, "winter-position") }, "heater-switch", "heater-met",
			"heater", ""},
	} {
		m, err := demo.Model(trap.model)
		require.NoError(t, err)
		in := inputs(t, m, m.StandardOptions()...)
		d := draft.NewMaker(in).Make(t.Context(), trap.procedure)
		require.NotNil(t, d.Procedure, trap.what)
		whole := prove(t, in, d.Procedure)
		f := amend.Faulty{Leave: map[int][]string{}}
		for i, k := range amend.Keys(d.Procedure.Steps) {
			switch {
			case !trap.steps(k):
			case trap.leave == "":
				f.Skip = append(f.Skip, i)
			default:
				f.Leave[i] = strings.Fields(trap.leave)
			}
		}
		require.True(t, len(f.Skip)+len(f.Leave) > 0, "%s %s: no step meets it: %s", trap.model, trap.procedure, trap.what)
		broken := prove(t, in, amend.Without(d.Procedure, f))
		found := false
		for _, b := range broken.Breaches {
			was := slices.ContainsFunc(whole.Breaches, func(o proof.Breach) bool { return o.Rule == b.Rule && o.Part == b.Part })
			found = found || !was && b.Rule == trap.rule && (trap.at == "" || strings.Contains(b.Part, trap.at))
		}
		assert.True(t, found, "%s %s: %s: %v", trap.model, trap.procedure, trap.what, told(d.Procedure, broken))
		if trap.finding != "" {
			assert.True(t, slices.ContainsFunc(finding.Find(in.Net, in.Plan), func(x finding.Finding) bool {
				return x.Code == trap.finding
			}), trap.what)
		}
	}
	// The galley's hot side of Marl 15 is dry for good: no step opens it.
	m, err := demo.Model("marl-15-2027")
	require.NoError(t, err)
	in := inputs(t, m, m.StandardOptions()...)
	for _, d := range draft.All(t.Context(), in) {
		if d.Procedure == nil || d.ID == "heater-coupled" {
			continue
		}
		for _, s := range d.Procedure.Steps {
			for _, at := range s.Until.At {
				assert.NotEqual(t, "galley.hot", in.Net.Nodes[at].Name(), "%s %s", d.ID, s.For)
			}
		}
	}
}
