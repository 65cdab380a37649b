package instruction_test

import (
	"fmt"
	"slices"
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
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/words"
	"coldtap/internal/rig"
	"coldtap/internal/sample"
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
	for _, f := range slices.Concat(p.TellAll(in.Site), p.TellAll(in.Hand), p.TellAll(in.Whole)) {
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
		fmt.Fprintln(&b, "   ", strings.Join(append(s.Notes, s.Tools...), "; "), s.Who)
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
	for _, m := range sample.Of(t, 8, models) {
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
			assert.NotRegexp(t, `%!|(step|till|pour|note|tool|site|hand|tag|caution|procedure|whole|who)\.[a-z]`, text,
				"%s %s", m.ID, d.ID)
			assert.NotRegexp(t, `\w [.,;]`, text, "%s %s: something is not named", m.ID, d.ID)
		}
	}
}

// What a procedure comes to stands beside its worksheet, and agrees with what its steps tell: strips are as many as
// are read, water for flushing no more than the worksheet has, antifreeze through machines a part of all.
func TestTheWholeIsToldBesideTheWorksheet(t *testing.T) {
	m, err := demo.Model("schist-31-2027")
	require.NoError(t, err)
	in := inputs(t, m)
	k := draft.NewMaker(in)
	told := func(id string) (*instruction.Instruction, map[string][]any) {
		d := k.Make(t.Context(), id)
		require.NotNil(t, d.Procedure)
		got := instruction.Of(in.Net, in.House, d.Procedure, proof.Judge(in.Net, d.Procedure, *d.Run))
		facts := map[string][]any{}
		for _, f := range got.Whole {
			facts[f.ID] = f.Args
		}
		return got, facts
	}
	got, facts := told("sanitize")
	require.Contains(t, facts, "whole.flush")
	flush := facts["whole.flush"]
	assert.LessOrEqual(t, flush[0].(quantity.Litre), flush[1].(quantity.Litre))
	assert.Positive(t, flush[0])
	strips := 1 // at the end
	for i := range got.Steps {
		if got.Steps[i].Until.ID == "till.strong" {
			strips++
		}
	}
	i := slices.IndexFunc(got.Used, func(u instruction.Used) bool { return u.What == instruction.UsedStrips })
	require.GreaterOrEqual(t, i, 0)
	assert.Equal(t, strips, got.Used[i].Count)

	got, facts = told("winterize-pump")
	require.Contains(t, facts, "whole.machines")
	all, machines := facts["whole.antifreeze"][0].(quantity.Litre), facts["whole.machines"][0].(quantity.Litre)
	sheet := facts["whole.antifreeze"][1].(quantity.Litre)
	assert.Less(t, machines, all)
	assert.InDelta(t, float64(sheet), float64(all-machines), 0.35*float64(sheet), "but for machines it is about the worksheet's")
	assert.Contains(t, facts, "whole.waste")
	two := slices.ContainsFunc(got.Steps, func(s instruction.Step) bool { return s.Who.ID == "who.container" })
	assert.True(t, two, "one stands at the container, one at the taps")
	in.House = house.Helper.With(in.House, false)
	k = draft.NewMaker(in)
	got, _ = told("winterize-pump")
	assert.False(t, slices.ContainsFunc(got.Steps, func(s instruction.Step) bool { return !s.Who.IsZero() }), "alone")
}
