package scene

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// Fact is one thing that goes on.
type Fact struct {
	Part  *plumbing.Part
	What  string
	Value string // a figure with its unit; "" for none
}

// seen is the least flow that is told, in litres a minute.
const seen quantity.LitrePerMinute = 0.02

// Facts tells what flows: pumps, outlets, ports, tanks, heaters, drains.
func Facts(sc *Scene, p *Observation) []Fact {
	if p.Flow == nil {
		return nil
	}
	n, sys := sc.Net, sc.Net.Model.System()
	var list []Fact
	say := func(part *plumbing.Part, q quantity.LitrePerMinute, what string) {
		list = append(list, Fact{part, what, quantity.About(q, sys)})
	}
	for _, pump := range n.PartsOf(plumbing.RolePump) {
		words := map[flow.PumpState]string{flow.Off: "off", flow.Running: "running", flow.Cycling: "starts and stops: too little is drawn", flow.Silent: "silent: pressure is up"}[p.Flow.Pumps[pump.ID]]
		list = append(list, Fact{Part: pump, What: words})
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
			say(nd.Part, q, nd.Port+" side runs")
		case nd.Part.Role() == plumbing.RoleInlet || nd.Part.Role() == plumbing.RoleFill:
			say(nd.Part, q, "gives")
		case nd.Part.Role() == plumbing.RoleTank:
			say(nd.Part, q, "gets by its "+nd.Port)
		default:
			say(nd.Part, q, "runs out here")
		}
	}
	for _, t := range n.PartsOf(plumbing.RoleTank) {
		in, out := through(n, p.Flow, t)
		if in-out > seen && !gets(p.Flow, n, t) {
			say(t, in-out, "fills at")
		} else if out-in > seen {
			say(t, out-in, "gives")
		}
	}
	for _, h := range n.PartsOf(plumbing.RoleHeater) {
		if in, _ := through(n, p.Flow, h); in > seen {
			say(h, in, "water goes through")
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
	ID, Name string
	Stays    quantity.Litre
	Share    float64
	Why      string
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
			s := Stay{ID: id, Name: nameOf(n, piece)}
			if p.Why != nil {
				s.Why = p.Why[i].String()
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

func nameOf(n *plumbing.Network, piece flow.Left) string {
	if piece.Part != nil {
		return piece.Part.Name
	}
	l := &n.Links[piece.Link]
	return fmt.Sprintf("%s – %s", n.Nodes[l.A].Part.Name, n.Nodes[l.B].Part.Name)
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
		names := map[string]string{}
		for _, x := range left.Pieces {
			id := x.ID(sc.Net)
			now[id] += x.Stays()
			names[id] = nameOf(sc.Net, x)
		}
		for id, v := range now {
			if d := v - level[id]; d > worth || d < -worth {
				s.Changes = append(s.Changes, Stay{ID: id, Name: names[id], Stays: d})
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

// Words tell how the camper stands, or where the hose's end is.
func (s *Stand) Words(sys quantity.System) string {
	switch {
	case s.End == nil:
		return s.Attitude.Words()
	case s.End.Low:
		return fmt.Sprintf("end of %s lying at %s", plumbing.Lower(s.End.Part.Name), quantity.Both(s.End.Height, sys))
	}
	return fmt.Sprintf("end of %s held up at %s", plumbing.Lower(s.End.Part.Name), quantity.Both(s.End.Height, sys))
}

func abs(v quantity.Litre) quantity.Litre { return max(v, -v) }
