package scene

import (
	"cmp"
	"slices"
	"strings"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// Going is one thing that goes on at a part.
type Going struct {
	Part *plumbing.Part
	What fact.Fact
	Flow quantity.LitrePerMinute // 0 where that is not told
}

// seen is the least flow that is told, in litres a minute.
const seen quantity.LitrePerMinute = 0.02

// Goings tell what flows: pumps, outlets, ports, tanks, heaters, drains.
func Goings(sc *Scene, p *Observation) []Going {
	if p.Flow == nil {
		return nil
	}
	n := sc.Net
	var list []Going
	say := func(part *plumbing.Part, q quantity.LitrePerMinute, what string, port ...any) {
		list = append(list, Going{part, fact.Of("going."+what, port...), q})
	}
	for _, pump := range n.PartsOf(plumbing.RolePump) {
		list = append(list, Going{Part: pump, What: fact.Of("going.pump." + p.Flow.Pumps[pump.ID].String())})
	}
	var nodes []plumbing.NodeID
	for node := range p.Flow.Out {
		nodes = append(nodes, node)
	}
	slices.Sort(nodes)
	for _, node := range nodes {
		q, nd := p.Flow.Out[node], n.Nodes[node]
		switch {
		case q < seen:
		case nd.Part.Kind.Info().Target:
			say(nd.Part, q, "side-runs", plumbing.Side(nd.Port))
		case nd.Part.Role() == plumbing.RoleInlet || nd.Part.Role() == plumbing.RoleFill:
			say(nd.Part, q, "gives")
		case nd.Part.Role() == plumbing.RoleTank:
			say(nd.Part, q, "gets-by", nd.Port)
		default:
			say(nd.Part, q, "runs-out")
		}
	}
	for _, t := range n.PartsOf(plumbing.RoleTank) {
		in, out := through(n, p.Flow, t)
		if in-out > seen && !gets(p.Flow, n, t) {
			say(t, in-out, "fills")
		} else if out-in > seen {
			say(t, out-in, "gives")
		}
	}
	for _, h := range n.PartsOf(plumbing.RoleHeater) {
		if in, _ := through(n, p.Flow, h); in > seen {
			say(h, in, "through")
		}
	}
	return list
}

// gets reports whether a tank's inflow is already told at a port of it.
func gets(s *flow.Steady, n *plumbing.Network, t *plumbing.Part) bool {
	for node, q := range s.Out {
		if n.Nodes[node].Part == t && q >= seen {
			return true
		}
	}
	return false
}

// through is what lines bring to a part and take from it.
func through(n *plumbing.Network, s *flow.Steady, p *plumbing.Part) (in, out quantity.LitrePerMinute) {
	for i, l := range n.AllLinks() {
		if l.Line == nil {
			continue
		}
		q := s.Flow[i]
		if n.Nodes[l.A].Part == p {
			q = -q
		} else if n.Nodes[l.B].Part != p {
			continue
		}
		if q > 0 {
			in += q
		} else {
			out -= q
		}
	}
	return in, out
}

// Stay is what stays in a line or part.
type Stay struct {
	ID    string
	Where any // a part, or between which parts a line runs
	Stays quantity.Litre
	Share float64
	Why   flow.Reason
}

// Stays lists what stays, the most first, pieces of a line together; what is
// less than a splash is left out.
func Stays(n *plumbing.Network, p *Observation) []Stay {
	const splash = 0.002 // L
	if p.Left == nil {
		return nil
	}
	index := map[string]int{}
	var list []Stay
	holds := map[string]quantity.Litre{}
	for i, piece := range p.Left.Pieces {
		id := piece.ID(n)
		holds[id] += piece.Holds()
		if piece.Stays() <= 0 {
			continue
		}
		k, ok := index[id]
		if !ok {
			k = len(list)
			index[id] = k
			s := Stay{ID: id, Where: where(n, piece)}
			if p.Why != nil {
				s.Why = p.Why[i]
			}
			list = append(list, s)
		}
		list[k].Stays += piece.Stays()
	}
	for i := range list {
		list[i].Share = float64(list[i].Stays / holds[list[i].ID])
	}
	list = slices.DeleteFunc(list, func(s Stay) bool { return s.Stays < splash })
	slices.SortStableFunc(list, func(a, b Stay) int {
		switch {
		case a.Stays > b.Stays:
			return -1
		case a.Stays < b.Stays:
			return 1
		}
		return strings.Compare(a.ID, b.ID)
	})
	return list
}

func where(n *plumbing.Network, piece flow.Left) any {
	if piece.Part != nil {
		return piece.Part
	}
	l := &n.Links[piece.Link]
	return fact.Of("line.between", n.Nodes[l.A].Part, n.Nodes[l.B].Part)
}

// Help is a handle that, turned, lets more water out.
type Help struct {
	Part     *plumbing.Part
	Position string
	Less     quantity.Litre
}

// Helps lists single handles that would leave noticeably less water when
// turned, the most helpful first.
func Helps(sc *Scene, p *Observation) []Help {
	const worth = 0.005 // L
	if !sc.Mode.Drains || p.Left == nil {
		return nil
	}
	var list []Help
	for i, h := range sc.Net.AllHandles() {
		best := Help{}
		for pos, name := range h.All() {
			less := p.Left.Total() - flow.Drain(sc.Net, sc.With(i, pos)).Total()
			if less > worth && less > best.Less {
				best = Help{h.Part, name, less}
			}
		}
		if best.Part != nil {
			list = append(list, best)
		}
	}
	slices.SortStableFunc(list, func(a, b Help) int {
		if a.Less > b.Less {
			return -1
		}
		return 1
	})
	return list
}

// Stand is how much stays when the camper stands in an attitude, or with the
// end of a hose somewhere else.
type Stand struct {
	Attitude state.Attitude
	End      *plumbing.HoseEnd // nil for an attitude
	Total    quantity.Litre
	Changes  []Stay // what keeps noticeably more or less than standing level, most changed first
	Least    bool   // no other attitude keeps less
}

// Stands works out what stays in each attitude, level first, and then with the
// end of each hose where it may be; nil for a mode that does not drain.
func Stands(sc *Scene, p *Observation) []Stand {
	const worth = 0.01 // L
	if !sc.Mode.Drains || p.Left == nil {
		return nil
	}
	level := map[string]quantity.Litre{}
	for _, x := range p.Left.Pieces {
		level[x.ID(sc.Net)] += x.Stays()
	}
	against := func(s Stand, left *flow.Drained) Stand {
		s.Total = left.Total()
		now := map[string]quantity.Litre{}
		places := map[string]any{}
		for _, x := range left.Pieces {
			id := x.ID(sc.Net)
			now[id] += x.Stays()
			places[id] = where(sc.Net, x)
		}
		for id, v := range now {
			if d := v - level[id]; d > worth || d < -worth {
				s.Changes = append(s.Changes, Stay{ID: id, Where: places[id], Stays: d})
			}
		}
		slices.SortFunc(s.Changes, func(a, b Stay) int {
			if c := cmp.Compare(abs(b.Stays), abs(a.Stays)); c != 0 {
				return c
			}
			return cmp.Compare(a.ID, b.ID)
		})
		return s
	}
	var list []Stand
	least := 0
	for i, a := range state.Attitudes() {
		as := sc.State
		as.Attitude = a
		list = append(list, against(Stand{Attitude: a}, flow.Drain(sc.Net, as)))
		if list[i].Total < list[least].Total-worth {
			least = i
		}
	}
	list[least].Least = true
	for _, e := range sc.Net.HoseEnds() {
		n, err := sc.Net.WithEnd(e)
		if err != nil {
			continue // a network that was made is made again
		}
		list = append(list, against(Stand{End: &e}, flow.Drain(n, sc.State)))
	}
	return list
}

// Said is how the camper stands, or where the hose's end is.
func (s *Stand) Said() fact.Fact {
	switch {
	case s.End == nil:
		return fact.Of("stand.attitude", s.Attitude)
	case s.End.Low:
		return fact.Of("stand.end-low", s.End.Part, s.End.Height)
	}
	return fact.Of("stand.end-up", s.End.Part, s.End.Height)
}

func abs(v quantity.Litre) quantity.Litre { return max(v, -v) }
