package draft_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/draft"
	"coldtap/internal/rig"
)

// BenchmarkAllAnew makes and proves every procedure of each demo model, nothing known of it before.
func BenchmarkAllAnew(b *testing.B) {
	models, err := demo.Models()
	require.NoError(b, err)
	for _, m := range models {
		b.Run(m.ID, func(b *testing.B) {
			in := inputs(b, m, m.StandardOptions()...)
			for b.Loop() {
				b.StopTimer()
				in.Net = in.Net.Changed()
				in.Plan = rig.Plan(b, in.Net)
				b.StartTimer()
				draft.All(b.Context(), in)
			}
		})
	}
}
