package draft

import (
	"maps"
	"slices"
	"strings"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// schools are the ways of making a model ready for the winter, by the ids of amount.WinterSchools.
// The last is what stays where a model has no port for air and none for antifreeze.
var schools = []string{"air-then", "pump", "hand-pump", "air", "tank", "drain"}

// schoolModes are the modes by which a school's antifreeze, or its air, gets into the lines.
var schoolModes = map[string]string{"air": setting.Blow, "pump": setting.Antifreeze, "hand-pump": setting.HandPump,
	"air-then": setting.Antifreeze, "tank": setting.Sanitize, "drain": setting.DrainDown}

func winterID(school string) string { return "winterize-" + school }

// advised are the procedures of the schools that stand for one another, in their order: through the tank is only shown.
func advised() (list []string) {
	for _, s := range schools {
		if s != "tank" {
			list = append(list, winterID(s))
		}
	}
	return list
}

// drain empties a model for a trip home.
func drain(d *draft) fact.Fact {
	if _, why := d.mode(setting.DrainDown); !why.IsZero() {
		return why
	}
	everyday := d.rest(d.at)
	d.quiet()
	d.dryLoose()
	d.empty()
	d.proc.Goal.Dry, d.proc.Goal.Untreated = true, d.stuck()
	return d.ends(everyday)
}

// winterize makes a model ready for the winter by a school.
func winterize(school string) func(*draft) fact.Fact {
	return func(d *draft) fact.Fact {
		if why := d.cantWinter(school); !why.IsZero() {
			return why
		}
		everyday := d.rest(d.at)
		d.emptyWaste()
		d.quiet()
		return d.winter(school, everyday)
	}
}

// winterizeAgain makes a model ready again after a weekend in the season: its heater is still empty
// and passed by, its lines are full.
func winterizeAgain(d *draft) fact.Fact {
	winter := d.maker.Winter(d.ctx)
	if winter.Procedure == nil {
		return winter.Why
	}
	school := strings.TrimPrefix(winter.ID, winterID(""))
	if why := d.cantWinter(school); !why.IsZero() {
		return why
	}
	a, why := d.mode(setting.Flush)
	if a == nil {
		return why
	}
	everyday := d.rest(d.everyday())
	s := d.rest(a.State)
	s.Contents = state.Contents{}
	for _, h := range d.Net.PartsOf(plumbing.RoleHeater) {
		if at := d.Net.PieceOf(h); at != plumbing.None {
			s.Contents[at] = state.Content{}
		}
	}
	d.start(s, false)
	d.emptyWaste()
	return d.winter(school, everyday)
}

// cantWinter is why a school can't be had.
func (d *draft) cantWinter(school string) fact.Fact {
	if a, why := d.mode(schoolModes[school]); a == nil {
		return why
	}
	if school == "air-then" {
		if air, why := d.mode(setting.Blow); air == nil {
			return fact.Of("winter.no-air", why)
		}
	}
	for _, t := range d.Net.PartsOf(plumbing.RoleTank) {
		if school == "tank" && !proof.WayIn(d.Net, t) {
			return fact.Of("cant.pour", t)
		}
	}
	return fact.Fact{}
}

// winter drains, blows and fills a system with its heaters off, as a school has it.
func (d *draft) winter(school string, everyday state.State) fact.Fact {
	a := setting.ForMode(d.Plan, schoolModes[school])
	d.pumpOff()
	d.dryLoose()
	d.cartridgesOut()
	if af := setting.ForMode(d.Plan, setting.Antifreeze); af.Has() && schoolModes[school] != setting.Antifreeze &&
		slices.ContainsFunc(of(&af.Mode, state.Join), pickUp) {
		back := d.at
		d.step("winter-position", run.Step{Acts: d.turns(af.State, nil)})
		d.suckHoses(af)
		d.step("close", run.Step{Acts: d.turns(back, nil)})
	}
	d.empty()
	before := amount.Drained
	if school == "air" || school == "air-then" {
		d.blow(setting.ForMode(d.Plan, setting.Blow))
		before = amount.Blown
	}
	d.proc.Goal.Untreated = map[string]bool{}
	for _, p := range d.untreated(a, before) {
		d.proc.Goal.Untreated[p.ID] = p.Act == amount.NoAct
	}
	d.proc.Goal.Freeze = amount.BurstShare(d.Net.Recorder(), d.Net.Model.DesignLow.Value())
	if school != "air" && school != "drain" {
		d.Net.Recorder().Whole(func() {
			if weak, err := amount.WeakestPoint(d.Net, d.Plan, a, before, d.House); err == nil {
				d.proc.Goal.Weakest = weak
			}
		})
		if school != "tank" {
			d.proc.Goal.Sheet = worked(d, func() quantity.Litre { return amount.Antifreeze(d.Net, a, before, d.House).Total })
		}
		d.antifreeze(a, school == "tank")
	}
	d.traps()
	var caps []state.Act
	for _, at := range slices.Sorted(maps.Keys(d.at.Joined)) {
		caps = append(caps, state.Act{Verb: state.Cap, Part: d.Net.Nodes[at].Part})
	}
	end := d.rest(d.at)
	stays := schoolModes[school] == setting.Antifreeze || school == "hand-pump" // handles stay for the winter
	if !stays {
		end = everyday
	}
	back := d.turns(everyday, func(p *plumbing.Part) bool { return !stays || p.Role() == plumbing.RoleJoint })
	d.step("cap", run.Step{Acts: slices.Concat(caps, back, d.fittings(false))})
	end = d.withCartridgesOut(end)
	for i, h := range d.Net.AllHandles() {
		if h.Part.Role() == plumbing.RoleJoint {
			end = end.WithAny(i, everyday.Handles[i])
		}
	}
	return d.ends(end)
}

// antifreeze brings antifreeze to each outlet side and low point by a setting.
func (d *draft) antifreeze(a *setting.Answer, byTank bool) {
	least := run.Mix{Glycol: d.proc.Goal.Freeze}
	sides := d.sides(a, false)
	for _, s := range sides {
		if s.part.Role() != plumbing.RoleMachine {
			d.proc.Goal.Coloured = append(d.proc.Goal.Coloured, s.node)
		}
	}
	for turn, st := range a.States() {
		d.step("winter-position", run.Step{Acts: d.turns(st, nil)})
		if turn == 0 {
			if byTank {
				d.step("tank-antifreeze", run.Step{Pour: d.tankTakes()})
			}
			d.step("pick-up", run.Step{Acts: slices.Concat(d.still(of(&a.Mode, state.TakeOut)), of(&a.Mode, state.Plug),
				of(&a.Mode, state.Join))})
			what := "pump-on"
			on := d.pumpsOf(a)
			if on == nil { // no pump is silent that is not on: it is pumped by hand
				what = "hand-pump"
			}
			d.step(what, run.Step{Acts: on, Until: run.Until{Sense: run.Silent, For: 60}})
		}
		for _, s := range sides {
			if amount.TurnOf(a, s.node) != turn {
				continue
			}
			acts := append(d.catch(state.Antifreeze, s.part), s.open())
			o := d.bringTo("colour", s, acts, d.coloured())
			if p, came := o.Arrived[s.node]; s.part.Role() == plumbing.RoleMachine && came && p.Mix.Glycol >= least.Glycol {
				d.proc.Goal.Coloured = append(d.proc.Goal.Coloured, s.node)
			}
		}
		d.colourLowPoints(a, least, turn < len(a.States())-1)
	}
	d.pressureOff()
	if byTank {
		d.emptyTanks(state.Antifreeze)
	}
}

// pickUp reports whether an act is at a port with a hose of its own, which keeps what it drew.
func pickUp(a state.Act) bool { return a.Part.Role() == plumbing.RolePickUp }

// suckHoses lets the pumps suck the hoses of a setting's pick-ups empty, their ends in the air.
func (d *draft) suckHoses(a *setting.Answer) {
	for _, j := range of(&a.Mode, state.Join) {
		if !pickUp(j) {
			continue
		}
		tap, ok := d.nearest(d.drawnBy(j.Part))
		if !ok {
			continue
		}
		j.With = state.Connection{Kind: state.OpenToAir}
		d.step("suck-hose", run.Step{Acts: slices.Concat([]state.Act{j}, d.pumpsFrom(j.Part), []state.Act{tap.open()}),
			Until: run.Until{Sense: run.Races, For: 600}, Then: []state.Act{tap.shut()}})
		d.step("pump-off", run.Step{Acts: append(d.pumps(state.Off), state.Act{Verb: state.Cap, Part: j.Part})})
	}
	if d.pressed() {
		d.pressureOff()
	}
}

// pumpsFrom switches the pumps on that draw from a port as the handles stand.
func (d *draft) pumpsFrom(port *plumbing.Part) []state.Act {
	return d.pumpsDrawing(d.Net.NodesOf(port, "mouth"))
}

// pumpsDrawing switches the pumps on that draw from some nodes as the handles stand: the others would run dry.
func (d *draft) pumpsDrawing(from []plumbing.NodeID) []state.Act {
	s := d.at
	s.Pumps = 0
	r := flow.Reach(d.Net, s, flow.Query{From: from})
	return slices.DeleteFunc(d.pumps(state.On), func(a state.Act) bool {
		for _, at := range d.Net.NodesOf(a.Part, "in") {
			if r.Node(at) {
				return false
			}
		}
		return true
	})
}

// drawnBy are the outlets of the pumps that draw from a port as the handles stand.
func (d *draft) drawnBy(port *plumbing.Part) (list []plumbing.NodeID) {
	for _, a := range d.pumpsFrom(port) {
		list = append(list, d.Net.NodesOf(a.Part, "out")...)
	}
	return list
}

// pumpsOf switches the pumps on that a mode runs.
func (d *draft) pumpsOf(a *setting.Answer) []state.Act {
	if a.State.Pumps == 0 && a.Mode.Start.Pumps == 0 && a.Mode.ID == setting.HandPump {
		return nil
	}
	return d.pumps(state.On)
}

// tankTakes is what is poured into the tanks where antifreeze goes by them: what the lines take, the
// heel twice; nil where nothing can be poured.
func (d *draft) tankTakes() (list []run.Pour) {
	a := setting.ForMode(d.Plan, setting.Sanitize)
	tanks := d.Net.PartsOf(plumbing.RoleTank)
	sheet := worked(d, func() amount.AntifreezeSheet { return amount.ThroughTank(d.Net, a, amount.Drained, d.House) })
	product, need := d.proc.Start.Fluids[state.Antifreeze], d.proc.Goal.Freeze
	for _, t := range tanks {
		// A machine starts anew until it is coloured: twice more than what is counted of it.
		pour := run.Pour{Into: t, Litre: (sheet.Total + 3*sheet.Cycles.Total) / quantity.Litre(len(tanks)), Mix: product}
		if v := d.now().Vessel(t); v != nil && need < product.Glycol { // the heel thins it: so much that it still protects
			pour.Litre = max(pour.Litre, v.Liquid.Litre*quantity.Litre(1.1*need/(product.Glycol-need)))
		}
		if v := d.now().Vessel(t); v != nil {
			pour.Litre = min(pour.Litre, v.Holds*full-v.Liquid.Litre)
		}
		list = append(list, pour)
	}
	return list
}

// blowFor is how long air blows through an outlet that nothing runs out of any more.
const blowFor quantity.Second = 20

// blow lets air through each outlet side in turn, the screens out, then through each low point.
func (d *draft) blow(a *setting.Answer) {
	d.step("screens-out", run.Step{Acts: d.still(of(&a.Mode, state.TakeOut))})
	joins := of(&a.Mode, state.Join)
	for i := range joins {
		joins[i].With.Pressure = amount.PressureCeiling(d.Net, d.House).Chosen
	}
	for turn, st := range a.States() {
		d.step("air-position", run.Step{Acts: d.turns(st, nil)})
		d.step("compressor-on", run.Step{Acts: joins})
		for _, s := range d.sides(a, false) {
			if amount.TurnOf(a, s.node) != turn {
				continue
			}
			d.step("blow", run.Step{Acts: []state.Act{s.open()}, Then: []state.Act{s.shut()},
				Until: run.Until{Sense: run.Passed, For: blowFor}})
		}
		d.atLowPoints(d.lowPoints(a), false, func(tapped) (string, run.Step) {
			return "blow-low-point", run.Step{Until: run.Until{Sense: run.Passed, For: blowFor}}
		})
		_, parts := d.pushing()
		d.step("compressor-off", run.Step{Acts: parts})
	}
	d.pressureOff()
}

// traps pours antifreeze into every trap.
func (d *draft) traps() {
	var pour []run.Pour
	for _, t := range d.Net.PartsOf(plumbing.RoleTrap) {
		if v := plumbing.Field(d.Net, &t.Data.Seal).Value(); v > 0 {
			pour = append(pour, run.Pour{Into: t, Litre: v, Mix: d.proc.Start.Fluids[state.Antifreeze]})
			d.proc.Goal.Traps = append(d.proc.Goal.Traps, t)
		}
	}
	d.step("traps", run.Step{Pour: pour})
}

// emptyWaste empties and rinses the waste tanks, so that what runs out finds room.
func (d *draft) emptyWaste() {
	var acts []state.Act
	for _, w := range d.Net.PartsOf(plumbing.RoleWaste) {
		acts = append(acts, state.Act{Verb: state.Rinse, Part: w, For: state.Antifreeze})
	}
	d.step("empty-waste", run.Step{Acts: acts})
}

// rinseWaste empties and rinses the waste tanks that a mode's fluid must not meet as they are.
func (d *draft) rinseWaste(m *setting.Mode) {
	d.step("empty-waste", run.Step{Acts: of(m, state.Rinse)})
}

// store leaves a model that is ready for the winter as it is to stand.
func store(d *draft) fact.Fact {
	a, why := d.mode(setting.Storage)
	if a == nil {
		return why
	}
	before := d.maker.Winter(d.ctx)
	if before.Procedure == nil || !d.after(before.ID) {
		return before.Why
	}
	d.pumpOff()
	d.step("storage-position", run.Step{Acts: d.turns(a.State, nil)})
	var caps []state.Act
	for _, c := range of(&a.Mode, state.Cap) {
		if d.at.Joined[d.Net.Node(c.Part.ID+".mouth")].Kind != state.Capped {
			caps = append(caps, c)
		}
	}
	d.step("cap", run.Step{Acts: caps})
	d.proc.Goal.Freeze, d.proc.Goal.Untreated = before.Procedure.Goal.Freeze, before.Procedure.Goal.Untreated
	if len(d.proc.Steps) == 0 {
		return fact.Of("cant.stands-so")
	}
	return d.ends(d.withCartridgesOut(d.rest(a.State)))
}

// tapped is a handle that opens low points, and the mouths that it opens.
type tapped struct {
	open, shut state.Act
	mouths     []plumbing.NodeID
	parts      []*plumbing.Part
}

// lowPoints are the handles of the low-point drains that a mode's fluid gets to, each once.
func (d *draft) lowPoints(a *setting.Answer) (list []tapped) {
	_, drains := amount.Ends(d.Net, a, amount.FarthestFirst)
	at := map[plumbing.HandleID]int{}
	for _, node := range drains {
		p := d.Net.Nodes[node].Part
		mouth := d.Net.Node(p.ID + ".mouth")
		for i := range d.Net.Links {
			l := &d.Net.Links[i]
			if l.Part != p || l.B != mouth || l.Handle == plumbing.None {
				continue
			}
			k, there := at[l.Handle]
			if !there {
				h := &d.Net.Handles[l.Handle]
				k, at[l.Handle] = len(list), len(list)
				list = append(list, tapped{
					open: state.Act{Verb: state.Turn, Part: h.Part, To: h.Positions[l.Open.First()]},
					shut: state.Act{Verb: state.Turn, Part: h.Part, To: h.Positions[d.at.Position(l.Handle)]}})
			}
			list[k].mouths, list[k].parts = append(list[k].mouths, mouth), append(list[k].parts, p)
		}
	}
	return list
}

// colourLowPoints lets antifreeze run out at the low points until it is coloured.
func (d *draft) colourLowPoints(a *setting.Answer, least run.Mix, goOn bool) {
	d.atLowPoints(d.lowPoints(a), goOn, func(t tapped) (string, run.Step) {
		d.proc.Goal.Coloured = append(d.proc.Goal.Coloured, t.mouths...)
		return "low-point", run.Step{Acts: d.catch(state.Antifreeze, t.parts...),
			Until: run.Until{Sense: run.Coloured, At: t.mouths, Least: least, Litre: d.runOut(), For: 300}}
	})
}

// stuck are the parts and lines that no draining empties and no hand: findings tell of them.
func (d *draft) stuck() map[string]bool {
	stuck := map[string]bool{}
	a := setting.ForMode(d.Plan, setting.DrainDown)
	s := a.Last()
	s.Joined, s.Open, s.Out = a.Mode.Start.Joined, a.Mode.Start.Open, a.Mode.Start.Out
	pieces := d.now().Pieces()
	for _, p := range flow.Drain(d.Net, s).Pieces { // what running the pump, or a hand, has emptied stays empty
		x := pieces[p.Piece]
		full := x.Litre > 0 && x.Liquid() > x.Litre*0.9
		stuck[p.ID(d.Net)] = stuck[p.ID(d.Net)] || p.Share() > 0.9 && full
	}
	hands := []amount.Act{amount.PressCheck, amount.BlowRinse, amount.RunDry, amount.OpenBowl}
	if af := setting.ForMode(d.Plan, setting.Antifreeze); af.Has() {
		for _, p := range d.untreated(af, amount.Drained) {
			stuck[p.ID] = stuck[p.ID] && !slices.Contains(hands, p.Act)
		}
	}
	return stuck
}

// mostCycles is how often somebody starts a machine.
const mostCycles = 12

// cycles is as many whole cycles of a machine as it takes until what is waited for comes out of it.
// Where nobody gave what a cycle draws somebody watches what comes.
func (d *draft) cycles(s side, watched run.Until, is func(run.Mix) bool) run.Until {
	each := plumbing.Field(d.Net, &s.part.Data.Cycle).Value()
	if each == 0 {
		return watched
	}
	until := run.Until{Sense: run.Ran, At: []plumbing.NodeID{s.node}, For: 900}
	for k := range mostCycles {
		until.Litre = each * quantity.Litre(k+1)
		o := d.try(d.now().Clone(), run.Step{Acts: []state.Act{s.open()}, Until: until})
		if p, ok := o.Arrived[s.node]; ok && p.Gas < 0.5 && is(p.Mix) {
			break
		}
	}
	return until
}

// cartridgesOut takes every cartridge out, with no pressure behind its bowl.
func (d *draft) cartridgesOut() {
	var acts []state.Act
	for _, f := range d.Net.Fittings {
		if cartridge(f.Part) {
			acts = append(acts, state.Act{Verb: state.TakeOut, Part: f.Part, For: state.Antifreeze})
		}
	}
	if acts = d.still(acts); acts != nil && d.pressed() {
		d.pressureOff()
	}
	d.step("cartridges-out", run.Step{Acts: acts})
}

// cartridge reports whether what is taken out of a part is a filter's cartridge.
func cartridge(p *plumbing.Part) bool { return p.Role() == plumbing.RoleFilter }

// still are acts without those that take out what is out already.
func (d *draft) still(acts []state.Act) []state.Act {
	return slices.DeleteFunc(acts, func(a state.Act) bool {
		return a.Verb == state.TakeOut && d.at.Out[d.Net.FittingOf(a.Part)]
	})
}

// withCartridgesOut is a state in which the cartridges that are out stay so: none stands in antifreeze, or freezes.
func (d *draft) withCartridgesOut(s state.State) state.State {
	for i, f := range d.Net.Fittings {
		if id := plumbing.FittingID(i); cartridge(f.Part) && d.at.Out[id] {
			s = s.WithOut(id, true)
		}
	}
	return s
}

// fittings are the acts that put back what was taken out; cartridges only where that is asked.
func (d *draft) fittings(cartridges bool) (acts []state.Act) {
	for i, f := range d.Net.Fittings {
		if d.at.Out[plumbing.FittingID(i)] && (cartridges || !cartridge(f.Part)) {
			acts = append(acts, state.Act{Verb: state.PutBack, Part: f.Part})
		}
	}
	return acts
}
