package fault

import (
	"context"
	"slices"
	"sync"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// right is a mode as it should be, that faults are measured against.
type right struct {
	ctx   context.Context
	net   *plumbing.Network
	a     *setting.Answer
	sys   quantity.System
	sides []plumbing.NodeID // outlet sides that the mode serves
	flow  *flow.Steady
	open  plumbing.NodeID // the side that is open in flow, None for none
	left  *flow.Drained   // what stays, of a mode that drains
	swept *swept          // nil before somebody asks
}

func newRight(ctx context.Context, n *plumbing.Network, a *setting.Answer) *right {
	w := &right{ctx: ctx, net: n, a: a, sys: n.Model.System(), open: -1}
	for i := range a.Mode.Clauses {
		if c := &a.Mode.Clauses[i]; c.Aim == setting.Served {
			w.sides = append(w.sides, c.To[0])
			if w.open < 0 || n.Nodes[w.open].Port == "cold" && n.Nodes[c.To[0]].Port == "hot" {
				w.open = c.To[0]
			}
		}
	}
	w.flow = w.run(n, a.State, w.open, nil)
	if a.Mode.Drains {
		w.left = flow.Drain(n, a.State)
	}
	return w
}

// run is the steady flow of the mode with one side open, or none, and with
// some openings that nothing is joined to; nil where nothing flows steadily.
func (w *right) run(n *plumbing.Network, s state.State, open plumbing.NodeID, bare []plumbing.NodeID) *flow.Steady {
	if w.a.Mode.Fluid == state.Air || w.a.Mode.Drains || w.a.Mode.ID == setting.Storage {
		return nil
	}
	for _, node := range bare {
		if s.Joined[node].Kind == state.Capped {
			s = s.WithJoined(node, state.Connection{Kind: state.OpenToAir})
		}
	}
	if open >= 0 {
		s = s.WithOpen(open, true)
	}
	st, err := flow.SteadyFlow(w.ctx, n, s)
	if err != nil {
		return nil
	}
	return st
}

// wrong is the mode with a fault in it.
type wrong struct {
	*right
	f       *Fault
	net     *plumbing.Network
	set     state.State
	still   func() *flow.Steady // all outlets shut; solved when an effect needs it
	running func() *flow.Steady // one side open
	list    []Effect
}

// effects tells what is noticed when a fault happens; none if nothing is.
func (w *right) effects(f Fault) []Effect {
	x := &wrong{right: w, f: &f, net: f.Network(w.net), set: f.In(w.a.State)}
	breaches := setting.Judge(x.net, &w.a.Mode, x.set)
	if w.a.Mode.Drains {
		x.drained()
		return x.list
	}
	if len(breaches) == 0 {
		x.weaker()
		return x.list
	}
	if x.idlePump() {
		return x.list
	}
	var bare []plumbing.NodeID
	for _, b := range breaches {
		if node := b.Clause.To[0]; b.Clause.Aim == setting.NoSpill && x.net.Nodes[node].Outside {
			bare = append(bare, node)
		}
	}
	x.still = sync.OnceValue(func() *flow.Steady { return w.run(x.net, x.set, -1, bare) })
	x.running = sync.OnceValue(func() *flow.Steady { return w.run(x.net, x.set, w.open, nil) })
	by := map[setting.Aim][]setting.Breach{}
	for _, b := range breaches {
		by[b.Clause.Aim] = append(by[b.Clause.Aim], b)
	}
	for i, p := range x.net.Pumps {
		if f.Off.Has(plumbing.PumpID(i)) {
			x.say(Effect{What: StandsStill, Part: p})
		}
	}
	x.heaterGets(by[setting.HeaterOut])
	if f.Off == 0 { // a heater that was full stays so while the pump stands still
		x.heaterMisses(by[setting.HeaterIn])
	}
	x.missing(by[setting.Served])
	x.lukewarm(by[setting.OnlyByHeater])
	x.tankGets(by[setting.TankOut])
	x.tankMisses(by[setting.TankIn])
	x.spills(by[setting.NoSpill])
	x.drawsElse(by[setting.OneSource])
	x.tanks(by[setting.Joined], by[setting.Apart])
	for _, b := range by[setting.FilterOut] {
		x.say(Effect{What: ThroughFilter, Part: b.Clause.Target})
	}
	for _, b := range by[setting.FilterIn] {
		x.say(Effect{What: FilterMissed, Part: b.Clause.Target})
	}
	if past := by[setting.OnlyByFilter]; past != nil {
		x.say(Effect{What: PastFilter, Sides: x.group(targets(past))})
	}
	for _, b := range by[setting.Spared] {
		x.say(Effect{What: Ruined, Severity: Damage, Part: b.Clause.Target})
	}
	return x.list
}

// idlePump tells what a running pump's own check valve does when it fails:
// nothing while water runs, but it does not hold the pressure.
func (x *wrong) idlePump() bool {
	if x.f.Link < 0 || x.f.Part.Role() != plumbing.RolePump || !x.pumping() {
		return false
	}
	x.say(Effect{What: PressureFalls, Part: x.f.Part})
	return true
}

func (x *wrong) say(e Effect) {
	if e.What.ofFluid() && e.From == nil {
		e.Fluid = x.fluid()
	}
	x.list = append(x.list, e)
}

func (x *wrong) fluid() state.Fluid { return x.a.Mode.Fluid }

// pumping reports whether a pump is switched on in the mode.
func (x *wrong) pumping() bool { return x.set.Pumps != 0 }

// heaterGets tells what a heater takes that should be left out.
func (x *wrong) heaterGets(list []setting.Breach) {
	for _, b := range list {
		h := b.Clause.Target
		takes, through := x.heaterTakes(h)
		e := Effect{Severity: Damage, Part: h, Volume: takes}
		if through {
			e.Behind = x.behindHeater(h)
		}
		open := x.a.Mode.ID == setting.HeaterAlone
		stands := x.a.Mode.ID == setting.Storage
		switch {
		case stands:
			e.What, e.Frost = StandingIntoHeater, x.frost(h)
		case x.fluid() == state.Air:
			e.What, e.Severity = HeaterBlown, Nuisance
		case open && x.fluid() == state.Water:
			e.What, e.Severity = HeaterPours, Danger
		case x.f.Link >= 0:
			e.What, e.Flow, e.Frost = HeaterSeeps, x.f.Seep(), x.frost(h)
		case x.fluid() == state.Sanitizer:
			e.What = HeaterTakes
		default:
			e.What, e.Frost = HeaterTakes, x.frost(h)
		}
		if x.fluid() == state.Water && e.What != HeaterPours {
			e.Severity = Nuisance
		}
		if e.What != HeaterTakes {
			e.Volume, e.Behind = 0, Sides{}
		}
		x.say(e)
	}
}

// heaterTakes is what a drained heater takes in: all it holds where it is on
// the way to an outlet; where only one of its ends is open, what the pressure
// squeezes its air into.
func (x *wrong) heaterTakes(h *plumbing.Part) (v quantity.Litre, through bool) {
	swept := make([]bool, len(x.net.Links))
	s := x.set
	for _, from := range x.a.Mode.From {
		for i, yes := range flow.Swept(x.net, s, from, x.sides) {
			swept[i] = swept[i] || yes
		}
	}
	for i, l := range x.net.AllLinks() {
		if l.Part == h && swept[i] {
			return h.Data.Capacity.Value(), true
		}
	}
	const atmosphere = 101.325 // kPa
	p := float64(x.pressure())
	return h.Data.Capacity.Value() * quantity.Litre(p/(p+atmosphere)), false
}

// pressure is the highest pressure the mode's source gives.
func (x *wrong) pressure() quantity.Kilopascal {
	if !x.pumping() {
		for _, f := range x.a.Mode.From {
			if c := x.set.Joined[f]; c.Pressure > 0 {
				return c.Pressure
			}
		}
		return 0
	}
	var p quantity.Kilopascal
	for _, pump := range x.net.PartsOf(plumbing.RolePump) {
		p = max(p, pump.Data.CutOut.Value())
	}
	return p
}

// behindHeater are the sides that get nothing before the heater is full.
func (x *wrong) behindHeater(h *plumbing.Part) Sides {
	r := flow.Reach(x.net, x.set, flow.Query{From: x.a.Mode.From, Without: []*plumbing.Part{h}})
	var behind []plumbing.NodeID
	for _, side := range x.sides {
		if !r.Node(side) {
			behind = append(behind, side)
		}
	}
	return x.group(behind)
}

// frost is the frost valve at a heater that lets run out what got in.
func (x *wrong) frost(h *plumbing.Part) *plumbing.Part {
	r := flow.Reach(x.net, x.set, flow.Query{From: []plumbing.NodeID{x.net.Node(h.ID + ".drain")}})
	for _, v := range x.net.PartsOf(plumbing.RoleFrost) {
		if r.Part(v) {
			return v
		}
	}
	return nil
}

func (x *wrong) heaterMisses(list []setting.Breach) {
	for _, b := range list {
		e := Effect{What: HeaterDry, Severity: Danger, Part: b.Clause.Target, Harm: dryHeat(b.Clause.Target)}
		if e.Harm == NotLit || e.Harm == NoHeat {
			e.Severity = Nuisance
		}
		x.say(e)
	}
}

// dryHeat tells what happens to a heater that is switched on without water. An
// on-demand heater with a flow switch does not light; one without counts as
// a storage heater, whose element burns out and whose burner overheats it.
func dryHeat(h *plumbing.Part) Harm {
	gas, electric := !h.Data.Gas.IsZero(), !h.Data.Electric.IsZero()
	switch {
	case !h.Storage() && h.Data.FlowSwitch:
		return NotLit
	case h.Data.Type == "hydronic":
		return NoHeat
	case electric && gas:
		return BurnsAndOverheats
	case electric:
		return Burns
	}
	return Overheats
}

// targets are the nodes that breaches are about.
func targets(list []setting.Breach) (sides []plumbing.NodeID) {
	for _, b := range list {
		sides = append(sides, b.Clause.To[0])
	}
	return sides
}

// missing tells which sides get nothing, and what stays in their lines.
func (x *wrong) missing(list []setting.Breach) {
	if len(list) == 0 {
		return
	}
	e := Effect{What: NothingComes, Severity: Damage, Sides: x.group(targets(list)), Volume: x.untreated()}
	switch x.fluid() {
	case state.Water:
		e.Severity, e.Volume = Nuisance, 0
	case state.Air:
		x.say(e)
		return
	}
	x.dry(&e)
	x.say(e)
}

// dry says of an effect that a running pump has nothing to draw.
func (x *wrong) dry(e *Effect) {
	if !x.pumping() {
		return
	}
	from := slices.Clone(x.a.Mode.From)
	for _, t := range x.net.PartsOf(plumbing.RoleTank) {
		from = append(from, x.net.Node(t.ID+".supply"))
	}
	r := flow.Reach(x.net, x.set, flow.Query{From: from})
	for i, p := range x.net.Pumps {
		if x.set.Pumps.Has(plumbing.PumpID(i)) && r.Node(x.net.Node(p.ID+".in")) {
			return
		}
	}
	e.Dry = true
	for _, p := range x.net.Pumps {
		if !p.Data.DryRun.IsZero() {
			e.DryFor = p.Data.DryRun
			return
		}
	}
}

// swept is what the flow of a mode passes through on its way to each side, one at a time.
type swept struct {
	ways []sweptWay
	any  []bool // by link, whether it lies on one of the ways
}

// sweptWay is what is swept from one source to one side.
type sweptWay struct {
	from, to plumbing.NodeID
	links    []bool
}

// sweeps works out what the mode sweeps as it should be, once.
func (w *right) sweeps() *swept {
	if w.swept != nil {
		return w.swept
	}
	w.swept = &swept{any: make([]bool, len(w.net.Links))}
	for _, from := range w.a.Mode.From {
		for _, side := range w.sides {
			links := flow.Swept(w.net, w.a.State, from, []plumbing.NodeID{side})
			for i, yes := range links {
				w.swept.any[i] = w.swept.any[i] || yes
			}
			w.swept.ways = append(w.swept.ways, sweptWay{from, side, links})
		}
	}
	return w.swept
}

// changes lists the links that the fault shuts, and tells whether it opens others.
func (x *wrong) changes() (shut []plumbing.LinkID, opens bool) {
	for i, l := range x.right.net.AllLinks() {
		if l.Handle == plumbing.None && l.Pump == plumbing.None {
			continue
		}
		passes := func(s *state.State) bool { return s.Passes(l, l.A, state.Can) || s.Passes(l, l.B, state.Can) }
		switch was, is := passes(&x.a.State), passes(&x.set); {
		case was && !is:
			shut = append(shut, i)
		case is && !was:
			opens = true
		}
	}
	return shut, opens
}

// untreated is the content of the lines that were swept and are no more. Where nothing is opened, a way on which
// nothing is shut sweeps what it did: only the others are looked at again.
func (x *wrong) untreated() quantity.Litre {
	shut, opens := x.changes()
	if len(shut) == 0 {
		return 0
	}
	before := x.sweeps()
	still := make([]bool, len(before.any))
	for _, way := range before.ways {
		now := way.links
		if opens || slices.ContainsFunc(shut, func(i plumbing.LinkID) bool { return way.links[i] }) {
			now = flow.Swept(x.net, x.set, way.from, []plumbing.NodeID{way.to})
		}
		for i, yes := range now[:len(still)] {
			still[i] = still[i] || yes
		}
	}
	var sum quantity.Litre
	for i, l := range x.right.net.AllLinks() {
		if before.any[i] && !still[i] && l.Line != nil {
			sum += l.Content
		}
	}
	return sum
}

// lukewarm tells which hot sides are also fed past the heater, and how much of
// the flow goes that way at one of them.
func (x *wrong) lukewarm(list []setting.Breach) {
	if len(list) == 0 {
		return
	}
	e := Effect{What: Lukewarm, Sides: x.group(targets(list))}
	if running := x.running(); running != nil {
		total := float64(running.Out[x.open])
		heated := 0.0
		for i, l := range x.net.AllLinks() {
			if l.Part != nil && l.Part.Role() == plumbing.RoleHeater {
				heated += abs(float64(running.Flow[i]))
			}
		}
		switch {
		case total > 0 && heated < 0.01*total:
			e.What = AllPastHeater
		case total > 0 && heated < total:
			e.Share = 1 - heated/total
		}
	}
	x.say(e)
}

// group is some of the mode's sides, told at once where they are all of a kind.
func (x *wrong) group(sides []plumbing.NodeID) Sides {
	count := func(list []plumbing.NodeID, port string) (c int) {
		for _, s := range list {
			if x.net.Nodes[s].Port == port {
				c++
			}
		}
		return c
	}
	g := Sides{Nodes: sides}
	if len(sides) == len(x.sides) {
		g.Every = EveryOutlet
		return g
	}
	for port, every := range map[string]Every{"hot": EveryHot, "cold": EveryCold} {
		if c := count(sides, port); c > 1 && c == len(sides) && c == count(x.sides, port) {
			g.Every = every
		}
	}
	return g
}

func abs(v float64) float64 {
	if v < 0 {
		return -v
	}
	return v
}
