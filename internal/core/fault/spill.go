package fault

import (
	"cmp"
	"slices"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// into is the flow into a part in the still scene, in litres a minute.
func (x *wrong) into(p *plumbing.Part) quantity.LitrePerMinute {
	still := x.still()
	if still == nil {
		return 0
	}
	sum := 0.0
	for i, l := range x.net.AllLinks() {
		q := float64(still.Flow[i])
		if l.Line == nil {
			continue
		}
		if x.net.Nodes[l.B].Part == p && q > 0 {
			sum += q
		} else if x.net.Nodes[l.A].Part == p && q < 0 {
			sum -= q
		}
	}
	return quantity.LitrePerMinute(sum)
}

// least is the flow below which nothing is seen to run, in litres a minute.
const least = 0.02

// tankGets tells of water that runs into a tank that is not to be filled.
func (x *wrong) tankGets(list []setting.Breach) {
	for _, b := range list {
		t := b.Clause.Target
		e := Effect{What: PumpedBack, Part: t, Flow: x.into(t)}
		if e.Flow <= least {
			e.Flow = 0
		}
		e.NeverStops = x.pumping() && e.Flow > 0
		switch {
		case x.a.Mode.ID == setting.Storage:
			e = Effect{What: StandingIntoTank, Severity: Damage, Part: t}
		case x.fluid() == state.Antifreeze:
			e.What, e.Severity = TankInstead, Damage
		case x.pumping():
		case x.fluid() == state.Air:
			e = Effect{What: AirIntoTank, Part: t}
		default:
			e.What, e.Severity = TankFills, Waste
			if e.Flow > 0 {
				e.Overflows = quantity.Second(float64(t.Data.Capacity.Value()) / 2 / float64(e.Flow) * 60)
			}
		}
		x.say(e)
	}
}

func (x *wrong) tankMisses(list []setting.Breach) {
	for _, b := range list {
		e := Effect{What: NothingIntoTank, Part: b.Clause.Target}
		x.dry(&e)
		x.say(e)
	}
}

// spills tells where something runs out, and how fast.
func (x *wrong) spills(list []setting.Breach) {
	seen := map[*plumbing.Part]bool{}
	for _, b := range list {
		p := b.Clause.Target
		if seen[p] {
			continue
		}
		seen[p] = true
		e := Effect{What: CanRunOut, Severity: Waste, Part: p}
		if from := x.net.Nodes[b.Clause.From[0]].Part; from.Role() == plumbing.RoleTank {
			e.From = from
		}
		if still := x.still(); still != nil {
			for node, out := range still.Out {
				if x.net.Nodes[node].Part == p && out > e.Flow {
					e.Flow = out
				}
			}
		}
		own := e.From == nil
		if own && x.fluid() == state.Antifreeze {
			e.Severity = Damage
		}
		if x.a.Mode.ID != setting.HeaterAlone {
			e.Loses = x.heaterBehind(p)
		}
		switch {
		case p.Role() == plumbing.RoleStrainer && x.pumping():
			e = Effect{What: DrawsAir, Part: p}
		case own && x.fluid() == state.Air:
			e = Effect{What: AirEscapes, Part: p}
		case x.a.Mode.ID == setting.Storage:
			e = Effect{What: StandingRunsOut, Severity: Damage, Part: p, Loses: e.Loses}
		case e.Flow > least:
			e.What, e.NeverStops = RunsOut, x.pumping()
		case own && x.fluid() == state.Water:
			e.What, e.Severity = LittleRunsOut, Nuisance
		}
		if e.What != RunsOut {
			e.Flow = 0
		}
		x.say(e)
	}
}

// heaterBehind is the heater that an open drain or frost valve empties.
func (x *wrong) heaterBehind(p *plumbing.Part) *plumbing.Part {
	for _, h := range x.net.PartsOf(plumbing.RoleHeater) {
		drain := x.net.Node(h.ID + ".drain")
		for _, li := range x.net.Nodes[drain].Links {
			if h.Data.Type != "portable" && x.net.Nodes[x.net.Links[li].Other(drain)].Part == p {
				return h
			}
		}
	}
	return nil
}

// tanks tells of tanks that are joined where they should not be, or not joined
// where they should, each pair once.
func (x *wrong) tanks(parted, joined []setting.Breach) {
	say := func(w What, list []setting.Breach) {
		seen := map[[2]*plumbing.Part]bool{}
		for _, b := range list {
			from, to := x.net.Nodes[b.Clause.From[0]].Part, b.Clause.Target
			if !seen[[2]*plumbing.Part{to, from}] {
				seen[[2]*plumbing.Part{from, to}] = true
				x.say(Effect{What: w, Part: to, From: from})
			}
		}
	}
	say(TanksParted, parted)
	say(TanksLevel, joined)
}

// drawsElse tells what else the pump draws.
func (x *wrong) drawsElse(list []setting.Breach) {
	for _, b := range list {
		p := b.Clause.Target
		switch p.Role() {
		case plumbing.RoleTank:
			x.say(x.drawsTank(p))
		case plumbing.RoleInlet: // told as what runs out there
		default:
			x.say(Effect{What: DrawsAirIfOpen, Part: p})
		}
	}
}

// drawsTank tells how much of what the pump draws comes from a tank.
func (x *wrong) drawsTank(p *plumbing.Part) Effect {
	e := Effect{What: DrawsAlso, Part: p}
	if x.fluid() == state.Antifreeze {
		e.Severity = Damage
	}
	running := x.running()
	if running == nil {
		return e
	}
	own, total := 0.0, 0.0
	for i, l := range x.net.AllLinks() {
		if l.Pump != plumbing.None {
			total += float64(running.Flow[i])
		}
		if l.Line != nil && (x.net.Nodes[l.A].Part == p || x.net.Nodes[l.B].Part == p) &&
			l.Line.Side == plumbing.Supply {
			own += abs(float64(running.Flow[i]))
		}
	}
	switch {
	case total > 0 && own > 0.99*total:
		e.What, e.Severity = DrawsInstead, Damage
	case total > 0:
		e.Share = min(1, own/total)
	}
	return e
}

// weaker tells of an outlet that still gets water, but much less of it.
func (x *wrong) weaker() {
	if x.flow == nil || x.open < 0 {
		return
	}
	now := x.run(x.net, x.set, x.open, nil)
	if now == nil {
		return
	}
	before, after := x.flow.Out[x.open], now.Out[x.open]
	if after < before*0.75 {
		x.say(Effect{What: Weaker, Part: x.net.Nodes[x.open].Part, Sides: Sides{Nodes: []plumbing.NodeID{x.open}},
			Flow: after, Before: before})
	}
}

// drained tells what more stays when something is wrong while draining.
func (x *wrong) drained() {
	const worth = 0.02 // L: a splash more is not worth telling
	was := x.left
	now := flow.Drain(x.net, x.set)
	more := now.Total() - was.Total()
	if more < worth {
		return
	}
	var list []Place
	seen := map[string]bool{}
	for _, p := range now.Pieces {
		id := p.ID(x.net)
		if seen[id] {
			continue
		}
		seen[id] = true
		if d := now.Stays(x.net, id) - was.Stays(x.net, id); d > worth/2 {
			list = append(list, Place{ID: id, Link: p.Link, Part: p.Part, More: d})
		}
	}
	slices.SortStableFunc(list, func(a, b Place) int { return cmp.Compare(b.More, a.More) })
	x.say(Effect{What: MoreStays, Severity: Damage, Volume: more, Places: list})
}
