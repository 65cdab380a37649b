package fault_test

import (
	"testing"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/finding"
	"coldtap/internal/core/house"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/setting"
	"coldtap/internal/golden"
	"coldtap/internal/rig"
)

// BenchmarkEverythingForOneModel works out all that the core says of the
// largest demo model.
func BenchmarkEverythingForOneModel(b *testing.B) {
	n, _ := network(b, "schist-31-2027")
	rules := house.Usual(n.Model.System())
	for b.Loop() {
		n := n.Changed() // of which nothing is known
		plan := rig.Plan(b, n)
		finding.Find(n, plan)
		if _, err := golden.Faults(b.Context(), n, plan); err != nil {
			b.Fatal(err)
		}
		amount.Contents(n, n.Model.System())
		amount.Antifreeze(n, setting.ForMode(plan, setting.Antifreeze), amount.Full, rules)
		amount.PlanDoses(n, setting.ForMode(plan, setting.Sanitize), rules)
		for _, d := range draft.All(b.Context(), draft.Inputs{Net: n, Plan: plan, House: rules}) {
			if d.Procedure != nil {
				proof.Judge(n, d.Procedure, *d.Run)
			}
		}
	}
}
