package draft

import (
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// deWinterize makes a model ready for use again after the winter.
func deWinterize(d *draft) fact.Fact {
	winter := d.maker.Winter(d.ctx)
	if winter.Procedure == nil {
		return winter.Why
	}
	a, why := d.mode(setting.Flush)
	if a == nil {
		return why
	}
	end := d.rest(d.everyday())
	if !d.after(winter.ID) {
		return winter.Why
	}
	if af := setting.ForMode(d.Plan, setting.Antifreeze); af.Has() { // no cartridge meets what runs out now
		d.step("cartridges-out", run.Step{Acts: d.still(of(&af.Mode, state.TakeOut))})
	}
	d.clearFirst()
	d.fillAll("fill")
	d.step("spring-position", run.Step{Acts: d.turns(a.State, nil)})
	d.pumpOn(300)
	d.clearSides(a)
	d.atLowPoints(d.lowPoints(a), true, func(t tapped) (string, run.Step) {
		d.proc.Goal.Clear = append(d.proc.Goal.Clear, t.mouths...)
		return "clear-low-point", run.Step{Acts: d.catch(state.Antifreeze, t.parts...),
			Until: run.Until{Sense: run.Clear, At: t.mouths, Least: clear, Litre: d.runOut(), For: 600}}
	})
	d.step("leaks", run.Step{Until: run.Until{Sense: run.Passed, For: house.LeakTest.Of(d.House)}})
	d.step("pump-off", run.Step{Acts: d.pumps(state.Off)})
	d.fillAll("top-up")
	d.turnBack("spring-position", a)
	d.step("cartridges-in", run.Step{Acts: d.fittings(true)})
	d.pumpOn(300)
	d.step("heater-in", run.Step{Acts: d.turns(end, nil)})
	if len(d.Net.PartsOf(plumbing.RoleHeater)) > 0 {
		d.proc.Goal.Filled = true
		d.fillHeater()
	}
	d.step("pump-off", run.Step{Acts: d.pumps(state.Off)})
	return d.ends(end)
}

// clearFirst runs the lines clear with water from a container where every way to fill the tanks leads
// through lines that hold antifreeze.
func (d *draft) clearFirst() {
	a := setting.ForMode(d.Plan, setting.Antifreeze)
	tanks := d.Net.PartsOf(plumbing.RoleTank)
	if !a.Has() || len(tanks) == 0 || !slices.ContainsFunc(tanks, func(t *plumbing.Part) bool {
		return !proof.WayIn(d.Net, t) && !d.fillsClean(t)
	}) {
		return
	}
	joins := of(&a.Mode, state.Join)
	for i := range joins {
		joins[i].With = state.Usual(joins[i].Part, state.Water)
	}
	d.step("winter-position", run.Step{Acts: d.turns(a.State, nil)})
	d.step("water-container", run.Step{Acts: joins})
	d.pumpOn(300)
	d.clearSides(a)
	d.pressureOff()
	var caps []state.Act
	for _, j := range joins {
		caps = append(caps, state.Act{Verb: state.Cap, Part: j.Part})
	}
	d.step("cap", run.Step{Acts: caps})
}

// fillsClean reports whether a tank can be filled in some way that carries no antifreeze into it.
func (d *draft) fillsClean(tank *plumbing.Part) bool {
	for _, id := range fills {
		if a := setting.ForMode(d.Plan, id); a.Has() && a.OK {
			if _, ok := d.fillBy(a, tank, nil, full); ok {
				return true
			}
		}
	}
	return false
}

// clearSides runs each side that a setting serves until it is clear.
func (d *draft) clearSides(a *setting.Answer) {
	for _, s := range d.sides(a, false) {
		d.turnFor(a, s)
		if !slices.Contains(d.proc.Goal.Clear, s.node) {
			d.proc.Goal.Clear = append(d.proc.Goal.Clear, s.node)
		}
		until := run.Until{Sense: run.Clear, At: []plumbing.NodeID{s.node}, Least: clear,
			Litre: house.Overrun.Of(d.House), For: 1800}
		if s.part.Role() == plumbing.RoleMachine {
			until = d.cycles(s, until, func(m run.Mix) bool { return m.Glycol <= clear.Glycol })
		}
		d.step("clear", run.Step{Acts: append(d.catch(state.Antifreeze, s.part), s.open()), Until: until,
			Then: []state.Act{s.shut()}})
	}
}

// clear is what nobody sees or tastes any more. A tank is never poured into with antifreeze: what its
// water picks up is what the lines held.
var clear = run.Mix{Glycol: 0.003, Chlorine: 100, Acid: 0.0005}

// fillHeater lets the air out of the heater at a hot tap.
func (d *draft) fillHeater() {
	for _, s := range d.taps() {
		if s.name == "hot" {
			var room quantity.Litre // air comes first, as much as there is
			for _, v := range d.now().Vessels() {
				if v.Closed {
					room += v.Holds - v.Liquid.Litre
				}
			}
			d.step("heater-fill", run.Step{Acts: []state.Act{s.open()}, Then: []state.Act{s.shut()},
				Until: run.Until{Sense: run.Solid, At: []plumbing.NodeID{s.node}, For: 3600,
					Litre: room + house.Spill.Of(d.House)}})
			return
		}
	}
}
