package drawing

import "coldtap/internal/core/plumbing"

// Over is the same arrangement for another network, where that one differs in
// nothing that the arrangement depends on: its parts, their names and sizes,
// and how they are joined. It reports false where it has to be arranged anew.
func (s *Schematic) Over(n *plumbing.Network) (*Schematic, bool) {
	old := s.net
	if len(old.Nodes) != len(n.Nodes) || len(old.Links) != len(n.Links) || len(old.Model.Parts) != len(n.Model.Parts) ||
		len(old.Model.Drawing) != len(n.Model.Drawing) {
		return nil, false
	}
	for id, nudge := range n.Model.Drawing {
		if old.Model.Drawing[id] != nudge {
			return nil, false
		}
	}
	for i := range n.AllLinks() {
		a, b := &old.Links[i], &n.Links[i]
		if a.A != b.A || a.B != b.B || (a.Line == nil) != (b.Line == nil) || a.Line != nil &&
			(a.Line.ID != b.Line.ID || a.Line.Side != b.Line.Side) {
			return nil, false
		}
	}
	c := &Schematic{net: n, wires: s.wires, w: s.w, h: s.h, Loose: s.Loose}
	boxes, numbers := map[*box]*box{}, n.Model.Numbers()
	for _, x := range s.boxes {
		p := n.Model.Part(x.part.ID)
		if p == nil || !alike(x.part, p) || numbers[p.ID] != x.no {
			return nil, false
		}
		y := *x
		y.part = p
		boxes[x] = &y
		c.boxes = append(c.boxes, &y)
	}
	c.wires = make([]*wire, len(s.wires))
	for i, w := range s.wires {
		y := *w
		y.from, y.to = boxes[w.from], boxes[w.to]
		c.wires[i] = &y
	}
	return c, true
}

// alike reports whether two parts take the same room on the drawing.
func alike(a, b *plumbing.Part) bool {
	return a.Kind == b.Kind && a.Name == b.Name && a.Data.Type == b.Data.Type && a.Data.Ways == b.Data.Ways &&
		capacityText(a) == capacityText(b)
}
