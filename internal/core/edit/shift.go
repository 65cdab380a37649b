package edit

import (
	"maps"
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// ShiftHeights moves every height that is given of parts, ports, hose ends and the spots
// of lines by the same amount, as where they were measured from another datum.
func ShiftHeights(m *plumbing.Model, by quantity.Metre) (*Done, error) {
	if by == 0 {
		return &Done{Model: m}, nil
	}
	c, n := clone(m), 0
	move := func(g *quantity.Given[quantity.Metre]) {
		if !g.IsZero() {
			*g = quantity.Of(g.Value()+by, m.System())
			n++
		}
	}
	for i := range c.Parts {
		p := &c.Parts[i]
		move(&p.Place.Height)
		p.Heights = maps.Clone(p.Heights)
		for name, h := range p.Heights {
			move(&h)
			p.Heights[name] = h
		}
		move(&p.Data.LowEnd)
		move(&p.Data.HighEnd)
	}
	for i := range c.Lines {
		c.Lines[i].Spots = slices.Clone(c.Lines[i].Spots)
		for k := range c.Lines[i].Spots {
			move(&c.Lines[i].Spots[k].Height)
		}
	}
	if n == 0 {
		return nil, fault("", "no height is given yet")
	}
	after, err := Check(c)
	if err != nil {
		return nil, err
	}
	return &Done{after, fact.Of("edit.shifted", n, by)}, nil
}
