package setting

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// search is the search for the setting that meets a mode's goal with the fewest handles turned away from base; ties
// leave the handles with the earlier ids alone.
//
// It is a search by reasons: the cheapest positions that satisfy all reasons known so far are tried; each clause of the
// goal that they break gives a reason more (a forbidden way must be shut in one place, a missing way must be opened at
// the edge of what is reached). Handles that play no part in any reason are never turned, and where no positions
// satisfy the reasons, they are the proof that none can.
type search struct {
	net     *plumbing.Network
	mode    *Mode
	counts  []bool // clauses of the goal that count; nil for all
	base    []plumbing.Position
	domain  []plumbing.Positions
	goal    *goal
	reasons []reason
	nodes   int
	walk    walker
}

func newSearch(n *plumbing.Network, m *Mode, base state.State, counts []bool) *search {
	s := &search{net: n, mode: m, counts: counts, goal: newGoal(n, m), nodes: mostNodes, walk: newWalker(n)}
	s.domain = undecided(n, m.Fixed, m.Start.Pumps).Handles
	s.base = make([]plumbing.Position, len(n.Handles))
	for i := range n.AllHandles() {
		s.base[i] = base.Position(i)
	}
	return s
}

// run adds reasons until the cheapest positions that satisfy them meet the
// goal, or none do.
func (s *search) run(ctx context.Context) (state.State, bool, error) {
	for {
		h := hitting{ctx: ctx, domain: s.domain, base: s.base, reasons: s.reasons, nodes: &s.nodes}
		at, ok, err := h.solve()
		if err != nil || !ok {
			return state.State{}, false, err
		}
		found := s.mode.State(at)
		if !s.learn(found) {
			return found, true, nil
		}
	}
}

// found is run, worked out once for all networks of one structure. It is for the
// modes as Modes makes them: another mode of the same id would get this one's
// answer.
func (s *search) found(ctx context.Context) (state.State, bool, error) {
	key := searchKey{s.mode.ID, fmt.Sprint(s.base), fmt.Sprint(s.counts)}
	var err error
	f := plumbing.Structural(s.net, key, func() (f found, keep bool) {
		var at state.State
		at, f.ok, err = s.run(ctx)
		f.handles, f.reasons = at.Handles, s.reasons
		return f, err == nil
	})
	if err != nil || !f.ok {
		s.reasons = slices.Clone(f.reasons)
		return state.State{}, false, err
	}
	return s.mode.State(slices.Clone(f.handles)), true, nil
}

// searchKey tells a search from others of a network's structure.
type searchKey struct{ mode, base, counts string }

// found is what a search came to.
type found struct {
	handles []plumbing.Positions
	ok      bool
	reasons []reason // that prove that there is no setting
}

// learn adds a reason for each clause that a setting breaks, and reports
// whether there was one.
func (s *search) learn(at state.State) bool {
	broken := false
	reached := make([][]bool, len(s.goal.queries)) // from the sources of each query, as they stand
	for i := range s.mode.Clauses {
		c := &s.mode.Clauses[i]
		if s.counts != nil && !s.counts[i] || (hitNode(s.goal.reach(i, at, state.Can), c.To) >= 0) == c.Must {
			continue
		}
		broken = true
		r := reason{clause: i}
		if c.Must {
			r.literals = s.missing(i, at, reached)
		} else {
			r.links = s.walk.plainest(s.net, at, c)
			r.literals = s.shutting(r.links)
		}
		s.reasons = append(s.reasons, r)
	}
	return broken
}

// shutting says that one of the handles along a way must shut it.
func (s *search) shutting(links []plumbing.LinkID) []literal {
	open := map[plumbing.HandleID]plumbing.Positions{}
	var handles []plumbing.HandleID
	for _, li := range links {
		l := &s.net.Links[li]
		if l.Handle < 0 {
			continue
		}
		was, ok := open[l.Handle]
		if !ok {
			was = s.domain[l.Handle]
			handles = append(handles, l.Handle)
		}
		open[l.Handle] = was & l.Open
	}
	slices.Sort(handles)
	var list []literal
	for _, h := range handles {
		if in := s.domain[h] &^ open[h]; in != 0 {
			list = append(list, literal{h, in})
		}
	}
	return list
}

// missing says that one of the handles at the edge of what is reached, or at
// the edge of what leads to the target, must open: the shorter of the two. The
// way that is missing leaves what is reached for the last time somewhere, and
// goes on outside it: an edge behind which no such way leads on is no help. So
// too, turned round, for what leads to the target.
func (s *search) missing(clause int, at state.State, reached [][]bool) []literal {
	c := &s.mode.Clauses[clause]
	q := s.goal.query[clause]
	every := s.mode.State(s.domain)
	if reached[q] == nil {
		reached[q] = s.walk.spread(s.net, at, c.Query(), c.From, true, nil)
	}
	leads := s.walk.spread(s.net, at, c.Query(), c.To, false, nil)
	from := s.edge(c, reached[q], s.walk.spread(s.net, every, c.Query(), c.To, false, reached[q]), true)
	to := s.edge(c, leads, s.walk.spread(s.net, every, c.Query(), c.From, true, leads), false)
	if len(to) < len(from) {
		return to
	}
	return from
}

// edge lists the shut handles around what is reached, forwards or backwards,
// behind which a way could go on by what is useful.
func (s *search) edge(c *Clause, reached, useful []bool, forwards bool) []literal {
	in := map[plumbing.HandleID]plumbing.Positions{}
	for _, l := range s.net.AllLinks() {
		if l.Handle == plumbing.None || !s.mode.Start.Runs(l) {
			continue
		}
		for _, end := range []plumbing.NodeID{l.A, l.B} {
			other := l.Other(end)
			if !reached[end] || reached[other] || !useful[other] || l.OneWay && (end == l.A) != forwards {
				continue
			}
			if q := c.Query(); q.Bars(s.net, l) {
				continue
			}
			in[l.Handle] |= l.Open & s.domain[l.Handle]
		}
	}
	var list []literal
	for h, positions := range in {
		if positions != 0 {
			list = append(list, literal{h, positions})
		}
	}
	slices.SortFunc(list, func(a, b literal) int { return cmp.Compare(a.handle, b.handle) })
	return list
}

// walker follows water for the search, in memory of its own.
type walker struct {
	queue []plumbing.NodeID
	cost  []int
	via   []plumbing.LinkID
}

func newWalker(n *plumbing.Network) walker {
	return walker{queue: make([]plumbing.NodeID, 0, len(n.Nodes)), cost: make([]int, len(n.Nodes)),
		via: make([]plumbing.LinkID, len(n.Nodes))}
}

// spread marks what is reached from some nodes, or what leads to them, by ways
// that stay out of some other nodes.
func (w *walker) spread(n *plumbing.Network, s state.State, q flow.Query, from []plumbing.NodeID, forwards bool,
	outOf []bool) []bool {
	seen := make([]bool, len(n.Nodes))
	w.queue = w.queue[:0]
	for _, f := range from {
		if f >= 0 && !seen[f] {
			seen[f] = true
			w.queue = append(w.queue, f)
		}
	}
	for i := 0; i < len(w.queue); i++ {
		at := w.queue[i]
		for _, li := range n.Nodes[at].Links {
			l := &n.Links[li]
			to := l.Other(at)
			start := at
			if !forwards {
				start = to
			}
			if seen[to] || outOf != nil && outOf[to] || !s.Passes(l, start, state.Can) || q.Bars(n, l) {
				continue
			}
			seen[to] = true
			w.queue = append(w.queue, to)
		}
	}
	return seen
}

// plainest is the way from a clause's sources to its target that runs through
// the fewest handles, as links.
func (w *walker) plainest(n *plumbing.Network, s state.State, c *Clause) []plumbing.LinkID {
	const far = 1 << 30
	q := c.Query()
	for i := range w.cost {
		w.cost[i], w.via[i] = far, plumbing.None
	}
	var now, next []plumbing.NodeID
	for _, f := range c.From {
		if f >= 0 {
			w.cost[f] = 0
			now = append(now, f)
		}
	}
	for cost := 0; len(now) > 0; cost++ {
		for i := 0; i < len(now); i++ {
			at := now[i]
			if w.cost[at] != cost {
				continue
			}
			for _, li := range n.Nodes[at].Links {
				l := &n.Links[li]
				to := l.Other(at)
				step := 0
				if l.Handle >= 0 {
					step = 1
				}
				if w.cost[to] <= cost+step || !s.Passes(l, at, state.Can) || q.Bars(n, l) {
					continue
				}
				w.cost[to], w.via[to] = cost+step, li
				if step == 0 {
					now = append(now, to)
				} else {
					next = append(next, to)
				}
			}
		}
		now, next = next, nil
	}
	hit := plumbing.NodeID(plumbing.None)
	for _, t := range c.To {
		if w.cost[t] < far && (hit < 0 || w.cost[t] < w.cost[hit]) {
			hit = t
		}
	}
	var links []plumbing.LinkID
	for at := hit; at >= 0 && w.via[at] >= 0; {
		links = append(links, w.via[at])
		at = n.Links[w.via[at]].Other(at)
	}
	return links
}

// byTelling orders clauses for taking away: those that tell a reader least go
// first, so that what is left names the heater and a hot tap if it can.
func byTelling(clauses []Clause) []int {
	order := make([]int, len(clauses))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(telling(&clauses[a]), telling(&clauses[b])) })
	return order
}

func telling(c *Clause) int {
	switch {
	case c.Aim == HeaterOut, c.Aim == Served && c.Side == "hot":
		return 2
	case c.Aim == Served, c.Aim == OnlyByHeater, c.Aim == HeaterIn:
		return 1
	}
	return 0
}

// with is the search for some of the clauses; what was learned from them
// holds still.
func (s *search) with(counts []bool) *search {
	next := *s
	next.counts, next.nodes, next.reasons = counts, mostNodes, nil
	for _, r := range s.reasons {
		if counts[r.clause] {
			next.reasons = append(next.reasons, r)
		}
	}
	return &next
}

// refuted reports whether the reasons learned from some clauses can't be
// satisfied together.
func (s *search) refuted(ctx context.Context, counts []bool) bool {
	few := s.with(counts)
	h := hitting{ctx: ctx, domain: s.domain, base: s.base, reasons: few.reasons, nodes: &few.nodes, any: true}
	_, ok, err := h.solve()
	return !ok && err == nil
}

// conflict gives a smallest set of the mode's clauses that no setting can meet together, from those that a failed
// search has reasons from: taking any one of them away makes the rest possible.
//
// First those are left out without which the reasons are still a proof, then
// each that is left is tried by a search of its own.
func (s *search) conflict(ctx context.Context) ([]Clause, error) {
	counts := make([]bool, len(s.mode.Clauses))
	for _, r := range s.reasons {
		counts[r.clause] = true
	}
	order := byTelling(s.mode.Clauses)
	for _, i := range order {
		if counts[i] {
			counts[i] = false
			counts[i] = !s.refuted(ctx, counts)
		}
	}
	for _, i := range order {
		if !counts[i] {
			continue
		}
		counts[i] = false
		_, ok, err := s.with(counts).run(ctx)
		if err != nil {
			return nil, err
		}
		counts[i] = ok
	}
	var core []Clause
	for i, c := range s.mode.Clauses {
		if counts[i] {
			core = append(core, c)
		}
	}
	return core, nil
}
