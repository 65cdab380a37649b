// Package figure is what a computed amount is: an id, a value with its unit or
// what is missing for it, and all that it was really computed from.
package figure

import (
	"slices"
	"strconv"
	"strings"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/record"
)

// Figure is one computed amount.
type Figure struct {
	ID      string // by slashes: what it is, of which part, which of its amounts: "dose/fresh/bleach"
	Value   Value  // nil where it is not known
	Missing []Missing
	Sheet   Sheet          // how it was worked out; nil where its inputs say it all
	Inputs  []record.Input // what was read to compute it, in order
}

// Sheet is how a figure was worked out, line by line.
type Sheet interface{ Lines() []Line }

// Line is one line of a worksheet.
type Line struct {
	Part    string // id of the part or line it comes from; "" for none
	What    fact.Fact
	Formula fact.Fact
	Inputs  fact.Fact
	Result  fact.Fact
	Source  fact.Fact // of the constant or the rule
}

// Value is an amount with its unit. Two values are the same if they are equal
// as Go values.
type Value interface {
	// Said is the value in the catalogue of words.
	Said() fact.Fact
}

// Said implements Value.
func (b Band[U]) Said() fact.Fact { return fact.Of("value.band", b.Low, b.High) }

// Said implements Value.
func (a AtLeast) Said() fact.Fact { return fact.Of("value.at-least", a.V.Said()) }

// Missing is a figure that the model does not give, without which an amount is
// not known.
type Missing struct {
	Part  string // id of the part or line
	Name  fact.Fact
	Field string // what is missing, by its id in the catalogue of words
}

// Said is what is missing and where.
func (m Missing) Said() fact.Fact { return fact.Of("missing", m.Name, fact.Word("missing."+m.Field)) }

// The kinds of value.
type (
	Amount[U quantity.Unit] struct{ V U }
	Measure                 struct{ V quantity.Measured } // with a kitchen measure
	Count                   int
	Share                   float64 // 0 to 1
	Choice                  string  // one of several, by its id
	Band[U quantity.Unit]   struct{ Low, High U }

	// AtLeast is an amount that lacks something.
	AtLeast struct {
		V       Value
		Missing []Missing
	}
)

// Said implements Value.
func (a Amount[U]) Said() fact.Fact { return fact.Of("it.both", a.V) }

// Said implements Value.
func (m Measure) Said() fact.Fact { return fact.Of("it", m.V) }

// Said implements Value.
func (c Count) Said() fact.Fact { return fact.Of("it", strconv.Itoa(int(c))) }

// Said implements Value.
func (s Share) Said() fact.Fact { return fact.Of("it", quantity.Percent(100*float64(s))) }

// Said implements Value.
func (c Choice) Said() fact.Fact { return fact.Of("it", string(c)) }

// Cell is a figure that was just computed, to compute others from.
type Cell[T any] struct {
	id    string
	value T
}

// Of is the cell's value for a figure that is computed from it, which notes
// that it reads the cell.
func (c Cell[T]) Of(n *plumbing.Network) T {
	if c.id != "" {
		n.Note(Input(c.id))
	}
	return c.value
}

// Input is a figure as another one reads it.
func Input(id string) record.Input { return record.Input{Kind: record.Figure, Of: id} }

// Said is the value, or what is missing for it.
func (f *Figure) Said() fact.Fact {
	switch {
	case f.Value == nil && f.Missing == nil:
		return fact.Of("figure.unknown")
	case len(f.Missing) == 0:
		return f.Value.Said()
	}
	var lacks []fact.Fact
	for _, m := range f.Missing {
		lacks = append(lacks, m.Said())
	}
	if f.Value == nil {
		return fact.Of("figure.not-known", lacks)
	}
	return fact.Of("figure.at-least", f.Value.Said(), lacks)
}

// Given is a value that was computed from nothing.
func Given[T any](v T) Cell[T] { return Cell[T]{value: v} }

// ID is the figure's id.
func (c Cell[T]) ID() string { return c.id }

// Value is the cell's value to be shown.
func (c Cell[T]) Value() T { return c.value }

// Work computes a figure and keeps it with what was read for it, where
// somebody wants to know.
func Work[T any](n *plumbing.Network, id string, value func(T) Value, work func() T) Cell[T] {
	c := Cell[T]{id: id}
	rec := n.Recorder()
	inputs := rec.During(func() { c.value = work() })
	rec.Keep(record.Kept{ID: id, Value: value(c.value), Sheet: c.value, Inputs: inputs})
	rec.Worked(id)
	return c
}

// Of makes a value of a quantity.
func Of[U quantity.Unit](v U) Value { return Amount[U]{v} }

// YesNo makes a value of what holds or does not.
func YesNo(yes bool) Value {
	if yes {
		return Choice("yes")
	}
	return Choice("no")
}

// Or makes a value of a quantity that may lack something.
func Or[U quantity.Unit](v U, missing []Missing) Value {
	if len(missing) == 0 {
		return Of(v)
	}
	return AtLeast{Of(v), missing}
}

// List lists the figures that a recorder kept.
func List(rec *record.Recorder) []Figure {
	var list []Figure
	for _, k := range rec.Kept() {
		f := Figure{ID: k.ID, Inputs: k.Inputs}
		f.Sheet, _ = k.Sheet.(Sheet)
		switch v := k.Value.(type) {
		case AtLeast:
			f.Value, f.Missing = v.V, v.Missing
		case Value:
			f.Value = v
		}
		list = append(list, f)
	}
	return list
}

// Reads lists all that the figures whose ids begin so were computed from, by
// themselves and through other figures, which are not listed.
func Reads(list []Figure, prefixes ...string) []record.Input {
	byID := map[string]*Figure{}
	var todo []*Figure
	for i := range list {
		f := &list[i]
		byID[f.ID] = f
		if slices.ContainsFunc(prefixes, func(p string) bool { return strings.HasPrefix(f.ID, p) }) {
			todo = append(todo, f)
		}
	}
	seen := map[record.Input]bool{}
	var inputs []record.Input
	for len(todo) > 0 {
		f := todo[0]
		todo = todo[1:]
		for _, in := range f.Inputs {
			if seen[in] {
				continue
			}
			seen[in] = true
			if in.Kind != record.Figure {
				inputs = append(inputs, in)
			} else if through := byID[in.Of]; through != nil {
				todo = append(todo, through)
			}
		}
	}
	slices.SortFunc(inputs, record.Compare)
	return inputs
}
