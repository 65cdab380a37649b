package procedure

import (
	"fmt"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
	"coldtap/internal/core/words"
)

// Winterize generates draining and then antifreeze by the on-board pump.
func Winterize(in Inputs) Procedure {
	g := newGenerator(in, "winterize", "Winterize with antifreeze by the pump")
	a := setting.ForMode(in.Plan, setting.Antifreeze)
	if !a.Has() {
		g.proc.CantDo = "No setting brings antifreeze to every outlet."
		if a != nil {
			g.proc.CantDo = g.tell(a.Why)
		}
		return g.proc
	}
	if !a.OK {
		g.best(a)
	}
	sheet := amount.Antifreeze(in.Net, a, amount.Drained, in.House)
	for _, j := range sheet.Jugs {
		g.proc.Needs = append(g.proc.Needs,
			fmt.Sprintf("%s of %s of propylene glycol antifreeze for potable water systems (%s are used)",
				g.tell(j.CountSaid()), quantity.Neat(j.Size, g.sys), g.show(sheet.Total+sheet.Cycles.Total)))
	}
	g.emptyWaste()
	g.heaterOffAndDrained()
	g.drainLines()
	g.turnTo(a.State, "Turn these handles to the winter position.")
	for _, h := range a.Mode.Acts {
		if h.Verb == state.Join && h.Part.Role() == plumbing.RolePickUp {
			g.step(Step{Act: Attach, Parts: []*plumbing.Part{h.Part},
				Words:    fmt.Sprintf("%s: %s.", h.Part.Name, words.English(g.sys).Act(h)),
				Cautions: []Caution{potableOnly, noThinning}})
		}
	}
	g.pump("on", "It primes within a few seconds, then runs until the pressure is up and falls silent.")
	for _, o := range g.outlets(a.State, a.Mode.From) {
		g.step(Step{Act: Open, Parts: []*plumbing.Part{o.part}, Until: "fully coloured", Words: colourWords(o)})
	}
	if low := g.lowPoints(); len(low) > 0 {
		g.openings(Open, low, "open", "Open for a moment: "+names(low)+".", "coloured, then close", g.reachUnder())
	}
	g.step(Step{Act: Switch, Parts: g.parts(plumbing.RolePump),
		Words: "Pump switch off. Open one tap to let the pressure out, then close it."})
	g.pickupAway(a)
	g.pockets()
	if traps := g.parts(plumbing.RoleTrap); len(traps) > 0 {
		g.step(Step{Act: Pour, Parts: traps, Words: "Pour antifreeze into each trap: " + trapWords(g, traps) + "."})
	}
	g.step(Step{Act: Look, Words: "Check: antifreeze ran at every outlet" + heaterCheck(g, sheet) +
		". Leave a note at the heater switches: empty, do not switch on."})
	return g.proc
}

func colourWords(o outletSides) string {
	switch o.part.Data.Type {
	case "toilet":
		return o.part.Name + ": flush until coloured, and leave some on the seal."
	case "shower", "outside-shower":
		return o.part.Name + ": " + o.words(false) + ", head held down, until fully coloured."
	}
	if o.part.Role() == plumbing.RoleMachine {
		return o.part.Name + ": run its own short cycle until the water it lets out is coloured."
	}
	return o.part.Name + ": " + o.words(false) + ", until fully coloured."
}

func trapWords(g *generator, traps []*plumbing.Part) string {
	var list []string
	for _, t := range traps {
		list = append(list, fmt.Sprintf("%s %s", names([]*plumbing.Part{t}), g.show(t.Data.Seal.Value())))
	}
	return join(list)
}

func heaterCheck(g *generator, sheet amount.AntifreezeSheet) string {
	if len(g.drainsBeside(plumbing.RoleHeater)) == 0 || !sheet.Bypassed {
		return ""
	}
	return ", and none came at the heater drain"
}

func (g *generator) emptyWaste() {
	if tanks := g.parts(plumbing.RoleWaste); len(tanks) > 0 {
		g.step(Step{Act: Drain, Parts: tanks, Words: "Empty and rinse the waste tanks: " + names(tanks) + ".",
			Cautions: []Caution{disposal}})
	}
}

// heaterOffAndDrained switches the heater off at every source, lets it cool,
// takes the pressure out, then opens its drain.
func (g *generator) heaterOffAndDrained() {
	heaters := g.parts(plumbing.RoleHeater)
	if len(heaters) == 0 {
		return
	}
	g.heaterOff(heaters)
	g.step(Step{Act: Switch, Parts: g.parts(plumbing.RolePump, plumbing.RoleInlet),
		Words: "Pump switch off, city water hose off. Open a hot tap until nothing more runs."})
	for _, d := range g.drainsBeside(plumbing.RoleHeater) {
		g.openings(Drain, []*plumbing.Part{d}, "open",
			"Take out: "+names([]*plumbing.Part{d})+". Let the heater run empty.", "nothing more runs", scald, pressure)
	}
}

func (g *generator) heaterOff(heaters []*plumbing.Part) {
	sources := map[string]bool{}
	var list []string
	for _, h := range heaters {
		if !h.Data.Gas.IsZero() && !sources["gas"] {
			sources["gas"] = true
			list = append(list, "gas")
		}
		if !h.Data.Electric.IsZero() && !sources["electric"] {
			sources["electric"] = true
			list = append(list, "electric")
		}
	}
	where := ""
	if len(list) > 0 {
		where = ": " + join(list)
	}
	g.step(Step{Act: Switch, Parts: heaters, Words: "Heater off at every source" + where + ". Let it cool.",
		Until: "a hot tap runs cold", Cautions: []Caution{scald, licensed}})
}

func (g *generator) drainLines() {
	if tank := g.drainsBeside(plumbing.RoleTank); len(tank) > 0 {
		g.openings(Drain, tank, "open", "Open: "+names(tank)+".", "the tank is empty", g.reachUnder(), disposal)
	}
	if low := g.lowPoints(); len(low) > 0 {
		g.openings(Drain, low, "open", "Open: "+names(low)+", and every outlet, cold and hot.", "nothing more runs",
			g.reachUnder())
	}
	g.step(Step{Act: Switch, Parts: g.parts(plumbing.RolePump),
		Words: "Run the pump briefly until it spits air, then switch it off.", Until: "it spits"})
	all := append(append(g.drainsBeside(plumbing.RoleHeater), g.drainsBeside(plumbing.RoleTank)...), g.lowPoints()...)
	g.openings(Close, all, "closed", "Close again: "+names(all)+", and every outlet.", "")
}

func (g *generator) pump(what, notice string) {
	if pumps := g.parts(plumbing.RolePump); len(pumps) > 0 {
		g.step(Step{Act: Switch, Parts: pumps, Words: "Pump switch " + what + ".", Until: notice})
	}
}

func (g *generator) pickupAway(a *setting.Answer) {
	for _, h := range a.Mode.Acts {
		if h.Verb == state.Join && h.Part.Role() == plumbing.RolePickUp {
			g.step(Step{Act: Close, Parts: []*plumbing.Part{h.Part},
				Words: fmt.Sprintf("Lift the %s out of the jug, run the pump a moment to suck it empty, cap it and stow "+
					"it.", names([]*plumbing.Part{h.Part}))})
		}
	}
}

// pockets are what pumped antifreeze never reaches.
func (g *generator) pockets() {
	for _, c := range g.parts(plumbing.RoleInlet) {
		if c.Data.CheckValve {
			g.step(Step{Act: Drain, Parts: []*plumbing.Part{c}, Words: c.Name +
				": take out the screen and press the check valve to let out the water that stands ahead of it."})
		}
	}
	for _, r := range g.parts(plumbing.RoleRinse) {
		g.step(Step{Act: Drain, Parts: []*plumbing.Part{r}, Words: r.Name +
			": blow its line out with a little air; nothing pumped reaches it."})
	}
}
