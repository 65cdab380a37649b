package draft

import (
	"coldtap/internal/core/fact"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// steep is something that a container brings into lines and taps, past tank and heater, to stand there.
type steep struct {
	fluid       state.Fluid
	mix         run.Mix // in the container
	sense       run.Sense
	least       run.Mix // of it at an outlet
	clear       run.Mix // most of it that may be left
	soak        quantity.Second
	join, comes string // what the steps are for in which the container is joined, and it comes to an outlet
	stands      string
	left        func(run.Mix) bool // whether too much of it is still there
}

// descaleLines lets vinegar from a container stand in lines and taps, and flushes it out from the tank.
func descaleLines(d *draft) fact.Fact {
	return d.steepLines(steep{fluid: Vinegar, mix: run.Mix{Acid: d.vinegar()}, sense: run.Sour,
		least: run.Mix{Acid: d.vinegar() * 0.9}, clear: clear, soak: house.Descale.Of(d.House), join: "vinegar-container",
		comes: "sour", stands: "vinegar-soak", left: func(m run.Mix) bool { return m.Acid > clear.Acid }})
}

// sanitizeLines lets sanitizer from a container stand in lines and taps alone, where a panel feeds tank
// and lines apart, and flushes it out from the tank.
func sanitizeLines(d *draft) fact.Fact {
	target, supply := house.Target.Of(d.House), d.proc.Start.Supply.Chlorine
	limit := supply + house.FlushAbove.Of(d.House)
	d.proc.Goal.Limit = limit
	return d.steepLines(steep{fluid: state.Sanitizer, mix: run.Mix{Chlorine: target * over}, sense: run.Strong,
		least: run.Mix{Chlorine: target}, clear: run.Mix{Glycol: clear.Glycol, Chlorine: limit, Acid: clear.Acid},
		soak: house.SoakLow.Of(d.House), join: "sanitizer-container", comes: "strong", stands: "soak",
		left: func(m run.Mix) bool { return m.Chlorine > limit }})
}

// over is how much stronger than the target a batch for the lines alone is: what stands in them thins it.
const over = 1.1

// steepLines brings something to every outlet from a container, lets it stand, and flushes it out.
func (d *draft) steepLines(x steep) fact.Fact {
	a, why := d.mode(setting.DoseLines)
	if a == nil {
		return why
	}
	flush, why := d.mode(setting.Flush)
	if flush == nil {
		return why
	}
	end := d.rest(d.at)
	d.bring(x.fluid, x.mix)
	d.proc.Goal.SteepFor, d.proc.Goal.SteepLeast = x.soak, x.least
	d.rinseWaste(&a.Mode)
	d.quiet()
	d.pressureOff()
	refill := d.spills(a.State)
	if refill {
		d.emptyTanks(state.Water)
		if d.pressed() {
			d.pressureOff()
		}
	}
	joins := of(&a.Mode, state.Join)
	for i := range joins {
		joins[i].With.Fluid = x.fluid
	}
	d.step("dose-position", run.Step{Acts: append(d.turns(a.State, nil), of(&a.Mode, state.TakeOut, state.Plug)...)})
	d.step(x.join, run.Step{Acts: joins})
	d.pumpOn(60)
	sides := d.tapsOf(a)
	for _, s := range sides {
		d.turnFor(a, s)
		d.proc.Goal.Steeped = append(d.proc.Goal.Steeped, s.node)
		d.proc.Goal.Clear = append(d.proc.Goal.Clear, s.node)
		d.step(x.comes, run.Step{Acts: append(d.catch(x.fluid, s.part), s.open()), Then: []state.Act{s.shut()},
			Until: run.Until{Sense: x.sense, At: []plumbing.NodeID{s.node}, Least: x.least,
				Litre: house.Overrun.Of(d.House), For: 900}})
	}
	d.pumpOff()
	d.step(x.stands, run.Step{Until: run.Until{Sense: run.Passed, For: x.soak}})
	d.pressureOff()
	d.suckHoses(a)
	var parts []state.Act
	for _, j := range joins {
		parts = append(parts, state.Act{Verb: state.Cap, Part: j.Part})
	}
	joint := d.turns(end, func(p *plumbing.Part) bool { return p.Role() == plumbing.RoleJoint })
	d.step("cap", run.Step{Acts: append(parts, joint...)})
	if refill {
		d.fillAll("fill")
	}
	d.step("flush-position", run.Step{Acts: d.turns(flush.State, nil)})
	for range mostRefills {
		d.pumpOn(300)
		for _, s := range sides {
			d.turnFor(flush, s)
			d.step("clear", run.Step{Acts: append(d.catch(x.fluid, s.part), s.open()), Then: []state.Act{s.shut()},
				Until: run.Until{Sense: run.Clear, At: []plumbing.NodeID{s.node}, Least: x.clear, Gone: x.fluid,
					Litre: house.Overrun.Of(d.House), For: 1800}})
		}
		d.atLowPoints(d.lowPoints(flush), false, func(t tapped) (string, run.Step) {
			return "clear-low-point", run.Step{Acts: d.catch(x.fluid, t.parts...),
				Until: run.Until{Sense: run.Clear, At: t.mouths, Least: x.clear, Gone: x.fluid, Litre: d.runOut(), For: 600}}
		})
		if !d.anywhere(x.left) {
			break
		}
	}
	d.proc.Goal.NoAcid = true
	d.pumpOff()
	d.pressureOff()
	d.step("back", run.Step{Acts: append(d.turns(end, nil), d.fittings(true)...)})
	return d.ends(end)
}

// spills reports whether a tank would run out at a joint that a setting has apart: nothing shuts it, and it is not wholly
// below the joint.
func (d *draft) spills(to state.State) bool {
	acts := d.turns(to, nil)
	o := d.try(d.now().Clone(), run.Step{Acts: acts, Until: run.Until{Sense: run.Dry}})
	for _, a := range acts {
		if a.Part.Role() == plumbing.RoleJoint && a.To == "apart" && o.Ran[d.Net.Node(a.Part.ID+".loose")] > house.Spill.Of(d.House) {
			return true
		}
	}
	return false
}

// anywhere reports whether something stands anywhere that is as is asked.
func (d *draft) anywhere(is func(run.Mix) bool) bool {
	for _, p := range d.now().Pieces() {
		if p.Liquid() > 1e-3 && is(p.Mix) {
			return true
		}
	}
	return false
}
