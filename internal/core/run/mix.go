// Package run carries steps out on a network, stretch by stretch: which fluid
// stands where, what runs where, what arrives where somebody looks. Nothing is
// made or lost on the way.
package run

import (
	"math"
	"slices"

	"coldtap/internal/core/quantity"
)

// Mix is what a litre of liquid holds beside water. The zero value is plain water.
type Mix struct {
	Glycol   float64             // share by volume, 0 to 1
	Chlorine quantity.MgPerLitre // free
	Acid     float64             // share by volume, 0 to 1
}

// Plug is some of one fluid. The zero value is nothing.
type Plug struct {
	Litre quantity.Litre // with the air in it
	Gas   float64        // share of it that is air, 0 to 1
	Mix   Mix            // of its liquid

	front int // of a front between two liquids: the store in which it was last widened, from 1; 0 for no front
}

// Air is some air.
func Air(v quantity.Litre) Plug { return Plug{Litre: v, Gas: 1} }

// Liquid is how much of it is liquid.
func (p Plug) Liquid() quantity.Litre { return p.Litre * quantity.Litre(1-p.Gas) }

// With is both plugs mixed.
func (p Plug) With(o Plug) Plug {
	if p.Litre == 0 {
		return o
	}
	if o.Litre == 0 {
		return p
	}
	a, b := float64(p.Liquid()), float64(o.Liquid())
	sum := Plug{Litre: p.Litre + o.Litre}
	sum.Gas = (p.Gas*float64(p.Litre) + o.Gas*float64(o.Litre)) / float64(sum.Litre)
	if a+b > 0 {
		share := func(x, y float64) float64 { return (x*a + y*b) / (a + b) }
		if p.front == o.front {
			sum.front = p.front
		}
		sum.Mix = Mix{share(p.Mix.Glycol, o.Mix.Glycol),
			quantity.MgPerLitre(share(float64(p.Mix.Chlorine), float64(o.Mix.Chlorine))),
			share(p.Mix.Acid, o.Mix.Acid)}
	}
	return sum
}

// Part is some litres of it.
func (p Plug) Part(v quantity.Litre) Plug {
	p.Litre = v
	return p
}

// take takes some litres out of a plug, or all of it where there is less.
func (p *Plug) take(v quantity.Litre) Plug {
	got := p.Part(min(v, p.Litre))
	p.Litre -= got.Litre
	return got
}

// like reports whether two plugs are the same fluid, as far as anybody could tell.
func (p Plug) like(o Plug) bool { return p.within(o, 0.03) }

// near reports whether two plugs that stand one behind the other may leave a stretch together, mixed: of what is
// flushed out any that differ by a tenth.
func (p Plug) near(o Plug, flushing bool) bool {
	if flushing && p.Gas == o.Gas && p.Mix.Glycol == o.Mix.Glycol && p.Mix.Acid == o.Mix.Acid {
		least, most := min(p.Mix.Chlorine, o.Mix.Chlorine), max(p.Mix.Chlorine, o.Mix.Chlorine)
		return most-least <= least/10
	}
	return p.within(o, 0.1)
}

// flushed is a strength of chlorine below which nobody asks for a few per cent more or less, in mg/L: it is being
// flushed out. Of a dose they matter.
const flushed = 25

// within reports whether two plugs are the same fluid, but for a share of a chlorine that is being flushed out.
func (p Plug) within(o Plug, tolerance float64) bool {
	const (
		gas   = 1e-3
		share = 1e-4
	)
	chlorine := 0.01
	if least := float64(min(p.Mix.Chlorine, o.Mix.Chlorine)); least < flushed {
		chlorine = max(chlorine, tolerance*least)
	}
	if math.Abs(p.Gas-o.Gas) > gas {
		return false
	}
	return p.Gas > 1-gas || math.Abs(p.Mix.Glycol-o.Mix.Glycol) <= share &&
		math.Abs(float64(p.Mix.Chlorine-o.Mix.Chlorine)) <= chlorine && math.Abs(p.Mix.Acid-o.Mix.Acid) <= share
}

// queue is the plugs of a stretch from one end to the other.
type queue []Plug

// least is what is too little to be a plug of its own.
const least quantity.Litre = 1e-6

func (q queue) litre() (sum quantity.Litre) {
	for _, p := range q {
		sum += p.Litre
	}
	return sum
}

// push puts a plug in at the first end, or at the last.
func (q queue) push(p Plug, first bool) queue {
	switch {
	case p.Litre <= 0:
		return q
	case len(q) == 0:
		return queue{p}
	}
	at := len(q) - 1
	if first {
		at = 0
	}
	if p.like(q[at]) || p.Litre < least || q[at].Litre < least {
		q[at] = q[at].With(p)
		return q
	}
	if first {
		return append(queue{p}, q...)
	}
	return append(q, p)
}

// end is the plug at an end.
func (q queue) end(first bool) Plug {
	switch {
	case len(q) == 0:
		return Plug{}
	case first:
		return q[0]
	}
	return q[len(q)-1]
}

// leading is how much stands at an end that may leave together.
func (q queue) leading(first, flushing bool) (sum quantity.Litre) {
	end := q.end(first)
	for i := range q {
		p := q[i]
		if !first {
			p = q[len(q)-1-i]
		}
		if !p.near(end, flushing) {
			break
		}
		sum += p.Litre
	}
	return sum
}

// same reports whether nothing but one fluid stands in it, and another plug is that too.
func (q queue) same(p Plug) bool { return len(q) == 1 && q[0].like(p) }

// tidy is the queue without ends that are too little to wait for.
func (q queue) tidy() queue {
	for len(q) > 1 && q[0].Litre < least {
		q[1] = q[1].With(q[0])
		q = q[1:]
	}
	for last := len(q) - 1; last > 0 && q[last].Litre < least; last-- {
		q[last-1] = q[last-1].With(q[last])
		q = q[:last]
	}
	for len(q) > mostPlugs {
		small := 0
		for i := range len(q) - 1 {
			if q[i].Litre+q[i+1].Litre < q[small].Litre+q[small+1].Litre {
				small = i
			}
		}
		q[small] = q[small].With(q[small+1])
		q = append(q[:small+1], q[small+2:]...)
	}
	return q
}

// mostPlugs is how many are told apart in one stretch: the smallest mix first.
const mostPlugs = 24

// smear lets the liquids on both sides of each front mix over some litres of a store, once: a front that comes
// from another store is mixed over as much more.
func (q queue) smear(store int, over quantity.Litre) queue {
	each := over / 2
	if each < least {
		return q
	}
	wet := func(p Plug) bool { return p.Gas < 0.01 && p.Litre > each-least }
	meet := func(a, b Plug) bool { return wet(a) && wet(b) && !a.like(b) }
	for i := 0; i+1 < len(q); i++ {
		switch a, b := &q[i], &q[i+1]; {
		case a.front == 0 && b.front == 0 && meet(*a, *b):
			mixed := a.take(each).With(b.take(each))
			mixed.front = store + 1
			q = slices.Insert(q, i+1, mixed)
			i++
		case a.front == 0 && b.front > 0 && b.front != store+1 && i+2 < len(q) && q[i+2].front == 0 &&
			wet(*a) && wet(q[i+2]):
			*b = b.With(a.take(each)).With(q[i+2].take(each))
			b.front = store + 1
			i++
		}
	}
	return q
}

// pop takes some litres out at an end, mixed.
func (q queue) pop(v quantity.Litre, first bool) (Plug, queue) {
	var got Plug
	for v > 0 && len(q) > 0 {
		at := len(q) - 1
		if first {
			at = 0
		}
		p := q[at]
		if p.Litre <= v {
			got, v = got.With(p), v-p.Litre
			if first {
				q = q[1:]
			} else {
				q = q[:at]
			}
			continue
		}
		got = got.With(p.Part(v))
		q[at].Litre -= v
		break
	}
	return got, q
}
