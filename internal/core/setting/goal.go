// Package setting finds the position of every handle for each way of using a
// system. A mode is a goal made of clauses over reach; a setting is judged
// against it, or searched for with the fewest changes.
package setting

import (
	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// Aim says what a clause is for; it picks the words for the clause and its breach.
type Aim int

const (
	Served       Aim = iota // an outlet's side gets it
	HeaterIn                // the heater gets it
	OnlyByHeater            // a hot side gets it only through the heater
	HeaterOut               // the heater does not get it
	TankIn                  // a fresh tank gets it
	TankOut                 // a fresh tank does not get it
	NoSpill                 // it does not run out at an open end
	OneSource               // nothing else reaches the pump's suction
	RunsOut                 // what stands there can run out at an open drain
	KeptOff                 // a strong batch does not get to an outlet's side
	Spared                  // a part does not get what it shuns
	Joined                  // a tank's water gets to another tank below the water
	Apart                   // it does not
	FilterOut               // a filter gets none
	FilterIn                // a filter gets it
	OnlyByFilter            // an outlet's side gets it only through a filter
)

// String is the aim's id in the catalogue of words.
func (a Aim) String() string {
	return [...]string{"served", "heater-in", "only-by-heater", "heater-out", "tank-in", "tank-out", "no-spill",
		"one-source", "runs-out",
		"kept-off", "spared", "joined", "apart", "filter-out", "filter-in", "only-by-filter"}[a]
}

// Clause is one condition of a goal: a target that must, or must not, be
// reached from some nodes, possibly with parts taken out of the way.
type Clause struct {
	Aim     Aim
	Must    bool
	From    []plumbing.NodeID
	Target  *plumbing.Part    // for words
	Side    string            // port of the target, where it matters
	To      []plumbing.NodeID // of the target; any of them counts
	Without []*plumbing.Part  // taken out of the way

	Untempered bool // without what mixing valves add of cold water
}

// Query is what the clause asks of reach.
func (c *Clause) Query() flow.Query {
	return flow.Query{From: c.From, Without: c.Without, Untempered: c.Untempered}
}

// Mode is a way of using the system and its goal.
type Mode struct {
	ID      string
	Name    fact.Fact
	Group   Group
	Fluid   state.Fluid // what moves
	Source  *plumbing.Part
	From    []plumbing.NodeID                       // it is made to come from
	Start   state.State                             // of all but the handles: switches, ports, outlets
	Fixed   map[plumbing.HandleID]plumbing.Position // handle to position: not searched
	Clauses []Clause
	Acts    []state.Act // what is done beside the handles
	Drains  bool        // of the settings that meet the goal, the one that leaves least water
	Base    string      // id of the mode it is the fewest changes from, where not everyday
	Measure bool        // only to compare amounts with, no way to use the system
	LeftOut fact.Fact   // why the equipment does not have this mode; nothing if it has
}

// State is a system in the mode, its handles in some positions.
func (m *Mode) State(handles []plumbing.Positions) state.State {
	s := m.Start
	s.Handles = handles
	return s
}

// does adds acts to a mode: what is done beside the handles, and what that
// comes to. Handles are turned by the search, or fixed.
func (m *Mode) does(n *plumbing.Network, acts ...state.Act) {
	for _, a := range acts {
		m.Acts = append(m.Acts, a)
		if a.Verb == state.Turn {
			continue
		}
		next, err := m.Start.Do(n, a)
		if err != nil {
			panic(err) // an act at equipment that was found takes place
		}
		m.Start = next
	}
}

// Breach is a clause that a setting breaks.
type Breach struct {
	Clause Clause
	Path   []plumbing.LinkID // by which a forbidden target is reached
	Said   fact.Fact
}

// Judge lists the clauses of a mode that a setting breaks, in the goal's order.
func Judge(n *plumbing.Network, m *Mode, s state.State) []Breach {
	g := newGoal(n, m)
	var list []Breach
	for i := range m.Clauses {
		c := &m.Clauses[i]
		r := g.reach(i, s, state.Can)
		hit := hitNode(r, c.To)
		if (hit >= 0) == c.Must {
			continue
		}
		b := Breach{Clause: *c, Said: broken(n, m, c)}
		if hit >= 0 {
			b.Path = r.Path(hit)
		}
		list = append(list, b)
	}
	return list
}

func hitNode(r *flow.Reached, nodes []plumbing.NodeID) plumbing.NodeID {
	for _, t := range nodes {
		if r.Node(t) {
			return t
		}
	}
	return plumbing.None
}

// goal answers the clauses of a mode, asking each different reach query once
// for a setting.
type goal struct {
	net     *plumbing.Network
	mode    *Mode
	queries []flow.Query
	query   []int // clause to query
	done    []*flow.Reached
	forced  []plumbing.Positions
	view    state.View
}

func newGoal(n *plumbing.Network, m *Mode) *goal {
	g := &goal{net: n, mode: m, query: make([]int, len(m.Clauses))}
	for i := range m.Clauses {
		c := &m.Clauses[i]
		g.query[i] = -1
		for j, q := range g.queries {
			if equal(q.From, c.From) && equal(q.Without, c.Without) && q.Untempered == c.Untempered {
				g.query[i] = j
			}
		}
		if g.query[i] < 0 {
			g.query[i] = len(g.queries)
			g.queries = append(g.queries, c.Query())
		}
	}
	return g
}

func equal[T comparable](a, b []T) bool {
	if len(a) != len(b) {
		return false
	}
	for i := range a {
		if a[i] != b[i] {
			return false
		}
	}
	return true
}

// reach answers a clause's query for a setting; answers are kept until the
// setting or the view is another.
func (g *goal) reach(clause int, s state.State, v state.View) *flow.Reached {
	if g.done == nil || v != g.view || !equal(g.forced, s.Handles) {
		g.done = make([]*flow.Reached, len(g.queries))
		g.view = v
		g.forced = append(g.forced[:0], s.Handles...)
	}
	q := g.query[clause]
	if g.done[q] == nil {
		query := g.queries[q]
		query.View = v
		g.done[q] = flow.Reach(g.net, s, query)
	}
	return g.done[q]
}

// holding tells which clauses hold in a setting.
func (g *goal) holding(s state.State) []bool {
	held := make([]bool, len(g.mode.Clauses))
	for i := range g.mode.Clauses {
		c := &g.mode.Clauses[i]
		held[i] = (hitNode(g.reach(i, s, state.Can), c.To) >= 0) == c.Must
	}
	return held
}

// certain reports whether every clause that is held holds whatever positions
// the handles that are still undecided take.
func (g *goal) certain(s state.State, held []bool) bool {
	for _, must := range []bool{false, true} {
		view := state.Can
		if must {
			view = state.Must
		}
		for i := range g.mode.Clauses {
			c := &g.mode.Clauses[i]
			if held[i] && c.Must == must && (hitNode(g.reach(i, s, view), c.To) >= 0) != must {
				return false
			}
		}
	}
	return true
}
