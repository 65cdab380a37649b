package procedure

import (
	"fmt"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
)

// Sanitize generates dosing the tank, soaking and flushing.
func Sanitize(in Inputs) Procedure {
	g := newGenerator(in, "sanitize", "Sanitize the water system")
	a := setting.ForMode(in.Plan, setting.Sanitize)
	if !a.Has() {
		g.proc.CantDo = "No setting brings water from the tank to every outlet."
		return g.proc
	}
	if !a.OK {
		g.best(a)
	}
	doses := amount.PlanDoses(in.Net, a, in.House)
	dose := doses[0]
	if !dose.Why.IsZero() {
		g.proc.CantDo = g.tell(dose.Why)
		return g.proc
	}
	g.proc.Needs = append(g.proc.Needs,
		"test strips that read up to 100\u00a0mg/L or more; ordinary drinking-water strips end far too low")
	for _, d := range doses {
		for _, t := range d.Tanks {
			g.proc.Needs = append(g.proc.Needs,
				fmt.Sprintf("%s: %s of plain household bleach of %s: it gives %s in the full tank of %s, %s after topping up",
					t.Tank.Name, t.Measured, quantity.Show(d.Product, g.sys), quantity.Show(t.Filled, g.sys),
					g.show(t.Volume), quantity.Show(d.Final, g.sys)))
		}
	}
	if heaters := g.parts(plumbing.RoleHeater); len(heaters) > 0 {
		g.heaterOff(heaters)
	}
	g.turnTo(a.State, "Turn these handles, so that the sanitizer passes the heater by.")
	for _, f := range g.parts(plumbing.RoleFilter) {
		g.step(Step{Act: Drain, Parts: []*plumbing.Part{f}, Words: f.Name +
			": take the cartridge out and put the empty bowl back on.", Cautions: []Caution{pressure}})
	}
	g.step(Step{Act: Prepare,
		Words: "Drain the tank to about a quarter, so that the dose mixes as it fills. Make sure the grey tank has " +
			"room, or is joined to a sewer.",
		Parts: append(g.parts(plumbing.RoleTank), g.parts(plumbing.RoleWaste)...), Cautions: []Caution{disposal}})
	cautions := []Caution{chlorine, plainBleach}
	for _, d := range doses {
		for i, t := range d.Tanks {
			g.step(Step{Act: Pour, Amount: t.Measured.Litre, Parts: []*plumbing.Part{t.Tank}, Cautions: cautions,
				Words: fmt.Sprintf("%s, so that no part meets more than %s. Pour it into the %s: %s of bleach in all.",
					g.thin(d.Batches[i]), quantity.Show(d.Ceiling, g.sys), names([]*plumbing.Part{t.Tank}),
					t.Measured)})
			cautions = nil // said once
		}
	}
	g.step(Step{Act: Fill, Parts: g.parts(plumbing.RoleTank), Words: "Fill the tank.", Until: "full",
		Cautions: []Caution{attended, hoses}})
	g.pump("on", "It falls silent when the pressure is up.")
	for _, o := range g.outlets(a.State, a.Mode.From) {
		words := fmt.Sprintf("%s: %s, until the sanitizer is there: smell it or use a test strip, never taste it.",
			o.part.Name, o.words(true))
		if o.part.Role() == plumbing.RoleMachine {
			words = o.part.Name + ": run a short warm cycle."
		}
		g.step(Step{Act: Open, Parts: []*plumbing.Part{o.part}, Until: "the sanitizer is there", Words: words})
	}
	g.step(Step{Act: Fill, Parts: g.parts(plumbing.RoleTank), Words: g.topUp(doses), Until: "full",
		Cautions: []Caution{attended}})
	if low := g.lowPoints(); len(low) > 0 {
		g.openings(Open, low, "open", "Let a splash out at each: "+names(low)+".", "a splash, then close",
			g.reachUnder())
	}
	g.step(Step{Act: Switch, Parts: g.parts(plumbing.RolePump),
		Words: "Pump switch off. Test the strength in the tank."})
	g.step(Step{Act: Wait,
		Words: fmt.Sprintf("Soak for %s to %s. Tape over the taps; put drinking water aside before you begin.",
			quantity.Neat(house.SoakLow.Of(in.House), g.sys), quantity.Neat(house.SoakHigh.Of(in.House), g.sys))})
	if tank := g.drainsBeside(plumbing.RoleTank); len(tank) > 0 {
		g.openings(Drain, tank, "open", "Open: "+names(tank)+".", "the tank is empty", disposal)
		g.openings(Close, tank, "closed", "Close: "+names(tank)+".", "")
	}
	g.step(Step{Act: Fill, Parts: g.parts(plumbing.RoleTank),
		Words: "Fill the tank with fresh water and run every outlet, hot and cold, and the low points until the smell " +
			"has gone. Drain the tank and do it once " +
			"more.", Until: "a test strip reads no more than your supply itself", Cautions: []Caution{attended, drinking}})
	if everyday := setting.ForMode(in.Plan, setting.Everyday); everyday != nil && everyday.OK {
		g.turnTo(everyday.State, "Turn these handles back to everyday.")
	}
	if heaters := g.parts(plumbing.RoleHeater); len(heaters) > 0 {
		g.step(Step{Act: Look, Parts: heaters,
			Words:    "Open a hot tap until the air is out and water runs. Only then heat.",
			Cautions: []Caution{neverDry}})
	}
	return g.proc
}

// thin tells how bleach is thinned in containers.
func (g *generator) thin(b amount.Batch) string {
	if b.Count > 1 {
		return fmt.Sprintf("Thin the bleach first, in %d containers: %s into each container of %s filled with water",
			b.Count, quantity.Show(b.Bleach, g.sys), g.show(b.Bleach+b.Water))
	}
	return fmt.Sprintf("Thin the bleach first: %s into a container of %s filled with water",
		quantity.Show(b.Bleach, g.sys), g.show(b.Bleach+b.Water))
}

// topUp tells what each body of tank water is topped up with.
func (g *generator) topUp(doses []amount.DosePlan) string {
	if len(doses) == 1 {
		return fmt.Sprintf("Top the tank up with what was drawn off, about %s.", g.show(doses[0].Drawn))
	}
	var list []string
	for _, d := range doses {
		list = append(list, fmt.Sprintf("%s about %s", g.tell(d.Name()), g.show(d.Drawn)))
	}
	return "Top up with what was drawn off: " + join(list) + "."
}
