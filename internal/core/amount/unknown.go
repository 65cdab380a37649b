package amount

import (
	"coldtap/internal/core/fact"
	"coldtap/internal/core/figure"
	"coldtap/internal/core/plumbing"
)

// Missing is a figure that the model does not give.
type Missing = figure.Missing

// missingOf lists what a line lacks to have a content.
func missingOf(n *plumbing.Network, l *plumbing.Link) []Missing {
	if l.Line == nil {
		return nil
	}
	var list []Missing
	if plumbing.Field(n, &l.Line.Length).Value() <= 0 {
		list = append(list, Missing{Part: l.Line.ID, Name: LineName(n, l), Field: "length"})
	}
	if d, _ := n.InsideDiameter(l.Line); d <= 0 {
		list = append(list, Missing{Part: l.Line.ID, Name: LineName(n, l), Field: "inside-diameter"})
	}
	return list
}

// lacks is a figure that a part lacks.
func lacks(p *plumbing.Part, field string) Missing {
	return Missing{Part: p.ID, Name: fact.Of("it", fact.Name(p.Name)), Field: field}
}

// missingSaid tells of several missing figures in one; nothing of none.
func missingSaid(list []Missing) fact.Fact {
	switch len(list) {
	case 0:
		return fact.Fact{}
	case 1:
		return list[0].Said()
	}
	return fact.Of("missing.more", len(list)-1, list[0].Said())
}
