package setting

import (
	"context"
	"slices"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// Turn is one setting of a sequence.
type Turn struct {
	State state.State
	Meets []Clause       // what is met in it that must be, of a mode that serves or fills
	Out   quantity.Litre // what runs out in it beside what the turns before let out, of a mode that drains
	Acts  []state.Act    // what is done beside the handles, where it is not the mode's
}

// mostTurns is how many settings a sequence has at most.
const mostTurns = 4

// inTurns reports whether a mode's job can be done in several settings one
// after the other: what is filled, treated, flushed or emptied stays so.
func (m *Mode) inTurns() bool {
	return (m.Group == Fill || m.Group == Clean || m.Group == Winter) && m.ID != Storage && m.ID != HeaterAlone &&
		!m.Measure
}

// sequence finds the fewest settings that between them meet every must of the
// goal, each of them without breaking a must-not; nil where none do. The first
// is the fewest changes from base, each other from the one before it.
func (s *search) sequence(ctx context.Context, base state.State) ([]Turn, error) {
	var musts []int
	for i := range s.mode.Clauses {
		if s.mode.Clauses[i].Must {
			musts = append(musts, i)
		}
	}
	if len(musts) < 2 || len(musts) > 64 {
		return nil, nil
	}
	p := parting{ctx: ctx, s: s, musts: musts, known: map[uint64]bool{}}
	for i := range musts {
		if !p.together(1 << i) {
			return nil, p.err
		}
	}
	for turns := 2; turns <= mostTurns; turns++ {
		if groups := p.part(0, nil, turns); groups != nil {
			return p.turns(groups, base)
		}
		if p.err != nil {
			return nil, p.err
		}
	}
	return nil, nil
}

// parting divides the musts of a goal into groups that can be met together.
type parting struct {
	ctx   context.Context
	s     *search
	musts []int
	known map[uint64]bool // by set of musts: whether a setting meets them
	never []uint64        // sets that none meets
	err   error
}

// together reports whether some setting meets a set of musts and no must-not.
func (p *parting) together(set uint64) bool {
	if ok, known := p.known[set]; known || p.err != nil {
		return ok
	}
	for _, bad := range p.never {
		if set&bad == bad {
			return false
		}
	}
	_, ok, err := p.s.with(p.counts(set)).run(p.ctx)
	if err != nil {
		p.err = err
		return false
	}
	p.known[set] = ok
	if !ok {
		p.never = append(p.never, set)
	}
	return ok
}

// counts are the clauses of a set of musts, and every must-not.
func (p *parting) counts(set uint64) []bool {
	counts := make([]bool, len(p.s.mode.Clauses))
	for i := range counts {
		counts[i] = !p.s.mode.Clauses[i].Must
	}
	for i, m := range p.musts {
		if set&(1<<i) != 0 {
			counts[m] = true
		}
	}
	return counts
}

// part puts each must from the i-th on into one of the groups, or into a new
// one while there are fewer than most.
func (p *parting) part(i int, groups []uint64, most int) []uint64 {
	if i == len(p.musts) {
		return groups
	}
	for g := range groups {
		if p.together(groups[g] | 1<<i) {
			next := slices.Clone(groups)
			next[g] |= 1 << i
			if done := p.part(i+1, next, most); done != nil || p.err != nil {
				return done
			}
		}
	}
	if len(groups) < most {
		return p.part(i+1, append(slices.Clone(groups), 1<<i), most)
	}
	return nil
}

// turns finds the settings of the groups, one after the other.
func (p *parting) turns(groups []uint64, base state.State) ([]Turn, error) {
	var list []Turn
	for _, set := range groups {
		at, ok, err := newSearch(p.s.net, p.s.mode, base, p.counts(set)).run(p.ctx)
		if err != nil || !ok {
			return nil, err
		}
		t := Turn{State: at}
		held := newGoal(p.s.net, p.s.mode).holding(at)
		for _, m := range p.musts {
			if held[m] {
				t.Meets = append(t.Meets, p.s.mode.Clauses[m])
			}
		}
		list = append(list, t)
		base = at
	}
	return list, nil
}

// pumpByPump takes a setting in which several pumps draw from containers of
// their own apart into a turn for each: one container, one pair of hands. None
// where a pump draws from several, or something is served by none alone.
func pumpByPump(n *plumbing.Network, m *Mode, s state.State) []Turn {
	if m.Fluid != state.Antifreeze && m.Fluid != state.Sanitizer || len(m.From) < 2 {
		return nil
	}
	var list []Turn
	var drawn state.Pumps
	met := map[int]bool{}
	for _, mouth := range m.From {
		r := flow.Reach(n, s, flow.Query{From: []plumbing.NodeID{mouth}, Untempered: true})
		t := Turn{State: s}
		var own state.Pumps
		for i, p := range n.Pumps {
			own = own.With(plumbing.PumpID(i), r.Node(n.Node(p.ID+".in")))
		}
		if own == 0 || own&drawn != 0 {
			return nil
		}
		drawn |= own
		for _, other := range m.From {
			if other != mouth {
				t.State = t.State.WithJoined(other, state.Connection{})
			}
		}
		for _, a := range m.Acts {
			switch i := n.PumpOf(a.Part); {
			case a.Verb == state.On && i != plumbing.None && !own.Has(i):
				a.Verb = state.Off
				t.Acts = append(t.Acts, a)
			case a.Verb == state.On, a.Verb == state.Join && n.Node(a.Part.ID+".mouth") == mouth:
				t.Acts = append(t.Acts, a)
			}
		}
		t.State.Pumps = own
		for i := range m.Clauses {
			if c := &m.Clauses[i]; c.Aim == Served && !met[i] && hitNode(r, c.To) != plumbing.None {
				met[i] = true
				t.Meets = append(t.Meets, *c)
			}
		}
		list = append(list, t)
	}
	for i := range m.Clauses {
		if m.Clauses[i].Aim == Served && !met[i] {
			return nil
		}
	}
	return list
}

// drainInTurns goes on from the setting that leaves least: each turn more is
// the one in which most of what stayed before runs out, until none lets out
// enough to be worth it. What has run out of a place stays out of it.
func drainInTurns(ctx context.Context, n *plumbing.Network, m *Mode, first state.State) ([]Turn, error) {
	const worth quantity.Litre = 0.05
	was := flow.Drain(n, first)
	list := []Turn{{State: first}}
	for len(list) < mostTurns {
		from := list[len(list)-1].State
		from.Contents = was.Contents(state.Water)
		stays := func(at state.State) quantity.Litre { return flow.Drain(n, at).Total() }
		next, err := leastBy(ctx, n, m, from, len(m.Clauses), stays)
		if err != nil {
			return nil, err
		}
		now := flow.Drain(n, next)
		out := was.Total() - now.Total()
		if out < worth {
			break
		}
		list = append(list, Turn{State: next, Out: out})
		was = now
	}
	if len(list) == 1 {
		return nil, nil
	}
	return list, nil
}
