// Package chart draws worked-out amounts: strengths on a scale, flushing over
// refills, a procedure on the clock, weights by level. Its drawings take their
// colours from the style sheet and say everything without colour too.
package chart

import (
	"fmt"
	"html"
	"math"
	"strings"
	"time"
)

// paper is an SVG that is being drawn.
type paper struct{ strings.Builder }

func newPaper(w, h float64, title string) *paper {
	p := &paper{}
	fmt.Fprintf(p, `<svg class="chart" viewBox="0 0 %.0f %.0f" role="img" aria-label="%s">`, w, h,
		html.EscapeString(title))
	return p
}

func (p *paper) line(class string, x1, y1, x2, y2 float64) {
	fmt.Fprintf(p, `<path class="%s" d="M%.1f %.1fL%.1f %.1f"/>`, class, x1, y1, x2, y2)
}

func (p *paper) rect(class string, x, y, w, h float64) {
	fmt.Fprintf(p, `<rect class="%s" x="%.1f" y="%.1f" width="%.1f" height="%.1f"/>`, class, x, y, w, h)
}

func (p *paper) text(class string, x, y float64, words string) {
	fmt.Fprintf(p, `<text class="%s" x="%.1f" y="%.1f">%s</text>`, class, x, y, html.EscapeString(words))
}

func (p *paper) done() string { return p.String() + "</svg>" }

// scale puts values from low to high on a stretch of the paper.
type scale struct {
	low, high, from, to float64
	log                 bool
}

func (s scale) at(v float64) float64 {
	v = math.Max(s.low, math.Min(s.high, v))
	share := (v - s.low) / (s.high - s.low)
	if s.log {
		share = math.Log(v/s.low) / math.Log(s.high/s.low)
	}
	return s.from + share*(s.to-s.from)
}

// Strength is a row of a strength scale: a point where Low equals High.
type Strength struct {
	Name      string
	Low, High float64 // mg/L
	Note      string  // beside the row, at its right
	Chosen    bool
	Refused   bool
}

// Strengths draws rows on one scale of mg/L with the ceiling across them.
func Strengths(rows []Strength, ceiling float64) string {
	const w, left, right, top, step = 760, 235, 610, 26, 22
	h := top + step*float64(len(rows)) + 14
	p := newPaper(w, h, "Strengths on one scale, in milligrams of chlorine per litre")
	x := scale{1, 500, left, right, true}
	for _, t := range []float64{1, 2, 5, 10, 20, 50, 100, 200, 500} {
		p.line("grid", x.at(t), top-6, x.at(t), h-8)
		p.text("tick mid", x.at(t), 13, fmt.Sprintf("%.0f", t))
	}
	p.text("tick", right+22, 13, "mg/L")
	for i, r := range rows {
		y := top + step*(float64(i)+.5)
		class := "mark"
		if r.Chosen {
			class = "mark chosen"
			p.rect("band", 4, y-step/2, w-8, step)
		}
		if r.Refused {
			class = "mark refused"
		}
		p.text("name", 8, y+4.5, r.Name)
		if r.High > r.Low {
			p.rect(class, x.at(r.Low), y-5, math.Max(3, x.at(r.High)-x.at(r.Low)), 10)
		} else {
			c := x.at(r.Low)
			fmt.Fprintf(p, `<path class="%s" d="M%.1f %.1fl7 7l-7 7l-7 -7z"/>`, class, c, y-7)
		}
		p.text("note", right+12, y+4.5, r.Note)
	}
	p.line("limit", x.at(ceiling), top-6, x.at(ceiling), h-8)
	return p.done()
}

// Course is a strength after each refill, beginning with what stood at first.
type Course struct {
	Name string
	At   []float64 // mg/L
}

// Refills draws courses of strength over refills, with the limit that is
// flushed to.
func Refills(courses []Course, limit float64) string {
	const w, h, left, right, top, bottom = 760, 250, 56, 480, 26, 210
	most, high, low := 1, 1.0, math.Max(limit/4, 0.05)
	for _, c := range courses {
		most = max(most, len(c.At)-1)
		for _, v := range c.At {
			high = math.Max(high, v)
		}
	}
	p := newPaper(w, h, "Strength over refills")
	x, y := scale{0, float64(most), left, right, false}, scale{low, high * 1.2, bottom, top, true}
	for _, t := range []float64{0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200} {
		if t >= y.low && t <= y.high {
			p.line("grid", left, y.at(t), right, y.at(t))
			p.text("tick end", left-8, y.at(t)+4, fmt.Sprintf("%g", t))
		}
	}
	for i := 0; i <= most; i++ {
		p.text("tick mid", x.at(float64(i)), bottom+18, fmt.Sprint(i))
	}
	p.text("tick mid", (left+right)/2, bottom+35, "refills of the tank")
	p.text("tick end", left-8, 12, "mg/L")
	p.line("limit", left, y.at(limit), right, y.at(limit))
	p.text("note", right+12, y.at(limit)+4, fmt.Sprintf("limit %.3g mg/L", limit))
	for i, c := range courses {
		var d strings.Builder
		for j, v := range c.At {
			fmt.Fprintf(&d, "%s%.1f %.1f", map[bool]string{true: "M", false: "L"}[j == 0], x.at(float64(j)), y.at(v))
		}
		fmt.Fprintf(p, `<path class="course c%d" d="%s"/>`, i+1, d.String())
		for j, v := range c.At {
			fmt.Fprintf(p, `<circle class="dot c%d" cx="%.1f" cy="%.1f" r="4"/>`, i+1, x.at(float64(j)), y.at(v))
		}
		ky := top + 14 + 26*float64(i)
		fmt.Fprintf(p, `<path class="course c%d" d="M%d %.1fh34"/>`, i+1, right+12, ky-4)
		p.text("note", right+54, ky, c.Name)
	}
	return p.done()
}

// Stretch is a part of a procedure on the clock.
type Stretch struct {
	From, To time.Time
	Attended bool
}

// Clock draws stretches to scale between full hours, with their numbers from 1.
func Clock(list []Stretch) string {
	if len(list) == 0 {
		return ""
	}
	const w, left, right, top, tall = 760, 16, 744, 30, 34
	start, end := list[0].From, list[len(list)-1].To
	x := func(t time.Time) float64 { return left + (right-left)*float64(t.Sub(start))/float64(end.Sub(start)) }
	p := newPaper(w, top+tall+34, "The procedure on the clock")
	hours := end.Sub(start).Hours()
	step := time.Hour * time.Duration(math.Max(1, math.Ceil(hours/12)))
	for t := start.Truncate(time.Hour).Add(time.Hour); t.Before(end); t = t.Add(step) {
		p.line("grid", x(t), top-8, x(t), top+tall+6)
		label := t.Format("15:04")
		if t.Hour() == 0 {
			label = t.Format("Mon 00:00")
		}
		p.text("tick mid", x(t), 14, label)
	}
	last := math.Inf(-1)
	for i, s := range list {
		class := "away"
		if s.Attended {
			class = "there"
		}
		p.rect(class, x(s.From), top, math.Max(1.5, x(s.To)-x(s.From)), tall)
		if mid := (x(s.From) + x(s.To)) / 2; mid-last > 15 {
			p.text("tick mid", mid, top+tall+16, fmt.Sprint(i+1))
			last = mid
		}
	}
	return p.done()
}

// Bar is the weight at a level of the tank.
type Bar struct {
	Name, Note string
	Value      float64
}

// Weights draws bars against a carrying capacity; 0 for none.
func Weights(bars []Bar, capacity float64) string {
	const w, left, right, step = 760, 90, 520, 26
	h := 24 + step*float64(len(bars))
	high := capacity
	for _, b := range bars {
		high = math.Max(high, b.Value)
	}
	if high == 0 {
		return ""
	}
	p := newPaper(w, h, "Weight of the water at each reading of the tank's probes")
	x := scale{0, high, left, right, false}
	for i, b := range bars {
		y := 18 + step*float64(i)
		p.text("name end", left-10, y+13, b.Name)
		p.rect("water", left, y, math.Max(1, x.at(b.Value)-left), 17)
		p.text("note", right+14, y+13, b.Note)
	}
	if capacity > 0 {
		p.line("limit", x.at(capacity), 12, x.at(capacity), h-2)
		p.text("tick end", x.at(capacity)-5, 11, "carrying capacity")
	}
	return p.done()
}
