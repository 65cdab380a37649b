package chapter

import (
	"coldtap/internal/core/draft"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// Points are the places where something goes in or out.
type Points struct{ Rows []Point }

// Point is one of them.
type Point struct {
	Part  *plumbing.Part
	For   fact.Fact // what goes in or out there
	Ends  fact.Fact // what ends it: somebody who stays by it, or itself; nothing for what only lets out
	Shuts fact.Fact // what shuts it
	Cap   fact.Fact // what covers its mouth
}

func (p Points) empty() bool { return len(p.Rows) == 0 }

// pointRoles are the roles of such places, in the order in which they are told.
var pointRoles = []plumbing.Role{plumbing.RoleFill, plumbing.RoleHatch, plumbing.RoleInlet, plumbing.RoleBarrel,
	plumbing.RolePickUp, plumbing.RoleRinse, plumbing.RoleDrain}

func points(in draft.Inputs) (list Points) {
	n := in.Net
	for _, role := range pointRoles {
		for _, p := range n.PartsOf(role) {
			list.Rows = append(list.Rows, Point{Part: p, For: pointFor(n, p), Ends: ends(in, p), Shuts: shuts(p),
				Cap: fact.If(p.Data.Cap != "", fact.Of("point.cap", p.Data.Cap))})
		}
	}
	return list
}

// pointFor is what goes in or out at a point, by what it leads to.
func pointFor(n *plumbing.Network, p *plumbing.Part) fact.Fact {
	switch p.Role() {
	case plumbing.RoleFill, plumbing.RoleHatch, plumbing.RoleBarrel:
		if tanks := leadsTo(n, p, plumbing.RoleTank); tanks != nil {
			return fact.Of("point.fills", tanks)
		}
		return fact.Of("point.leads-nowhere")
	case plumbing.RoleInlet:
		if tanks := leadsTo(n, p, plumbing.RoleTank); tanks != nil && leadsTo(n, p, plumbing.RoleOutlet) == nil {
			return fact.Of("point.fills", tanks)
		}
		return fact.Of("point.city")
	case plumbing.RolePickUp:
		return fact.Of("point.pick-up")
	case plumbing.RoleRinse:
		return fact.Of("point.rinse")
	}
	for _, t := range n.PartsOf(plumbing.RoleTank, plumbing.RoleHeater) {
		if n.Beside(p, t) {
			return fact.Of("point.empties", t)
		}
	}
	if side := sideOf(n, p); side == plumbing.Hot || side == plumbing.Cold {
		return fact.Of("point.low-point", fact.Word("side."+string(side)))
	}
	return fact.Of("point.low-point.any")
}

// leadsTo are the parts of a role that what comes in at a part can get to.
func leadsTo(n *plumbing.Network, p *plumbing.Part, role plumbing.Role) (list []*plumbing.Part) {
	s := state.Undecided(n)
	s.Pumps = state.AllPumps(n)
	r := flow.Reach(n, s, flow.Query{From: n.NodesOf(p, "mouth")})
	for _, x := range n.PartsOf(role) {
		if r.Part(x) || n.Beside(p, x) {
			list = append(list, x)
		}
	}
	return list
}

// sideOf is the side of the lines that a low point empties: that of what its own line joins.
func sideOf(n *plumbing.Network, p *plumbing.Part) plumbing.Side {
	count := map[plumbing.Side]int{}
	for i := range n.Links {
		l := &n.Links[i]
		for _, end := range []plumbing.NodeID{l.A, l.B} {
			if n.Nodes[end].Part != p || l.Line == nil {
				continue
			}
			joined := n.Nodes[l.Other(end)].Part
			for k := range n.Links {
				if o := &n.Links[k]; o.Line != nil && (n.Nodes[o.A].Part == joined || n.Nodes[o.B].Part == joined) {
					count[o.Line.Side]++
				}
			}
		}
	}
	switch {
	case count[plumbing.Hot] > count[plumbing.Cold]:
		return plumbing.Hot
	case count[plumbing.Cold] > 0:
		return plumbing.Cold
	}
	return ""
}

// ends is how filling at a point ends, by the ways of use that fill there.
func ends(in draft.Inputs, p *plumbing.Part) fact.Fact {
	for i := range in.Plan {
		for _, a := range in.Plan[i].Mode.Acts {
			if a.Verb != state.Join || a.Part != p {
				continue
			}
			switch a.Until {
			case state.TankFull:
				return fact.Of("point.stay")
			case state.FloatShuts:
				return fact.Of("point.float")
			}
		}
	}
	if role := p.Role(); role == plumbing.RoleFill || role == plumbing.RoleHatch {
		return fact.Of("point.stay")
	}
	return fact.Fact{}
}

// shuts is what shuts a point, as far as it is given.
func shuts(p *plumbing.Part) fact.Fact {
	switch {
	case p.Data.Closure != "":
		return fact.Of("point.closure", fact.Word("closure."+p.Data.Closure))
	case p.Data.CheckValve:
		return fact.Of("point.check")
	case p.Role() == plumbing.RoleFill:
		return fact.Of("point.no-shut-off")
	}
	return fact.Fact{}
}
