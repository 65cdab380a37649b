package finding

import (
	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// handleRules look at handles, their labels and how they normally stand.
var handleRules = []Rule{
	{Code: "reading-missing", Severity: Warning, find: func(s *survey) []hit {
		var list []hit
		for _, h := range s.net.Handles {
			p := h.Part
			if p.Reading.Handle == "" && !p.Kind.Info().Plain {
				list = append(list, hit{[]string{p.ID}, fact.Of("finding.reading-missing", p)})
			}
		}
		return list
	}},
	{Code: "normal-odd", Severity: Warning, find: func(s *survey) []hit {
		a := setting.ForMode(s.plan, setting.Everyday)
		if a == nil || !a.OK {
			return nil
		}
		var list []hit
		for i, h := range s.net.AllHandles() {
			if at := a.State.Position(i); at != h.Normal {
				list = append(list, hit{[]string{h.Part.ID}, fact.Of("finding.normal-odd", h.Part, h.Positions[at],
					h.Positions[h.Normal])})
			}
		}
		return list
	}},
	{Code: "kept-refused", Severity: Error, Danger: true, find: func(s *survey) (list []hit) {
		for _, a := range s.plan {
			if a.Refused != nil {
				list = append(list, hit{[]string{}, fact.Of("finding.kept-refused", a.Mode.Name, a.Refused.By)})
			}
		}
		return list
	}},
	{Code: "kept-breaks", Severity: Warning, find: func(s *survey) (list []hit) {
		for _, a := range s.plan {
			if a.Kept != nil && !a.OK {
				list = append(list, hit{[]string{}, fact.Of("finding.kept-breaks", a.Mode.Name, a.Kept.By)})
			}
		}
		return list
	}},
	{Code: "label-misleads", Severity: Warning, find: labels},
	{Code: "driven-nothing", Severity: Error, find: each(func(_ *survey, p *plumbing.Part) fact.Fact {
		for _, c := range p.Selector {
			if len(c.Sets) > 0 {
				return fact.Fact{}
			}
		}
		return fact.Of("finding.driven-nothing", p)
	}, plumbing.RoleSelector)},
	{Code: "motor-undriven", Severity: Warning, find: func(s *survey) []hit {
		var list []hit
		for _, h := range s.net.Handles {
			if h.Part.Data.Motor {
				list = append(list, hit{[]string{h.Part.ID}, fact.Of("finding.motor-undriven", h.Part)})
			}
		}
		return list
	}},
	{Code: "motor-valve", Severity: Note, find: each(func(_ *survey, p *plumbing.Part) fact.Fact {
		if !p.Data.Motor {
			return fact.Fact{}
		}
		if p.Tool != "" {
			return fact.Of("finding.motor-valve.tool", p, p.Tool)
		}
		return fact.Of("finding.motor-valve", p)
	}, plumbing.RoleShutOff, plumbing.RoleDiverter)},
	{Code: "tool-missing", Severity: Note, find: each(func(_ *survey, p *plumbing.Part) fact.Fact {
		if p.Data.Closure == "plug" && p.Tool == "" {
			return fact.Of("finding.tool-missing", p)
		}
		return fact.Fact{}
	}, plumbing.RoleDrain)},
}

// movesHeater reports whether turning a handle from everyday changes whether
// a heater is in the way: it sets a valve right beside one, or opens and shuts
// a way around it.
func (s *survey) movesHeater(h plumbing.HandleID) bool {
	for _, l := range s.net.Links {
		if l.Handle == h && s.besideHeater(l) {
			return true
		}
	}
	base := state.Normal(s.net)
	if a := setting.ForMode(s.plan, setting.Everyday); a != nil && a.OK {
		base = a.State
	}
	base.Pumps = state.AllPumps(s.net)
	past := map[bool]bool{}
	for pos := range s.net.Handles[h].All() {
		r := flow.Reach(s.net, base.With(h, pos), flow.Query{From: s.sources(), Without: s.parts(plumbing.RoleHeater)})
		hot := false
		for i, n := range s.net.AllNodes() {
			hot = hot || r.Node(i) && n.Port == "hot" && n.Part.Kind.Info().Target
		}
		past[hot] = true
	}
	return len(past) == 2
}

// besideHeater reports whether a line joins a passage's part to a heater.
func (s *survey) besideHeater(l plumbing.Link) bool {
	for _, x := range s.at(l.Part) {
		for _, ref := range []string{x.From, x.To} {
			id, _ := plumbing.PartOf(ref)
			if s.net.Model.Part(id).Role() == plumbing.RoleHeater {
				return true
			}
		}
	}
	return false
}

// turnsPast says which filter, if any, a handle turns water past.
func (s *survey) turnsPast(h plumbing.Handle) fact.Fact {
	for _, c := range h.Part.Selector {
		for id := range c.Sets {
			for _, l := range s.at(s.net.Model.Part(id)) {
				for _, ref := range []string{l.From, l.To} {
					pid, _ := plumbing.PartOf(ref)
					if p := s.net.Model.Part(pid); p.Role() == plumbing.RoleFilter {
						return fact.Of("finding.turns.past", p)
					}
				}
			}
		}
	}
	return fact.Of("finding.turns.elsewhere")
}
