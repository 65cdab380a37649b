package run

import (
	"cmp"
	"context"
	"slices"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// atmosphere is the pressure of the air, in kPa.
const atmosphere = 101.325

// squeezes lets closed vessels that nothing runs through take in what the air in them allows: of V litres of air
// V·p/(p + 101 kPa) by the pressure p of what pushes, as far as there is time.
func (x *System) squeezes(ctx context.Context, m *Moved, most quantity.Second) error {
	if !Sources(x.State) {
		return nil
	}
	var f *field
	for i := range x.vessels {
		v := &x.vessels[i]
		if !v.Closed || !v.airy {
			continue
		}
		if f == nil {
			var err error
			if f, err = x.field(ctx); err != nil {
				return err
			}
		}
		if slices.ContainsFunc(f.links, func(l plumbing.LinkID) bool { return x.lay.through[l] == i }) {
			v.squeezed = 0 // its air leaves with what runs
			continue
		}
		x.squeeze(m, v, most)
	}
	for i, p := range x.lay.shy { // heaters through which water runs as through a line
		s := x.lay.store[i]
		if p == nil || p.Role() != plumbing.RoleHeater || s == plumbing.None || x.lay.through[i] != plumbing.None ||
			gasIn(x.stores[s]) < least {
			continue
		}
		if f == nil {
			var err error
			if f, err = x.field(ctx); err != nil {
				return err
			}
		}
		if slices.Contains(f.wet, s) {
			delete(x.taken, s)
			continue
		}
		x.squeezePassage(m, plumbing.LinkID(i))
	}
	return nil
}

// gasIn is how much air stands in a stretch.
func gasIn(q queue) (sum quantity.Litre) {
	for _, p := range q {
		sum += p.Litre - p.Liquid()
	}
	return sum
}

// squeezePassage presses something into a passage that ends shut: its air makes room for it.
func (x *System) squeezePassage(m *Moved, li plumbing.LinkID) {
	p, s := x.net.Links[li].Part, x.lay.store[li]
	by, ok := x.pushed(p)
	if !ok {
		return
	}
	room := (gasIn(x.stores[s])+x.taken[s])*quantity.Litre(by.pressure/(by.pressure+atmosphere)) - x.taken[s]
	for room > least {
		take := min(room, slice)
		in := x.give(m, by.from, take)
		if in.Gas > 0.5 {
			return
		}
		x.along(m, by, &in)
		m.meets(p, in)
		liquid := Plug{Litre: in.Liquid(), Mix: in.Mix} // mixed with what stands there, the air above it
		for _, stands := range x.stores[s] {
			liquid = liquid.With(Plug{Litre: stands.Liquid(), Mix: stands.Mix})
		}
		x.stores[s] = queue{}.push(liquid, false).push(Air(x.lay.holds[s]-liquid.Litre), false)
		x.taken[s] += in.Liquid()
		room -= take
	}
}

// slice is what is pressed in at a time, so that what stands in the lines keeps its order.
const slice quantity.Litre = 0.1

// pusher is what presses something into a vessel.
type pusher struct {
	from     plumbing.NodeID
	path     []plumbing.LinkID
	pump     *plumbing.Part // nil for what comes by a hose
	pressure quantity.Kilopascal
	flow     quantity.LitrePerMinute // of it with nothing against it
}

// squeeze presses something into one vessel.
func (x *System) squeeze(m *Moved, v *Vessel, most quantity.Second) {
	by, ok := x.pushed(v.Part)
	if !ok {
		return
	}
	air := v.Holds - v.Liquid.Litre + v.squeezed // as it was under nothing but its own weight
	room := air*quantity.Litre(by.pressure/(by.pressure+atmosphere)) - v.squeezed
	if most > 0 {
		room = min(room, quantity.Litre(by.flow)*quantity.Litre(most)/60)
	}
	for room > v.drop() {
		take := min(room, slice)
		p := x.give(m, by.from, take)
		if p.Gas > 0.5 { // the jug is empty, or the tank
			return
		}
		x.along(m, by, &p)
		m.meets(v.Part, p)
		v.squeezed += p.Liquid()
		x.exchange(m, v, p, Plug{})
		minutes := float64(take) / float64(by.flow)
		if by.pump != nil {
			x.worked(m, by.pump.ID, quantity.Second(60*minutes))
		}
		x.pass(m, minutes)
		room -= take
	}
}

// pushed is what presses something into a vessel as everything stands: the strongest of what there is.
func (x *System) pushed(p *plumbing.Part) (best pusher, ok bool) {
	var others []*plumbing.Part
	for i := range x.vessels {
		if o := x.vessels[i].Part; x.vessels[i].Closed && o != p {
			others = append(others, o)
		}
	}
	for _, from := range x.givers() {
		r := flow.Reach(x.net, x.State, flow.Query{From: []plumbing.NodeID{from}, Without: others})
		for _, at := range x.nodesOf(p) {
			path := r.Path(at)
			if path == nil {
				continue
			}
			if by := x.pusherOf(from, path); by.pressure > best.pressure && by.flow > 0 {
				best, ok = by, true
			}
			break // by the first of its ports that is reached
		}
	}
	return best, ok
}

// givers are the nodes that something liquid comes in at.
func (x *System) givers() (list []plumbing.NodeID) {
	for i := range x.net.Nodes {
		at := plumbing.NodeID(i)
		if t := x.net.Nodes[i].Part; t.Role() == plumbing.RoleTank && x.State.Pumps != 0 && t.IsLow(x.net.Nodes[i].Port) ||
			x.State.Joined[at].Kind.Gives() && x.State.Joined[at].Kind != state.Compressed {
			list = append(list, at)
		}
	}
	slices.SortFunc(list, func(a, b plumbing.NodeID) int { // whatever the order in the file
		return cmp.Compare(x.net.Nodes[a].Part.ID, x.net.Nodes[b].Part.ID)
	})
	return list
}

// pusherOf tells how strongly something is pushed along a path.
func (x *System) pusherOf(from plumbing.NodeID, path []plumbing.LinkID) pusher {
	by := pusher{from: from, path: path}
	for _, li := range path {
		l := &x.net.Links[li]
		if l.Pump == plumbing.None || !x.State.Pumps.Has(l.Pump) {
			continue
		}
		p := l.Part
		by.pump, by.flow = p, plumbing.Field(x.net, &p.Data.Flow).Value()
		by.pressure = max(by.pressure, plumbing.Field(x.net, &p.Data.CutOut).Value())
	}
	if c := x.State.Joined[from]; by.pump == nil && c.Kind != state.Container {
		by.pressure, by.flow = c.Pressure, c.Flow
	}
	return by
}

// give takes something from where it comes in.
func (x *System) give(m *Moved, from plumbing.NodeID, v quantity.Litre) Plug {
	if i, tank := x.lay.vessel[x.net.Nodes[from].Part]; tank {
		p := x.source(from).Part(v)
		if p.Gas == 0 {
			x.exchange(m, &x.vessels[i], Plug{}, p)
		}
		return p
	}
	return x.draw(m, from, v)
}

// along pushes something along a path, and gives what comes out at its end.
func (x *System) along(m *Moved, by pusher, p *Plug) {
	at, last := by.from, plumbing.None
	for _, li := range by.path {
		l := &x.net.Links[li]
		s := x.lay.store[li]
		first := l.A == at
		at = l.Other(at)
		if s == plumbing.None || s == last {
			continue
		}
		last = s
		m.meets(x.lay.shy[li], *p)
		if place := x.lay.place[l.A]; place == x.lay.place[l.B] {
			first = false // as whatever comes into a place
		}
		v := p.Litre
		x.stores[s] = x.stores[s].push(*p, first)
		*p, x.stores[s] = x.stores[s].pop(v, !first)
		x.stores[s] = x.stores[s].tidy()
	}
}

// expand lets vessels press out again what their air took in, where nothing presses on them any longer.
func (x *System) expand(m *Moved, ways []way) {
	for i := range x.vessels {
		v := &x.vessels[i]
		if v.squeezed <= 0 {
			continue
		}
		nodes := x.nodesOf(v.Part)
		if slices.ContainsFunc(nodes, x.Pressed) {
			continue
		}
		gone := min(v.squeezed, v.Liquid.Litre)
		x.out(m, ways, nodes, v.Liquid.Part(gone))
		v.Liquid.Litre -= gone
		v.squeezed = 0
		v.look()
	}
	for i, p := range x.lay.shy { // what a passage took in stays in it
		if s := x.lay.store[i]; p != nil && s != plumbing.None && !slices.ContainsFunc(x.nodesOf(p), x.Pressed) {
			delete(x.taken, s)
		}
	}
}
