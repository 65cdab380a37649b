package run

import (
	"context"
	"fmt"
	"maps"
	"math"
	"slices"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// field is how everything moves at a moment, until something changes.
type field struct {
	q     []float64           // by link, litres a minute from A to B; of links within a place nought
	net   []float64           // by place, what comes into the links there from outside them
	node  []plumbing.NodeID   // by place, the node that gives or takes, None for none
	order []int               // places, each after those that it gets something from without a store between
	into  [][]plumbing.LinkID // by place, what runs to it
	from  [][]plumbing.LinkID // by place, what runs from it
	down  []int               // places from where it comes to where it goes
	links []plumbing.LinkID   // through which something runs
	wet   []int               // stores that something runs through
	round []bool              // by link, it leads to a place that comes earlier: a loop that a pump drives
	moves bool
	idle  bool // no pump gives anything; where none is on, nothing comes in or goes out
}

// still is a flow in litres a minute that nobody would see.
const still = 1e-6

// emptyLevel is how full the solver takes an empty tank to be: what a pump draws from it is air.
const emptyLevel = 1e-3

// field is how everything moves now, levels taken in their steps. The same handles, taps and hoses come
// again and again in the procedures of a model: what was solved for them is kept.
func (x *System) field(ctx context.Context) (*field, error) {
	s := x.seen()
	steps := x.steps()
	for id, v := range s.Levels {
		s.Levels[id] = max(emptyLevel, math.Ceil(steps*v)/steps)
	}
	key := flowKey(&s)
	if kept, ok := x.lay.solved.Load(key); ok {
		return kept.(*field), nil
	}
	steady, err := flow.SteadyFlow(ctx, x.net, s)
	if err != nil {
		return nil, err
	}
	f := x.newField(steady.Flow)
	if x.lay.kept.Add(1) <= mostSolved {
		x.lay.solved.Store(key, f)
	}
	return f, nil
}

// mostSolved is how many flows of a network are kept.
const mostSolved = 2000

// flowKey is the same for states in which the same flows.
func flowKey(s *state.State) string {
	var b []byte
	for _, h := range s.Handles {
		b = append(b, byte(h), byte(h>>8), byte(h>>16), byte(h>>24))
	}
	b = fmt.Appendf(b, "|%d|%v", s.Pumps, s.Attitude)
	for _, at := range slices.Sorted(maps.Keys(s.Joined)) {
		if c := s.Joined[at]; c.Kind != state.Capped {
			b = fmt.Appendf(b, "|%d %d %g %g", at, c.Kind, float64(c.Pressure), float64(c.Flow))
		}
	}
	for _, at := range slices.Sorted(maps.Keys(s.Open)) {
		if s.Open[at] {
			b = fmt.Appendf(b, "|o%d", at)
		}
	}
	for _, f := range slices.Sorted(maps.Keys(s.Out)) {
		if s.Out[f] {
			b = fmt.Appendf(b, "|x%d", f)
		}
	}
	for _, id := range slices.Sorted(maps.Keys(s.Levels)) {
		b = fmt.Appendf(b, "|%s %g", id, s.Levels[id])
	}
	return string(b)
}

// newField puts flows in the order in which they run.
func (x *System) newField(flows []quantity.LitrePerMinute) *field {
	n, l := x.net, x.lay
	f := &field{q: make([]float64, len(n.Links)), net: make([]float64, l.count),
		node: make([]plumbing.NodeID, l.count), into: make([][]plumbing.LinkID, l.count),
		from: make([][]plumbing.LinkID, l.count)}
	for i := range f.node {
		f.node[i] = plumbing.None
	}
	for i := range n.Links {
		k := &n.Links[i]
		a, b, q := l.place[k.A], l.place[k.B], float64(flows[i])
		if a == b || q > -still && q < still {
			continue
		}
		f.q[i], f.moves = q, true
		f.net[a] += q
		f.net[b] -= q
		if q < 0 {
			a, b = b, a
		}
		f.into[b] = append(f.into[b], plumbing.LinkID(i))
		f.from[a] = append(f.from[a], plumbing.LinkID(i))
	}
	for i := range n.Nodes {
		if at := l.place[i]; f.net[at] > still || f.net[at] < -still {
			f.node[at] = plumbing.NodeID(i)
		} else {
			f.net[at] = 0
		}
	}
	f.idle = x.State.Pumps != 0 || !f.passes(x)
	for i, q := range f.q {
		if k := &n.Links[i]; q != 0 && k.Pump != plumbing.None && x.State.Pumps.Has(k.Pump) {
			f.idle = false
		}
	}
	f.sort(x)
	f.keepWhatMoves(x)
	return f
}

// keepWhatMoves leaves out of every list what nothing happens at.
func (f *field) keepWhatMoves(x *System) {
	still := func(at int) bool { return len(f.into[at]) == 0 && len(f.from[at]) == 0 && f.net[at] == 0 }
	f.order, f.down = slices.DeleteFunc(f.order, still), slices.DeleteFunc(f.down, still)
	for i, q := range f.q {
		if q == 0 {
			continue
		}
		f.links = append(f.links, plumbing.LinkID(i))
		if s := x.lay.store[i]; s != plumbing.None {
			f.wet = append(f.wet, s)
		}
	}
	for _, at := range f.order {
		if s := x.lay.within[at]; s != plumbing.None {
			f.wet = append(f.wet, s)
		}
		if f.node[at] == plumbing.None {
			continue
		}
		if s, ok := x.lay.inside[x.net.Nodes[f.node[at]].Part]; ok {
			f.wet = append(f.wet, s)
		}
	}
}

// passes reports whether anything comes in or goes out of the system: tanks that level among
// themselves are not heard.
func (f *field) passes(x *System) bool {
	for at, node := range f.node {
		if node == plumbing.None || f.net[at] == 0 {
			continue
		}
		if _, tank := x.lay.vessel[x.net.Nodes[node].Part]; !tank {
			return true
		}
	}
	return false
}

// sort puts the places in an order in which each comes after those that its
// fluid comes from at once.
func (f *field) sort(x *System) {
	n, l := x.net, x.lay
	done := make([]bool, l.count)
	into := make([][]int, l.count)
	for i, q := range f.q {
		if q == 0 {
			continue
		}
		k := &n.Links[i]
		from, to := l.place[k.A], l.place[k.B]
		if q < 0 {
			from, to = to, from
		}
		if l.store[i] == plumbing.None && l.through[i] == plumbing.None && l.within[from] == plumbing.None {
			into[to] = append(into[to], from)
		}
	}
	var visit func(int)
	visit = func(at int) {
		if done[at] {
			return
		}
		done[at] = true
		for _, from := range into[at] {
			visit(from)
		}
		f.order = append(f.order, at)
	}
	for at := range done {
		visit(at)
	}
	f.downstream(x)
}

// downstream puts the places in the order in which something runs through them.
func (f *field) downstream(x *System) {
	const (
		fresh = iota
		begun
		done
	)
	seen := make([]int, x.lay.count)
	f.round = make([]bool, len(f.q))
	var visit func(int)
	visit = func(at int) {
		seen[at] = begun
		for _, i := range f.from[at] {
			_, to, _ := f.pours(x, i)
			switch {
			case x.lay.through[i] != plumbing.None: // what leaves a vessel stood in it
			case seen[to] == fresh:
				visit(to)
			case seen[to] == begun:
				f.round[i] = true
			}
		}
		seen[at] = done
		f.down = append(f.down, at)
	}
	for at := range seen {
		if seen[at] == fresh {
			visit(at)
		}
	}
	slices.Reverse(f.down)
}

// pours reports how a link runs: from which place to which, how fast.
func (f *field) pours(x *System, i plumbing.LinkID) (from, to int, q float64) {
	k := &x.net.Links[i]
	if f.q[i] < 0 {
		return x.lay.place[k.B], x.lay.place[k.A], -f.q[i]
	}
	return x.lay.place[k.A], x.lay.place[k.B], f.q[i]
}

// leaves is what comes out at the far end of a link now, where it does not
// depend on what goes in.
func (x *System) leaves(f *field, i plumbing.LinkID) (p Plug, ok bool) {
	k := &x.net.Links[i]
	if v := x.lay.through[i]; v != plumbing.None {
		to := k.B
		if f.q[i] < 0 {
			to = k.A
		}
		return x.gives(&x.vessels[v], x.net.Nodes[to].Port), true
	}
	if at := x.lay.store[i]; at != plumbing.None {
		return x.stores[at].end(f.q[i] < 0), true
	}
	return Plug{}, false
}

// gives is what a vessel lets out at a port: air at its top while there is
// some, and at its bottom when it is empty.
func (x *System) gives(v *Vessel, port string) Plug {
	top := !v.Part.IsLow(port)
	if v.Part.Role() == plumbing.RoleHeater {
		top = port == "hot" || port == "relief"
	}
	if v.dry || top && v.airy {
		return Air(1)
	}
	return v.Liquid.Part(1)
}

// trace is how little is nothing.
const trace quantity.Litre = 1e-7

// drop is how little in a vessel is nothing, and how little room.
func (v *Vessel) drop() quantity.Litre { return max(trace, v.Holds*1e-4) }

// look tells whether a vessel is dry, or has air above its water. What bubbles in gathers first, so
// that it does not flicker between the two.
func (v *Vessel) look() {
	some := v.Holds / 100
	switch room := v.Holds - v.Liquid.Litre; {
	case room <= v.drop():
		v.airy = false
	case room >= some:
		v.airy = true
	}
	switch {
	case v.Liquid.Litre <= v.heel+v.drop():
		v.dry = true
	case v.Liquid.Litre >= v.heel+some:
		v.dry = false
	}
}

// passes works out what each place passes on now: what its store gives, or what
// arrives there, mixed.
func (x *System) passes(f *field) (out, in []Plug) {
	in, out = x.work(&x.scratch[0]), x.work(&x.scratch[1])
	for _, at := range f.order {
		for _, i := range f.into[at] {
			from, _, q := f.pours(x, i)
			p, ok := x.leaves(f, i)
			if !ok {
				p = out[from]
			}
			in[at] = in[at].With(p.Part(quantity.Litre(q)))
		}
		if f.net[at] > 0 && f.node[at] != plumbing.None {
			in[at] = in[at].With(x.source(f.node[at]).Part(quantity.Litre(f.net[at])))
		}
		out[at] = in[at]
		if s := x.lay.within[at]; s != plumbing.None {
			out[at] = x.stores[s].end(true)
		}
	}
	return out, in
}

// work is a plug for each place, nothing in them, that the system uses over and over.
func (x *System) work(at *[]Plug) []Plug {
	if *at == nil {
		*at = make([]Plug, x.lay.count)
	}
	clear(*at)
	return *at
}

// source is what comes into the lines at a node from outside them.
func (x *System) source(at plumbing.NodeID) Plug {
	p := x.net.Nodes[at].Part
	if i, ok := x.lay.vessel[p]; ok && p.Role() == plumbing.RoleTank {
		return x.gives(&x.vessels[i], x.net.Nodes[at].Port)
	}
	if j := x.jugs[at]; j != nil {
		if j.Ends && j.Left.Litre <= trace {
			return Air(1)
		}
		return j.Left.Part(1)
	}
	switch c := x.State.Joined[at]; c.Kind {
	case state.Supply:
		return Plug{Litre: 1, Mix: x.mixOf(c)}
	default:
		return Air(1) // what stands open draws air
	}
}
