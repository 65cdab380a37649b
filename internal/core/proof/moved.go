package proof

import (
	"fmt"
	"slices"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// On is a procedure on another network of the same structure: the same parts
// joined in the same way, with other figures. What its hands do stays the same,
// step for step. A part that the other network has not is an error that names it.
func (p *Procedure) On(n *plumbing.Network) (*Procedure, error) {
	m := &mover{to: n}
	q := *p
	if p.After != nil {
		after, err := p.After.On(n)
		if err != nil {
			return nil, err
		}
		q.After = after
	}
	q.Steps = slices.Clone(p.Steps)
	for i := range q.Steps {
		s := &q.Steps[i]
		s.Acts, s.Then = m.acts(s.Acts), m.acts(s.Then)
		s.Pour = slices.Clone(s.Pour)
		for k := range s.Pour {
			s.Pour[k].Into = m.part(s.Pour[k].Into)
		}
		s.Until.Tank = m.part(s.Until.Tank)
	}
	q.Limit.Cools, q.Limit.Drains = m.times(p.Limit.Cools), m.times(p.Limit.Drains)
	g := &q.Goal
	g.Full, g.Traps, g.Emptied, g.Acid = m.parts(g.Full), m.parts(g.Traps), m.parts(g.Emptied), m.parts(g.Acid)
	if m.missing != "" {
		return nil, fmt.Errorf("the other network has no part %q", m.missing)
	}
	return &q, nil
}

// mover finds parts of one network in another.
type mover struct {
	to      *plumbing.Network
	missing string // the first that is not there
}

func (m *mover) part(p *plumbing.Part) *plumbing.Part {
	if p == nil {
		return nil
	}
	q := m.to.Model.Part(p.ID)
	if q == nil && m.missing == "" {
		m.missing = p.ID
	}
	return q
}

func (m *mover) parts(list []*plumbing.Part) []*plumbing.Part {
	list = slices.Clone(list)
	for i := range list {
		list[i] = m.part(list[i])
	}
	return list
}

func (m *mover) acts(list []state.Act) []state.Act {
	list = slices.Clone(list)
	for i := range list {
		list[i].Part, list[i].At = m.part(list[i].Part), m.part(list[i].At)
	}
	return list
}

func (m *mover) times(of map[*plumbing.Part]quantity.Second) map[*plumbing.Part]quantity.Second {
	if of == nil {
		return nil
	}
	moved := make(map[*plumbing.Part]quantity.Second, len(of))
	for p, t := range of {
		moved[m.part(p)] = t
	}
	return moved
}
