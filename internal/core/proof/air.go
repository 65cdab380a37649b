package proof

import (
	"maps"
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
)

// standing finds the pieces in which something stands.
func (m *moment) standing(is func(run.Plug) bool) (list []found) {
	for i, p := range m.pieces() {
		if id := plumbing.PieceID(i); is(p) {
			list = append(list, found{part: pieceID(m.net, id), said: fact.Of("", pieceName(m.net, id), p.Liquid())})
		}
	}
	return list
}

// blowing is the system as it stood while air blew in this step, and the ports where it came in.
func (m *moment) blowing() (x *run.System, from []plumbing.NodeID) {
	x = m.before
	s := x.State
	air := func(a state.Act) bool { return a.Verb == state.Join && a.With.Kind == state.Compressed }
	if !slices.ContainsFunc(m.step.Acts, air) && !slices.ContainsFunc(slices.Collect(maps.Values(s.Joined)),
		func(c state.Connection) bool { return c.Kind == state.Compressed }) {
		return x, nil
	}
	for _, a := range m.step.Acts {
		if after, err := s.Do(m.net, a); err == nil {
			s = after
		}
	}
	for _, at := range slices.Sorted(maps.Keys(s.Joined)) {
		if s.Joined[at].Kind == state.Compressed {
			from = append(from, at)
		}
	}
	x = x.Clone()
	x.State = s
	return x, from
}

// airStrong finds air that is let in at more than the weakest part stands, or at a port without
// a thread to hold its connector.
func airStrong(m *moment) (list []found) {
	x, from := m.blowing()
	for _, at := range from {
		p := m.net.Nodes[at].Part
		c := x.State.Joined[at]
		bare := p.Role() != plumbing.RoleInlet && p.Role() != plumbing.RoleRinse && p.Thread == ""
		if m.proc.Limit.Air > 0 && c.Pressure > m.proc.Limit.Air || bare {
			list = append(list, about(p, c.Pressure))
		}
	}
	return list
}

// airScreened finds aerators and shower heads that air is blown through.
func airScreened(m *moment) (list []found) {
	x, from := m.blowing()
	if from == nil {
		return nil
	}
	r := flow.Reach(m.net, x.State, flow.Query{From: from})
	for i, f := range m.net.Fittings {
		if f.Part.Role() != plumbing.RoleOutlet || x.State.Out[plumbing.FittingID(i)] {
			continue
		}
		for _, side := range m.net.SidesOf(f.Part) {
			if at := m.net.Node(f.Part.ID + "." + side); x.State.Open[at] && r.Node(at) {
				list = append(list, about(f.Part))
				break
			}
		}
	}
	return list
}

// airInTank finds tanks that compressed air gets into.
func airInTank(m *moment) (list []found) {
	x, from := m.blowing()
	if from == nil {
		return nil
	}
	r := flow.Reach(m.net, x.State, flow.Query{From: from})
	for _, t := range m.net.PartsOf(plumbing.RoleTank) {
		if r.Part(t) {
			list = append(list, about(t))
		}
	}
	return list
}

// pumpShut finds pumps that are on for the whole of a step with nothing that they could draw.
func pumpShut(m *moment) (list []found) {
	for _, p := range m.net.Pumps {
		if m.out.Dry[p.ID] > 60 {
			continue // told as dry
		}
		id := m.net.PumpOf(p)
		if id == plumbing.None || !m.after.State.Pumps.Has(id) || m.out.Took < shutFor {
			continue
		}
		s := m.after.State
		s.Pumps = 0
		into := flow.Reach(m.net, s, flow.Query{From: m.net.NodesOf(p, "in"), Back: true})
		fed := false
		for _, t := range m.net.PartsOf(plumbing.RoleTank) {
			fed = fed || into.Part(t)
		}
		for at, c := range s.Joined {
			fed = fed || c.Kind.Gives() && into.Node(at)
		}
		if !fed {
			list = append(list, about(p))
		}
	}
	return list
}

// shutFor is how long a pump may push against a shut suction, in seconds: one that draws nothing
// never stops by itself.
const shutFor = 60
