package setting

import (
	"maps"
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// equipment is what the goals are made from.
type equipment struct {
	net     *plumbing.Network
	vehicle *plumbing.Vehicle
	tanks   []*plumbing.Part
	pumps   []*plumbing.Part
	cities  []*plumbing.Part
	barrels []*plumbing.Part // sockets for a source with a pump of its own
	pickups []pickup         // ways to draw from a container
	heaters []*plumbing.Part
	sides   []side            // where water is wanted and can come
	mouths  []plumbing.NodeID // openings through which water could run out
	shut    map[plumbing.HandleID]plumbing.Position
	wet     *flow.Reached // what any source gets to, every handle as open as it can
}

// pickup is a place where the pump can be made to draw from a container.
type pickup struct {
	part   *plumbing.Part
	mouth  plumbing.NodeID
	handle plumbing.HandleID // of a joint that is taken apart for it, None for none
	apart  plumbing.Position // that joint's position
}

// fixed is what a mode may not turn, with the joint taken apart.
func (p pickup) fixed(shut map[plumbing.HandleID]plumbing.Position) map[plumbing.HandleID]plumbing.Position {
	if p.handle < 0 {
		return shut
	}
	own := maps.Clone(shut)
	own[p.handle] = p.apart
	return own
}

type side struct {
	part *plumbing.Part
	port string
	node plumbing.NodeID
}

func survey(n *plumbing.Network) *equipment { return surveyWith(n, plumbing.RoleCoupling, "") }

// surveyWith is survey with the handles of a role put in a position; "" leaves
// them as they normally are.
func surveyWith(n *plumbing.Network, role plumbing.Role, position string) *equipment {
	e := &equipment{net: n, vehicle: n.Model.Vehicle(), barrels: n.PartsOf(plumbing.RoleBarrel),
		shut:  map[plumbing.HandleID]plumbing.Position{},
		tanks: n.PartsOf(plumbing.RoleTank), pumps: n.PartsOf(plumbing.RolePump), cities: n.PartsOf(plumbing.RoleInlet),
		heaters: n.PartsOf(plumbing.RoleHeater)}
	for i, node := range n.AllNodes() {
		if node.Outside && node.Part.Role() != plumbing.RoleRinse {
			e.mouths = append(e.mouths, i)
		}
	}
	for i, h := range n.AllHandles() {
		switch r := h.Part.Role(); {
		case slices.Contains(atRest, r), h.Part.Kind.Info().Lets:
			e.shut[i] = h.Normal
			if p := h.Index(position); p >= 0 && r == role {
				e.shut[i] = p
			}
		case r == plumbing.RoleSelector:
			if onlyDrains(n, h.Part) {
				e.shut[i] = h.Normal
			}
		}
	}
	e.pickups = e.findPickups()
	// A side that no source reaches however the handles stand is dry: no mode
	// asks for water there, and a finding says so.
	e.wet = e.reach(e.sources())
	for i, node := range n.AllNodes() {
		if node.Part.Kind.Info().Target && n.Joined(i) && e.wet.Node(i) {
			e.sides = append(e.sides, side{node.Part, node.Port, i})
		}
	}
	return e
}

// atRest are the roles whose handles stay in their normal position where
// a mode does not say otherwise.
var atRest = []plumbing.Role{plumbing.RoleCoupling, plumbing.RoleJoint, plumbing.RoleStrainer, plumbing.RoleHatch,
	plumbing.RoleJumper, plumbing.RoleGas}

// onlyDrains reports whether a selector drives nothing but drains.
func onlyDrains(n *plumbing.Network, p *plumbing.Part) bool {
	for _, c := range p.Selector {
		for id := range c.Sets {
			if v := n.Model.Part(id); v != nil && !v.Lets() {
				return false
			}
		}
	}
	return true
}

// findPickups lists the container ports, and the joints at a pump's inlet
// where a hose can be put on instead of the tank's.
func (e *equipment) findPickups() []pickup {
	var list []pickup
	for _, p := range e.net.PartsOf(plumbing.RolePickUp) {
		list = append(list, pickup{part: p, mouth: e.net.Node(p.ID + ".mouth"), handle: plumbing.None})
	}
	suction := e.nodes(e.pumps, "in")
	for i, h := range e.net.AllHandles() {
		if h.Part.Role() != plumbing.RoleJoint {
			continue
		}
		p := pickup{part: h.Part, mouth: e.net.Node(h.Part.ID + ".mouth"), handle: i, apart: h.Index("apart")}
		s := undecided(e.net, p.fixed(e.shut), 0)
		if hitNode(flow.Reach(e.net, s, flow.Query{From: []plumbing.NodeID{p.mouth}}), suction) >= 0 {
			list = append(list, p)
		}
	}
	return list
}

// choose picks the pick-ups for a mode: the first that gets somewhere, and each
// one more that gets somewhere the ones before it do not. A joint that is
// taken apart for one stays so for all.
func (e *equipment) choose(targets []plumbing.NodeID) (chosen []pickup, fixed map[plumbing.HandleID]plumbing.Position) {
	fixed = e.shut
	served := map[plumbing.NodeID]bool{}
	for _, p := range e.pickups {
		own := p.fixed(fixed)
		r := flow.Reach(e.net, undecided(e.net, own, state.AllPumps(e.net)),
			flow.Query{From: []plumbing.NodeID{p.mouth}})
		more := false
		for _, t := range targets {
			if r.Node(t) && !served[t] {
				more, served[t] = true, true
			}
		}
		if more {
			chosen, fixed = append(chosen, p), own
		}
	}
	return chosen, fixed
}

// others lists the mouths of the pick-ups that are there all the time and not
// among the chosen ones.
func (e *equipment) others(chosen []pickup) []plumbing.NodeID {
	var list []plumbing.NodeID
	for _, p := range e.pickups {
		if p.handle < 0 && !slices.ContainsFunc(chosen, func(c pickup) bool { return c.mouth == p.mouth }) {
			list = append(list, p.mouth)
		}
	}
	return list
}

// standing lists the ports of the tanks by which the water in them runs out if
// it can.
func (e *equipment) standing() []plumbing.NodeID {
	return slices.Concat(e.nodes(e.tanks, "supply"), e.nodes(e.tanks, "drain"), e.nodes(e.tanks, "link"),
		e.nodes(e.tanks, "bung"))
}

// portMouths lists where a container can be joined to ports that are there all
// the time.
func (e *equipment) portMouths() []plumbing.NodeID {
	var list []plumbing.NodeID
	for _, p := range e.pickups {
		if p.handle < 0 {
			list = append(list, p.mouth)
		}
	}
	return list
}

// sources lists the nodes water can be made to come from.
func (e *equipment) sources() []plumbing.NodeID {
	return slices.Concat(e.nodes(e.tanks, "supply"), e.nodes(e.cities, "mouth"), e.nodes(e.barrels, "mouth"),
		e.portMouths())
}

// reach is what can be reached from some nodes while every handle that a mode
// may turn stands as open as it can.
func (e *equipment) reach(from []plumbing.NodeID) *flow.Reached { return e.reachIn(e.shut, from) }

// reachIn is reach for a mode that fixes other handles.
func (e *equipment) reachIn(fixed map[plumbing.HandleID]plumbing.Position, from []plumbing.NodeID) *flow.Reached {
	return flow.Reach(e.net, undecided(e.net, fixed, state.AllPumps(e.net)), flow.Query{From: from})
}

// reachWithout is reach with parts taken out of the way.
func (e *equipment) reachWithout(from []plumbing.NodeID, without []*plumbing.Part) *flow.Reached {
	return flow.Reach(e.net, undecided(e.net, e.shut, state.AllPumps(e.net)), flow.Query{From: from, Without: without})
}

// undecided is the setting in which every handle that is not fixed may stand
// in any of its positions.
func undecided(n *plumbing.Network, fixed map[plumbing.HandleID]plumbing.Position, pumps state.Pumps) state.State {
	s := state.Undecided(n)
	s.Pumps = pumps
	for i, pos := range fixed {
		s.Handles[i] = pos.Only()
	}
	return s
}

// Dry lists the outlet sides that no source of the network reaches, however
// the handles stand, with the couplings apart or together.
func Dry(n *plumbing.Network) []Clause {
	e, coupled := survey(n), surveyWith(n, plumbing.RoleCoupling, "together")
	var list []Clause
	for i, node := range n.AllNodes() {
		if node.Part.Kind.Info().Target && n.Joined(i) && !e.wet.Node(i) && !coupled.wet.Node(i) {
			list = append(list, Clause{Aim: Served, Must: true, Target: node.Part, Side: node.Port,
				To: []plumbing.NodeID{i}})
		}
	}
	return list
}

// nodes lists the nodes of some parts by what they are for, numbered ones too.
func (e *equipment) nodes(parts []*plumbing.Part, port string) []plumbing.NodeID {
	var list []plumbing.NodeID
	for _, p := range parts {
		list = append(list, e.net.NodesOf(p, port)...)
	}
	return list
}

func (e *equipment) partNodes(p *plumbing.Part) []plumbing.NodeID {
	var list []plumbing.NodeID
	for i, n := range e.net.AllNodes() {
		if n.Part == p && !n.Outside {
			list = append(list, i)
		}
	}
	return list
}

// called is what this kind of vehicle calls a thing.
func (e *equipment) called(what string) fact.Word {
	return fact.Word("vehicle." + e.vehicle.ID + "." + what)
}
