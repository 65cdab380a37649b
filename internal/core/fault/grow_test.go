package fault_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/golden"
	"coldtap/internal/rig"
)

// long is a camper with some taps in a row, each with a cold and a hot tee and a shut-off to each.
func long(taps int) string {
	var b strings.Builder
	b.WriteString(`
model long Long si
tank tank Tank @ 1m 0.4m 0.6m capacity=100L heel=1L inside_height=300mm
open-end vent Vent @ 1m 0m 1.2m
tank.vent > vent.in air "hose 16 mm" 0.6m
pump pump Pump @ 1.5m 0.4m 0.6m flow="10 L/min" cut_out="3 bar"
tank.supply > pump.in supply "hose 10 mm" 1m
tee split "Heater supply tee" @ 2m 0.4m 0.5m
pump.out > split.a cold "hose 10 mm" 2m
valve in "Heater inlet valve" @ 2.2m 0.4m 0.5m handle=lever pipe=level normal=open
valve tube "Bypass valve" @ 2.2m 0.4m 0.7m handle=lever pipe=level normal=closed
valve out "Heater outlet valve" @ 2.6m 0.4m 0.8m handle=lever pipe=level normal=open
tee fork "Bypass tee" @ 2.1m 0.4m 0.5m
tee join "Hot tee" @ 2.8m 0.4m 0.8m
heater heater Heater @ 2.4m 0.4m 0.5m type=storage-steel capacity=20L inside_height=300mm
split.b > fork.a cold "hose 10 mm" 0.2m
fork.b > in.a cold "hose 10 mm" 0.2m
in.b > heater.cold cold "hose 10 mm" 0.2m
fork.c > tube.a cold "hose 10 mm" 0.2m
tube.b > join.a hot "hose 10 mm" 0.2m
heater.hot > out.a hot "hose 10 mm" 0.2m
out.b > join.b hot "hose 10 mm" 0.2m
`)
	cold, hot := "split.c", "join.c"
	for i := range taps {
		x := 3 + float64(i)/10
		for _, side := range []struct {
			id, at string
			next   *string
		}{{"c", "cold", &cold}, {"h", "hot", &hot}} {
			fmt.Fprintf(&b, "tee %s%d \"Tee %s%d\" @ %.1fm 0.4m 0.5m\n", side.id, i, side.id, i, x)
			fmt.Fprintf(&b, "%s > %s%d.a %s \"hose 10 mm\" 0.3m\n", *side.next, side.id, i, side.at)
			*side.next = fmt.Sprintf("%s%d.b", side.id, i)
		}
		fmt.Fprintf(&b, "valve v%d \"Tap valve %d\" @ %.1fm 0.4m 0.9m handle=lever pipe=level normal=open\n", i, i, x)
		fmt.Fprintf(&b, "outlet t%d \"Tap %d\" @ %.1fm 0.4m 1m type=basin flow=\"6 L/min\"\n", i, i, x)
		fmt.Fprintf(&b, "c%d.c > v%d.a cold \"hose 10 mm\" 0.4m\nv%d.b > t%d.cold cold \"hose 10 mm\" 0.2m\n", i, i, i, i)
		fmt.Fprintf(&b, "h%d.c > t%d.hot hot \"hose 10 mm\" 0.6m\n", i, i)
	}
	for _, end := range []string{"cold", "hot"} {
		fmt.Fprintf(&b, "drain low-%s \"Low point %s\" @ 4m 0.4m 0.3m handle=cap pipe=upright normal=closed closure=cap bore=12mm\n",
			end, end)
	}
	fmt.Fprintf(&b, "%s > low-cold.in drain \"hose 10 mm\" 0.3m\n%s > low-hot.in drain \"hose 10 mm\" 0.3m\n", cold, hot)
	return b.String()
}

// BenchmarkOneThingWrongGrows tells how the time grows with the lines, and with them the handles.
func BenchmarkOneThingWrongGrows(b *testing.B) {
	for _, taps := range []int{3, 16, 32, 64} {
		m, err := rig.Read(long(taps))
		require.NoError(b, err)
		n, err := plumbing.NewNetwork(m)
		require.NoError(b, err)
		plan := rig.Plan(b, n)
		b.Run(fmt.Sprintf("%d-lines", len(m.Lines)), func(b *testing.B) {
			for b.Loop() {
				if _, err := golden.Faults(b.Context(), n.Changed(), plan); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
