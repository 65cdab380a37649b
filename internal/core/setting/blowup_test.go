package setting_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
	"coldtap/internal/rig/told"
)

// family builds a made-up system that is hard for a search that goes handle by
// handle. size is about the number of its handles.
type family struct {
	name  string
	build func(b *builder, size int)
	meets bool // antifreeze by the pump has a setting
}

// valve puts a valve between two ports; spare ids sort before all others.
func (b *builder) valve(id, from, to, normal string) {
	b.m.Parts = append(b.m.Parts, plumbing.Part{ID: id, Kind: plumbing.Valve, Name: id, Normal: normal})
	b.line(from, id+".a", plumbing.Cold)
	b.line(id+".b", to, plumbing.Cold)
}

// tee gives the ports of a new tee.
func (b *builder) tee() (a, x, y string) {
	t := b.part(plumbing.Tee)
	return t + ".a", t + ".b", t + ".c"
}

// source is a tank, a pick-up with a 3-way valve and a pump; what it gives is
// the pump's outlet.
func (b *builder) source() string {
	tank, pump, port, v := b.part(plumbing.Tank), b.part(plumbing.Pump), b.part(plumbing.ContainerPort),
		b.part(plumbing.ThreeWay)
	b.line(tank+".supply", v+".a", plumbing.Supply)
	b.line(port+".out", v+".b", plumbing.Supply)
	b.line(v+".com", pump+".in", plumbing.Supply)
	return pump + ".out"
}

// harmless hangs valves on the main that lead nowhere.
func (b *builder) harmless(at, prefix string, count int) string {
	for i := range count {
		in, out, stub := b.tee()
		b.line(at, in, plumbing.Cold)
		end := b.part(plumbing.Tee)
		b.valve(fmt.Sprintf("%s%02d", prefix, i), stub, end+".a", "closed")
		at = out
	}
	return at
}

// bypassed is a heater with three valves around it.
func (b *builder) bypassed(at string, k int) string {
	in, toHeater, around := b.tee()
	a, x, out := b.tee()
	h := b.part(plumbing.Heater)
	b.line(at, in, plumbing.Cold)
	b.valve(fmt.Sprintf("v%02d-in", k), toHeater, h+".cold", "open")
	b.valve(fmt.Sprintf("v%02d-out", k), h+".hot", a, "open")
	b.valve(fmt.Sprintf("v%02d-tube", k), around, x, "closed")
	return out
}

var families = []family{
	{"no solution behind harmless handles", func(b *builder, size int) {
		at, h, tap := b.harmless(b.source(), "v", size-1), b.part(plumbing.Heater), b.part(plumbing.Outlet)
		b.line(at, h+".cold", plumbing.Cold)
		b.line(h+".hot", tap+".hot", plumbing.Hot)
	}, false},
	{"spare valves before the ones that matter", func(b *builder, size int) {
		at := b.bypassed(b.harmless(b.source(), "a", size-4), 99)
		b.line(at, b.part(plumbing.Outlet)+".hot", plumbing.Hot)
	}, true},
	{"heaters in series, each with its bypass", func(b *builder, size int) {
		at := b.source()
		for k := range (size - 1) / 3 {
			at = b.bypassed(at, k)
		}
		b.line(at, b.part(plumbing.Outlet)+".hot", plumbing.Hot)
	}, true},
	{"all taps closed", func(b *builder, size int) {
		at := b.source()
		for i := range size - 1 {
			in, out, tap := b.tee()
			b.line(at, in, plumbing.Cold)
			b.valve(fmt.Sprintf("v%02d", i), tap, b.part(plumbing.Outlet)+".cold", "closed")
			at = out
		}
	}, true},
	{"symmetric valves", func(b *builder, size int) {
		at := b.source()
		for stage := range 3 {
			in, out := at, ""
			for i := range (size - 1) / 3 {
				a, x, y := b.tee()
				b.line(in, a, plumbing.Cold)
				p, q, r := b.tee()
				b.valve(fmt.Sprintf("v%d%02d", stage, i), x, p, "closed")
				in = y
				if out != "" {
					b.line(out, q, plumbing.Cold)
				}
				out = r
			}
			at = out
		}
		b.line(at, b.part(plumbing.Outlet)+".cold", plumbing.Cold)
	}, true},
	{"two suctions", func(b *builder, size int) {
		first, second := b.source(), b.source()
		join, other, out := b.tee()
		b.line(first, join, plumbing.Cold)
		b.line(second, other, plumbing.Cold)
		at := b.bypassed(b.harmless(out, "a", size-5), 99)
		b.line(at, b.part(plumbing.Outlet)+".hot", plumbing.Hot)
	}, true},
	{"a heater beside every tap, with no valve to it", func(b *builder, size int) {
		at := b.source()
		for i := range (size - 1) / 2 {
			in, out, stub := b.tee()
			b.line(at, in, plumbing.Cold)
			x, y, z := b.tee()
			b.valve(fmt.Sprintf("v%02d-tap", i), stub, x, "closed")
			b.valve(fmt.Sprintf("v%02d-more", i), y, b.part(plumbing.Outlet)+".cold", "closed")
			b.line(z, b.part(plumbing.Heater)+".cold", plumbing.Cold)
			at = out
		}
	}, false},
}

func (f family) network(tb testing.TB, size int) *plumbing.Network {
	b := &builder{rng: rand.New(rand.NewPCG(uint64(size), 3)), m: &plumbing.Model{ID: "family", Units: "us"}}
	f.build(b, size)
	for i := range b.m.Lines {
		b.m.Lines[i].Size, b.m.Lines[i].Length = "PEX 1/2", quantity.Of(quantity.Millimetre(305), quantity.SI)
	}
	return network(tb, b.m)
}

// TestHardFamiliesAgreeWithTryingAll compares small ones with trying all.
func TestHardFamiliesAgreeWithTryingAll(t *testing.T) {
	for _, f := range families {
		t.Run(f.name, func(t *testing.T) {
			n := f.network(t, 10)
			base := state.Normal(n)
			for _, m := range setting.Modes(n) {
				if m.LeftOut.ID != "" {
					continue
				}
				got, ok, err := setting.Find(t.Context(), n, &m, base)
				require.NoError(t, err)
				want, wantOK := tryAll(n, &m, base)
				require.Equal(t, wantOK, ok, m.ID)
				if ok {
					require.Equal(t, want, got.Handles, m.ID)
				}
			}
		})
	}
}

// TestHardFamiliesAreAnswered asks large ones within a limit that a search by
// trying would never meet.
func TestHardFamiliesAreAnswered(t *testing.T) {
	for _, f := range families {
		t.Run(f.name, func(t *testing.T) {
			n := f.network(t, 28)
			ctx, cancel := context.WithTimeout(t.Context(), 2*time.Minute)
			defer cancel()
			plan, err := setting.Plan(ctx, n)
			require.NoError(t, err)
			a := setting.ForMode(plan, setting.Antifreeze)
			assert.Equal(t, f.meets, a.OK, a.Why)
			if !f.meets {
				assert.True(t, a.Has())
				assert.NotEmpty(t, a.Broken)
				assert.Contains(t, told.Fact(a.Why), "heater")
			}
		})
	}
}

func TestASearchEndsWithItsContext(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	n := families[2].network(t, 28)
	_, err := setting.Plan(ctx, n)
	assert.ErrorIs(t, err, context.Canceled)
}

func BenchmarkHardFamilies(b *testing.B) {
	for _, f := range families {
		b.Run(f.name, func(b *testing.B) {
			made := f.network(b, 28)
			for b.Loop() {
				n := made.Changed() // of which nothing is known
				plan, err := setting.Plan(b.Context(), n)
				if err != nil {
					b.Fatal(err)
				}
				for i := range plan {
					if plan[i].Has() {
						setting.Prove(n, &plan[i].Mode, plan[i].State)
					}
				}
			}
		})
	}
}
