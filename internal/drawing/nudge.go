package drawing

import (
	"maps"
	"slices"

	"coldtap/internal/core/plumbing"
)

// nudge moves boxes by hand, each by its steps of the grid. One that would
// touch another stays where it was put by itself.
func (p *placing) nudge(moves map[string]plumbing.Nudge) {
	for _, id := range slices.Sorted(maps.Keys(moves)) {
		i := slices.IndexFunc(p.boxes, func(b *box) bool { return b.part.ID == id })
		if i < 0 {
			continue
		}
		b, by := p.boxes[i], point{moves[id].X, moves[id].Y}
		b.move(by)
		if slices.ContainsFunc(p.boxes, func(o *box) bool { return o != b && o.around().overlaps(b.around()) }) {
			b.move(point{-by.X, -by.Y})
		}
	}
	least := point{3, 3}
	for _, b := range p.boxes {
		r := b.around()
		least.X, least.Y = min(least.X, r.x-2), min(least.Y, r.y-2)
	}
	p.w, p.h = 0, 0
	for _, b := range p.boxes {
		b.move(point{3 - least.X, 3 - least.Y})
		r := b.around()
		p.w, p.h = max(p.w, r.x+r.w+3), max(p.h, r.y+r.h+3)
	}
}

func (b *box) move(by point) {
	b.at = b.at.add(by)
	b.label.x += by.X
	b.label.y += by.Y
}

// around is the room of a box and its label, with a margin for lines.
func (b *box) around() rect {
	r := rect{b.at.X, b.at.Y, b.w, b.h}
	if b.label.w > 0 {
		r = r.with(rect{b.label.x, b.label.y, b.label.w, b.label.h})
	}
	return rect{r.x - 1, r.y - 1, r.w + 2, r.h + 2}
}
