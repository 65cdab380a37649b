package setting

import (
	"cmp"
	"context"
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// Remedy is a fitting in one line that would make an impossible mode possible.
type Remedy struct {
	Link  plumbing.LinkID // the line it goes into
	Check bool            // a check valve, otherwise a shut-off
	From  plumbing.NodeID // for a check valve: the node it passes from
}

// Said tells what to fit and where.
func (d Remedy) Said(n *plumbing.Network) fact.Fact {
	l := &n.Links[d.Link]
	a, b := n.Nodes[l.A].Part, n.Nodes[l.B].Part
	if !d.Check {
		return fact.Of("remedy.shut-off", a, b)
	}
	if d.From == l.B {
		a, b = b, a
	}
	return fact.Of("remedy.check", a, b)
}

// Remedies lists the lines in which a single shut-off valve, or a check valve
// that leaves everyday use as it is, would let a mode's goal be met. Those
// beside a heater come first. It is nil for a mode that can be met, and empty
// where no single fitting is enough.
//
// Only lines on the ways that made the goal impossible are tried: what shuts
// another leaves the proof as it is.
func Remedies(ctx context.Context, n *plumbing.Network, m *Mode, base state.State) ([]Remedy, error) {
	if m.LeftOut.ID != "" {
		return nil, nil
	}
	s := newSearch(n, m, base, nil)
	if _, ok, err := s.run(ctx); ok || err != nil {
		return nil, err
	}
	everyday := ByID(Modes(n), Everyday)
	works := func(c *plumbing.Network, m *Mode) bool {
		_, ok, err := newSearch(c, m, base, nil).run(ctx)
		return ok && err == nil
	}
	list := []Remedy{}
	for i, l := range n.AllLinks() {
		if l.Line == nil || l.Line.Side == plumbing.Air || !s.breaks(ctx, i) {
			continue
		}
		if works(without(n, i), m) {
			list = append(list, Remedy{Link: i})
		}
		for _, from := range []plumbing.NodeID{l.A, l.B} {
			c := oneWay(n, i, from)
			if works(c, m) && (everyday.LeftOut.ID != "" || works(c, everyday)) {
				list = append(list, Remedy{Link: i, Check: true, From: from})
			}
		}
	}
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	beside := func(d Remedy) int {
		l := &n.Links[d.Link]
		if n.Nodes[l.A].Part.Role() == plumbing.RoleHeater || n.Nodes[l.B].Part.Role() == plumbing.RoleHeater {
			return 0
		}
		return 1
	}
	slices.SortStableFunc(list, func(a, b Remedy) int { return cmp.Compare(beside(a), beside(b)) })
	return list, nil
}

// breaks reports whether the reasons that made a goal impossible could be
// satisfied without those that a line is part of.
func (s *search) breaks(ctx context.Context, link plumbing.LinkID) bool {
	var rest []reason
	for _, r := range s.reasons {
		if !slices.Contains(r.links, link) {
			rest = append(rest, r)
		}
	}
	if len(rest) == len(s.reasons) {
		return false
	}
	nodes := mostNodes
	h := hitting{ctx: ctx, domain: s.domain, base: s.base, reasons: rest, nodes: &nodes}
	_, ok, err := h.solve()
	return ok || err != nil
}

// without is the network with a line shut. Nodes and handles stay as they are.
func without(n *plumbing.Network, link plumbing.LinkID) *plumbing.Network {
	c := n.Changed()
	for _, end := range []plumbing.NodeID{n.Links[link].A, n.Links[link].B} {
		c.Nodes[end].Links = slices.DeleteFunc(slices.Clone(c.Nodes[end].Links), func(l plumbing.LinkID) bool {
			return l == link
		})
	}
	return c
}

// oneWay is the network with a line that passes from one of its ends only.
func oneWay(n *plumbing.Network, link plumbing.LinkID, from plumbing.NodeID) *plumbing.Network {
	c := n.Changed()
	l := &c.Links[link]
	if l.A != from {
		l.A, l.B = l.B, l.A
	}
	l.OneWay = true
	return c
}
