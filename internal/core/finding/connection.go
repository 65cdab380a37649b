package finding

import (
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
)

// connectionRules look at what is joined to what.
var connectionRules = []Rule{
	{Code: "outlet-dry", Severity: Warning, find: func(s *survey) []hit {
		var list []hit
		for _, c := range setting.Dry(s.net) {
			list = append(list, hit{[]string{c.Target.ID}, fact.Of("finding.outlet-dry", c.Subject())})
		}
		return list
	}},
	{Code: "no-everyday", Severity: Error, find: func(s *survey) []hit {
		a := setting.ForMode(s.plan, setting.Everyday)
		if a == nil || a.OK || a.Mode.LeftOut.ID != "" {
			return nil
		}
		return []hit{{nil, fact.Of("finding.no-everyday", a.Why)}}
	}},
	{Code: "part-loose", Severity: Warning, find: func(s *survey) []hit {
		var list []hit
		for i := range s.net.Model.Parts {
			p := &s.net.Model.Parts[i]
			joined := slices.ContainsFunc(p.Ports(), func(i plumbing.PortInfo) bool { return s.joined(p, i.Name) })
			if p.Role() == plumbing.RoleJumper && len(p.Ends) == 0 {
				list = append(list, hit{[]string{p.ID}, fact.Of("finding.part-loose.jumper", p)})
			}
			if len(p.Ports()) > 0 && p.Role() != plumbing.RoleWaste && !joined {
				list = append(list, hit{[]string{p.ID}, fact.Of("finding.part-loose", p)})
			}
		}
		return list
	}},
	{Code: "port-open", Severity: Error, find: each(func(s *survey, p *plumbing.Part) fact.Fact {
		if n := len(s.at(p)); n > 0 && n < len(p.Ports()) && p.Data.Ways == 0 { // a manifold's spare ways are plugged
			return fact.Of("finding.port-open", p, len(p.Ports()), n)
		}
		return fact.Fact{}
	}, plumbing.RoleJunction, plumbing.RoleDiverter, plumbing.RoleShutOff, plumbing.RoleCheck, plumbing.RolePump,
		plumbing.RoleStrainer, plumbing.RoleFilter, plumbing.RoleMixer)},
	{Code: "hot-cold-mixed", Severity: Warning, find: each(func(s *survey, p *plumbing.Part) fact.Fact {
		side := map[plumbing.Side]bool{}
		for _, l := range s.at(p) {
			side[l.Side] = true
		}
		if side[plumbing.Hot] && side[plumbing.Cold] {
			return fact.Of("finding.hot-cold-mixed", p)
		}
		return fact.Fact{}
	}, plumbing.RoleJunction)},
	{Code: "outlet-side-odd", Severity: Warning, find: eachLine(func(s *survey, l *plumbing.Line) fact.Fact {
		for _, ref := range []string{l.From, l.To} {
			id, port := plumbing.PartOf(ref)
			p := s.net.Model.Part(id)
			if p.Kind.Info().Target && (port == "hot") != (l.Side == plumbing.Hot) {
				return fact.Of("finding.outlet-side-odd", s.lineName(l), l.Side, plumbing.Side(port), p)
			}
		}
		return fact.Fact{}
	})},
	{Code: "rating-low", Severity: Error, Danger: true, find: ratings},
	{Code: "colour-mismatch", Severity: Warning, find: colours},
	{Code: "two-pumps-joined", Severity: Note, find: func(s *survey) []hit {
		var list []hit
		pumps := s.parts(plumbing.RolePump)
		for i, a := range pumps {
			for _, b := range pumps[:i] {
				if s.reach([]plumbing.NodeID{s.net.Node(a.ID + ".out")}).Node(s.net.Node(b.ID + ".out")) {
					list = append(list, hit{[]string{b.ID, a.ID}, fact.Of("finding.two-pumps-joined", b, a)})
				}
			}
		}
		return list
	}},
}

// ratings compares what parts stand with the highest pressure they can see.
func ratings(s *survey) []hit {
	var list []hit
	worst := map[*plumbing.Part]quantity.Kilopascal{}
	from := map[*plumbing.Part]*plumbing.Part{}
	see := func(nodes []plumbing.NodeID, source *plumbing.Part, p quantity.Kilopascal) {
		r := s.reach(nodes)
		for i := range s.net.Model.Parts {
			x := &s.net.Model.Parts[i]
			if r.Part(x) && p > worst[x] && (x != source || source.Role() != plumbing.RolePump) {
				worst[x], from[x] = p, source
			}
		}
	}
	for _, p := range s.parts(plumbing.RolePump) {
		see([]plumbing.NodeID{s.net.Node(p.ID + ".out")}, p, p.Data.CutOut.Value())
	}
	for _, p := range s.parts(plumbing.RoleInlet) {
		see([]plumbing.NodeID{s.net.Node(p.ID + ".mouth")}, p, p.Data.Regulator.Or(p.Data.Limit.Value()))
	}
	for p, pressure := range worst {
		if !p.Data.Rating.IsZero() && p.Data.Rating.Value() < pressure && p.Role() != plumbing.RoleTank {
			list = append(list, hit{[]string{p.ID}, fact.Of("finding.rating-low", p, p.Data.Rating.Value(), pressure,
				from[p])})
		}
	}
	return list
}

// colours finds hoses of one colour on ports of another, and blue and red on
// the wrong side.
func colours(s *survey) []hit {
	var list []hit
	for _, l := range s.lines() {
		for _, ref := range []string{l.From, l.To} {
			id, _ := plumbing.PartOf(ref)
			p := s.net.Model.Part(id)
			port := p.Colours["coupling"] + p.Colours["port"]
			switch {
			case l.Colour != "" && port != "" && l.Colour != port:
				list = append(list, hit{[]string{p.ID, l.ID}, fact.Of("finding.colour-mismatch", s.lineName(l),
					l.Colour, p, port)})
			case l.Side == plumbing.Hot && l.Colour == "blue" || l.Side == plumbing.Cold && l.Colour == "red":
				list = append(list, hit{[]string{l.ID}, fact.Of("finding.colour-mismatch.side", s.lineName(l), l.Side,
					l.Colour)})
			}
		}
	}
	return compact(list)
}

func compact(list []hit) []hit {
	var out []hit
	seen := map[string]bool{}
	for _, h := range list {
		if key := h.said.Key(); !seen[key] {
			seen[key] = true
			out = append(out, h)
		}
	}
	return out
}
