package setting

import (
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// intoTank asks that the mode's water gets into every tank that it can reach
// at all, and nowhere out. It reports false where it can reach none.
func (e *equipment) intoTank(m *Mode) bool {
	r := e.reachIn(m.Fixed, m.From)
	any := false
	for _, t := range e.tanks {
		// Nothing is filled backwards through the pipe a pump draws by.
		to := slices.DeleteFunc(e.partNodes(t), func(i plumbing.NodeID) bool {
			return plumbing.PortKind(e.net.Nodes[i].Port) == "supply"
		})
		if hitNode(r, to) >= 0 {
			any = true
			m.Clauses = append(m.Clauses, Clause{Aim: TankIn, Must: true, From: m.From, Target: t, To: to})
		}
	}
	if !any {
		m.LeftOut = fact.Of("left-out.no-line-into-tank", m.Source)
		return false
	}
	e.noSpill(m, m.From)
	e.noStanding(m)
	return true
}

// fillAt fills the tank at some inlets, by pressure or by gravity.
func (e *equipment) fillAt(m Mode, at []*plumbing.Part, until state.Until) Mode {
	m.Fluid, m.Group, m.Fixed = "water", Fill, e.shut
	if len(at) == 0 {
		return m
	}
	m.Source, m.From = at[0], e.nodes(at, "mouth")
	if !e.intoTank(&m) {
		return m
	}
	for _, p := range at {
		fill := joined(p, m.Fluid, until)
		fill.Amount = e.takes(&m, p)
		m.does(e.net, fill)
	}
	m.does(e.net, e.switched(e.pumps, state.Off)...)
	return m
}

// takes is what all the tanks take from empty that a fill at an inlet gets to;
// 0 where the capacity of one of them is not known.
func (e *equipment) takes(m *Mode, at *plumbing.Part) (sum quantity.Litre) {
	r := e.reachIn(m.Fixed, e.nodes([]*plumbing.Part{at}, "mouth"))
	for _, c := range m.Clauses {
		if c.Aim != TankIn || hitNode(r, c.To) == plumbing.None {
			continue
		}
		holds := e.net.HoldsOf(c.Target)
		if holds == 0 {
			return 0
		}
		sum += holds
	}
	return sum
}

func (e *equipment) fillByGravity() Mode {
	m := Mode{ID: FillGravity}
	at := e.net.PartsOf(plumbing.RoleFill)
	if len(at) == 0 {
		m.LeftOut = fact.Of("left-out.no-fill", e.called("fill"))
	}
	return e.fillAt(m, at, state.TankFull)
}

func (e *equipment) fillUnderPressure() Mode {
	m := Mode{ID: FillPressure}
	_, filling := e.feeders(e.cities)
	switch {
	case len(e.cities) == 0:
		m.LeftOut = fact.Of("left-out.no-inlet-for-water-under")
	case len(filling) == 0:
		m.LeftOut = fact.Of("left-out.feeds-outlets", e.cities[0])
	}
	return e.fillAt(m, filling, e.untilFull(filling))
}

func (e *equipment) backFill() Mode {
	m := Mode{ID: BackFill}
	feeding, _ := e.feeders(e.cities)
	switch {
	case len(e.cities) == 0:
		m.LeftOut = fact.Of("left-out.no-inlet", e.called("inlet"))
	case len(feeding) == 0:
		m.LeftOut = fact.Of("left-out.only-fills-under-pressure", e.cities[0])
	}
	return e.fillAt(m, feeding, state.TankFull)
}

// fromPort begins a mode in which pumps draw from containers to get to some
// nodes.
func (e *equipment) fromPort(id string, fluid state.Fluid, group Group, targets []plumbing.NodeID) Mode {
	m := Mode{ID: id, Fluid: fluid, Group: group, Start: state.State{Pumps: state.AllPumps(e.net)}, Fixed: e.shut}
	switch {
	case len(e.pumps) == 0:
		m.LeftOut = fact.Of("left-out.no-pump-to-draw", fluid)
		return m
	case len(e.pickups) == 0:
		m.LeftOut = fact.Of("left-out.no-pick-up", fluid)
		return m
	}
	chosen, fixed := e.choose(targets)
	if len(chosen) == 0 {
		p := e.pickups[0]
		chosen, fixed = e.pickups[:1], p.fixed(e.shut)
	}
	m.Source, m.Fixed = chosen[0].part, fixed
	for _, p := range chosen {
		m.From = append(m.From, p.mouth)
		m.does(e.net, joined(p.part, fluid, state.Done))
	}
	m.does(e.net, e.switched(e.pumps, state.On)...)
	e.suctionFrom(&m, e.others(chosen), e.nodes(e.cities, "mouth"), e.nodes(e.barrels, "mouth"))
	return m
}

// sideNodes lists the outlet sides where water is wanted, and the pumps, which
// are to be run through as well.
func (e *equipment) sideNodes() []plumbing.NodeID {
	list := e.nodes(e.pumps, "in")
	for _, s := range e.sides {
		list = append(list, s.node)
	}
	return list
}

// tankNodes lists the ports by which tanks are filled.
func (e *equipment) tankNodes() []plumbing.NodeID {
	var list []plumbing.NodeID
	for _, t := range e.tanks {
		for _, i := range e.partNodes(t) {
			if plumbing.PortKind(e.net.Nodes[i].Port) != "supply" {
				list = append(list, i)
			}
		}
	}
	return list
}

// tankFrom fills or doses the tank from a container.
func (e *equipment) tankFrom(id string, fluid state.Fluid, group Group) Mode {
	m := e.fromPort(id, fluid, group, e.tankNodes())
	if m.LeftOut.ID == "" && e.intoTank(&m) {
		e.suctionFrom(&m, e.nodes(e.tanks, "supply"))
	}
	return m
}

func (e *equipment) fillFromContainer() Mode {
	return e.tankFrom(FillContainer, "water", Fill)
}
