package plumbing

import (
	"cmp"
	"fmt"
	"iter"
	"maps"
	"math/bits"
	"reflect"
	"slices"
	"strings"
	"sync"

	"coldtap/internal/core/quantity"
	"coldtap/internal/core/record"
)

// Places in a network's lists. Each has a type of its own, so that one is never
// taken for another.
type (
	NodeID   int // of Network.Nodes
	LinkID   int // of Network.Links
	HandleID int // of Network.Handles
	PumpID   int // of Network.Pumps

	HeatID    int // of Network.Heat
	FittingID int // of Network.Fittings
)

// None is no place in any list.
const None = -1

// Position is one of the positions of a handle, by its place in the handle's
// list.
type Position int

// Positions is a set of a handle's positions, bit i for position i.
type Positions uint32

// mostPositions is how many fit into a set.
const mostPositions = 32

// mostSwitches is how many pumps or heat sources a state can tell apart.
const mostSwitches = 64

// Only is the set of one position.
func (p Position) Only() Positions { return 1 << p }

// Has reports whether a position is in the set.
func (s Positions) Has(p Position) bool { return s&(1<<p) != 0 }

// First is the first position in the set, None of an empty one.
func (s Positions) First() Position {
	if s == 0 {
		return None
	}
	return Position(bits.TrailingZeros32(uint32(s)))
}

// Network is the plumbing of one build as a graph. Nodes are ports and
// openings, links are lines and passages. Everything is in the order of ids,
// so that the order of parts in the file changes nothing.
type Network struct {
	Model   *Model // of the build
	Nodes   []Node
	Links   []Link
	Handles []Handle
	Pumps   []*Part

	Heat      []HeatSource
	Fittings  []Fitting
	Pieces    []Piece // where its water stands
	node      map[string]NodeID
	pieces    []PieceID // first piece of each link
	pieceOf   map[*Part]PieceID
	memo      *memo
	structure *structure

	rec    *record.Recorder        // who wants to know what is read
	fields map[fieldKey]record.Ref // what was read of it before, where somebody wants to know
}

// memo keeps what others work out of a network once, by its type.
type memo struct {
	mu   sync.Mutex
	kept map[any]kept
}

// kept is what was worked out, and what was read for it.
type kept struct {
	value any
	from  []record.Ref
}

func newMemo() *memo { return &memo{kept: map[any]kept{}} }

// Once gives what is worked out of a network, from the second time on without
// working it out again. A network must not be changed after it has been asked.
func Once[T any](n *Network, work func() T) T {
	if n.memo == nil {
		return work()
	}
	n.memo.mu.Lock()
	defer n.memo.mu.Unlock()
	key := any(reflect.TypeFor[T]())
	k, ok := n.memo.kept[key]
	if !ok {
		k.from = n.rec.DuringRefs(func() { k.value = work() })
		n.memo.kept[key] = k
	}
	n.rec.NoteRefs(k.from...)
	return k.value.(T)
}

// Changed is a copy of the network whose links and nodes may be changed.
func (n *Network) Changed() *Network {
	c := *n
	c.Nodes, c.Links = slices.Clone(n.Nodes), slices.Clone(n.Links)
	c.memo, c.structure = newMemo(), newStructure() // what was worked out holds no more
	return &c
}

// With is a copy of the network that has one link more, which holds nothing.
func (n *Network) With(l Link) *Network {
	c := n.Changed()
	id := LinkID(len(c.Links))
	c.Links = append(c.Links, l)
	for _, end := range []NodeID{l.A, l.B} {
		c.Nodes[end].Links = append(slices.Clone(c.Nodes[end].Links), id)
	}
	c.pieces = append(slices.Clip(n.pieces), PieceID(len(n.Pieces)))
	c.Pieces = append(slices.Clip(n.Pieces), Piece{Link: id, Part: l.Part, To: 1})
	return c
}

// HoseEnd is a hose whose end can lie or be held somewhere else than it is
// described.
type HoseEnd struct {
	Part   *Part
	Height quantity.Metre
	Low    bool // it lies low; else it is held high
}

// HoseEnds lists where the ends of hoses may be, by part, low before high.
func (n *Network) HoseEnds() []HoseEnd {
	var list []HoseEnd
	for _, p := range n.PartsOf(RoleOutlet, RolePickUp) {
		if !p.Data.LowEnd.IsZero() {
			list = append(list, HoseEnd{p, p.Data.LowEnd.Value(), true})
		}
		if !p.Data.HighEnd.IsZero() {
			list = append(list, HoseEnd{p, p.Data.HighEnd.Value(), false})
		}
	}
	return list
}

// WithEnd is the network with the end of a hose where it may be. Nodes, links
// and handles keep their places.
func (n *Network) WithEnd(e HoseEnd) (*Network, error) {
	m := *n.Model
	m.Parts = slices.Clone(m.Parts)
	p := m.Part(e.Part.ID)
	p.Place.Height = quantity.Of(e.Height, quantity.SI)
	p.Heights = nil
	return NewNetwork(&m)
}

// Node is a port of a part or an opening to the outside.
type Node struct {
	Part    *Part
	Port    string
	Outside bool
	Links   []LinkID
}

// Name is "part.port".
func (n Node) Name() string { return n.Part.ID + "." + n.Port }

// Link joins two nodes.
type Link struct {
	A, B    NodeID
	Line    *Line    // nil for a passage
	Part    *Part    // nil for a line
	OneWay  bool     // passes A → B only
	Tempers bool     // adds cold water to hot, as far as it is too hot
	Pump    PumpID   // that the way leads through, None for none
	Idle    bool     // passes that pump while it is off, too
	Handle  HandleID // that opens and shuts it, None for none
	Open    Positions
	Seat    bool // where a part sits on another without a line
	Content quantity.Litre
	Seep    quantity.LitrePerMinute // of a way through a check valve that fails: what it lets through at SeepAt
}

// Other is the link's end that is not n.
func (l *Link) Other(n NodeID) NodeID {
	if l.A == n {
		return l.B
	}
	return l.A
}

// Handle is something a hand sets. A valve that a selector drives has none.
type Handle struct {
	Part      *Part
	Positions []string
	Normal    Position
}

// Motors lists the valves driven by a motor that a handle sets: what a hand
// turns is the handle, and without power they stay where they are.
func (n *Network) Motors(h *Handle) []*Part {
	var list []*Part
	seen := map[string]bool{}
	for _, c := range h.Part.Selector {
		for _, id := range sortedKeys(c.Sets) {
			if v := n.Model.Part(id); v != nil && v.Data.Motor && !seen[id] {
				list, seen[id] = append(list, v), true
			}
		}
	}
	if h.Part.Data.Motor {
		list = append(list, h.Part)
	}
	return list
}

// Every is the set of all its positions.
func (h *Handle) Every() Positions { return 1<<len(h.Positions) - 1 }

// All runs through its positions.
func (h *Handle) All() iter.Seq2[Position, string] {
	return func(yield func(Position, string) bool) {
		for i, name := range h.Positions {
			if !yield(Position(i), name) {
				return
			}
		}
	}
}

// Next is the position after one, the first after the last.
func (h *Handle) Next(p Position) Position { return (p + 1) % Position(len(h.Positions)) }

// Index finds a position by name, None if there is none.
func (h *Handle) Index(position string) Position {
	return Position(slices.Index(h.Positions, position))
}

// Build is the model with the given options: parts and lines of other
// options are gone. Unknown options are an error.
func (m *Model) Build(options ...string) (*Model, error) {
	has := map[string]bool{}
	for _, o := range options {
		if !slices.ContainsFunc(m.Options, func(x Option) bool { return x.ID == o }) {
			return nil, fmt.Errorf("model %s has no option %q", m.ID, o)
		}
		for other := range has {
			if m.Shut(o, other) {
				return nil, fmt.Errorf("option %q can't be fitted with %q", o, other)
			}
		}
		has[o] = true
	}
	m = m.WithNumbers() // the same in every build
	b := *m
	in := func(option, without string) bool {
		return (option == "" || has[option]) && (without == "" || !has[without])
	}
	b.Parts, b.Lines = nil, nil
	for _, p := range m.Parts {
		if in(p.Option, p.Without) {
			b.Parts = append(b.Parts, p)
		}
	}
	for _, l := range m.Lines {
		if in(l.Option, l.Without) {
			b.Lines = append(b.Lines, l)
		}
	}
	return &b, nil
}

// StandardOptions lists the options that are fitted unless left out.
func (m *Model) StandardOptions() []string {
	var list []string
	for _, o := range m.Options {
		if o.Standard {
			list = append(list, o.ID)
		}
	}
	return list
}

// NewNetwork makes the network of a build. A build whose lines end at parts
// it does not have is an error that names them.
func NewNetwork(build *Model) (*Network, error) {
	n := &Network{Model: build, node: map[string]NodeID{}, memo: newMemo(), structure: newStructure()}
	parts := make([]*Part, len(build.Parts))
	for i := range build.Parts {
		parts[i] = &build.Parts[i]
	}
	slices.SortFunc(parts, func(a, b *Part) int { return cmp.Compare(a.ID, b.ID) })
	n.addNodes(parts)
	n.Pumps = slices.DeleteFunc(slices.Clone(parts), func(p *Part) bool { return p.Role() != RolePump })
	for _, p := range parts {
		for _, by := range p.HeatBy() {
			n.Heat = append(n.Heat, HeatSource{p, by})
		}
		if what := p.Fitted(); what != "" {
			n.Fittings = append(n.Fittings, Fitting{p, what})
		}
	}
	if most := max(len(n.Pumps), len(n.Heat)); most > mostSwitches {
		return nil, fmt.Errorf("%d pumps or heat sources are more than the %d that can be told apart", most,
			mostSwitches)
	}
	drivers := n.addHandles(parts)
	for _, p := range parts {
		n.addPassages(p, drivers)
		if err := n.addSeats(p, drivers); err != nil {
			return nil, err
		}
	}
	if err := n.addLines(); err != nil {
		return nil, err
	}
	for i, l := range n.AllLinks() {
		n.Nodes[l.A].Links = append(n.Nodes[l.A].Links, i)
		n.Nodes[l.B].Links = append(n.Nodes[l.B].Links, i)
	}
	n.addPieces(parts)
	return n, nil
}

func (n *Network) addNodes(parts []*Part) {
	for _, p := range parts {
		for _, port := range p.Ports() {
			n.node[p.ID+"."+port.Name] = NodeID(len(n.Nodes))
			n.Nodes = append(n.Nodes, Node{Part: p, Port: port.Name})
		}
		if in := p.Kind.Info().Inside; in != "" {
			n.node[p.ID+"."+in] = NodeID(len(n.Nodes))
			n.Nodes = append(n.Nodes, Node{Part: p, Port: in})
		}
		for _, o := range p.Kind.Info().Openings {
			n.node[p.ID+"."+o] = NodeID(len(n.Nodes))
			n.Nodes = append(n.Nodes, Node{Part: p, Port: o, Outside: true})
		}
	}
}

// driver says which handle sets a valve, and to what in each position.
type driver struct {
	handle HandleID
	sets   []string // the valve's position for each of the handle's
}

func (n *Network) addHandles(parts []*Part) map[string]driver {
	drivers := map[string]driver{}
	for _, p := range parts {
		if p.Kind != Selector {
			continue
		}
		driven := map[string]bool{}
		for _, c := range p.Selector {
			for id := range c.Sets {
				driven[id] = true
			}
		}
		for id := range driven {
			v := n.Model.Part(id)
			if v == nil {
				continue
			}
			d := driver{handle: HandleID(len(n.Handles))}
			for _, c := range p.Selector {
				d.sets = append(d.sets, cmp.Or(c.Sets[id], v.NormalPosition()))
			}
			drivers[id] = d
		}
		n.addHandle(p)
	}
	for _, p := range parts {
		if _, driven := drivers[p.ID]; driven || p.Kind == Selector || len(p.Positions()) == 0 {
			continue
		}
		drivers[p.ID] = driver{handle: HandleID(len(n.Handles)), sets: p.Positions()}
		n.addHandle(p)
	}
	// Handles in the order of ids, selectors among the others.
	order := make([]int, len(n.Handles))
	for i := range order {
		order[i] = i
	}
	slices.SortFunc(order, func(a, b int) int { return cmp.Compare(n.Handles[a].Part.ID, n.Handles[b].Part.ID) })
	sorted, to := make([]Handle, len(order)), make([]HandleID, len(order))
	for i, old := range order {
		sorted[i], to[old] = n.Handles[old], HandleID(i)
	}
	n.Handles = sorted
	for id, d := range drivers {
		d.handle = to[d.handle]
		drivers[id] = d
	}
	return drivers
}

func (n *Network) addHandle(p *Part) {
	list := p.Positions()
	n.Handles = append(n.Handles, Handle{Part: p, Positions: list,
		Normal: Position(max(0, slices.Index(list, p.NormalPosition())))})
}

func (n *Network) addPassages(p *Part, drivers map[string]driver) {
	list := p.passages()
	for i, info := range list {
		l := Link{
			A: n.node[p.ID+"."+info.From], B: n.node[p.ID+"."+info.To], Part: p, Handle: None,
			OneWay:  info.OneWay || info.Check && p.Data.CheckValve,
			Tempers: info.Tempers,
			Pump:    None, Idle: p.Data.PassesIdle,
		}
		if info.Running {
			l.Pump = PumpID(slices.Index(n.Pumps, p))
		}
		if len(info.In) > 0 {
			d := drivers[p.ID]
			l.Handle = d.handle
			for i, pos := range d.sets {
				if slices.Contains(info.In, pos) {
					l.Open |= 1 << i
				}
			}
		}
		switch {
		case p.Kind == Manifold: // what it holds lies at all its ways
			l.Content = p.Holds() / quantity.Litre(len(list))
		case i == 0: // what another part holds stands in its first passage
			l.Content = p.Holds()
		}
		n.Links = append(n.Links, l)
	}
}

// addSeats joins a part to the port that it sits on, and a jumper hose to its
// two ends.
func (n *Network) addSeats(p *Part, drivers map[string]driver) error {
	l := Link{Part: p, Handle: None, Pump: None, Seat: true}
	switch {
	case p.On != "":
		l.A, l.B = n.Node(p.On), n.Node(p.ID+"."+p.Ports()[0].Name)
		if l.A == None {
			return &LooseEndError{p.Name + " sits on", p.On}
		}
	case p.Role() == RoleJumper && len(p.Ends) == 2:
		for i, at := range []*NodeID{&l.A, &l.B} {
			if *at = n.Node(p.Ends[i]); *at == None {
				return &LooseEndError{p.Name + " ends at", p.Ends[i]}
			}
		}
		d := drivers[p.ID]
		l.Handle = d.handle // it is emptied before it is stowed, and holds nothing then
		for i, pos := range d.sets {
			if pos == "joined" {
				l.Open |= 1 << i
			}
		}
	default:
		return nil
	}
	n.Links = append(n.Links, l)
	return nil
}

// Holds is the water a part holds when full, its own figure: capacity for a
// vessel, hold-up for a small part.
func (p *Part) Holds() quantity.Litre {
	if !p.Data.HoldUp.IsZero() {
		return p.Data.HoldUp.Value()
	}
	return p.Data.Capacity.Value()
}

func (n *Network) addLines() error {
	lines := make([]*Line, len(n.Model.Lines))
	for i := range n.Model.Lines {
		lines[i] = &n.Model.Lines[i]
	}
	slices.SortFunc(lines, func(a, b *Line) int { return cmp.Compare(a.ID, b.ID) })
	for _, l := range lines {
		a, okA := n.node[l.From]
		b, okB := n.node[l.To]
		if !okA || !okB {
			missing := l.From
			if okA {
				missing = l.To
			}
			return &LooseEndError{fmt.Sprintf("line %q ends at", l.ID), missing}
		}
		n.Links = append(n.Links, Link{A: a, B: b, Line: l, Handle: None, Pump: None, Content: l.Content()})
	}
	return nil
}

// Node finds a node by "part.port", None if there is none.
func (n *Network) Node(name string) NodeID {
	n.noteJoined()
	if i, ok := n.node[name]; ok {
		return i
	}
	return None
}

// NodesOf lists the nodes of a part that are for something, numbered ones too.
func (n *Network) NodesOf(p *Part, port string) []NodeID {
	var list []NodeID
	if i := n.Node(p.ID + "." + port); i != None {
		list = append(list, i)
	}
	for _, more := range strings.Fields(p.Data.MorePorts) {
		if PortKind(more) == port {
			list = append(list, n.Node(p.ID+"."+more))
		}
	}
	return list
}

// AllNodes runs through the nodes with their places.
func (n *Network) AllNodes() iter.Seq2[NodeID, *Node] {
	n.noteJoined()
	return func(yield func(NodeID, *Node) bool) {
		for i := range n.Nodes {
			if !yield(NodeID(i), &n.Nodes[i]) {
				return
			}
		}
	}
}

// AllLinks runs through the links with their places.
func (n *Network) AllLinks() iter.Seq2[LinkID, *Link] {
	n.noteJoined()
	return func(yield func(LinkID, *Link) bool) {
		for i := range n.Links {
			if !yield(LinkID(i), &n.Links[i]) {
				return
			}
		}
	}
}

// AllHandles runs through the handles with their places.
func (n *Network) AllHandles() iter.Seq2[HandleID, *Handle] {
	n.noteJoined()
	return func(yield func(HandleID, *Handle) bool) {
		for i := range n.Handles {
			if !yield(HandleID(i), &n.Handles[i]) {
				return
			}
		}
	}
}

// Joined reports whether a line ends at the node, or a part sits on it.
func (n *Network) Joined(node NodeID) bool {
	return slices.ContainsFunc(n.Nodes[node].Links, func(l LinkID) bool {
		return n.Links[l].Line != nil || n.Links[l].Seat && n.Links[l].Handle == None
	})
}

// SidesOf lists the sides of an outlet that a line comes to.
func (n *Network) SidesOf(p *Part) []string {
	var list []string
	for _, port := range p.Ports() {
		if n.Joined(n.Node(p.ID + "." + port.Name)) {
			list = append(list, port.Name)
		}
	}
	return list
}

// HandleOf finds the handle that sets a part, None if nothing does: its own, or
// that of the selector that drives it.
func (n *Network) HandleOf(partID string) HandleID {
	for i, h := range n.AllHandles() {
		if h.Part.ID == partID {
			return i
		}
	}
	for _, l := range n.Links {
		if l.Part != nil && l.Part.ID == partID && l.Handle >= 0 {
			return l.Handle
		}
	}
	return None
}

// PartsOf lists the build's parts of some roles in the order of ids.
func (n *Network) PartsOf(roles ...Role) []*Part {
	n.noteJoined()
	var list []*Part
	for i := range n.Model.Parts {
		if slices.Contains(roles, n.Model.Parts[i].Role()) {
			list = append(list, &n.Model.Parts[i])
		}
	}
	slices.SortFunc(list, func(a, b *Part) int { return cmp.Compare(a.ID, b.ID) })
	return list
}

// AllParts lists the build's parts in the order of ids.
func (n *Network) AllParts() []*Part {
	n.noteJoined()
	list := make([]*Part, len(n.Model.Parts))
	for i := range n.Model.Parts {
		list[i] = &n.Model.Parts[i]
	}
	slices.SortFunc(list, func(a, b *Part) int { return cmp.Compare(a.ID, b.ID) })
	return list
}

// Beside reports whether a line joins two parts, or one sits on the other.
func (n *Network) Beside(a, b *Part) bool {
	return slices.ContainsFunc(n.Links, func(l Link) bool {
		x, y := n.Nodes[l.A].Part, n.Nodes[l.B].Part
		return x == a && y == b || x == b && y == a
	})
}

func sortedKeys[V any](m map[string]V) []string { return slices.Sorted(maps.Keys(m)) }

// PartOf splits "part.port".
func PartOf(ref string) (part, port string) {
	part, port, _ = strings.Cut(ref, ".")
	return part, port
}

// FillHose reports whether a link is a line that leads from a fill point into
// the top of a tank: it runs empty, and is no line that holds water.
func (n *Network) FillHose(link LinkID) bool {
	l := &n.Links[link]
	if l.Line == nil {
		return false
	}
	fill, tank := false, false
	for _, end := range []NodeID{l.A, l.B} {
		node := n.Nodes[end]
		fill = fill || node.Part.Kind == GravityFill
		tank = tank || node.Part.Kind == Tank && slices.ContainsFunc(node.Part.Ports(), func(i PortInfo) bool {
			return i.Name == node.Port && i.Level == Top
		})
	}
	return fill && tank
}
