package draft_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/setting"
)

func inputs(t testing.TB, m *plumbing.Model) draft.Inputs {
	built, err := m.Build(m.StandardOptions()...)
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(built)
	require.NoError(t, err)
	plan, err := setting.Plan(t.Context(), n)
	require.NoError(t, err)
	return draft.Inputs{Net: n, Plan: plan, House: house.Usual(m.System())}
}

func TestExplore(t *testing.T) {
	models, err := demo.Models()
	require.NoError(t, err)
	for _, m := range models {
		in := inputs(t, m)
		for _, p := range []*proof.Procedure{draft.DrainDown(t.Context(), in), draft.Winterize(t.Context(), in)} {
			if p == nil {
				fmt.Println("==", m.ID, "none")
				continue
			}
			pr, err := proof.Prove(t.Context(), in.Net, p)
			require.NoError(t, err)
			fmt.Println("==", m.ID, p.ID, len(p.Steps), "steps", len(pr.Breaches), "breaches")
			for _, b := range pr.Breaches {
				what := "end"
				if b.Step < len(p.Steps) {
					what = p.Steps[b.Step].For
				}
				fmt.Println("  ", b.Step, what, b.Severity, b.Rule, b.Part, b.Said.Args)
			}
		}
	}
}
