package draft

import (
	"maps"
	"slices"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// The ways of getting a sanitizer out again, by the ids of amount.FlushWay.
const (
	linesPushed  = "lines-pushed" // the tanks drained and filled, the lines pushed through by what comes from them
	drainedFirst = "drained"      // tanks and lines drained and filled
	through      = "through"      // the tanks filled while they are pumped out
)

// flushes are the ways in the order in which they are shown.
var flushes = []string{linesPushed, drainedFirst, through}

func flushID(way string) string { return "flush-" + way }

// mostRefills is how often somebody flushes before they ask what is wrong.
const mostRefills = 8

// flushing is what a flush goes by.
type flushing struct {
	a     *setting.Answer
	sides []side
	ran   map[plumbing.NodeID]quantity.Litre // how much it took until the sanitizer came
	limit quantity.MgPerLitre                // of chlorine, that may stay
}

// flushOut is the procedure that gets the sanitizer out in a way, where it has soaked.
func flushOut(way string) func(*draft) fact.Fact {
	return func(d *draft) fact.Fact {
		before := d.maker.Make(d.ctx, dosed)
		if before.Procedure == nil {
			return before.Why
		}
		everyday := d.rest(d.everyday())
		d.after(dosed)
		return d.flushed(way, everyday)
	}
}

// flushed gets the sanitizer out in a way, and turns everything back.
func (d *draft) flushed(way string, end state.State) fact.Fact {
	f := d.flushing()
	d.proc.Goal.Limit, d.proc.Goal.FlushBound = f.limit, d.flushBound(way)
	for _, s := range f.sides {
		d.proc.Goal.Clear = append(d.proc.Goal.Clear, s.node)
	}
	if why := d.flushBy(way, f); !why.IsZero() {
		return why
	}
	d.tested(f)
	d.pressureOff()
	d.step("back", run.Step{Acts: append(d.turns(end, nil), d.fittings(true)...)})
	return d.ends(end)
}

// tested lets somebody hold a strip under the outlet that is farthest, where sanitizer would be last.
func (d *draft) tested(f *flushing) {
	i := slices.IndexFunc(f.sides, func(s side) bool { return s.part.Role() != plumbing.RoleMachine })
	if i < 0 {
		return
	}
	s := f.sides[i]
	d.turnBack("sanitizing-position", f.a)
	d.turnFor(f.a, s)
	d.refillFor(s.node, fewLitres, f)
	d.turnFor(f.a, s)
	d.pumpOn(60)
	d.step("tested", run.Step{Acts: append(d.catch(state.Sanitizer, s.part), s.open()), Then: []state.Act{s.shut()},
		Until: run.Until{Sense: run.Clear, At: []plumbing.NodeID{s.node}, Least: run.Mix{Chlorine: f.limit},
			Gone: state.Sanitizer, Litre: house.Overrun.Of(d.House), For: 1800}})
	d.pumpOff()
}

// flushBound is the water that a way takes at most by its worksheet; 0 where that has none.
func (d *draft) flushBound(way string) quantity.Litre {
	var from quantity.MgPerLitre
	for _, v := range d.now().Vessels() {
		from = max(from, v.Liquid.Mix.Chlorine)
	}
	for _, w := range worked(d, func() amount.FlushPlan { return amount.PlanFlush(d.Net, d.Plan, from, d.House) }).Ways {
		if w.ID == way {
			return w.Water
		}
	}
	return 0
}

// flushing is what a flush goes by after a dose.
func (d *draft) flushing() *flushing {
	a := setting.ForMode(d.Plan, setting.Sanitize)
	f := &flushing{a: a, sides: d.sides(a, true), ran: map[plumbing.NodeID]quantity.Litre{},
		limit: house.SupplyChlorine.Of(d.House) + house.FlushAbove.Of(d.House)}
	soaked := d.maker.Make(d.ctx, dosed)
	for i, o := range soaked.Run.Outcomes { // fewer than steps, where one can't be done
		s := &soaked.Procedure.Steps[i]
		for _, at := range s.Until.At {
			if s.For == "strong" {
				f.ran[at] += o.Ran[at]
			}
		}
	}
	return f
}

// flushBy flushes until nowhere stands more than may stay.
func (d *draft) flushBy(way string, f *flushing) fact.Fact {
	if way == through {
		if why := d.fillWhilePumping(f); !why.IsZero() {
			return why
		}
	}
	for range mostRefills {
		if !d.anywhere(func(m run.Mix) bool { return m.Chlorine > f.limit }) {
			break
		}
		d.turnBack("sanitizing-position", f.a)
		d.emptyTanks(state.Sanitizer)
		if way == drainedFirst {
			d.emptyLines(f)
		}
		d.fillAll("refill")
		d.push(f)
	}
	return fact.Fact{}
}

// push runs every outlet as long as the sanitizer needed to come there, and a little at each low point.
func (d *draft) push(f *flushing) {
	d.turnBack("sanitizing-position", f.a)
	d.pumpOn(60)
	for _, s := range f.sides {
		d.turnFor(f.a, s)
		d.refillFor(s.node, f.ran[s.node]*1.05, f)
		d.turnFor(f.a, s)
		d.step("flush", run.Step{Acts: append(d.catch(state.Sanitizer, s.part), s.open()), Then: []state.Act{s.shut()},
			Until: run.Until{Sense: run.Ran, At: []plumbing.NodeID{s.node}, Litre: f.ran[s.node], For: 1800}})
	}
	if len(f.sides) > 0 {
		d.refillFor(f.sides[0].node, fewLitres, f)
	}
	d.splash(f.a, state.Sanitizer)
	d.pumpOff()
}

// fewLitres are enough for what is let out at low points, or held under a strip.
const fewLitres quantity.Litre = 2

// refillFor fills the tanks again where those that serve a side hold less than is to be drawn there: no pump runs dry for
// it.
func (d *draft) refillFor(side plumbing.NodeID, v quantity.Litre, f *flushing) {
	if holds, tanks := d.tanksHold(side); !tanks || holds >= v {
		return
	}
	d.pumpOff()
	d.fillAll("refill")
	d.turnBack("sanitizing-position", f.a)
	d.pumpOn(60)
}

// tanksHold is what can still be drawn at a side from the tanks that serve it as the handles stand; false where none does.
func (d *draft) tanksHold(side plumbing.NodeID) (v quantity.Litre, tanks bool) {
	s := d.at
	s.Pumps = state.AllPumps(d.Net)
	for _, b := range flow.Bodies(d.Net, d.at) {
		var from []plumbing.NodeID
		for _, t := range b.Tanks {
			from = append(from, d.Net.NodesOf(t, "supply")...)
		}
		if !flow.Reach(d.Net, s, flow.Query{From: from}).Node(side) {
			continue
		}
		tanks = true
		for _, t := range b.Tanks {
			if x := d.now().Vessel(t); x != nil {
				v += max(0, x.Liquid.Litre-plumbing.Field(d.Net, &t.Data.Heel).Value()-x.Holds/50)
			}
		}
	}
	return v, tanks
}

// emptyLines lets the lines run out at the low points, with a bucket where it must not run into the open.
func (d *draft) emptyLines(f *flushing) {
	d.pressureOff()
	var open, shut []state.Act
	for _, t := range d.lowPoints(f.a) {
		open = append(open, d.catch(state.Sanitizer, t.parts...)...)
		open, shut = append(open, t.open), append(shut, t.shut)
	}
	if shut == nil {
		return
	}
	for _, o := range d.Net.PartsOf(plumbing.RoleOutlet) { // air gets in
		open = append(open, state.Act{Verb: state.Open, Part: o, Sides: d.Net.SidesOf(o)})
		shut = append(shut, state.Act{Verb: state.Shut, Part: o})
	}
	d.step("flush-drain", run.Step{Acts: open, Until: run.Until{Sense: run.Dry}, Then: shut})
}

// fillWhilePumping fills each body of tank water while the pumps draw it off by as many outlets as let as much
// run as comes in, until what comes there is clear.
func (d *draft) fillWhilePumping(f *flushing) fact.Fact {
	d.turnBack("sanitizing-position", f.a)
	for _, t := range d.Net.PartsOf(plumbing.RoleTank) {
		s, ok := d.throughBy(t, f)
		if !ok {
			return fact.Of("cant.flush-through", t)
		}
		d.step("flush-through", s)
		d.pumpOff()
	}
	d.push(f)
	return fact.Fact{}
}

// intoTanks are the sides whose water runs into a waste tank, or all where none does: nobody carries a tank away by
// the bucket.
func (d *draft) intoTanks(sides []side) []side {
	list := slices.DeleteFunc(slices.Clone(sides), func(s side) bool { return d.Net.Model.WasteOf(s.part).Open() })
	if len(list) == 0 {
		return sides
	}
	return list
}

// throttled is how much of what is drawn off somebody lets in: the level sinks rather than rises.
const throttled = 0.98

// throughBy is the step that fills a tank while it is pumped out by the first outlet, or as few more as it takes, with
// the hose throttled to what is drawn off.
func (d *draft) throughBy(tank *plumbing.Part, f *flushing) (run.Step, bool) {
	for _, id := range fills {
		a := setting.ForMode(d.Plan, id)
		if !a.Has() || !a.OK {
			continue
		}
		fill, ok := d.fillBy(a, tank, nil, full)
		if !ok || !supplied(fill.Acts) {
			continue
		}
		s := run.Step{Acts: slices.Concat(fill.Acts, d.pumps(state.On)), Then: fill.Then,
			Until: run.Until{Sense: run.Clear, Least: run.Mix{Chlorine: f.limit}, Gone: state.Sanitizer, Room: true,
				For: 4 * 3600}, Rests: true}
		for i := range s.Acts { // whoever throttles the hose looks at the level, not for the brim
			s.Acts[i].Until, s.Acts[i].Amount = state.Done, 0
		}
		for _, side := range d.intoTanks(f.sides) {
			if side.part.Role() == plumbing.RoleMachine || opens(s.Acts, side.part) || amount.TurnOf(f.a, side.node) > 0 {
				continue
			}
			s.Acts = append(slices.Clone(s.Acts), append(d.catch(state.Sanitizer, side.part), side.open())...)
			s.Then = append(slices.Clone(s.Then), side.shut())
			s.Until.At = append(slices.Clone(s.Until.At), side.node)
			slow, ok := d.throttle(s)
			if !ok {
				continue
			}
			if d.keepsLevel(slow) {
				return slow, true
			}
		}
	}
	return run.Step{}, false
}

// keepsLevel reports whether a step can go on for some while without a tank that runs over or dry.
func (d *draft) keepsLevel(s run.Step) bool {
	const while = 120
	s.Until.Room, s.Until.For = false, while
	o := d.try(d.now().Clone(), s)
	spilled := slices.Max(append(slices.Collect(maps.Values(o.Spilled)), 0))
	dry := slices.Max(append(slices.Collect(maps.Values(o.Dry)), 0))
	return spilled < house.Spill.Of(d.House) && dry == 0 && (o.Came || o.Took >= while)
}

// throttle lets as much in by the hose of a step as its outlets draw off: whoever holds it looks at the level.
func (d *draft) throttle(s run.Step) (run.Step, bool) {
	draws := func(joined bool) (in, out quantity.Litre) {
		try := run.Step{Acts: slices.Clone(s.Acts), Until: run.Until{Sense: run.Passed, For: 20}}
		if !joined {
			try.Acts = slices.DeleteFunc(try.Acts, func(a state.Act) bool { return a.Verb == state.Join })
		}
		o := d.try(d.now().Clone(), try)
		for _, v := range o.Drew {
			in += v
		}
		for _, v := range o.Ran {
			out += v
		}
		return in, out
	}
	_, out := draws(false)
	s.Acts = slices.Clone(s.Acts)
	for range 3 {
		in, _ := draws(true)
		if in <= out*throttled {
			return s, out > 0
		}
		for i := range s.Acts {
			if a := &s.Acts[i]; a.Verb == state.Join {
				a.With.Flow *= quantity.LitrePerMinute(out * throttled / in)
			}
		}
	}
	return s, out > 0
}

// supplied reports whether what fills comes by a hose that does not end, with nothing else turned.
func supplied(acts []state.Act) bool {
	joined := false
	for _, a := range acts {
		switch {
		case a.Verb == state.Turn:
			return false // the pumps would not serve the outlets
		case a.Verb == state.Join:
			joined = a.With.Kind == state.Supply
		}
	}
	return joined
}

// opens reports whether acts open an outlet.
func opens(acts []state.Act, p *plumbing.Part) bool {
	return slices.ContainsFunc(acts, func(a state.Act) bool { return a.Verb == state.Open && a.Part == p })
}
