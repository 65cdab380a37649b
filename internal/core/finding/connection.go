package finding

import (
	"fmt"
	"slices"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
)

// connectionRules look at what is joined to what.
var connectionRules = []Rule{
	{Code: "outlet-dry", Severity: Warning, Why: "No source reaches it, however the handles stand.",
		Remedy: "Join it, or say in the guide that it stays dry.",
		find: func(s *survey) []hit {
			var list []hit
			for _, c := range setting.Dry(s.net) {
				list = append(list, hit{[]string{c.Target.ID}, c.TargetName() + " gets no water from any source."})
			}
			return list
		}},
	{Code: "no-everyday", Severity: Error, Why: "The system can't be used from its tank as it is described.",
		Remedy: "Look at the reason and at the lines it names.",
		find: func(s *survey) []hit {
			a := setting.ForMode(s.plan, setting.Everyday)
			if a == nil || a.OK || a.Mode.LeftOut != "" {
				return nil
			}
			return []hit{{nil, "No setting for everyday use. " + a.Why}}
		}},
	{Code: "part-loose", Severity: Warning, Why: "It plays no part in anything that is computed.",
		Remedy: "Join it or remove it.",
		find: func(s *survey) []hit {
			var list []hit
			for i := range s.net.Model.Parts {
				p := &s.net.Model.Parts[i]
				joined := slices.ContainsFunc(p.Ports(), func(i plumbing.PortInfo) bool { return s.joined(p, i.Name) })
				if p.Role() == plumbing.RoleJumper && len(p.Ends) == 0 {
					list = append(list, hit{[]string{p.ID}, p.Name + " joins no ports."})
				}
				if len(p.Ports()) > 0 && p.Role() != plumbing.RoleWaste && !joined {
					list = append(list, hit{[]string{p.ID}, p.Name + " is joined to nothing."})
				}
			}
			return list
		}},
	{Code: "port-open", Severity: Error, Why: "Water would run out there.", Remedy: "Join the port, or put a plug in.",
		find: each(func(s *survey, p *plumbing.Part) string {
			if n := len(s.at(p)); n > 0 && n < len(p.Ports()) && p.Data.Ways == 0 { // a manifold's spare ways are plugged
				return fmt.Sprintf("%s has %d ports, of which %d are joined.", p.Name, len(p.Ports()), n)
			}
			return ""
		}, plumbing.RoleJunction, plumbing.RoleDiverter, plumbing.RoleShutOff, plumbing.RoleCheck, plumbing.RolePump, plumbing.RoleStrainer, plumbing.RoleFilter, plumbing.RoleMixer)},
	{Code: "hot-cold-mixed", Severity: Warning, Why: "Hot and cold run into each other there.",
		Remedy: "Look whether a line has the wrong side, or a valve is missing.",
		find: each(func(s *survey, p *plumbing.Part) string {
			side := map[plumbing.Side]bool{}
			for _, l := range s.at(p) {
				side[l.Side] = true
			}
			if side[plumbing.Hot] && side[plumbing.Cold] {
				return p.Name + " joins hot and cold lines."
			}
			return ""
		}, plumbing.RoleJunction)},
	{Code: "outlet-side-odd", Severity: Warning,
		Why:    "A tap would run cold where hot is marked, or the other way round.",
		Remedy: "Swap the lines, or correct their side.",
		find: eachLine(func(s *survey, l *plumbing.Line) string {
			for _, ref := range []string{l.From, l.To} {
				id, port := plumbing.PartOf(ref)
				p := s.net.Model.Part(id)
				if p.Kind.Info().Target && (port == "hot") != (l.Side == plumbing.Hot) {
					return fmt.Sprintf("%s is %s, but ends at the %s port of %s.", s.lineName(l), l.Side, port, p.Name)
				}
			}
			return ""
		})},
	{Code: "rating-low", Severity: Error, Why: "It may burst.",
		Remedy: "Lower the regulator or fit a part of higher rating.",
		find:   ratings},
	{Code: "colour-mismatch", Severity: Warning, Why: "A reader joins what has the same colour.",
		Remedy: "Correct the colours, or say so at the step.",
		find:   colours},
	{Code: "two-pumps-joined", Severity: Note,
		Why:    "With the valve between them open one pump can push against the other.",
		Remedy: "Say in the guide when to open it.",
		find: func(s *survey) []hit {
			var list []hit
			pumps := s.parts(plumbing.RolePump)
			for i, a := range pumps {
				for _, b := range pumps[:i] {
					if s.reach([]plumbing.NodeID{s.net.Node(a.ID + ".out")}).Node(s.net.Node(b.ID + ".out")) {
						list = append(list, hit{[]string{b.ID, a.ID}, b.Name + " and " + plumbing.NoArticle(a.Name) + " can be joined on the pressure side."})
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
	from := map[*plumbing.Part]string{}
	see := func(nodes []plumbing.NodeID, source *plumbing.Part, p quantity.Kilopascal) {
		r := s.reach(nodes)
		for i := range s.net.Model.Parts {
			x := &s.net.Model.Parts[i]
			if r.Part(x) && p > worst[x] && (x != source || source.Role() != plumbing.RolePump) {
				worst[x], from[x] = p, source.Name
			}
		}
	}
	for _, p := range s.parts(plumbing.RolePump) {
		see([]plumbing.NodeID{s.net.Node(p.ID + ".out")}, p, p.Data.CutOut.Value())
	}
	for _, p := range s.parts(plumbing.RoleInlet) {
		see([]plumbing.NodeID{s.net.Node(p.ID + ".mouth")}, p, p.Data.Regulator.Or(p.Data.Limit.Value()))
	}
	sys := s.net.Model.System()
	for p, pressure := range worst {
		if !p.Data.Rating.IsZero() && p.Data.Rating.Value() < pressure && p.Role() != plumbing.RoleTank {
			list = append(list, hit{[]string{p.ID}, fmt.Sprintf("%s stands %s and sees %s from %s.", p.Name, quantity.Show(p.Data.Rating.Value(), sys), quantity.Show(pressure, sys), plumbing.NoArticle(from[p]))})
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
				list = append(list, hit{[]string{p.ID, l.ID}, fmt.Sprintf("%s is %s, %s is %s.", s.lineName(l), l.Colour, plumbing.NoArticle(p.Name), port)})
			case l.Side == plumbing.Hot && l.Colour == "blue" || l.Side == plumbing.Cold && l.Colour == "red":
				list = append(list, hit{[]string{l.ID}, fmt.Sprintf("%s carries %s and is %s.", s.lineName(l), l.Side, l.Colour)})
			}
		}
	}
	return compact(list)
}

func compact(list []hit) []hit {
	var out []hit
	seen := map[string]bool{}
	for _, h := range list {
		if !seen[h.words] {
			seen[h.words] = true
			out = append(out, h)
		}
	}
	return out
}
