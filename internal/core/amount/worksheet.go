// Package amount works out how much: contents, antifreeze, sanitizer. Every
// figure is a worksheet whose rows say where they come from.
package amount

import (
	"coldtap/internal/core/fact"
	"coldtap/internal/core/figure"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// Row is one line of a worksheet.
type Row struct {
	Part    string // id of the part or line; "" for an allowance
	What    fact.Fact
	Formula fact.Fact
	Inputs  fact.Fact
	Litre   quantity.Litre
	Source  fact.Fact // of the constant or the rule
}

// Worksheet is a volume with all that it is made of. Total is the sum of its rows.
type Worksheet struct {
	Title   fact.Fact
	Rows    []Row
	Total   quantity.Litre
	LeftOut []LeftOut
	Missing []Missing // figures that the total lacks: it is at least so much
}

// Lines implements figure.Sheet.
func (w Worksheet) Lines() []figure.Line {
	var lines []figure.Line
	for _, r := range w.Rows {
		lines = append(lines, figure.Line{Part: r.Part, What: r.What, Formula: r.Formula, Inputs: r.Inputs,
			Result: both(r.Litre), Source: r.Source})
	}
	return lines
}

// source says which rule of the house a row used, and whose.
func source(rules house.House, id string) fact.Fact { return fact.Of("source.rule", rules.By(id)) }

// LeftOut is something that does not count, and why.
type LeftOut struct {
	Part string
	What fact.Fact
	Why  fact.Fact
}

// addLink adds what a line or a part's inside holds, or says what is missing
// for it. A part whose hold-up lies at several ways is one row.
func (w *Worksheet) addLink(n *plumbing.Network, l *plumbing.Link, sys quantity.System) {
	w.Missing = append(w.Missing, missingOf(n, l)...)
	if n.Content(l) == 0 {
		return
	}
	r := linkRow(n, l, sys)
	if l.Part != nil && l.Part.Role() == plumbing.RoleJunction {
		for i := range w.Rows {
			if w.Rows[i].Part == r.Part {
				w.Rows[i].Litre += r.Litre
				w.Total += r.Litre
				return
			}
		}
		r.Formula = fact.Of("formula.hold-up-ways")
	}
	w.add(r)
}

func (w *Worksheet) add(r Row) {
	w.Rows = append(w.Rows, r)
	w.Total += r.Litre
}
