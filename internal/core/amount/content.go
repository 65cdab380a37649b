package amount

import (
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// Contents lists what every line holds, and every part with a content of its
// own except tanks. A fill hose is no line: it runs empty into its tank.
func Contents(n *plumbing.Network, sys quantity.System) Worksheet {
	w := Worksheet{Title: fact.Of("sheet.content")}
	for i, l := range n.AllLinks() {
		if l.Line != nil && l.Line.Side != plumbing.Air && !n.FillHose(i) {
			w.addLink(n, l, sys)
		}
	}
	for _, l := range n.AllLinks() {
		if l.Part != nil && n.Content(l) > 0 && !l.Part.Kind.Info().Vessel && l.Part.Role() != plumbing.RoleHeater {
			w.addLink(n, l, sys)
		}
	}
	return w
}

// linkRow is what a line or a part's inside holds.
func linkRow(n *plumbing.Network, l *plumbing.Link, sys quantity.System) Row {
	if l.Line == nil {
		formula, inputs := fact.Of("formula.hold-up"), shown(l.Content)
		if plumbing.Field(n, &l.Part.Data.HoldUp).IsZero() {
			formula, inputs = fact.Of("formula.capacity"), given(plumbing.Field(n, &l.Part.Data.Capacity))
		}
		return Row{Part: l.Part.ID, What: itself(l.Part), Formula: formula, Inputs: inputs, Litre: n.Content(l),
			Source: fact.Of("source.part")}
	}
	d, source := n.InsideDiameter(l.Line)
	inside := fact.Of("inputs.in", quantity.Figure(float64(d/quantity.Inch), 3, 3))
	if sys == quantity.SI {
		inside = fact.Of("inputs.mm", quantity.Figure(float64(d), 3, 1))
	}
	size := fact.Of("it", l.Line.Size)
	if l.Line.Size == "" {
		size = fact.Of("inputs.own-diameter")
	}
	return Row{
		Part: l.Line.ID, What: LineName(n, l),
		Formula: fact.Of("formula.cylinder"), Inputs: fact.Of("inputs.line", size, inside,
			plumbing.Field(n, &l.Line.Length)),
		Litre: n.Content(l), Source: fact.Of("it", source),
	}
}

// LineName says which two parts a line joins.
func LineName(n *plumbing.Network, l *plumbing.Link) fact.Fact {
	return fact.Of("line.short", fact.Name(n.Nodes[l.A].Part.Name), fact.Name(n.Nodes[l.B].Part.Name))
}
