package finding

import (
	"fmt"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// handleRules look at handles, their labels and how they normally stand.
var handleRules = []Rule{
	{Code: "reading-missing", Severity: Warning, Why: "The guide can't draw how it stands.",
		Remedy: "Say what its handle is and whether its pipe runs level or upright.",
		find: func(s *survey) []hit {
			var list []hit
			for _, h := range s.net.Handles {
				p := h.Part
				if p.Reading.Handle == "" && !p.Kind.Info().Plain {
					list = append(list, hit{[]string{p.ID}, p.Name + ": how its handle is mounted is not said."})
				}
			}
			return list
		}},
	{Code: "normal-odd", Severity: Warning,
		Why:    "As the handles are said to stand normally, everyday use does not work.",
		Remedy: "Correct the normal positions.",
		find: func(s *survey) []hit {
			a := setting.ForMode(s.plan, setting.Everyday)
			if a == nil || !a.OK {
				return nil
			}
			var list []hit
			for i, h := range s.net.AllHandles() {
				if at := a.State.Position(i); at != h.Normal {
					list = append(list, hit{[]string{h.Part.ID}, fmt.Sprintf("%s: everyday use needs “%s”, its normal position is “%s”.", h.Part.Name, h.Positions[at], h.Positions[h.Normal])})
				}
			}
			return list
		}},
	{Code: "label-misleads", Severity: Warning, Why: "The reader goes by what is printed on the unit.",
		Remedy: "Change the label, or warn at the step and on the valve card.",
		find:   labels},
	{Code: "driven-nothing", Severity: Error, Why: "Turning it changes nothing.",
		Remedy: "Say which valves each position sets.",
		find: each(func(_ *survey, p *plumbing.Part) string {
			for _, c := range p.Selector {
				if len(c.Sets) > 0 {
					return ""
				}
			}
			return p.Name + " drives no valve."
		}, plumbing.RoleSelector)},
	{Code: "motor-undriven", Severity: Warning,
		Why:    "No guide prints a valve that a motor turns, only what a hand does.",
		Remedy: "Describe the switch, toggle or plate as a selector that sets it.",
		find: func(s *survey) []hit {
			var list []hit
			for _, h := range s.net.Handles {
				if h.Part.Data.Motor {
					list = append(list, hit{[]string{h.Part.ID}, h.Part.Name + " is driven by a motor, but nothing that a hand turns sets it."})
				}
			}
			return list
		}},
	{Code: "motor-valve", Severity: Note, Why: "Without power it stays where it is.",
		Remedy: "Say how it is turned by hand.",
		find: each(func(_ *survey, p *plumbing.Part) string {
			if !p.Data.Motor {
				return ""
			}
			if p.Tool != "" {
				return fmt.Sprintf("%s is driven by a motor: with a flat battery only the %s sets it.", p.Name, p.Tool)
			}
			return p.Name + " is driven by a motor: with a flat battery it can't be set."
		}, plumbing.RoleShutOff, plumbing.RoleDiverter)},
	{Code: "tool-missing", Severity: Note, Why: "The reader stands there without it.",
		Remedy: "Give the tool that the plug takes.",
		find: each(func(_ *survey, p *plumbing.Part) string {
			if p.Data.Closure == "plug" && p.Tool == "" {
				return p.Name + " is a plug, but no tool is given."
			}
			return ""
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
func (s *survey) turnsPast(h plumbing.Handle) string {
	for _, c := range h.Part.Selector {
		for id := range c.Sets {
			for _, l := range s.at(s.net.Model.Part(id)) {
				for _, ref := range []string{l.From, l.To} {
					pid, _ := plumbing.PartOf(ref)
					if p := s.net.Model.Part(pid); p.Role() == plumbing.RoleFilter {
						return "past " + plumbing.NoArticle(p.Name)
					}
				}
			}
		}
	}
	return "elsewhere"
}
