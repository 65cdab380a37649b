package setting

import (
	"slices"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// keep puts the setting that a hand chose for the mode in place of the one that was
// found, judged by the same clauses. One that would be a danger is not used.
func (a *Answer) keep(n *plumbing.Network) {
	i := slices.IndexFunc(n.Model.Kept, func(k plumbing.Kept) bool { return k.Mode == a.Mode.ID })
	if i < 0 || !a.Mode.LeftOut.IsZero() {
		return
	}
	k := &n.Model.Kept[i]
	s := a.byHand(n, k)
	broken := Judge(n, &a.Mode, s)
	if Dangerous(&a.Mode, broken) {
		a.Refused = k
		return
	}
	a.Found, a.State, a.Kept, a.Broken = a.State, s, k, broken
	a.OK, a.Either, a.Turns, a.Keeps = len(broken) == 0, nil, nil, nil
	if a.Mode.Drains {
		a.Keeps = KeptFull(n, flow.Drain(n, s))
		a.OK = a.OK && len(a.Keeps) == 0
	}
	if !a.OK && a.Why.IsZero() {
		a.Why = handWhy(k)
	}
}

// byHand is the mode's state with the handles as a hand chose them; those it does not
// name stand as they were found.
func (a *Answer) byHand(n *plumbing.Network, k *plumbing.Kept) state.State {
	s := a.State
	if !a.Has() {
		s = a.Mode.State(state.Normal(n).Handles)
	}
	for h, hd := range n.AllHandles() {
		if _, fixed := a.Mode.Fixed[h]; fixed {
			continue
		}
		if at := slices.Index(hd.Positions, k.Handles[hd.Part.ID]); at >= 0 {
			s = s.With(h, hd.Index(hd.Positions[at]))
		}
	}
	return s
}

// Dangerous reports whether what a setting breaks can hurt somebody: a heater that is
// switched on dry, hot water let out of one that stands open, a strong batch at a tap.
func Dangerous(m *Mode, broken []Breach) bool {
	return slices.ContainsFunc(broken, func(b Breach) bool {
		switch b.Clause.Aim {
		case HeaterIn, KeptOff:
			return true
		case HeaterOut:
			return m.ID == HeaterAlone
		}
		return false
	})
}

// Hand is the setting in which a state's handles stand, to be kept for a mode.
func Hand(n *plumbing.Network, m *Mode, s state.State, reason, by string) plumbing.Kept {
	k := plumbing.Kept{Mode: m.ID, Handles: map[string]string{}, Reason: reason, By: by}
	for h, hd := range n.AllHandles() {
		if _, fixed := m.Fixed[h]; !fixed {
			k.Handles[hd.Part.ID] = hd.Positions[s.Position(h)]
		}
	}
	return k
}
