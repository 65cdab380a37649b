package setting_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
	"coldtap/internal/rig"
)

// A handle that may stand either way when all is drained keeps no more than a millilitre: of a stub of 10 mm, which holds
// 0.0785 mL a millimetre, 5 mm above and below a shut valve are nothing, 20 mm above it are something.
func TestEitherWayKeepsNoMore(t *testing.T) {
	for length, free := range map[int]bool{5: true, 20: false, 40: false} {
		m, err := rig.Read(fmt.Sprintf(`
model stub Stub si
tank fresh "Fresh tank" @ 1m 0.4m 0.8m capacity=60L heel=1L inside_height=300mm
open-end vent Vent @ 1m 0m 1.3m
fresh.vent > vent.in air "hose 16 mm" 0.6m
gravity-fill fill Fill @ 1m 0m 1.2m
fill.out > fresh.fill supply "hose 32 mm" 0.6m
pump pump Pump @ 1.5m 0.4m 0.7m flow="10 L/min" cut_out="3 bar" passes_idle
fresh.supply > pump.in supply "hose 10 mm" 0.5m
drain tank-drain "Tank drain" @ 1m 0.4m 0.7m handle=cap pipe=upright normal=closed closure=cap bore=25mm
fresh.drain > tank-drain.in drain "hose 25 mm" 0.1m
tee t1 "Stub tee" @ 2m 0.4m 0.6m
tee t2 "Drain tee" @ 2.5m 0.4m 0.5m
valve stub "Stub valve" @ 2m 0.4m 0.55m handle=lever pipe=upright normal=open
drain low1 "First low point" @ 2m 0.4m 0.5m handle=cap pipe=upright normal=closed closure=cap bore=13mm
drain low2 "Second low point" @ 2.5m 0.4m 0.3m handle=cap pipe=upright normal=closed closure=cap bore=13mm
outlet tap Tap @ 3m 0.4m 1.1m type=kitchen flow="6 L/min"
pump.out > t1.a cold "hose 10 mm" 0.5m
t1.b > t2.a cold "hose 10 mm" 0.5m
t1.c > stub.a drain "hose 10 mm" %dmm
stub.b > low1.in drain "hose 10 mm" 5mm
t2.c > low2.in drain "hose 10 mm" 0.2m
t2.b > tap.cold cold "hose 10 mm" 1m
`, length))
		require.NoError(t, err)
		n, err := plumbing.NewNetwork(m)
		require.NoError(t, err)
		a := setting.ForMode(rig.Plan(t, n), setting.DrainDown)
		require.True(t, a.OK, "%v", a.Why)
		list := setting.Either(n, &a.Mode, a.State)
		assert.Equal(t, free, slices.Contains(list, n.HandleOf("stub")), "%d mm", length)
	}
}

// Where a handle makes no difference to what a mode asks for it may stand either way; where it does it may not.
func TestWhatMakesNoDifferenceMayStandEitherWay(t *testing.T) {
	n := rig.Network(t, "heater-one-valve")
	plan := rig.Plan(t, n)
	either := func(mode string) []string { return names(n, setting.ForMode(plan, mode).Either) }
	assert.Equal(t, []string{"bypass"}, either(setting.FillGravity), "nothing runs through the lines")
	assert.Empty(t, either(setting.Everyday))
	assert.Empty(t, either(setting.Antifreeze))
}
