// Package compare says in what two models, years or states of a model differ:
// parts and lines added, gone or changed, and the figures that follow.
package compare

import (
	"cmp"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
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
	Name          string
	Before, After string
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
	x, err := flat(a)
	if err != nil {
		return nil, err
	}
	y, err := flat(b)
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

func flat(v any) (map[string]string, error) {
	b, err := json.Marshal(v)
	if err != nil {
		return nil, fmt.Errorf("compare: %w", err)
	}
	var doc any
	if err := json.Unmarshal(b, &doc); err != nil {
		return nil, fmt.Errorf("compare: %w", err)
	}
	out := map[string]string{}
	var walk func(path string, v any)
	walk = func(path string, v any) {
		switch v := v.(type) {
		case map[string]any:
			for k, x := range v {
				walk(join(path, k), x)
			}
		case []any:
			for i, x := range v {
				walk(join(path, fmt.Sprint(i+1)), x)
			}
		case nil:
		default:
			out[path] = fmt.Sprint(v)
		}
	}
	walk("", doc)
	return out, nil
}

func join(path, k string) string {
	if path == "" {
		return k
	}
	return path + "." + k
}

// Subject is a build with what was worked out of it, and the house's rules.
type Subject struct {
	Net   *plumbing.Network
	Plan  []setting.Answer
	House house.House
}

// Figures compares what is computed for two builds.
func Figures(a, b Subject) []Figure {
	before, after := figures(a), figures(b)
	var list []Figure
	for i := range before {
		f := Figure{Name: before[i][0], Before: before[i][1], After: after[i][1]}
		f.Differs = f.Before != f.After
		list = append(list, f)
	}
	return list
}

// figures are the amounts people compare models by.
func figures(s Subject) [][2]string {
	n, plan, rules := s.Net, s.Plan, s.House
	sys := n.Model.System()
	sum := func(roles ...plumbing.Role) string {
		var v quantity.Litre
		for _, p := range n.PartsOf(roles...) {
			v += p.Data.Capacity.Value()
		}
		if v == 0 {
			return "none"
		}
		return quantity.Both(v, sys)
	}
	list := [][2]string{
		{"Fresh water", sum(plumbing.RoleTank)},
		{"Heater", sum(plumbing.RoleHeater)},
		{"Waste tanks", sum(plumbing.RoleWaste)},
		{"In the lines", quantity.Both(amount.Contents(n, sys).Total, sys)},
	}
	antifreeze, in, bleach, flush, whole := "no setting", "no setting", "no setting", "none", "none"
	times := amount.Times(n, rules)
	if a := setting.Of(plan, setting.Antifreeze); a.Has() {
		antifreeze = quantity.Both(amount.Antifreeze(n, a, amount.Drained, rules).Total, sys)
	}
	if a := setting.Of(plan, setting.ThroughHeater); a.Has() {
		in = quantity.Both(amount.Antifreeze(n, a, amount.Drained, rules).Total, sys)
	}
	if a := setting.Of(plan, setting.Sanitize); a.Has() {
		doses := amount.PlanDoses(n, a, rules)
		d := doses[0]
		bleach = fmt.Sprintf("%s, %s", d.Measured, quantity.Show(d.Final, sys))
		for _, more := range doses[1:] {
			bleach += fmt.Sprintf("; %s: %s, %s", more.Name(), more.Measured, quantity.Show(more.Final, sys))
			d.Filled = max(d.Filled, more.Filled)
		}
		if d.Why != "" {
			bleach = "none"
		} else if p := amount.PlanFlush(n, plan, d.Filled, rules); p.Quickest() != nil {
			way := p.Quickest()
			flush = fmt.Sprintf("%s, %s", way.Short, quantity.Both(way.Water, sys))
			whole = amount.Forwards(amount.SanitizeStages(times, amount.OutletTime(n, d.Drawn, rules), house.SoakHigh.Of(rules), way), time.Time{}).Words()
		}
	}
	return append(list, [2]string{"Antifreeze, lines drained", antifreeze}, [2]string{"The same, heater left in", in},
		[2]string{"Bleach, by the house's rules", bleach},
		[2]string{"Water, all full", amount.Weights(n).Value},
		[2]string{"Flushing out, the quickest way", flush},
		[2]string{"Sanitizing, soak and all", whole},
		[2]string{"Filling the tank", first(times, "fill-")}, [2]string{"Pumping it out", first(times, "pump-out")},
		[2]string{"Warming the heater up", first(times, "warm-")}, [2]string{"Cooling it before it is opened", first(times, "cool-")},
		[2]string{"Air for blowing out", quantity.Both(amount.PressureCeiling(n, rules).Chosen, sys)},
		[2]string{"Lines", fmt.Sprint(len(n.Model.Lines))}, [2]string{"Parts", fmt.Sprint(len(n.Model.Parts))})
}

// first is the value of the first time whose id begins so.
func first(times []amount.Figure, prefix string) string {
	for _, f := range times {
		if strings.HasPrefix(f.ID, prefix) {
			return f.Value
		}
	}
	return "none"
}

// Sheet is the figures of several models side by side: one row a figure.
func Sheet(subjects []Subject) (names []string, rows [][]string) {
	for i, s := range subjects {
		for j, f := range figures(s) {
			if i == 0 {
				names = append(names, f[0])
				rows = append(rows, nil)
			}
			rows[j] = append(rows[j], f[1])
		}
	}
	return names, rows
}
