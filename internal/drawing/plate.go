package drawing

import (
	"slices"

	"coldtap/internal/core/plumbing"
)

// setBy lists the valves that a plate handle drives; none for other parts.
func (p *placing) setBy(b *box) (list []*box) {
	if b.part.Role() != plumbing.RoleSelector {
		return nil
	}
	for _, v := range p.boxes {
		if slices.ContainsFunc(b.part.Selector, func(c plumbing.Choice) bool { return c.Sets[v.part.ID] != "" }) {
			list = append(list, v)
		}
	}
	return list
}

// plates puts each plate handle, which no line reaches, into free room as near as there
// is to the valves it drives.
func (p *placing) plates() {
	for _, b := range p.boxes {
		if b.sets == nil {
			continue
		}
		var aim point
		for _, v := range b.sets {
			aim = aim.add(point{(2*v.at.X + v.w) / 2, (2*v.at.Y + v.h) / 2})
		}
		aim = point{aim.X / len(b.sets), aim.Y / len(b.sets)}
		best, least := point{}, -1
		for y := 3; y < aim.Y+60; y++ {
			for x := 3; x < aim.X+80; x++ {
				away := sq(x+b.w/2-aim.X) + sq(y+b.h/2-aim.Y)
				if least >= 0 && away >= least {
					continue
				}
				if b.at = (point{x, y}); p.free(b) {
					best, least = b.at, away
				}
			}
		}
		b.at = best
		b.setLabel()
	}
}

func sq(n int) int { return n * n }

// free reports whether a box stands clear of all that was put before it, with room
// for a line between.
func (p *placing) free(b *box) bool {
	b.setLabel()
	own := b.around()
	own = rect{own.x - 1, own.y - 1, own.w + 2, own.h + 2}
	if own.x < 1 || own.y < 1 {
		return false
	}
	return !slices.ContainsFunc(p.boxes, func(o *box) bool {
		placed := o.sets == nil || o.part.ID < b.part.ID
		return o != b && placed && o.around().overlaps(own)
	})
}
