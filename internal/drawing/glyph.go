package drawing

import (
	"strings"

	"coldtap/internal/core/plumbing"
)

// glyph draws a part's symbol at orientation zero, its top left corner at the
// origin. Open and closed differ in shape: an open valve's two halves are
// hollow and joined, a closed one's are filled with a bar across.
func glyph(b *svg, x *box, position string) {
	glyphs[x.part.Kind.Info().Glyph](b, x, position)
}

// plain is a glyph that is always the same.
func plain(path string) func(*svg, *box, string) {
	return func(b *svg, _ *box, _ string) { b.WriteString(path) }
}

// sized is a glyph drawn to the size of its symbol, in pixels.
func sized(draw func(b *svg, p *plumbing.Part, w, h int)) func(*svg, *box, string) {
	return func(b *svg, x *box, _ string) { draw(b, x.part, x.sym.w*cell, x.sym.h*cell) }
}

// standing is a glyph that shows a position.
func standing(draw func(b *svg, position string)) func(*svg, *box, string) {
	return func(b *svg, _ *box, position string) { draw(b, position) }
}

// glyphs are the symbols by the key in a kind's row.
var glyphs = map[string]func(b *svg, x *box, position string){
	"tee":       plain(`<circle class="dot" r="4"/>`),
	"valve":     standing(func(b *svg, position string) { valve(b, position != "closed") }),
	"halves":    standing(func(b *svg, position string) { coupling(b, position == "together") }),
	"three-way": standing(threeWay),
	"relief":    standing(func(b *svg, position string) { relief(b, position == "open") }),
	"drain":     standing(func(b *svg, position string) { drain(b, position == "open") }),
	"pressure":  plain(`<path class="body" d="M0 2H20L16 16H4Z"/><path class="stroke" d="M10 16V30M4 22L10 28L16 22"/>`),
	"gravity":   plain(`<path class="body" d="M-2 0H22L13 16H7Z"/><path class="stroke" d="M10 16V30"/>`),
	"rinse":     plain(`<path class="body" d="M0 2H20L16 16H4Z"/><path class="stroke" d="M10 16V30M6 9H14"/>`),
	"pick-up": plain(`<path class="stroke" d="M10 30V14"/><path class="body" d="M3 0H17V14H3Z"/>` +
		`<path class="stroke" d="M3 5H17"/>`),
	"softener": func(b *svg, _ *box, position string) {
		b.WriteString(`<rect class="body" x="6" y="4" width="28" height="36" rx="12"/>` +
			`<path class="stroke mesh" d="M8 26H32M8 30H32M10 34H30"/><path class="stroke" d="M0 20H6M34 20H40"/>`)
		if position == "bypass" {
			b.WriteString(`<path class="stroke bar" d="M3 18Q3 -2 20 -2Q37 -2 37 18"/>`)
		}
	},
	"barrel": plain(`<path class="body" d="M3 0H17V14H3Z"/><circle class="stroke" cx="10" cy="7" r="3"/>` +
		`<path class="stroke" d="M10 14V30M6 20L10 24L14 20"/>`),
	"hatch": standing(func(b *svg, position string) {
		b.WriteString(`<path class="stroke" d="M10 30V16M0 14H20"/>`)
		if position == "open" {
			b.WriteString(`<path class="stroke bar" d="M1 13L8 -3"/>`)
			return
		}
		b.WriteString(`<path class="fill" d="M1 8H19V13H1ZM7 5H13V8H7Z"/>`)
	}),
	"hull": standing(func(b *svg, position string) {
		drain(b, position == "open")
		b.WriteString(`<path class="stroke" d="M-6 36Q-1 32 4 36T14 36T26 36"/>`)
	}),
	"mixer": plain(`<path class="body" d="M0 1V19L20 10ZM40 1V19L20 10ZM11 22H29L20 10Z"/>` +
		`<path class="stroke" d="M20 10V-4"/><circle class="body" cx="20" cy="-8" r="5"/>`),
	"strainer": plain(`<rect class="body" width="40" height="20" rx="5"/>` +
		`<path class="stroke mesh" d="M10 0V20M15 0V20M20 0V20M25 0V20M30 0V20"/>`),
	"filter": plain(`<rect class="body" width="40" height="8" rx="2"/>` +
		`<rect class="body" x="6" y="8" width="28" height="32" rx="6"/>` +
		`<path class="stroke mesh" d="M12 14L28 20M12 20L28 26M12 26L28 32"/><path class="stroke" d="M0 20H6M34 20H40"/>`),
	"vent": plain(`<path class="stroke" d="M10 30V12"/><path class="stroke" d="M3 12H17M5 7Q10 2 15 7"/>`),
	"manifold": sized(func(b *svg, p *plumbing.Part, w, h int) {
		b.f(`<rect class="body" width="%d" height="%d" rx="9"/>`, w, h)
	}),
	"heater": sized(func(b *svg, p *plumbing.Part, w, h int) {
		b.f(`<rect class="body vessel" width="%d" height="%d" rx="20"/>`, w, h)
		b.f(`<path class="stroke" d="M%d 66L%d 58L%d 66L%d 58L%d 66L%d 58"/>`, w/2-25, w/2-15, w/2-5, w/2+5, w/2+15,
			w/2+25)
	}),
	"outlet": sized(func(b *svg, p *plumbing.Part, w, h int) {
		b.f(`<rect class="body outlet" width="%d" height="%d" rx="6"/><g transform="translate(%d -2) scale(0.9)">`, w,
			h, w/2-13)
		tap(b, p.Data.Type)
		b.WriteString(`</g>`)
	}),
	"selector": func(b *svg, x *box, position string) {
		b.f(`<circle class="body" cx="20" cy="20" r="18"/>`+
			`<path class="stroke bar" d="M20 20V4" transform="rotate(%.0f 20 20)"/>`, dialAngle(x.part, position))
	},
	"check": plain(`<path class="body" d="M0 0V20L40 10ZM40 0V20"/>` +
		`<path class="stroke" d="M40 0V20M8 -5H30M25 -8L31 -5L25 -2"/>`),
	"pump": plain(`<circle class="body" cx="20" cy="20" r="19"/><path class="fill" d="M11 9L34 20L11 31Z"/>`),
	"float": plain(`<rect class="body" width="40" height="20" rx="3"/>` +
		`<circle class="fill" cx="28" cy="10" r="5"/><path class="stroke" d="M6 4L24 9"/>`),
	"accumulator": plain(`<rect class="body" x="0" y="0" width="20" height="24" rx="9"/>` +
		`<path class="stroke" d="M1 12Q10 18 19 12M10 24V30"/>`),
	"tank": sized(func(b *svg, p *plumbing.Part, w, h int) {
		b.f(`<rect class="body vessel" width="%d" height="%d" rx="8"/>`+
			`<path class="level" d="M0 26Q%d 18 %d 26T%d 26V%dQ%d %d %d %dH8Q0 %d 0 %dZ"/>`,
			w, h, w/4, w/2, w, h-8, w, h, w-8, h, h, h-8)
		b.f(`<rect class="rim" width="%d" height="%d" rx="8"/>`, w, h)
	}),
	"waste": sized(func(b *svg, p *plumbing.Part, w, h int) {
		if to := plumbing.WastePlace(p.Data.Type); to.Open() && to != plumbing.ToSump { // no tank, but where it runs
			b.f(`<path class="stroke" d="M6 0H%d"/><path class="stroke" d="M%d %dV%dM%d %dL%d %dL%d %d"/>`, w-6, w/2,
				h-8, h+2, w/2-6, h-4, w/2, h+2, w/2+6, h-4)
			return
		}
		b.f(`<path class="body vessel" d="M0 0H%dV%dQ%d %d %d %dH10Q0 %d 0 %dZ"/>`, w, h-10, w, h, w-10, h, h, h-10)
	}),
	"machine": sized(func(b *svg, p *plumbing.Part, w, h int) {
		b.f(`<rect class="body outlet" width="%d" height="%d"/><g transform="translate(%d -3)">`+
			`<circle class="stroke" cx="14" cy="18" r="9"/><path class="stroke" d="M8 15Q14 23 20 15"/></g>`, w, h, w/2-14)
	}),
}

func valve(b *svg, open bool) {
	if open {
		b.WriteString(`<path class="body" d="M0 1V19L20 10ZM40 1V19L20 10Z"/><path class="stroke bar" d="M8 -4H32"/>`)
		return
	}
	b.WriteString(`<path class="fill" d="M0 1V19L20 10ZM40 1V19L20 10Z"/><path class="stroke bar" d="M20 -6V26"/>`)
}

// threeWay draws com at the right, a at the left, b below. The open way is
// hollow and carries a pointer, the shut leg is filled.
func threeWay(b *svg, position string) {
	leg := func(open bool, d string) {
		class := "fill"
		if open {
			class = "body"
		}
		b.f(`<path class="%s" d="%s"/>`, class, d)
	}
	leg(true, "M40 1V19L20 10Z")
	leg(position != "b", "M0 1V19L20 10Z")
	leg(position != "a", "M11 22H29L20 10Z")
	switch position {
	case "a":
		b.WriteString(`<path class="stroke bar" d="M32 -4H10M15 -8L9 -4L15 0"/>`)
	case "b":
		b.WriteString(`<path class="stroke bar" d="M34 -4H20M34 -4V-4M24 -8L19 -4L24 0"/>` +
			`<path class="stroke bar" d="M19 -4V-4"/>`)
	}
}

func coupling(b *svg, together bool) {
	if together {
		b.WriteString(`<path class="stroke" d="M0 10H12M28 10H40"/><path class="body" d="M12 2H20V18H12ZM20 4H28V16H20Z"/>`)
		return
	}
	b.WriteString(`<path class="stroke" d="M0 10H8M32 10H40"/><path class="body" d="M8 2H15V18H8Z"/>` +
		`<path class="fill" d="M25 4H32V16H25Z"/>`)
}

func drain(b *svg, open bool) {
	if open {
		b.WriteString(`<path class="body" d="M2 2H18L10 14ZM2 26H18L10 14Z"/>` +
			`<path class="fill" d="M10 30Q5 37 10 40Q15 37 10 30Z"/>`)
		return
	}
	b.WriteString(`<path class="fill" d="M2 2H18L10 14ZM2 26H18L10 14Z"/><path class="stroke bar" d="M-2 14H22"/>` +
		`<path class="stroke" d="M4 34H16"/>`)
}

// tap draws a small sign for what kind of outlet it is.
func tap(b *svg, use string) {
	switch use {
	case "shower", "outside-shower":
		b.WriteString(`<path class="stroke" d="M8 31V11Q8 7 13 7H16M12 12H21M13 17V20M16.500 17V20M20 17V20"/>`)
	case "toilet", "sprayer":
		b.WriteString(`<path class="stroke" d="M8 9V31M8 19H22Q21 28 13 28"/>`)
	default:
		b.WriteString(`<path class="stroke" d="M6 19H16Q21 19 21 25M11 19V12M7 12H15M6 15V23"/>`)
	}
}

// inside writes the label of a part that carries it inside.
func inside(b *svg, x *box) {
	if !x.sym.in {
		return
	}
	p := x.part
	lines := append([]string(nil), x.lines...)
	small := capacityText(p)
	cx, cy := float64(x.at.X*cell)+float64(x.w*cell)/2, float64(x.at.Y*cell)+float64(x.h*cell)/2
	anchor := "middle"
	if p.Role() == plumbing.RoleOutlet || p.Role() == plumbing.RoleMachine {
		cy += 13
	}
	if p.Role() == plumbing.RoleTank {
		cy += 10
	} else if p.Role() == plumbing.RoleHeater {
		cy -= 6
	}
	rows := float64(len(lines))
	if small != "" {
		rows++
	}
	y := cy - rows*labelHeight/2 + 11
	b.WriteString(`<g class="name" data-side="in">`)
	for i := range lines {
		label(b, x, i, textLine{cx, y, anchor})
		y += labelHeight
	}
	b.WriteString(`</g>`)
	if small != "" {
		b.f(`<text class="label small" x="%g" y="%g" text-anchor="%s">%s</text>`, cx, y, anchor, esc(small))
	}
}

// capacityText is what a vessel's symbol says of its size: the first figure as
// it was given.
func capacityText(p *plumbing.Part) string {
	if p.Data.Capacity.IsZero() || !symbolOf(p, 0).in {
		return ""
	}
	text, _, _ := strings.Cut(p.Data.Capacity.String(), "(")
	return strings.TrimSpace(text)
}

// relief is a seat under a spring, lifted off it when the lever is up.
func relief(b *svg, open bool) {
	if open {
		b.WriteString(`<path class="stroke" d="M10 30V24M4 22H16M4 14H16M10 14V8M6 12L14 10M6 9L14 7M10 4L19 -2"/>`)
		return
	}
	b.WriteString(`<path class="fill" d="M4 18H16V22H4Z"/>` +
		`<path class="stroke" d="M10 30V22M10 18V8M6 16L14 13M6 12L14 9M10 4H19"/>`)
}
