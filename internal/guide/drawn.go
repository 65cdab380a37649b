package guide

import (
	"context"
	"fmt"

	"coldtap/internal/core/draft"
	"coldtap/internal/core/scene"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/words"
	"coldtap/internal/drawing"
)

// DrawMode draws the schematic as it is in a way of use: what is wet, and with what, and what flows.
func DrawMode(ctx context.Context, in draft.Inputs, s *drawing.Schematic, mode string) (string, error) {
	a := setting.ForMode(in.Plan, mode)
	if a == nil || !a.Has() {
		return "", fmt.Errorf("this model has no setting for %q", mode)
	}
	st := scene.AsMeant(in.Net, &a.Mode, a.State.Handles)
	seen, err := scene.Observe(ctx, st, in.Plan, in.House)
	if err != nil {
		return "", err
	}
	tell := words.English(in.Net.Model.System())
	return s.SVG(drawing.Show{State: st.State, Wet: seen.Wet, Title: tell.Tell(a.Mode.Name)}), nil
}
