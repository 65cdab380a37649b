package setting

import (
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// Subject is what a clause is about: "Kitchen tap, hot".
func (c *Clause) Subject() any {
	if c.Side == "" {
		return c.Target
	}
	return fact.Of("subject.side", c.Target, plumbing.Side(c.Side))
}

// Said is what the clause asks.
func (c *Clause) Said(fluid state.Fluid) fact.Fact {
	return fact.Of("clause."+c.Aim.String(), c.Subject(), fluid)
}

// broken is what a person would notice when a clause is broken.
func broken(n *plumbing.Network, m *Mode, c *Clause) fact.Fact {
	from := n.Nodes[c.From[0]].Part
	id := "breach." + c.Aim.String()
	switch tank := plumbing.RoleTank; {
	case c.Aim == NoSpill && from.Role() == tank:
		id += ".tank"
	case c.Aim == OneSource && c.Target.Role() == tank && m.Fluid == state.Water:
		id += ".tank"
	case c.Aim == OneSource && c.Target.Role() == tank:
		id += ".thins"
	}
	return fact.Of(id, c.Subject(), m.Fluid, from)
}

// explain says why no setting meets a mode's goal, from the smallest set of
// clauses that can't be met together. Where a must and a must-not collide in
// one part that every way runs through, it names the part.
func explain(n *plumbing.Network, m *Mode, core []Clause) fact.Fact {
	if core == nil {
		return fact.Fact{}
	}
	var must, not []Clause
	for _, c := range core {
		if c.Must {
			must = append(must, c)
		} else {
			not = append(not, c)
		}
	}
	every := undecided(n, m.Fixed, m.Start.Pumps)
	if len(must) == 0 {
		// A must-not that fails alone: where it is the heater, a hot side that is
		// fed only through it tells why no valve could help.
		must = servedHot(m)
	}
	for _, c := range must {
		from := n.Nodes[c.From[0]].Part
		if len(not) == 0 && len(must) == 1 {
			return fact.Of("setting.no-way", from, c.Subject())
		}
		for _, x := range not {
			if x.Target == c.Target {
				continue
			}
			r := flow.Reach(n, every, flow.Query{From: c.From, Without: append([]*plumbing.Part{x.Target},
				c.Without...)})
			if hitNode(r, c.To) >= 0 {
				continue
			}
			if x.Target.Role() == plumbing.RoleHeater {
				return fact.Of("setting.through.heater", from, c.Subject(), x.Target)
			}
			return fact.Of("setting.through", from, c.Subject(), x.Target)
		}
	}
	for _, x := range not {
		q := x.Query()
		q.View = state.Must
		r := flow.Reach(n, every, q)
		if hitNode(r, x.To) >= 0 {
			return fact.Of("setting.open-way", n.Nodes[x.From[0]].Part, x.Target)
		}
	}
	var all []fact.Fact
	for i := range core {
		all = append(all, core[i].Said(m.Fluid))
	}
	return fact.Of("setting.clash", all)
}

// Said is what a turn of a sequence does: what it serves, or lets out.
func (t *Turn) Said(n *plumbing.Network, m *Mode) fact.Fact {
	switch {
	case m.Drains && t.Out == 0:
		return fact.Of("turn.drains.most")
	case m.Drains:
		return fact.Of("turn.drains", t.Out)
	}
	var list []any
	for i := range t.Meets {
		list = append(list, t.Meets[i].Subject())
	}
	for i, p := range n.Pumps { // a later pump sends it through itself, to what has it already
		if t.Meets == nil && t.State.Pumps.Has(plumbing.PumpID(i)) {
			list = append(list, fact.Of("turn.pump", p))
		}
	}
	return fact.Of("turn.gets-to", m.Fluid, list)
}

// servedHot lists the clauses that ask for something at a hot side.
func servedHot(m *Mode) []Clause {
	var list []Clause
	for _, c := range m.Clauses {
		if c.Aim == Served && c.Side == "hot" {
			list = append(list, c)
		}
	}
	return list
}

// Breaches are what breaches come to, in order, those that say the same of
// several outlet sides in one.
func Breaches(m *Mode, list []Breach) []fact.Fact {
	var facts []fact.Fact
	done := map[Aim]bool{}
	for _, b := range list {
		aim := b.Clause.Aim
		if aim != Served && aim != OnlyByHeater {
			facts = append(facts, b.Said)
			continue
		}
		if done[aim] {
			continue
		}
		done[aim] = true
		var who []fact.Fact
		for _, x := range list {
			if x.Clause.Aim == aim {
				who = append(who, fact.Of("subject.bare", x.Clause.Target, plumbing.Side(x.Clause.Side)))
			}
		}
		if aim == Served {
			facts = append(facts, fact.Of("breach.served.all", who, m.Fluid))
		} else {
			facts = append(facts, fact.Of("breach.only-by-heater.all", len(who), who))
		}
	}
	return facts
}

// Wrong is what is wrong in the best setting there is, in places and litres;
// nothing for a setting that meets its goal.
func (a *Answer) Wrong(n *plumbing.Network) []fact.Fact {
	if a.OK || !a.Has() {
		return nil
	}
	facts := Breaches(&a.Mode, a.Broken)
	for _, b := range a.Broken {
		switch t := b.Clause.Target; b.Clause.Aim {
		case HeaterOut:
			facts = append(facts, fact.Of("wrong.heater-takes", t, t.Holds()))
		case TankOut:
			facts = append(facts, fact.Of("wrong.tank-takes", t, t.Holds()))
		}
	}
	if stays := a.untouched(n); stays > 0 {
		facts = append(facts, fact.Of("wrong.not-reached", stays, a.Mode.Fluid))
	}
	return facts
}

// untouched is the content of the lines to sides that a mode should serve and
// does not: what its source could reach with every handle open, and does not as
// they stand.
func (a *Answer) untouched(n *plumbing.Network) (v quantity.Litre) {
	if !slices.ContainsFunc(a.Broken, func(b Breach) bool { return b.Clause.Aim == Served }) {
		return 0
	}
	s := a.State
	now := flow.Reach(n, s, flow.Query{From: a.Mode.From})
	var to []plumbing.NodeID
	for _, b := range a.Broken {
		if b.Clause.Aim == Served {
			to = append(to, b.Clause.To...)
		}
	}
	leads := walkBack(n, undecided(n, a.Mode.Fixed, state.AllPumps(n)), to)
	for _, l := range n.AllLinks() {
		if l.Line != nil && l.Line.Side != plumbing.Air && !now.Node(l.A) && !now.Node(l.B) && leads[l.A] &&
			leads[l.B] {
			v += n.Content(l)
		}
	}
	return v
}

func walkBack(n *plumbing.Network, s state.State, to []plumbing.NodeID) []bool {
	w := newWalker(n)
	return w.spread(n, s, flow.Query{}, to, false, nil)
}

// handWhy says that a setting which does not meet the goal was chosen by hand.
func handWhy(k *plumbing.Kept) fact.Fact { return fact.Of("setting.by-hand", k.By, k.Reason) }
