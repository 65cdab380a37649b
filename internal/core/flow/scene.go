package flow

import (
	"fmt"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// Scene is a setting with what is open and what is joined to the ports.
type Scene struct {
	Setting
	Open   map[plumbing.NodeID]bool     // outlet sides that are open, by node
	At     map[plumbing.NodeID]Attached // what is at openings to the outside, by node; nothing means closed
	Levels map[string]float64
}

// Attached is what is joined to an opening.
type Attached struct {
	Kind     Attachment
	Pressure quantity.Kilopascal     // of a supply, at no flow
	Flow     quantity.LitrePerMinute // of a supply, at no pressure
}

// Attachment is a kind of thing that is joined to an opening.
type Attachment int

// What may be at an opening.
const (
	Nothing   Attachment = iota // capped, or shut off by the part itself
	Supply                      // water at pressure
	Container                   // an open container of fluid at the port's height
	Air                         // open to the air
)

// level is how full a tank is, 0 to 1; full where nothing is said.
func (s *Scene) level(id string) float64 {
	if v, ok := s.Levels[id]; ok {
		return v
	}
	return 1
}

// Everyone opens every outlet side of a network.
func Everyone(n *plumbing.Network) map[plumbing.NodeID]bool {
	open := map[plumbing.NodeID]bool{}
	for i, node := range n.AllNodes() {
		if node.Part.Kind.Info().Target && n.Joined(i) {
			open[i] = true
		}
	}
	return open
}

// PumpState says what a pump does.
type PumpState int

// States of a pump.
const (
	Off     PumpState = iota
	Running           // delivers steadily
	Cycling           // delivers less than its switch holds it on for: it stops and starts
	Silent            // at cut-out: nothing is drawn
)

func (s PumpState) String() string {
	return [...]string{"off", "running", "cycling", "silent"}[s]
}

// leastShare is the share of its free flow below which a pump's switch stops it.
const leastShare = 0.05

// Steady is a steady flow.
type Steady struct {
	Flow  []quantity.LitrePerMinute                   // by link, from A to B
	Head  []quantity.Metre                            // by node, above the ground, where Known
	Known []bool                                      // by node: a dead end has no head of its own
	Out   map[plumbing.NodeID]quantity.LitrePerMinute // by outlet side: what runs out; by port: what a supply gives
	Pumps map[string]PumpState
}

// ErrNoFlow says that the solver did not settle.
type ErrNoFlow struct{ Reason string }

func (e ErrNoFlow) Error() string { return fmt.Sprintf("the flow does not settle: %s", e.Reason) }
