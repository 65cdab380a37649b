package drawing

import (
	"fmt"
	"slices"
	"strings"
)

// hopRadius is the size of the bow by which a level run hops over an upright one,
// so that no crossing is a gap that could be taken for a dash.
const hopRadius = 4

// hop marks on every wire where its level runs cross an upright run of another.
func hop(wires []*wire) {
	upright := map[point]*wire{}
	for _, w := range wires {
		for i := 1; i+1 < len(w.route.points); i++ {
			if a, b := w.route.points[i-1], w.route.points[i+1]; a.X == b.X {
				upright[w.route.points[i]] = w
			}
		}
	}
	for _, w := range wires {
		w.hops = nil
		for i := 1; i+1 < len(w.route.points); i++ {
			p := w.route.points[i]
			if a, b := w.route.points[i-1], w.route.points[i+1]; a.Y == b.Y && upright[p] != nil && upright[p] != w {
				w.hops = append(w.hops, p)
			}
		}
	}
}

// path draws a wire with its bends and hops.
func (w *wire) path() string {
	corners := w.route.corners()
	if len(w.hops) == 0 {
		return path(corners)
	}
	var b strings.Builder
	for i := 1; i < len(corners); i++ {
		p, q := corners[i-1], corners[i]
		x, y := ends(corners, i-1)
		if i == 1 {
			fmt.Fprintf(&b, "M%g %g", x[0], x[1])
		}
		if p.Y == q.Y {
			w.over(&b, p, q)
		}
		if i+1 < len(corners) {
			after := towards(q, corners[i+1], bend)
			fmt.Fprintf(&b, "L%g %gQ%d %d %g %g", y[0], y[1], q.X*cell, q.Y*cell, after[0], after[1])
		} else {
			fmt.Fprintf(&b, "L%g %g", y[0], y[1])
		}
	}
	return b.String()
}

// ends gives where the straight part of the stretch from a corner to the next begins
// and ends.
func ends(corners []point, i int) (from, to [2]float64) {
	p, q := corners[i], corners[i+1]
	from, to = [2]float64{float64(p.X * cell), float64(p.Y * cell)}, [2]float64{float64(q.X * cell), float64(q.Y * cell)}
	if i+2 < len(corners) {
		to = towards(q, p, bend)
	}
	return from, to
}

// over draws the hops on a level stretch.
func (w *wire) over(b *strings.Builder, p, q point) {
	on := make([]point, 0, len(w.hops))
	for _, h := range w.hops {
		if h.Y == p.Y && min(p.X, q.X) < h.X && h.X < max(p.X, q.X) {
			on = append(on, h)
		}
	}
	dir, sweep := 1, 1
	if p.X > q.X {
		dir, sweep = -1, 0
	}
	slices.SortFunc(on, func(a, b point) int { return dir * (a.X - b.X) })
	for _, h := range on {
		x, y := h.X*cell, h.Y*cell
		fmt.Fprintf(b, "L%d %dA%d %d 0 0 %d %d %d", x-dir*hopRadius, y, hopRadius, hopRadius, sweep, x+dir*hopRadius, y)
	}
}
