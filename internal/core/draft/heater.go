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

// heatersOff switches every heater off at all its sources; one that is not coupled is off.
func (d *draft) heatersOff(until state.Until) (acts []state.Act) {
	for _, h := range d.Net.PartsOf(plumbing.RoleHeater) {
		if !d.at.Coupled(d.Net, h) {
			continue
		}
		a := state.Act{Verb: state.HeatOff, Part: h, Until: until}
		a.At, a.Control = d.Net.ControlOf(h)
		acts = append(acts, a)
	}
	return acts
}

// heaterDrains are the acts that let a heater run out, in the order of hands: a hot tap, by which the pressure goes and
// air comes, its relief valve, then what comes off.
func (d *draft) heaterDrains(h *plumbing.Part) (open, shut []state.Act) {
	dd := setting.ForMode(d.Plan, setting.DrainDown)
	if !dd.Has() {
		return nil, nil
	}
	for i, handle := range d.Net.AllHandles() {
		p := handle.Part
		if !p.Lets() && p.Role() != plumbing.RoleDrain && p.Role() != plumbing.RoleRelief || !d.Net.Beside(p, h) {
			continue
		}
		to := dd.State.Position(i)
		if dd.State.Handles[i]&d.at.Handles[i] == 0 {
			open = append(open, state.Act{Verb: state.Turn, Part: p, To: handle.Positions[to]})
			shut = append(shut, state.Act{Verb: state.Turn, Part: p, To: handle.Positions[d.at.Position(i)]})
		}
	}
	slices.SortStableFunc(open, func(a, b state.Act) int { return late(a.Part) - late(b.Part) })
	slices.SortStableFunc(shut, func(a, b state.Act) int { return late(b.Part) - late(a.Part) })
	if open == nil {
		return nil, nil
	}
	taps := d.airFor(h, open)
	var first []state.Act
	for _, tap := range taps {
		first, shut = append(first, tap.open()), append(shut, tap.shut())
	}
	return append(first, open...), shut
}

// airFor are the taps by which air gets into a heater that runs out: the nearest hot one, or where its air can't come back
// that way a cold one, or both.
func (d *draft) airFor(h *plumbing.Part, open []state.Act) []side {
	var hot, cold []side
	for _, s := range slices.Backward(d.taps()) {
		switch {
		case s.name == "hot" && hot == nil:
			hot = []side{s}
		case s.name == "cold" && cold == nil:
			cold = []side{s}
		}
	}
	for _, taps := range [][]side{hot, cold, slices.Concat(hot, cold)} {
		acts := slices.Clone(open)
		for _, s := range taps {
			acts = append(acts, s.open())
		}
		x := d.now().Clone()
		d.try(x, run.Step{Acts: acts, Until: run.Until{Sense: run.Dry}})
		if v := x.Vessel(h); v == nil || v.Liquid.Litre < v.Holds/4 {
			return taps
		}
	}
	return hot
}

// dryLoose lets heaters run dry that are off their couplings: nothing else gets to them.
func (d *draft) dryLoose() {
	var acts []state.Act
	for _, h := range d.Net.PartsOf(plumbing.RoleHeater) {
		if d.at.Loose(d.Net, h) && d.holds(h) {
			acts = append(acts, state.Act{Verb: state.Tip, Part: h})
			d.proc.Goal.Emptied = append(d.proc.Goal.Emptied, h)
		}
	}
	d.step("heater-dry", run.Step{Acts: acts})
}

// late is how late a part is opened of those that let a heater run out: its relief valve first, what comes off last.
func late(p *plumbing.Part) int {
	switch {
	case p.Role() == plumbing.RoleRelief:
		return 0
	case p.ComesOff():
		return 2
	}
	return 1
}

// storageHeaters are the heaters that hold water.
func (d *draft) storageHeaters() (list []*plumbing.Part) {
	for _, h := range d.Net.PartsOf(plumbing.RoleHeater) {
		if d.now().Vessel(h) != nil {
			list = append(list, h)
		}
	}
	return list
}

// heaterCare empties the heaters by their own drains, for a look at the rod or the plug, and fills
// them again.
func heaterCare(d *draft) fact.Fact {
	heaters := d.storageHeaters()
	if heaters == nil {
		return fact.Of("left-out.no-storage-heater")
	}
	end := d.rest(d.at)
	d.quiet()
	d.pressureOff()
	for _, h := range heaters {
		open, shut := d.heaterDrains(h)
		if open == nil {
			return fact.Of("cant.no-heater-drain", h)
		}
		d.step("heater-drain", run.Step{Acts: open, Until: run.Until{Sense: run.Dry}})
		d.step("heater-look", run.Step{Until: run.Until{Sense: run.Passed, For: 60}})
		d.step("heater-close", run.Step{Acts: shut})
		d.proc.Goal.Emptied = append(d.proc.Goal.Emptied, h)
	}
	d.supplyOn()
	d.fillHeater()
	end.Pumps, end.Joined = d.at.Pumps, d.at.Joined
	d.heatOn(&end)
	return d.ends(end)
}

// vinegar is the acid in the house's vinegar, by volume.
func (d *draft) vinegar() float64 { return float64(house.Vinegar.Of(d.House)) / 100 }

// descaleHeater lets vinegar stand in a heater that is shut off from the lines, and rinses it out.
func descaleHeater(d *draft) fact.Fact {
	a, why := d.mode(setting.HeaterAlone)
	if a == nil {
		return why
	}
	heaters := slices.DeleteFunc(d.storageHeaters(), func(h *plumbing.Part) bool {
		open, _ := d.heaterDrains(h)
		return open == nil
	})
	if len(heaters) == 0 {
		return fact.Of("cant.no-heater-drain", d.Net.PartsOf(plumbing.RoleHeater)[0])
	}
	end := d.rest(d.at)
	d.quiet()
	d.pressureOff()
	share := min(full, quantity.Litre(house.VinegarShare.Of(d.House)))
	d.step("heater-alone", run.Step{Acts: d.turns(a.State, nil)})
	for _, h := range heaters {
		open, shut := d.heaterDrains(h)
		holds := d.now().Vessel(h).Holds
		d.step("heater-drain", run.Step{Acts: open, Until: run.Until{Sense: run.Dry}})
		d.step("heater-close", run.Step{Acts: shut}) // nothing is poured into what stands open
		d.step("vinegar", run.Step{Pour: []run.Pour{
			{Into: h, Litre: holds * share, Mix: run.Mix{Acid: d.vinegar()}},
			{Into: h, Litre: holds * (full - share), Mix: d.proc.Start.Supply}}})
		d.proc.Goal.Acid = append(d.proc.Goal.Acid, h)
	}
	d.proc.Goal.SteepFor = house.Descale.Of(d.House)
	d.step("vinegar-soak", run.Step{Until: run.Until{Sense: run.Passed, For: house.Descale.Of(d.House)}})
	for _, h := range heaters {
		open, shut := d.heaterDrains(h)
		holds := d.now().Vessel(h).Holds
		for range mostRefills {
			was := d.now().Vessel(h).Liquid.Mix.Acid
			d.step("vinegar-out", run.Step{Acts: open, Until: run.Until{Sense: run.Dry}})
			if was <= clear.Acid {
				break
			}
			d.step("heater-close", run.Step{Acts: shut})
			d.step("heater-rinse", run.Step{Pour: []run.Pour{{Into: h, Litre: holds * full, Mix: d.proc.Start.Supply}}})
		}
		d.step("heater-close", run.Step{Acts: shut})
	}
	d.step("use-position", run.Step{Acts: d.turns(end, nil)})
	d.supplyOn()
	d.fillHeater()
	end.Pumps, end.Joined = d.at.Pumps, d.at.Joined
	d.heatOn(&end)
	return d.ends(end)
}

// Vinegar is what descales.
const Vinegar state.Fluid = "vinegar"

// hotCycle lets a hydronic heater run its own hot cycle over night.
func hotCycle(d *draft) fact.Fact {
	a, why := d.mode(setting.HotCycle)
	if a == nil {
		return why
	}
	end := d.rest(a.State)
	d.start(end, false)
	d.pumpOn(300)
	d.airOut("tap", slices.DeleteFunc(d.tapsOf(a), func(s side) bool { return s.name != "hot" }))
	d.step("hot-cycle", run.Step{Acts: of(&a.Mode, state.HeatOn),
		Until: run.Until{Sense: run.Passed, For: house.HotCycle.Of(d.House)}})
	d.proc.Goal.HotFor = house.HotCycle.Of(d.House)
	off := d.heatersOff(state.Done)
	d.step("heat-off", run.Step{Acts: off})
	d.pumpOff()
	return d.ends(end)
}

// keepFresh doses a tank of drinking water below the drinking limit, for a longer stay.
func keepFresh(d *draft) fact.Fact {
	a, why := d.mode(setting.Sanitize)
	if a == nil {
		return why
	}
	bodies := flow.Bodies(d.Net, d.at)
	doses := d.doses(a)
	if len(bodies) == 0 || len(doses) == 0 {
		return fact.Of("left-out.no-fresh-tank")
	}
	end := d.rest(d.at)
	s := end
	s.Levels = d.levels(little)
	d.start(s, false)
	strength := house.Drinking.Of(d.House) / 2
	for _, b := range bodies {
		var pour []run.Pour
		for _, t := range b.Tanks {
			into := d.pourable(t, b.Tanks)
			if into == nil {
				return fact.Of("cant.pour", t)
			}
			holds := d.now().Vessel(t).Holds
			water := min(house.Container.Of(d.House), holds*0.05)
			mg := float64(holds) * float64(strength)
			pour = append(pour, run.Pour{Into: into, Litre: water,
				Mix: run.Mix{Chlorine: quantity.MgPerLitre(mg/float64(water)) + d.proc.Start.Supply.Chlorine}})
		}
		d.fill("keep-fresh", b.Tanks, pour)
		d.proc.Goal.Full = append(d.proc.Goal.Full, b.Tanks...)
	}
	// Of tanks that are joined one gets it by way of the other, thinner.
	d.proc.Goal.Fresh, d.proc.Goal.Drinkable = strength/2, house.Drinking.Of(d.House)
	d.step("back", run.Step{Acts: d.turns(end, nil)})
	return d.ends(end)
}
