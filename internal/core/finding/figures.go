package finding

import (
	"maps"
	"math"
	"reflect"
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// pairLimit is how far two figures for the same thing may lie apart.
const pairLimit = 0.02

// figureRules look at figures alone.
var figureRules = []Rule{
	{Code: "length-missing", Severity: Error, find: eachLine(func(s *survey, l *plumbing.Line) fact.Fact {
		if l.Length.Value() > 0 {
			return fact.Fact{}
		}
		return fact.Of("finding.length-missing", s.lineName(l))
	})},
	{Code: "length-odd", Severity: Warning, find: eachLine(func(s *survey, l *plumbing.Line) fact.Fact {
		if v := l.Length.Value(); v > 15000 || v > 0 && v < 10 {
			return fact.Of("finding.length-odd", s.lineName(l), l.Length)
		}
		return fact.Fact{}
	})},
	{Code: "diameter-missing", Severity: Error, find: eachLine(func(s *survey, l *plumbing.Line) fact.Fact {
		if d, _ := l.InsideDiameter(); d > 0 {
			return fact.Fact{}
		}
		return fact.Of("finding.diameter-missing", s.lineName(l))
	})},
	{Code: "diameter-odd", Severity: Warning, find: eachLine(func(s *survey, l *plumbing.Line) fact.Fact {
		if d, _ := l.InsideDiameter(); d > 0 && (d < 4 || d > 60) {
			return fact.Of("finding.diameter-odd", s.lineName(l), quantity.Figure(float64(d), 9, 1))
		}
		return fact.Fact{}
	})},
	{Code: "pair-disagrees", Severity: Warning, find: pairs},
	{Code: "capacity-odd", Severity: Warning, find: each(func(_ *survey, p *plumbing.Part) fact.Fact {
		d := p.Data
		box := float64(d.InsideLength.Value()) * float64(d.InsideWidth.Value()) * float64(d.InsideHeight.Value()) * 1e-6
		have := float64(d.Capacity.Value())
		if box == 0 || math.Abs(box-have)/max(box, have) <= pairLimit {
			return fact.Fact{}
		}
		return fact.Of("finding.capacity-odd", p, quantity.Litre(box), d.Capacity)
	}, plumbing.RoleTank)},
	{Code: "fuse-missing", Severity: Warning, find: each(func(_ *survey, p *plumbing.Part) fact.Fact {
		if p.Data.Fuse.IsZero() {
			return fact.Of("finding.fuse-missing", p)
		}
		return fact.Fact{}
	}, plumbing.RolePump)},
	{Code: "dry-run-missing", Severity: Note, find: each(func(_ *survey, p *plumbing.Part) fact.Fact {
		if p.Data.DryRun.IsZero() {
			return fact.Of("finding.dry-run-missing", p)
		}
		return fact.Fact{}
	}, plumbing.RolePump)},
	{Code: "regulator-missing", Severity: Warning, find: each(func(_ *survey, p *plumbing.Part) fact.Fact {
		if p.Data.Regulator.IsZero() {
			return fact.Of("finding.regulator-missing", p)
		}
		return fact.Fact{}
	}, plumbing.RoleInlet)},
	{Code: "anode-missing", Severity: Note, find: each(func(_ *survey, p *plumbing.Part) fact.Fact {
		if p.Data.Type == "storage-steel" && (p.Data.AnodeNew.IsZero() || p.Data.AnodeCore.IsZero()) {
			return fact.Of("finding.anode-missing", p)
		}
		return fact.Fact{}
	}, plumbing.RoleHeater)},
	{Code: "height-missing", Severity: Warning, find: each(func(_ *survey, p *plumbing.Part) fact.Fact {
		if p.Place.Height.IsZero() {
			return fact.Of("finding.height-missing", p)
		}
		return fact.Fact{}
	}, drainable()...)},
	{Code: "holds-missing", Severity: Note, find: each(func(_ *survey, p *plumbing.Part) fact.Fact {
		switch {
		case (p.Role() == plumbing.RoleTank || p.Role() == plumbing.RoleHeater && p.Storage()) && p.Data.Heel.IsZero():
			return fact.Of("finding.holds-missing", p, fact.Field("data.heel"))
		case holdsWater(p) && p.Data.HoldUp.IsZero():
			return fact.Of("finding.holds-missing", p, fact.Field("data.hold_up"))
		}
		return fact.Fact{}
	}, plumbing.RoleTank, plumbing.RoleHeater, plumbing.RolePump, plumbing.RoleStrainer, plumbing.RoleInlet)},
	{Code: "height-odd", Severity: Warning, find: heights},
	{Code: "assumed", Severity: Note, find: assumed},
}

// Heights that no camper has: below the ground, or on a boat deeper than any
// keel; further above its roof than a vent stands, and where nobody gave a roof
// higher than a road vehicle may be.
const (
	deepest   = quantity.Metre(-3)
	aboveRoof = quantity.Metre(0.5)
	tallest   = quantity.Metre(4.5)
)

// holdsWater reports whether a part on the way of water holds some that nothing else
// tells: a pump, a strainer, an inlet.
func holdsWater(p *plumbing.Part) bool {
	return p.Role() == plumbing.RolePump || p.Role() == plumbing.RoleStrainer || p.Role() == plumbing.RoleInlet
}

// heights finds what is said to be below the ground, or far above the roof.
func heights(s *survey) (list []hit) {
	most := tallest
	if roof := s.net.Model.Body.Roof; !roof.IsZero() {
		most = roof.Value() + aboveRoof
	}
	vehicle, least := s.net.Model.Vehicle(), quantity.Metre(0)
	if vehicle.Floats {
		least = deepest
	}
	judge := func(id string, what any, g quantity.Given[quantity.Metre]) {
		switch v := g.Value(); {
		case g.IsZero():
		case v < least:
			list = append(list, hit{[]string{id}, fact.Of("finding.height-odd.below", what, g, vehicle.Datum)})
		case v > most:
			list = append(list, hit{[]string{id}, fact.Of("finding.height-odd.above", what, g, most, vehicle.Datum)})
		}
	}
	for i := range s.net.Model.Parts {
		p := &s.net.Model.Parts[i]
		judge(p.ID, p, p.Place.Height)
		for _, port := range slices.Sorted(maps.Keys(p.Heights)) {
			judge(p.ID, p, p.Heights[port])
		}
	}
	for _, l := range s.lines() {
		for _, spot := range l.Spots {
			judge(l.ID, s.lineName(l), spot.Height)
		}
	}
	return list
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
	check := func(id string, what any, v reflect.Value) {
		for i := range v.NumField() {
			g, ok := v.Field(i).Interface().(interface {
				Disagreement() float64
				String() string
			})
			if ok && g.Disagreement() > pairLimit {
				list = append(list, hit{[]string{id}, fact.Of("finding.pair-disagrees", what, g,
					quantity.Figure(100*g.Disagreement(), 3, 0))})
			}
		}
	}
	for i := range s.net.Model.Parts {
		p := &s.net.Model.Parts[i]
		check(p.ID, p, reflect.ValueOf(p.Data))
		check(p.ID, p, reflect.ValueOf(p.Place))
	}
	for _, l := range s.lines() {
		check(l.ID, s.lineName(l), reflect.ValueOf(*l))
	}
	return list
}

// assumed finds, in one, the parts and lines that have values which nobody gave.
func assumed(s *survey) []hit {
	var all hit
	values := 0
	for i := range s.net.Model.Parts {
		if p := &s.net.Model.Parts[i]; p.Assumed != nil {
			all.parts, values = append(all.parts, p.ID), values+len(p.Assumed)
		}
	}
	for _, l := range s.lines() {
		if l.Assumed != nil {
			all.parts, values = append(all.parts, l.ID), values+len(l.Assumed)
		}
	}
	if values == 0 {
		return nil
	}
	all.said = fact.Of("finding.assumed", values, len(all.parts))
	return []hit{all}
}
