// Package state is a water system as it stands at one moment: everything that
// hands set, switch, join and open, as one value that all else is asked of.
package state

import (
	"maps"
	"slices"

	"coldtap/internal/core/plumbing"
)

// State is a system as it stands. The zero value of each field is the system
// at rest: switches off, ports capped, outlets shut, tanks full, the camper
// level. A State is never changed once somebody else holds it: With gives
// copies.
type State struct {
	// Handles are the positions that each handle may stand in: one where it is
	// decided, several while a search has not decided yet, or where it may stand
	// either way.
	Handles  []plumbing.Positions
	Pumps    Pumps                          // that are switched on
	Heat     Set[plumbing.HeatID]           // heat sources that are on
	Out      map[plumbing.FittingID]bool    // what is taken out
	Joined   map[plumbing.NodeID]Connection // to ports, by the node of the mouth
	Open     map[plumbing.NodeID]bool       // outlet sides that are open
	Levels   map[string]float64             // how full a tank is, 0 to 1, by its id
	Contents Contents                       // of the pieces, full of water where nothing is said
	Attitude Attitude
}

// Normal is the state with every handle in its stated normal position and all
// else at rest.
func Normal(n *plumbing.Network) State {
	s := State{Handles: make([]plumbing.Positions, len(n.Handles))}
	for i, h := range n.AllHandles() {
		s.Handles[i] = h.Normal.Only()
	}
	return s
}

// Undecided is the state in which every handle may stand in any of its
// positions.
func Undecided(n *plumbing.Network) State {
	s := State{Handles: make([]plumbing.Positions, len(n.Handles))}
	for i, h := range n.AllHandles() {
		s.Handles[i] = h.Every()
	}
	return s
}

// With is a copy in which a handle stands in a position.
func (s State) With(handle plumbing.HandleID, position plumbing.Position) State {
	return s.WithAny(handle, position.Only())
}

// WithAny is a copy in which a handle may stand in any of some positions.
func (s State) WithAny(handle plumbing.HandleID, positions plumbing.Positions) State {
	s.Handles = slices.Clone(s.Handles)
	s.Handles[handle] = positions
	return s
}

// Stand is a copy with all handles as given.
func (s State) Stand(handles []plumbing.Positions) State {
	s.Handles = handles
	return s
}

// Position is the position a handle stands in, the first of them while it is
// undecided.
func (s *State) Position(handle plumbing.HandleID) plumbing.Position {
	return s.Handles[handle].First()
}

// WithJoined is a copy with something joined to a port; Capped takes it away.
func (s State) WithJoined(mouth plumbing.NodeID, c Connection) State {
	s.Joined = maps.Clone(s.Joined)
	if c.Kind == Capped {
		delete(s.Joined, mouth)
		return s
	}
	if s.Joined == nil {
		s.Joined = map[plumbing.NodeID]Connection{}
	}
	s.Joined[mouth] = c
	return s
}

// WithOpen is a copy with an outlet side open or shut.
func (s State) WithOpen(side plumbing.NodeID, open bool) State {
	s.Open = with(s.Open, side, open)
	return s
}

// WithOut is a copy with a fitting taken out or put back.
func (s State) WithOut(f plumbing.FittingID, out bool) State {
	s.Out = with(s.Out, f, out)
	return s
}

// with is a copy of a set with a thing in it, or without it.
func with[K comparable](set map[K]bool, k K, in bool) map[K]bool {
	next := make(map[K]bool, len(set)+1)
	maps.Copy(next, set)
	if next[k] = in; !in {
		delete(next, k)
	}
	return next
}

// Sides is a set of outlet sides, as State.Open holds them.
func Sides(nodes ...plumbing.NodeID) map[plumbing.NodeID]bool {
	set := make(map[plumbing.NodeID]bool, len(nodes))
	for _, n := range nodes {
		set[n] = true
	}
	return set
}

// EveryTap is the set of all sides of all outlets that a line comes to, mixers
// left half-way. Machines open by their own cycle only.
func EveryTap(n *plumbing.Network) map[plumbing.NodeID]bool { return sides(n, false) }

// EverySide is EveryTap and the machines.
func EverySide(n *plumbing.Network) map[plumbing.NodeID]bool { return sides(n, true) }

func sides(n *plumbing.Network, machines bool) map[plumbing.NodeID]bool {
	open := map[plumbing.NodeID]bool{}
	for i, node := range n.AllNodes() {
		if p := node.Part; p.Kind.Info().Target && n.Joined(i) && (machines || p.Role() != plumbing.RoleMachine) {
			open[i] = true
		}
	}
	return open
}

// Level is how full a tank is, 0 to 1; full where nothing is said.
func (s *State) Level(tank string) float64 {
	if v, ok := s.Levels[tank]; ok {
		return v
	}
	return 1
}

// Content is what stands in a piece of a network.
type Content struct {
	Fluid Fluid   // "" for water
	Share float64 // of what the piece holds, 0 to 1; the rest is air
}

// Contents are what stands in pieces; one that is not in it is full of water.
type Contents map[plumbing.PieceID]Content

// Share is how full a piece is, 0 to 1.
func (c Contents) Share(p plumbing.PieceID) float64 {
	if v, ok := c[p]; ok {
		return v.Share
	}
	return 1
}

// Set is a set of things of a network by their place in its list, bit i for
// the i-th.
type Set[ID ~int] uint64

// Has reports whether a thing is in the set.
func (s Set[ID]) Has(id ID) bool { return s&(1<<id) != 0 }

// With is the set with a thing in it, or without it.
func (s Set[ID]) With(id ID, in bool) Set[ID] {
	if in {
		return s | 1<<id
	}
	return s &^ (1 << id)
}

// Pumps is a set of pumps.
type Pumps = Set[plumbing.PumpID]

// AllPumps is the set of all pumps of a network.
func AllPumps(n *plumbing.Network) Pumps { return 1<<len(n.Pumps) - 1 }
