package state

import "coldtap/internal/core/plumbing"

// View says how undecided handles count.
type View int

const (
	Can  View = iota // a link passes if some position left lets it
	Must             // a link passes only if every position left lets it
)

// Passes reports whether a link lets water through from node from.
func (s *State) Passes(l *plumbing.Link, from plumbing.NodeID, v View) bool {
	return (!l.OneWay || l.A == from) && s.Runs(l) && s.IsOpen(l, v)
}

// Runs reports whether a link passes as far as its pump goes: what leads
// through a pump passes while it is switched on, or always where the pump lets
// water through when it is off.
func (s *State) Runs(l *plumbing.Link) bool {
	return l.Pump == plumbing.None || l.Idle || s.Pumps.Has(l.Pump)
}

// IsOpen reports whether the handle of a link, if any, lets it pass.
func (s *State) IsOpen(l *plumbing.Link, v View) bool {
	if l.Handle == plumbing.None {
		return true
	}
	left := s.Handles[l.Handle]
	if v == Must {
		return left&^l.Open == 0
	}
	return left&l.Open != 0
}
