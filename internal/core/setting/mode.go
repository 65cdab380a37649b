package setting

import (
	"slices"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
)

// Ids of the modes.
const (
	Everyday      = "everyday"
	City          = "city"
	Sanitize      = "sanitize"
	Antifreeze    = "antifreeze"
	ThroughHeater = "antifreeze-through-heater"
)

// Modes makes the modes of a network from its equipment. Those that the
// equipment does not have say why in LeftOut.
func Modes(n *plumbing.Network) []Mode {
	e := survey(n)
	return []Mode{e.everyday(), e.city(), e.sanitize(), e.antifreeze(), e.throughHeater()}
}

// Find a mode by id; nil if there is none.
func ByID(modes []Mode, id string) *Mode {
	for i := range modes {
		if modes[i].ID == id {
			return &modes[i]
		}
	}
	return nil
}

// equipment is what the goals are made from.
type equipment struct {
	net     *plumbing.Network
	tanks   []*plumbing.Part
	pumps   []*plumbing.Part
	cities  []*plumbing.Part
	pickups []*plumbing.Part // container ports that lead to a pump's suction
	heaters []*plumbing.Part
	sides   []side // where water is wanted and can come
	mouths  []int  // openings through which water could run out
	shut    map[int]int
}

type side struct {
	part *plumbing.Part
	port string
	node int
}

func survey(n *plumbing.Network) *equipment {
	e := &equipment{net: n, shut: map[int]int{},
		tanks: n.PartsOf(plumbing.Tank), pumps: n.PartsOf(plumbing.Pump), cities: n.PartsOf(plumbing.CityInlet),
		pickups: n.PartsOf(plumbing.ContainerPort), heaters: n.PartsOf(plumbing.Heater)}
	for i, node := range n.Nodes {
		if node.Outside && node.Part.Kind != plumbing.RinseInlet {
			e.mouths = append(e.mouths, i)
		}
	}
	for i, h := range n.Handles {
		switch h.Part.Kind {
		case plumbing.LowPoint, plumbing.FrostValve, plumbing.Coupling, plumbing.Union:
			e.shut[i] = h.Normal
		case plumbing.Selector:
			if onlyDrains(n, h.Part) {
				e.shut[i] = h.Normal
			}
		}
	}
	// A side that no source reaches however the handles stand is dry: no mode
	// asks for water there, and a finding says so.
	any := e.reach(e.sources())
	for i, node := range n.Nodes {
		if node.Part.Kind.Info().Target && n.Joined(i) && any.Node(i) {
			e.sides = append(e.sides, side{node.Part, node.Port, i})
		}
	}
	return e
}

// onlyDrains reports whether a selector drives nothing but drains.
func onlyDrains(n *plumbing.Network, p *plumbing.Part) bool {
	for _, c := range p.Selector {
		for id := range c.Sets {
			if v := n.Model.Part(id); v != nil && v.Kind != plumbing.LowPoint && v.Kind != plumbing.FrostValve {
				return false
			}
		}
	}
	return true
}

// sources lists the nodes water can be made to come from.
func (e *equipment) sources() []int {
	return slices.Concat(e.nodes(e.tanks, "supply"), e.nodes(e.cities, "mouth"), e.nodes(e.pickups, "mouth"))
}

// reach is what can be reached from some nodes while every handle that a mode
// may turn stands as open as it can.
func (e *equipment) reach(from []int) *flow.Reached {
	return flow.Reach(e.net, undecided(e.net, e.shut, true), flow.Query{From: from})
}

// undecided is the setting in which every handle that is not fixed may stand
// in any of its positions.
func undecided(n *plumbing.Network, fixed map[int]int, pumpOn bool) flow.Setting {
	s := flow.Setting{Handles: make([]plumbing.Positions, len(n.Handles)), PumpOn: pumpOn}
	for i, h := range n.Handles {
		s.Handles[i] = 1<<len(h.Positions) - 1
		if pos, ok := fixed[i]; ok {
			s.Handles[i] = 1 << pos
		}
	}
	return s
}

// Dry lists the outlet sides that no source of the network reaches, however
// the handles stand; couplings count as they normally are.
func Dry(n *plumbing.Network) []Clause {
	e := survey(n)
	any := e.reach(e.sources())
	var list []Clause
	for i, node := range n.Nodes {
		if node.Part.Kind.Info().Target && n.Joined(i) && !any.Node(i) {
			list = append(list, Clause{Aim: Served, Must: true, Target: node.Part, Side: node.Port, To: []int{i}})
		}
	}
	return list
}

func (e *equipment) nodes(parts []*plumbing.Part, port string) []int {
	var list []int
	for _, p := range parts {
		if n := e.net.Node(p.ID + "." + port); n >= 0 {
			list = append(list, n)
		}
	}
	return list
}

func (e *equipment) partNodes(p *plumbing.Part) []int {
	var list []int
	for i, n := range e.net.Nodes {
		if n.Part == p && !n.Outside {
			list = append(list, i)
		}
	}
	return list
}

// serve asks for water at every outlet side, and at the hot ones only through
// a heater, where there is one.
func (e *equipment) serve(m *Mode) {
	for _, s := range e.sides {
		m.Clauses = append(m.Clauses, Clause{Aim: Served, Must: true, From: m.From, Target: s.part, Side: s.port, To: []int{s.node}})
	}
}

func (e *equipment) heated(m *Mode) {
	all := e.reach(e.sources())
	for _, h := range e.heaters {
		if !all.Part(h) {
			continue // a portable one that is not coupled
		}
		m.Clauses = append(m.Clauses, Clause{Aim: HeaterIn, Must: true, From: m.From, Target: h, To: e.partNodes(h)})
	}
	if len(e.heaters) == 0 {
		return
	}
	for _, s := range e.sides {
		if s.port == "hot" {
			m.Clauses = append(m.Clauses, Clause{Aim: OnlyByHeater, From: m.From, Target: s.part, Side: s.port, To: []int{s.node}, Without: e.heaters})
		}
	}
}

// keepFrom forbids what every mode forbids: water back into a tank that the
// mode does not fill, and water out at an open end.
func (e *equipment) keepFrom(m *Mode, from []int) {
	for _, t := range e.tanks {
		m.Clauses = append(m.Clauses, Clause{Aim: TankOut, From: from, Target: t, To: e.partNodes(t)})
	}
	e.noSpill(m, from)
}

func (e *equipment) noSpill(m *Mode, from []int) {
	for _, mouth := range e.mouths {
		own := false
		for _, f := range from {
			own = own || f == mouth
		}
		if !own {
			m.Clauses = append(m.Clauses, Clause{Aim: NoSpill, From: from, Target: e.net.Nodes[mouth].Part, To: []int{mouth}})
		}
	}
}

// suctionFrom forbids that sources other than the mode's own get to a pump's
// suction, where a port not in use lets air in.
func (e *equipment) suctionFrom(m *Mode, others ...[]int) {
	for _, other := range others {
		for _, n := range other {
			m.Clauses = append(m.Clauses, Clause{Aim: OneSource, From: []int{n}, Target: e.net.Nodes[n].Part, To: e.nodes(e.pumps, "in")})
		}
	}
}

// fromTank begins a mode in which the pump draws from the tank.
func (e *equipment) fromTank(id, name, fluid string) Mode {
	m := Mode{ID: id, Name: name, Fluid: fluid, PumpOn: true, Fixed: e.shut}
	switch {
	case len(e.tanks) == 0:
		m.LeftOut = "This model has no fresh tank."
		return m
	case len(e.pumps) == 0:
		m.LeftOut = "This model has no pump to draw from the tank."
		return m
	}
	m.Source, m.From = e.tanks[0], e.nodes(e.tanks, "supply")
	m.Attach = append(m.Attach, switches(e.pumps, "on")...)
	e.serve(&m)
	e.keepFrom(&m, e.nodes(e.pumps, "out"))
	e.noSpill(&m, m.From)
	e.suctionFrom(&m, e.nodes(e.pickups, "mouth"), e.nodes(e.cities, "mouth"))
	return m
}

func (e *equipment) everyday() Mode {
	m := e.fromTank(Everyday, "Everyday, from the tank", "water")
	if m.LeftOut == "" {
		e.heated(&m)
	}
	return m
}

func (e *equipment) sanitize() Mode {
	m := e.fromTank(Sanitize, "Sanitizing, from the tank", "sanitizer")
	if m.LeftOut == "" {
		e.heaterOut(&m)
	}
	return m
}

func (e *equipment) heaterOut(m *Mode) {
	for _, h := range e.heaters {
		m.Clauses = append(m.Clauses, Clause{Aim: HeaterOut, From: m.From, Target: h, To: e.partNodes(h)})
	}
}

func (e *equipment) city() Mode {
	m := Mode{ID: City, Name: "On city water", Fluid: "water", Fixed: e.shut}
	if len(e.cities) == 0 {
		m.LeftOut = "This model has no city water inlet."
		return m
	}
	m.Source, m.From = e.cities[0], e.nodes(e.cities, "mouth")
	r := e.reach(m.From)
	if !slices.ContainsFunc(e.sides, func(s side) bool { return r.Node(s.node) }) {
		m.LeftOut = m.Source.Name + " leads to no outlet: it only fills the tank."
		return m
	}
	e.serve(&m)
	e.heated(&m)
	e.keepFrom(&m, m.From)
	m.Attach = append(m.Attach, Hookup{e.cities[0], "drinking-water hose on, regulator before it, supply open"})
	m.Attach = append(m.Attach, switches(e.pumps, "off")...)
	return m
}

func (e *equipment) fromPickup(id, name string) Mode {
	m := Mode{ID: id, Name: name, Fluid: "antifreeze", PumpOn: true, Fixed: e.shut}
	switch {
	case len(e.pumps) == 0:
		m.LeftOut = "This model has no pump to draw antifreeze."
		return m
	case len(e.pickups) == 0:
		m.LeftOut = "This model has no winter pick-up: there is no port to draw antifreeze from a jug."
		return m
	}
	m.Source, m.From = e.pickups[0], e.nodes(e.pickups, "mouth")
	m.Attach = append(m.Attach, Hookup{e.pickups[0], "cap off, end in the antifreeze jug"})
	m.Attach = append(m.Attach, switches(e.pumps, "on")...)
	return m
}

func (e *equipment) antifreeze() Mode {
	m := e.fromPickup(Antifreeze, "Antifreeze by the pump")
	if m.LeftOut != "" {
		return m
	}
	e.serve(&m)
	e.heaterOut(&m)
	e.keepFrom(&m, m.From)
	e.noSpill(&m, e.nodes(e.tanks, "supply"))
	e.suctionFrom(&m, e.nodes(e.tanks, "supply"), e.nodes(e.cities, "mouth"))
	return m
}

// throughHeater is what antifreeze by the pump comes to where the heater is
// left in: the measure of what a bypass saves.
func (e *equipment) throughHeater() Mode {
	m := e.fromPickup(ThroughHeater, "Antifreeze by the pump, heater not bypassed")
	m.Measure = true
	if m.LeftOut == "" && len(e.heaters) == 0 {
		m.LeftOut = "This model has no heater."
	}
	if m.LeftOut != "" {
		return m
	}
	e.serve(&m)
	e.heated(&m)
	e.keepFrom(&m, m.From)
	e.noSpill(&m, e.nodes(e.tanks, "supply"))
	e.suctionFrom(&m, e.nodes(e.tanks, "supply"), e.nodes(e.cities, "mouth"))
	return m
}

func switches(pumps []*plumbing.Part, what string) []Hookup {
	var list []Hookup
	for _, p := range pumps {
		list = append(list, Hookup{p, "pump switch " + what})
	}
	return list
}
