package finding

import (
	"math"
	"slices"
	"strings"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
)

// equipmentRules look for equipment that is missing.
var equipmentRules = []Rule{
	{Code: "heater-no-bypass", Severity: Warning, find: each(func(s *survey, p *plumbing.Part) fact.Fact {
		hot := s.net.Node(p.ID + ".hot")
		if !s.reach(s.sources()).Node(hot) || s.hotWithout(p) {
			return fact.Fact{}
		}
		return fact.Of("finding.heater-no-bypass", p)
	}, plumbing.RoleHeater)},
	{Code: "bypass-useless", Severity: Warning, find: each(func(s *survey, p *plumbing.Part) fact.Fact {
		a := setting.ForMode(s.plan, setting.Sanitize)
		if a == nil || a.OK || a.Mode.LeftOut.ID != "" || !s.hotWithout(p) || !s.conflicts(a, p) {
			return fact.Fact{}
		}
		return fact.Of("finding.bypass-useless", p)
	}, plumbing.RoleHeater)},
	{Code: "tank-no-vent", Severity: Error, find: each(func(s *survey, p *plumbing.Part) fact.Fact {
		if s.joined(p, "vent") || s.joined(p, "overflow") {
			return fact.Fact{}
		}
		return fact.Of("finding.tank-no-vent", p)
	}, plumbing.RoleTank)},
	{Code: "tank-no-overflow", Severity: Note, find: each(func(s *survey, p *plumbing.Part) fact.Fact {
		if s.joined(p, "overflow") || !s.joined(p, "fill") && !s.joined(p, "return") {
			return fact.Fact{}
		}
		return fact.Of("finding.tank-no-overflow", p)
	}, plumbing.RoleTank)},
	{Code: "pickup-missing", Severity: Warning, find: each(func(s *survey, p *plumbing.Part) fact.Fact {
		var from []plumbing.NodeID
		for _, x := range s.parts(plumbing.RolePickUp, plumbing.RoleJoint) {
			from = append(from, s.net.Node(x.ID+".mouth"))
		}
		if s.reach(from).Node(s.net.Node(p.ID + ".in")) {
			return fact.Fact{}
		}
		return fact.Of("finding.pickup-missing", p)
	}, plumbing.RolePump)},
	{Code: "tank-no-fill", Severity: Warning, find: each(func(s *survey, p *plumbing.Part) fact.Fact {
		if s.joined(p, "fill") || s.joined(p, "return") || s.joined(p, "link") || s.joined(p, "hatch") {
			return fact.Fact{}
		}
		return fact.Of("finding.tank-no-fill", p)
	}, plumbing.RoleTank)},
	{Code: "overflow-small", Severity: Warning, find: each(overflow, plumbing.RoleTank)},
	{Code: "pump-no-strainer", Severity: Warning, find: each(func(s *survey, p *plumbing.Part) fact.Fact {
		strainers := s.parts(plumbing.RoleStrainer)
		for _, t := range s.parts(plumbing.RoleTank) {
			if s.reach([]plumbing.NodeID{s.net.Node(t.ID + ".supply")}, strainers...).Node(s.net.Node(p.ID + ".in")) {
				return fact.Of("finding.pump-no-strainer", p, t)
			}
		}
		return fact.Fact{}
	}, plumbing.RolePump)},
	{Code: "city-no-check", Severity: Error, Danger: true, find: each(func(_ *survey, p *plumbing.Part) fact.Fact {
		if p.Data.CheckValve {
			return fact.Fact{}
		}
		return fact.Of("finding.city-no-check", p)
	}, plumbing.RoleInlet, plumbing.RoleBarrel)},
	{Code: "heater-look-missing", Severity: Warning, find: each(func(_ *survey, p *plumbing.Part) fact.Fact {
		if p.Look != "" || p.Option == "" && p.Without == "" {
			return fact.Fact{}
		}
		return fact.Of("finding.heater-look-missing", p)
	}, plumbing.RoleHeater)},
	{Code: "jumper-foul", Severity: Error, Danger: true, find: each(func(s *survey, p *plumbing.Part) fact.Fact {
		if foul := setting.FoulEnd(s.net.Model, p); foul != nil {
			return fact.Of("finding.jumper-foul", p, foul)
		}
		return fact.Fact{}
	}, plumbing.RoleJumper)},
	{Code: "hull-low", Severity: Note, find: each(func(_ *survey, p *plumbing.Part) fact.Fact {
		if p.Data.AboveWaterline {
			return fact.Fact{}
		}
		return fact.Of("finding.hull-low", p)
	}, plumbing.RoleHull)},
	{Code: "rinse-no-check", Severity: Error, Danger: true, find: each(func(_ *survey, p *plumbing.Part) fact.Fact {
		if p.Data.CheckValve {
			return fact.Fact{}
		}
		return fact.Of("finding.rinse-no-check", p)
	}, plumbing.RoleRinse)},
	{Code: "gas-uncoupled", Severity: Warning, find: each(func(s *survey, p *plumbing.Part) fact.Fact {
		coupled := slices.ContainsFunc(s.parts(plumbing.RoleCoupling), func(c *plumbing.Part) bool { return s.net.Beside(c, p) })
		if !coupled || !slices.Contains(p.HeatBy(), plumbing.Gas) ||
			slices.ContainsFunc(s.parts(plumbing.RoleGas), func(g *plumbing.Part) bool { return g.Data.Serves == p.ID }) {
			return fact.Fact{}
		}
		return fact.Of("finding.gas-uncoupled", p)
	}, plumbing.RoleHeater)},
	{Code: "control-no-off", Severity: Warning, find: each(func(s *survey, p *plumbing.Part) fact.Fact {
		for _, c := range p.Controls {
			if x := s.net.Model.Part(c.Part); x != nil && c.Off == "" {
				return fact.Of("finding.control-no-off", p, x)
			}
		}
		return fact.Fact{}
	}, plumbing.RoleControl, plumbing.RoleIsolator)},
	{Code: "low-point-missing", Severity: Warning, find: lowPoints},
	{Code: "trap-missing", Severity: Note, find: func(s *survey) []hit {
		need := 0
		for _, o := range s.parts(plumbing.RoleOutlet) {
			if w := s.net.Model.Part(o.Data.Waste); w != nil && w.Data.Type == "grey" {
				need++
			}
		}
		if have := len(s.parts(plumbing.RoleTrap)); need > 0 && have == 0 {
			return []hit{{nil, fact.Of("finding.trap-missing", need)}}
		}
		return nil
	}},
	{Code: "engine-heat-unmixed", Severity: Warning, find: each(func(s *survey, p *plumbing.Part) fact.Fact {
		if !p.Data.Engine {
			return fact.Fact{}
		}
		r := s.reach([]plumbing.NodeID{s.net.Node(p.ID + ".hot")}, s.parts(plumbing.RoleMixer)...)
		for i, n := range s.net.AllNodes() {
			if n.Port == "hot" && n.Part.Kind.Info().Target && r.Node(i) {
				return fact.Of("finding.engine-heat-unmixed", p, n.Part)
			}
		}
		return fact.Fact{}
	}, plumbing.RoleHeater)},
	{Code: "engine-coolant", Severity: Note, find: each(func(_ *survey, p *plumbing.Part) fact.Fact {
		if !p.Data.Engine {
			return fact.Fact{}
		}
		return fact.Of("finding.engine-coolant", p)
	}, plumbing.RoleHeater)},
	{Code: "waste-missing", Severity: Note, find: each(func(_ *survey, p *plumbing.Part) fact.Fact {
		if p.Data.Waste != "" || !slices.Contains([]string{"kitchen", "basin", "shower", "toilet", "washing-machine",
			"dishwasher"}, p.Data.Type) || strings.Contains(p.Place.Reach, "outside") {
			return fact.Fact{}
		}
		return fact.Of("finding.waste-missing", p)
	}, plumbing.RoleOutlet, plumbing.RoleMachine)},
}

// hotWithout reports whether some hot side is reached with the heater taken out.
func (s *survey) hotWithout(heater *plumbing.Part) bool {
	r := flow.Reach(s.net, s.wide, flow.Query{From: s.sources(), Without: []*plumbing.Part{heater}, Untempered: true})
	for i, n := range s.net.AllNodes() {
		if n.Port == "hot" && n.Part.Kind.Info().Target && r.Node(i) {
			return true
		}
	}
	return false
}

// conflicts reports whether keeping a heater out is part of why a mode has no
// setting.
func (s *survey) conflicts(a *setting.Answer, heater *plumbing.Part) bool {
	for _, c := range a.Clash {
		if c.Aim == setting.HeaterOut && c.Target == heater {
			return true
		}
	}
	return false
}

// overflow compares what a tank's overflow carries with 50 mm of head, by the
// orifice law with a coefficient of 0.62, with what the fill brings.
func overflow(s *survey, p *plumbing.Part) fact.Fact {
	const head, cd, g = 0.05, 0.62, 9.81
	var out, in quantity.LitrePerMinute
	for _, l := range s.lines() {
		if l.From == p.ID+".overflow" || l.To == p.ID+".overflow" {
			d, _ := l.InsideDiameter()
			out = quantity.LitrePerMinute(cd * math.Pi / 4 * float64(d) * float64(d) * 1e-6 * math.Sqrt(2*g*head) * 60000)
		}
	}
	if out == 0 {
		return fact.Fact{}
	}
	for _, f := range s.parts(plumbing.RoleFill, plumbing.RoleFloat) {
		if s.reach(s.nodes(f)).Node(s.net.Node(p.ID+".fill")) || s.reach(s.nodes(f)).Node(s.net.Node(p.ID+".return")) {
			in = max(in, f.Data.Flow.Value())
		}
	}
	if in <= out {
		return fact.Fact{}
	}
	return fact.Of("finding.overflow-small", p, out, in)
}

// lowPoints finds sides of which no water gets to a drain but through a tank
// or a heater.
func lowPoints(s *survey) []hit {
	var list []hit
	for _, port := range []string{"cold", "hot"} {
		var from []plumbing.NodeID
		for i, n := range s.net.AllNodes() {
			if n.Port == port && n.Part.Kind.Info().Target && s.net.Joined(i) {
				from = append(from, i)
			}
		}
		r := s.reach(from, s.parts(plumbing.RoleTank, plumbing.RoleHeater)...)
		drained := false
		for _, d := range s.parts(plumbing.RoleDrain, plumbing.RoleFrost) {
			drained = drained || r.Part(d)
		}
		for _, d := range s.parts(plumbing.RoleHull) {
			drained = drained || d.Lets() && r.Part(d)
		}
		if len(from) > 0 && !drained {
			list = append(list, hit{nil, fact.Of("finding.low-point-missing", plumbing.Side(port))})
		}
	}
	return list
}
