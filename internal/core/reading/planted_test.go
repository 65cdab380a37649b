package reading_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/chapter"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/reading"
	"coldtap/internal/core/setting"
	"coldtap/internal/rig/drafted"
)

// saying is a sentence with a hole for a figure, and the figure that belongs there.
type saying struct {
	text string // with %s
	show func(times float64) string
}

func volume(litres float64, sys quantity.System) func(float64) string {
	return func(times float64) string { return quantity.Show(quantity.Litre(litres*times), sys) }
}

// sayings are sentences about a model in several wordings, each with its figure.
func sayings(in chapter.Inputs) (list []saying) {
	n := in.Net
	add := func(show func(float64) string, texts ...string) {
		for _, t := range texts {
			list = append(list, saying{t, show})
		}
	}
	names := map[string]int{}
	for _, p := range n.AllParts() {
		names[strings.ToLower(p.Name)]++
	}
	for _, p := range n.PartsOf(plumbing.RoleTank, plumbing.RoleHeater, plumbing.RoleWaste) {
		if v := p.Data.Capacity; !v.IsZero() && names[strings.ToLower(p.Name)] == 1 {
			for _, sys := range []quantity.System{quantity.US, quantity.SI} {
				add(volume(float64(v.Value()), sys), "The "+strings.ToLower(p.Name)+" holds %s.", "Capacity of the "+p.Name+": %s.",
					"The "+p.Name+" has a capacity of %s, which is a lot.")
			}
		}
		if lo, _, ok := in.Numbers("time/fill-" + p.ID); ok {
			add(func(x float64) string { return fmt.Sprintf("%.1f min", lo*x/60) }, "It takes %s to fill the "+p.Name+".")
		}
		if lo, _, ok := in.Numbers("time/drain-" + p.ID); ok {
			add(func(x float64) string { return fmt.Sprintf("%.1f min", lo*x/60) }, "The "+p.Name+" drains in %s.")
		}
	}
	if len(n.Pumps) == 1 {
		p := n.Pumps[0]
		if v := p.Data.Fuse; !v.IsZero() {
			add(func(x float64) string { return fmt.Sprintf("%.2f A", float64(v.Value())*x) }, "The fuse of the pump is %s.")
		}
		if v := p.Data.CutOut; !v.IsZero() {
			add(func(x float64) string { return quantity.Show(v.Value()*quantity.Kilopascal(x), quantity.US) },
				"The pump cuts out at %s.")
		}
	}
	if len(in.Report.Doses) == 1 && len(in.Report.Doses[0].Tanks) == 1 {
		v := float64(in.Report.Doses[0].Measured.Litre)
		add(func(x float64) string { return fmt.Sprintf("%.0f mL", v*x*1000) }, "Pour in %s of bleach.",
			"Use %s bleach, thinned.")
	}
	if lo, _, ok := in.Numbers("weight"); ok {
		add(func(x float64) string { return fmt.Sprintf("%.0f kg", lo*x) }, "With all tanks full the water weighs %s.")
	}
	if lo, _, ok := in.Numbers("air"); ok {
		add(func(x float64) string { return quantity.Show(quantity.Kilopascal(lo*x), quantity.US) },
			"Blow the lines out with air at %s.")
	}
	return list
}

// In made-up texts about many campers no planted error is found right, and what is right is found wrong nowhere; of
// the right ones most are found right.
func TestNoPlantedErrorAgrees(t *testing.T) {
	right, told, wrong, seen := 0, 0, 0, 0
	for _, m := range drafted.Campers(t) {
		in := drafted.Inputs(t, m)
		for _, s := range sayings(in) {
			verdict := func(figure string) (reading.Verdict, string) {
				text := fmt.Sprintf(s.text, figure)
				list := reading.Read(in, text)
				require.Len(t, list, 1, text)
				return list[0].Verdict, text
			}
			right++
			v, text := verdict(s.show(1))
			assert.NotEqual(t, reading.Differs, v, "%s: %s", m.ID, text)
			if v == reading.Agrees {
				told++
			}
			for _, times := range []float64{0.1, 0.25, 0.5, 0.9, 0.94, 1.06, 1.1, 2, 3.785, 10} {
				if s.show(times) == s.show(1) {
					continue // it is too small for the digits
				}
				v, text := verdict(s.show(times))
				wrong++
				if !assert.NotEqual(t, reading.Agrees, v, "%s: %s instead of %s", m.ID, text, s.show(1)) {
					continue
				}
				if v == reading.Differs {
					seen++
				}
			}
		}
	}
	t.Logf("right: %d, found right %d; planted: %d, found different %d", right, told, wrong, seen)
	assert.GreaterOrEqual(t, float64(told), 0.9*float64(right))
	assert.GreaterOrEqual(t, float64(seen), 0.9*float64(wrong))
}

// Where a handle stands in a way of use is found right as it stands, and never right the other way round.
func TestNoHandleTurnedRoundAgrees(t *testing.T) {
	checked := 0
	for _, m := range drafted.Campers(t) {
		in := drafted.Inputs(t, m)
		for _, mode := range []string{setting.Antifreeze, setting.Everyday, setting.Sanitize} {
			a := setting.ForMode(in.Plan, mode)
			if a == nil || !a.OK {
				continue
			}
			head := map[string]string{setting.Antifreeze: "Winterizing", setting.Everyday: "Everyday use",
				setting.Sanitize: "Sanitizing"}[mode]
			for i, h := range in.Net.AllHandles() {
				is := h.Positions[a.State.Position(i)]
				either := false
				for _, e := range a.Either {
					either = either || e == i
				}
				if either || is != "open" && is != "closed" {
					continue
				}
				for _, said := range []string{"open", "closed"} {
					text := fmt.Sprintf("# %s\nThe %s is %s.", head, strings.ToLower(h.Part.Name), said)
					list := reading.Read(in, text)
					v := list[len(list)-1].Verdict
					if said == is {
						assert.NotEqual(t, reading.Differs, v, "%s: %s", m.ID, text)
					} else {
						assert.NotEqual(t, reading.Agrees, v, "%s: %s", m.ID, text)
					}
					if v != reading.CantTell {
						checked++
					}
				}
			}
		}
	}
	assert.Greater(t, checked, 60)
}

// Whatever a text is, it is read, sentences keep their bytes, and claims lie within them.
func FuzzRead(f *testing.F) {
	in := gneiss(f)
	f.Add(handOut)
	f.Add("43 gal (163 L) 2½ cups 1 h 30 min ½ \xff é [[x]] ((( . ! ? 5.25 % 1/0 gal")
	f.Fuzz(func(t *testing.T, text string) {
		if len(text) > 2000 {
			return
		}
		for _, s := range reading.Read(in, text) {
			for _, c := range s.Claims {
				if c.From < 0 || c.To > len(s.Text) || c.From > c.To {
					t.Fatalf("%q: claim %d to %d", s.Text, c.From, c.To)
				}
			}
			_ = s.Taken()
		}
	})
}
