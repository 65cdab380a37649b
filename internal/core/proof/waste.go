package proof

import (
	"cmp"
	"slices"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
)

// unrinsed finds black tanks that get something without having been emptied and rinsed.
func (m *moment) unrinsed(is func(run.Sum) bool) (list []found) {
	was := m.before.Account().Out
	for sink, now := range m.after.Account().Out {
		w := m.net.Model.Part(sink.Tank)
		d := now.Less(was[sink])
		if w != nil && w.Data.Type == "black" && d.Liquid > drop && !m.after.Rinsed(w) && is(d) {
			list = append(list, about(w))
		}
	}
	return list
}

// ammoniaMetChlorine finds black tanks in which ammonia still stands when chlorine gets there.
func ammoniaMetChlorine(m *moment) []found {
	return m.unrinsed(func(d run.Sum) bool { return d.Chlorine/float64(d.Liquid) > someChlorine })
}

// wasteUnrinsed finds black tanks that get vinegar as they are.
func wasteUnrinsed(m *moment) []found {
	return m.unrinsed(func(d run.Sum) bool { return float64(d.Acid/d.Liquid) > someAcid })
}

// wasteOver finds waste tanks that get more than they hold.
func wasteOver(m *moment) (list []found) {
	for _, t := range m.net.PartsOf(plumbing.RoleWaste) {
		if v, holds := m.after.Waste(t).Stands.Litre, WasteHolds(m.net, t); holds > 0 && v > holds {
			list = append(list, about(t, v, holds))
		}
	}
	return list
}

// WasteHolds is what a waste tank holds, 0 where that is not given.
func WasteHolds(n *plumbing.Network, t *plumbing.Part) quantity.Litre {
	return plumbing.Field(n, &t.Data.Capacity).Value()
}

// wasteUnnamed finds outlets inside that something runs out of, and nobody says where to.
func wasteUnnamed(m *moment) (list []found) {
	was := m.before.Account().Out
	for sink, now := range m.after.Account().Out {
		p := m.net.Model.Part(sink.Part)
		if p == nil || sink.Tank != "" || sink.To != plumbing.ToUnknown || m.after.Caught(p) {
			continue
		}
		if p.Role() != plumbing.RoleOutlet { // what a machine makes may be carried away
			continue
		}
		if d := now.Less(was[sink]).Liquid; d > drop {
			list = append(list, about(p, d))
		}
	}
	slices.SortFunc(list, func(a, b found) int { return cmp.Compare(a.part, b.part) })
	return list
}

// cycleLonger finds machines whose cycle draws more antifreeze than stands in the jugs together: they would draw air.
func cycleLonger(m *moment) (list []found) {
	jug := m.proc.Limit.Jug * quantity.Litre(max(1, m.step.Pool))
	for _, a := range m.step.Acts {
		cycle := plumbing.Field(m.net, &a.Part.Data.Cycle).Value()
		if a.Verb != state.Open || a.Part.Role() != plumbing.RoleMachine || jug == 0 || cycle <= jug {
			continue
		}
		for at, v := range m.out.Drew {
			c, ok := m.before.State.Joined[at]
			if !ok { // it was joined in this step
				c = m.after.State.Joined[at]
			}
			if v > 0 && c.Kind == state.Container && c.Volume == 0 && c.Fluid == state.Antifreeze {
				list = append(list, about(a.Part, cycle, jug))
				break
			}
		}
	}
	return list
}

// pumpDuty finds pumps that run for longer at a stretch than they may.
func pumpDuty(m *moment) (list []found) {
	most := m.proc.Limit.Duty.On
	for _, p := range m.net.Pumps {
		if t := m.out.Stretch[p.ID]; most > 0 && t > most+1 {
			list = append(list, about(p, t, most))
		}
	}
	return list
}
