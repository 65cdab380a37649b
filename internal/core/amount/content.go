package amount

import (
	"fmt"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// Contents lists what every line holds, and every part with a content of its
// own except tanks. A fill hose is no line: it runs empty into its tank.
func Contents(n *plumbing.Network, sys quantity.System) Worksheet {
	w := Worksheet{Title: "Water in the lines"}
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
		formula, inputs := "hold-up", quantity.Show(l.Content, sys)
		if plumbing.Field(n, &l.Part.Data.HoldUp).IsZero() {
			formula, inputs = "capacity", plumbing.Field(n, &l.Part.Data.Capacity).String()
		}
		return Row{Part: l.Part.ID, What: l.Part.Name, Formula: formula, Inputs: inputs, Litre: n.Content(l), Source: "data of the part"}
	}
	d, source := n.InsideDiameter(l.Line)
	inside := quantity.Figure(float64(d/quantity.Inch), 3, 3) + "\u00a0in"
	if sys == quantity.SI {
		inside = quantity.Figure(float64(d), 3, 1) + "\u00a0mm"
	}
	size := l.Line.Size
	if size == "" {
		size = "own diameter"
	}
	return Row{
		Part: l.Line.ID, What: LineName(n, l),
		Formula: "π/4·d²·L", Inputs: fmt.Sprintf("%s, d %s, L %s", size, inside, plumbing.Field(n, &l.Line.Length)),
		Litre: n.Content(l), Source: source,
	}
}

// LineName says which two parts a line joins.
func LineName(n *plumbing.Network, l *plumbing.Link) string {
	a, b := n.Nodes[l.A].Part.Name, n.Nodes[l.B].Part.Name
	return a + " – " + plumbing.NoArticle(b)
}
