package proof

import (
	"maps"
	"slices"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
)

// notOn finds switches that should be on in the end and are not.
func notOn(m *moment) (list []found) {
	if m.proc.Goal.State == nil {
		return nil
	}
	for i, h := range m.net.Heat {
		if id := plumbing.HeatID(i); m.proc.Goal.State.Heat.Has(id) && !m.after.State.Heat.Has(id) {
			list = append(list, about(h.Part))
		}
	}
	for i, p := range m.net.Pumps {
		if m.proc.Goal.State.Pumps.Has(plumbing.PumpID(i)) && !m.after.State.Pumps.Has(plumbing.PumpID(i)) {
			list = append(list, about(p))
		}
	}
	return list
}

// notJoined finds ports where something should be joined in the end and nothing is.
func notJoined(m *moment) (list []found) {
	if m.proc.Goal.State == nil {
		return nil
	}
	for _, at := range slices.Sorted(maps.Keys(m.proc.Goal.State.Joined)) {
		if m.after.State.Joined[at].Kind == state.Capped {
			list = append(list, about(m.net.Nodes[at].Part))
		}
	}
	return list
}

// notFull finds tanks that are not as full as they should be.
func notFull(m *moment) (list []found) {
	level := quantity.Litre(m.proc.Goal.Level)
	if level == 0 {
		level = 1
	}
	for _, t := range m.proc.Goal.Full {
		if v := m.after.Vessel(t); v != nil && v.Liquid.Litre < v.Holds*level*0.95 {
			list = append(list, about(t, v.Liquid.Litre))
		}
	}
	return list
}

// notFresh finds tanks whose water is too weak to keep.
func notFresh(m *moment) (list []found) {
	for _, t := range m.proc.Goal.Full {
		if v := m.after.Vessel(t); v != nil && v.Liquid.Mix.Chlorine < m.proc.Goal.Fresh*0.9 {
			list = append(list, about(t, v.Liquid.Mix.Chlorine))
		}
	}
	return list
}

// notDrinkable finds tanks whose water holds more chlorine than drinking water may.
func notDrinkable(m *moment) (list []found) {
	for _, v := range m.after.Vessels() {
		if most := m.proc.Goal.Drinkable; most > 0 && v.Liquid.Mix.Chlorine > most {
			list = append(list, about(v.Part, v.Liquid.Mix.Chlorine))
		}
	}
	return list
}

// neverWet asks that water without air was seen at each side.
func neverWet(m *moment) (list []found) {
	for _, at := range m.proc.Goal.Wet {
		wet := slices.ContainsFunc(m.proof.Outcomes, func(o *run.Outcome) bool {
			p, ok := o.Arrived[at]
			return ok && p.Gas < 0.1
		})
		if !wet {
			list = append(list, about(m.net.Nodes[at].Part))
		}
	}
	return list
}

// neverEmptied asks that heaters ran out on the way.
func neverEmptied(m *moment) (list []found) {
	for _, h := range m.proc.Goal.Emptied {
		if !slices.ContainsFunc(m.proof.Systems, func(x *run.System) bool { return emptied(m.net, x, h) }) {
			list = append(list, about(h))
		}
	}
	return list
}

// emptied reports whether no more than a quarter of what a heater holds stands in it.
func emptied(n *plumbing.Network, x *run.System, h *plumbing.Part) bool {
	if v := x.Vessel(h); v != nil {
		return v.Liquid.Litre < v.Holds*0.25
	}
	var is, holds quantity.Litre
	for i, p := range x.Pieces() {
		if n.Pieces[i].Part == h {
			is, holds = is+p.Liquid(), holds+p.Litre
		}
	}
	return is <= holds*0.25
}

// waits reports whether somebody waited as long as something is to stand, in a system that is as is asked.
func (m *moment) waits(is func(*run.System) bool) bool {
	for i, o := range m.proof.Outcomes {
		if o.Waited >= m.proc.Goal.SteepFor-1 && is(m.proof.Systems[i+1]) {
			return true
		}
	}
	return false
}

// neverDescaled asks that vinegar stood in heaters as long as it should.
func neverDescaled(m *moment) (list []found) {
	for _, h := range m.proc.Goal.Acid {
		if !m.waits(func(x *run.System) bool {
			v := x.Vessel(h)
			return v.Liquid.Litre > v.Holds*0.9 && v.Liquid.Mix.Acid > someAcid
		}) {
			list = append(list, about(h))
		}
	}
	return list
}

// neverSteeped asks that something came to outlets, as strong as it should, and then stood there.
func neverSteeped(m *moment) (list []found) {
	least := m.proc.Goal.SteepLeast
	came := func(at plumbing.NodeID) bool {
		for _, o := range m.proof.Outcomes {
			p, ok := o.Arrived[at]
			if ok && p.Gas < 0.5 && p.Mix.Acid >= least.Acid*0.99 && p.Mix.Chlorine >= least.Chlorine*0.99 {
				return true
			}
			if o.Waited >= m.proc.Goal.SteepFor-1 {
				break // what comes later stands too short
			}
		}
		return false
	}
	stood := len(m.proc.Goal.Steeped) == 0 || m.waits(func(*run.System) bool { return true })
	for _, at := range m.proc.Goal.Steeped {
		if !stood || !came(at) {
			list = append(list, about(m.net.Nodes[at].Part))
		}
	}
	return list
}

// neverHot asks that some heater heated as long as it should.
func neverHot(m *moment) (list []found) {
	if m.proc.Goal.HotFor == 0 {
		return nil
	}
	for i, o := range m.proof.Outcomes {
		x := m.proof.Systems[i+1]
		if o.Waited < m.proc.Goal.HotFor-1 || len(m.net.Heat) > 0 && x.State.Heat == 0 {
			continue
		}
		if slices.ContainsFunc(m.net.PartsOf(plumbing.RoleHeater), x.Hot) {
			return nil
		}
	}
	for _, h := range m.net.PartsOf(plumbing.RoleHeater) {
		list = append(list, about(h))
	}
	return list
}

// acidLeft finds acid that stays.
func acidLeft(m *moment) (list []found) {
	if !m.proc.Goal.NoAcid {
		return nil
	}
	return m.standing(func(p run.Plug) bool { return p.Liquid() > 1e-3 && p.Mix.Acid > someAcid })
}

// trapPlain finds traps whose seals still freeze.
func trapPlain(m *moment) (list []found) {
	for _, t := range m.proc.Goal.Traps {
		if m.after.Seal(t).Glycol < m.proc.Goal.Freeze {
			list = append(list, about(t))
		}
	}
	return list
}
