package drawing

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// Place is a numbered place of the layout.
type Place struct {
	Number int
	Part   *plumbing.Part
}

// Places lists the parts that a reader looks for and that have a place, by their
// numbers. The numbers are the same wherever a part is shown.
func Places(m *plumbing.Model) []Place { return numbered(m, true) }

// Unplaced lists the parts that a reader looks for and whose place nobody gave.
func Unplaced(m *plumbing.Model) []Place { return numbered(m, false) }

func numbered(m *plumbing.Model, placed bool) (list []Place) {
	numbers := m.Numbers()
	for i := range m.Parts {
		p := &m.Parts[i]
		if n := numbers[p.ID]; n > 0 && p.Place.Front.IsZero() != placed {
			list = append(list, Place{n, p})
		}
	}
	slices.SortFunc(list, func(a, b Place) int { return cmp.Compare(a.Number, b.Number) })
	return list
}

// Layout draws the camper from above and from its left side.
type Layout struct {
	model  *plumbing.Model
	places []Place
	scale  float64 // pixels a metre
	from   float64 // metres from the front of the body to where the drawing begins: 0, or less
	above  float64 // metres from the body's left side to where the plan begins: 0, or less
	to     float64 // metres from the front to where the drawing ends
	wide   float64 // metres from the left side to where the plan ends
	length float64 // of the body, in metres
	width  float64
	floor  float64
	roof   float64
	quiet  bool   // names are told nowhere
	left   string // what its sides are called
	right  string
}

const (
	layoutWidth  = 860.0
	layoutMargin = 28.0
	markRadius   = 10.0
	tickRoom     = 30.0 // for the heights beside the side view
)

// NewLayout arranges the places of a model. Without the body's measures they
// are taken from the places. What stands outside the body, on a drawbar or at
// a transom, is drawn outside it.
func NewLayout(m *plumbing.Model) *Layout {
	v := m.Vehicle()
	l := &Layout{model: m, places: Places(m), left: v.Left, right: v.Right, length: float64(m.Body.Length.Value()) / 1000,
		width: float64(m.Body.Width.Value()) / 1000,
		floor: float64(m.Body.Floor.Value()), roof: float64(m.Body.Roof.Value())}
	const room = 0.2
	for _, p := range l.places {
		x, y := float64(p.Part.Place.Front.Value()), float64(p.Part.Place.Left.Value())
		l.from, l.to = min(l.from, x-room), max(l.to, x+room)
		l.above, l.wide = min(l.above, y), max(l.wide, y)
		l.roof = max(l.roof, float64(p.Part.Place.Height.Value())+room)
	}
	if l.from > -room {
		l.from = 0 // it stands within the front
	}
	if m.Body.Length.IsZero() {
		l.length = l.to
	}
	if m.Body.Width.IsZero() {
		l.width = l.wide
	}
	l.to, l.wide = max(l.to, l.length), max(l.wide, l.width)
	if l.to < l.length+room {
		l.to = l.length
	}
	l.scale = (layoutWidth - 2*layoutMargin - tickRoom) / max(l.to-l.from, 0.5)
	return l
}

// Sided is the layout with other names for the sides; a boat's stay, and so do those where none are given.
func (l *Layout) Sided(left, right string) *Layout {
	if left != "" && !l.model.Vehicle().Floats {
		l.left, l.right = left, right
	}
	return l
}

// x is where a distance from the front is drawn.
func (l *Layout) x(front float64) float64 { return layoutMargin + (front-l.from)*l.scale }

// Unnamed is the layout with numbers alone: for whoever is asked what is where.
func (l *Layout) Unnamed() *Layout {
	c := *l
	c.quiet = true
	return &c
}

// Places lists the numbered places.
func (l *Layout) Places() []Place { return l.places }

// mark is a numbered circle: where the part is, and where the circle stands
// so that no two overlap.
type mark struct {
	place  Place
	tx, ty float64
	x, y   float64
}

// spread moves circles apart until none overlap, and keeps them on a sheet of a height.
func spread(marks []mark, h float64) {
	const apart = 2*markRadius + 3
	for range 400 {
		moved := false
		for i := range marks {
			m := &marks[i]
			m.x = min(max(m.x, markRadius+2), layoutWidth-markRadius-2)
			m.y = min(max(m.y, markRadius+2), h-markRadius-2)
			for j := range marks[:i] {
				a, b := &marks[i], &marks[j]
				dx, dy := a.x-b.x, a.y-b.y
				d := math.Hypot(dx, dy)
				if d >= apart {
					continue
				}
				if d < 0.01 { // on the same spot: by number, so that it is always the same
					dx, dy, d = 0.01, 0.005*float64(1+i%3), 0.012
				}
				push := (apart - d) / 2
				a.x, a.y = a.x+dx/d*push, a.y+dy/d*push
				b.x, b.y = b.x-dx/d*push, b.y-dy/d*push
				moved = true
			}
		}
		if !moved {
			return
		}
	}
}

// Plan draws the view from above, front at the left, the camper's left side
// at the top.
func (l *Layout) Plan(chosen string) string {
	across, h := l.across, l.planHeight()
	var b svg
	v := l.model.Vehicle()
	b.f(`<svg class="layout plan" data-view="plan" data-scale-x="%.3f" data-scale-y="%.3f" data-x0="%.1f" data-y0="%.1f" `+
		`viewBox="0 0 %g %.0f" role="group" aria-label="Plan of %s">`, l.scale, l.scale, l.x(0), across(0), layoutWidth, h,
		esc(l.model.Title()))
	b.f(`<rect class="shell" x="%g" y="%g" width="%.1f" height="%.1f" rx="14"/>`, l.x(0), across(0), l.length*l.scale,
		l.width*l.scale)
	b.f(`<text class="side" x="%g" y="20">%s</text><text class="side" x="%g" y="%.0f">%s</text>`, layoutMargin, l.left,
		layoutMargin, h-10, l.right)
	b.f(`<text class="side" x="12" y="%.0f" transform="rotate(-90 12 %.0f)" text-anchor="middle">%s</text>`, h/2, h/2,
		v.Front)
	at := l.planAt
	for _, p := range l.places {
		if d := p.Part.Data; !d.InsideWidth.IsZero() && !d.InsideLength.IsZero() {
			x, y := at(p.Part)
			w, h := float64(d.InsideLength.Value())/1000*l.scale, float64(d.InsideWidth.Value())/1000*l.scale
			b.f(`<rect class="body-of" x="%.1f" y="%.1f" width="%.1f" height="%.1f" rx="5"/>`, x-w/2, y-h/2, w, h)
		}
	}
	for i := range l.model.Lines {
		line := &l.model.Lines[i]
		from, to := l.ends(line)
		if from == nil || to == nil {
			continue
		}
		x0, y0 := at(from)
		x1, y1 := at(to)
		l.run(&b, line, fmt.Sprintf("M%.1f %.1fH%.1fV%.1f", x0, y0, x1, y1))
	}
	l.marks(&b, chosen, at, h)
	b.WriteString(`</svg>`)
	return b.String()
}

// across is where a distance from the left side is drawn in the plan.
func (l *Layout) across(left float64) float64 { return layoutMargin + (left-l.above)*l.scale }

func (l *Layout) planHeight() float64 { return (l.wide-l.above)*l.scale + 2*layoutMargin }

// PlanSize is how wide and high the plan is, in its own units.
func (l *Layout) PlanSize() (width, height float64) { return layoutWidth, l.planHeight() }

// PlanSpots are where the plan has the numbers of parts, by their ids.
func (l *Layout) PlanSpots() map[string][2]float64 {
	spots := map[string][2]float64{}
	for _, m := range l.spread(l.planAt, l.planHeight()) {
		spots[m.place.Part.ID] = [2]float64{m.x, m.y}
	}
	return spots
}

func (l *Layout) planAt(p *plumbing.Part) (x, y float64) {
	return l.x(float64(p.Place.Front.Value())), l.across(float64(p.Place.Left.Value()))
}

// spread are the marks of all places, at such points and moved apart, on a sheet of a height.
func (l *Layout) spread(at func(*plumbing.Part) (x, y float64), h float64) (marks []mark) {
	for _, p := range l.places {
		x, y := at(p.Part)
		marks = append(marks, mark{p, x, y, x, y})
	}
	spread(marks, h)
	return marks
}

// Side draws the view from the left side: heights, and how lines run up and
// down between their ends. Heights are drawn larger than lengths, so that a
// dip can be seen; what stands empty above the highest part is left out. Water
// that stays in pieces of lines is drawn into them.
func (l *Layout) Side(chosen string, stays ...Stay) string {
	top, low := l.floor, 0.0
	for _, p := range l.places {
		h := float64(p.Part.Place.Height.Value())
		top = max(top, h+float64(p.Part.Data.InsideHeight.Value())/1000)
		low = min(low, h)
	}
	top += 0.2
	sy := l.scale * Stretch
	h := (top-low)*sy + 2*layoutMargin
	y := func(m float64) float64 { return layoutMargin + (top-m)*sy }
	x := l.x
	var b svg
	b.f(`<svg class="layout side-view" data-view="side" data-scale-x="%.3f" data-scale-y="%.3f" data-x0="%.1f" data-y0="%.1f" `+
		`viewBox="0 0 %g %.0f" role="group" aria-label="Side view of %s">`, l.scale, sy, x(0), y(0), layoutWidth, h,
		esc(l.model.Title()))
	b.f(`<path class="shell" d="M%g %.1fV%.1fH%.1fV%.1f"/>`, x(0), layoutMargin/2, y(l.floor), x(l.length),
		layoutMargin/2)
	b.f(`<path class="ground" d="M0 %.1fH%g"/>`, y(0), layoutWidth-layoutMargin-tickRoom)
	for _, t := range l.ticks(low, top) {
		b.f(`<path class="tick" d="M%g %.1fH%.1f"/><text class="side" x="%.1f" y="%.1f">%s</text>`, layoutMargin,
			y(float64(t)), x(l.to),
			x(l.to)+5, y(float64(t))+4, esc(quantity.Neat(t, l.model.System())))
	}
	for _, p := range l.places {
		if d := p.Part.Data; !d.InsideHeight.IsZero() && !d.InsideLength.IsZero() {
			half, ph := float64(d.InsideLength.Value())/2000, float64(p.Part.Place.Height.Value())
			tall := float64(d.InsideHeight.Value()) / 1000
			id := p.Part.ID
			if l.quiet {
				id = ""
			}
			b.f(`<rect class="body-of" data-body="%s" x="%.1f" y="%.1f" width="%.1f" height="%.1f" rx="5"/>`, esc(id),
				x(float64(p.Part.Place.Front.Value())-half), y(ph+tall), 2*half*l.scale, tall*sy)
		}
	}
	for i := range l.model.Lines {
		if d := l.profile(&l.model.Lines[i], x, y); d != "" {
			l.run(&b, &l.model.Lines[i], d)
		}
	}
	l.stays(&b, stays, x, y)
	l.marks(&b, chosen, func(p *plumbing.Part) (float64, float64) {
		return x(float64(p.Place.Front.Value())), y(float64(p.Place.Height.Value()))
	}, h)
	b.WriteString(`</svg>`)
	return b.String()
}

// Stretch is how much larger than lengths the side view draws heights.
const Stretch = 2.0

// ticks are round heights to read the side view by.
func (l *Layout) ticks(low, top float64) []quantity.Metre {
	step := 0.25
	if l.model.System() == quantity.US {
		step = 12 * 0.0254
	}
	var list []quantity.Metre
	for n := math.Ceil(low / step); n*step < top; n++ {
		list = append(list, quantity.Metre(n*step))
	}
	return list
}

// ends gives the parts a line joins.
func (l *Layout) ends(line *plumbing.Line) (from, to *plumbing.Part) {
	a, _ := plumbing.PartOf(line.From)
	b, _ := plumbing.PartOf(line.To)
	return l.model.Part(a), l.model.Part(b)
}

// profile is a line's run in the side view, through its high and low spots.
func (l *Layout) profile(line *plumbing.Line, x, y func(float64) float64) string {
	d := ""
	for i, p := range l.heightPoints(line) {
		if i == 0 {
			d = fmt.Sprintf("M%.1f %.1f", x(p[0]), y(p[1]))
			continue
		}
		d += fmt.Sprintf("L%.1f %.1f", x(p[0]), y(p[1]))
	}
	return d
}

func (l *Layout) run(b *svg, line *plumbing.Line, d string) {
	if l.quiet {
		b.f(`<g class="line side-%s"><path class="run" d="%s"/>`, line.Side, d)
	} else {
		b.f(`<g class="line side-%s" data-line="%s"><title>%s</title><path class="run" d="%s"/>`, line.Side, esc(line.ID),
			esc(line.ID), d)
	}
	if line.Side == plumbing.Hot {
		b.f(`<path class="core" d="%s"/>`, d)
	}
	b.WriteString(`</g>`)
}

func (l *Layout) marks(b *svg, chosen string, at func(*plumbing.Part) (x, y float64), h float64) {
	marks := l.spread(at, h)
	for _, m := range marks {
		if math.Hypot(m.x-m.tx, m.y-m.ty) > 2 {
			b.f(`<path class="leader" d="M%.1f %.1fL%.1f %.1f"/><circle class="spot" cx="%.1f" cy="%.1f" r="2"/>`, m.x,
				m.y, m.tx, m.ty, m.tx, m.ty)
		}
	}
	for _, m := range marks {
		class := "place"
		if m.place.Part.ID == chosen {
			class += " chosen"
		}
		at := m.place.Part.Place
		if l.quiet {
			b.f(`<g class="%s" data-no="%d" role="img" aria-label="%d"><circle cx="%.1f" cy="%.1f" r="%g"/>`+
				`<text x="%.1f" y="%.1f" text-anchor="middle">%d</text></g>`, class, m.place.Number, m.place.Number, m.x, m.y,
				markRadius, m.x, m.y+4, m.place.Number)
			continue
		}
		b.f(`<g class="%s" data-part="%s" data-front="%g" data-left="%g" data-height="%g" role="img" aria-label="%s">`+
			`<title>%s</title><circle cx="%.1f" cy="%.1f" r="%g"/><text x="%.1f" y="%.1f" text-anchor="middle">%d</text></g>`,
			class, esc(m.place.Part.ID), float64(at.Front.Value()), float64(at.Left.Value()),
			float64(at.Height.Value()), esc(fmt.Sprintf("%d %s", m.place.Number, m.place.Part.Name)),
			esc(fmt.Sprintf("%d %s", m.place.Number, m.place.Part.Name)),
			m.x, m.y, markRadius, m.x, m.y+4, m.place.Number)
	}
}
