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
		for _, p := range []*proof.Procedure{draft.DrainDown(t.Context(), in), draft.Winterize(t.Context(), in), draft.Sanitize(t.Context(), in)} {
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

func BenchmarkProofs(b *testing.B) {
	m, err := demo.Model("schist-31-2027")
	require.NoError(b, err)
	in := inputs(b, m)
	for name, make := range map[string]func() *proof.Procedure{
		"drain-down": func() *proof.Procedure { return draft.DrainDown(b.Context(), in) },
		"winterize":  func() *proof.Procedure { return draft.Winterize(b.Context(), in) },
		"sanitize":   func() *proof.Procedure { return draft.Sanitize(b.Context(), in) },
	} {
		p := make()
		b.Run(name+"/draft", func(b *testing.B) {
			for b.Loop() {
				make()
			}
		})
		b.Run(name+"/prove", func(b *testing.B) {
			for b.Loop() {
				if _, err := proof.Prove(b.Context(), in.Net, p); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
