package flow

import (
	"context"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// SteadyFlow solves the steady flow in a state with the global gradient method
// (Todini and Pilati, "A gradient algorithm for the analysis of pipe networks",
// 1988), over the whole network, loops included. One-ways are opened and
// shut until no open one flows backwards and no shut one has head in its
// favour.
func SteadyFlow(ctx context.Context, n *plumbing.Network, s state.State) (*Steady, error) {
	g := newGraph(n, &s)
	g.reduce()
	if err := g.solve(ctx); err != nil {
		return nil, err
	}
	return g.result(), nil
}

// result tells flows and heads by the network's links and nodes.
func (g *graph) result() *Steady {
	s := &Steady{Flow: make([]quantity.LitrePerMinute, len(g.net.Links)),
		Head: make([]quantity.Metre, len(g.net.Nodes)), Known: make([]bool, len(g.net.Nodes)),
		Out: map[plumbing.NodeID]quantity.LitrePerMinute{}, Pumps: map[string]PumpState{}}
	known := map[int]float64{}
	for v, live := range g.live {
		if live {
			known[v] = g.h[v]
		}
	}
	for i, e := range g.edges {
		if e.law.way > 0 {
			g.q[i] = max(0, g.q[i]) // below what the solver tells from nought
		}
		h := g.h[e.from]
		for _, x := range e.elems {
			q := g.q[i]
			loss, _ := x.law.head(q)
			h -= loss
			if !x.along {
				q = -q
			}
			if x.link < 0 {
				s.Out[x.node] = quantity.LitrePerMinute(q * 60000)
				continue
			}
			s.Flow[x.link] = quantity.LitrePerMinute(q * 60000)
			l := &g.net.Links[x.link]
			end := g.node[l.B]
			if !x.along {
				end = g.node[l.A]
			}
			if _, ok := known[end]; !ok && !g.shut[i] && g.live[e.from] {
				known[end] = h
			}
		}
	}
	for i := range g.net.Nodes {
		if h, ok := known[g.node[i]]; ok {
			s.Head[i], s.Known[i] = quantity.Metre(h), true
		}
	}
	for i := range g.net.Links {
		l := &g.net.Links[i]
		if l.Pump == plumbing.None {
			continue
		}
		q, free := s.Flow[i], plumbing.Field(g.net, &l.Part.Data.Flow).Value()
		switch {
		case !g.state.Pumps.Has(l.Pump):
			s.Pumps[l.Part.ID] = Off
		case q <= 1e-6:
			s.Pumps[l.Part.ID] = Silent
		case q < leastShare*free:
			s.Pumps[l.Part.ID] = Cycling
		default:
			s.Pumps[l.Part.ID] = Running
		}
	}
	return s
}
