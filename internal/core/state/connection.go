package state

import (
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// Fluid is what moves in a system.
type Fluid string

// The fluids.
const (
	Water      Fluid = "water"
	Sanitizer  Fluid = "sanitizer"
	Antifreeze Fluid = "antifreeze"
	Air        Fluid = "air"
)

// Connection is what is joined to a port. The zero value is nothing: the port
// is capped, or shut off by itself.
type Connection struct {
	Kind     ConnectionKind
	Fluid    Fluid                   // of what comes by it
	Pressure quantity.Kilopascal     // of a supply, at no flow
	Flow     quantity.LitrePerMinute // of a supply, at no pressure
	Volume   quantity.Litre          // of a container: what is in it, 0 where nobody said
}

// ConnectionKind is a kind of thing that is joined to a port.
type ConnectionKind int

// What may be joined to a port.
const (
	Capped     ConnectionKind = iota
	Supply                    // a hose under pressure
	Container                 // an open container of fluid at the port's height
	HandPump                  // a pump worked by hand, its hose in a container
	Compressed                // air under pressure
	OpenToAir                 // open to the air
	Plugged                   // shut by a plug, where it would stand open
)

// Gives reports whether something comes in by a connection.
func (k ConnectionKind) Gives() bool { return k != Capped && k != OpenToAir && k != Plugged }

// Supplies that are assumed where the model does not say: a camp-site tap
// behind a regulator, and a garden hose at a gravity fill.
const (
	usualPressure  quantity.Kilopascal     = 310 // 45 psi
	usualFlow      quantity.LitrePerMinute = 15
	barrelPressure quantity.Kilopascal     = 50 // a submersible pump in a barrel
)

// HosePressure is that of the tap behind a hose whose open flow is known: the
// fall from an open mouth adds next to nothing.
const HosePressure quantity.Kilopascal = 300

// Usual is what usually feeds a port: a supply at an inlet, a hose at
// a gravity fill, an open container elsewhere.
func Usual(p *plumbing.Part, f Fluid) Connection {
	switch p.Role() {
	case plumbing.RoleInlet, plumbing.RoleRinse:
		return Connection{Kind: Supply, Fluid: f, Pressure: p.Data.Regulator.Or(usualPressure),
			Flow: p.Data.Flow.Or(usualFlow)}
	case plumbing.RoleBarrel: // its own pump's: no pressure at the free flow, none of it at the cut-out
		return Connection{Kind: Supply, Fluid: f, Pressure: p.Data.CutOut.Or(barrelPressure),
			Flow: p.Data.Flow.Or(usualFlow)}
	case plumbing.RoleFill:
		return Connection{Kind: Supply, Fluid: f, Pressure: HosePressure, Flow: p.Data.Flow.Or(usualFlow)}
	}
	return Connection{Kind: Container, Fluid: f}
}
