package drawing

import (
	"math"
	"strings"

	"coldtap/internal/core/plumbing"
)

// cell is the pitch of the grid that symbols stand and lines run on, in
// drawing units (CSS pixels at scale 1).
const cell = 10

// point is a place on the grid.
type point struct{ X, Y int }

func (p point) add(q point) point { return point{p.X + q.X, p.Y + q.Y} }

// direction a line leaves a port by.
type direction int

const (
	right direction = iota
	down
	left
	up
	anyway // a tee: any side that is free
)

var steps = [4]point{{1, 0}, {0, 1}, {-1, 0}, {0, -1}}

// turned is the direction after mirroring left to right and then turning by
// quarter turns clockwise.
func (d direction) turned(o orientation) direction {
	if d == anyway {
		return d
	}
	if o.mirror && (d == left || d == right) {
		d = (d + 2) % 4
	}
	return (d + direction(o.turn)) % 4
}

// orientation is how a symbol stands.
type orientation struct {
	turn   int // quarter turns clockwise
	mirror bool
}

// pin is where a port's line meets the symbol.
type pin struct {
	at  point // from the symbol's top left corner
	out direction
}

// symbol is the outline of a part: its size in cells and its pins. Pins and
// size are for orientation zero.
type symbol struct {
	w, h  int
	pins  map[string]pin
	turns []orientation // allowed, the plainest first
	wrap  int           // label width in characters before it breaks
	in    bool          // label stands inside
}

var (
	upright   = []orientation{{}}
	mirrored  = []orientation{{}, {0, true}}
	alongside = []orientation{{}, {0, true}, {1, false}, {3, false}}
	allTurns  = []orientation{{}, {0, true}, {2, false}, {2, true}, {1, false}, {3, false}, {1, true}, {3, true}}
)

func inline(w, h int) symbol {
	return symbol{w: w, h: h, pins: map[string]pin{"in": {point{0, h / 2}, left}, "out": {point{w, h / 2}, right},
		"a": {point{0, h / 2}, left}, "b": {point{w, h / 2}, right}}, turns: alongside, wrap: 12}
}

// symbolOf gives the outline of a part with its place number, 0 for none.
func symbolOf(p *plumbing.Part, number int) symbol {
	if o := outlines[p.Kind.Info().Glyph]; o != nil {
		return o(p, number)
	}
	return inline(4, 2)
}

// outline makes the symbol of a part with its place number.
type outline func(p *plumbing.Part, number int) symbol

// same is an outline that does not depend on the part.
func same(s symbol) outline { return func(*plumbing.Part, int) symbol { return s } }

// hanging is a small part at the end of a line that comes to one of its ports.
func hanging(port string, wrap int, turns ...orientation) outline {
	return same(symbol{w: 2, h: 3, turns: turns, wrap: wrap, pins: map[string]pin{port: {point{1, 3}, down}}})
}

// outlines are the outlines by the key of the glyph; what is not here stands in
// its line, four cells by two.
var outlines = map[string]outline{
	"tank": tank,
	"heater": same(symbol{w: 12, h: 8, in: true, wrap: 14, turns: mirrored, pins: map[string]pin{
		"cold": {point{0, 4}, left}, "hot": {point{12, 4}, right}, "drain": {point{6, 8}, down},
		"relief": {point{9, 0}, up}}}),
	"tee": same(symbol{turns: upright, wrap: 12, pins: map[string]pin{"a": {out: anyway}, "b": {out: anyway},
		"c": {out: anyway}}}),
	"manifold": manifold,
	"three-way": same(symbol{w: 4, h: 2, turns: allTurns, wrap: 12, pins: map[string]pin{
		"com": {point{4, 1}, right}, "a": {point{0, 1}, left}, "b": {point{2, 2}, down}}}),
	"mixer": same(symbol{w: 4, h: 2, turns: allTurns, wrap: 12, pins: map[string]pin{
		"mixed": {point{4, 1}, right}, "hot": {point{0, 1}, left}, "cold": {point{2, 2}, down}}}),
	"pump":     same(inline(4, 4)),
	"filter":   same(inline(4, 4)),
	"softener": same(inline(4, 4)),
	"pressure": hanging("out", 14, orientation{}, orientation{2, false}, orientation{3, false},
		orientation{1, false}),
	"gravity": hanging("out", 14, orientation{}, orientation{2, false}, orientation{3, false},
		orientation{1, false}),
	"pick-up": hanging("out", 14, orientation{}, orientation{2, false}, orientation{3, false},
		orientation{1, false}),
	"rinse": hanging("out", 14, orientation{}, orientation{2, false}, orientation{3, false},
		orientation{1, false}),
	"vent": hanging("in", 10, orientation{}, orientation{2, false}, orientation{1, false},
		orientation{3, false}),
	"accumulator": hanging("in", 10, orientation{}, orientation{2, false}, orientation{1, false},
		orientation{3, false}),
	"relief": hanging("in", 10, orientation{}, orientation{2, false}, orientation{1, false},
		orientation{3, false}),
	"drain":   same(symbol{w: 2, h: 4, turns: upright, wrap: 13, pins: map[string]pin{"in": {point{1, 0}, up}}}),
	"outlet":  tapBox,
	"machine": tapBox,
	"waste": same(symbol{w: 10, h: 4, in: true, wrap: 16, turns: mirrored,
		pins: map[string]pin{"rinse": {point{0, 2}, left}}}),
	"selector": same(symbol{w: 4, h: 4, turns: upright, wrap: 14}),
	"barrel": hanging("out", 14, orientation{}, orientation{2, false}, orientation{3, false},
		orientation{1, false}),
	"hatch": hanging("in", 12, orientation{}, orientation{2, false}),
	"hull":  same(symbol{w: 2, h: 4, turns: upright, wrap: 13, pins: map[string]pin{"in": {point{1, 0}, up}}}),
}

// tank has room at its top and its sides for as many more ports as it has.
func tank(p *plumbing.Part, _ int) symbol {
	s := symbol{w: 14, h: 8, in: true, wrap: 16, turns: mirrored, pins: map[string]pin{
		"fill": {point{2, 0}, up}, "return": {point{5, 0}, up}, "vent": {point{8, 0}, up},
		"overflow": {point{11, 0}, up}, "hatch": {point{13, 0}, up}}}
	low := map[direction]int{right: 4, left: 4, down: 7}
	lows := map[string]direction{"supply": right, "link": left, "drain": down, "bung": down}
	for _, port := range p.Ports() {
		if _, fixed := s.pins[port.Name]; !fixed && port.Level == plumbing.Top {
			s.pins[port.Name] = pin{point{s.w + 1, 0}, up}
			s.w += 3
		}
	}
	for _, port := range p.Ports() {
		out, ok := lows[plumbing.PortKind(port.Name)]
		if !ok {
			continue
		}
		at := low[out]
		switch low[out] += 3; out {
		case right:
			s.pins[port.Name] = pin{point{s.w, at}, out}
		case left:
			s.pins[port.Name] = pin{point{0, at}, out}
		default:
			s.pins[port.Name] = pin{point{at, 8}, out}
		}
		if out == right || out == left {
			s.h = max(s.h, at+2)
		}
	}
	for name, at := range s.pins {
		if at.out == down {
			at.at.Y = s.h
			s.pins[name] = at
		}
	}
	return s
}

func manifold(p *plumbing.Part, _ int) symbol {
	s := symbol{w: 2 + 3*p.Data.Ways, h: 2, turns: []orientation{{}, {0, true}, {2, false}, {2, true}}, wrap: 24,
		pins: map[string]pin{"in": {point{0, 1}, left}}}
	for i := range p.Data.Ways {
		s.pins["out"+itoa(i+1)] = pin{point{2 + 3*i, 2}, down}
	}
	return s
}

// tapBox is as wide and as high as the name of what gives water asks for, below its sign.
func tapBox(p *plumbing.Part, number int) symbol {
	b := box{no: number, lines: numberedText(number, p.Name, 10)}
	w := max(6, even(cellsOf(b.labelWidth()+8)))
	h := 6
	if n := len(b.lines); n > 2 {
		h = even(cellsOf(26 + float64(n)*labelHeight))
	}
	return symbol{w: w, h: h, in: true, wrap: 10, turns: upright, pins: map[string]pin{
		"cold": {point{w / 2, 0}, up}, "hot": {point{w / 2, h}, down}}}
}

// turnedBox is the size and pins of a symbol in an orientation.
func (s symbol) turnedBox(o orientation) (w, h int, pins map[string]pin) {
	w, h = s.w, s.h
	if o.turn%2 == 1 {
		w, h = h, w
	}
	pins = make(map[string]pin, len(s.pins))
	for name, p := range s.pins {
		at := p.at
		if o.mirror {
			at.X = s.w - at.X
		}
		switch o.turn {
		case 1:
			at = point{s.h - at.Y, at.X}
		case 2:
			at = point{s.w - at.X, s.h - at.Y}
		case 3:
			at = point{at.Y, s.w - at.X}
		}
		pins[name] = pin{at, p.out.turned(o)}
	}
	return w, h, pins
}

const (
	labelSize   = 12.0 // font size of labels
	labelHeight = 14.0 // of one line of a label
	numberSize  = 15.0 // font size of place numbers where labels are as small as they get
)

// textWidth estimates the width of a text in the drawing's typeface. It errs
// on the wide side, so that what fits by it fits on the page.
func textWidth(s string, size float64) float64 {
	w := 0.0
	for _, r := range s {
		switch {
		case strings.ContainsRune("iljtf.,:;'|! ()", r):
			w += 0.34
		case strings.ContainsRune("mwMW", r):
			w += 0.86
		case r >= 'A' && r <= 'Z' || r >= '0' && r <= '9':
			w += 0.66
		default:
			w += 0.56
		}
	}
	return w * size
}

// wrapText breaks a text into lines of about n characters at spaces; no word
// is broken.
func wrapText(s string, n int) []string {
	var lines []string
	line := ""
	for _, word := range strings.Fields(s) {
		if line != "" && len([]rune(line))+1+len([]rune(word)) > n {
			lines = append(lines, line)
			line = word
			continue
		}
		if line != "" {
			line += " "
		}
		line += word
	}
	return append(lines, line)
}

// numberedText is wrapText with room for a number before the first line, which is
// empty where the number stands alone.
func numberedText(number int, s string, n int) []string {
	if number == 0 {
		return wrapText(s, n)
	}
	lines := wrapText(itoa(number)+" "+s, n+1)
	lines[0] = strings.TrimPrefix(strings.TrimPrefix(lines[0], itoa(number)), " ")
	return lines
}

func longest(lines []string) string {
	best := ""
	for _, l := range lines {
		if textWidth(l, 1) > textWidth(best, 1) {
			best = l
		}
	}
	return best
}

func cellsOf(px float64) int { return int(math.Ceil(px / cell)) }

func even(n int) int { return n + n%2 }
