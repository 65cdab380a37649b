package flow

import (
	"slices"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// Query asks what is reached.
type Query struct {
	From       []plumbing.NodeID // nodes water is made to come from
	Without    []*plumbing.Part  // parts taken out of the way
	Untempered bool              // without what mixing valves add of cold water
	Back       bool              // against the way the water runs: what gets to the nodes, instead
	View       state.View
}

// Bars reports whether a query leaves a link out of the way.
func (q *Query) Bars(n *plumbing.Network, l *plumbing.Link) bool {
	if q.Untempered && l.Tempers {
		return true
	}
	return len(q.Without) > 0 && (slices.Contains(q.Without, n.Nodes[l.A].Part) ||
		slices.Contains(q.Without, n.Nodes[l.B].Part))
}

// Reached is what a query found.
type Reached struct {
	net  *plumbing.Network
	via  []plumbing.LinkID // link by which each node was first reached, None
	node []bool
}

// Node reports whether water gets to a node.
func (r *Reached) Node(n plumbing.NodeID) bool { return n >= 0 && r.node[n] }

// Part reports whether water gets to any node of a part.
func (r *Reached) Part(p *plumbing.Part) bool {
	for i, n := range r.net.Nodes {
		if n.Part == p && r.node[i] {
			return true
		}
	}
	return false
}

// Link reports whether water stands at an end of a link that it can enter by.
func (r *Reached) Link(s state.State, i plumbing.LinkID) bool {
	l := &r.net.Links[i]
	if l.Line != nil {
		return r.node[l.A] || r.node[l.B]
	}
	return r.node[l.A] && s.Passes(l, l.A, state.Can) || r.node[l.B] && s.Passes(l, l.B, state.Can)
}

// Reach follows water from the query's nodes through everything that lets it
// pass. It ends at the free surface of a vessel: what comes in at one port of
// a tank does not leave by another. A tank's own port as source is where its
// water starts.
func Reach(n *plumbing.Network, s state.State, q Query) *Reached {
	r := &Reached{net: n, via: make([]plumbing.LinkID, len(n.Nodes)), node: make([]bool, len(n.Nodes))}
	queue := make([]plumbing.NodeID, 0, len(n.Nodes))
	for i := range r.via {
		r.via[i] = plumbing.None
	}
	for _, f := range q.From {
		if f >= 0 && !r.node[f] {
			r.node[f] = true
			queue = append(queue, f)
		}
	}
	for len(queue) > 0 {
		at := queue[0]
		queue = queue[1:]
		for _, li := range n.Nodes[at].Links {
			l := &n.Links[li]
			to, enters := l.Other(at), at
			if q.Back {
				enters = to
			}
			if r.node[to] || !s.Passes(l, enters, q.View) || q.Bars(n, l) {
				continue
			}
			r.node[to] = true
			r.via[to] = li
			queue = append(queue, to)
		}
	}
	return r
}

// Path is the links from a source to a node, in order; nil if not reached.
func (r *Reached) Path(node plumbing.NodeID) []plumbing.LinkID {
	if !r.Node(node) {
		return nil
	}
	var path []plumbing.LinkID
	for r.via[node] >= 0 {
		li := r.via[node]
		path = append(path, li)
		node = r.net.Links[li].Other(node)
	}
	slices.Reverse(path)
	return path
}

// Parts lists the parts along a path of links, each once, in order from the
// node where it starts.
func Parts(n *plumbing.Network, from plumbing.NodeID, path []plumbing.LinkID) []*plumbing.Part {
	list := []*plumbing.Part{n.Nodes[from].Part}
	for _, li := range path {
		from = n.Links[li].Other(from)
		if p := n.Nodes[from].Part; p != list[len(list)-1] {
			list = append(list, p)
		}
	}
	return list
}
