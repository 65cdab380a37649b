package amount

import (
	"cmp"
	"errors"
	"math"
	"slices"

	"coldtap/internal/core/constant"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/figure"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/record"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// Protected is how cold a share of glycol stands.
type Protected struct {
	Temp   quantity.Celsius
	None   bool // thinner than the table begins: not protected
	Colder bool // stronger than the table ends
}

// Said is how cold it stands.
func (p Protected) Said() fact.Fact {
	switch {
	case p.None:
		return fact.Of("protected.none")
	case p.Colder:
		return fact.Of("protected.colder", p.Temp)
	}
	return fact.Of("it.both", p.Temp)
}

// FreezePoint is where ice begins to form at a share of glycol, 0 to 1.
func FreezePoint(rec *record.Recorder, share float64) Protected {
	table := constant.Protection.Of(rec)
	return interpolate(table, share, func(i int) float64 { return table[i].Freeze })
}

// BurstPoint is down to where slush does not burst pipes at a share of glycol.
func BurstPoint(rec *record.Recorder, share float64) Protected {
	table := constant.Protection.Of(rec)
	return interpolate(table, share, func(i int) float64 { return table[i].Burst })
}

// tiny is what shares differ by that are the same.
const tiny = 1e-12

// interpolate reads the table by share. A plateau gives its coldest end.
func interpolate(table []constant.Glycol, share float64, column func(int) float64) Protected {
	last := len(table) - 1
	if share < column(0)-tiny {
		return Protected{None: true}
	}
	if share > column(last)+tiny {
		return Protected{Temp: table[last].Temp, Colder: true}
	}
	best := table[0].Temp
	for i := 1; i <= last; i++ {
		a, b := column(i-1), column(i)
		switch {
		case share >= b-tiny:
			best = table[i].Temp
		case share > a:
			return Protected{Temp: table[i-1].Temp +
				quantity.Celsius((share-a)/(b-a))*(table[i].Temp-table[i-1].Temp)}
		}
	}
	return Protected{Temp: best}
}

// BurstShare is the share of glycol that protects from bursting down to a
// temperature: what a ready-to-use product holds whose label says so. Colder
// than the table ends it is the table's last.
func BurstShare(rec *record.Recorder, temp quantity.Celsius) float64 {
	table := constant.Protection.Of(rec)
	if temp >= table[0].Temp {
		return table[0].Burst
	}
	for i := 1; i < len(table); i++ {
		a, b := table[i-1], table[i]
		if temp >= b.Temp {
			return a.Burst + (b.Burst-a.Burst)*float64((temp-a.Temp)/(b.Temp-a.Temp))
		}
	}
	return table[len(table)-1].Burst
}

// Weakest is the place where frost does harm first.
type Weakest struct {
	ID      string
	Name    fact.Fact
	Share   float64 // of glycol
	Left    quantity.Litre
	Holds   quantity.Litre
	Through quantity.Litre // antifreeze that goes through it when it has been filled
	Burst   Protected
	Freeze  Protected
	Enough  bool      // for the model's design low
	Source  fact.Fact // what the protection is read from
	Pockets []Pocket  // every place with plain water that frost would burst, the worst first
}

// Pocket is a place that no antifreeze runs through and that keeps plain
// water.
type Pocket struct {
	ID    string
	Name  fact.Fact
	Stays quantity.Litre
	Holds quantity.Litre
	Act   Act // that empties it by hand
}

// Act is what a hand does about a pocket that draining and antifreeze leave.
type Act int

// Acts that empty pockets.
const (
	NoAct      Act = iota
	PressCheck     // the check valve of an inlet is pressed open, its screen out
	SuckEmpty      // the pump sucks a pick-up hose empty
	OpenBowl       // the strainer's bowl is taken off
	BlowRinse      // a little air is blown through the rinse line
	RunDry         // the pump runs until it spits, the tank empty
)

// Said is what a hand does; nothing where nothing helps.
func (a Act) Said() fact.Fact {
	id := [...]string{"", "press-check", "suck-empty", "open-bowl", "blow-rinse", "run-dry"}[a]
	return fact.If(a != NoAct, fact.Of("by-hand."+id))
}

// Pockets lists the places that keep plain water which frost would burst when
// antifreeze has gone in as an answer says: bore-full stretches that it does
// not run through, and parts that break on little. Those that no hand act
// empties come first, the largest first.
func Pockets(n *plumbing.Network, plan []setting.Answer, a *setting.Answer, before LineState,
	rules house.House) []Pocket {
	read(n, a)
	s := a.State
	swept := treated(n, a)
	index := map[string]int{}
	wet, full := flow.EverWet(n, s), constant.BurstsFull.Of(n.Recorder())
	var list []Pocket
	for _, p := range leftBefore(n, plan, before, rules).Pieces {
		frail := p.Part != nil && plumbing.Field(n, &p.Part.Data.FrostSensitive) && p.Stays() > 0
		switch {
		case !wet.Left(p) || p.Unknown:
			continue
		case p.InLink() && (swept[p.Link] || n.FillHose(p.Link) || n.Links[p.Link].Line != nil &&
			n.Links[p.Link].Line.Side == plumbing.Air),
			!p.InLink() && !p.Vessel, // inside of an outlet
			!frail && p.Share() <= full:
			continue
		}
		id := p.ID(n)
		if i, ok := index[id]; ok {
			list[i].Stays += p.Stays()
			list[i].Holds += p.Holds()
			continue
		}
		index[id] = len(list)
		list = append(list, Pocket{ID: id, Name: pieceName(n, p), Stays: p.Stays(), Holds: p.Holds(),
			Act: byHand(n, p, swept)})
	}
	slices.SortStableFunc(list, func(x, y Pocket) int {
		if (x.Act == NoAct) != (y.Act == NoAct) {
			return cmp.Compare(x.Act, y.Act) // one of them is NoAct, the least
		}
		return cmp.Compare(y.Stays, x.Stays)
	})
	return list
}

// treated marks the links that a mode's fluid runs through: on its way to the
// outlets and low points, and in and out of accumulators as the pressure
// changes.
func treated(n *plumbing.Network, a *setting.Answer) []bool {
	outlets, drains := ends(n, a)
	to := append(slices.Clone(outlets), drains...)
	for _, p := range n.PartsOf(plumbing.RoleAccumulator) {
		to = append(to, n.Node(p.ID+".in"))
	}
	return courseOf(n, a).swept(a.Mode.From, to)
}

func pieceName(n *plumbing.Network, p flow.Left) fact.Fact {
	if p.Part != nil {
		return itself(p.Part)
	}
	return LineName(n, &n.Links[p.Link])
}

// byHand is the act that empties a pocket: at the part it is, or at one that
// it leads to with no handle and nothing treated between.
func byHand(n *plumbing.Network, p flow.Left, swept []bool) Act {
	if p.Vessel {
		return NoAct
	}
	seen := map[plumbing.LinkID]bool{p.Link: true}
	queue := []plumbing.LinkID{p.Link}
	for len(queue) > 0 {
		l := &n.Links[queue[0]]
		queue = queue[1:]
		for _, end := range []plumbing.NodeID{l.A, l.B} {
			switch part := n.Nodes[end].Part; part.Role() {
			case plumbing.RoleInlet:
				return PressCheck
			case plumbing.RolePickUp:
				return SuckEmpty
			case plumbing.RoleRinse:
				return BlowRinse
			case plumbing.RoleStrainer:
				return OpenBowl
			case plumbing.RoleTank:
				continue
			}
			for _, li := range n.Nodes[end].Links {
				if !seen[li] && !swept[li] && n.Links[li].Handle == plumbing.None &&
					(n.Links[li].Pump == plumbing.None || n.Links[li].Idle) {
					seen[li] = true
					queue = append(queue, li)
				}
			}
		}
	}
	if runsDry(n, p.Link) {
		return RunDry
	}
	return NoAct
}

// runsDry reports whether a stretch lies between a tank and a pump that draws
// from it, so that running the pump with the tank empty clears it.
func runsDry(n *plumbing.Network, link plumbing.LinkID) bool {
	for _, pump := range n.PartsOf(plumbing.RolePump) {
		if slices.Contains(suction(n, pump, plumbing.RoleTank), link) {
			return true
		}
	}
	return false
}

// WeakestPoint finds the place that frost harms first when antifreeze has gone
// in as an answer says, in a state of the lines before it. Plain water in
// a pocket that nothing treats comes first. Of the stretches that antifreeze
// runs through it is the one whose water, left from before, thins it most:
// a stretch that holds h, of which s is water, and that v goes through keeps
// a share s/h·e^(−v/h) of water; it is taken as well mixed, which is on the
// safe side of a front.
func WeakestPoint(n *plumbing.Network, plan []setting.Answer, a *setting.Answer, before LineState,
	rules house.House) (*Weakest, error) {
	id := "weakest/" + a.Mode.ID + "/" + before.ID()
	share := func(w *Weakest) figure.Value {
		if w == nil {
			return nil
		}
		return figure.Share(w.Share)
	}
	cell := figure.Work(n, id, share, func() *Weakest { return weakest(n, plan, a, before, rules) })
	if cell.Value() == nil {
		return nil, errors.New("antifreeze runs through nothing on this model")
	}
	w := *cell.Value()
	w.Enough = figure.Work(n, id+"/enough", figure.YesNo, func() bool {
		burst, low := cell.Of(n).Burst, plumbing.Field(n, &n.Model.DesignLow)
		return !burst.None && (low.IsZero() || burst.DownTo(low.Value()))
	}).Value()
	return &w, nil
}

// weakest is WeakestPoint without what is enough; nil where antifreeze runs
// through nothing.
func weakest(n *plumbing.Network, plan []setting.Answer, a *setting.Answer, before LineState,
	rules house.House) *Weakest {
	pockets := Pockets(n, plan, a, before, rules)
	var w *Weakest
	if len(pockets) > 0 && pockets[0].Act == NoAct {
		p := pockets[0]
		w = &Weakest{ID: p.ID, Name: p.Name, Left: p.Stays, Holds: p.Holds, Source: fact.Of("source.plain-water")}
	}
	if w == nil {
		w = thinnest(n, plan, a, before, rules)
	}
	if w != nil {
		w.Pockets = pockets
		w.Burst, w.Freeze = BurstPoint(n.Recorder(), w.Share), FreezePoint(n.Recorder(), w.Share)
	}
	return w
}

// DownTo reports whether it protects at a temperature. One that the table ends
// at holds for a degree more: the figure is rounded, and what it is read from
// protects further.
func (p Protected) DownTo(low quantity.Celsius) bool {
	return !p.None && (p.Temp <= low || p.Colder && p.Temp <= low+1)
}

// Said is what is too weak about it, for a model that is made for a cold.
func (w *Weakest) Said(low quantity.Given[quantity.Celsius]) fact.Fact {
	made := fact.If(!low.IsZero(), fact.Of("weakest.made-for", low))
	switch {
	case w.Share == 0:
		return fact.Of("weakest.plain", w.Name, w.Left, made)
	case w.Burst.None:
		return fact.Of("weakest.none", w.Name, made)
	}
	return fact.Of("weakest.burst", w.Name, w.Burst.Said(), made)
}

// thinnest finds the treated stretch where antifreeze is thinned most; nil if
// nothing is treated.
func thinnest(n *plumbing.Network, plan []setting.Answer, a *setting.Answer, before LineState,
	rules house.House) (w *Weakest) {
	left := leftBefore(n, plan, before, rules)
	outlets, drains := ends(n, a)
	swept := treated(n, a)
	product := BurstShare(n.Recorder(), house.Antifreeze.Of(rules))
	sum, holds, through := map[string]quantity.Litre{}, map[string]quantity.Litre{}, map[string]quantity.Litre{}
	pass := passed(n, a, outlets, drains, rules)
	var order []flow.Left
	for _, p := range left.Pieces {
		if !p.InLink() || !swept[p.Link] {
			continue
		}
		id := p.ID(n)
		if holds[id] == 0 {
			order = append(order, p)
		}
		sum[id] += p.Stays()
		holds[id] += p.Holds()
		through[id] = max(through[id], pass[p.Link])
	}
	for _, p := range order {
		id := p.ID(n)
		// What follows mixes with the water that is there and carries it on.
		water := float64(sum[id]/holds[id]) * math.Exp(-float64(through[id]/holds[id]))
		share := product * (1 - water)
		if w == nil || share < w.Share-tiny {
			w = &Weakest{Source: fact.Of("source.protection"), ID: id, Name: pieceName(n, p), Share: share,
				Left: sum[id], Holds: holds[id], Through: through[id]}
		}
	}
	return w
}

// passed is what goes through each link when it has been filled: what its ends
// overrun by, and what the links after it take.
func passed(n *plumbing.Network, a *setting.Answer, outlets, drains []plumbing.NodeID,
	rules house.House) []quantity.Litre {
	c := courseOf(n, a)
	pass, filled, onPath := make([]quantity.Litre, len(n.Links)), make([]bool, len(n.Links)), make([]bool, len(n.Links))
	for _, end := range slices.Concat(outlets, drains) {
		down := house.Overrun.Of(rules)
		if n.Nodes[end].Part.Role() == plumbing.RoleDrain {
			down = house.RunOut.Of(rules)
		}
		for _, li := range slices.Backward(c.path(end)) {
			pass[li] += down
			if !filled[li] {
				down, filled[li] = down+n.Content(&n.Links[li]), true
			}
			onPath[li] = true
		}
	}
	// A branch beside the path shares its flow; it gets at least the least
	// that any end overruns by.
	for li := range pass {
		if !onPath[li] {
			pass[li] = min(house.Overrun.Of(rules), house.RunOut.Of(rules))
		}
	}
	return pass
}

// leftBefore is what stands in the lines before antifreeze goes in. A model
// that can't be drained keeps everything.
func leftBefore(n *plumbing.Network, plan []setting.Answer, before LineState, rules house.House) *flow.Drained {
	return plumbing.Remember(n, before, func() *flow.Drained { return workLeftBefore(n, plan, before, rules) })
}

func workLeftBefore(n *plumbing.Network, plan []setting.Answer, before LineState, rules house.House) *flow.Drained {
	d := answer(n, plan, setting.DrainDown)
	s := state.Normal(n)
	s.Open = state.EveryTap(n)
	if d.Has() {
		s = d.Last()
	}
	drained := flow.Drain(n, s)
	switch before {
	case Full:
		// Water ahead of the front is pushed out where antifreeze runs; the front's
		// share mixes in. Elsewhere it stays.
		a := answer(n, plan, setting.Antifreeze)
		if !a.Has() {
			return drained
		}
		outlets, drains := ends(n, a)
		swept := courseOf(n, a).swept(a.Mode.From, slices.Concat(outlets, drains))
		drained = drained.Clone()
		for i := range drained.Pieces {
			if p := &drained.Pieces[i]; p.InLink() && swept[p.Link] {
				p.Keep(p.Holds() * quantity.Litre(house.Smear.Of(rules)))
			}
		}
	case Blown:
		air := answer(n, plan, setting.Blow)
		if !air.Has() {
			return drained
		}
		return flow.Blow(n, air.State, drained, house.Film.Of(rules))
	}
	return drained
}
