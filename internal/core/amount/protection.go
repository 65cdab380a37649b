package amount

import (
	"fmt"
	"math"
	"slices"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
)

// protection is the share of inhibited propylene glycol, by volume of the
// concentrate, for a temperature: typical figures of makers' tables.
var protection = []struct {
	temp          quantity.Celsius
	freeze, burst float64
}{
	{-7, 0.18, 0.12}, {-12, 0.29, 0.20}, {-18, 0.36, 0.24}, {-23, 0.42, 0.28},
	{-29, 0.46, 0.30}, {-34, 0.50, 0.33}, {-40, 0.54, 0.35}, {-46, 0.57, 0.35},
}

const protectionSource = "share of inhibited concentrate by volume, typical makers' table"

// Protected is how cold a share of glycol stands.
type Protected struct {
	Temp   quantity.Celsius
	None   bool // thinner than the table begins: not protected
	Colder bool // stronger than the table ends
}

func (p Protected) String() string { return p.Words(quantity.SI) }

// Words tell it in a system of units.
func (p Protected) Words(sys quantity.System) string {
	switch {
	case p.None:
		return "not protected"
	case p.Colder:
		return quantity.Both(p.Temp, sys) + " or colder"
	}
	return quantity.Both(p.Temp, sys)
}

// FreezePoint is where ice begins to form at a share of glycol, 0 to 1.
func FreezePoint(share float64) Protected {
	return interpolate(share, func(i int) float64 { return protection[i].freeze })
}

// BurstPoint is down to where slush does not burst pipes at a share of glycol.
func BurstPoint(share float64) Protected {
	return interpolate(share, func(i int) float64 { return protection[i].burst })
}

// interpolate reads the table by share. A plateau gives its coldest end.
func interpolate(share float64, column func(int) float64) Protected {
	last := len(protection) - 1
	if share < column(0)-1e-12 {
		return Protected{None: true}
	}
	if share > column(last)+1e-12 {
		return Protected{Temp: protection[last].temp, Colder: true}
	}
	best := protection[0].temp
	for i := 1; i <= last; i++ {
		a, b := column(i-1), column(i)
		switch {
		case share >= b-1e-12:
			best = protection[i].temp
		case share > a:
			return Protected{Temp: protection[i-1].temp + quantity.Celsius((share-a)/(b-a))*(protection[i].temp-protection[i-1].temp)}
		}
	}
	return Protected{Temp: best}
}

// BurstShare is the share of glycol that protects from bursting down to a
// temperature: what a ready-to-use product holds whose label says so. Colder
// than the table ends it is the table's last.
func BurstShare(temp quantity.Celsius) float64 {
	if temp >= protection[0].temp {
		return protection[0].burst
	}
	for i := 1; i < len(protection); i++ {
		a, b := protection[i-1], protection[i]
		if temp >= b.temp {
			return a.burst + (b.burst-a.burst)*float64((temp-a.temp)/(b.temp-a.temp))
		}
	}
	return protection[len(protection)-1].burst
}

// Weakest is the place where antifreeze is thinned most.
type Weakest struct {
	ID, Name string
	Share    float64 // of glycol
	Left     quantity.Litre
	Holds    quantity.Litre
	Through  quantity.Litre // antifreeze that goes through it when it has been filled
	Burst    Protected
	Freeze   Protected
	Enough   bool   // for the model's design low
	Source   string // what the protection is read from
}

// WeakestPoint finds the treated stretch whose water, left from before, thins
// the antifreeze most, in a state of the lines. A stretch that holds h, of
// which s is water, and that v goes through keeps a share s/h·e^(−v/h) of
// water: it is taken as well mixed, which is on the safe side of a front.
func WeakestPoint(n *plumbing.Network, plan []setting.Answer, a *setting.Answer, state LineState, house House) (*Weakest, error) {
	left := leftBefore(n, plan, state, house)
	if left == nil {
		return nil, fmt.Errorf("this model can't be drained, so what is left in its lines is not known")
	}
	s := a.Setting
	s.PumpOn = a.Mode.PumpOn
	outlets, drains := ends(n, a)
	swept := sweptFrom(n, s, a.Mode.From, append(outlets, drains...))
	product := BurstShare(house.Antifreeze)
	var w *Weakest
	sum, holds, through := map[string]quantity.Litre{}, map[string]quantity.Litre{}, map[string]quantity.Litre{}
	pass := passed(n, a, outlets, drains, house)
	var order []flow.Left
	for _, p := range left.Pieces {
		if p.Link < 0 || !swept[p.Link] || p.Holds == 0 {
			continue
		}
		id := p.ID(n)
		if holds[id] == 0 {
			order = append(order, p)
		}
		sum[id] += p.Stays
		holds[id] += p.Holds
		through[id] = max(through[id], pass[p.Link])
	}
	for _, p := range order {
		id := p.ID(n)
		// What follows mixes with the water that is there and carries it on.
		water := float64(sum[id]/holds[id]) * math.Exp(-float64(through[id]/holds[id]))
		share := product * (1 - water)
		if w == nil || share < w.Share-1e-12 {
			name := id
			if p.Part != nil {
				name = p.Part.Name
			} else {
				name = LineName(n, &n.Links[p.Link])
			}
			w = &Weakest{Source: protectionSource, ID: id, Name: name, Share: share, Left: sum[id], Holds: holds[id], Through: through[id]}
		}
	}
	if w == nil {
		return nil, fmt.Errorf("antifreeze sweeps nothing on this model")
	}
	w.Burst, w.Freeze = BurstPoint(w.Share), FreezePoint(w.Share)
	low := n.Model.DesignLow
	w.Enough = low.IsZero() || !w.Burst.None && (w.Burst.Temp <= low.Value() || w.Burst.Colder && w.Burst.Temp <= low.Value()+1)
	return w, nil
}

// passed is what goes through each link when it has been filled: what its ends
// overrun by, and what the links after it take.
func passed(n *plumbing.Network, a *setting.Answer, outlets, drains []int, house House) []quantity.Litre {
	s := a.Setting
	s.PumpOn = a.Mode.PumpOn
	r := flow.Reach(n, s, flow.Query{From: a.Mode.From})
	pass, filled, onPath := make([]quantity.Litre, len(n.Links)), make([]bool, len(n.Links)), make([]bool, len(n.Links))
	for _, end := range slices.Concat(outlets, drains) {
		down := house.Overrun
		if n.Nodes[end].Part.Kind == plumbing.LowPoint {
			down = house.LowPointRunOut
		}
		for _, li := range slices.Backward(r.Path(end)) {
			pass[li] += down
			if !filled[li] {
				down, filled[li] = down+n.Links[li].Content, true
			}
			onPath[li] = true
		}
	}
	// A branch beside the path shares its flow; it gets at least the least
	// that any end overruns by.
	for li := range pass {
		if !onPath[li] {
			pass[li] = min(house.Overrun, house.LowPointRunOut)
		}
	}
	return pass
}

// leftBefore is what stands in the lines before antifreeze goes in.
func leftBefore(n *plumbing.Network, plan []setting.Answer, state LineState, house House) *flow.Drained {
	d := setting.Of(plan, setting.DrainDown)
	if !d.Has() {
		return nil
	}
	drained := flow.Drain(n, d.Setting, flow.Openings(n, d.Setting, nil))
	switch state {
	case Full:
		// Water ahead of the front is pushed out; the front's share mixes in.
		for i := range drained.Pieces {
			drained.Pieces[i].Stays = drained.Pieces[i].Holds * quantity.Litre(house.FrontSmear)
		}
	case Blown:
		air := setting.Of(plan, setting.Blow)
		if !air.Has() {
			return drained
		}
		var to []int
		for node := range flow.Everyone(n) {
			to = append(to, node)
		}
		return flow.Blow(n, air.Setting, drained, air.Mode.From[0], to, house.Film)
	}
	return drained
}
