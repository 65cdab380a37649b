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
)

// heat lists what heats a part.
func (p *Part) heat() []Heat {
	var list []Heat
	if !p.Data.Gas.IsZero() {
		list = append(list, Gas)
	}
	if !p.Data.Electric.IsZero() && p.Kind == Heater {
		list = append(list, Electric)
	}
	return list
}

// HeatOf lists the heat sources of a part.
func (n *Network) HeatOf(p *Part) []HeatSource {
	var list []HeatSource
	for _, h := range n.Heat {
		if h.Part == p {
			list = append(list, h)
		}
	}
	return list
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
	CartridgeFitting FittingKind = "cartridge"
)

// fittings lists what can be taken out of a part.
func (p *Part) fittings() []FittingKind {
	if p.Kind == Filter && !p.Sealed() {
		return []FittingKind{CartridgeFitting}
	}
	return nil
}

// FittingOf finds what can be taken out of a part, None if nothing can.
func (n *Network) FittingOf(p *Part) FittingID {
	return FittingID(slices.IndexFunc(n.Fittings, func(f Fitting) bool { return f.Part == p }))
}

// PumpOf finds a pump, None for what is none.
func (n *Network) PumpOf(p *Part) PumpID { return PumpID(slices.Index(n.Pumps, p)) }
