package drawing

import (
	"fmt"
	"slices"
	"strings"
)

// HeaterLook draws what is seen of a heater from outside, by the signs that are
// given: nothing else of it is drawn. The picture is 320 by 240.
func HeaterLook(signs []string) string {
	has := func(s string) bool { return slices.Contains(signs, s) }
	var b strings.Builder
	b.WriteString(`<svg class="heaterlook" viewBox="0 0 320 240" role="img" aria-label="What is seen of the heater">`)
	draw := func(format string, args ...any) { fmt.Fprintf(&b, format, args...) }
	// The wall that it sits in, broken away.
	draw(`<path class="edge" d="M14 18V222M306 18V222" stroke-dasharray="6 5"/>`)
	switch {
	case has("vessel"):
		draw(`<rect class="body" x="70" y="46" width="180" height="148" rx="40"/>`)
		draw(`<rect class="edge" x="82" y="58" width="156" height="124" rx="32" stroke-dasharray="3 5"/>`)
	case has("coil"):
		draw(`<rect class="body" x="96" y="52" width="128" height="136" rx="6"/>`)
		draw(`<path class="edge" d="M112 86h84q14 0 14 12t-14 12h-72q-14 0-14 12t14 12h72q14 0 14 12"/>`)
	}
	if has("door") {
		draw(`<rect class="edge" x="46" y="30" width="228" height="180" rx="4"/>`)
		for y := 40; y <= 64; y += 8 {
			draw(`<path class="edge" d="M60 %dH150"/>`, y)
		}
	}
	if has("flue") {
		draw(`<circle class="edge" cx="208" cy="92" r="17"/><circle class="edge" cx="208" cy="92" r="9"/>`)
		draw(`<path class="edge" d="M196 104L220 80"/>`)
	}
	if has("lever") {
		draw(`<rect class="body" x="62" y="88" width="24" height="14"/><path class="fill" d="M62 82h34v6H62z"/>`)
		draw(`<path class="edge" d="M74 102v18"/>`)
	}
	if has("hex-plug") {
		draw(`<path class="body" d="M144 176l10-17h20l10 17-10 17h-20z"/><circle class="edge" cx="164" cy="176" r="7"/>`)
		draw(`<path class="fill" d="M160 159V96h8v63z"/>`)
	}
	if has("clear-plug") {
		draw(`<circle class="body" cx="164" cy="178" r="14"/><path class="edge" d="M154 178h20M164 168v20"/>`)
	}
	if has("igniter") {
		draw(`<path class="edge" d="M122 168l12-16-4 14h14l-14 18 4-16z"/>`)
	}
	if has("couplings") {
		for _, x := range []int{40, 262} {
			draw(`<path class="edge" d="M%d 150v40"/><rect class="body" x="%d" y="186" width="16" height="20" rx="3"/>`, x+8, x)
			draw(`<path class="edge" d="M%d 192h16"/>`, x)
		}
		draw(`<path class="edge" d="M128 52V36q0-10 10-10h44q10 0 10 10v16"/>`)
	}
	if has("dump") {
		draw(`<rect class="body" x="256" y="148" width="26" height="30"/><path class="fill" d="M263 140h12v8h-12z"/>`)
		draw(`<path class="edge" d="M269 178v34M262 204l7 8 7-8"/>`)
	}
	if has("ducts") {
		for _, y := range []int{92, 140} {
			draw(`<path class="edge" d="M250 %dh50M250 %dh50"/>`, y, y+22)
			for x := 258; x < 300; x += 9 {
				draw(`<path class="edge" d="M%d %dv22"/>`, x, y)
			}
		}
	}
	if has("circuit") {
		draw(`<path class="edge" d="M96 86H30M96 98H30M96 150H30M96 162H30"/>`)
		draw(`<path class="fill" d="M52 84l10 8-10 8zM40 148l-10 8 10 8z"/>`)
	}
	if has("two-power") {
		for i, sign := range []string{"M0 8Q-9 0-2-10Q-1-5 3-6Q2-11 0-13Q9-8 7 1Q6 8 0 8z", "M3-12L-6 1h5l-2 11L6-2H1z"} {
			x := 96 + 84*i
			draw(`<rect class="body" x="%d" y="212" width="44" height="22" rx="11"/><circle class="fill" cx="%d" cy="223" r="8"/>`,
				x, x+11+22*i)
			draw(`<path class="fill" transform="translate(%d 224)" d="%s"/>`, x-16, sign)
		}
	}
	b.WriteString(`</svg>`)
	return b.String()
}
