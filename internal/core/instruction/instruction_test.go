package instruction_test

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/house"
	"coldtap/internal/core/instruction"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/words"
	"coldtap/internal/rig"
)

func inputs(t *testing.T, m *plumbing.Model) draft.Inputs {
	t.Helper()
	built, err := m.Build(m.StandardOptions()...)
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(built)
	require.NoError(t, err)
	plan, err := setting.Plan(t.Context(), n)
	require.NoError(t, err)
	return draft.Inputs{Net: n, Plan: plan, House: house.Usual(m.System())}
}

// read is an instruction as text, a line each.
func read(p *words.Printer, in *instruction.Instruction) string {
	var b strings.Builder
	fmt.Fprintln(&b, "##", p.Tell(in.Name))
	for _, f := range append(p.TellAll(in.Site), p.TellAll(in.Hand)...) {
		fmt.Fprintln(&b, "-", f)
	}
	for i := range in.Steps {
		s := p.Step(&in.Steps[i])
		fmt.Fprintf(&b, "%d. %s.\n", i+1, s.Head)
		for _, c := range s.Cautions {
			fmt.Fprintln(&b, "   !", c.Level, c.Words)
		}
		for _, d := range s.Does {
			fmt.Fprintf(&b, "   %s: %s\n", d.Names(), d.What)
		}
		for _, w := range s.Pour {
			fmt.Fprintln(&b, "   pour", w)
		}
		if s.Until != "" {
			fmt.Fprintln(&b, "   until", s.Until)
		}
		for _, d := range s.Then {
			fmt.Fprintf(&b, "   then %s: %s\n", d.Names(), d.What)
		}
		fmt.Fprintln(&b, "   ", strings.Join(append(s.Notes, s.Tools...), "; "))
	}
	for _, x := range in.TakenOff {
		fmt.Fprintln(&b, "off", x.Part.Name, x.At, x.Back)
	}
	for _, f := range p.TellAll(in.Tags) {
		fmt.Fprintln(&b, "tag", f)
	}
	return b.String()
}

func TestEveryStepHasItsWords(t *testing.T) {
	models, err := demo.Models()
	require.NoError(t, err)
	for _, name := range rig.Names() {
		m, err := rig.Model(name)
		require.NoError(t, err)
		models = append(models, m)
	}
	for _, m := range models {
		in := inputs(t, m)
		tell := words.English(m.System())
		for _, d := range draft.All(t.Context(), in) {
			if d.Procedure == nil {
				assert.NotRegexp(t, `cant\.|%!`, tell.Tell(d.Why), "%s %s", m.ID, d.ID)
				continue
			}
			pr, err := proof.Prove(t.Context(), in.Net, d.Procedure)
			require.NoError(t, err)
			text := read(tell, instruction.Of(in.Net, in.House, d.Procedure, pr))
			assert.NotRegexp(t, `%!|(step|till|pour|note|tool|site|hand|tag|caution|procedure)\.[a-z]`, text, "%s %s", m.ID,
				d.ID)
			if os.Getenv("P") == d.ID && os.Getenv("M") == m.ID {
				fmt.Print(text)
			}
		}
	}
}
