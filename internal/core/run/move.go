package run

import (
	"context"
	"fmt"
	"math"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// Moved is what happened while a step was kept up.
type Moved struct {
	Took    quantity.Second
	Arrived map[plumbing.NodeID]Plug           // by outlet side or port, a litre of what leaves there at the end
	Ran     map[plumbing.NodeID]quantity.Litre // how much left there
	Drew    map[plumbing.NodeID]quantity.Litre // by source, how much came
	Spilled map[*plumbing.Part]quantity.Litre  // by tank, what ran over
	Pumps   map[string]quantity.Second         // how long each ran
	Stretch map[string]quantity.Second         // how long each ran at most without a rest
	Rests   int                                // how often the pumps rested
	Rested  quantity.Second                    // how long, of the time it took
	Dry     map[string]quantity.Second         // how long each drew air
	Silent  bool                               // nothing moves any more
	Met     map[*plumbing.Part]Mix             // by heater, filter, softener and tank, the most that came there
}

func newMoved() *Moved {
	return &Moved{Arrived: map[plumbing.NodeID]Plug{}, Ran: map[plumbing.NodeID]quantity.Litre{},
		Drew: map[plumbing.NodeID]quantity.Litre{}, Spilled: map[*plumbing.Part]quantity.Litre{},
		Pumps: map[string]quantity.Second{}, Stretch: map[string]quantity.Second{}, Dry: map[string]quantity.Second{},
		Met: map[*plumbing.Part]Mix{}}
}

// ErrNoEnd says that something goes on for longer than anybody would stay with it.
type ErrNoEnd struct{ After quantity.Second }

func (e ErrNoEnd) Error() string {
	return fmt.Sprintf("it has not ended after %.0f s", float64(e.After))
}

// patience is how long one thing may go on.
const patience quantity.Second = 24 * 3600

// mostEvents is how many events one thing may have.
const mostEvents = 200_000

// flowUntil lets everything run until what is waited for is there, or nothing
// moves any more.
func (x *System) flowUntil(ctx context.Context, m *Moved, w *waiting, watch func(*System, *Moved)) error {
	var f *field
	var at string
	for events := 0; ; events++ {
		if m.Took > patience || events > mostEvents {
			return ErrNoEnd{m.Took}
		}
		if key := x.levelsNow(); f == nil || key != at {
			var err error
			if f, err = x.field(ctx); err != nil {
				return err
			}
			at = key
		}
		m.Silent = f.idle
		if !f.moves {
			clear(m.Arrived)
			if w.over(x, m) {
				return nil
			}
			m.Silent = true
			if rest := w.within(x, f, m); !math.IsInf(rest, 1) {
				x.pass(m, rest)
			}
			return nil
		}
		if x.event(f, m, w) {
			return nil
		}
		x.rest(m, w.duty)
		if watch != nil {
			watch(x, m)
		}
	}
}

// rest lets pumps rest that have run as long as they may.
func (x *System) rest(m *Moved, d Duty) {
	if d.On == 0 {
		return
	}
	for _, p := range x.net.Pumps {
		if x.stretch[p.ID] >= d.On-1e-9 {
			x.pass(m, float64(d.Off)/60)
			m.Rests++
			m.Rested += d.Off
			clear(x.stretch)
			return
		}
	}
}

// levelsNow tells when how everything moves may have changed: levels in steps, and which tanks are
// full.
func (x *System) levelsNow() string {
	b, steps := make([]byte, 0, 4*len(x.vessels)), x.steps()
	for i := range x.vessels {
		v := &x.vessels[i]
		step := 0
		if v.Holds > 0 {
			step = int(math.Ceil(steps * float64(v.Liquid.Litre/v.Holds)))
		}
		b = append(b, byte(step))
	}
	return string(b)
}

// steps is in how many levels of a tank are told apart: those of tanks that are joined more finely, for
// they level with each other.
func (x *System) steps() float64 {
	const coarse, fine = 20, 200
	if x.lay.tanks < 2 {
		return coarse
	}
	var key []byte
	for _, h := range x.State.Handles {
		key = append(key, byte(h), byte(h>>8), byte(h>>16), byte(h>>24))
	}
	joined, ok := x.lay.joined.Load(string(key))
	if !ok {
		joined = len(flow.Bodies(x.net, x.State)) < x.lay.tanks
		x.lay.joined.Store(string(key), joined)
	}
	if joined.(bool) {
		return fine
	}
	return coarse
}

// pass lets time go by.
func (x *System) pass(m *Moved, minutes float64) {
	m.Took += quantity.Second(60 * minutes)
	x.clock += quantity.Second(60 * minutes)
}

// stirred is the share of a vessel that is exchanged before it is mixed again.
const stirred = 0.02

// event moves everything until something changes; true where what is waited for is there already.
func (x *System) event(f *field, m *Moved, w *waiting) bool {
	for _, s := range f.wet {
		x.stores[s] = x.stores[s].tidy()
	}
	x.mixFronts(f)
	out, in := x.passes(f)
	x.look(f, m, out)
	if w.over(x, m) {
		return true
	}
	dt := min(w.within(x, f, m), x.untilRest(f, w.duty))
	flushing := w.u.Sense == Clear
	if w.u.Room {
		dt = min(dt, x.room(f))
	}
	shorter := func(v quantity.Litre, q float64) {
		if q > still {
			dt = min(dt, float64(v)/q)
		}
	}
	into, from := make([]float64, len(x.vessels)), make([]float64, len(x.vessels))
	for _, i := range f.links {
		if v := x.lay.through[i]; v != plumbing.None {
			into[v] += math.Abs(f.q[i])
			from[v] += math.Abs(f.q[i])
			continue
		}
		if s := x.lay.store[i]; s != plumbing.None {
			src, _, q := f.pours(x, i)
			if f.round[i] || !x.stores[s].same(out[src]) {
				shorter(x.stores[s].leading(f.q[i] < 0, flushing), q)
				if each := x.frontIn(i) / 2; each > least && !x.stores[s].end(f.q[i] > 0).like(out[src]) {
					shorter(each, q) // a front comes in
				}
			}
		}
	}
	for _, at := range f.order {
		if s := x.lay.within[at]; s != plumbing.None && in[at].Litre > 0 && !x.stores[s].same(in[at]) {
			shorter(x.stores[s].leading(true, flushing), float64(in[at].Litre))
		}
		node := f.node[at]
		if node == plumbing.None {
			continue
		}
		p := x.net.Nodes[node].Part
		if v, ok := x.lay.vessel[p]; ok && p.Role() == plumbing.RoleTank {
			from[v] += max(0, f.net[at])
			into[v] += max(0, -f.net[at])
		}
		if j := x.jugs[node]; j != nil && j.Ends && f.net[at] > 0 && j.Left.Litre > trace {
			shorter(j.Left.Litre, f.net[at])
		}
		if s, ok := x.lay.inside[p]; ok && f.net[at] < 0 && !x.stores[s].same(out[at]) {
			shorter(x.stores[s].leading(true, flushing), -f.net[at])
		}
	}
	for v := range x.vessels {
		x.bound(&x.vessels[v], into[v], from[v], shorter)
	}
	x.move(f, m, max(dt, 1e-12))
	return false
}

// untilRest is how many minutes the pumps may go on.
func (x *System) untilRest(f *field, d Duty) float64 {
	rest := math.Inf(1)
	if d.On == 0 {
		return rest
	}
	for _, i := range f.links {
		if k := &x.net.Links[i]; f.q[i] > 0 && k.Pump != plumbing.None && x.State.Pumps.Has(k.Pump) {
			rest = min(rest, max(0, float64(d.On-x.stretch[k.Part.ID])/60))
		}
	}
	return rest
}

// mixFronts mixes the liquids at the fronts in lines that something runs through.
func (x *System) mixFronts(f *field) {
	if x.smear == 0 {
		return
	}
	for _, i := range f.links {
		if s := x.lay.store[i]; s != plumbing.None && len(x.stores[s]) > 1 {
			x.stores[s] = x.stores[s].smear(s, x.frontIn(i))
		}
	}
}

// leastFront is the smallest front that anybody could tell from a sharp one.
const leastFront quantity.Litre = 0.005

// frontIn is over how much a front mixes in a line, nothing in parts and short lines.
func (x *System) frontIn(i plumbing.LinkID) quantity.Litre {
	over := x.lay.holds[x.lay.store[i]] * quantity.Litre(x.smear)
	if x.net.Links[i].Line == nil || over < leastFront {
		return 0
	}
	return over
}

// look tells what leaves at each outlet and port at this moment.
func (x *System) look(f *field, m *Moved, out []Plug) {
	clear(m.Arrived)
	for at, node := range f.node {
		if node == plumbing.None || f.net[at] >= 0 {
			continue
		}
		p := out[at]
		if s, ok := x.lay.inside[x.net.Nodes[node].Part]; ok {
			p = x.stores[s].end(true)
		}
		m.Arrived[node] = p.Part(1)
	}
}

// bound keeps an event within what a vessel can give and take.
func (x *System) bound(v *Vessel, into, from float64, shorter func(quantity.Litre, float64)) {
	if v.Holds <= 0 {
		return // nobody said what it holds: it has no level that could change
	}
	both := min(into, from)
	if above := v.Liquid.Litre - v.heel - v.drop(); above > 0 && !v.dry {
		shorter(max(above, trace), from)
		shorter(max(v.Holds*stirred, v.Liquid.Litre*stirred), both)
	}
	if room := v.Holds - v.drop() - v.Liquid.Litre; room > 0 && v.airy {
		shorter(max(room, trace), into)
	}
	// Its level changes how everything moves.
	shorter(max(v.Holds/quantity.Litre(x.steps()), trace), math.Abs(into-from))
}

// move moves everything for some minutes, from where it comes to where it goes.
func (x *System) move(f *field, m *Moved, dt float64) {
	type gain struct{ in, out Plug }
	vessels := make([]gain, len(x.vessels))
	arrived := x.work(&x.scratch[2])
	for _, i := range f.links {
		_, to, q := f.pours(x, i)
		v := quantity.Litre(q * dt)
		switch s := x.lay.store[i]; {
		case x.lay.through[i] != plumbing.None:
			given, _ := x.leaves(f, i)
			g := &vessels[x.lay.through[i]]
			g.out = g.out.With(given.Part(v))
			arrived[to] = arrived[to].With(given.Part(v))
		case f.round[i] && s != plumbing.None:
			var p Plug
			p, x.stores[s] = x.stores[s].pop(v, f.q[i] < 0)
			arrived[to] = arrived[to].With(p)
		}
	}
	for _, place := range f.down {
		node, net := f.node[place], f.net[place]
		v := quantity.Litre(math.Abs(net) * dt)
		tank := plumbing.None
		if node != plumbing.None {
			if i, ok := x.lay.vessel[x.net.Nodes[node].Part]; ok && !x.vessels[i].Closed {
				tank = i
			}
		}
		switch {
		case node == plumbing.None || net < 0:
		case tank != plumbing.None:
			given := x.source(node).Part(v)
			vessels[tank].out = vessels[tank].out.With(given)
			arrived[place] = arrived[place].With(given)
		default:
			arrived[place] = arrived[place].With(x.draw(m, node, v))
		}
		here := arrived[place]
		if s := x.lay.within[place]; s != plumbing.None && here.Litre > 0 {
			total := here.Litre
			x.stores[s] = x.stores[s].push(here, false)
			here, x.stores[s] = x.stores[s].pop(total, true)
		}
		if node != plumbing.None && net < 0 {
			if tank != plumbing.None {
				vessels[tank].in = vessels[tank].in.With(here.Part(v))
				m.meets(x.net.Nodes[node].Part, here)
			} else {
				x.arrive(m, node, here.Part(v))
			}
		}
		for _, i := range f.from[place] {
			x.through(f, m, i, here, dt, arrived, func(v int, p Plug) { vessels[v].in = vessels[v].in.With(p) })
		}
	}
	for i := range vessels {
		if g := &vessels[i]; g.in.Litre > 0 || g.out.Litre > 0 {
			x.exchange(m, &x.vessels[i], g.in, g.out)
		}
	}
	x.pass(m, dt)
}

// through lets something run through a link for some minutes.
func (x *System) through(f *field, m *Moved, i plumbing.LinkID, here Plug, dt float64, arrived []Plug,
	vessel func(int, Plug)) {
	_, to, q := f.pours(x, i)
	v := quantity.Litre(q * dt)
	m.meets(x.lay.shy[i], here)
	x.pumped(f, m, i, here, dt)
	first := f.q[i] > 0 // it goes in at the A end
	switch s := x.lay.store[i]; {
	case x.lay.through[i] != plumbing.None:
		vessel(x.lay.through[i], here.Part(v))
	case s == plumbing.None:
		arrived[to] = arrived[to].With(here.Part(v))
	case x.lay.bowl[i] && here.Gas > 0.5 && !f.round[i] && x.stores[s].end(!first).Gas < 0.5: // it bubbles through
		arrived[to] = arrived[to].With(here.Part(v))
	case f.round[i]: // what came out of it is on its way already
		x.stores[s] = x.stores[s].push(here.Part(v), first)
	default:
		var p Plug
		x.stores[s] = x.stores[s].push(here.Part(v), first)
		p, x.stores[s] = x.stores[s].pop(v, !first)
		arrived[to] = arrived[to].With(p)
	}
}

// pumped notes how long a pump ran, and drew air.
func (x *System) pumped(f *field, m *Moved, i plumbing.LinkID, here Plug, dt float64) {
	k := &x.net.Links[i]
	if k.Pump == plumbing.None || !x.State.Pumps.Has(k.Pump) || f.q[i] <= 0 {
		return
	}
	x.worked(m, k.Part.ID, quantity.Second(60*dt))
	if here.Gas > 0.5 {
		m.Dry[k.Part.ID] += quantity.Second(60 * dt)
	}
}

// worked notes that a pump ran for a time.
func (x *System) worked(m *Moved, pump string, t quantity.Second) {
	m.Pumps[pump] += t
	x.stretch[pump] += t
	m.Stretch[pump] = max(m.Stretch[pump], x.stretch[pump])
}

// kept is how long something was kept up, without the rests.
func (m *Moved) kept() quantity.Second { return m.Took - m.Rested }

// meets notes what runs through a part.
func (m *Moved) meets(p *plumbing.Part, what Plug) {
	if p == nil || what.Gas > 0.999 || what.Mix == (Mix{}) {
		return
	}
	a, b := m.Met[p], what.Mix
	m.Met[p] = Mix{max(a.Glycol, b.Glycol), max(a.Chlorine, b.Chlorine), max(a.Acid, b.Acid)}
}

// draw takes what a source gives.
func (x *System) draw(m *Moved, node plumbing.NodeID, v quantity.Litre) Plug {
	m.Drew[node] += v
	p := x.source(node).Part(v)
	j := x.jugs[node]
	switch {
	case j == nil || !j.Ends:
		x.account.came(p)
	case p.Gas == 0:
		j.Left.Litre = max(0, j.Left.Litre-v)
	}
	if j != nil {
		j.Used += p.Liquid()
	}
	return p
}

// arrive lets something out of the system, at an outlet by its inside.
func (x *System) arrive(m *Moved, node plumbing.NodeID, p Plug) {
	part := x.net.Nodes[node].Part
	if j := x.jugs[node]; j != nil { // what comes back runs into the container
		if j.Ends {
			j.Left = j.Left.With(Plug{Litre: p.Liquid(), Mix: p.Mix})
		} else {
			x.lets(nil, Sink{Part: part.ID}, p)
		}
		return
	}
	if s, ok := x.lay.inside[part]; ok {
		v := p.Litre
		x.stores[s] = x.stores[s].push(p, false)
		p, x.stores[s] = x.stores[s].pop(v, true)
	}
	m.Ran[node] += p.Litre
	x.lets(part, x.sinkOf(part), p)
}

// exchange lets something into a vessel and out of it. What a tank can't hold
// runs over; from a closed one it would be pressed out by whatever comes in.
func (x *System) exchange(m *Moved, v *Vessel, in, out Plug) {
	defer v.look()
	gone := Plug{Litre: min(out.Liquid(), v.Liquid.Litre), Mix: v.Liquid.Mix}
	v.Liquid.Litre -= gone.Litre
	v.Liquid = v.Liquid.With(Plug{Litre: in.Liquid(), Mix: in.Mix})
	if over := v.Liquid.Litre - v.Holds; over > 0 {
		if !v.Closed {
			m.Spilled[v.Part] += over
		}
		v.Liquid.Litre = v.Holds
		x.lets(nil, Sink{Part: v.Part.ID, To: overflowOf(x.net, v.Part)}, v.Liquid.Part(over))
	}
}

// overflowOf is where a tank that is too full runs over to.
func overflowOf(n *plumbing.Network, tank *plumbing.Part) plumbing.WastePlace {
	for _, port := range []string{"overflow", "vent"} {
		r := flow.Reach(n, state.Normal(n), flow.Query{From: n.NodesOf(tank, port)})
		for _, p := range n.PartsOf(plumbing.RoleVent) {
			if r.Part(p) {
				return n.Model.WasteOf(p)
			}
		}
	}
	return plumbing.ToUnknown
}

// Sources reports whether something pushes in a state: a pump that is on, or
// what is joined to a port.
func Sources(s state.State) bool {
	if s.Pumps != 0 {
		return true
	}
	for _, c := range s.Joined {
		if c.Kind == state.Supply || c.Kind == state.HandPump || c.Kind == state.Compressed {
			return true
		}
	}
	return false
}
