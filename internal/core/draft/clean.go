package draft

import (
	"slices"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// fills are the ways to fill a tank with water, in the order in which they are taken.
var fills = []string{setting.FillGravity, setting.FillHatch, setting.FillPressure, setting.FillBarrel,
	setting.BackFill,
	setting.FillContainer}

// dosed is the id of the first half of sanitizing, which the ways of flushing begin after. It is no procedure of
// the list.
const dosed = "dosed"

// sanitize doses the tanks, brings the sanitizer to every outlet, lets it soak
// and flushes it out by the house's way, or where the model can't have that by the first that it can have.
func sanitize(d *draft) fact.Fact {
	before := d.maker.Make(d.ctx, dosed)
	if before.Procedure == nil {
		return before.Why
	}
	everyday := d.rest(d.at)
	own := house.FlushWay.Of(d.House)
	if d.maker.Make(d.ctx, flushID(own)).Procedure == nil {
		own = linesPushed
	}
	d.goOn(before)
	return d.flushed(own, everyday)
}

// goOn begins with the steps of another procedure, as they were carried out.
func (d *draft) goOn(before Drafted) {
	id := d.proc.ID
	d.proc = *before.Procedure
	d.proc.ID, d.proc.Steps = id, slices.Clone(d.proc.Steps)
	d.run = proof.Run{Outcomes: slices.Clone(before.Run.Outcomes), Systems: slices.Clone(before.Run.Systems),
		Broke: before.Run.Broke}
	d.x = before.Run.Systems[len(before.Run.Systems)-1].Clone()
	d.at = d.x.State
}

// dose doses the tanks, brings the sanitizer to every outlet and lets it soak.
func dose(d *draft) fact.Fact {
	a, why := d.mode(setting.Sanitize)
	if a == nil {
		return why
	}
	doses := d.doses(a)
	for _, p := range doses {
		if !p.Why.IsZero() {
			return p.Why
		}
	}
	d.proc.Goal.Target = house.Target.Of(d.House)
	d.proc.Goal.Soak = house.SoakLow.Of(d.House)
	d.rinseWaste(&a.Mode)
	d.quiet()
	d.pressureOff()
	d.emptyTanks(state.Water)
	if d.pressed() { // what is taken out now is not under pressure
		d.pressureOff()
	}
	d.step("sanitizing-position", run.Step{Acts: append(d.turns(a.State, nil), d.still(of(&a.Mode, state.TakeOut))...)})
	for _, p := range doses {
		d.dose(p)
	}
	d.turnBack("sanitizing-position", a)
	d.pumpOn(60)
	for _, s := range d.sides(a, true) {
		d.turnFor(a, s)
		d.proc.Goal.Strong = append(d.proc.Goal.Strong, s.node)
		acts := append(d.catch(state.Sanitizer, s.part), s.open())
		d.bringTo("strong", s, acts, d.strong(d.proc.Goal.Target))
	}
	d.splash(a, state.Sanitizer)
	d.pumpOff()
	d.topUp(doses)
	d.step("soak", run.Step{Until: run.Until{Sense: run.Passed, For: house.SoakLow.Of(d.House)}})
	return fact.Fact{}
}

// topUp fills the tanks again, with as much more bleach as it takes where more was drawn off than the
// dose allows for: machines draw whole cycles.
func (d *draft) topUp(doses []amount.DosePlan) {
	for _, p := range doses {
		var pour []run.Pour
		var tanks []*plumbing.Part
		for _, t := range p.Tanks {
			v := d.now().Vessel(t.Tank)
			if v == nil {
				continue
			}
			tanks = append(tanks, t.Tank)
			stands := float64(v.Liquid.Litre)*float64(v.Liquid.Mix.Chlorine) +
				float64(v.Holds-v.Liquid.Litre)*float64(d.proc.Start.Supply.Chlorine)
			lacks := float64(v.Holds)*float64(d.proc.Goal.Target) - stands // mg
			room := min(house.Container.Of(d.House), (v.Holds*full-v.Liquid.Litre)/2)
			into := d.pourable(t.Tank, tanks)
			if most := float64(d.proc.Limit.Ceiling); most > 0 && float64(room)*most < lacks*spare {
				room = quantity.Litre(lacks * spare / most * 1.01)
			}
			if batch := d.proc.Start.Fluids[state.Sanitizer].Chlorine; lacks > 0 && into == nil && batch > 0 {
				d.doseByPump(t.Tank, quantity.Litre(lacks*spare/float64(batch)), batch, 0) // as strong as the first
			}
			if lacks <= 0 || into == nil || room <= 0 || room > d.roomIn(into, pour) {
				continue // where it matters the proof says that it never soaked
			}
			pour = append(pour, run.Pour{Into: into, Litre: room, Mix: run.Mix{
				Chlorine: quantity.MgPerLitre(lacks*spare/float64(room)) + d.proc.Start.Supply.Chlorine}})
		}
		d.fill("top-up", tanks, pour)
	}
}

// roomIn is how much more goes into a tank beside what is poured into it.
func (d *draft) roomIn(tank *plumbing.Part, pour []run.Pour) quantity.Litre {
	v := d.now().Vessel(tank)
	room := v.Holds*full - v.Liquid.Litre
	for _, p := range pour {
		if p.Into == tank {
			room -= p.Litre
		}
	}
	return room
}

// spare is how much more than what lacks somebody measures.
const spare = 1.02

// emptyTanks lets the tanks run out at their own drains; those that have none, and where what stands
// in them must not run into the open, the pumps empty through taps.
func (d *draft) emptyTanks(fluid state.Fluid) {
	back := d.at
	if a := setting.ForMode(d.Plan, setting.DrainDown); a.Has() {
		acts := d.turns(a.States()[0], func(p *plumbing.Part) bool {
			to := d.Net.Model.WasteOf(p)
			return d.atTank(p) && (fluid == state.Water && to != plumbing.ToBilge || !to.Open())
		})
		if len(acts) > 0 {
			d.step("drain-tank", run.Step{Acts: acts, Until: run.Until{Sense: run.Dry}})
			d.step("close", run.Step{Acts: d.turns(back, nil)})
		}
	}
	for _, t := range d.Net.PartsOf(plumbing.RoleTank) {
		d.pumpOut(t, fluid)
	}
}

// pumpOut empties a tank by the nearest outlet, unless it is nearly empty.
func (d *draft) pumpOut(t *plumbing.Part, fluid state.Fluid) {
	v := d.now().Vessel(t)
	if v == nil || v.Liquid.Litre <= v.Holds*0.1 {
		return
	}
	tap, ok := d.tapOf(t)
	if !ok {
		return
	}
	acts := slices.Concat(d.pumpsDrawing(d.Net.NodesOf(t, "supply")), d.catch(fluid, tap.part), []state.Act{tap.open()})
	d.step("pump-out", run.Step{Acts: acts, Until: run.Until{Sense: run.Empty, Tank: t, For: 2 * 3600},
		Then: []state.Act{tap.shut()}})
	d.pumpOff()
}

// overBilge reports whether a tank's own drain lets it run into the bilge.
func (d *draft) overBilge(t *plumbing.Part) bool {
	return slices.ContainsFunc(d.Net.PartsOf(plumbing.RoleDrain), func(p *plumbing.Part) bool {
		return d.Net.Beside(p, t) && d.Net.Model.WasteOf(p) == plumbing.ToBilge
	})
}

// tapOf is the nearest outlet side that a tank serves as the handles stand, one that does not run
// into the open where there is one, and not through what does not stand it where there is another.
func (d *draft) tapOf(tank *plumbing.Part) (best side, ok bool) {
	s := d.at
	s.Pumps = state.AllPumps(d.Net)
	for _, shy := range [][]*plumbing.Part{d.shy(), nil} {
		r := flow.Reach(d.Net, s, flow.Query{From: d.Net.NodesOf(tank, "supply"), Without: shy})
		for _, o := range d.Net.PartsOf(plumbing.RoleOutlet) {
			for _, name := range d.Net.SidesOf(o) {
				at := d.Net.Node(o.ID + "." + name)
				shut := !d.Net.Model.WasteOf(o).Open()
				if r.Node(at) && (!ok || shut && d.Net.Model.WasteOf(best.part).Open()) {
					best, ok = side{o, name, at}, true
				}
			}
		}
		if ok {
			break
		}
	}
	return best, ok
}

// dose brings the batches of a body of tank water into its tanks and fills them: poured where
// something can be poured, else by the pump from a container.
func (d *draft) dose(p amount.DosePlan) {
	var tanks []*plumbing.Part
	for _, t := range p.Tanks {
		tanks = append(tanks, t.Tank)
	}
	var pour []run.Pour
	for i, t := range p.Tanks {
		v, b, into := d.now().Vessel(t.Tank), p.Batches[i], d.pourable(t.Tank, tanks)
		if v == nil {
			continue
		}
		litres := (b.Bleach + b.Water) * quantity.Litre(max(1, b.Count))
		start := min(v.Holds*quantity.Litre(house.Start.Of(d.House)), v.Holds*full-litres) // the batch has to go in
		if into == nil {
			d.doseByPump(t.Tank, litres, b.Strength, start)
			continue
		}
		if more := min(start-v.Liquid.Litre, d.roomIn(into, pour)-d.batches(p)); more > 0 {
			pour = append(pour, run.Pour{Into: into, Litre: more, Mix: d.proc.Start.Supply})
		}
		pour = append(pour, run.Pour{Into: into, Litre: litres, Mix: run.Mix{Chlorine: b.Strength}})
	}
	d.fill("dose", tanks, pour)
}

// batches are the litres of all batches of a dose.
func (d *draft) batches(p amount.DosePlan) (sum quantity.Litre) {
	for _, b := range p.Batches {
		sum += (b.Bleach + b.Water) * quantity.Litre(max(1, b.Count))
	}
	return sum
}

// pourable is where what is meant for a tank can be poured: into itself, or into one that is joined
// to it; nil for nowhere.
func (d *draft) pourable(tank *plumbing.Part, body []*plumbing.Part) *plumbing.Part {
	for _, t := range append([]*plumbing.Part{tank}, body...) {
		if proof.WayIn(d.Net, t) {
			return t
		}
	}
	return nil
}

// doseByPump lets a pump draw a batch from a container into a tank that is filled as far as it is to
// be before it is dosed.
func (d *draft) doseByPump(tank *plumbing.Part, litres quantity.Litre, strength quantity.MgPerLitre,
	start quantity.Litre) {
	a := setting.ForMode(d.Plan, setting.DoseTank)
	if !a.Has() || !a.OK {
		return // the proof tells that no sanitizer comes
	}
	if start > d.now().Vessel(tank).Liquid.Litre {
		d.fillTo("before-dose", []*plumbing.Part{tank}, nil, float64(start/d.now().Vessel(tank).Holds))
	}
	back := d.at
	d.bring(state.Sanitizer, run.Mix{Chlorine: strength})
	var joins, parts []state.Act
	for _, j := range of(&a.Mode, state.Join) {
		if d.leads(a.State, j.Part, tank) && len(joins) == 0 { // one container
			j.With.Volume = litres
			joins = append(joins, j)
			parts = append(parts, state.Act{Verb: state.Part, Part: j.Part})
		}
	}
	d.step("dose-position", run.Step{Acts: d.turns(a.State, nil)})
	until := run.Until{Sense: run.Races, Tank: tank, For: 3600}
	d.step("dose", run.Step{Acts: append(joins, d.pumps(state.On)...), Until: until})
	for i := range joins { // what stays in the lines follows with as much plain water again
		joins[i].With = state.Usual(joins[i].Part, state.Water)
		joins[i].With.Volume = min(litres/2, house.Container.Of(d.House))
	}
	d.step("dose-rinse", run.Step{Acts: append(slices.Clone(parts), joins...), Until: until})
	d.step("pump-off", run.Step{Acts: append(d.pumps(state.Off), parts...)})
	d.step("sanitizing-position", run.Step{Acts: d.turns(back, nil)})
}

// bring says what a fluid is that comes by connections in this procedure.
func (d *draft) bring(f state.Fluid, m run.Mix) {
	d.proc.Start.Fluids[f] = m
	d.now().Bring(f, m)
}

// fillAll fills every body of tank water.
func (d *draft) fillAll(what string) {
	for _, b := range flow.Bodies(d.Net, d.at) {
		d.fill(what, b.Tanks, nil)
	}
}

// fill pours something into the tanks of a body and fills them the first way that they have: through
// the first of them that it leads to, the others by what joins them.
func (d *draft) fill(what string, tanks []*plumbing.Part, pour []run.Pour) {
	d.fillTo(what, tanks, pour, full)
}

// fillTo is fill up to a level.
func (d *draft) fillTo(what string, tanks []*plumbing.Part, pour []run.Pour, level float64) {
	for _, id := range fills {
		a := setting.ForMode(d.Plan, id)
		if !a.Has() || !a.OK {
			continue
		}
		for _, tank := range tanks {
			if s, ok := d.fillBy(a, tank, pour, level); ok {
				d.step(what, s)
				d.fillOn(what, s, tanks, level)
				return
			}
		}
	}
	for _, t := range tanks { // by jugs, where nothing else serves
		v := d.now().Vessel(t)
		more := v.Holds*quantity.Litre(level) - v.Liquid.Litre
		for _, p := range pour {
			if p.Into == t {
				more -= p.Litre
			}
		}
		pour = append(pour, run.Pour{Into: t, Litre: max(0, more), Mix: d.proc.Start.Supply})
	}
	d.step(what, run.Step{Pour: pour})
}

// fillOn goes on filling until all tanks of a body are full: the others follow by what joins them.
func (d *draft) fillOn(what string, s run.Step, tanks []*plumbing.Part, level float64) {
	for range mostRefills {
		if !slices.ContainsFunc(tanks, func(t *plumbing.Part) bool {
			v := d.now().Vessel(t)
			return v.Liquid.Litre < v.Holds*quantity.Litre(level*0.96)
		}) {
			return
		}
		d.step("level", run.Step{Until: run.Until{Sense: run.Passed, For: levelFor}})
		s.Pour = nil
		s.Acts = slices.DeleteFunc(slices.Clone(s.Acts), func(a state.Act) bool { return a.Verb == state.Turn })
		d.step(what, s)
	}
}

// levelFor is how long joined tanks are left to level.
const levelFor quantity.Second = 600

// full is how full a tank is when somebody who stays with it stops.
const full = 0.99

// fillBy fills a tank in one of the ways, with the handles as they stand if that leads there.
func (d *draft) fillBy(a *setting.Answer, tank *plumbing.Part, pour []run.Pour,
	level float64) (s run.Step, ok bool) {
	acts, in := []state.Act(nil), d.at
	joins := func() []state.Act {
		return slices.DeleteFunc(of(&a.Mode, state.Join), func(j state.Act) bool { return !d.leads(in, j.Part, tank) })
	}
	list := joins()
	if len(list) == 0 {
		acts, in = d.turns(a.State, nil), a.State
		list = joins()
	}
	s = run.Step{Acts: slices.Concat(acts, list, of(&a.Mode, state.On)), Pour: pour,
		Until: run.Until{Sense: run.Full, Tank: tank, Level: level, For: 4 * 3600}}
	for _, j := range list {
		s.Then = append(s.Then, state.Act{Verb: state.Part, Part: j.Part})
	}
	for _, on := range of(&a.Mode, state.On) {
		if d.Net.PumpOf(on.Part) != plumbing.None {
			s.Then = append(s.Then, state.Act{Verb: state.Off, Part: on.Part})
		}
	}
	if len(list) == 0 {
		return s, false
	}
	o := d.try(d.now().Clone(), s)
	return s, o.Came && o.Met[tank].Glycol <= clear.Glycol // nothing is filled through lines with antifreeze
}

// leads reports whether what comes in at a port gets into a tank in a state.
func (d *draft) leads(s state.State, port, tank *plumbing.Part) bool {
	s.Pumps = state.AllPumps(d.Net)
	mouth := d.Net.Node(port.ID + ".mouth")
	return mouth != plumbing.None && flow.Reach(d.Net, s, flow.Query{From: []plumbing.NodeID{mouth}}).Part(tank)
}

// turnBack turns the handles to a mode's setting again.
func (d *draft) turnBack(what string, a *setting.Answer) {
	d.step(what, run.Step{Acts: d.turns(a.State, nil)})
}

// turnFor turns the handles to the setting in which a side is served, where a mode takes several.
func (d *draft) turnFor(a *setting.Answer, s side) {
	list := a.States()
	if turn := amount.TurnOf(a, s.node); turn < len(list) {
		d.step("sanitizing-position", run.Step{Acts: d.turns(list[turn], nil)})
	}
}

// splash lets a little out at each low-point drain.
func (d *draft) splash(a *setting.Answer, fluid state.Fluid) {
	d.atLowPoints(d.lowPoints(a), false, func(t tapped) (string, run.Step) {
		return "splash", run.Step{Acts: d.catch(fluid, t.parts...), Until: run.Until{Sense: run.Ran, At: t.mouths, For: 300,
			Litre: d.runOut() * quantity.Litre(len(t.mouths))}}
	})
}
