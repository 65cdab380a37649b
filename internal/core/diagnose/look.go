// Package diagnose looks at a system in which one hidden thing is wrong: what a
// technician can do there, what is then seen by the run, which faults no look
// tells apart, and the fewest looks that tell the others apart.
package diagnose

import (
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// LookKind is a kind of look.
type LookKind string

// The kinds of look.
const (
	Open LookKind = "open" // one outlet side, for a short time
	Wait LookKind = "wait" // with everything shut, for a long time
	Turn LookKind = "turn" // a handle, and open an outlet
	Heat LookKind = "heat" // a heater, switched on
	See  LookKind = "see"  // at a handle or a switch, without touching it
)

// How long is looked: long enough for what stands in the lines to have come.
const (
	openFor quantity.Second = 60
	heatFor quantity.Second = 600
	waitFor quantity.Second = 2 * 3600
)

// Look is something that somebody does to find out what is wrong. It begins with
// the system as it stands, and is put back afterwards.
type Look struct {
	Kind LookKind
	Part *plumbing.Part  // what is opened, turned or looked at; nil for Wait
	Side plumbing.NodeID // that is opened, None for none
	To   string          // of Turn: the position
	Acts []state.Act
	For  quantity.Second
}

// ID tells a look from the others of a system.
func (l *Look) ID() string {
	id := string(l.Kind)
	if l.Part != nil {
		id += "." + l.Part.ID
	}
	switch {
	case l.Kind == Turn:
		return id + "." + l.To
	case l.Kind == Open && len(l.Acts) > 0:
		return id + "." + l.Acts[0].Sides[0]
	}
	return id
}

// Said is what a look does.
func (l *Look) Said(n *plumbing.Network) fact.Fact {
	switch l.Kind {
	case Open:
		return fact.Of("look.open", l.Part, fact.Word("side."+n.Nodes[l.Side].Port))
	case Wait:
		return fact.Of("look.wait", l.For)
	case Heat:
		return fact.Of("look.heat", l.Part)
	case Turn:
		if l.Side == plumbing.None {
			return fact.Of("look.turn", l.Part, plumbing.Standing{Part: l.Part, Position: l.To})
		}
		return fact.Of("look.turn-open", l.Part, plumbing.Standing{Part: l.Part, Position: l.To},
			n.Nodes[l.Side].Part, fact.Word("side."+n.Nodes[l.Side].Port))
	}
	return fact.Of("look.see", l.Part)
}

// Looks lists what can be looked at while a mode is set, what costs least first:
// every outlet side that it serves, every handle and switch untouched, waiting,
// every handle turned, every heater switched on. Low points are left shut, as
// any technician does who wants to find something: but a heater's drain and
// relief valve are there to be left alone.
func Looks(n *plumbing.Network, a *setting.Answer) (list []Look) {
	sides := served(n, a)
	for _, at := range sides {
		list = append(list, Look{Kind: Open, Part: n.Nodes[at].Part, Side: at, For: openFor,
			Acts: []state.Act{openAct(n, at)}})
	}
	see := func(p *plumbing.Part) { list = append(list, Look{Kind: See, Part: p, Side: plumbing.None}) }
	for _, h := range n.AllHandles() {
		see(h.Part)
	}
	for i, p := range n.Pumps {
		if a.State.Pumps.Has(plumbing.PumpID(i)) {
			see(p)
		}
	}
	if a.State.Pumps != 0 {
		for _, p := range n.PartsOf(plumbing.RoleIsolator) {
			see(p)
		}
	}
	list = append(list, Look{Kind: Wait, Side: plumbing.None, For: waitFor})
	for i, h := range n.AllHandles() {
		if left := h.Part.Role() == plumbing.RoleStrainer ||
			h.Part.Role() == plumbing.RoleDrain && !atHeater(n, h.Part); left {
			continue
		}
		for pos, name := range h.All() {
			if pos == a.State.Position(i) {
				continue
			}
			turn := Look{Kind: Turn, Part: h.Part, To: name, For: openFor, Side: plumbing.None,
				Acts: []state.Act{{Verb: state.Turn, Part: h.Part, To: name}}}
			if len(sides) > 0 {
				turn.Side = sides[0]
				turn.Acts = append(turn.Acts, openAct(n, sides[0]))
			}
			list = append(list, turn)
		}
	}
	for _, h := range n.Heat {
		if !slices.ContainsFunc(list, func(l Look) bool { return l.Kind == Heat && l.Part == h.Part }) {
			list = append(list, Look{Kind: Heat, Part: h.Part, Side: plumbing.None, For: heatFor,
				Acts: []state.Act{{Verb: state.HeatOn, Part: h.Part, By: h.By}}})
		}
	}
	return list
}

// atHeater reports whether a line joins a part to a heater.
func atHeater(n *plumbing.Network, p *plumbing.Part) bool {
	return slices.ContainsFunc(n.PartsOf(plumbing.RoleHeater), func(h *plumbing.Part) bool { return n.Beside(p, h) })
}

func openAct(n *plumbing.Network, at plumbing.NodeID) state.Act {
	return state.Act{Verb: state.Open, Part: n.Nodes[at].Part, Sides: []string{n.Nodes[at].Port}}
}

// served are the outlet sides that a mode gives water, in the order of their
// names, cold ones first: machines open by their own cycle.
func served(n *plumbing.Network, a *setting.Answer) (list []plumbing.NodeID) {
	for i := range a.Mode.Clauses {
		c := &a.Mode.Clauses[i]
		if c.Aim != setting.Served || !c.Must || c.Target == nil || c.Target.Role() != plumbing.RoleOutlet {
			continue
		}
		for _, at := range c.To {
			if n.Nodes[at].Part == c.Target && !slices.Contains(list, at) {
				list = append(list, at)
			}
		}
	}
	var cold, hot []plumbing.NodeID
	for _, at := range list {
		if n.Nodes[at].Port == "hot" {
			hot = append(hot, at)
		} else {
			cold = append(cold, at)
		}
	}
	return append(cold, hot...)
}
