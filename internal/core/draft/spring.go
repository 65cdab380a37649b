package draft

import (
	"context"

	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// spill is how much somebody lets run on when the air is out.
const spill quantity.Litre = 1

// quiet is how long a pump stays silent with every tap shut where nothing leaks.
const quiet quantity.Second = 600

// DeWinterize makes a model ready for use again after the antifreeze; nil where
// it had none, or where no setting keeps the heater out until the lines are clear.
func DeWinterize(ctx context.Context, in Inputs) *proof.Procedure {
	winter := Winterize(ctx, in)
	a := setting.ForMode(in.Plan, setting.Flush)
	everyday := setting.ForMode(in.Plan, setting.Everyday)
	if winter == nil || !a.Has() || !everyday.Has() {
		return nil
	}
	d := begin(ctx, in, "de-winterize")
	d.proc.After, d.proc.Start = winter, winter.Start
	d.x = proof.Begin(ctx, in.Net, &d.proc)
	d.at = d.x.State
	if af := setting.ForMode(in.Plan, setting.Antifreeze); af.Has() { // no cartridge meets what runs out now
		d.step("cartridges-out", run.Step{Acts: of(&af.Mode, state.TakeOut)})
	}
	d.fillAll("fill")
	d.step("spring-position", run.Step{Acts: d.turns(a.State, nil)})
	d.step("pump-on", run.Step{Acts: d.pumps(state.On), Until: run.Until{Sense: run.Silent, For: 300}})
	for _, s := range d.sides(a, false) {
		d.turnFor(a, s)
		d.proc.Goal.Clear = append(d.proc.Goal.Clear, s.node)
		until := run.Until{Sense: run.Clear, At: []plumbing.NodeID{s.node}, Least: clear,
			Litre: house.Overrun.Of(in.House), For: 1800}
		if s.part.Role() == plumbing.RoleMachine {
			until = d.cycles(s, until, func(m run.Mix) bool { return m.Glycol <= clear.Glycol })
		}
		d.step("clear", run.Step{Acts: append(d.catch(state.Antifreeze, s.part), s.open()), Until: until,
			Then: []state.Act{s.shut()}})
	}
	for _, t := range d.lowPoints(a) {
		d.proc.Goal.Clear = append(d.proc.Goal.Clear, t.mouths...)
		d.step("clear-low-point", run.Step{Acts: append(d.catch(state.Antifreeze, t.parts...), t.open),
			Until: run.Until{Sense: run.Clear, At: t.mouths, Least: clear, Litre: house.RunOut.Of(in.House), For: 600},
			Then:  []state.Act{t.shut}})
	}
	d.step("leaks", run.Step{Until: run.Until{Sense: run.Passed, For: quiet}})
	d.step("pump-off", run.Step{Acts: d.pumps(state.Off)})
	d.fillAll("top-up")
	d.turnBack("spring-position", a)
	d.step("cartridges-in", run.Step{Acts: d.fittings()})
	d.step("pump-on", run.Step{Acts: d.pumps(state.On), Until: run.Until{Sense: run.Silent, For: 300}})
	d.step("heater-in", run.Step{Acts: d.turns(everyday.State, nil)})
	if len(in.Net.PartsOf(plumbing.RoleHeater)) > 0 {
		d.proc.Goal.Filled = true
		d.fillHeater(everyday)
	}
	d.step("pump-off", run.Step{Acts: d.pumps(state.Off)})
	return d.done(everyday.State)
}

// clear is what nobody sees or tastes any more. A tank is never poured into with antifreeze: what its
// water picks up is what the lines held.
var clear = run.Mix{Glycol: 0.003, Chlorine: 100}

// fillHeater lets the air out of the heater at a hot tap.
func (d *draft) fillHeater(everyday *setting.Answer) {
	for _, s := range d.sides(everyday, false) {
		if s.name == "hot" && s.part.Role() != plumbing.RoleMachine {
			var room quantity.Litre // air comes first, as much as there is
			for _, v := range d.x.Vessels() {
				if v.Closed {
					room += v.Holds - v.Liquid.Litre
				}
			}
			d.step("heater-fill", run.Step{Acts: []state.Act{s.open()}, Then: []state.Act{s.shut()},
				Until: run.Until{Sense: run.Solid, At: []plumbing.NodeID{s.node}, Litre: room + spill, For: 3600}})
			return
		}
	}
}
