package finding

import (
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// Trap reports whether findings of a code tell of a trap of a model: something that catches whoever does not know it.
func Trap(code string) bool {
	return code == "label-misleads" || slices.ContainsFunc(trapRules, func(r Rule) bool { return r.Code == code })
}

// trapRules tell the places that keep water when all is drained as well as it
// can be. Each full place is told once, by the first of these that fits.
var trapRules = []Rule{
	{Code: "loop-below-drain", Severity: Warning, find: pocketsOf(dipped, dips)},
	{Code: "drain-high", Severity: Warning, find: each(func(s *survey, p *plumbing.Part) fact.Fact {
		d := s.drained()
		own, ok := p.PortHeight("in")
		if d == nil || !ok {
			return fact.Fact{}
		}
		for _, l := range s.at(p) {
			for _, ref := range []string{l.From, l.To} {
				id, port := plumbing.PartOf(ref)
				x := s.net.Model.Part(id)
				h, has := x.PortHeight(port)
				if stays := d.left.Stays(s.net, l.ID); x != p && has && h < own-0.001 && stays > 0 {
					return fact.Of("finding.drain-high", p, own, x, h, stays)
				}
			}
		}
		return fact.Fact{}
	}, plumbing.RoleDrain)},
	{Code: "city-pocket", Severity: Note, find: pocketsOf(func(s *survey, p *pocket) fact.Fact {
		return fact.Of("finding.city-pocket", s.nameOf(p), p.stays)
	}, atInlet)},
	{Code: "port-hose-holds", Severity: Warning, find: pocketsOf(func(s *survey, p *pocket) fact.Fact {
		return fact.Of("finding.port-hose-holds", s.nameOf(p), p.stays, p.low)
	}, atPort)},
	{Code: "shut-in", Severity: Warning, find: pocketsOf(func(s *survey, p *pocket) fact.Fact {
		return fact.Of("finding.shut-in", s.nameOf(p), p.stays, s.handlesAt(p))
	}, shutIn)},
	{Code: "pocket", Severity: Warning, find: pocketsOf(func(s *survey, p *pocket) fact.Fact {
		return fact.Of("finding.pocket", s.nameOf(p), p.stays, because(p.why))
	}, deadEnd)},
	{Code: "pump-holds", Severity: Note, find: pocketsOf(func(s *survey, p *pocket) fact.Fact {
		return fact.Of("finding.pump-holds", s.nameOf(p), p.stays)
	}, atPump)},
	{Code: "strainer-holds", Severity: Note, find: func(s *survey) []hit {
		d := s.drained()
		var list []hit
		for _, p := range s.parts(plumbing.RoleStrainer) {
			if d != nil && d.left.Stays(s.net, p.ID) > 0 {
				list = append(list, hit{[]string{p.ID}, fact.Of("finding.strainer-holds", p)})
			}
		}
		return list
	}},
	{Code: "rinse-line-holds", Severity: Note, find: func(s *survey) []hit {
		var list []hit
		for _, p := range s.parts(plumbing.RoleRinse) {
			list = append(list, hit{[]string{p.ID}, fact.Of("finding.rinse-line-holds", p)})
		}
		return list
	}},
	{Code: "heater-cant-empty", Severity: Error, find: heatersFull},
	{Code: "tank-no-drain", Severity: Warning, find: func(s *survey) []hit {
		var list []hit
		for _, p := range s.parts(plumbing.RoleTank) {
			switch v, known := s.staysIn(p); {
			case p.Place.Height.IsZero() && s.joined(p, "drain"):
			case !known || v >= p.Data.Capacity.Value():
				list = append(list, hit{[]string{p.ID}, fact.Of("finding.tank-no-drain", p)})
			case v > p.Data.Heel.Value()+0.02*p.Data.Capacity.Value():
				list = append(list, hit{[]string{p.ID}, fact.Of("finding.tank-no-drain.below", p, v)})
			}
		}
		return list
	}},
	{Code: "off-level", Severity: Note, find: offLevel},
	{Code: "machine-cycle", Severity: Note, find: each(func(_ *survey, p *plumbing.Part) fact.Fact {
		return fact.Of("finding.machine-cycle", p)
	}, plumbing.RoleMachine)},
	{Code: "frost-valve", Severity: Note, find: each(func(_ *survey, p *plumbing.Part) fact.Fact {
		return fact.Of("finding.frost-valve", p, p.Data.OpensBelow)
	}, plumbing.RoleFrost)},
}

// staysIn is what a part keeps when all is drained; known is false where
// nothing is drained at all.
func (s *survey) staysIn(p *plumbing.Part) (v quantity.Litre, known bool) {
	d := s.drained()
	if d == nil {
		return 0, false
	}
	return d.left.Stays(s.net, p.ID), true
}

// heatersFull finds heaters that water comes to and that can't be emptied.
func heatersFull(s *survey) []hit {
	wet := s.wet()
	var list []hit
	for _, h := range s.parts(plumbing.RoleHeater) {
		if h.Data.Type == "portable" || !wet.Part(h) || h.Place.Height.IsZero() {
			continue // what drains can't be told without its height: a finding of its own
		}
		v, known := s.staysIn(h)
		if known && v <= h.Data.Heel.Value()+0.02*h.Data.Capacity.Value() {
			continue
		}
		var keeps, because fact.Fact
		if known {
			keeps = fact.Of("finding.heater-cant-empty.keeps", v)
			because = s.heaterHeld(h)
		}
		list = append(list, hit{[]string{h.ID}, fact.Of("finding.heater-cant-empty", h, keeps, because)})
	}
	return list
}

// heaterHeld says why a heater keeps more than its heel.
func (s *survey) heaterHeld(h *plumbing.Part) fact.Fact {
	d := s.drained()
	for i, p := range d.left.Pieces {
		if p.Part == h && d.why[i] != flow.Heel {
			return fact.Of("finding.heater-cant-empty.because", because(d.why[i]))
		}
	}
	return fact.Fact{}
}

// offLevel tells of the attitude in which most more stays, and of the one in
// which least does.
func offLevel(s *survey) []hit {
	d := s.drained()
	if d == nil || len(d.left.Unknown) == len(s.net.Model.Parts) {
		return nil
	}
	const worth quantity.Litre = 0.02
	level := d.left.Total()
	worst, best := level, level
	var worstAt, bestAt state.Attitude
	for _, a := range state.Attitudes()[1:] {
		tilted := d.state
		tilted.Attitude = a
		switch v := flow.Drain(s.net, tilted).Total(); {
		case v > worst+1e-9:
			worst, worstAt = v, a
		case v < best-1e-9:
			best, bestAt = v, a
		}
	}
	if worst-level < worth && level-best < worth {
		return nil
	}
	return []hit{{nil, fact.Of("finding.off-level", level,
		fact.If(worst-level >= worth, fact.Of("finding.off-level.worst", worstAt, worst)),
		fact.If(level-best >= worth, fact.Of("finding.off-level.best", bestAt, best)))}}
}
