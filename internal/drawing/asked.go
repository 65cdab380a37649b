package drawing

import (
	"coldtap/internal/core/plumbing"
)

// Asked draws how a part would be joined: water comes from the first name and goes to
// the second, at the port that a third stands below. It serves to choose by.
func Asked(kind plumbing.Kind, from, to, below string) string {
	part := &plumbing.Part{Kind: kind}
	x := &box{part: part, sym: symbolOf(part, 0), at: point{17, 2}}
	x.w, x.h, x.pins = x.sym.turnedBox(x.turn)
	var b svg
	w, h := 34+x.w, x.h+4
	if below != "" {
		h += 3
	}
	b.f(`<svg class="schematic asked" viewBox="0 0 %d %d" width="%d" height="%d" aria-hidden="true">`, w*cell, h*cell,
		w*cell, h*cell)
	y := (x.at.Y + x.h/2) * cell
	b.f(`<path class="stroke" d="M%d %dH%d"/><path class="stroke" d="M%d %dH%d"/>`, (x.at.X-3)*cell, y, x.at.X*cell,
		(x.at.X+x.w)*cell, y, (x.at.X+x.w+3)*cell)
	b.f(`<g transform="%s">`, transform(x))
	glyph(&b, x, "")
	b.WriteString(`</g>`)
	b.f(`<text class="label" x="%d" y="%d" text-anchor="end">%s</text>`, (x.at.X-3)*cell-6, y+4, esc(from))
	b.f(`<text class="label" x="%d" y="%d">%s</text>`, (x.at.X+x.w+3)*cell+6, y+4, esc(to))
	if below != "" {
		cx := (x.at.X + x.w/2) * cell
		b.f(`<path class="stroke" d="M%d %dV%d"/><text class="label" x="%d" y="%d" text-anchor="middle">%s</text>`, cx,
			(x.at.Y+x.h)*cell, (x.at.Y+x.h+2)*cell, cx, (x.at.Y+x.h+4)*cell, esc(below))
	}
	b.WriteString(`</svg>`)
	return b.String()
}
