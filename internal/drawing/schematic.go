// Package drawing makes SVG of a model: the schematic, the layout of parts on
// the camper, and handles as they stand. It computes places only; what a
// drawing shows comes from the core.
package drawing

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
	"coldtap/internal/core/words"
)

// Schematic is a network arranged on paper. It does not depend on a setting,
// so it is made once and drawn for many.
type Schematic struct {
	net   *plumbing.Network
	boxes []*box
	wires []*wire
	w, h  int
	Loose int // lines that find no way of their own and lie on others, or run over what stands there
}

// NewSchematic arranges a network, with the symbols that were moved by hand
// where they were put. Where lines find no way, more room is made between the
// parts until they do; if that does not help, the moves are left out, and then
// lines lie on others: Loose says how many.
// As lines are routed, told hears of it; nil for nobody.
func NewSchematic(ctx context.Context, n *plumbing.Network, told func(routed, of int)) (*Schematic, error) {
	n = seated(n)
	tries := []map[string]plumbing.Nudge{n.Model.Drawing, nil}
	if len(n.Model.Drawing) == 0 {
		tries = tries[1:]
	}
	rooms := gaps
	if len(n.Model.Lines) > manyLines {
		rooms = fewGaps
	}
	var last *placing
	for _, moves := range tries {
		for _, gap := range rooms {
			if ctx.Err() != nil {
				return nil, ctx.Err()
			}
			p := place(n, gap)
			if len(p.boxes) == 0 {
				return &Schematic{net: n, w: 4, h: 4}, nil
			}
			p.nudge(moves)
			if wires, _, ok := p.wiring(ctx, told); ok {
				return made(p, wires), nil
			}
			last = p
		}
	}
	if ctx.Err() != nil {
		return nil, ctx.Err()
	}
	wires, loose := last.wiringLoose()
	s := made(last, wires)
	s.Loose = loose
	return s, nil
}

// gaps is the room between parts, in cells, that is tried one after the other;
// fewGaps for more than manyLines lines, of which each try takes long.
var (
	gaps    = []int{0, 1, 2, 3, 4, 5, 6, 7}
	fewGaps = []int{0, 1, 3}
)

const manyLines = 90

func made(p *placing, wires []*wire) *Schematic {
	s := &Schematic{net: p.net, boxes: p.boxes, wires: wires, w: p.w, h: p.h}
	s.trim()
	return s
}

// seated is a network in which a part that sits on another is joined to it by
// a line, to be drawn like any other.
func seated(n *plumbing.Network) *plumbing.Network {
	if !slices.ContainsFunc(n.Links, isSeat) {
		return n
	}
	n = n.Changed()
	for i, l := range n.AllLinks() {
		if isSeat(*l) {
			n.Links[i].Line = &plumbing.Line{ID: l.Part.ID, From: l.Part.On, To: n.Nodes[l.B].Name(),
				Side: plumbing.Drain}
		}
	}
	return n
}

func isSeat(l plumbing.Link) bool { return l.Seat && l.Handle == plumbing.None }

// trim moves the drawing so that nothing is left empty at its edges.
func (s *Schematic) trim() {
	minX, minY, maxX, maxY := math.MaxInt, math.MaxInt, 0, 0
	see := func(x, y int) {
		minX, minY, maxX, maxY = min(minX, x), min(minY, y), max(maxX, x), max(maxY, y)
	}
	for _, b := range s.boxes {
		see(b.at.X, b.at.Y)
		see(b.at.X+b.w, b.at.Y+b.h)
		if b.label.w > 0 {
			see(b.label.x, b.label.y)
			see(b.label.x+b.label.w, b.label.y+b.label.h)
		}
	}
	for _, w := range s.wires {
		for _, p := range w.route.points {
			see(p.X, p.Y)
		}
	}
	move := point{2 - minX, 2 - minY}
	for _, b := range s.boxes {
		b.at = b.at.add(move)
		b.label.x += move.X
		b.label.y += move.Y
	}
	for _, w := range s.wires {
		for i := range w.route.points {
			w.route.points[i] = w.route.points[i].add(move)
		}
	}
	s.w, s.h = maxX-minX+4, maxY-minY+4
	hop(s.wires)
}

// Size is the drawing's size in CSS pixels at scale 1.
func (s *Schematic) Size() (w, h int) { return s.w * cell, s.h * cell }

// Show says what a schematic shows beside the plumbing itself.
type Show struct {
	State state.State
	Wet   map[plumbing.LinkID]state.Fluid // to what is in it
	Flow  map[plumbing.LinkID]float64     // to what flows from its A end, nought for nothing
	Full  map[plumbing.LinkID]float64     // to the share of it that stays full
	Way   map[plumbing.LinkID]string      // to a class that picks it out: "path" or "cut"
	Mark  map[string]string               // part or line to a class that picks it out
	Doing map[string]string               // part to what it does, for the spoken name: "running"
	Reads map[string][]string             // outlet to two short words written over its sign
	Act   func(part *plumbing.Part) Action
	Pick  func(line *plumbing.Line) string // attributes of the link that a line is; nil where it is none
	Ports bool                             // parts carry their ports, for lines that are made by pointing
	Title string
}

// Action is what a click on a part does: attributes of a link, and the word
// for it in the spoken name. The zero value does nothing.
type Action struct{ Attrs, Verb string }

// narrowest is the least width of the sheet that a schematic is drawn on.
const narrowest = 840

// SVG draws the schematic.
func (s *Schematic) SVG(show Show) string {
	var b svg
	w, h := s.Size()
	// A small system stands in the middle of a wider sheet, no larger than others.
	margin := max(0, (narrowest-w)/2)
	b.f(`<svg class="schematic" viewBox="%d 0 %d %d" role="group" aria-label="%s" data-width="%d">`, -margin,
		w+2*margin, h, esc(show.Title), w+2*margin)
	b.WriteString(`<g class="wets">`)
	for _, w := range s.wires {
		if fluid := show.Wet[w.link()]; fluid != "" {
			b.f(`<path class="wet wet-%s" d="%s"/>`, fluid, path(w.route.corners()))
		}
	}
	b.WriteString(`</g><g class="lines">`)
	for _, w := range s.wires {
		s.line(&b, w, show)
	}
	b.WriteString(`</g><g class="flows">`)
	for _, w := range s.wires {
		s.stays(&b, w, show)
		s.moving(&b, w, show)
	}
	b.WriteString(`</g><g class="parts">`)
	for _, x := range s.boxes {
		s.part(&b, x, show)
	}
	b.WriteString(`</g>`)
	s.hoses(&b, show)
	b.WriteString(`</svg>`)
	return b.String()
}

// hoses draws the jumper hoses that are on, hanging from one end to the other.
func (s *Schematic) hoses(b *svg, show Show) {
	for i, l := range s.net.AllLinks() {
		if !l.Seat || l.Handle == plumbing.None || int(l.Handle) >= len(show.State.Handles) ||
			!show.State.IsOpen(l, state.Can) {
			continue
		}
		from, to := s.box(s.net.Nodes[l.A].Part), s.box(s.net.Nodes[l.B].Part)
		if from == nil || to == nil {
			continue
		}
		// From the sides that face each other, under whatever stands between.
		dir := 1
		if from.at.X > to.at.X {
			dir = -1
		}
		side := func(x *box, dir int) (int, int) {
			return (2*x.at.X + x.w + dir*x.w) * cell / 2, (2*x.at.Y + x.h) * cell / 2
		}
		x0, y0 := side(from, dir)
		x1, y1 := side(to, -dir)
		sag := max(from.at.Y+from.h, to.at.Y+to.h)*cell + 40
		d := fmt.Sprintf("M%d %dC%d %d %d %d %d %d", x0, y0, x0+dir*20, sag, x1-dir*20, sag, x1, y1)
		b.f(`<g class="hose" role="img" aria-label="%s"><title>%s</title>`, esc(l.Part.Name+", on"), esc(l.Part.Name))
		if fluid := show.Wet[i]; fluid != "" {
			b.f(`<path class="wet wet-%s" d="%s"/>`, fluid, d)
		}
		b.f(`<path class="run" d="%s"/></g>`, d)
	}
}

// box is where a part stands, nil for one that is not drawn.
func (s *Schematic) box(p *plumbing.Part) *box {
	i := slices.IndexFunc(s.boxes, func(x *box) bool { return x.part == p })
	if i < 0 {
		return nil
	}
	return s.boxes[i]
}

// bend is the radius of a bend.
const bend = 4.0

// path draws a run of corners with small rounded bends.
func path(corners []point) string {
	const r = bend
	var b strings.Builder
	for i, p := range corners {
		x, y := float64(p.X*cell), float64(p.Y*cell)
		switch {
		case i == 0:
			fmt.Fprintf(&b, "M%g %g", x, y)
		case i == len(corners)-1:
			fmt.Fprintf(&b, "L%g %g", x, y)
		default:
			before, after := towards(p, corners[i-1], r), towards(p, corners[i+1], r)
			fmt.Fprintf(&b, "L%g %gQ%g %g %g %g", before[0], before[1], x, y, after[0], after[1])
		}
	}
	return b.String()
}

func towards(p, q point, r float64) [2]float64 {
	dx, dy := float64(q.X-p.X), float64(q.Y-p.Y)
	d := math.Hypot(dx, dy)
	return [2]float64{float64(p.X*cell) + dx/d*r, float64(p.Y*cell) + dy/d*r}
}

func (s *Schematic) line(b *svg, w *wire, show Show) {
	l := s.net.Links[w.link()].Line
	d := w.path()
	mark := ""
	if m := show.Mark[l.ID]; m != "" {
		mark = " mark-" + m
	}
	if m := show.Way[w.link()]; m != "" {
		mark += " way-" + m
	}
	if isSeat(s.net.Links[w.link()]) {
		b.f(`<g class="line seat"><title>%s sits on %s</title><path class="run" d="%s"/></g>`, esc(w.to.part.Name),
			esc(w.from.part.Name), d)
		return
	}
	tag, attrs := "g", ""
	if show.Pick != nil {
		// Not a stop of the tab key: lines are gone through in their list.
		tag, attrs = "a", show.Pick(l)+` tabindex="-1" aria-label="`+esc(s.lineTitle(w, l))+`"`
	}
	b.f(`<%s class="line side-%s%s" data-line="%s" %s><title>%s</title><path class="halo" d="%s"/>`+
		`<path class="run" d="%s"/>`, tag, l.Side, mark, esc(l.ID), attrs, esc(s.lineTitle(w, l)), d, d)
	if l.Side == plumbing.Hot {
		b.f(`<path class="core" d="%s"/>`, d)
	}
	if tag == "a" {
		b.f(`<path class="grab" d="%s"/>`, d)
	}
	b.f(`</%s>`, tag)
}

func (s *Schematic) lineTitle(w *wire, l *plumbing.Line) string {
	return fmt.Sprintf("%s to %s: %s, %s %s", w.from.part.Name, w.to.part.Name, l.Side, l.Size, l.Length)
}

// part draws a box: its symbol in its orientation, then its label.
func (s *Schematic) part(b *svg, x *box, show Show) {
	p := x.part
	class := "part kind-" + string(p.Kind)
	if m := show.Mark[p.ID]; m != "" {
		class += " mark-" + m
	}
	position := ""
	if h := s.net.HandleOf(p.ID); h >= 0 && int(h) < len(show.State.Handles) {
		position = s.stands(p, h, show.State)
		class += " pos-" + position
	}
	number := ""
	if x.no > 0 {
		number = itoa(x.no) + " "
	}
	letter, by := s.tie(p)
	spoken := strings.TrimSpace(strings.TrimSpace(number+p.Name+" "+capacityText(p)) + " " + letter)
	if words := show.Reads[p.ID]; words != nil {
		spoken += " " + strings.Join(words, " ")
	}
	if position != "" {
		spoken += ", " + words.English(quantity.US).Position(p, position)
	}
	if by != nil && by != p {
		spoken += ", set by " + plumbing.Lower(by.Name)
	}
	if letter != "" && number != "" {
		spoken += ", " + number + letter // what is read where the drawing is small
	}
	if does := show.Doing[p.ID]; does != "" {
		spoken += ", " + does
		class += " is-" + does
	}
	attrs, tag := "", "g"
	if show.Act != nil {
		if act := show.Act(p); act.Attrs != "" {
			attrs, tag = act.Attrs, "a"
			if act.Verb != "" {
				class += " turns"
				spoken += ". " + act.Verb
			}
		}
	}
	if show.Ports {
		attrs += ` data-ports="` + esc(s.ports(p)) + `"`
	}
	b.f(`<%s class="%s" data-part="%s" aria-label="%s" %s><title>%s</title>`, tag, class, esc(p.ID), esc(spoken), attrs,
		esc(spoken))
	hit := rect{x.at.X, x.at.Y, x.w, x.h}.with(x.label)
	b.f(`<rect class="hit" x="%d" y="%d" width="%d" height="%d" rx="4"/>`, hit.x*cell-4, hit.y*cell-4, hit.w*cell+8,
		hit.h*cell+8)
	b.f(`<rect class="edge" x="%d" y="%d" width="%d" height="%d" rx="4"/>`, x.at.X*cell-4, x.at.Y*cell-4, x.w*cell+8,
		x.h*cell+8)
	b.f(`<g class="symbol" transform="%s">`, transform(x))
	glyph(b, x, position)
	b.WriteString(`</g>`)
	inside(b, x)
	if words := show.Reads[p.ID]; words != nil {
		reading(b, x, words)
	}
	if lines := x.labelLines(); lines != nil {
		b.f(`<g class="name" data-side="%s">`, x.labelSide())
		for i, line := range lines {
			label(b, x, i, line)
		}
		b.WriteString(`</g>`)
	}
	x.mark(b)
	if letter != "" {
		cx, cy := (x.at.X+x.w)*cell, (x.at.Y+x.h)*cell
		b.f(
			`<g class="tie" aria-hidden="true"><circle cx="%d" cy="%d" r="7"/><text x="%d" y="%d" text-anchor="middle">%s</text></g>`,
			cx+1,
			cy+1,
			cx+1,
			cy+5,
			letter,
		)
	}
	b.f(`</%s>`, tag)
}

// ports lists a part's ports, those that are open with a plus before them.
func (s *Schematic) ports(p *plumbing.Part) string {
	used := map[string]bool{}
	for _, l := range s.net.Model.Lines {
		used[l.From], used[l.To] = true, true
	}
	var list []string
	for _, port := range p.Ports() {
		switch {
		case port.Seat():
		case used[p.ID+"."+port.Name]:
			list = append(list, port.Name)
		default:
			list = append(list, "+"+port.Name)
		}
	}
	return strings.Join(list, " ")
}

// label writes a line of a part's label, with the number before the first.
func label(b *svg, x *box, i int, at textLine) {
	number := ""
	if i == 0 && x.no > 0 {
		number = fmt.Sprintf(`<tspan class="no">%d</tspan> `, x.no)
	}
	b.f(`<text class="label" x="%g" y="%g" text-anchor="%s">%s%s</text>`, at.x, at.y, at.anchor, number,
		esc(x.lines[i]+" "))
}

// mark is the number alone, for drawings too small to read names: where the label
// would stand.
func (x *box) mark(b *svg) {
	if x.no == 0 {
		return
	}
	at := x.label
	if at.w == 0 {
		at = rect{x.at.X, x.at.Y, x.w, x.h}
	}
	cx, cy := float64(2*at.x+at.w)*cell/2, float64(2*at.y+at.h)*cell/2
	b.f(
		`<text class="mark" aria-hidden="true" x="%g" y="%g" text-anchor="middle" dominant-baseline="central">%d </text>`,
		cx,
		cy,
		x.no,
	)
}

// tie is the letter that a selector shares with what it sets, and the selector;
// "" for what none sets.
func (s *Schematic) tie(p *plumbing.Part) (string, *plumbing.Part) {
	count := 0
	for _, h := range s.net.Handles {
		if h.Part.Role() != plumbing.RoleSelector {
			continue
		}
		sets := slices.ContainsFunc(h.Part.Selector, func(c plumbing.Choice) bool { return c.Sets[p.ID] != "" })
		if sets || h.Part == p {
			return letterOf(count), h.Part
		}
		count++
	}
	return "", nil
}

// letterOf is A, B … Z, A1, B1 …
func letterOf(i int) string {
	letter := string(rune('A' + i%26))
	if i >= 26 {
		letter += itoa(i / 26)
	}
	return letter
}

// stands is the position of a part's own closure for a handle's position:
// the handle itself, or what a selector sets the part to.
func (s *Schematic) stands(p *plumbing.Part, h plumbing.HandleID, set state.State) string {
	hd := s.net.Handles[h]
	pos := hd.Positions[set.Position(h)]
	if hd.Part == p {
		return pos
	}
	for _, c := range hd.Part.Selector {
		if c.ID == pos {
			if sets, ok := c.Sets[p.ID]; ok {
				return sets
			}
		}
	}
	return p.NormalPosition()
}

// Symbols draws each part that a handle closes or sets in every position of that handle: for a page
// that turns handles by itself. It holds nothing else.
func (s *Schematic) Symbols() string {
	var b svg
	b.WriteString(`<svg>`)
	for _, x := range s.boxes {
		h := s.net.HandleOf(x.part.ID)
		if h < 0 {
			continue
		}
		hd := s.net.Handles[h]
		for i, pos := range hd.Positions {
			set := state.Normal(s.net).With(h, plumbing.Position(i))
			b.f(`<g data-of="%s" data-by="%s" data-at="%s" transform="%s">`, esc(x.part.ID), esc(hd.Part.ID), esc(pos),
				transform(x))
			glyph(&b, x, s.stands(x.part, h, set))
			b.WriteString(`</g>`)
		}
	}
	b.WriteString(`</svg>`)
	return b.String()
}

// transform puts a symbol drawn at orientation zero where its box stands.
func transform(x *box) string {
	t := fmt.Sprintf("translate(%d %d)", x.at.X*cell, x.at.Y*cell)
	w, h := x.sym.w*cell, x.sym.h*cell
	switch x.turn.turn {
	case 1:
		t += fmt.Sprintf(" translate(%d 0) rotate(90)", h)
	case 2:
		t += fmt.Sprintf(" translate(%d %d) rotate(180)", w, h)
	case 3:
		t += fmt.Sprintf(" translate(0 %d) rotate(270)", w)
	}
	if x.turn.mirror {
		t += fmt.Sprintf(" translate(%d 0) scale(-1 1)", w)
	}
	return t
}

// labelSide is the side of the symbol on which the label stands.
func (x *box) labelSide() string {
	switch {
	case x.label.x >= x.at.X+x.w:
		return "right"
	case x.label.x+x.label.w <= x.at.X:
		return "left"
	case x.label.y < x.at.Y:
		return "above"
	}
	return "below"
}

type textLine struct {
	x, y   float64
	anchor string
}

// labelLines says where the lines of a label outside the symbol stand.
func (x *box) labelLines() []textLine {
	if x.label.w == 0 {
		return nil
	}
	var list []textLine
	for i := range x.lines {
		l := textLine{float64(x.label.x*cell) + float64(x.label.w*cell)/2,
			float64(x.label.y*cell) + float64(i)*labelHeight + 11, "middle"}
		if x.besideLabel() {
			l.x, l.anchor = float64(x.label.x*cell), "start"
			if x.label.x < x.at.X {
				l.x, l.anchor = float64((x.label.x+x.label.w)*cell), "end"
			}
		}
		list = append(list, l)
	}
	return list
}
