package amount

import (
	"fmt"

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
		list = append(list, Missing{Part: l.Line.ID, Name: LineName(n, l), Field: "inside diameter"})
	}
	return list
}

// words tell several missing figures in one.
func missingWords(list []Missing) string {
	switch len(list) {
	case 0:
		return ""
	case 1:
		return list[0].Words()
	}
	return fmt.Sprintf("%s, and %d more", list[0].Words(), len(list)-1)
}
