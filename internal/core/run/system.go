package run

import (
	"maps"
	"slices"
	"sync"
	"sync/atomic"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// System is a network in a state, with what stands in it.
type System struct {
	State state.State

	net     *plumbing.Network
	lay     *layout
	stores  []queue // what stands in lines, places and outlets
	vessels []Vessel
	jugs    map[plumbing.NodeID]*Jug // containers at ports
	account Account
	smear   float64 // share of a line's content over which a front in it mixes
	wrong   func(state.State) state.State
	clock   quantity.Second
	hot     map[*plumbing.Part]bool // heaters whose water scalds
	heated  map[*plumbing.Part]bool // heaters that are on
	pressed []bool                  // by node: more than the water's own weight stands there
	caught  map[*plumbing.Part]bool // somebody holds a bucket under them
	rinses  map[*plumbing.Part]bool // waste tanks that were emptied and rinsed
	wastes  map[*plumbing.Part]Waste
	buckets map[*plumbing.Part]Plug    // what was caught under parts, in a bucket each
	stretch map[string]quantity.Second // by pump, how long it has run without a rest
	taken   map[int]quantity.Litre     // by store of a passage, what it took in by pressing its air together
	seals   map[*plumbing.Part]Mix     // of traps that something was poured into

	scratch [3][]Plug // worked with, by place; nothing stands in them
}

// Vessel is what stands in a tank or a storage heater, well mixed.
type Vessel struct {
	Part   *plumbing.Part
	Liquid Plug // no air in it
	Holds  quantity.Litre
	Closed bool // no vent: what comes in presses its air together

	squeezed  quantity.Litre // of a closed one: what it took in by pressing its air together
	heel      quantity.Litre // of a tank: what no port at its bottom draws
	dry, airy bool           // it gives air at its bottom, at its top
}

// Jug is a container that a port's hose hangs in.
type Jug struct {
	Left Plug
	Ends bool // somebody said how much is in it; else there is always more
	Used quantity.Litre
}

// layout is where things stand in a network, whatever stands there.
type layout struct {
	place   []int // by node
	store   []int // by link, None for a vessel's and for what holds nothing
	holds   []quantity.Litre
	within  []int                  // by place, the store of its parts; None where they hold nothing
	inside  map[*plumbing.Part]int // stores of outlets
	vessel  map[*plumbing.Part]int
	vessels []*plumbing.Part
	through []int            // by link, the vessel that it leads through, None for none
	shy     []*plumbing.Part // by link, the part that may shun what runs through it; nil for most
	pieces  []int            // by piece, its store; of a vessel's None
	bowl    []bool           // by link, that it leads over a bowl, which air does not empty
	count   int              // of places
	tanks   int              // how many
	joined  sync.Map         // by how handles stand, whether some of them are joined
	solved  sync.Map         // by what it follows from, how much runs through each link
	kept    atomic.Int64     // how many are
}

func layoutOf(n *plumbing.Network) *layout {
	place, count := flow.Places(n)
	return plumbing.Once(n, func() *layout { return newLayout(n, place, count) })
}

func newLayout(n *plumbing.Network, place []int, count int) *layout {
	l := &layout{place: place, count: count, store: make([]int, len(n.Links)), inside: map[*plumbing.Part]int{},
		vessel: map[*plumbing.Part]int{}, pieces: make([]int, len(n.Pieces))}
	l.within = slices.Repeat([]int{plumbing.None}, l.count)
	add := func(v quantity.Litre) int {
		l.holds = append(l.holds, v)
		return len(l.holds) - 1
	}
	for i := range n.Links {
		k, v := &n.Links[i], n.Links[i].Content
		l.store[i] = plumbing.None
		switch at := l.place[k.A]; {
		case k.Part != nil && k.Part.Vessel(), v <= 0:
		case at != l.place[k.B]:
			l.store[i] = add(v)
		case l.within[at] == plumbing.None:
			l.within[at] = add(v)
			l.store[i] = l.within[at]
		default:
			l.store[i] = l.within[at]
			l.holds[l.within[at]] += v
		}
	}
	for i, p := range n.AllPieces() {
		l.pieces[i] = plumbing.None
		switch {
		case p.Vessel:
			l.vessel[p.Part] = len(l.vessels)
			l.vessels = append(l.vessels, p.Part)
		case p.Link == plumbing.None:
			l.inside[p.Part] = add(p.Holds)
			l.pieces[i] = l.inside[p.Part]
		default:
			l.pieces[i] = l.store[p.Link]
		}
	}
	l.tanks = len(n.PartsOf(plumbing.RoleTank))
	l.through = make([]int, len(n.Links))
	for i := range n.Links {
		l.through[i] = plumbing.None
		if v, ok := l.vessel[n.Links[i].Part]; ok {
			l.through[i] = v
		}
	}
	l.bowl = make([]bool, len(n.Links))
	for i := range n.Links {
		p := n.Links[i].Part
		l.bowl[i] = p != nil && p.Role() == plumbing.RoleStrainer && l.store[i] != plumbing.None
	}
	l.shy = make([]*plumbing.Part, len(n.Links))
	for i := range n.Links {
		if p := n.Links[i].Part; p != nil && slices.Contains(shyRoles, p.Role()) {
			l.shy[i] = p
		}
	}
	return l
}

// shyRoles are roles whose parts may shun what runs through them.
var shyRoles = []plumbing.Role{plumbing.RoleHeater, plumbing.RoleFilter, plumbing.RoleSoftener}

// New is a network in a state in which plain water stands everywhere that the
// state does not say otherwise: tanks as full as their levels, pieces as full
// as their contents.
func New(n *plumbing.Network, s state.State, supply Mix) *System {
	x := &System{State: s, net: n, lay: layoutOf(n), jugs: map[plumbing.NodeID]*Jug{}}
	x.stores = make([]queue, len(x.lay.holds))
	x.pressed, x.hot = make([]bool, len(n.Nodes)), map[*plumbing.Part]bool{}
	x.heated = map[*plumbing.Part]bool{}
	x.caught, x.rinses = map[*plumbing.Part]bool{}, map[*plumbing.Part]bool{}
	x.seals, x.wastes = map[*plumbing.Part]Mix{}, map[*plumbing.Part]Waste{}
	x.taken = map[int]quantity.Litre{}
	x.buckets, x.stretch = map[*plumbing.Part]Plug{}, map[string]quantity.Second{}
	x.account.Mix = supply
	wet := flow.EverWet(n, s)
	for i := range n.Pieces {
		at, p := x.lay.pieces[i], &n.Pieces[i]
		if at == plumbing.None || p.Holds <= 0 {
			continue
		}
		share := quantity.Litre(s.Contents.Share(plumbing.PieceID(i)))
		if dry(n, wet, p) {
			share = 0
		}
		x.stores[at] = x.stores[at].push(Plug{Litre: p.Holds * share, Mix: supply}, false)
		x.stores[at] = x.stores[at].push(Air(p.Holds*(1-share)), false)
	}
	for _, p := range x.lay.vessels {
		v := Vessel{Part: p, Holds: n.Pieces[n.PieceOf(p)].Holds, Closed: p.Role() != plumbing.RoleTank}
		share := s.Contents.Share(n.PieceOf(p))
		if !v.Closed {
			share, v.heel = s.Level(p.ID), plumbing.Field(n, &p.Data.Heel).Value()
		}
		v.Liquid = Plug{Litre: v.Holds * quantity.Litre(share), Mix: supply}
		v.airy = v.Holds-v.Liquid.Litre > v.drop()
		v.look()
		x.vessels = append(x.vessels, v)
	}
	x.State.Contents = nil
	x.account.Had = x.total()
	x.join(state.State{})
	x.press()
	return x
}

// dry reports whether a piece holds no water whatever is done, or runs empty by itself.
func dry(n *plumbing.Network, wet flow.Wet, p *plumbing.Piece) bool {
	if p.Link == plumbing.None {
		return !wet.Part(p.Part)
	}
	l := &n.Links[p.Link]
	return !wet.Link(p.Link) || l.Line != nil && l.Line.Side == plumbing.Air || n.FillHose(p.Link)
}

// Pieces are what stands in each piece, mixed: its litres with the air in it.
func (x *System) Pieces() []Plug {
	list := make([]Plug, len(x.net.Pieces))
	done := map[int]bool{}
	for i := range x.net.Pieces {
		p := &x.net.Pieces[i]
		switch at := x.lay.pieces[i]; {
		case p.Vessel:
			v := x.Vessel(p.Part)
			list[i] = v.Liquid.With(Air(v.Holds - v.Liquid.Litre))
		case at != plumbing.None && !done[at]:
			done[at] = true
			x.cut(at, list)
		}
	}
	return list
}

// Clone is a copy that goes its own way.
func (x *System) Clone() *System {
	c := *x
	c.scratch = [3][]Plug{}
	c.stores = make([]queue, len(x.stores))
	for i, q := range x.stores {
		c.stores[i] = slices.Clone(q)
	}
	c.vessels = slices.Clone(x.vessels)
	c.jugs = map[plumbing.NodeID]*Jug{}
	for at, j := range x.jugs {
		copied := *j
		c.jugs[at] = &copied
	}
	c.account = x.account.clone()
	c.caught = maps.Clone(x.caught)
	c.heated = maps.Clone(x.heated)
	c.rinses, c.seals = maps.Clone(x.rinses), maps.Clone(x.seals)
	c.taken = maps.Clone(x.taken)
	c.wastes, c.buckets, c.stretch = maps.Clone(x.wastes), maps.Clone(x.buckets), maps.Clone(x.stretch)
	c.hot, c.pressed = maps.Clone(x.hot), slices.Clone(x.pressed)
	return &c
}

// Clock is how long has gone by.
func (x *System) Clock() quantity.Second { return x.clock }

// In is what stands in a line or a passage from its A end to its B end, in
// a place that several share all of it.
func (x *System) In(link plumbing.LinkID) []Plug {
	if at := x.lay.store[link]; at != plumbing.None {
		return slices.Clone(x.stores[at])
	}
	return nil
}

// Inside is what stands in an outlet.
func (x *System) Inside(p *plumbing.Part) []Plug {
	if at, ok := x.lay.inside[p]; ok {
		return slices.Clone(x.stores[at])
	}
	return nil
}

// Stretch is what stands in a link from its A end; nil for one that holds nothing of its own.
func (x *System) Stretch(link plumbing.LinkID) []Plug {
	if at := x.lay.store[link]; at != plumbing.None && x.net.Links[link].Line != nil {
		return slices.Clone(x.stores[at])
	}
	return nil
}

// Vessel is what stands in a tank or storage heater; nil for other parts.
func (x *System) Vessel(p *plumbing.Part) *Vessel {
	if i, ok := x.lay.vessel[p]; ok {
		v := x.vessels[i]
		return &v
	}
	return nil
}

// Vessels are all of them, in the order of ids.
func (x *System) Vessels() []Vessel { return slices.Clone(x.vessels) }

// Jugs are the containers at ports.
func (x *System) Jugs() map[plumbing.NodeID]Jug {
	jugs := map[plumbing.NodeID]Jug{}
	for at, j := range x.jugs {
		jugs[at] = *j
	}
	return jugs
}

// join lets containers come with the connections that name them, and go with
// them; what a connection brings that was there before stays as it is.
func (x *System) join(before state.State) {
	for at, c := range x.State.Joined {
		if c.Kind != state.Container && c.Kind != state.HandPump || before.Joined[at] == c && x.jugs[at] != nil {
			continue
		}
		x.takeJug(at)
		j := &Jug{Ends: c.Volume > 0, Left: Plug{Litre: c.Volume, Mix: x.mixOf(c)}}
		x.jugs[at] = j
		x.account.came(j.Left)
	}
	for at := range x.jugs {
		if k := x.State.Joined[at].Kind; k != state.Container && k != state.HandPump {
			x.takeJug(at)
		}
	}
}

// takeJug takes a container away with what is left in it.
func (x *System) takeJug(at plumbing.NodeID) {
	if j := x.jugs[at]; j != nil {
		x.account.kept(j.Left)
		delete(x.jugs, at)
	}
}

// mixOf is what comes by a connection. How strong a fluid is says who runs it.
func (x *System) mixOf(c state.Connection) Mix {
	if m, ok := x.account.Brings[c.Fluid]; ok {
		return m
	}
	return x.account.Mix
}

// Bring says what a fluid is that comes by connections from now on.
func (x *System) Bring(f state.Fluid, m Mix) {
	x.account.Brings = maps.Clone(x.account.Brings)
	if x.account.Brings == nil {
		x.account.Brings = map[state.Fluid]Mix{}
	}
	x.account.Brings[f] = m
}

// seen is the state as flow and draining ask it: levels and contents as they
// are now.
func (x *System) seen() state.State {
	s := x.State
	s.Levels = map[string]float64{}
	for i := range x.vessels {
		v := &x.vessels[i]
		if !v.Closed && v.Holds > 0 {
			s.Levels[v.Part.ID] = float64(v.Liquid.Litre / v.Holds)
		}
	}
	return s
}

// contents are what stands in each piece, as far as it is liquid.
func (x *System) contents() state.Contents {
	c := state.Contents{}
	for i, p := range x.Pieces() {
		if p.Litre > 0 {
			c[plumbing.PieceID(i)] = state.Content{Share: min(1, max(0, 1-p.Gas))}
		}
	}
	return c
}

// cut shares what stands in a store out among its pieces, in their order.
func (x *System) cut(at int, list []Plug) {
	q, used, k := x.stores[at], quantity.Litre(0), 0
	for i := range x.net.Pieces {
		if x.lay.pieces[i] != at {
			continue
		}
		for want := x.net.Pieces[i].Holds; want > 1e-12 && k < len(q); {
			take := min(want, q[k].Litre-used)
			list[i] = list[i].With(q[k].Part(take))
			want, used = want-take, used+take
			if used >= q[k].Litre-1e-12 {
				k, used = k+1, 0
			}
		}
	}
}
