package plumbing

import (
	"cmp"
	"slices"
)

// Numbers gives the parts that a reader looks for their place numbers, by id: those
// they have, and for the others the next ones, from the front of the camper to its
// back; what has no place comes last. A number that two parts have is the first's.
func (m *Model) Numbers() map[string]int {
	numbers, highest := map[string]int{}, m.Numbered
	taken := map[int]bool{}
	var fresh []*Part
	for i := range m.Parts {
		switch p := &m.Parts[i]; {
		case p.Number > 0 && !taken[p.Number]:
			numbers[p.ID], taken[p.Number] = p.Number, true
			highest = max(highest, p.Number)
		case p.Kind.Info().Glyph != "" && !p.Kind.Info().Mere || !p.Place.Front.IsZero() && !p.Kind.Info().Mere:
			fresh = append(fresh, p)
		}
	}
	slices.SortStableFunc(fresh, func(a, b *Part) int {
		if a.Place.Front.IsZero() != b.Place.Front.IsZero() {
			if a.Place.Front.IsZero() {
				return 1
			}
			return -1
		}
		return cmp.Or(cmp.Compare(a.Place.Front.Value(), b.Place.Front.Value()),
			cmp.Compare(a.Place.Left.Value(), b.Place.Left.Value()), cmp.Compare(a.ID, b.ID))
	})
	for _, p := range fresh {
		highest++
		numbers[p.ID] = highest
	}
	return numbers
}

// WithNumbers is the document with its place numbers written into it, so that they
// stay with their parts; the document itself where they are.
func (m *Model) WithNumbers() *Model {
	numbers, highest := m.Numbers(), m.Numbered
	for _, n := range numbers {
		highest = max(highest, n)
	}
	same := highest == m.Numbered
	for i := range m.Parts {
		same = same && m.Parts[i].Number == numbers[m.Parts[i].ID]
	}
	if same {
		return m
	}
	c := *m
	c.Numbered, c.Parts = highest, slices.Clone(m.Parts)
	for i := range c.Parts {
		c.Parts[i].Number = numbers[c.Parts[i].ID]
	}
	return &c
}

// Renumbered is the document with its places numbered anew from front to back.
func (m *Model) Renumbered() *Model {
	c := *m
	c.Numbered, c.Parts = 0, slices.Clone(m.Parts)
	for i := range c.Parts {
		c.Parts[i].Number = 0
	}
	return c.WithNumbers()
}
