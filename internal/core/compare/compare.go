// Package compare says in what two models, years or states of a model differ:
// parts and lines added, gone or changed, and the figures that follow.
package compare

import (
	"cmp"
	"maps"
	"slices"
	"strconv"
	"strings"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/document"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/figure"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/report"
	"coldtap/internal/core/setting"
)

// What happened to a part or line between the first and the second model.
const (
	Added   = "added"
	Gone    = "gone"
	Changed = "changed"
)

// Change is a part or line that differs.
type Change struct {
	What   string // Added, Gone or Changed
	Thing  string // "part", "line" or "model"
	ID     string
	Name   string
	Fields []Field
}

// Field is one value that differs; a path like "data.capacity".
type Field struct{ Path, Before, After string }

// Figure is a computed amount of both models.
type Figure struct {
	Name          fact.Fact
	Before, After fact.Fact
	Differs       bool
}

// Documents compares two documents. The order is: the model itself, parts,
// lines, each by id.
func Documents(a, b *plumbing.Model) ([]Change, error) {
	var list []Change
	headA, headB := *a, *b
	headA.Parts, headA.Lines, headB.Parts, headB.Lines = nil, nil, nil, nil
	fields, err := differ(headA, headB)
	if err != nil {
		return nil, err
	}
	if len(fields) > 0 {
		list = append(list, Change{Changed, "model", b.ID, b.Title(), fields})
	}
	parts, err := things("part", a.Parts, b.Parts, func(p plumbing.Part) (string, string) { return p.ID, p.Name })
	if err != nil {
		return nil, err
	}
	lines, err := things("line", a.Lines, b.Lines, func(l plumbing.Line) (string, string) { return l.ID, l.ID })
	if err != nil {
		return nil, err
	}
	return slices.Concat(list, parts, lines), nil
}

func things[T any](thing string, a, b []T, id func(T) (id, name string)) ([]Change, error) {
	before, after := map[string]T{}, map[string]T{}
	for _, x := range a {
		k, _ := id(x)
		before[k] = x
	}
	for _, x := range b {
		k, _ := id(x)
		after[k] = x
	}
	var list []Change
	for k, x := range before {
		_, name := id(x)
		y, kept := after[k]
		if !kept {
			list = append(list, Change{What: Gone, Thing: thing, ID: k, Name: name})
			continue
		}
		fields, err := differ(x, y)
		if err != nil {
			return nil, err
		}
		if len(fields) > 0 {
			_, name = id(y)
			list = append(list, Change{Changed, thing, k, name, fields})
		}
	}
	for k, y := range after {
		if _, was := before[k]; !was {
			_, name := id(y)
			list = append(list, Change{What: Added, Thing: thing, ID: k, Name: name})
		}
	}
	slices.SortFunc(list, func(x, y Change) int { return cmp.Compare(x.ID, y.ID) })
	return list, nil
}

// differ lists the values in which two things differ, as their documents
// write them.
func differ(a, b any) ([]Field, error) {
	x, err := texts(a)
	if err != nil {
		return nil, err
	}
	y, err := texts(b)
	if err != nil {
		return nil, err
	}
	all := maps.Clone(x)
	maps.Copy(all, y)
	var list []Field
	for _, k := range slices.Sorted(maps.Keys(all)) {
		if x[k] != y[k] {
			list = append(list, Field{k, x[k], y[k]})
		}
	}
	return list, nil
}

// texts are all values of a thing by their paths.
func texts(thing any) (map[string]string, error) {
	o, err := document.Of(thing)
	if err != nil {
		return nil, err
	}
	return document.Texts(o), nil
}

// Subject is a build with what was computed of it.
type Subject struct {
	Net    *plumbing.Network
	Report *report.Report
}

// SubjectOf computes a build by the house's rules.
func SubjectOf(n *plumbing.Network, plan []setting.Answer, rules house.House) Subject {
	r := report.New(n, plan, rules, report.Ask{})
	return Subject{n, &r}
}

// Figures compares what is computed for two builds, value against value.
func Figures(a, b Subject) []Figure {
	before, after := figures(a), figures(b)
	var list []Figure
	for i := range before {
		x, y := &before[i], &after[i]
		list = append(list, Figure{Name: x.name, Before: x.text, After: y.text,
			Differs: !slices.Equal(x.values, y.values)})
	}
	return list
}

// row is one of the amounts that people compare models by.
type row struct {
	name, text fact.Fact
	values     []figure.Value // that the text tells
}

// amountRow is a row of one quantity.
func amountRow[U quantity.Unit](name string, v U) row {
	return row{named(name), fact.Of("it.both", v), []figure.Value{figure.Of(v)}}
}

// named is an amount that people compare models by, by its id.
func named(id string) fact.Fact { return fact.Of("compare." + id) }

// figures are the amounts people compare models by.
func figures(s Subject) []row {
	r := s.Report
	holds := func(name string, roles ...plumbing.Role) row {
		var v quantity.Litre
		for _, p := range s.Net.PartsOf(roles...) {
			v += p.Data.Capacity.Value()
		}
		x := amountRow(name, v)
		if v <= 0 {
			x.text = fact.Of("compare.none")
		}
		return x
	}
	list := []row{
		holds("fresh-water", plumbing.RoleTank), holds("heater", plumbing.RoleHeater),
		holds("waste-tanks", plumbing.RoleWaste),
		amountRow("in-the-lines", r.Content.Total),
	}
	sheet := func(name string, x *amount.AntifreezeSheet) row {
		if x == nil {
			return row{name: named(name), text: fact.Of("compare.no-setting")}
		}
		return amountRow(name, x.Total)
	}
	list = append(list, sheet("antifreeze", r.Chosen), sheet("antifreeze-heater-in", r.HeaterIn), bleach(r),
		amountRow("weight", amount.Weigh(nil, amount.AllWater(s.Net))))
	flush, whole := row{name: named("flush"), text: fact.Of("compare.none")},
		row{name: named("sanitizing"), text: fact.Of("compare.none")}
	if way := r.Way; way != nil {
		flush.text = fact.Of("compare.flush.way", way.Short, way.Water)
		flush.values = []figure.Value{figure.Choice(way.ID), figure.Of(way.Water)}
		whole.text, whole.values = r.Schedule.Said(),
			[]figure.Value{figure.Of(quantity.Second(r.Schedule.Whole().Seconds())),
				figure.Of(quantity.Second(r.Schedule.Attended().Seconds()))}
	}
	list = append(list, flush, whole)
	for _, x := range []string{"fill-", "pump-out", "warm-", "cool-"} {
		list = append(list, first(r.Times, x))
	}
	count := func(name string, n int) row {
		return row{named(name), fact.Of("it", strconv.Itoa(n)), []figure.Value{figure.Count(n)}}
	}
	return append(list, amountRow("air", r.Pressure.Chosen),
		count("lines", len(s.Net.Model.Lines)), count("parts", len(s.Net.Model.Parts)))
}

// bleach is the dose of each body of tank water.
func bleach(r *report.Report) row {
	x := row{name: named("bleach"), text: fact.Of("compare.no-setting")}
	if r.Doses == nil {
		return x
	}
	var doses []fact.Fact
	for i := range r.Doses {
		d := &r.Doses[i]
		doses = append(doses, fact.Of("compare.bleach.dose", fact.If(i > 0, fact.Of("compare.bleach.of", d.Name())),
			d.Measured, d.Final))
		x.values = append(x.values, figure.Measure{V: d.Measured}, figure.Of(d.Final))
	}
	if x.text = fact.Of("compare.bleach.doses", doses); !r.Dose.Why.IsZero() {
		x.text, x.values = fact.Of("compare.none"), nil
	}
	return x
}

// first is the first time whose id begins so.
func first(times []amount.Figure, prefix string) row {
	name := named("time." + strings.TrimSuffix(prefix, "-"))
	for _, f := range times {
		if strings.HasPrefix(f.ID, prefix) {
			return row{name, f.Value, []figure.Value{figure.Of(f.Takes), figure.Count(len(f.Missing))}}
		}
	}
	return row{name: name, text: fact.Of("compare.none")}
}

// Sheet is the figures of several models side by side: one row a figure.
func Sheet(subjects []Subject) (names []fact.Fact, rows [][]fact.Fact) {
	for i, s := range subjects {
		for j, f := range figures(s) {
			if i == 0 {
				names = append(names, f.name)
				rows = append(rows, nil)
			}
			rows[j] = append(rows[j], f.text)
		}
	}
	return names, rows
}
