package fault

import (
	"context"
	"fmt"
	"strings"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
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
	w.flow = w.run(n, a.Setting, w.open, nil)
	if a.Mode.Drains {
		w.left = flow.Drain(n, a.Setting, flow.Openings(n, a.Setting, nil))
	}
	return w
}

// run is the steady flow of the mode with one side open, or none, and with
// some openings that nothing is joined to; nil where nothing flows steadily.
func (w *right) run(n *plumbing.Network, s flow.Setting, open plumbing.NodeID, bare []plumbing.NodeID) *flow.Steady {
	if w.a.Mode.Fluid == "air" || w.a.Mode.Drains || w.a.Mode.ID == setting.Storage {
		return nil
	}
	sc := setting.Scene(n, &w.a.Mode, s)
	for _, node := range bare {
		if sc.At[node].Kind == flow.Nothing {
			sc.At[node] = flow.Attached{Kind: flow.Air}
		}
	}
	if open >= 0 {
		sc.Open[open] = true
	}
	st, err := flow.SteadyFlow(w.ctx, n, sc)
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
	set     flow.Setting
	still   *flow.Steady // all outlets shut
	running *flow.Steady // one side open
	list    []Effect
}

// effects tells what is noticed when a fault happens; none if nothing is.
func (w *right) effects(f Fault) []Effect {
	x := &wrong{right: w, f: &f, net: f.Network(w.net), set: f.Setting(w.a.Setting)}
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
	x.still, x.running = w.run(x.net, x.set, -1, bare), w.run(x.net, x.set, w.open, nil)
	by := map[setting.Aim][]setting.Breach{}
	for _, b := range breaches {
		by[b.Clause.Aim] = append(by[b.Clause.Aim], b)
	}
	x.heaterGets(by[setting.HeaterOut])
	x.heaterMisses(by[setting.HeaterIn])
	x.missing(by[setting.Served])
	x.lukewarm(by[setting.OnlyByHeater])
	x.tankGets(by[setting.TankOut])
	x.tankMisses(by[setting.TankIn])
	x.spills(by[setting.NoSpill])
	x.drawsElse(by[setting.OneSource])
	return x.list
}

// idlePump tells what a running pump's own check valve does when it fails:
// nothing while water runs, but it does not hold the pressure.
func (x *wrong) idlePump() bool {
	if x.f.Link < 0 || x.f.Part.Kind != plumbing.Pump || !x.a.Mode.PumpOn {
		return false
	}
	x.say(Nuisance, []string{x.f.Part.ID}, "The pressure falls back through %s: with every outlet shut it starts again and again.", lower(x.f.Part.Name))
	return true
}

func (x *wrong) say(g Gravity, parts []string, format string, args ...any) {
	x.list = append(x.list, Effect{g, fmt.Sprintf(format, args...), parts})
}

func (x *wrong) fluid() string { return x.a.Mode.Fluid }

// heaterGets tells what a heater takes that should be left out.
func (x *wrong) heaterGets(list []setting.Breach) {
	for _, b := range list {
		h := b.Clause.Target
		takes, through := x.heaterTakes(h)
		much := quantity.Rough(takes, x.sys)
		ids := []string{h.ID}
		behind := ""
		if through {
			behind = x.behindHeater(h)
		}
		if x.f.Link >= 0 && x.fluid() != "air" && x.a.Mode.ID != setting.Storage && x.a.Mode.ID != setting.HeaterAlone {
			g := Damage
			if x.fluid() == "water" {
				g = Nuisance
			}
			x.say(g, ids, "%s seeps into %s, up to about %s.%s", plumbing.Upper(x.fluid()), lower(h.Name), quantity.Rough(x.f.Seep(), x.sys), x.frost(h))
			continue
		}
		if x.a.Mode.ID == setting.Storage {
			x.say(Damage, ids, "What stands in the lines can run into %s.%s", lower(h.Name), x.frost(h))
			continue
		}
		switch x.fluid() {
		case "antifreeze":
			x.say(Damage, ids, "%s takes about %s of antifreeze%s.%s", h.Name, much, behind, x.frost(h))
		case "sanitizer":
			x.say(Damage, ids, "About %s of sanitizer gets into %s and attacks its metal%s.", much, lower(h.Name), behind)
		case "air":
			x.say(Nuisance, ids, "%s is blown through as well: the lines behind it get less air.", h.Name)
		default:
			if x.a.Mode.ID == setting.HeaterAlone {
				x.say(Danger, ids, "Water comes into %s while its drain is open: it pours out over whoever works there.", lower(h.Name))
				continue
			}
			x.say(Nuisance, ids, "%s fills with about %s of water%s.%s", h.Name, much, behind, x.frost(h))
		}
	}
}

// heaterTakes is what a drained heater takes in: all it holds where it is on
// the way to an outlet; where only one of its ends is open, what the pressure
// squeezes its air into.
func (x *wrong) heaterTakes(h *plumbing.Part) (v quantity.Litre, through bool) {
	swept := make([]bool, len(x.net.Links))
	s := x.set
	s.PumpOn = x.a.Mode.PumpOn
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
	if !x.a.Mode.PumpOn {
		for _, f := range x.a.Mode.From {
			if a := setting.Joined(x.net.Nodes[f].Part); x.net.Nodes[f].Outside && a.Kind == flow.Supply {
				return a.Pressure
			}
		}
		return 0
	}
	var p quantity.Kilopascal
	for _, pump := range x.net.PartsOf(plumbing.Pump) {
		p = max(p, pump.Data.CutOut.Value())
	}
	return p
}

// behindHeater names the sides that get nothing before the heater is full.
func (x *wrong) behindHeater(h *plumbing.Part) string {
	s := x.set
	s.PumpOn = x.a.Mode.PumpOn
	r := flow.Reach(x.net, s, flow.Query{From: x.a.Mode.From, Without: []*plumbing.Part{h}})
	var behind []plumbing.NodeID
	for _, side := range x.sides {
		if !r.Node(side) {
			behind = append(behind, side)
		}
	}
	if len(behind) == 0 {
		return ""
	}
	state := "stays without water"
	switch x.fluid() {
	case "antifreeze":
		state = "stays clear"
	case "sanitizer":
		state = "gets none"
	}
	return fmt.Sprintf("; %s %s until it is full", x.names(behind), state)
}

// frost tells what a frost valve at the heater does with what got in.
func (x *wrong) frost(h *plumbing.Part) string {
	for _, v := range x.net.PartsOf(plumbing.FrostValve) {
		r := flow.Reach(x.net, x.set, flow.Query{From: []plumbing.NodeID{x.net.Node(h.ID + ".drain")}})
		if r.Part(v) {
			return fmt.Sprintf(" Below %s %s opens by itself and lets it run out.", v.Data.OpensBelow, lower(v.Name))
		}
	}
	return ""
}

func (x *wrong) heaterMisses(list []setting.Breach) {
	for _, b := range list {
		h := b.Clause.Target
		g, harm := x.dryHeat(h)
		x.say(g, []string{h.ID}, "%s gets no water: %s", h.Name, harm)
	}
}

// dryHeat tells what happens to a heater that is switched on without water. An
// on-demand heater with a flow switch does not light; one without counts as
// a storage heater, whose element burns out and whose burner overheats it.
func (x *wrong) dryHeat(h *plumbing.Part) (Gravity, string) {
	coil := !h.Storage()
	switch {
	case coil && h.Data.FlowSwitch:
		return Nuisance, "its flow switch keeps it from lighting, and no hot water comes."
	case h.Data.Type == "hydronic":
		return Nuisance, "no hot water comes. No heat until the air is out."
	case !h.Data.Electric.IsZero() && !h.Data.Gas.IsZero():
		return Danger, "switched on while it is empty, its element burns out and its burner overheats it."
	case !h.Data.Electric.IsZero():
		return Danger, "switched on while it is empty, its element burns out."
	}
	return Danger, "switched on while it is empty, it overheats and is ruined."
}

// targets are the nodes and the ids of the parts that breaches are about.
func targets(list []setting.Breach) (sides []plumbing.NodeID, ids []string) {
	for _, b := range list {
		sides = append(sides, b.Clause.To[0])
		ids = append(ids, b.Clause.Target.ID)
	}
	return sides, ids
}

// missing tells which sides get nothing, and what stays in their lines.
func (x *wrong) missing(list []setting.Breach) {
	if len(list) == 0 {
		return
	}
	sides, ids := targets(list)
	who := x.names(sides)
	pump := ""
	if x.dry() {
		pump = " The pump runs without stopping and draws nothing" + x.dryLimit() + "."
	}
	stays := quantity.Rough(x.untreated(sides), x.sys)
	switch x.fluid() {
	case "antifreeze":
		x.say(Damage, ids, "No antifreeze comes: %s. About %s of line keeps what was in it and bursts.%s", who, stays, pump)
	case "sanitizer":
		x.say(Damage, ids, "No sanitizer comes: %s. About %s of line is not treated.%s", who, stays, pump)
	case "air":
		x.say(Damage, ids, "No air comes: %s. About %s of water may stay in the lines.", who, stays)
	default:
		x.say(Nuisance, ids, "No water comes: %s.%s", who, pump)
	}
}

// dry reports whether a running pump has nothing to draw.
func (x *wrong) dry() bool {
	if !x.a.Mode.PumpOn {
		return false
	}
	s := x.set
	s.PumpOn = true
	from := append([]plumbing.NodeID(nil), x.a.Mode.From...)
	for _, t := range x.net.PartsOf(plumbing.Tank) {
		from = append(from, x.net.Node(t.ID+".supply"))
	}
	r := flow.Reach(x.net, s, flow.Query{From: from})
	for _, p := range x.net.PartsOf(plumbing.Pump) {
		if r.Node(x.net.Node(p.ID + ".in")) {
			return false
		}
	}
	return true
}

func (x *wrong) dryLimit() string {
	for _, p := range x.net.PartsOf(plumbing.Pump) {
		if !p.Data.DryRun.IsZero() {
			return fmt.Sprintf("; it stands that for %s", p.Data.DryRun)
		}
	}
	return ""
}

// untreated is the content of the lines that were swept and are no more.
func (x *wrong) untreated(sides []plumbing.NodeID) quantity.Litre {
	sweep := func(n *plumbing.Network, s flow.Setting) []bool {
		s.PumpOn = x.a.Mode.PumpOn
		all := make([]bool, len(n.Links))
		for _, from := range x.a.Mode.From {
			for i, yes := range flow.Swept(n, s, from, x.sides) {
				all[i] = all[i] || yes
			}
		}
		return all
	}
	before, after := sweep(x.right.net, x.a.Setting), sweep(x.net, x.set)
	var sum quantity.Litre
	for i, l := range x.right.net.AllLinks() {
		if before[i] && !after[i] && l.Line != nil {
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
	sides, ids := targets(list)
	share := ""
	if x.running != nil {
		total := float64(x.running.Out[x.open])
		heated := 0.0
		for i, l := range x.net.AllLinks() {
			if l.Part != nil && l.Part.Kind == plumbing.Heater {
				heated += abs(float64(x.running.Flow[i]))
			}
		}
		if total > 0 && heated < 0.01*total {
			x.say(Nuisance, ids, "Cold water comes at %s: all of it goes past the heater.", x.names(sides))
			return
		}
		if total > 0 && heated < total {
			share = fmt.Sprintf(": about %s %% of the flow goes past the heater", quantity.Figure(100*(1-heated/total), 2, 0))
		}
	}
	x.say(Nuisance, ids, "Hot water comes lukewarm at %s%s.", x.names(sides), share)
}

// names joins sides: "kitchen tap hot, basin tap hot", or all of a kind at once.
func (x *wrong) names(sides []plumbing.NodeID) string {
	count := func(list []plumbing.NodeID, port string) (c int) {
		for _, s := range list {
			if port == "" || x.net.Nodes[s].Port == port {
				c++
			}
		}
		return c
	}
	if len(sides) == len(x.sides) {
		return "every outlet"
	}
	for _, port := range []string{"hot", "cold"} {
		if c := count(sides, port); c > 1 && c == len(sides) && c == count(x.sides, port) {
			return "every " + port + " side"
		}
	}
	var list []string
	for _, s := range sides {
		n := x.net.Nodes[s]
		list = append(list, plumbing.Bare(n.Part.Name)+" "+n.Port)
	}
	return strings.Join(list, ", ")
}

func lower(name string) string { return plumbing.Lower(name) }

func abs(v float64) float64 {
	if v < 0 {
		return -v
	}
	return v
}
