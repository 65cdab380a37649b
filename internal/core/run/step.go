package run

import (
	"context"
	"fmt"
	"math"
	"slices"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// Step is one step of a procedure: what hands do, what is waited for, what
// hands do then. What it leads to is not in it.
type Step struct {
	Acts  []state.Act
	Pour  []Pour
	Until Until
	Then  []state.Act // when what is waited for is there
	Rests bool        // the pumps rest by their duty as long as it goes on
}

// Pour is a liquid that goes into a part by hand: into a tank, or into a trap.
type Pour struct {
	Into  *plumbing.Part
	Litre quantity.Litre
	Mix   Mix
}

// Sense is what a person can tell there and then.
type Sense string

// The senses.
const (
	AtOnce   Sense = ""         // nothing is waited for
	Coloured Sense = "coloured" // at each place, glycol of a strength
	Strong   Sense = "strong"   // at each place, chlorine of a strength
	Smelled  Sense = "smelled"  // at each place, chlorine of a strength, by the nose
	Sour     Sense = "sour"     // at each place, acid of a strength
	Clear    Sense = "clear"    // at each place, no more glycol, chlorine and acid than a limit
	Solid    Sense = "solid"    // at each place, no air
	Spits    Sense = "spits"    // at one place, air
	Races    Sense = "races"    // every pump that is on draws air, for a few seconds
	Dry      Sense = "dry"      // nothing more runs
	Silent   Sense = "silent"   // nothing moves any more: the pump is silent
	Full     Sense = "full"     // of a tank, to a level
	Empty    Sense = "empty"    // of a tank: its supply gives air
	Passed   Sense = "passed"   // a time
	Ran      Sense = "ran"      // litres at the places together
)

// Until is what a step waits for.
type Until struct {
	Sense Sense
	At    []plumbing.NodeID // outlet sides and openings where it is looked at
	Tank  *plumbing.Part    // of Full and Empty
	Least Mix               // of Coloured and Strong: what is there at least; of Clear: what is there at most
	Gone  state.Fluid       // of Clear: what is to be gone, which says how somebody tells; colour where nothing is said
	Level float64           // of Full, 0 to 1
	Litre quantity.Litre    // of Ran; after any other, how much more runs at each place
	Room  bool              // at most until a waste tank is nearly full
	For   quantity.Second   // of Passed; of the others, how long is waited at most, 0 for no bound
}

// Outcome is what a step came to.
type Outcome struct {
	Moved
	Came   bool            // what was waited for
	NoRoom *plumbing.Part  // the waste tank that was nearly full before; nil for none
	Waited quantity.Second // of the time it took, what was waited for its own sake
	From   quantity.Second
	Opened []Opened
}

// Opened is something that a hand opened or took out, as it was just before.
type Opened struct {
	Part    *plumbing.Part
	Hot     bool // scalding water stands behind it
	Pressed bool // more than the water's own weight stands behind it
}

// Carrier carries steps out.
type Carrier struct {
	Smear  float64                            // share of a line that a front between two liquids mixes over in it
	Film   float64                            // share of a line that a blow leaves on its walls
	Cools  map[*plumbing.Part]quantity.Second // how long a heater takes until it may be opened
	Drains map[*plumbing.Part]quantity.Second // how long a full tank takes to run out
	Duty   Duty                               // of pumps that rest
	Wrong  func(state.State) state.State      // how everything stands whatever hands do; nil for as they left it
	Watch  func(*System, *Moved)              // sees a step from event to event; nil for nobody
}

// Duty is how long a pump may run at a stretch, and then rests.
type Duty struct{ On, Off quantity.Second }

// Carry carries a step out on a system, which it changes. That what is waited
// for does not come is no error: the outcome says so. An act that can't be done
// is one, and leaves the system as it was after the acts before it.
func (c Carrier) Carry(ctx context.Context, x *System, s Step) (*Outcome, error) {
	o := &Outcome{Moved: *newMoved(), From: x.clock}
	x.smear, x.wrong = c.Smear, c.Wrong
	cools := c.cools(x, s.Acts)
	if err := x.acts(s.Acts, o); err != nil {
		return o, err
	}
	x.pass(&o.Moved, float64(cools)/60)
	for _, p := range s.Pour {
		if err := x.pour(&o.Moved, p); err != nil {
			return o, err
		}
	}
	if err := c.wait(ctx, x, s.Until, s.Rests, o); err != nil {
		return o, err
	}
	err := x.acts(s.Then, o)
	x.cool(o, c.Duty.Off)
	return o, err
}

// cool lets pumps that are off, or that had nothing to do for as long as they rest, run as long as before.
func (x *System) cool(o *Outcome, off quantity.Second) {
	for i, p := range x.net.Pumps {
		idle := o.kept() - o.Pumps[p.ID]
		if !x.State.Pumps.Has(plumbing.PumpID(i)) || off > 0 && idle >= off {
			delete(x.stretch, p.ID)
		}
	}
}

// cools is how long somebody waits for what is switched off and still hot.
func (c Carrier) cools(x *System, acts []state.Act) (most quantity.Second) {
	for _, a := range acts {
		if a.Verb == state.HeatOff && a.Until == state.Cold && x.hot[a.Part] {
			most = max(most, c.Cools[a.Part])
		}
	}
	return most
}

// drains is how long what left tanks took to run out.
func (c Carrier) drains(x *System, before []Vessel) (most quantity.Second) {
	for i, v := range before {
		if gone := v.Liquid.Litre - x.vessels[i].Liquid.Litre; gone > v.Holds/20 {
			most = max(most, c.Drains[v.Part]*quantity.Second(gone/v.Holds))
		}
	}
	return most
}

// acts does what hands do, and lets run out what then runs by itself.
func (x *System) acts(list []state.Act, o *Outcome) error {
	for _, a := range list {
		before := x.State
		x.opens(a, o)
		after, err := before.Do(x.net, a)
		if err != nil {
			return fmt.Errorf("act: %w", err)
		}
		if x.wrong != nil {
			after = x.wrong(after)
		}
		x.State = after
		x.join(before)
		x.heats(a)
		switch a.Verb {
		case state.Catch:
			x.caught[a.Part] = true
		case state.Rinse:
			x.rinses[a.Part] = true
			x.wastes[a.Part] = Waste{Last: x.wastes[a.Part].Last}
		case state.Dump:
			x.wastes[a.Part] = Waste{Last: x.wastes[a.Part].Last}
		case state.Press:
			x.release(&o.Moved, a.Part)
		case state.Tip:
			x.tipHeater(a.Part)
		case state.TakeOut:
			if a.Part.Role() == plumbing.RoleFilter {
				x.tip(a.Part)
			}
		case state.Turn:
			if h := x.net.HandleOf(a.Part.ID); a.Part.Role() == plumbing.RoleStrainer &&
				before.Position(h) != x.State.Position(h) && x.State.Position(h) != x.net.Handles[h].Index("closed") {
				x.tip(a.Part)
			}
		}
		x.press()
		x.relax()
	}
	return nil
}

// relax lets pressure go by what stands open while nothing pushes, before any water runs out by its own weight.
func (x *System) relax() {
	if Sources(x.State) || !slices.Contains(x.pressed, true) {
		return
	}
	x.eased(x.waysOut(x.net, x.seen()))
}

// eased takes the pressure off whatever gets to some ways out.
func (x *System) eased(ways []way) {
	for _, w := range ways {
		for i := range x.pressed {
			x.pressed[i] = x.pressed[i] && !w.reached.Node(plumbing.NodeID(i))
		}
	}
}

// heats lets a heater get hot, or cold where somebody waits for it.
func (x *System) heats(a state.Act) {
	switch {
	case a.Verb == state.HeatOn:
		x.hot[a.Part], x.heated[a.Part] = true, true
	case a.Verb == state.HeatOff && a.Until == state.Cold:
		delete(x.hot, a.Part)
		delete(x.heated, a.Part)
	case a.Verb == state.HeatOff:
		delete(x.heated, a.Part)
	}
}

// Heated reports whether a heater is on, by whatever it is heated.
func (x *System) Heated(p *plumbing.Part) bool { return x.heated[p] }

// Heat lets scalding water stand in a heater, as in one that was in use.
func (x *System) Heat(p *plumbing.Part) { x.hot[p], x.heated[p] = true, true }

// Hot reports whether scalding water stands in a heater.
func (x *System) Hot(p *plumbing.Part) bool { return x.hot[p] }

// Pressed reports whether more than the water's own weight stands at a node.
func (x *System) Pressed(at plumbing.NodeID) bool { return x.pressed[at] }

// press puts what a source gets to under pressure. What lies outside holds none: the mouth of a drain that is shut again
// has let go of it.
func (x *System) press() {
	var from []plumbing.NodeID
	for at, c := range x.State.Joined {
		if c.Kind == state.Supply || c.Kind == state.HandPump || c.Kind == state.Compressed {
			from = append(from, at)
		}
	}
	for i, p := range x.net.Pumps {
		if x.State.Pumps.Has(plumbing.PumpID(i)) {
			from = append(from, x.net.Node(p.ID+".out"))
		}
	}
	if from == nil {
		return
	}
	r := flow.Reach(x.net, x.State, flow.Query{From: from})
	for i := range x.pressed {
		x.pressed[i] = x.pressed[i] || !x.net.Nodes[i].Outside && r.Node(plumbing.NodeID(i))
	}
}

// opens notes what a hand is about to open: the part itself, or those that its handle drives.
func (x *System) opens(a state.Act, o *Outcome) {
	if a.Verb == state.TakeOut {
		o.Opened = append(o.Opened, x.behind(a.Part))
	}
	h := x.net.HandleOf(a.Part.ID)
	if a.Verb != state.Turn || h == plumbing.None {
		return
	}
	to := x.net.Handles[h].Index(a.To)
	for i := range x.net.Links {
		l := &x.net.Links[i]
		if l.Handle == h && to != plumbing.None && l.Open.Has(to) && !l.Open.Has(x.State.Position(h)) &&
			(x.net.Nodes[l.A].Outside || x.net.Nodes[l.B].Outside) {
			o.Opened = append(o.Opened, x.behind(l.Part))
		}
	}
}

// behind is what stands behind a part.
func (x *System) behind(p *plumbing.Part) Opened {
	was := Opened{Part: p}
	for _, at := range x.nodesOf(p) {
		was.Pressed = was.Pressed || x.pressed[at]
		for _, li := range x.net.Nodes[at].Links {
			for _, end := range []plumbing.NodeID{x.net.Links[li].A, x.net.Links[li].B} {
				was.Hot = was.Hot || x.hot[x.net.Nodes[end].Part]
			}
		}
	}
	return was
}

// pour pours something into a tank, or lets it stand in a trap.
func (x *System) pour(m *Moved, p Pour) error {
	v, tank := x.lay.vessel[p.Into]
	if !tank && p.Into.Role() != plumbing.RoleTrap && p.Into.Data.Seal.IsZero() {
		return fmt.Errorf("nothing can be poured into %s", p.Into.ID)
	}
	poured := Plug{Litre: p.Litre, Mix: p.Mix}
	x.account.came(poured)
	if tank {
		x.exchange(m, &x.vessels[v], poured, Plug{})
	} else {
		x.lets(p.Into, x.sinkOf(p.Into), poured)
		if p.Litre >= p.Into.Data.Seal.Value()*0.9 { // it takes the place of what stood there
			x.seals[p.Into] = p.Mix
		}
	}
	return nil
}

// Seal is what stands in a trap's seal.
func (x *System) Seal(trap *plumbing.Part) Mix { return x.seals[trap] }

// Rinsed reports whether a waste tank was emptied and rinsed.
func (x *System) Rinsed(tank *plumbing.Part) bool { return x.rinses[tank] }

// wait lets everything run until what is waited for is there.
func (c Carrier) wait(ctx context.Context, x *System, u Until, rests bool, o *Outcome) error {
	m := &o.Moved
	blown := false
	for _, j := range x.State.Joined {
		blown = blown || j.Kind == state.Compressed
	}
	switch {
	case blown:
		x.blow(m, c.Film)
		x.pass(m, float64(u.For)/60)
		o.Came = true
		return nil
	case u.Sense == AtOnce && !Sources(x.State):
		x.settle(m)
		o.Came = true
		return nil
	case u.Sense == AtOnce:
		o.Came = true
		return nil
	case u.Sense == Dry && Sources(x.State): // as long as something pushes it goes on
		u = Until{Sense: Silent, For: max(u.For, patient)}
	case u.Sense == Dry:
		before := slices.Clone(x.vessels)
		runs := x.settle(m)
		x.pass(m, float64(max(u.For, runs, c.drains(x, before)))/60)
		o.Came = true
		return nil
	}
	x.settle(m)
	if err := x.squeezes(ctx, m, u.For); err != nil {
		return err
	}
	w := &waiting{u: u}
	if rests {
		w.duty = c.Duty
	}
	if err := x.flowUntil(ctx, m, w, c.Watch); err != nil {
		return err
	}
	x.breathe()
	if u.Sense == Passed {
		o.Waited = u.For
	}
	if w.u.Room && !w.met {
		o.NoRoom = x.fullWaste()
	}
	o.Came = w.met || o.NoRoom != nil || u.Sense == Silent && m.Silent || u.Sense == Passed
	x.settle(m)
	return nil
}

// waiting watches for what a step waits for.
type waiting struct {
	u     Until
	duty  Duty // of pumps that rest; nothing for pumps that don't
	met   bool
	since map[plumbing.NodeID]quantity.Litre // litres that had run when it came
}

// over reports whether what is waited for is there, or nobody waits any longer.
func (w *waiting) over(x *System, m *Moved) bool {
	u := &w.u
	if u.Room && x.fullWaste() != nil {
		return true
	}
	switch u.Sense {
	case Passed:
		w.met = m.kept() >= u.For-1e-9
		return w.met
	case Ran:
		w.met = w.ran(m) >= u.Litre-1e-9
		return w.met || w.late(m)
	case Full:
		v := x.Vessel(u.Tank)
		w.met = v != nil && v.Liquid.Litre >= v.Holds*quantity.Litre(u.Level)-v.drop()
		return w.met || w.late(m)
	case Empty:
		v := x.Vessel(u.Tank)
		w.met = v != nil && v.dry
		return w.met || w.late(m)
	case Silent:
		return m.Silent || w.late(m)
	case Races:
		w.met = len(m.Pumps) > 0
		for id := range m.Pumps {
			w.met = w.met && m.Dry[id] >= racing-1e-9
		}
		return w.met || w.late(m)
	}
	if w.since != nil && u.Sense != Spits && !w.there(m) {
		w.since = nil // it is gone again, air comes or what stood before: somebody goes on
	}
	if w.since == nil {
		if !w.there(m) {
			return w.late(m)
		}
		w.since = map[plumbing.NodeID]quantity.Litre{}
		for _, at := range u.At {
			w.since[at] = m.Ran[at]
		}
	}
	w.met = !slices.ContainsFunc(u.At, func(at plumbing.NodeID) bool { return m.Ran[at]-w.since[at] < u.Litre-1e-9 })
	return w.met || w.late(m)
}

// patient is how long somebody waits for what does not stop.
const patient quantity.Second = 600

// racing is how long a pump draws air until somebody hears it.
const racing quantity.Second = 3

// late reports whether nobody waits any longer.
func (w *waiting) late(m *Moved) bool { return w.u.For > 0 && m.kept() >= w.u.For-1e-9 }

// nearlyFull is how full a waste tank is when somebody who watches its gauge stops.
const nearlyFull = 0.9

// fullWaste is the first waste tank that is nearly full; nil for none.
func (x *System) fullWaste() *plumbing.Part {
	for _, t := range x.net.PartsOf(plumbing.RoleWaste) {
		holds := plumbing.Field(x.net, &t.Data.Capacity).Value()
		if holds > 0 && x.wastes[t].Stands.Litre >= holds*nearlyFull-trace {
			return t
		}
	}
	return nil
}

// room is how many minutes it may go on until a waste tank is nearly full.
func (x *System) room(f *field) float64 {
	rest := math.Inf(1)
	runs := map[*plumbing.Part]float64{}
	for at, node := range f.node {
		if node == plumbing.None || f.net[at] >= 0 {
			continue
		}
		if tank := x.net.Model.Part(x.sinkOf(x.net.Nodes[node].Part).Tank); tank != nil {
			runs[tank] -= f.net[at]
		}
	}
	for tank, q := range runs {
		if holds := plumbing.Field(x.net, &tank.Data.Capacity).Value(); holds > 0 && q > still {
			rest = min(rest, max(0, float64(holds*nearlyFull-x.wastes[tank].Stands.Litre))/q)
		}
	}
	return rest
}

func (w *waiting) ran(m *Moved) (sum quantity.Litre) {
	for _, at := range w.u.At {
		sum += m.Ran[at]
	}
	return sum
}

// there reports whether what arrives is what is waited for.
func (w *waiting) there(m *Moved) bool {
	u := &w.u
	sensed := func(at plumbing.NodeID) bool {
		p, came := m.Arrived[at]
		if !came {
			return false
		}
		if u.Sense == Spits {
			return p.Gas > 0.2
		}
		if p.Gas > 0.5 {
			return false
		}
		switch u.Sense {
		case Coloured:
			return p.Mix.Glycol >= u.Least.Glycol-1e-9
		case Strong, Smelled:
			return p.Mix.Chlorine >= u.Least.Chlorine-1e-9
		case Sour:
			return p.Mix.Acid >= u.Least.Acid-1e-9
		case Clear:
			return p.Mix.Glycol <= u.Least.Glycol+1e-9 && p.Mix.Chlorine <= u.Least.Chlorine+1e-9 &&
				p.Mix.Acid <= u.Least.Acid+1e-9
		}
		return p.Gas < 0.01
	}
	if u.Sense == Spits {
		return slices.ContainsFunc(u.At, sensed)
	}
	return len(u.At) > 0 && !slices.ContainsFunc(u.At, func(at plumbing.NodeID) bool { return !sensed(at) })
}

// within is how many minutes it may go on without being asked again; +Inf for no bound.
func (w *waiting) within(x *System, f *field, m *Moved) float64 {
	rest := math.Inf(1)
	if w.u.For > 0 {
		rest = float64(w.u.For-m.kept()) / 60
	}
	q := 0.0
	for _, at := range w.u.At {
		runs := -f.net[x.lay.place[at]]
		q += max(0, runs)
		if more := w.u.Litre - (m.Ran[at] - w.since[at]); w.since != nil && runs > still && more > 1e-9 {
			rest = min(rest, float64(more)/runs)
		}
	}
	switch {
	case w.u.Sense == Races:
		rest = min(rest, 1.0/60)
	case w.u.Sense == Ran && q > still:
		rest = min(rest, float64(w.u.Litre-w.ran(m))/q)
	case w.u.Sense == Full:
		if v := x.Vessel(w.u.Tank); v != nil {
			if into := x.fills(f, w.u.Tank); into > still {
				rest = min(rest, float64(v.Holds*quantity.Litre(w.u.Level)-v.Liquid.Litre)/into)
			}
		}
	}
	return max(rest, 0)
}

// fills is how fast a tank fills, in litres a minute.
func (x *System) fills(f *field, tank *plumbing.Part) (into float64) {
	for at, node := range f.node {
		if node != plumbing.None && x.net.Nodes[node].Part == tank {
			into -= f.net[at]
		}
	}
	return into
}
