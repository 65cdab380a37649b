package amount

import (
	"fmt"

	"coldtap/internal/core/figure"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// Figure is one computed amount with how it was worked out.
type Figure struct {
	ID       string
	Title    string
	Value    string          // in both systems
	Takes    quantity.Second // where the figure is a time
	Steps    []FigureStep
	Findings []string  // what is wrong with it: overload, too small a tank
	Missing  []Missing // figures without which it is not known

	cell figure.Cell[lasting]
}

// FigureStep is one line of the working.
type FigureStep struct {
	Part    string // id of the part it comes from; "" for none
	What    string
	Formula string
	Inputs  string
	Result  string
	Source  string
}

func (f *Figure) step(part, what, formula, inputs, result, source string) {
	f.Steps = append(f.Steps, FigureStep{part, what, formula, inputs, result, source})
}

func (f *Figure) finding(format string, args ...any) {
	f.Findings = append(f.Findings, fmt.Sprintf(format, args...))
}

// tankVolume is what the fresh tanks hold in all.
func tankVolume(n *plumbing.Network) (v quantity.Litre) {
	for _, t := range n.PartsOf(plumbing.RoleTank) {
		v += plumbing.Field(n, &t.Data.Capacity).Value()
	}
	return v
}

// heelVolume is what stays in the fresh tanks when they have been drained.
func heelVolume(n *plumbing.Network) (v quantity.Litre) {
	for _, t := range n.PartsOf(plumbing.RoleTank) {
		v += plumbing.Field(n, &t.Data.Heel).Value()
	}
	return v
}

// wasteVolume is what the waste tanks of a kind hold in all.
func wasteVolume(n *plumbing.Network, kind string) (v quantity.Litre) {
	for _, t := range n.PartsOf(plumbing.RoleWaste) {
		if plumbing.Field(n, &t.Data.Type) == kind {
			v += plumbing.Field(n, &t.Data.Capacity).Value()
		}
	}
	return v
}
