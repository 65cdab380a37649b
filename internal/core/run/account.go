package run

import (
	"maps"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// Sum is how much there is of each fluid.
type Sum struct {
	Liquid   quantity.Litre
	Glycol   quantity.Litre
	Chlorine float64 // mg
	Acid     quantity.Litre
}

func (s *Sum) add(p Plug) {
	v := p.Liquid()
	s.Liquid += v
	s.Glycol += v * quantity.Litre(p.Mix.Glycol)
	s.Chlorine += float64(v) * float64(p.Mix.Chlorine)
	s.Acid += v * quantity.Litre(p.Mix.Acid)
}

// plus is both sums together.
func (s Sum) plus(o Sum) Sum {
	return Sum{s.Liquid + o.Liquid, s.Glycol + o.Glycol, s.Chlorine + o.Chlorine, s.Acid + o.Acid}
}

// Less is what is left of a sum without another.
func (s Sum) Less(o Sum) Sum {
	return Sum{s.Liquid - o.Liquid, s.Glycol - o.Glycol, s.Chlorine - o.Chlorine, s.Acid - o.Acid}
}

// Sink is where something runs out of the system: by a part, to a place.
type Sink struct {
	Part string              // id
	To   plumbing.WastePlace // "" where nobody says
	Tank string              // id of the waste tank, "" for none
}

// Account is what came into a system and went out of it.
type Account struct {
	Mix    Mix                 // of the water that comes by hoses
	Brings map[state.Fluid]Mix // what fluids are
	Had    Sum                 // what stood in it at the beginning
	Came   Sum                 // by ports, containers and what was poured
	Kept   Sum                 // in containers that were taken away
	Out    map[Sink]Sum
}

func (a Account) clone() Account {
	a.Out = maps.Clone(a.Out)
	return a
}

func (a *Account) came(p Plug) { a.Came.add(p) }
func (a *Account) kept(p Plug) { a.Kept.add(p) }

func (a *Account) out(at Sink, p Plug) {
	if p.Liquid() <= 0 {
		return
	}
	if a.Out == nil {
		a.Out = map[Sink]Sum{}
	}
	s := a.Out[at]
	s.add(p)
	a.Out[at] = s
}

// Went is all that ran out.
func (a *Account) Went() (sum Sum) {
	for _, s := range a.Out {
		sum = sum.plus(s)
	}
	return sum
}

// Account is what came in and went out so far.
func (x *System) Account() Account { return x.account.clone() }

// total is all that stands in the system, containers included.
func (x *System) total() (sum Sum) {
	for _, q := range x.stores {
		for _, p := range q {
			sum.add(p)
		}
	}
	for i := range x.vessels {
		sum.add(x.vessels[i].Liquid)
	}
	for _, j := range x.jugs {
		sum.add(j.Left)
	}
	return sum
}

// Astray is what is not accounted for: nothing, but for rounding.
func (x *System) Astray() Sum {
	a := &x.account
	return a.Had.plus(a.Came).Less(a.Kept).Less(a.Went()).Less(x.total())
}

// Waste is what stands in a waste tank since it was emptied.
type Waste struct {
	Stands Plug
	Last   Plug // what ran there last, up to a litre: it stands in the traps and pipes on the way
}

// lastRan is how much of what ran to a waste tank stands in the traps and pipes on its way.
const lastRan quantity.Litre = 1

// lets lets something out of the system: into a waste tank, a bucket, or away.
func (x *System) lets(part *plumbing.Part, to Sink, p Plug) {
	x.account.out(to, p)
	liquid := Plug{Litre: p.Liquid(), Mix: p.Mix}
	if liquid.Litre <= 0 {
		return
	}
	if part != nil && x.caught[part] {
		x.buckets[part] = x.buckets[part].With(liquid)
	}
	if tank := x.net.Model.Part(to.Tank); tank != nil {
		w := x.wastes[tank]
		w.Stands = w.Stands.With(liquid)
		w.Last = w.Last.Part(max(0, min(w.Last.Litre, lastRan-liquid.Litre))).With(liquid.Part(min(liquid.Litre, lastRan)))
		x.wastes[tank] = w
	}
}

// Waste is what stands in a waste tank since it was emptied.
func (x *System) Waste(tank *plumbing.Part) Waste { return x.wastes[tank] }

// Caught reports whether somebody holds a bucket under a part.
func (x *System) Caught(p *plumbing.Part) bool { return x.caught[p] }

// Bucket is what was caught under a part.
func (x *System) Bucket(p *plumbing.Part) Plug { return x.buckets[p] }

// sinkOf is where what runs out of a part goes.
func (x *System) sinkOf(p *plumbing.Part) Sink {
	if x.caught[p] { // whoever holds the bucket carries it where it may go
		return Sink{Part: p.ID}
	}
	s := Sink{Part: p.ID, To: x.net.Model.WasteOf(p)}
	if x.net.Model.Part(p.Data.Waste) != nil {
		s.Tank = p.Data.Waste
	}
	return s
}
