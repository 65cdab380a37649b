package state

import (
	"fmt"
	"maps"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// Act is one thing that a hand does to a system.
type Act struct {
	Verb  Verb
	Part  *plumbing.Part
	To    string        // of Turn: the position; of Catch: the plumbing.WastePlace
	With  Connection    // of Join: what is joined
	For   Fluid         // of TakeOut, KeepShut, Catch and Rinse: what must not meet the part, or run out of it
	Sides []string      // of Open: "cold", "hot"
	By    plumbing.Heat // of HeatOn
	Until Until

	// Amount is what goes in by a fill until its tanks are full from empty, 0
	// where that is not known.
	Amount quantity.Litre

	At      *plumbing.Part    // of On, Off, HeatOn, HeatOff: the panel or switch where it is done
	Control *plumbing.Control // what a hand does there
}

// Verb is a kind of act.
type Verb string

// What a hand does.
const (
	Turn     Verb = "turn"      // a handle into a position
	On       Verb = "on"        // a pump's switch
	Off      Verb = "off"       //
	HeatOn   Verb = "heat-on"   // a heater by one of its sources
	HeatOff  Verb = "heat-off"  // a heater at every source
	Join     Verb = "join"      // something to a port
	Part     Verb = "part"      // it from the port again, which stays open or shuts by itself
	Cap      Verb = "cap"       // the port, what was joined to it emptied
	Open     Verb = "open"      // an outlet
	Shut     Verb = "shut"      //
	Plug     Verb = "plug"      // the end of a joint that is taken apart, held up
	TakeOut  Verb = "take-out"  // a cartridge, an aerator
	PutBack  Verb = "put-back"  //
	KeepShut Verb = "keep-shut" // what leads to a part, which nothing but water may meet
	Catch    Verb = "catch"     // what runs out at a part, which must not get where it would run to
	Rinse    Verb = "rinse"     // a waste tank, emptied before
	Dump     Verb = "dump"      // a waste tank, where that may be
	Tip      Verb = "tip"       // a heater that is off its couplings, its ends open, until nothing more runs out of it
	Press    Verb = "press"     // the check valve of a port open for a moment, so that what stands at it runs out
)

// Until says how long an act is kept up, or what must be so before it.
type Until string

// Conditions.
const (
	Done       Until = ""            // as soon as it is done
	TankFull   Until = "tank-full"   // by somebody who stays with it
	FloatShuts Until = "float-shuts" // by itself, when the tank is full
	Cold       Until = "cold"        // and without pressure
	CycleRan   Until = "cycle-ran"   // by a clock, over night
)

// Do gives the state after an act. An act on a part that the network does not
// have, or that the part does not take, is an error.
func (s State) Do(n *plumbing.Network, a Act) (State, error) {
	switch a.Verb {
	case Turn:
		h := n.HandleOf(a.Part.ID)
		if h == plumbing.None {
			return s, fmt.Errorf("%s has no handle", a.Part.ID)
		}
		p := n.Handles[h].Index(a.To)
		if p == plumbing.None {
			return s, fmt.Errorf("%s has no position %q", a.Part.ID, a.To)
		}
		return s.With(h, p), nil
	case On, Off:
		if a.Part.Role() == plumbing.RoleIsolator {
			if a.Verb == Off {
				s.Pumps, s.Heat = 0, s.Heat&^needsBattery(n)
			}
			return s, nil
		}
		p := n.PumpOf(a.Part)
		if p == plumbing.None {
			return s, fmt.Errorf("%s is no pump", a.Part.ID)
		}
		s.Pumps = s.Pumps.With(p, a.Verb == On)
		return s, nil
	case HeatOn, HeatOff:
		return s.heat(n, a)
	case Join, Part, Cap:
		mouth := n.Node(a.Part.ID + ".mouth")
		if mouth == plumbing.None {
			return s, fmt.Errorf("nothing can be joined to %s", a.Part.ID)
		}
		return s.WithJoined(mouth, a.With), nil
	case Plug:
		loose := n.Node(a.Part.ID + ".loose")
		if loose == plumbing.None {
			return s, fmt.Errorf("%s has no end to plug", a.Part.ID)
		}
		return s.WithJoined(loose, Connection{Kind: Plugged}), nil
	case Open, Shut:
		return s.tap(n, a)
	case TakeOut, PutBack:
		f := n.FittingOf(a.Part)
		if f == plumbing.None {
			return s, fmt.Errorf("nothing can be taken out of %s", a.Part.ID)
		}
		return s.WithOut(f, a.Verb == TakeOut), nil
	case Press:
		if !a.Part.Data.CheckValve || n.Node(a.Part.ID+".mouth") == plumbing.None {
			return s, fmt.Errorf("%s has no check valve to press", a.Part.ID)
		}
		return s, nil
	case Tip:
		if !s.Loose(n, a.Part) {
			return s, fmt.Errorf("%s is not off its couplings", a.Part.ID)
		}
		return s, nil
	case KeepShut, Catch, Rinse, Dump:
		return s, nil // what happens around the system changes nothing in it
	}
	return s, fmt.Errorf("nobody can %q", a.Verb)
}

// heat switches one source of a heater on, or all of them off.
func (s State) heat(n *plumbing.Network, a Act) (State, error) {
	found := a.Verb == HeatOff || len(a.Part.HeatBy()) == 0 // nobody said what heats it
	if a.Verb == HeatOn && !s.Coupled(n, a.Part) {
		return s, fmt.Errorf("%s is not coupled", a.Part.ID)
	}
	for i, h := range n.Heat {
		if h.Part == a.Part && (a.Verb == HeatOff || h.By == a.By) {
			s.Heat, found = s.Heat.With(plumbing.HeatID(i), a.Verb == HeatOn), true
		}
	}
	if !found {
		return s, fmt.Errorf("%s is not heated by %q", a.Part.ID, a.By)
	}
	return s, nil
}

// Coupled reports whether a heater's gas and water couplings are all together, as far as the handles are known: a heater
// without any is.
func (s *State) Coupled(n *plumbing.Network, heater *plumbing.Part) bool {
	for i, h := range n.AllHandles() {
		its := h.Part.Role() == plumbing.RoleGas && h.Part.Data.Serves == heater.ID ||
			h.Part.Role() == plumbing.RoleCoupling && n.Beside(h.Part, heater)
		if its && int(i) < len(s.Handles) && s.Position(i) != h.Index("together") {
			return false
		}
	}
	return true
}

// Loose reports whether a heater hangs on water couplings, all of which are apart: it can be carried away.
func (s *State) Loose(n *plumbing.Network, heater *plumbing.Part) bool {
	couplings := 0
	for i, h := range n.AllHandles() {
		if h.Part.Role() != plumbing.RoleCoupling || !n.Beside(h.Part, heater) {
			continue
		}
		if couplings++; int(i) >= len(s.Handles) || s.Position(i) != h.Index("apart") {
			return false
		}
	}
	return couplings > 0
}

// needsBattery are the heat sources that go out without the battery: all but
// the mains and the engine's coolant.
func needsBattery(n *plumbing.Network) (set Set[plumbing.HeatID]) {
	for i, h := range n.Heat {
		set = set.With(plumbing.HeatID(i), h.By == plumbing.Gas || h.By == plumbing.Diesel)
	}
	return set
}

// tap opens some sides of an outlet and shuts its others.
func (s State) tap(n *plumbing.Network, a Act) (State, error) {
	s.Open = maps.Clone(s.Open)
	if s.Open == nil {
		s.Open = map[plumbing.NodeID]bool{}
	}
	for i, node := range n.AllNodes() {
		if node.Part == a.Part {
			delete(s.Open, i)
		}
	}
	if a.Verb == Shut {
		return s, nil
	}
	for _, side := range a.Sides {
		i := n.Node(a.Part.ID + "." + side)
		if i == plumbing.None || !n.Joined(i) {
			return s, fmt.Errorf("%s has no %s side", a.Part.ID, side)
		}
		s.Open[i] = true
	}
	return s, nil
}
