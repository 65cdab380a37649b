// Package flow says where water goes in a network: what is reached from where,
// by which path, what separates two places, and what a flow sweeps.
package flow

import (
	"coldtap/internal/core/plumbing"
)

// Setting is a state of everything that a hand sets. A handle's entry is the
// set of positions it may stand in: one for a decided setting, several while a
// search has not decided yet.
type Setting struct {
	Handles []plumbing.Positions // by index into Network.Handles
	PumpOn  bool
}

// Normal is the setting with every handle in its stated normal position.
func Normal(n *plumbing.Network) Setting {
	s := Setting{Handles: make([]plumbing.Positions, len(n.Handles))}
	for i, h := range n.AllHandles() {
		s.Handles[i] = h.Normal.Only()
	}
	return s
}

// With is a copy in which a handle stands in a position.
func (s Setting) With(handle plumbing.HandleID, position plumbing.Position) Setting {
	s.Handles = append([]plumbing.Positions(nil), s.Handles...)
	s.Handles[handle] = position.Only()
	return s
}

// Position is the position a handle stands in, the first of them while it is
// undecided.
func (s Setting) Position(handle plumbing.HandleID) plumbing.Position {
	return s.Handles[handle].First()
}

// View says how undecided handles count.
type View int

const (
	Can  View = iota // a link passes if some position left lets it
	Must             // a link passes only if every position left lets it
)

// Passes reports whether a link lets water through from node from.
func (s Setting) Passes(l *plumbing.Link, from plumbing.NodeID, v View) bool {
	return s.passes(l, from, v)
}

// passes reports whether a link lets water through from node from.
func (s Setting) passes(l *plumbing.Link, from plumbing.NodeID, v View) bool {
	if l.OneWay && l.A != from || l.Running && !s.PumpOn {
		return false
	}
	return s.open(l, v)
}

// open reports whether the handle of a link, if any, lets it pass.
func (s Setting) open(l *plumbing.Link, v View) bool {
	if l.Handle < 0 {
		return true
	}
	left := s.Handles[l.Handle]
	if v == Must {
		return left&^l.Open == 0
	}
	return left&l.Open != 0
}
