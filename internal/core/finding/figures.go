package finding

import (
	"fmt"
	"math"
	"reflect"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// pairLimit is how far two figures for the same thing may lie apart.
const pairLimit = 0.02

// figureRules look at figures alone.
var figureRules = []Rule{
	{Code: "length-missing", Severity: Error, Why: "Without it nothing that this line holds is counted.", Remedy: "Measure the line and give its length.",
		find: eachLine(func(s *survey, l *plumbing.Line) string {
			if l.Length.Value() > 0 {
				return ""
			}
			return s.lineName(l) + " has no length."
		})},
	{Code: "length-odd", Severity: Warning, Why: "A slip in the unit changes every amount.", Remedy: "Look whether feet, inches or metres were meant.",
		find: eachLine(func(s *survey, l *plumbing.Line) string {
			if v := l.Length.Value(); v > 15000 || v > 0 && v < 10 {
				return fmt.Sprintf("%s is %s long.", s.lineName(l), l.Length)
			}
			return ""
		})},
	{Code: "diameter-missing", Severity: Error, Why: "Without it nothing that this line holds is counted.", Remedy: "Give the size, or the inside diameter.",
		find: eachLine(func(s *survey, l *plumbing.Line) string {
			if d, _ := l.InsideDiameter(); d > 0 {
				return ""
			}
			return s.lineName(l) + " has no size and no inside diameter."
		})},
	{Code: "diameter-odd", Severity: Warning, Why: "The content goes with the square of the diameter.", Remedy: "Look whether inches or millimetres were meant.",
		find: eachLine(func(s *survey, l *plumbing.Line) string {
			if d, _ := l.InsideDiameter(); d > 0 && (d < 4 || d > 60) {
				return fmt.Sprintf("%s is %.1f mm inside.", s.lineName(l), d)
			}
			return ""
		})},
	{Code: "pair-disagrees", Severity: Warning, Why: "One of the two figures is wrong, and a reader will find the other.", Remedy: "Ask engineering which figure holds and take the other out.",
		find: pairs},
	{Code: "capacity-odd", Severity: Warning, Why: "The dose and the weight are worked out from the capacity.", Remedy: "Measure again, or give the right inside measures.",
		find: each(func(_ *survey, p *plumbing.Part) string {
			d := p.Data
			box := float64(d.InsideLength.Value()) * float64(d.InsideWidth.Value()) * float64(d.InsideHeight.Value()) * 1e-6
			have := float64(d.Capacity.Value())
			if box == 0 || math.Abs(box-have)/max(box, have) <= pairLimit {
				return ""
			}
			return fmt.Sprintf("%s: the inside measures give %s, the capacity says %s.", p.Name, quantity.Both(quantity.Litre(box), quantity.US), d.Capacity)
		}, plumbing.RoleTank)},
	{Code: "fuse-missing", Severity: Warning, Why: "The guide must say the fuse, and that it is never larger.", Remedy: "Give the fuse that is marked.",
		find: each(func(_ *survey, p *plumbing.Part) string {
			if p.Data.Fuse.IsZero() {
				return p.Name + " has no fuse stated."
			}
			return ""
		}, plumbing.RolePump)},
	{Code: "dry-run-missing", Severity: Note, Why: "Steps that run the pump dry need a limit.", Remedy: "Give the longest time that the pump may run dry.",
		find: each(func(_ *survey, p *plumbing.Part) string {
			if p.Data.DryRun.IsZero() {
				return p.Name + ": no limit for running dry."
			}
			return ""
		}, plumbing.RolePump)},
	{Code: "regulator-missing", Severity: Warning, Why: "Unregulated supplies burst fittings.", Remedy: "Give the regulator's pressure.",
		find: each(func(_ *survey, p *plumbing.Part) string {
			if p.Data.Regulator.IsZero() {
				return p.Name + " has no regulator pressure."
			}
			return ""
		}, plumbing.RoleInlet)},
	{Code: "anode-missing", Severity: Note, Why: "How much of the rod is used can't be worked out.", Remedy: "Give the new diameter and that of the core.",
		find: each(func(_ *survey, p *plumbing.Part) string {
			if p.Data.Type == "storage-steel" && (p.Data.AnodeNew.IsZero() || p.Data.AnodeCore.IsZero()) {
				return p.Name + " is of steel, but has no anode rod figures."
			}
			return ""
		}, plumbing.RoleHeater)},
	{Code: "height-missing", Severity: Warning, Why: "Whether it drains can't be judged.", Remedy: "Give the part's height above the ground.",
		find: each(func(_ *survey, p *plumbing.Part) string {
			if p.Place.Height.IsZero() {
				return p.Name + " has no height."
			}
			return ""
		}, drainable()...)},
}

// drainable lists the roles whose height matters for draining.
func drainable() []plumbing.Role {
	var list []plumbing.Role
	for _, k := range plumbing.Kinds() {
		if len(k.Ports) > 0 && k.Role != plumbing.RoleWaste {
			list = append(list, k.Role)
		}
	}
	return list
}

// pairs finds quantities given twice that disagree, wherever they stand.
func pairs(s *survey) []hit {
	var list []hit
	check := func(id, name string, v reflect.Value) {
		for i := range v.NumField() {
			g, ok := v.Field(i).Interface().(interface {
				Disagreement() float64
				String() string
			})
			if ok && g.Disagreement() > pairLimit {
				list = append(list, hit{[]string{id}, fmt.Sprintf("%s: “%s” differs by %.0f %%.", name, g, g.Disagreement()*100)})
			}
		}
	}
	for i := range s.net.Model.Parts {
		p := &s.net.Model.Parts[i]
		check(p.ID, p.Name, reflect.ValueOf(p.Data))
		check(p.ID, p.Name, reflect.ValueOf(p.Place))
	}
	for _, l := range s.lines() {
		check(l.ID, s.lineName(l), reflect.ValueOf(*l))
	}
	return list
}
