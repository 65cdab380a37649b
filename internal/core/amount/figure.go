package amount

import (
	"coldtap/internal/core/fact"
	"coldtap/internal/core/figure"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// Figure is one computed amount with how it was worked out.
type Figure struct {
	ID       string
	Title    fact.Fact
	Value    fact.Fact       // in both systems
	Takes    quantity.Second // where the figure is a time
	Steps    []figure.Line
	Findings []fact.Fact // what is wrong with it: overload, too small a tank
	Missing  []Missing   // figures without which it is not known

	cell figure.Cell[lasting]
}

// line is a line of a worksheet.
func line(part string, what, formula, inputs, result, source fact.Fact) figure.Line {
	return figure.Line{Part: part, What: what, Formula: formula, Inputs: inputs, Result: result, Source: source}
}

// weigh adds a line of the working of a weight.
func (f *Figure) weigh(what string, inputs, result fact.Fact) {
	f.Steps = append(f.Steps, line("", fact.Of("row."+what), fact.Of("formula."+what), inputs, result,
		fact.Of("source."+what)))
}

// itself is a part by its name.
func itself(p *plumbing.Part) fact.Fact { return fact.Of("it", p) }

// both is an amount in both systems of units, neat one that is rounded for the
// reader, shown one in the reader's.
func both[U quantity.Unit](v U) fact.Fact  { return fact.Of("it.both", v) }
func neat[U quantity.Unit](v U) fact.Fact  { return fact.Of("it.neat", v) }
func shown[U quantity.Unit](v U) fact.Fact { return fact.Of("it", v) }

// given is an amount as the model gives it.
func given[U quantity.Unit](g quantity.Given[U]) fact.Fact { return fact.Of("it", g) }

// together are the names of some parts.
func together(parts []*plumbing.Part) fact.Fact { return fact.Of("names.and", parts) }

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
