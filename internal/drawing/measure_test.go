package drawing

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/sample"
)

// measure says what is wrong with a drawing and counts the crossings. It works
// on what is drawn, not on the router's grid.
func measure(s *Schematic) (faults []string, crossings int) {
	fault := func(format string, args ...any) { faults = append(faults, fmt.Sprintf(format, args...)) }
	type area struct {
		name string
		r    rect
		box  *box
	}
	var areas []area
	for _, b := range s.boxes {
		areas = append(areas, area{b.part.ID, rect{b.at.X, b.at.Y, b.w, b.h}, b})
		if b.label.w > 0 {
			areas = append(areas, area{b.part.ID + "'s label", b.label, b})
		}
	}
	touch := func(a, b rect) bool { // borders included: nothing may even touch
		return a.x <= b.x+b.w && b.x <= a.x+a.w && a.y <= b.y+b.h && b.y <= a.y+a.h
	}
	for i, a := range areas {
		if a.r.x < 0 || a.r.y < 0 || a.r.x+a.r.w > s.w || a.r.y+a.r.h > s.h {
			fault("%s is cut off", a.name)
		}
		for _, b := range areas[:i] {
			if touch(a.r, b.r) {
				fault("%s and %s overlap", a.name, b.name)
			}
		}
	}
	type segment struct {
		wire int
		a, b point
	}
	var segments []segment
	for i, w := range s.wires {
		corners := w.route.corners()
		for j := 1; j < len(corners); j++ {
			segments = append(segments, segment{i, corners[j-1], corners[j]})
			if corners[j].X != corners[j-1].X && corners[j].Y != corners[j-1].Y {
				fault("line %d runs aslant", i)
			}
		}
		if w.route.points[0] != w.end(0) || w.route.points[len(w.route.points)-1] != w.end(1) {
			fault("line %d does not end at its ports", i)
		}
		for _, p := range w.route.points {
			if p.X < 0 || p.Y < 0 || p.X > s.w || p.Y > s.h {
				fault("line %d leaves the frame", i)
			}
			for _, a := range areas {
				end := p == w.end(0) || p == w.end(1)
				if !end && p.X >= a.r.x && p.X <= a.r.x+a.r.w && p.Y >= a.r.y && p.Y <= a.r.y+a.r.h {
					fault("line %d runs through %s", i, a.name)
				}
			}
		}
	}
	for i, a := range segments {
		for _, b := range segments[:i] {
			if a.wire == b.wire {
				continue
			}
			level := func(s segment) bool { return s.a.Y == s.b.Y }
			ax0, ax1, ay0, ay1 := min(a.a.X, a.b.X), max(a.a.X, a.b.X), min(a.a.Y, a.b.Y), max(a.a.Y, a.b.Y)
			bx0, bx1, by0, by1 := min(b.a.X, b.b.X), max(b.a.X, b.b.X), min(b.a.Y, b.b.Y), max(b.a.Y, b.b.Y)
			if level(a) == level(b) {
				if ax0 <= bx1 && bx0 <= ax1 && ay0 <= by1 && by0 <= ay1 && !shareTee(s, a.wire, b.wire, a.a, a.b) {
					fault("lines %d and %d run on top of each other", a.wire, b.wire)
				}
				continue
			}
			if ax0 < bx1 && bx0 < ax1 && ay0 < by1 && by0 < ay1 {
				crossings++
			} else if ax0 <= bx1 && bx0 <= ax1 && ay0 <= by1 && by0 <= ay1 && !shareTee(s, a.wire, b.wire, a.a, a.b) &&
				!shareTee(s, a.wire, b.wire, b.a, b.b) {
				fault("lines %d and %d touch at a bend", a.wire, b.wire)
			}
		}
	}
	return faults, crossings
}

// shareTee reports whether two lines meet in a tee at one of the points.
func shareTee(s *Schematic, i, j int, points ...point) bool {
	a, b := s.wires[i], s.wires[j]
	for _, x := range []*box{a.from, a.to} {
		if x.part.Role() == plumbing.RoleJunction && (x == b.from || x == b.to) {
			for _, p := range points {
				if p == x.at {
					return true
				}
			}
		}
	}
	return false
}

func TestEveryDemoDrawingIsClean(t *testing.T) {
	models, err := demo.Models()
	require.NoError(t, err)
	for _, m := range models {
		var all []string
		for _, o := range m.Options {
			all = append(all, o.ID)
		}
		for _, options := range [][]string{m.StandardOptions(), all} {
			build, err := m.Build(options...)
			require.NoError(t, err)
			n, err := plumbing.NewNetwork(build)
			require.NoError(t, err)
			s, err := NewSchematic(t.Context(), n, nil)
			require.NoError(t, err, m.ID)
			faults, crossings := measure(s)
			assert.Empty(t, faults, m.ID)
			// A bound of one crossing to three lines; what is reached is logged.
			assert.LessOrEqual(t, crossings, len(build.Lines)/3, m.ID)
			t.Logf("%s: %d lines, %d crossings, %d × %d", m.ID, len(build.Lines), crossings, s.w*cell, s.h*cell)
		}
	}
}

func TestRandomDrawingsAreClean(t *testing.T) {
	total, lines := 0, 0
	for _, i := range sample.Seeds(t, 12, 200) {
		rng := rand.New(rand.NewPCG(i, 70))
		m := randomModel(rng, 20+rng.IntN(51))
		n, err := plumbing.NewNetwork(m)
		require.NoError(t, err)
		s, err := NewSchematic(t.Context(), n, nil)
		require.NoError(t, err, "network %d with %d lines", i, len(m.Lines))
		faults, crossings := measure(s)
		require.Empty(t, faults, "network %d", i)
		// Joined at random these are far from planar: two crossings a line at most.
		assert.LessOrEqual(t, crossings, 2*len(m.Lines), "network %d", i)
		total += crossings
		lines += len(m.Lines)
	}
	t.Logf("%d crossings in %d lines", total, lines)
}

// randomModel grows a system from a tank and a pump: each further part hangs
// on a free port of one that is there; some free ports are joined to close
// loops.
func randomModel(rng *rand.Rand, lines int) *plumbing.Model {
	m := &plumbing.Model{ID: "random", Name: "Random", Units: "us"}
	type free struct {
		ref string
		hot bool
	}
	var open []free
	count := map[plumbing.Kind]int{}
	add := func(k plumbing.Kind, data plumbing.Data) *plumbing.Part {
		count[k]++
		m.Parts = append(m.Parts, plumbing.Part{ID: fmt.Sprintf("%s-%d", k, count[k]), Kind: k,
			Name: fmt.Sprintf("%s number %d", k.Info().Name, count[k]), Data: data})
		return &m.Parts[len(m.Parts)-1]
	}
	join := func(a, b string, hot bool) {
		side := plumbing.Cold
		if hot {
			side = plumbing.Hot
		}
		m.Lines = append(m.Lines, plumbing.Line{ID: fmt.Sprintf("l%d", len(m.Lines)), From: a, To: b, Side: side})
	}
	offer := func(p *plumbing.Part, used string, hot bool) {
		for _, port := range p.Ports() {
			if port.Name != used && (p.Role() != plumbing.RoleHeater || port.Name != "drain") {
				open = append(open, free{p.ID + "." + port.Name, hot || port.Name == "hot"})
			}
		}
	}
	tank := add(plumbing.Tank, plumbing.Data{})
	pump := add(plumbing.Pump, plumbing.Data{})
	join(tank.ID+".supply", "pump-1.in", false)
	open = append(open, free{"pump-1.out", false})
	_ = pump
	grow := []plumbing.Kind{plumbing.Tee, plumbing.Tee, plumbing.Tee, plumbing.Valve, plumbing.CheckValve,
		plumbing.ThreeWay, plumbing.Filter, plumbing.Heater, plumbing.Manifold}
	end := []plumbing.Kind{plumbing.Outlet, plumbing.Outlet, plumbing.LowPoint, plumbing.CityInlet,
		plumbing.Accumulator, plumbing.Machine}
	for len(m.Lines) < lines {
		i := rng.IntN(len(open))
		at := open[i]
		open = append(open[:i], open[i+1:]...)
		if len(open) > 2 && rng.IntN(8) == 0 { // a loop
			j := rng.IntN(len(open))
			join(at.ref, open[j].ref, at.hot)
			open = append(open[:j], open[j+1:]...)
			continue
		}
		kinds := end
		if len(open) < 3 || rng.IntN(2) == 0 {
			kinds = grow
		}
		p := add(kinds[rng.IntN(len(kinds))], plumbing.Data{Ways: 2 + rng.IntN(5)})
		id := p.ID
		port := p.Ports()[0].Name
		if p.Role() == plumbing.RoleOutlet && at.hot {
			port = "hot"
		}
		join(at.ref, id+"."+port, at.hot)
		if kinds[0] == plumbing.Tee {
			offer(&m.Parts[len(m.Parts)-1], port, at.hot)
		}
	}
	return m
}

func BenchmarkSchematicLargestDemoModel(b *testing.B) {
	m, err := demo.Model("schist-31-2027")
	require.NoError(b, err)
	n, err := plumbing.NewNetwork(m)
	require.NoError(b, err)
	for b.Loop() {
		if _, err := NewSchematic(b.Context(), n, nil); err != nil {
			b.Fatal(err)
		}
	}
}
