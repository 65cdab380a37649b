package draft

import (
	"context"
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

// fills are the ways to fill a tank with water, in the order in which they are taken.
var fills = []string{setting.FillGravity, setting.FillHatch, setting.FillPressure, setting.FillBarrel, setting.BackFill,
	setting.FillContainer}

// mostRefills is how often somebody flushes before they ask what is wrong.
const mostRefills = 8

// Sanitize doses the tanks, brings the sanitizer to every outlet, lets it soak
// and flushes it out; nil where no setting or no dose can be had.
func Sanitize(ctx context.Context, in Inputs) *proof.Procedure {
	a := setting.ForMode(in.Plan, setting.Sanitize)
	if !a.Has() {
		return nil
	}
	doses := amount.PlanDoses(in.Net, a, in.House)
	if slices.ContainsFunc(doses, func(p amount.DosePlan) bool { return !p.Why.IsZero() }) {
		return nil
	}
	d := begin(ctx, in, "sanitize")
	everyday := d.at
	limit := house.SupplyChlorine.Of(in.House) + house.FlushAbove.Of(in.House)
	d.proc.Goal.Target, d.proc.Goal.Limit = house.Target.Of(in.House), limit
	d.heaterOff()
	d.pressureOff()
	d.emptyTanks()
	d.step("sanitizing-position", run.Step{Acts: append(d.turns(a.State, nil), of(&a.Mode, state.TakeOut)...)})
	for _, p := range doses {
		for i, t := range p.Tanks {
			d.dose(t.Tank, p.Batches[i])
		}
	}
	d.turnBack("sanitizing-position", a)
	sides := d.sides(a, true)
	ran := map[plumbing.NodeID]quantity.Litre{}
	d.step("pump-on", run.Step{Acts: d.pumps(state.On), Until: run.Until{Sense: run.Silent, For: 60}})
	least := run.Mix{Chlorine: d.proc.Goal.Target}
	for _, s := range sides {
		d.proc.Goal.Strong = append(d.proc.Goal.Strong, s.node)
		until := run.Until{Sense: run.Strong, At: []plumbing.NodeID{s.node}, Least: least,
			Litre: house.Overrun.Of(in.House), For: 900}
		if s.part.Role() == plumbing.RoleMachine {
			until = d.cycles(s, func(m run.Mix) bool { return m.Chlorine >= least.Chlorine })
		}
		o := d.step("strong", run.Step{Acts: append(d.catch(state.Sanitizer, s.part), s.open()), Until: until,
			Then: []state.Act{s.shut()}})
		ran[s.node] = o.Ran[s.node]
	}
	d.splash(a, state.Sanitizer)
	d.step("pump-off", run.Step{Acts: d.pumps(state.Off)})
	d.fillAll("top-up")
	d.step("soak", run.Step{Until: run.Until{Sense: run.Passed, For: house.SoakLow.Of(in.House)}})
	for range mostRefills {
		d.refill(a, sides, ran)
		if d.strongest() <= limit {
			break
		}
	}
	d.pressureOff()
	d.step("back", run.Step{Acts: append(d.turns(everyday, nil), d.fittings()...)})
	return d.done(everyday)
}

// emptyTanks lets the tanks run out at their own drains, or where they have
// none has the pumps empty them.
func (d *draft) emptyTanks() {
	back := d.at
	if a := setting.ForMode(d.Plan, setting.DrainDown); a.Has() {
		if acts := d.turns(a.States()[0], d.atTank); len(acts) > 0 {
			d.step("drain-tank", run.Step{Acts: acts, Until: run.Until{Sense: run.Dry}})
			d.step("close", run.Step{Acts: d.turns(back, nil)})
			return
		}
	}
	if tap, ok := d.tap(setting.ForMode(d.Plan, setting.Everyday)); ok {
		on := append(d.pumps(state.On), d.catch(state.Sanitizer, tap.part)...)
		d.step("pump-out", run.Step{Acts: append(on, tap.open()), Until: run.Until{Sense: run.Races, For: 3600}})
		d.pressureOff()
	}
}

// dose pours a batch into a tank and fills it.
func (d *draft) dose(tank *plumbing.Part, b amount.Batch) {
	litres := (b.Bleach + b.Water) * quantity.Litre(max(1, b.Count))
	v := d.x.Vessel(tank)
	if v == nil {
		return
	}
	var pour []run.Pour
	if more := v.Holds*quantity.Litre(house.Start.Of(d.House)) - v.Liquid.Litre; more > 0 {
		pour = append(pour, run.Pour{Into: tank, Litre: more, Mix: d.proc.Start.Supply})
	}
	pour = append(pour, run.Pour{Into: tank, Litre: litres, Mix: run.Mix{Chlorine: b.Strength}})
	d.fill("dose", tank, pour)
}

// fillAll fills every tank.
func (d *draft) fillAll(what string) {
	for _, t := range d.Net.PartsOf(plumbing.RoleTank) {
		d.fill(what, t, nil)
	}
}

// fill pours something into a tank and fills it the first way that it has.
func (d *draft) fill(what string, tank *plumbing.Part, pour []run.Pour) {
	for _, id := range fills {
		a := setting.ForMode(d.Plan, id)
		if !a.Has() || !a.OK {
			continue
		}
		joins := slices.DeleteFunc(of(&a.Mode, state.Join), func(j state.Act) bool { return !d.leads(a, j.Part, tank) })
		s := run.Step{Acts: slices.Concat(d.turns(a.State, nil), joins, of(&a.Mode, state.On)), Pour: pour,
			Until: run.Until{Sense: run.Full, Tank: tank, Level: 0.99, For: 4 * 3600}}
		for _, j := range joins {
			s.Then = append(s.Then, state.Act{Verb: state.Part, Part: j.Part})
		}
		for _, on := range of(&a.Mode, state.On) {
			if d.Net.PumpOf(on.Part) != plumbing.None {
				s.Then = append(s.Then, state.Act{Verb: state.Off, Part: on.Part})
			}
		}
		if o := d.try(d.x.Clone(), s); o.Came {
			d.step(what, s)
			return
		}
	}
	v := d.x.Vessel(tank) // by jugs at its hatch, where nothing else serves
	if v != nil {
		more := v.Holds*0.99 - v.Liquid.Litre
		for _, p := range pour {
			more -= p.Litre
		}
		d.step(what, run.Step{Pour: append(pour, run.Pour{Into: tank, Litre: max(0, more), Mix: d.proc.Start.Supply})})
	}
}

// leads reports whether what comes in at a port gets into a tank in a mode's setting.
func (d *draft) leads(a *setting.Answer, port, tank *plumbing.Part) bool {
	s := a.State
	s.Pumps = state.AllPumps(d.Net)
	mouth := d.Net.Node(port.ID + ".mouth")
	return mouth != plumbing.None && flow.Reach(d.Net, s, flow.Query{From: []plumbing.NodeID{mouth}}).Part(tank)
}

// turnBack turns the handles to a mode's setting again.
func (d *draft) turnBack(what string, a *setting.Answer) {
	d.step(what, run.Step{Acts: d.turns(a.State, nil)})
}

// splash lets a little out at each low-point drain.
func (d *draft) splash(a *setting.Answer, fluid state.Fluid) {
	_, drains := amount.Ends(d.Net, a, amount.FarthestFirst)
	for _, node := range drains {
		p := d.Net.Nodes[node].Part
		mouth := d.Net.Node(p.ID + ".mouth")
		if h := d.Net.HandleOf(p.ID); h == plumbing.None || mouth == plumbing.None ||
			d.Net.Handles[h].Index("open") == plumbing.None {
			continue
		}
		d.step("splash", run.Step{Acts: append(d.catch(fluid, p), state.Act{Verb: state.Turn, Part: p, To: "open"}),
			Until: run.Until{Sense: run.Ran, At: []plumbing.NodeID{mouth}, Litre: house.RunOut.Of(d.House), For: 300},
			Then:  []state.Act{{Verb: state.Turn, Part: p, To: "closed"}}})
	}
}

// refill empties the tanks, fills them with plain water and runs every outlet
// as long as the sanitizer needed to come there.
func (d *draft) refill(a *setting.Answer, sides []side, ran map[plumbing.NodeID]quantity.Litre) {
	d.emptyTanks()
	d.fillAll("refill")
	d.turnBack("sanitizing-position", a)
	d.step("pump-on", run.Step{Acts: d.pumps(state.On), Until: run.Until{Sense: run.Silent, For: 60}})
	for _, s := range sides {
		d.step("flush", run.Step{Acts: []state.Act{s.open()}, Then: []state.Act{s.shut()},
			Until: run.Until{Sense: run.Ran, At: []plumbing.NodeID{s.node}, Litre: ran[s.node], For: 1800}})
	}
	d.splash(a, state.Sanitizer)
	d.step("pump-off", run.Step{Acts: d.pumps(state.Off)})
}

// strongest is the most chlorine that stands anywhere.
func (d *draft) strongest() (most quantity.MgPerLitre) {
	for _, p := range d.x.Pieces() {
		if p.Liquid() > 1e-3 {
			most = max(most, p.Mix.Chlorine)
		}
	}
	return most
}
