package finding

import (
	"cmp"
	"slices"

	"coldtap/internal/core/constant"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// pocket is a connected stretch that stays full when all is drained as well as
// it can be.
type pocket struct {
	pieces []int // of the survey's drained
	links  []plumbing.LinkID
	stays  quantity.Litre
	low    quantity.Metre
	why    flow.Reason
	cause  trap
}

// trap is what kind of place a pocket is; it picks the rule that tells it.
type trap int

// Traps, in the order in which a pocket that is several of them is told.
const (
	atInlet trap = iota
	atRinse
	atPort
	atPump
	dips
	shutIn
	deadEnd
)

// drainage is what stays when a build is drained as its drain-down says.
type drainage struct {
	state   state.State
	left    *flow.Drained
	why     []flow.Reason
	pockets []pocket
}

// drained works the drainage out once; nil for a build without a drain-down.
func (s *survey) drained() *drainage {
	if s.drainage != nil || s.noDrainage {
		return s.drainage
	}
	a := setting.ForMode(s.plan, setting.DrainDown)
	if !a.Has() {
		s.noDrainage = true
		return nil
	}
	d := &drainage{state: a.Last()}
	d.left = flow.Drain(s.net, d.state)
	d.why = d.left.Reasons(s.net, d.state)
	s.drainage = d
	d.pockets = s.cluster(d)
	return d
}

// wet is where water ever comes to.
func (s *survey) wet() flow.Wet { return flow.EverWet(s.net, state.Normal(s.net)) }

// cluster joins full pieces that touch each other and are the same kind of
// trap into pockets, so that each is told once, by what it is.
func (s *survey) cluster(d *drainage) []pocket {
	wet := s.wet()
	stuck := map[plumbing.LinkID][]int{} // link to its full pieces
	why := map[plumbing.LinkID]flow.Reason{}
	for i, p := range d.left.Pieces {
		l := p.Link
		if l < 0 || p.Unknown || p.Share() <= constant.BurstsFull.Of(nil) || s.net.FillHose(l) || s.net.Links[l].Line != nil &&
			s.net.Links[l].Line.Side == plumbing.Air {
			continue
		}
		if part := p.Part; part != nil && (part.Role() == plumbing.RoleHeater || part.Role() == plumbing.RoleStrainer) {
			continue // told by rules of their own
		}
		if wet.Link(l) {
			stuck[l] = append(stuck[l], i)
			why[l] = max(why[l], d.why[i])
		}
	}
	suction := s.suctions()
	cause := map[plumbing.LinkID]trap{}
	for li := range stuck {
		cause[li] = s.causeOf(li, why[li], suction)
	}
	var list []pocket
	seen := map[plumbing.LinkID]bool{}
	for li := range s.net.AllLinks() {
		if stuck[li] == nil || seen[li] {
			continue
		}
		p := pocket{cause: cause[li], low: 1e9}
		queue := []plumbing.LinkID{li}
		seen[li] = true
		for len(queue) > 0 {
			at := queue[0]
			queue = queue[1:]
			p.links = append(p.links, at)
			for _, i := range stuck[at] {
				p.pieces = append(p.pieces, i)
				p.stays += d.left.Pieces[i].Stays()
				p.low = min(p.low, d.left.Pieces[i].Low)
				p.why = max(p.why, d.why[i])
			}
			for _, end := range []plumbing.NodeID{s.net.Links[at].A, s.net.Links[at].B} {
				for _, next := range s.beside(end) {
					if stuck[next] != nil && !seen[next] && cause[next] == p.cause {
						seen[next] = true
						queue = append(queue, next)
					}
				}
			}
		}
		list = append(list, p)
	}
	return list
}

// suctions marks the links between tanks or container ports and the pumps that
// draw from them, and those from each pump on to the next branch.
func (s *survey) suctions() map[plumbing.LinkID]bool {
	list := map[plumbing.LinkID]bool{}
	for _, pump := range s.parts(plumbing.RolePump) {
		for li, l := range s.net.AllLinks() {
			list[li] = list[li] || l.Part == pump
		}
		for _, t := range s.parts(plumbing.RoleTank) {
			for _, li := range s.reach([]plumbing.NodeID{s.net.Node(t.ID + ".supply")}).Path(s.net.Node(pump.ID +
				".in")) {
				list[li] = true
			}
		}
		at := s.net.Node(pump.ID + ".out")
		for range s.net.Links {
			next := plumbing.NodeID(plumbing.None)
			for _, li := range s.net.Nodes[at].Links {
				if l := &s.net.Links[li]; !list[li] && (l.Line != nil || l.Part.Role() == plumbing.RoleCheck) {
					list[li], next = true, l.Other(at)
				}
			}
			if next < 0 {
				break
			}
			at = next
		}
	}
	return list
}

// causeOf says what kind of trap a link that stays full is.
func (s *survey) causeOf(li plumbing.LinkID, why flow.Reason, suction map[plumbing.LinkID]bool) trap {
	l := &s.net.Links[li]
	at := func(roles ...plumbing.Role) bool {
		return slices.Contains(roles, s.net.Nodes[l.A].Part.Role()) ||
			slices.Contains(roles, s.net.Nodes[l.B].Part.Role())
	}
	switch {
	case at(plumbing.RoleInlet) && (s.net.Nodes[l.A].Part.Data.CheckValve || s.net.Nodes[l.B].Part.Data.CheckValve):
		return atInlet
	case at(plumbing.RoleRinse):
		return atRinse
	case at(plumbing.RolePickUp):
		return atPort
	case suction[li]:
		return atPump
	case why == flow.Dips:
		return dips
	case why == flow.ShutOff:
		return shutIn
	}
	return deadEnd
}

// beside lists the links that meet at a node, those of the part's other ports
// too where the part holds nothing of its own.
func (s *survey) beside(node plumbing.NodeID) []plumbing.LinkID {
	links := slices.Clone(s.net.Nodes[node].Links)
	if p := s.net.Nodes[node].Part; p.Holds() == 0 && p.Role() != plumbing.RoleTank && p.Role() != plumbing.RoleHeater {
		for _, li := range s.net.Nodes[node].Links {
			if s.net.Links[li].Part != nil {
				links = append(links, s.net.Nodes[s.net.Links[li].Other(node)].Links...)
			}
		}
	}
	return links
}

// pocketsOf makes a hit of each pocket of some traps.
func pocketsOf(say func(*survey, *pocket) fact.Fact, traps ...trap) func(*survey) []hit {
	return func(s *survey) []hit {
		d := s.drained()
		if d == nil {
			return nil
		}
		var list []hit
		for i := range d.pockets {
			p := &d.pockets[i]
			if !slices.Contains(traps, p.cause) {
				continue
			}
			list = append(list, hit{s.idsOf(d, p), say(s, p)})
		}
		return list
	}
}

// idsOf lists the lines and parts of a pocket, the fullest first.
func (s *survey) idsOf(d *drainage, p *pocket) []string {
	pieces := slices.Clone(p.pieces)
	slices.SortStableFunc(pieces, func(a, b int) int {
		return cmp.Compare(d.left.Pieces[b].Stays(), d.left.Pieces[a].Stays())
	})
	var ids []string
	for _, i := range pieces {
		if id := d.left.Pieces[i].ID(s.net); !slices.Contains(ids, id) {
			ids = append(ids, id)
		}
	}
	return ids
}

// nameOf names a pocket: its one line or part, or the first and how many more.
func (s *survey) nameOf(p *pocket) any {
	ids := s.idsOf(s.drained(), p)
	var first any = fact.Name(ids[0])
	if part := s.net.Model.Part(ids[0]); part != nil {
		first = part
	} else if l := s.net.Model.Line(ids[0]); l != nil {
		first = s.lineName(l)
	}
	if more := len(ids) - 1; more > 0 {
		return fact.Of("finding.pocket.more", more, first)
	}
	return first
}

// because tells why a pocket keeps its water.
func because(r flow.Reason) fact.Fact {
	switch r {
	case flow.Behind:
		return fact.Of("finding.because.behind")
	case flow.DeadEnd:
		return fact.Of("finding.because.dead-end")
	case flow.ShutOff:
		return fact.Of("finding.because.shut-off")
	case flow.Dips:
		return fact.Of("finding.because.dips")
	}
	return fact.Of("finding.because.no-way-out")
}

// dipped tells of a pocket that lies below its way out, and which drain that
// is.
func dipped(s *survey, p *pocket) fact.Fact {
	out := fact.Of("finding.loop-below-drain.nowhere")
	if d, h := s.lowestDrain(p); d != nil {
		out = fact.Of("finding.loop-below-drain.climbs", d, h)
		if h > p.low {
			out = fact.Of("finding.loop-below-drain.runs-to", d, h)
		}
	}
	return fact.Of("finding.loop-below-drain", s.nameOf(p), p.stays, p.low, out)
}

// lowestDrain is the lowest drain that a pocket's water can run to as the
// handles stand when it is drained.
func (s *survey) lowestDrain(p *pocket) (best *plumbing.Part, height quantity.Metre) {
	var from []plumbing.NodeID
	for _, li := range p.links {
		from = append(from, s.net.Links[li].A, s.net.Links[li].B)
	}
	r := flow.Reach(s.net, s.drained().state, flow.Query{From: from})
	for _, d := range s.parts(plumbing.RoleDrain, plumbing.RoleFrost) {
		h, ok := d.PortHeight("mouth")
		if !ok {
			h, ok = d.PortHeight("in")
		}
		if ok && r.Node(s.net.Node(d.ID+".mouth")) && (best == nil || h < height) {
			best, height = d, h
		}
	}
	return best, height
}

// handlesAt lists the handles at the ends of a pocket.
func (s *survey) handlesAt(p *pocket) []*plumbing.Part {
	var list []*plumbing.Part
	for _, li := range p.links {
		l := &s.net.Links[li]
		for _, end := range []plumbing.NodeID{l.A, l.B} {
			part := s.net.Nodes[end].Part
			if len(part.Positions()) > 0 && !part.Lets() && !slices.Contains(list, part) {
				list = append(list, part)
			}
		}
	}
	return list
}
