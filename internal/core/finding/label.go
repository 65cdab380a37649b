package finding

import (
	"slices"
	"strings"
	"unicode"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// leadsTo are words that stand for what a way leads to: a handle that carries
// one should open a way to such a part.
var leadsTo = []struct {
	words []string
	kinds []plumbing.Role
	what  fact.Fact
}{
	{[]string{"TANK", "FRESH"}, []plumbing.Role{plumbing.RoleTank}, fact.Of("finding.leads.tank")},
	{[]string{"CITY", "MAINS", "DOCK", "SHORE"}, []plumbing.Role{plumbing.RoleInlet}, fact.Of("finding.leads.inlet")},
	{[]string{"PORT", "HOSE", "CONTAINER", "JUG"}, []plumbing.Role{plumbing.RolePickUp}, fact.Of("finding.leads.port")},
	{[]string{"TAPS", "FIXTURES", "FAUCETS", "OUTLETS"}, []plumbing.Role{plumbing.RoleOutlet},
		fact.Of("finding.leads.taps")},
}

// LabelWords lists words that are printed on units and that are known to stand for what a way leads to, or for a side.
func LabelWords() []string {
	list := []string{"HOT", "COLD"}
	for _, l := range leadsTo {
		list = append(list, l.words...)
	}
	return list
}

// tokens are the words of a label in capitals.
func tokens(label string) []string {
	return strings.FieldsFunc(strings.ToUpper(label), func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r)
	})
}

// printed is a word that stands on the unit at a handle, or at one of its
// positions.
type printed struct {
	label    string
	position plumbing.Position // None for the handle's own label
}

func printedAt(h *plumbing.Handle) []printed {
	list := []printed{{h.Part.Label, plumbing.None}}
	for i, pos := range h.All() {
		if says := h.Part.Reading.Says[pos]; says != "" {
			list = append(list, printed{says, i})
		}
	}
	for i, c := range h.Part.Selector {
		if c.Label != "" {
			list = append(list, printed{c.Label, plumbing.Position(i)})
		}
	}
	return list
}

// labels compares every word that is printed at a handle or drain with what it
// does.
func labels(s *survey) []hit {
	var list []hit
	for i, h := range s.net.AllHandles() {
		if h.Part.Lets() {
			continue
		}
		for _, p := range printedAt(h) {
			if said, _ := s.misleads(i, p); !said.IsZero() {
				list = append(list, hit{[]string{h.Part.ID}, said})
				break // one label of a handle is enough to mend it
			}
		}
	}
	for _, d := range s.parts(plumbing.RoleDrain) {
		if said, _ := s.drainMisleads(d); !said.IsZero() {
			list = append(list, hit{[]string{d.ID}, said})
		}
	}
	return list
}

// Label is a word that is printed at a handle or a drain, and that was held against what the part does.
type Label struct {
	Part     *plumbing.Part
	Word     string
	Position string    // that it stands at; "" for the part's own
	Lies     fact.Fact // how it contradicts what the part does; nothing where it is true
}

// Labels lists the printed words that can be held against what their parts do. Words that nothing is known of are left
// out: they are shown neither true nor false.
func Labels(n *plumbing.Network, plan []setting.Answer) (list []Label) {
	s := newSurvey(n, plan)
	for i, h := range n.AllHandles() {
		if h.Part.Lets() {
			continue
		}
		for _, p := range printedAt(h) {
			said, checked := s.misleads(i, p)
			if !checked {
				continue
			}
			l := Label{Part: h.Part, Word: p.label, Lies: said}
			if p.position >= 0 {
				l.Position = h.Positions[p.position]
			}
			list = append(list, l)
		}
	}
	for _, d := range n.PartsOf(plumbing.RoleDrain) {
		if said, checked := s.drainMisleads(d); checked {
			list = append(list, Label{Part: d, Word: d.Label, Lies: said})
		}
	}
	return list
}

// misleads tells how a printed word contradicts what the handle does; nothing if it
// does not. It reports false if nothing can be said of the word.
func (s *survey) misleads(handle plumbing.HandleID, p printed) (lie fact.Fact, checked bool) {
	h := &s.net.Handles[handle]
	words := tokens(p.label)
	if slices.Contains(words, "BYPASS") && len(s.parts(plumbing.RoleHeater)) > 0 {
		if !s.movesHeater(handle) {
			return fact.Of("finding.label-misleads.bypass", h.Part, p.label, s.turnsPast(*h)), true
		}
		checked = true
	}
	if p.position >= 0 && len(h.Positions) == 2 && h.Index("open") >= 0 {
		open := p.position == h.Index("open")
		opens := slices.ContainsFunc(words, func(w string) bool { return w == "OPEN" || w == "ON" })
		shuts := slices.ContainsFunc(words, func(w string) bool { return w == "CLOSED" || w == "SHUT" || w == "OFF" })
		if !open && opens || open && shuts {
			return fact.Of("finding.label-misleads.position", h.Part, p.label, h.Positions[p.position]), true
		}
		checked = checked || opens || shuts
	}
	if p.position < 0 && len(h.Part.Selector) > 0 {
		return fact.Fact{}, checked // a plate's own name says what its positions are about
	}
	leads := s.leads(handle, p.position)
	said, fits := fact.Fact{}, false
	for _, l := range leadsTo {
		if !slices.ContainsFunc(l.words, func(w string) bool { return slices.Contains(words, w) }) {
			continue
		}
		said = l.what
		fits = fits || slices.ContainsFunc(l.kinds, func(k plumbing.Role) bool { return leads[k] })
	}
	if said.IsZero() || fits {
		return fact.Fact{}, checked || fits
	}
	for _, l := range leadsTo {
		if slices.ContainsFunc(l.kinds, func(k plumbing.Role) bool { return leads[k] }) {
			return fact.Of("finding.label-misleads.leads", h.Part, p.label, l.what, said), true
		}
	}
	return fact.Fact{}, checked
}

// leads tells what kinds of part lie next to the valves that a handle opens in
// a position and not in all others, past whatever has no handle and does not
// branch; None asks for all its positions.
func (s *survey) leads(handle plumbing.HandleID, position plumbing.Position) map[plumbing.Role]bool {
	list := map[plumbing.Role]bool{}
	every := s.net.Handles[handle].Every()
	for _, l := range s.net.AllLinks() {
		if l.Handle != handle || position >= 0 && (!l.Open.Has(position) || l.Open == every) {
			continue
		}
		for _, end := range []plumbing.NodeID{l.A, l.B} {
			if l.Part.Role() == plumbing.RoleDiverter && s.net.Nodes[end].Port == "com" {
				continue // leads there in every position
			}
			s.next(end, l.Part, list)
		}
	}
	return list
}

// next follows lines from a node away from a part until something of note.
func (s *survey) next(node plumbing.NodeID, away *plumbing.Part, list map[plumbing.Role]bool) {
	for steps := 0; steps < len(s.net.Links); steps++ {
		line := plumbing.LinkID(plumbing.None)
		for _, li := range s.net.Nodes[node].Links {
			if s.net.Links[li].Line != nil {
				line = li
			}
		}
		if line < 0 {
			return
		}
		at := s.net.Links[line].Other(node)
		p := s.net.Nodes[at].Part
		if p == away {
			return
		}
		list[p.Role()] = true
		switch p.Role() {
		case plumbing.RoleStrainer, plumbing.RoleCheck, plumbing.RoleFloat, plumbing.RoleCoupling, plumbing.RoleJoint,
			plumbing.RolePump:
		default:
			return
		}
		node = plumbing.None
		for _, li := range s.net.Nodes[at].Links {
			if l := &s.net.Links[li]; l.Part == p && !s.net.Nodes[l.Other(at)].Outside {
				node = l.Other(at)
			}
		}
		if node < 0 {
			return
		}
		away = p
	}
}

// drainMisleads tells how a drain's word contradicts what it drains. It reports false if nothing can be said of the
// word.
func (s *survey) drainMisleads(d *plumbing.Part) (lie fact.Fact, checked bool) {
	words := tokens(d.Label)
	isHot, isCold := slices.Contains(words, "HOT"), slices.Contains(words, "COLD")
	isTank := slices.Contains(words, "TANK") || slices.Contains(words, "FRESH")
	if isHot && isCold || isTank == (isHot || isCold) {
		return fact.Fact{}, false
	}
	beside := map[plumbing.Role]bool{}
	s.next(s.net.Node(d.ID+".in"), d, beside)
	tank := beside[plumbing.RoleTank]
	hot, cold := s.drains(d)
	switch {
	case isTank && !tank && (hot || cold):
		return fact.Of("finding.label-misleads.no-tank", d, d.Label), true
	case !isTank && tank:
		return fact.Of("finding.label-misleads.tank", d, d.Label), true
	case isHot && !hot && cold || isCold && !cold && hot:
		return fact.Of("finding.label-misleads.side", d, d.Label), true
	}
	return fact.Fact{}, isTank && tank || isHot && hot || isCold && cold
}

// drains says of which sides of outlets water gets to a drain as the handles
// stand for everyday use, but not through a heater or a tank.
func (s *survey) drains(d *plumbing.Part) (hot, cold bool) {
	base := state.Normal(s.net)
	if a := setting.ForMode(s.plan, setting.Everyday); a.Has() {
		base = a.State
	}
	r := flow.Reach(s.net, base, flow.Query{From: []plumbing.NodeID{s.net.Node(d.ID + ".in")},
		Without: s.parts(plumbing.RoleHeater, plumbing.RoleTank)})
	for i, n := range s.net.AllNodes() {
		if n.Part.Kind.Info().Target && r.Node(i) {
			hot = hot || n.Port == "hot"
			cold = cold || n.Port == "cold"
		}
	}
	return hot, cold
}
