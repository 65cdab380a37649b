package amount

import (
	"fmt"

	"coldtap/internal/core/plumbing"
)

// Missing is a figure that the model does not give, without which an amount is
// not known.
type Missing struct {
	Part  string // id of the part or line
	Name  string
	Field string // what is missing, as a reader says it
}

// Words tell what is missing and where.
func (m Missing) Words() string { return fmt.Sprintf("%s: the %s is not given", m.Name, m.Field) }

// missingOf lists what a line lacks to have a content.
func missingOf(n *plumbing.Network, l *plumbing.Link) []Missing {
	if l.Line == nil {
		return nil
	}
	var list []Missing
	if l.Line.Length.Value() <= 0 {
		list = append(list, Missing{l.Line.ID, LineName(n, l), "length"})
	}
	if d, _ := l.Line.InsideDiameter(); d <= 0 {
		list = append(list, Missing{l.Line.ID, LineName(n, l), "inside diameter"})
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
