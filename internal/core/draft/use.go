package draft

import (
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// taps are the outlet sides that are served in everyday use, machines left out, the farthest first.
func (d *draft) taps() []side {
	for _, id := range []string{setting.Everyday, setting.City} {
		if a := setting.ForMode(d.Plan, id); a.Has() {
			return d.tapsOf(a)
		}
	}
	return nil
}

func (d *draft) tapsOf(a *setting.Answer) []side {
	return slices.DeleteFunc(d.sides(a, true), func(s side) bool { return s.part.Role() == plumbing.RoleMachine })
}

// pumpOn switches every pump on and waits until they are silent; where there is none, or all are on,
// there is nothing to do.
func (d *draft) pumpOn(most quantity.Second) {
	if acts := d.pumps(state.On); acts != nil {
		d.step("pump-on", run.Step{Acts: acts, Until: run.Until{Sense: run.Silent, For: most}})
	}
}

// pumpOff switches every pump off.
func (d *draft) pumpOff() { d.step("pump-off", run.Step{Acts: d.pumps(state.Off)}) }

// airOut lets each side run until no more air comes.
func (d *draft) airOut(what string, sides []side) {
	for _, s := range sides {
		d.proc.Goal.Wet = append(d.proc.Goal.Wet, s.node)
		d.step(what, run.Step{Acts: []state.Act{s.open()}, Then: []state.Act{s.shut()},
			Until: run.Until{Sense: run.Solid, At: []plumbing.NodeID{s.node}, Litre: house.Overrun.Of(d.House), For: 3600}})
	}
}

// filling fills the tanks in one of the ways that a model has.
func filling(id string) func(*draft) fact.Fact {
	return func(d *draft) fact.Fact {
		a, why := d.mode(id)
		if a == nil {
			return why
		}
		everyday := d.rest(d.at)
		s := everyday
		s.Levels = d.levels(little)
		d.start(s, false)
		filled := false
		for _, b := range flow.Bodies(d.Net, d.at) {
			for _, tank := range b.Tanks {
				s, ok := d.fillBy(a, tank, nil, full)
				if !ok {
					continue
				}
				joins := len(s.Acts)
				for joins > 0 && s.Acts[joins-1].Verb != state.Turn {
					joins--
				}
				d.step("fill-position", run.Step{Acts: s.Acts[:joins]})
				s.Acts = s.Acts[joins:]
				d.step("fill", s)
				d.fillOn("fill", s, b.Tanks, full)
				d.proc.Goal.Full = append(d.proc.Goal.Full, b.Tanks...)
				filled = true
				break
			}
		}
		if !filled {
			return fact.Of("cant.never-fills", fact.If(!a.Why.IsZero(), a.Why))
		}
		d.step("back", run.Step{Acts: d.turns(everyday, nil)})
		return d.ends(everyday)
	}
}

// little is how full a tank is when somebody fills it.
const little = 0.1

// levels are all tanks filled alike.
func (d *draft) levels(level float64) map[string]float64 {
	list := map[string]float64{}
	for _, t := range d.Net.PartsOf(plumbing.RoleTank) {
		list[t.ID] = level
	}
	return list
}

// useTank puts a system into use that stood idle: from the tank.
func useTank(d *draft) fact.Fact {
	a, why := d.mode(setting.Everyday)
	if a == nil {
		return why
	}
	if len(d.Net.Pumps) == 0 {
		return fact.Of("cant.no-pump")
	}
	d.start(d.rest(a.State), false)
	d.pumpOn(300)
	d.airOut("tap", d.tapsOf(a))
	end := d.rest(a.State)
	end.Pumps = d.at.Pumps
	d.heatOn(&end)
	return d.ends(end)
}

// useCity puts a system into use on a supply of its own pressure.
func useCity(d *draft) fact.Fact {
	a, why := d.mode(setting.City)
	if a == nil {
		return why
	}
	d.start(d.rest(d.everyday()), false)
	d.pumpOff()
	d.step("city-position", run.Step{Acts: d.turns(a.State, nil)})
	joins := of(&a.Mode, state.Join)
	d.step("hose-on", run.Step{Acts: joins, Until: run.Until{Sense: run.Silent, For: 600}})
	d.airOut("tap", d.tapsOf(a))
	end := d.rest(a.State)
	d.heatOn(&end)
	for _, j := range joins {
		end = end.WithJoined(d.Net.Node(j.Part.ID+".mouth"), j.With)
	}
	return d.ends(end)
}

// heatOn switches every heater on whose vessel is full, as it is to be at the end.
func (d *draft) heatOn(end *state.State) {
	d.proc.Goal.Filled = len(d.Net.PartsOf(plumbing.RoleHeater)) > 0
	var acts []state.Act
	for _, h := range d.Net.Heat {
		a := state.Act{Verb: state.HeatOn, Part: h.Part, By: h.By}
		a.At, a.Control = d.Net.ControlOf(h.Part)
		if after, err := end.Do(d.Net, a); err == nil {
			*end = after
			acts = append(acts, a)
		}
	}
	d.step("heat-on", run.Step{Acts: acts})
}

// firstUse is the check before a model is handed over, and its first filling.
func firstUse(d *draft) fact.Fact {
	if !d.after(drainDown) {
		d.start(d.rest(d.everyday()), false)
	}
	end := d.rest(d.everyday())
	d.fillAll("fill")
	if d.taps() == nil {
		return fact.Of("cant.no-setting")
	}
	d.step("use-position", run.Step{Acts: d.turns(end, nil)})
	if setting.ForMode(d.Plan, setting.Everyday).Has() {
		d.pumpOn(900)
		d.airOut("tap", d.taps())
		d.step("leaks", run.Step{Until: run.Until{Sense: run.Passed, For: house.LeakTest.Of(d.House)}})
		d.pumpOff()
	}
	if a := setting.ForMode(d.Plan, setting.City); a.Has() {
		d.step("city-position", run.Step{Acts: d.turns(a.State, nil)})
		joins := of(&a.Mode, state.Join)
		d.step("hose-on", run.Step{Acts: joins, Until: run.Until{Sense: run.Silent, For: 900}})
		for _, s := range d.tapsOf(a) {
			if !slices.Contains(d.proc.Goal.Wet, s.node) {
				d.airOut("tap", []side{s})
			}
		}
		d.step("leaks", run.Step{Until: run.Until{Sense: run.Passed, For: house.LeakTest.Of(d.House)}})
		d.hoseOff()
	}
	d.pressureOff()
	d.proc.Goal.Filled = len(d.Net.PartsOf(plumbing.RoleHeater)) > 0
	d.step("back", run.Step{Acts: d.turns(end, nil)})
	return d.ends(end)
}

// hoseOff parts every hose.
func (d *draft) hoseOff() { d.step("hose-off", run.Step{Acts: d.hoses()}) }

// hoses are the acts that part every hose.
func (d *draft) hoses() (parts []state.Act) {
	for i := range d.Net.Nodes {
		if k := d.at.Joined[plumbing.NodeID(i)].Kind; k == state.Supply {
			parts = append(parts, state.Act{Verb: state.Part, Part: d.Net.Nodes[i].Part})
		}
	}
	return parts
}

// heaterStart fills empty heaters and switches them on.
func heaterStart(d *draft) fact.Fact {
	heaters := d.Net.PartsOf(plumbing.RoleHeater)
	if len(heaters) == 0 {
		return fact.Of("left-out.no-heater")
	}
	use := d.everyday()
	if !slices.ContainsFunc(heaters, func(h *plumbing.Part) bool { return use.Coupled(d.Net, h) }) {
		return fact.Of("cant.couple-first", heaters[0])
	}
	if !d.after(drainDown) {
		d.start(d.rest(d.everyday()), false)
	}
	end := d.rest(d.everyday())
	d.fillAll("fill")
	d.step("use-position", run.Step{Acts: d.turns(end, nil)})
	d.supplyOn()
	d.fillHeater()
	end.Pumps, end.Joined = d.at.Pumps, d.at.Joined
	d.heatOn(&end)
	return d.ends(end)
}

// supplyOn lets water come: by the pump, or where there is none from a hose.
func (d *draft) supplyOn() {
	if len(d.Net.Pumps) > 0 && setting.ForMode(d.Plan, setting.Everyday).Has() {
		d.pumpOn(900)
		return
	}
	if a := setting.ForMode(d.Plan, setting.City); a.Has() {
		d.step("hose-on", run.Step{Acts: of(&a.Mode, state.Join), Until: run.Until{Sense: run.Silent, For: 900}})
	}
}

// bleed lets air out of the lines, from the outlet that is farthest from the pump.
func bleed(d *draft) fact.Fact {
	taps := d.taps()
	if taps == nil {
		return fact.Of("cant.no-setting")
	}
	end := d.rest(d.everyday())
	s := end
	s.Contents = state.Contents{}
	for i := range d.Net.Pieces { // what stood open has let air in everywhere but in tanks and heaters
		if p := &d.Net.Pieces[i]; !p.Vessel {
			s.Contents[plumbing.PieceID(i)] = state.Content{}
		}
	}
	d.start(s, false)
	d.supplyOn()
	d.airOut("tap", taps)
	end.Pumps, end.Joined = d.at.Pumps, d.at.Joined
	return d.ends(end)
}

// leaveSite gets a camper ready to move: nothing pushes, nothing is joined, nothing heats.
func leaveSite(d *draft) fact.Fact {
	end := d.rest(d.everyday())
	if a := setting.ForMode(d.Plan, setting.City); a.Has() {
		s := d.rest(a.State)
		for _, j := range of(&a.Mode, state.Join) {
			s = s.WithJoined(d.Net.Node(j.Part.ID+".mouth"), j.With)
		}
		s.Heat = d.at.Heat
		d.start(s, true)
	}
	d.step("heat-off", run.Step{Acts: d.heatersOff(state.Done)})
	d.pumpOff()
	d.hoseOff()
	d.pressureOff()
	if list := d.Net.PartsOf(plumbing.RoleWaste); list != nil {
		d.dump("empty-waste-tanks", list)
	}
	d.step("back", run.Step{Acts: d.turns(end, nil)})
	return d.ends(end)
}

// couple joins a portable heater and starts it: the gas comes last.
func couple(d *draft) fact.Fact {
	a, why := d.mode(setting.Coupled)
	if a == nil {
		a, why = d.mode(setting.CityCoupled)
	}
	stowed, _ := d.mode(setting.Stowed)
	if a == nil || stowed == nil {
		return why
	}
	d.start(d.rest(stowed.State), false)
	gas := func(p *plumbing.Part) bool { return p.Role() == plumbing.RoleGas }
	d.step("couple", run.Step{Acts: d.turns(a.State, func(p *plumbing.Part) bool { return p.Role() == plumbing.RoleCoupling })})
	d.step("use-position", run.Step{Acts: d.turns(a.State, func(p *plumbing.Part) bool { return !gas(p) })})
	end := d.rest(a.State)
	if joins := of(&a.Mode, state.Join); joins != nil {
		d.step("hose-on", run.Step{Acts: joins, Until: run.Until{Sense: run.Silent, For: 900}})
	}
	if of(&a.Mode, state.On) != nil || a.State.Pumps != 0 {
		d.pumpOn(300)
	}
	d.airOut("tap", slices.DeleteFunc(d.tapsOf(a), func(s side) bool { return s.name != "hot" }))
	d.step("gas-on", run.Step{Acts: d.turns(a.State, gas)})
	end.Pumps, end.Joined = d.at.Pumps, d.at.Joined
	d.heatOn(&end)
	return d.ends(end)
}

// stow uncouples a portable heater: the gas goes first.
func stow(d *draft) fact.Fact {
	a, why := d.mode(setting.Stowed)
	if a == nil {
		return why
	}
	if !d.after(coupling) {
		return fact.Of("cant.no-setting")
	}
	d.step("heater-off", run.Step{Acts: d.heatersOff(state.Cold)})
	gas := func(p *plumbing.Part) bool { return p.Role() == plumbing.RoleGas }
	others := func(p *plumbing.Part) bool { return p.Role() != plumbing.RoleCoupling }
	d.step("gas-off", run.Step{Acts: d.turns(a.State, gas)})
	d.pressureOff()
	d.step("back", run.Step{Acts: d.turns(a.State, others)})
	// As its setting has it: the lower coupling first.
	var apart []state.Act
	for _, t := range of(&a.Mode, state.Turn) {
		if h := d.Net.HandleOf(t.Part.ID); t.Part.Role() == plumbing.RoleCoupling &&
			!d.at.Handles[h].Has(d.Net.Handles[h].Index(t.To)) {
			apart = append(apart, t)
		}
	}
	for _, h := range d.Net.PartsOf(plumbing.RoleHeater) {
		apart = append(apart, state.Act{Verb: state.Tip, Part: h})
		d.proc.Goal.Emptied = append(d.proc.Goal.Emptied, h)
	}
	d.step("uncouple", run.Step{Acts: apart})
	return d.ends(d.rest(a.State))
}

// tripFill fills the tanks as far as the house has them filled for a journey.
func tripFill(d *draft) fact.Fact {
	bodies := flow.Bodies(d.Net, d.at)
	if len(bodies) == 0 {
		return fact.Of("left-out.no-fresh-tank")
	}
	end := d.rest(d.at)
	s := end
	s.Levels = d.levels(0)
	d.start(s, false)
	level := house.TripFill.Of(d.House)
	for _, b := range bodies {
		d.fillTo("trip-fill", b.Tanks, nil, level)
		d.proc.Goal.Full = append(d.proc.Goal.Full, b.Tanks...)
	}
	d.proc.Goal.Level = level
	d.step("back", run.Step{Acts: d.turns(end, nil)})
	return d.ends(end)
}
