// Package draft makes procedures from a model's equipment, the settings found
// for it, its amounts and the rules of the house. What a step leads to is not
// written here: the proof carries it out.
package draft

import (
	"context"
	"maps"
	"slices"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// Inputs are what procedures are made of.
type Inputs struct {
	Net   *plumbing.Network
	Plan  []setting.Answer
	House house.House
}

// draft is a procedure in the making, with how the system stands after the
// steps so far.
type draft struct {
	Inputs
	maker *Maker
	ctx   context.Context
	at    state.State
	x     *run.System // what now gives; nil before it is asked for
	run   proof.Run
	proc  proof.Procedure
}

// doses is what goes into the tanks in a way of use.
func (d *draft) doses(a *setting.Answer) []amount.DosePlan {
	return worked(d, func() []amount.DosePlan { return amount.PlanDoses(d.Net, a, d.House) })
}

// untreated are what antifreeze does not reach in a way of use.
func (d *draft) untreated(a *setting.Answer, before amount.LineState) []amount.Pocket {
	return worked(d, func() []amount.Pocket { return amount.Pockets(d.Net, d.Plan, a, before, d.House) })
}

// worked is what is worked out by figures, on all of which the procedure stands.
func worked[T any](d *draft, work func() T) (got T) {
	d.Net.Recorder().Whole(func() { got = work() })
	return got
}

// step adds a step; its acts change how the system stands.
func (d *draft) step(what string, s run.Step) *run.Outcome {
	for _, a := range slices.Concat(s.Acts, s.Then) {
		if after, err := d.at.Do(d.Net, a); err == nil {
			d.at = after
		}
	}
	if len(s.Acts) == 0 && len(s.Pour) == 0 && s.Until.Sense == run.AtOnce {
		return new(run.Outcome)
	}
	if s.Until.Room {
		return d.inParts(what, s)
	}
	before := d.mark()
	o := d.add(what, s)
	if over := d.wasteOver(before.x); over != nil && what != dumpWaste && d.run.Broke == nil { // there is no room for it
		d.back(before)
		d.dump(dumpWaste, over)
		before = d.mark()
		if o = d.add(what, s); d.wasteOver(before.x) != nil && again(s) { // not even after that: in parts
			d.back(before)
			on := d.proc.Limit.Duty.On
			s.Until.Room, s.Rests = true, on > 0 && longest(o) > on
			return d.inParts(what, s)
		}
	}
	if on := d.proc.Limit.Duty.On; on > 0 && !s.Rests && d.run.Broke == nil && longest(o) > on {
		d.back(before)
		s.Rests = true
		o = d.add(what, s)
	}
	return o
}

// dumpWaste is what a step is for in which waste tanks are emptied.
const dumpWaste = "dump-waste"

// mostParts is into how many steps one is taken apart at most.
const mostParts = 40

// inParts adds a step as often as it takes until it ends by itself, with the waste tanks emptied where it ends
// for want of room.
func (d *draft) inParts(what string, s run.Step) *run.Outcome {
	begun := d.mark().steps
	o := d.add(what, s)
	for o.NoRoom != nil && len(d.proc.Steps)-begun < mostParts {
		d.dump(dumpWaste, []*plumbing.Part{o.NoRoom})
		o = d.add(what, s)
	}
	return o
}

// again reports whether a step can be gone on with after a break: nothing that ends is joined or poured in it.
func again(s run.Step) bool {
	return len(s.Pour) == 0 && s.Until.Sense != run.AtOnce && !slices.ContainsFunc(s.Acts, func(a state.Act) bool {
		return a.Verb == state.Join && a.With.Kind != state.Supply
	})
}

// dump empties waste tanks.
func (d *draft) dump(what string, list []*plumbing.Part) {
	var acts []state.Act
	for _, t := range list {
		acts = append(acts, state.Act{Verb: state.Dump, Part: t})
	}
	d.add(what, run.Step{Acts: acts})
}

// add adds a step and carries it out.
func (d *draft) add(what string, s run.Step) *run.Outcome {
	d.proc.Steps = append(d.proc.Steps, proof.Step{Step: s, For: what, Pool: d.pool(s)})
	return d.carry(s)
}

// pool is how many jugs are poured together for the cycle of a machine that a step lets run; 0 for none.
func (d *draft) pool(s run.Step) (most int) {
	for _, a := range s.Acts {
		if a.Verb != state.Open || a.Part.Role() != plumbing.RoleMachine {
			continue
		}
		cycle, jug := plumbing.Field(d.Net, &a.Part.Data.Cycle).Value(), d.proc.Limit.Jug
		for _, c := range d.at.Joined {
			if jug > 0 && cycle > jug && c.Kind == state.Container && c.Fluid == state.Antifreeze {
				most = max(most, quantity.RoundUp(float64(cycle/jug)))
			}
		}
	}
	return most
}

// longest is how long a pump ran at a stretch.
func longest(o *run.Outcome) (most quantity.Second) {
	for _, t := range o.Stretch {
		most = max(most, t)
	}
	return most
}

// wasteOver are the waste tanks that hold more than they can since a system stood as it did.
func (d *draft) wasteOver(was *run.System) (list []*plumbing.Part) {
	for _, t := range d.Net.PartsOf(plumbing.RoleWaste) {
		holds := proof.WasteHolds(d.Net, t)
		if v := d.x.Waste(t).Stands.Litre; holds > 0 && v > holds && was.Waste(t).Stands.Litre < v {
			list = append(list, t)
		}
	}
	return list
}

// mark is how far a draft was.
type mark struct {
	x     *run.System // as it then stood; nobody changes it
	at    state.State
	steps int
	broke error
}

func (d *draft) mark() mark {
	d.now()
	return mark{d.run.Systems[len(d.run.Systems)-1], d.at, len(d.proc.Steps), d.run.Broke}
}

// back takes a draft back to where it was: it is as if what came since had not been done.
func (d *draft) back(m mark) {
	d.x, d.at, d.proc.Steps = m.x.Clone(), m.at, d.proc.Steps[:m.steps]
	d.run.Outcomes, d.run.Systems, d.run.Broke = d.run.Outcomes[:m.steps], d.run.Systems[:m.steps+1], m.broke
	for f, mix := range d.proc.Start.Fluids { // what was brought since stays so
		d.x.Bring(f, mix)
	}
}

// carry carries a step out, unless one before it can't be done.
func (d *draft) carry(s run.Step) *run.Outcome {
	if d.run.Broke != nil {
		return d.try(d.x, s)
	}
	o, err := d.proc.Carrier().Carry(d.ctx, d.x, s)
	d.run.Outcomes, d.run.Systems = append(d.run.Outcomes, o), append(d.run.Systems, d.x.Clone())
	d.run.Broke = err
	return o
}

// try carries a step out on a system for a look at what it comes to.
func (d *draft) try(x *run.System, s run.Step) *run.Outcome {
	o, _ := d.proc.Carrier().Carry(d.ctx, x, s)
	return o
}

// turns are the acts that turn handles from how they stand to a setting; only
// those that pass leave out others.
func (d *draft) turns(to state.State, only func(*plumbing.Part) bool) (acts []state.Act) {
	for i, h := range d.Net.AllHandles() {
		if to.Handles[i]&d.at.Handles[i] == 0 && (only == nil || only(h.Part)) {
			acts = append(acts, state.Act{Verb: state.Turn, Part: h.Part, To: h.Positions[to.Position(i)]})
		}
	}
	slices.SortStableFunc(acts, func(a, b state.Act) int { return jointsAt(a) - jointsAt(b) })
	return acts
}

// jointsAt is when an act comes among others: a joint is joined before anything is opened, and parted when all is shut.
func jointsAt(a state.Act) int {
	switch {
	case a.Part.Role() != plumbing.RoleJoint:
		return 1
	case a.To == "together":
		return 0
	}
	return 2
}

// of are the acts of a mode that are of some kinds.
func of(m *setting.Mode, verbs ...state.Verb) (acts []state.Act) {
	for _, a := range m.Acts {
		if slices.Contains(verbs, a.Verb) {
			acts = append(acts, a)
		}
	}
	return acts
}

// side is one side of an outlet.
type side struct {
	part *plumbing.Part
	name string
	node plumbing.NodeID
}

func (s side) open() state.Act {
	return state.Act{Verb: state.Open, Part: s.part, Sides: []string{s.name}}
}

func (s side) shut() state.Act { return state.Act{Verb: state.Shut, Part: s.part} }

// sides are the sides of outlets and machines that a mode serves, the farthest
// first; of one outlet the hot side first where it is said so.
func (d *draft) sides(a *setting.Answer, hotFirst bool) (list []side) {
	outlets, _ := amount.Ends(d.Net, a, amount.FarthestFirst)
	for _, stop := range outlets {
		n := d.Net.Nodes[stop]
		if d.spared(a, stop) {
			continue
		}
		list = append(list, side{n.Part, n.Port, stop})
	}
	if hotFirst {
		for i := 0; i+1 < len(list); i++ {
			if list[i].part == list[i+1].part && list[i].name == "cold" && list[i+1].name == "hot" {
				list[i], list[i+1] = list[i+1], list[i]
				i++
			}
		}
	}
	return list
}

// spared reports whether a side gets a mode's fluid only through a part that must not meet it, and
// that no hand empties.
func (d *draft) spared(a *setting.Answer, at plumbing.NodeID) bool {
	shy := d.shy()
	for _, s := range a.States() {
		s.Pumps = state.AllPumps(d.Net)
		if flow.Reach(d.Net, s, flow.Query{From: a.Mode.From, Without: shy}).Node(at) {
			return false
		}
	}
	return len(shy) > 0
}

// shy are the parts that what is dosed must not run through, and that no hand empties.
func (d *draft) shy() (list []*plumbing.Part) {
	for _, p := range d.Net.PartsOf(plumbing.RoleFilter, plumbing.RoleSoftener) {
		if d.Net.FittingOf(p) == plumbing.None {
			list = append(list, p)
		}
	}
	return list
}

// heaterOff switches heaters off, and waits until their water is cold.
func (d *draft) heaterOff() { d.step("heater-off", run.Step{Acts: d.heatersOff(state.Cold)}) }

// quiet lets nothing heat and nothing push: heaters off, then pumps off and hoses taken off.
func (d *draft) quiet() {
	d.heaterOff()
	d.supplyOff()
}

// supplyOff switches pumps off and takes hoses off.
func (d *draft) supplyOff() {
	acts := append(d.pumps(state.Off), d.hoses()...)
	d.step(d.stopID(acts), run.Step{Acts: acts})
}

// pumps switches every pump on or off.
func (d *draft) pumps(v state.Verb) (acts []state.Act) {
	for i, p := range d.Net.Pumps {
		if d.at.Pumps.Has(plumbing.PumpID(i)) != (v == state.On) {
			a := state.Act{Verb: v, Part: p}
			a.At, a.Control = d.Net.ControlOf(p)
			acts = append(acts, a)
		}
	}
	return acts
}

// pressureOff lets the pressure out at a cold and a hot tap, with nothing that pushes and nothing joined.
func (d *draft) pressureOff() {
	acts := d.pumps(state.Off)
	for _, at := range slices.Sorted(maps.Keys(d.at.Joined)) {
		acts = append(acts, d.apart(d.Net.Nodes[at].Part))
	}
	d.letOut(acts)
}

// apart takes what is joined off a port: a pick-up is capped again, an inlet shuts by itself.
func (d *draft) apart(p *plumbing.Part) state.Act {
	if p.Role() == plumbing.RolePickUp {
		return state.Act{Verb: state.Cap, Part: p}
	}
	return state.Act{Verb: state.Part, Part: p}
}

// pressed reports whether anything is still under pressure.
func (d *draft) pressed() bool {
	for i := range d.Net.Nodes {
		if d.now().Pressed(plumbing.NodeID(i)) {
			return true
		}
	}
	return false
}

// reliefs are the fewest outlets by which every place loses its pressure: one with both sides where
// that does it.
func (d *draft) reliefs() (list []*plumbing.Part) {
	n := d.Net
	under := map[plumbing.NodeID]bool{}
	for i := range n.Nodes {
		under[plumbing.NodeID(i)] = d.now().Pressed(plumbing.NodeID(i))
	}
	outlets := n.PartsOf(plumbing.RoleOutlet)
	slices.SortStableFunc(outlets, func(a, b *plumbing.Part) int { return len(n.SidesOf(b)) - len(n.SidesOf(a)) })
	s := d.at
	s.Pumps = state.AllPumps(n)
	for _, o := range outlets {
		var from []plumbing.NodeID
		for _, side := range n.SidesOf(o) {
			from = append(from, n.Node(o.ID+"."+side))
		}
		r, helps := flow.Reach(n, s, flow.Query{From: from, Back: true}), false
		for at, yes := range under {
			if yes && r.Node(at) {
				under[at], helps = false, true
			}
		}
		if helps {
			list = append(list, o)
		}
	}
	return list
}

// catch lets somebody hold a bucket under each of some parts that would let run out into the open.
func (d *draft) catch(fluid state.Fluid, parts ...*plumbing.Part) (acts []state.Act) {
	for _, p := range parts {
		if to := d.Net.Model.WasteOf(p); to.Open() {
			acts = append(acts, state.Act{Verb: state.Catch, Part: p, For: fluid, To: string(to)})
		}
	}
	return acts
}

// atTank reports whether a handle opens a tank's own drain: a line joins the two.
func (d *draft) atTank(p *plumbing.Part) bool {
	if p.Role() != plumbing.RoleDrain {
		return false
	}
	for i := range d.Net.Links {
		a, b := d.Net.Nodes[d.Net.Links[i].A].Part, d.Net.Nodes[d.Net.Links[i].B].Part
		if a == p && b.Role() == plumbing.RoleTank || b == p && a.Role() == plumbing.RoleTank {
			return true
		}
	}
	return false
}

// empty opens what drains, lets everything run out, and shuts it again with
// what was taken out put back: the tanks first, then what stands between them
// and the pumps, then the lines.
func (d *draft) empty() bool {
	a := setting.ForMode(d.Plan, setting.DrainDown)
	if !a.Has() {
		return false
	}
	for _, t := range d.Net.PartsOf(plumbing.RoleTank) {
		if d.overBilge(t) { // a bilge is no place for a tank
			d.pumpOut(t, state.Water)
		}
	}
	back := d.at
	for turn, s := range a.States() {
		if acts := d.turns(s, d.atTank); turn == 0 && len(acts) > 0 {
			d.step("drain-tank", run.Step{Acts: acts, Until: run.Until{Sense: run.Dry}})
			d.clearSuction()
		}
		if d.pressed() {
			d.pressureOff()
		}
		turns := d.turns(s, nil)
		slices.SortStableFunc(turns, func(a, b state.Act) int { return late(a.Part) - late(b.Part) })
		d.step("drain", run.Step{Acts: slices.Concat(d.still(of(&a.Mode, state.Open, state.TakeOut, state.Plug)), turns),
			Until: run.Until{Sense: run.Dry}})
		d.pockets()
		if turn < len(a.States())-1 {
			d.step("close", run.Step{Acts: d.restored(back)})
		}
	}
	d.step("close", run.Step{Acts: d.restored(back)})
	return true
}

// clearSuction runs each pump until it races, with the tanks empty and a tap open that it serves.
func (d *draft) clearSuction() {
	for i, p := range d.Net.Pumps {
		tap, ok := d.nearest(d.Net.NodesOf(p, "out"))
		if !ok {
			continue
		}
		on := state.Act{Verb: state.On, Part: p}
		on.At, on.Control = d.Net.ControlOf(p)
		if !d.at.Pumps.Has(plumbing.PumpID(i)) {
			d.step("clear-suction", run.Step{Acts: []state.Act{on, tap.open()}, Until: run.Until{Sense: run.Races, For: 3600},
				Then: []state.Act{{Verb: state.Off, Part: p}}})
			d.pressureOff()
		}
	}
}

// nearest is an outlet side that water from some nodes gets to as the handles stand.
func (d *draft) nearest(from []plumbing.NodeID) (side, bool) {
	if s, ok := d.nearestBy(flow.Reach(d.Net, d.at, flow.Query{From: from, Without: d.shy()})); ok {
		return s, true
	}
	return d.nearestBy(flow.Reach(d.Net, d.at, flow.Query{From: from}))
}

func (d *draft) nearestBy(r *flow.Reached) (side, bool) {
	for _, o := range d.Net.PartsOf(plumbing.RoleOutlet) {
		for _, name := range d.Net.SidesOf(o) {
			if at := d.Net.Node(o.ID + "." + name); r.Node(at) {
				return side{o, name, at}, true
			}
		}
	}
	return side{}, false
}

// cityWay are the acts that open the way from the inlet to the lines, so that what stands there gets
// air from both ends; drains stay open.
func (d *draft) cityWay() []state.Act {
	a := setting.ForMode(d.Plan, setting.City)
	if !a.Has() {
		return nil
	}
	return d.turns(a.State, func(p *plumbing.Part) bool {
		return p.Role() == plumbing.RoleSelector || p.Role() == plumbing.RoleShutOff || p.Role() == plumbing.RoleDiverter
	})
}

// pockets empties by hand what neither runs out nor is run through.
func (d *draft) pockets() {
	var press []state.Act
	for _, p := range d.Net.PartsOf(plumbing.RoleInlet, plumbing.RoleBarrel) {
		if p.Data.CheckValve {
			press = append(press, state.Act{Verb: state.Press, Part: p})
		}
	}
	if press != nil {
		d.step("press", run.Step{Acts: append(d.cityWay(), press...)})
	}
	d.bowls()
	for _, p := range d.Net.PartsOf(plumbing.RoleRinse) {
		air := state.Usual(p, state.Air)
		air.Kind, air.Pressure = state.Compressed, house.Air.Of(d.House)
		d.step("blow-rinse", run.Step{Acts: []state.Act{{Verb: state.Join, Part: p, With: air}},
			Until: run.Until{Sense: run.Passed, For: 30}, Then: []state.Act{{Verb: state.Part, Part: p}}})
	}
}

// bowls opens the strainers that are still full, and shuts them again.
func (d *draft) bowls() {
	for _, p := range d.Net.PartsOf(plumbing.RoleStrainer) {
		h := d.Net.HandleOf(p.ID)
		if h == plumbing.None || !d.holds(p) {
			continue
		}
		closed := d.at.Position(h)
		for i, pos := range d.Net.Handles[h].Positions {
			if plumbing.Position(i) != closed {
				d.step("open-bowl", run.Step{Acts: []state.Act{{Verb: state.Turn, Part: p, To: pos}},
					Until: run.Until{Sense: run.Dry}, Then: []state.Act{{Verb: state.Turn, Part: p,
						To: d.Net.Handles[h].Positions[closed]}}})
				break
			}
		}
	}
}

// holds reports whether a part is more than half full.
func (d *draft) holds(p *plumbing.Part) bool {
	for i, x := range d.now().Pieces() {
		of := d.Net.Pieces[i].Part
		if link := d.Net.Pieces[i].Link; link != plumbing.None {
			of = d.Net.Links[link].Part
		}
		if of == p && x.Litre > 0 && x.Liquid() > x.Litre/2 {
			return true
		}
	}
	return false
}

// restored are the acts that bring the system back to how it stood: what is
// open shut, what was turned turned back, what was taken out put back.
func (d *draft) restored(to state.State) []state.Act {
	var acts []state.Act
	for _, o := range d.Net.PartsOf(plumbing.RoleOutlet, plumbing.RoleMachine) {
		for _, s := range d.Net.SidesOf(o) {
			if at := d.Net.Node(o.ID + "." + s); d.at.Open[at] && !to.Open[at] {
				acts = append(acts, state.Act{Verb: state.Shut, Part: o})
				break
			}
		}
	}
	acts = append(acts, d.turns(to, nil)...)
	for i, f := range d.Net.Fittings {
		if id := plumbing.FittingID(i); d.at.Out[id] && !to.Out[id] {
			acts = append(acts, state.Act{Verb: state.PutBack, Part: f.Part})
		}
	}
	return acts
}
