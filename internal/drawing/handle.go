package drawing

import (
	"cmp"
	"slices"
	"strings"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/words"
)

// Handle draws a closure as it stands on this model in a position: the pipe as
// it runs there, the handle as it is mounted. The picture is 64 by 64.
func Handle(p *plumbing.Part, position string) string {
	var b svg
	b.f(`<svg class="handle" viewBox="0 0 64 64" role="img" aria-label="%s">`,
		esc(p.Name+": "+words.English(quantity.US).Position(p, position)))
	own := closures[p.Kind.Info().Glyph]
	switch {
	case p.Role() == plumbing.RoleSelector && p.Reading.Handle != "toggle":
		dial(&b, p, position)
	case own != nil && (p.Reading.Handle == "" || p.Role() == plumbing.RoleRelief):
		own(&b, position)
	default:
		onPipe(&b, p, position)
	}
	b.WriteString(`</svg>`)
	return b.String()
}

// onPipe draws a handle on the piece of pipe that it turns.
func onPipe(b *svg, p *plumbing.Part, position string) {
	turn := 0
	if p.Reading.Pipe == "upright" {
		turn = 90
	}
	class := ""
	if colour := esc(cmp.Or(p.Colours["handle"], p.Colours["cap"])); colour != "" {
		class = " c-" + strings.ToLower(colour)
	}
	b.f(`<g transform="rotate(%d 32 32)"><path class="pipe" d="M2 26H62V38H2Z"/>`, turn)
	if p.Role() == plumbing.RoleDiverter {
		b.WriteString(`<path class="pipe" d="M26 32V62H38V32Z"/>`)
	}
	b.WriteString(`</g>`)
	switch p.Reading.Handle {
	case "cap", "plug":
		capOrPlug(b, position, class, turn)
	case "toggle":
		toggle(b, position, class)
	default:
		lever(b, p, turn+swing(p, position), class)
	}
}

// toggle draws a toggle as it stands.
func toggle(b *svg, position, class string) {
	b.WriteString(`<rect class="boss" x="22" y="22" width="20" height="20" rx="4"/>`)
	if position == "open" || position == "up" || position == "on" {
		b.f(`<path class="lever%s" d="M28 32L28 6Q32 2 36 6L36 32Z"/>`, class)
	} else {
		b.f(`<path class="lever%s" d="M32 28H58Q62 32 58 36H32Z"/>`, class)
	}
}

// swing is how far a lever or pointer is turned from along its pipe, in degrees.
func swing(p *plumbing.Part, position string) int {
	switch {
	case p.Role() == plumbing.RoleDiverter && position == "b":
		return 90
	case p.Role() == plumbing.RoleDiverter:
		return 180 // common to the right; the pointer shows the way that is joined to it
	case position == "closed", position == "apart":
		return 90
	}
	return 0
}

// lever draws a lever, or a pointer, turned by an angle.
func lever(b *svg, p *plumbing.Part, angle int, class string) {
	b.f(`<g transform="rotate(%d 32 32)"><circle class="boss" cx="32" cy="32" r="11"/>`, angle)
	if p.Reading.Handle == "pointer" || p.Reading.Handle == "knob" || p.Role() == plumbing.RoleDiverter {
		b.f(`<path class="lever%s" d="M22 26H48L60 32L48 38H22Z"/>`, class)
	} else {
		b.f(`<path class="lever%s" d="M26 27H58Q62 32 58 37H26Z"/>`, class)
	}
	b.WriteString(`<circle class="pin" cx="32" cy="32" r="4"/></g>`)
}

// dialAngle is where a selector's pointer stands, in degrees from upright:
// positions are spread over 120 degrees, the first at the left.
func dialAngle(p *plumbing.Part, position string) float64 {
	n := len(p.Positions())
	if n < 2 {
		return 0
	}
	return -60 + 120*float64(max(0, slices.Index(p.Positions(), position)))/float64(n-1)
}

// dial draws a selector on its plate, a mark at each position.
func dial(b *svg, p *plumbing.Part, position string) {
	colour := ""
	if c := p.Colours["handle"]; c != "" {
		colour = " c-" + esc(strings.ToLower(c))
	}
	b.WriteString(`<rect class="pipe" x="2" y="4" width="60" height="58" rx="5"/>`)
	for _, pos := range p.Positions() {
		b.f(`<path class="ridge" d="M32 6V12" transform="rotate(%.0f 32 38)"/>`, dialAngle(p, pos))
	}
	b.f(`<g transform="rotate(%.0f 32 38)"><circle class="boss" cx="32" cy="38" r="13"/>`+
		`<path class="lever%s" d="M27 46V24L32 14L37 24V46Z"/></g>`, dialAngle(p, position), colour)
}

func capOrPlug(b *svg, position, class string, turn int) {
	b.f(`<g transform="rotate(%d 32 32)">`, turn)
	if position == "closed" {
		b.f(`<rect class="lever%s" x="40" y="20" width="18" height="24" rx="3"/>`+
			`<path class="ridge" d="M45 21V43M50 21V43M54 21V43"/>`, class)
	} else {
		b.f(`<path class="pin" d="M44 26V38"/><g transform="translate(-6 -20)">`+
			`<rect class="lever%s" x="46" y="20" width="18" height="20" rx="3"/>`+
			`<path class="ridge" d="M51 21V39M56 21V39M60 21V39"/></g>`, class)
	}
	b.WriteString(`</g>`)
}

// closures draw what is no handle on a pipe: a bowl, the halves of a coupling
// or a joint, the lever of a relief valve; by the key of the glyph.
var closures = map[string]func(b *svg, position string){
	"strainer": bowl,
	"halves":   halves,
	"relief":   liftLever,
}

// bowl hangs on its head, or is off beside it.
func bowl(b *svg, position string) {
	b.WriteString(`<path class="pipe" d="M2 12H62V24H2Z"/><path class="boss" d="M18 22H46V30H18Z"/>`)
	if position == "open" {
		b.WriteString(`<path class="lever" d="M20 40H44V50Q44 62 32 62Q20 62 20 50Z"/><path class="ridge" d="M22 35H42"/>`)
		return
	}
	b.WriteString(`<path class="lever" d="M20 30H44V42Q44 54 32 54Q20 54 20 42Z"/>` +
		`<path class="ridge" d="M27 32V48M32 32V50M37 32V48"/>`)
}

// halves stand pushed together, or apart.
func halves(b *svg, position string) {
	gap := 0
	if position == "apart" {
		gap = 8
	}
	b.f(`<g transform="translate(%d 0)"><path class="pipe" d="M2 26H18V38H2Z"/>`+
		`<rect class="lever" x="16" y="20" width="16" height="24" rx="3"/></g>`, -gap)
	b.f(`<g transform="translate(%d 0)"><path class="pipe" d="M46 26H62V38H46Z"/>`+
		`<rect class="boss" x="32" y="22" width="16" height="20" rx="3"/></g>`, gap)
}

// liftLever lies on its valve, or is lifted upright.
func liftLever(b *svg, position string) {
	b.WriteString(`<path class="pipe" d="M26 40V62H38V40Z"/>` +
		`<rect class="boss" x="20" y="28" width="24" height="18" rx="3"/>`)
	if position == "open" {
		b.WriteString(`<path class="lever" d="M28 30L30 4Q33 0 36 4L36 30Z"/>`)
		return
	}
	b.WriteString(`<path class="lever" d="M24 22H56Q60 26 56 30H24Z"/>`)
}
