package drill

import (
	"maps"
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/record"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// drop is how much more may stay after draining than in the setting found.
const drop quantity.Litre = 0.02

// valves asks for the setting of each mode from how each other one leaves the
// unit, and where those are few with single handles turned.
func (k *maker) valves() error {
	n := k.Net
	var from []setting.Answer
	for _, a := range k.Plan {
		if a.OK && !a.Mode.Measure {
			from = append(from, a)
		}
	}
	var list []func()
	for i := range from {
		to := &from[i]
		for j := range from {
			if i == j {
				continue
			}
			start, was := from[j].State.Handles, from[j].Mode
			list = append(list, func() { k.valvesFrom(to, was.ID, fact.Of("drill.stands-as", was.Name), start) })
		}
		for h, handle := range n.AllHandles() {
			for pos, name := range handle.All() {
				if pos == to.State.Position(h) {
					continue
				}
				start := to.State.With(h, pos).Handles
				list = append(list, func() {
					k.valvesFrom(to, handle.Part.ID+"="+name, fact.Of("drill.stands-but", to.Mode.Name,
						plumbing.Standing{Part: handle.Part, Position: name}, handle.Part), start)
				})
			}
		}
	}
	for _, one := range some("valves "+n.Model.ID, list, Most+Most/2) {
		if k.ctx.Err() != nil || k.set.Count(Valves) >= Most {
			break
		}
		one()
	}
	return nil
}

// valvesFrom asks for a mode's setting on a unit whose handles stand so.
func (k *maker) valvesFrom(to *setting.Answer, from string, told fact.Fact, start []plumbing.Positions) {
	n := k.Net
	x := Exercise{Key: to.Mode.ID + "/" + from, Ask: fact.Of("drill.ask.valves", to.Mode.Name), Told: []fact.Fact{told}}
	x.Mode, x.Start, x.Found, x.Reasons = to.Mode.ID, map[string]string{}, map[string]string{}, map[string]Reason{}
	turns := 0
	for i, h := range n.AllHandles() {
		at := start[i].First()
		x.Start[h.Part.ID], x.Found[h.Part.ID] = h.Positions[at], h.Positions[to.State.Position(i)]
		if at != to.State.Position(i) {
			turns++
			x.About = append(x.About, h.Part.ID)
		}
	}
	for i, p := range n.Pumps {
		if to.State.Pumps.Has(plumbing.PumpID(i)) {
			x.Pumps = append(x.Pumps, p.ID)
		}
	}
	if to.Mode.Drains {
		x.Stays = float64(flow.Drain(n, to.State).Total())
	}
	x.Hints = []fact.Fact{fact.Of("drill.hint.turns", turns)}
	if turns > 0 {
		x.Hints = append(x.Hints, fact.Of("drill.hint.look-at", n.Model.Part(x.About[0])))
	}
	x.Inputs = []record.Input{{Kind: record.Plumbing}, ofSetting(to.Mode.ID)}
	if to.Mode.Drains {
		x.Inputs = append(x.Inputs, record.Input{Kind: record.Field, Field: "units"})
		for i := range n.Model.Lines {
			x.Inputs = append(x.Inputs, record.Input{Kind: record.Field, Of: n.Model.Lines[i].ID, Field: "length"})
		}
	}
	x.Kind = Valves
	as := Answer{Handles: x.Start, Pumps: x.Pumps}
	switch stands, _, err := x.MarkValves(n, k.Plan, as); {
	case err != nil || stands.Right:
		k.refuse(SameAlready)
		return
	}
	as.Handles = x.Found
	if found, _, err := x.MarkValves(n, k.Plan, as); err != nil || !found.Right {
		k.refuse(Unproven)
		return
	}
	x.Hard = 1 + turns/2
	if to.Mode.Drains {
		x.Hard++
	}
	k.add(x)
}

// MarkValves marks a setting on the network of the build, and says why.
func (s *Solution) MarkValves(n *plumbing.Network, plan []setting.Answer, a Answer) (m Marked, why Reason, err error) {
	of := setting.ForMode(plan, s.Mode)
	if of == nil || !of.Has() {
		return m, why, &AnswerError{"The model has this way of use no more."}
	}
	handles := slices.Clone(of.State.Handles)
	for i, h := range n.AllHandles() {
		to, given := a.Handles[h.Part.ID]
		if !given {
			to = s.Start[h.Part.ID]
		}
		pos := h.Index(to)
		if pos == plumbing.None {
			return m, why, &AnswerError{"There is no position “" + to + "” of " + h.Part.Name + "."}
		}
		handles[i] = pos.Only()
	}
	for _, id := range slices.Sorted(maps.Keys(a.Handles)) {
		if n.HandleOf(id) == plumbing.None {
			return m, why, &AnswerError{"There is no handle “" + id + "”."}
		}
	}
	now := of.Mode.State(handles)
	broken := setting.Judge(n, &of.Mode, now)
	why.Said = setting.Breaches(&of.Mode, broken)
	for _, b := range broken {
		if b.Clause.Target != nil {
			why.Parts = append(why.Parts, b.Clause.Target.ID)
		}
		for _, l := range b.Path {
			if line := n.Links[l].Line; line != nil {
				why.Parts = append(why.Parts, line.ID)
			}
		}
	}
	if of.Mode.Drains && len(broken) == 0 {
		if more := flow.Drain(n, now).Total() - quantity.Litre(s.Stays); more > drop {
			why.Said = append(why.Said, fact.Of("drill.stays-more", more))
			why.Parts = append(why.Parts, staysAt(n, of.State, now)...)
		}
	}
	why.Said = append(why.Said, s.switched(n, a.Pumps)...)
	m.Right = len(why.Said) == 0
	if m.Danger = setting.Dangerous(&of.Mode, broken); m.Danger {
		why.Danger = true
	}
	if m.Outcome = RightOutcome; !m.Right {
		m.Outcome = "wrong"
		why.Said = append(why.Said, s.toTurn(n, of, handles)...)
	}
	s.Points(&m, a.Hints)
	return m, why, nil
}

// staysAt lists the parts and lines in which more stays than in another setting.
func staysAt(n *plumbing.Network, than, now state.State) (list []string) {
	least, most := flow.Drain(n, than), flow.Drain(n, now)
	for i := range most.Pieces {
		p := &most.Pieces[i]
		if id := p.ID(n); p.Stays() > least.Pieces[i].Stays()+drop/4 && !slices.Contains(list, id) {
			list = append(list, id)
		}
	}
	return list
}

// switched tells of pumps that are on and should not be, or the other way.
func (s *Solution) switched(n *plumbing.Network, on []string) (said []fact.Fact) {
	for _, p := range n.Pumps {
		switch is, should := slices.Contains(on, p.ID), slices.Contains(s.Pumps, p.ID); {
		case is && !should:
			said = append(said, fact.Of("drill.pump-off", p))
		case should && !is:
			said = append(said, fact.Of("drill.pump-on", p))
		}
	}
	return said
}

// toTurn tells the handles that stand otherwise than in the setting found and
// matter: those that may stand either way are left out.
func (s *Solution) toTurn(n *plumbing.Network, of *setting.Answer, handles []plumbing.Positions) (said []fact.Fact) {
	for i, h := range n.AllHandles() {
		pos := of.State.Position(i)
		if handles[i].First() != pos && !slices.Contains(of.Either, i) {
			said = append(said, fact.Of("drill.turn", h.Part,
				plumbing.Standing{Part: h.Part, Position: h.Positions[pos]}))
		}
	}
	return said
}
