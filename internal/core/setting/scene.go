package setting

import (
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
)

// Supplies that are assumed where the model does not say: a camp-site tap
// behind a regulator, and a garden hose at a gravity fill.
const (
	usualPressure = 310 // kPa, 45 psi
	usualFlow     = 15  // L/min
	hosePressure  = 10  // kPa at the open end of a hose
)

// Scene is a mode as it is carried out: the handles as they stand, the pump
// switch, and what the mode joins to its source. Outlets are shut.
func Scene(n *plumbing.Network, m *Mode, s flow.Setting) *flow.Scene {
	sc := &flow.Scene{Setting: s, Open: map[plumbing.NodeID]bool{}, At: map[plumbing.NodeID]flow.Attached{}}
	sc.PumpOn = m.PumpOn
	if m.Fluid == "air" {
		return sc
	}
	for _, f := range m.From {
		if n.Nodes[f].Outside {
			sc.At[f] = Joined(n.Nodes[f].Part)
		}
	}
	return sc
}

// Joined is what usually feeds a port: a supply at an inlet, a hose at a
// gravity fill, an open container elsewhere.
func Joined(p *plumbing.Part) flow.Attached {
	switch p.Kind {
	case plumbing.CityInlet, plumbing.RinseInlet:
		return flow.Attached{Kind: flow.Supply, Pressure: p.Data.Regulator.Or(usualPressure), Flow: p.Data.Flow.Or(usualFlow)}
	case plumbing.GravityFill:
		return flow.Attached{Kind: flow.Supply, Pressure: hosePressure, Flow: p.Data.Flow.Or(usualFlow)}
	}
	return flow.Attached{Kind: flow.Container}
}
