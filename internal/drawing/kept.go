package drawing

import (
	"encoding/json"
	"fmt"
	"slices"

	"coldtap/internal/core/plumbing"
)

// kept is an arrangement as it is kept: what can't be told from the network.
type kept struct {
	Size  [2]int     `json:"size"`
	Loose int        `json:"loose,omitempty"`
	Boxes []keptBox  `json:"boxes"` // in the order of ids
	Wires [][][2]int `json:"wires"` // ends and bends, in the order of links
}

type keptBox struct {
	ID    string            `json:"id"`
	At    [2]int            `json:"at"`
	Turn  int               `json:"turn"` // which of those that the symbol can have
	Label [4]int            `json:"label"`
	Pins  map[string][2]int `json:"pins,omitempty"` // where they are other than the symbol has them
}

// Keep writes an arrangement, so that a later process need not make it again.
func (s *Schematic) Keep() ([]byte, error) {
	k := kept{Size: [2]int{s.w, s.h}, Loose: s.Loose}
	for _, b := range s.boxes {
		x := keptBox{ID: b.part.ID, At: [2]int{b.at.X, b.at.Y}, Turn: slices.Index(b.sym.turns, b.turn),
			Label: [4]int{b.label.x, b.label.y, b.label.w, b.label.h}}
		_, _, usual := b.sym.turnedBox(b.turn)
		for name, p := range b.pins {
			if usual[name].at != p.at {
				if x.Pins == nil {
					x.Pins = map[string][2]int{}
				}
				x.Pins[name] = [2]int{p.at.X, p.at.Y}
			}
		}
		k.Boxes = append(k.Boxes, x)
	}
	for _, w := range s.wires {
		var corners [][2]int
		for _, p := range w.route.corners() {
			corners = append(corners, [2]int{p.X, p.Y})
		}
		k.Wires = append(k.Wires, corners)
	}
	return json.Marshal(k)
}

// Kept is an arrangement of a network that was kept. It is an error where it is
// of another network.
func Kept(n *plumbing.Network, raw []byte) (*Schematic, error) {
	var k kept
	if err := json.Unmarshal(raw, &k); err != nil {
		return nil, fmt.Errorf("kept drawing: %w", err)
	}
	n = seated(n)
	p := boxesOf(n, 0)
	p.bands()
	if len(p.boxes) != len(k.Boxes) {
		return nil, fmt.Errorf("kept drawing: it has %d parts instead of %d", len(k.Boxes), len(p.boxes))
	}
	for i, b := range p.boxes {
		x := k.Boxes[i]
		if x.ID != b.part.ID {
			return nil, fmt.Errorf("kept drawing: it has the part %q", x.ID)
		}
		if b.band != branchBand && b.inline() {
			b.sym.turns = mirrored
		}
		if x.Turn < 0 || x.Turn >= len(b.sym.turns) {
			return nil, fmt.Errorf("kept drawing: %q can't be turned so", x.ID)
		}
		b.turn, b.at = b.sym.turns[x.Turn], point{x.At[0], x.At[1]}
		b.measure()
		for name, at := range x.Pins {
			pin, ok := b.pins[name]
			if !ok {
				return nil, fmt.Errorf("kept drawing: %q has no port %q", x.ID, name)
			}
			pin.at = point{at[0], at[1]}
			b.pins[name] = pin
		}
		b.label = rect{x.Label[0], x.Label[1], x.Label[2], x.Label[3]}
	}
	wires, _ := p.wires()
	if len(wires) != len(k.Wires) {
		return nil, fmt.Errorf("kept drawing: it has %d lines instead of %d", len(k.Wires), len(wires))
	}
	for i, w := range wires {
		r, err := w.along(k.Wires[i])
		if err != nil {
			return nil, err
		}
		w.route = r
	}
	hop(wires)
	return &Schematic{net: n, boxes: p.boxes, wires: wires, w: k.Size[0], h: k.Size[1], Loose: k.Loose}, nil
}

// along is the route of a wire by its corners.
func (w *wire) along(corners [][2]int) (*route, error) {
	wrong := fmt.Errorf("kept drawing: line %d runs from nowhere", w.id)
	if len(corners) < 2 {
		return nil, wrong
	}
	at := point{corners[0][0], corners[0][1]}
	if at != w.end(0) {
		return nil, wrong
	}
	r := &route{id: w.id, points: []point{at}}
	for _, c := range corners[1:] {
		to := point{c[0], c[1]}
		if at.X != to.X && at.Y != to.Y || len(r.points) > mostSteps {
			return nil, wrong
		}
		for at != to {
			at = at.add(point{sign(to.X - at.X), sign(to.Y - at.Y)})
			if r.points = append(r.points, at); len(r.points) > mostSteps {
				return nil, wrong
			}
		}
	}
	if at != w.end(1) {
		return nil, wrong
	}
	return r, nil
}

// mostSteps is how long a route can be.
const mostSteps = 1 << 13

func sign(n int) int {
	switch {
	case n > 0:
		return 1
	case n < 0:
		return -1
	}
	return 0
}
