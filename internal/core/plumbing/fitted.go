package plumbing

import "slices"

// HeatSource is one of the ways in which a heater is heated.
type HeatSource struct {
	Part *Part
	By   Heat
}

// Heat is what heats.
type Heat string

// What heats water.
const (
	Gas      Heat = "gas"
	Electric Heat = "electric"
	Diesel   Heat = "diesel"
	Engine   Heat = "engine" // by its coolant, while it runs
)

// HeatBy lists what heats a part; none where nobody said.
func (p *Part) HeatBy() []Heat {
	if p.Role() != RoleHeater {
		return nil
	}
	var list []Heat
	for _, x := range []struct {
		by    Heat
		given bool
	}{{Gas, !p.Data.Gas.IsZero()}, {Electric, !p.Data.Electric.IsZero()}, {Diesel, !p.Data.Diesel.IsZero()},
		{Engine, p.Data.Engine}} {
		if x.given {
			list = append(list, x.by)
		}
	}
	return list
}

// ControlOf finds the panel, switch or isolator that switches a part, and how;
// nil where none is described.
func (n *Network) ControlOf(p *Part) (*Part, *Control) {
	for _, at := range n.PartsOf(RoleControl) {
		for i := range at.Controls {
			if at.Controls[i].Part == p.ID {
				return at, &at.Controls[i]
			}
		}
	}
	return nil, nil
}

// Fitting is something in a part that a hand takes out and puts back.
type Fitting struct {
	Part *Part
	What FittingKind
}

// FittingKind is a kind of fitting.
type FittingKind string

// What is fitted.
const (
	Cartridge  FittingKind = "cartridge"
	Aerator    FittingKind = "aerator"
	ShowerHead FittingKind = "shower-head"
	Screen     FittingKind = "screen" // of an inlet, ahead of its check valve
)

// Fitted is what a hand takes out of a part; "" where nothing is.
func (p *Part) Fitted() FittingKind {
	if p.Sealed() {
		return ""
	}
	return p.Kind.Info().Fitted[p.Data.Type]
}

// FittingOf finds what can be taken out of a part, None if nothing can.
func (n *Network) FittingOf(p *Part) FittingID {
	return FittingID(slices.IndexFunc(n.Fittings, func(f Fitting) bool { return f.Part == p }))
}

// PumpOf finds a pump, None for what is none.
func (n *Network) PumpOf(p *Part) PumpID { return PumpID(slices.Index(n.Pumps, p)) }
