// Package flow says where water goes in a network: what is reached from where,
// by which path, what separates two places, what a flow sweeps, how much flows,
// and what stays when it is drained.
package flow

import (
	"fmt"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

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
