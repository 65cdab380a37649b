package pretend

import (
	"math"
	"slices"

	"coldtap/internal/core/plumbing"
)

// runsOut is how much runs out of lines and heaters by their own weight when
// the openings of a job stand open: of each piece what lies above the lowest
// rim on its way to an opening. Air follows everywhere but into blind ends.
func (u *unit) runsOut(open map[plumbing.NodeID]bool, opens []string) (litres float64) {
	z := u.heights()
	type cell struct {
		za, zb, litres float64
		a, b           int
	}
	// Points are the ends of lines and passages, and the spots of lines between them.
	var cells []cell
	points := append([]float64(nil), z...)
	for i := range u.n.Links {
		l := &u.n.Links[i]
		if l.Line != nil && l.Line.Side == plumbing.Supply {
			continue // the pump has sucked it empty
		}
		if l.OneWay || !u.open(l) || l.Part != nil && (l.Part.Kind == plumbing.Tank || l.Part.Vessel()) {
			continue
		}
		if l.Line == nil {
			cells = append(cells, cell{points[l.A], points[l.B], u.content(plumbing.LinkID(i)), int(l.A), int(l.B)})
			continue
		}
		length, at, done := float64(l.Line.Length.Value()), int(l.A), 0.0
		add := func(to int, share float64) {
			cells = append(cells, cell{points[at], points[to], u.content(plumbing.LinkID(i)) * (share - done), at, to})
			at, done = to, share
		}
		for _, s := range l.Line.SpotsInOrder() {
			points = append(points, float64(s.Height.Value()))
			add(len(points)-1, math.Min(1, float64(s.At.Value())/length))
		}
		add(int(l.B), 1)
	}
	lets := map[int]bool{} // points where air comes in
	for at := range open {
		lets[int(at)] = true
	}
	for _, name := range opens {
		lets[int(u.n.Node(name))] = true
	}
	for i, node := range u.n.Nodes {
		if node.Part.Vessel() {
			lets[i] = true
		}
	}
	for dropped := true; dropped; {
		dropped = false
		ends := map[int]int{}
		for _, c := range cells {
			ends[c.a]++
			ends[c.b]++
		}
		cells = slices.DeleteFunc(cells, func(c cell) bool {
			blind := ends[c.a] == 1 && !lets[c.a] || ends[c.b] == 1 && !lets[c.b]
			dropped = dropped || blind
			return blind
		})
	}
	rim := make([]float64, len(points))
	for i := range rim {
		if rim[i] = math.Inf(1); i < len(z) && open[plumbing.NodeID(i)] {
			rim[i] = z[i]
		}
	}
	for changed := true; changed; {
		changed = false
		for _, c := range cells {
			for _, way := range [][2]int{{c.a, c.b}, {c.b, c.a}} {
				if over := math.Max(points[way[1]], rim[way[0]]); over < rim[way[1]]-1e-12 {
					rim[way[1]], changed = over, true
				}
			}
		}
	}
	for _, c := range cells {
		if level := math.Min(rim[c.a], rim[c.b]); !math.IsInf(level, 1) && u.wet(c.a, c.b) {
			litres += c.litres * (1 - below(c.za, c.zb, level))
		}
	}
	for i := range u.n.Model.Parts {
		p := &u.n.Model.Parts[i]
		if p.Kind == plumbing.Heater && p.Vessel() && u.drains(p, rim) {
			litres += float64(p.Data.Capacity.Value() - p.Data.Heel.Value())
		}
	}
	return litres
}

// wet reports whether water stood between two points before: not behind what is open to the air by itself.
func (u *unit) wet(a, b int) bool {
	for _, i := range []int{a, b} {
		if i < len(u.n.Nodes) {
			if k := u.n.Nodes[i].Part.Kind; k == plumbing.OpenEnd || k == plumbing.Tank || k == plumbing.ContainerPort ||
				k == plumbing.GravityFill || k == plumbing.RinseInlet || k == plumbing.WasteTank {
				return false
			}
		}
	}
	return true
}

// drains reports whether a heater's water gets out by its drain.
func (u *unit) drains(heater *plumbing.Part, rim []float64) bool {
	at := u.n.Node(heater.ID + ".drain")
	return at >= 0 && !math.IsInf(rim[at], 1)
}

// below is the share of a straight piece that lies below a level.
func below(za, zb, level float64) float64 {
	low, high := math.Min(za, zb), math.Max(za, zb)
	switch {
	case level <= low:
		return 0
	case level >= high:
		return 1
	}
	return (level - low) / (high - low)
}

// heights are those of all nodes, in m; one that is not given is that of a neighbour.
func (u *unit) heights() []float64 {
	z, known := make([]float64, len(u.n.Nodes)), make([]bool, len(u.n.Nodes))
	for i, node := range u.n.Nodes {
		h, ok := u.n.PortHeight(node.Part, node.Port)
		z[i], known[i] = float64(h), ok
	}
	for range z {
		for i := range u.n.Links {
			l := &u.n.Links[i]
			switch {
			case known[l.A] && !known[l.B]:
				z[l.B], known[l.B] = z[l.A], true
			case known[l.B] && !known[l.A]:
				z[l.A], known[l.A] = z[l.B], true
			}
		}
	}
	return z
}
