package play_test

import (
	"maps"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/house"
	"coldtap/internal/core/play"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/setting"
)

// The sum of all frames is how the run ended, and no moment comes before another.
func TestAFilmEndsAsItsRun(t *testing.T) {
	models, err := demo.Models()
	require.NoError(t, err)
	for _, m := range models {
		built, err := m.Build(m.StandardOptions()...)
		require.NoError(t, err)
		n, err := plumbing.NewNetwork(built)
		require.NoError(t, err)
		plan, err := setting.Plan(t.Context(), n)
		require.NoError(t, err)
		for _, d := range draft.All(t.Context(), draft.Inputs{Net: n, Plan: plan, House: house.Usual(m.System())}) {
			if d.Procedure == nil {
				continue
			}
			pr := proof.Judge(n, d.Procedure, *d.Run)
			film, err := play.Of(t.Context(), n, d.Procedure, pr)
			require.NoError(t, err)
			last := play.Frame{Vessels: map[string]play.Level{}, Lines: map[string]string{}, Handles: map[string]string{}}
			for i, f := range film.Frames {
				if i > 0 {
					assert.GreaterOrEqual(t, f.Time, last.Time, "%s %s frame %d", m.ID, d.ID, i)
					assert.GreaterOrEqual(t, f.Step, last.Step)
				}
				last.Time, last.Step = f.Time, f.Step
				maps.Copy(last.Vessels, f.Vessels)
				maps.Copy(last.Lines, f.Lines)
				maps.Copy(last.Handles, f.Handles)
			}
			end := pr.Systems[len(pr.Systems)-1]
			for _, v := range end.Vessels() {
				assert.InDelta(t, float64(v.Liquid.Litre/v.Holds), last.Vessels[v.Part.ID].Full, 1e-3, "%s %s %s", m.ID, d.ID,
					v.Part.ID)
			}
			for i, h := range n.AllHandles() {
				assert.Equal(t, h.Positions[end.State.Position(i)], last.Handles[h.Part.ID])
			}
			for id, text := range last.Lines {
				at := 0
				for _, piece := range strings.Fields(text) {
					_, to, ok := strings.Cut(piece, ".")
					require.True(t, ok, "%s %s %q", m.ID, id, text)
					v, err := strconv.Atoi(to)
					require.NoError(t, err)
					assert.GreaterOrEqual(t, v, at, "%s %s %q", m.ID, id, text)
					at = v
				}
				assert.True(t, text == "" || at == 100, "%s %s %q", m.ID, id, text)
			}
		}
	}
}
