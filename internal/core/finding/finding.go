// Package finding looks for what is missing, odd or dangerous in a model.
// Each kind of finding is a rule with a code and a severity; the catalogue of
// words has by its code why it matters and what would mend it.
package finding

import (
	"cmp"
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// Severity says how bad a finding is.
type Severity int

const (
	Note    Severity = iota // worth knowing when the guide is written
	Warning                 // likely a mistake, or a trap for the reader
	Error                   // the guide can't be right before this is mended
)

func (s Severity) String() string { return [...]string{"note", "warning", "error"}[s] }

// Finding is one thing found.
type Finding struct {
	Code     string
	Severity Severity
	Danger   bool      // it can hurt somebody, and is never accepted
	Parts    []string  // ids of parts and lines concerned
	Said     fact.Fact // what was found, with parts and figures
}

// Rule is a kind of finding.
type Rule struct {
	Code     string
	Severity Severity
	Danger   bool // it can hurt somebody
	find     func(*survey) []hit
}

// hit is where a rule applies.
type hit struct {
	parts []string
	said  fact.Fact
}

// survey is what rules look at: a network and what is worked out of it once.
type survey struct {
	net  *plumbing.Network
	plan []setting.Answer
	wide state.State // every handle as open as it can be, pumps on

	drainage   *drainage // worked out when it is asked for
	noDrainage bool
}

// Rules lists all rules, the gravest first.
func Rules() []Rule {
	list := slices.Concat(figureRules, equipmentRules, connectionRules, handleRules, trapRules, reportedRules)
	slices.SortStableFunc(list, func(a, b Rule) int { return cmp.Compare(b.Severity, a.Severity) })
	return list
}

// Find finds everything in a network whose plan is known. The order is by
// severity, then rule, then part.
func Find(n *plumbing.Network, plan []setting.Answer) []Finding {
	s := newSurvey(n, plan)
	var list []Finding
	for _, r := range Rules() {
		hits := r.find(s)
		slices.SortStableFunc(hits, func(a, b hit) int { return slices.Compare(a.parts, b.parts) })
		for _, h := range hits {
			list = append(list, Finding{r.Code, r.Severity, r.Danger, h.parts, h.said})
		}
	}
	return list
}

func newSurvey(n *plumbing.Network, plan []setting.Answer) *survey {
	s := &survey{net: n, plan: plan, wide: state.State{Pumps: state.AllPumps(n)}}
	for _, h := range n.Handles {
		s.wide.Handles = append(s.wide.Handles, h.Every())
	}
	return s
}

func (s *survey) parts(roles ...plumbing.Role) []*plumbing.Part { return s.net.PartsOf(roles...) }

func (s *survey) lines() []*plumbing.Line {
	var list []*plumbing.Line
	for i := range s.net.AllLinks() {
		if l := s.net.Links[i].Line; l != nil {
			list = append(list, l)
		}
	}
	return list
}

// at lists the lines that end at a part.
func (s *survey) at(p *plumbing.Part) []*plumbing.Line {
	var list []*plumbing.Line
	for _, l := range s.lines() {
		from, _ := plumbing.PartOf(l.From)
		to, _ := plumbing.PartOf(l.To)
		if from == p.ID || to == p.ID {
			list = append(list, l)
		}
	}
	return list
}

func (s *survey) joined(p *plumbing.Part, port string) bool {
	n := s.net.Node(p.ID + "." + port)
	return n >= 0 && s.net.Joined(n)
}

// nodes lists a part's nodes.
func (s *survey) nodes(p *plumbing.Part) []plumbing.NodeID {
	var list []plumbing.NodeID
	for i, n := range s.net.AllNodes() {
		if n.Part == p {
			list = append(list, i)
		}
	}
	return list
}

// reach is what is reached while every handle is as open as it can be.
func (s *survey) reach(from []plumbing.NodeID, without ...*plumbing.Part) *flow.Reached {
	return flow.Reach(s.net, s.wide, flow.Query{From: from, Without: without})
}

// sources lists the nodes of tanks' supplies, inlets and container ports.
func (s *survey) sources() []plumbing.NodeID {
	var list []plumbing.NodeID
	for _, p := range s.parts(plumbing.RoleTank) {
		list = append(list, s.net.Node(p.ID+".supply"))
	}
	for _, p := range s.parts(plumbing.RoleInlet, plumbing.RolePickUp) {
		list = append(list, s.net.Node(p.ID+".mouth"))
	}
	return list
}

// each makes a hit of every part of some roles of which a test has something to
// say.
func each(test func(*survey, *plumbing.Part) fact.Fact, roles ...plumbing.Role) func(*survey) []hit {
	return func(s *survey) []hit {
		var list []hit
		for _, p := range s.parts(roles...) {
			if said := test(s, p); !said.IsZero() {
				list = append(list, hit{[]string{p.ID}, said})
			}
		}
		return list
	}
}

// eachLine is each for lines.
func eachLine(test func(*survey, *plumbing.Line) fact.Fact) func(*survey) []hit {
	return func(s *survey) []hit {
		var list []hit
		for _, l := range s.lines() {
			if said := test(s, l); !said.IsZero() {
				list = append(list, hit{[]string{l.ID}, said})
			}
		}
		return list
	}
}

func (s *survey) name(ref string) fact.Name {
	id, _ := plumbing.PartOf(ref)
	if p := s.net.Model.Part(id); p != nil {
		return fact.Name(p.Name)
	}
	return fact.Name(id)
}

// lineName says which parts a line joins.
func (s *survey) lineName(l *plumbing.Line) fact.Fact {
	return fact.Of("line", l, s.name(l.From), s.name(l.To))
}
