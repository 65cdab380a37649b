package draft

import (
	"context"
	"slices"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/record"
	"coldtap/internal/core/run"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// Drafted is a procedure of the list, or why a model can't have it.
type Drafted struct {
	ID        string
	Group     setting.Group
	Procedure *proof.Procedure // nil where it can't be had
	Run       *proof.Run       // of it, as it was carried out while it was made
	Why       fact.Fact        // why not
	Instead   string           // id of what can be done instead, "" for none
	Advised   bool             // false for a school that is shown beside others and not recommended
	From      []record.Input   // what was read to make it, where somebody wanted to know
}

// entry is a procedure of the list: how it is made, and what takes its place.
type entry struct {
	id    string
	group setting.Group
	make  func(*draft) fact.Fact // what it gives is why it can't be
}

// Ids of the procedures that others begin with.
const (
	drainDown = "drain-down"
	coupling  = "heater-coupled"
)

// entries are the procedures in the order of a model's year.
func entries() []entry {
	list := []entry{
		{"first-use", setting.Use, firstUse},
		{"use-tank", setting.Use, useTank},
		{"use-city", setting.Use, useCity},
		{"heater-start", setting.Use, heaterStart},
		{coupling, setting.Use, couple},
		{"heater-stowed", setting.Use, stow},
		{"bleed-air", setting.Use, bleed},
		{"leave-site", setting.Use, leaveSite},
	}
	for _, id := range fills {
		list = append(list, entry{id, setting.Fill, filling(id)})
	}
	list = append(list,
		entry{"trip-fill", setting.Fill, tripFill},
		entry{"keep-fresh", setting.Fill, keepFresh},
		entry{"sanitize", setting.Clean, sanitize},
		entry{"sanitize-lines", setting.Clean, sanitizeLines})
	for _, way := range flushes {
		list = append(list, entry{flushID(way), setting.Clean, flushOut(way)})
	}
	list = append(list,
		entry{"heater-care", setting.Clean, heaterCare},
		entry{"descale-heater", setting.Clean, descaleHeater},
		entry{"descale-lines", setting.Clean, descaleLines},
		entry{"hot-cycle", setting.Clean, hotCycle},
		entry{drainDown, setting.Winter, drain},
	)
	for _, school := range schools {
		list = append(list, entry{winterID(school), setting.Winter, winterize(school)})
	}
	return append(list,
		entry{"winterize-again", setting.Winter, winterizeAgain},
		entry{"storage", setting.Winter, store},
		entry{"de-winterize", setting.Winter, deWinterize})
}

// IDs are the ids of the procedures in the order of a model's year.
func IDs() (list []string) {
	for _, e := range entries() {
		list = append(list, e.id)
	}
	return list
}

// Maker makes the procedures of one model; those that begin where others end are made once.
type Maker struct {
	in            Inputs
	made          map[string]Drafted
	cools, drains map[*plumbing.Part]quantity.Second
	timed         []record.Input // what they were worked out from
}

// NewMaker is a maker that has made none yet.
func NewMaker(in Inputs) *Maker { return &Maker{in: in, made: map[string]Drafted{}} }

// All makes every procedure of the list.
func (k *Maker) All(ctx context.Context) (list []Drafted) {
	for _, e := range entries() {
		list = append(list, k.Make(ctx, e.id))
	}
	return list
}

// Make makes a procedure of the list; one that is not in it can't be had.
func (k *Maker) Make(ctx context.Context, id string) Drafted {
	rec := k.in.Net.Recorder()
	if d, ok := k.made[id]; ok {
		rec.Note(d.From...) // whoever goes on from it stands on the same
		return d
	}
	var got Drafted
	read := rec.During(func() { got = k.make(ctx, id) })
	got.From = read
	rec.Note(read...)
	k.made[id] = got
	if got.Procedure == nil {
		got.Instead = k.instead(ctx, id)
		k.made[id] = got
	}
	return got
}

// make makes a procedure that was not made yet.
func (k *Maker) make(ctx context.Context, id string) Drafted {
	got := Drafted{ID: id, Advised: id != winterID("tank"), Why: fact.Of("cant.unknown")}
	list := append(entries(), entry{dosed, setting.Clean, dose})
	if i := slices.IndexFunc(list, func(e entry) bool { return e.id == id }); i >= 0 {
		got.Group = list[i].group
		d := begin(ctx, k, id)
		if got.Why = list[i].make(d); got.Why.IsZero() {
			d.now()
			got.Procedure, got.Run = &d.proc, &d.run
		}
	}
	return got
}

// All makes every procedure of the list for a model.
func All(ctx context.Context, in Inputs) []Drafted { return NewMaker(in).All(ctx) }

// instead is what a model can have in the place of what it can't.
func (k *Maker) instead(ctx context.Context, id string) string {
	var others []string
	switch {
	case slices.Contains(fills, id):
		others = fills
	case id == "use-tank":
		others = []string{"use-city"}
	case id == "use-city":
		others = []string{"use-tank"}
	case slices.ContainsFunc(schools, func(s string) bool { return winterID(s) == id }):
		others = advised()
	case id == "winterize-again":
		others = []string{drainDown}
	case id == "sanitize":
		others = []string{"hot-cycle"}
	}
	for _, o := range others {
		if o != id && k.Make(ctx, o).Procedure != nil {
			return o
		}
	}
	return ""
}

// Winter is the school by which a model is made ready for the winter: the house's, or where the model can't have that,
// or it would hurt somebody, the next best. Where all of them would, it has none and says why.
func (k *Maker) Winter(ctx context.Context) Drafted {
	own := winterID(house.WinterSchool.Of(k.in.House))
	var hurts fact.Fact
	for _, school := range append([]string{own}, advised()...) {
		d := k.Make(ctx, school)
		if d.Procedure == nil {
			continue
		}
		danger := k.danger(d)
		if danger.IsZero() {
			return d
		}
		if hurts.IsZero() {
			hurts = danger
		}
	}
	d := k.Make(ctx, own)
	if d.Procedure != nil {
		d.Procedure, d.Run, d.Why = nil, nil, fact.Of("cant.danger", hurts)
	}
	return d
}

// danger is what would hurt somebody in a procedure; nothing where nothing does.
func (k *Maker) danger(d Drafted) fact.Fact {
	for _, b := range proof.Judge(k.in.Net, d.Procedure, *d.Run).Breaches {
		if b.Severity == proof.Danger {
			return b.Said
		}
	}
	return fact.Fact{}
}

// begin is a procedure that begins in everyday use.
func begin(ctx context.Context, k *Maker, id string) *draft {
	d := &draft{Inputs: k.in, maker: k, ctx: ctx}
	d.at = d.inUse()
	glycol := amount.BurstShare(d.Net.Recorder(), house.Antifreeze.Of(d.House))
	d.proc = proof.Procedure{ID: id,
		Start: proof.Start{State: d.at, Hot: true, Supply: run.Mix{Chlorine: house.SupplyChlorine.Of(d.House)},
			Fluids: map[state.Fluid]run.Mix{state.Antifreeze: {Glycol: glycol}}},
		Limit: k.Limits()}
	return d
}

// Limits are the figures that the rules go by, of the house and of the model.
func (k *Maker) Limits() proof.Limits {
	of := k.in.House
	l := proof.Limits{Film: house.Film.Of(of), Smear: house.Smear.Of(of), Ceiling: house.Ceiling.Of(of),
		Dry: house.DryRun.Of(of), Air: amount.PressureCeiling(k.in.Net, of).Air, Jug: house.Jug.Of(of),
		Helper: house.Helper.Of(of), Alone: house.Alone.Of(of),
		Duty: run.Duty{On: house.PumpOn.Of(of), Off: house.PumpOff.Of(of)}}
	l.Cools, l.Drains = k.times()
	return l
}

// times are how long heaters take to cool, and tanks to run out, as far as that is known.
func (k *Maker) times() (cools, drains map[*plumbing.Part]quantity.Second) {
	rec := k.in.Net.Recorder()
	if k.cools == nil {
		k.timed = rec.During(func() { rec.Whole(k.time) })
	}
	rec.Note(k.timed...) // whoever goes on from it stands on the same
	return k.cools, k.drains
}

func (k *Maker) time() { k.cools, k.drains = Times(k.in.Net, k.in.House) }

// Times are how long heaters take to cool, and full tanks to run out, as far as that is known.
func Times(n *plumbing.Network, rules house.House) (cools, drains map[*plumbing.Part]quantity.Second) {
	cools, drains = map[*plumbing.Part]quantity.Second{}, map[*plumbing.Part]quantity.Second{}
	list := amount.Times(n, rules)
	for _, h := range n.PartsOf(plumbing.RoleHeater) {
		cools[h] = amount.TimeByID(n, list, "cool-"+h.ID)
	}
	for _, b := range flow.Bodies(n, state.Normal(n)) {
		for _, t := range b.Tanks {
			drains[t] = amount.TimeByID(n, list, "drain-"+b.Tanks[0].ID)
		}
	}
	return cools, drains
}

// start lets a procedure begin in a state of its own, with its heaters hot or cold.
func (d *draft) start(s state.State, hot bool) {
	d.at = s
	d.proc.Start.State, d.proc.Start.Hot, d.x = s, hot, nil
}

// now is the system as it is after the steps so far.
func (d *draft) now() *run.System {
	if d.x == nil {
		d.x = proof.Begin(d.ctx, d.Net, &d.proc)
		d.run.Systems = []*run.System{d.x.Clone()}
	}
	return d.x
}

// after lets a procedure begin where another ended.
func (d *draft) after(id string) bool {
	before := d.maker.Make(d.ctx, id)
	if before.Procedure == nil {
		return false
	}
	d.proc.After, d.proc.Start = before.Procedure, before.Procedure.Start
	d.x = before.Run.Systems[len(before.Run.Systems)-1].Clone()
	d.run.Systems = []*run.System{d.x.Clone()}
	d.at = d.x.State
	return true
}

// everyday is how a system stands in everyday use, as far as a setting for it was found.
func (d *draft) everyday() state.State {
	if a := setting.ForMode(d.Plan, setting.Everyday); a.Has() {
		return a.State
	}
	if a := setting.ForMode(d.Plan, setting.City); a.Has() { // it has no tank to draw from
		return a.State
	}
	return state.Normal(d.Net)
}

// inUse is how a system stands when somebody begins who did not leave it so themselves: heaters on, the pumps of
// everyday use on, and a hose joined where city water takes the same positions.
func (d *draft) inUse() state.State {
	s := d.rest(d.everyday())
	for i, h := range d.Net.Heat {
		s.Heat = s.Heat.With(plumbing.HeatID(i), s.Coupled(d.Net, h.Part))
	}
	if a := setting.ForMode(d.Plan, setting.Everyday); a.Has() {
		s.Pumps = a.State.Pumps | a.Mode.Start.Pumps
	}
	city := setting.ForMode(d.Plan, setting.City)
	if !city.Has() || !city.OK {
		return s
	}
	for i := range s.Handles {
		if s.Handles[i]&city.State.Handles[i] == 0 {
			return s
		}
	}
	for _, j := range of(&city.Mode, state.Join) {
		s = s.WithJoined(d.Net.Node(j.Part.ID+".mouth"), j.With)
	}
	return s
}

// rest is a state with everything off, shut, capped and full.
func (d *draft) rest(s state.State) state.State {
	s.Joined, s.Open, s.Out, s.Pumps, s.Heat, s.Contents, s.Levels = nil, nil, nil, 0, 0, nil, nil
	return s
}

// mode is the setting for a mode, or why there is none.
func (d *draft) mode(id string) (*setting.Answer, fact.Fact) {
	a := setting.ForMode(d.Plan, id)
	switch {
	case a == nil:
		return nil, fact.Of("cant.no-setting")
	case !a.Mode.LeftOut.IsZero():
		return nil, a.Mode.LeftOut
	case !a.Has() && !a.Why.IsZero():
		return nil, a.Why
	case !a.Has():
		return nil, fact.Of("cant.no-setting")
	}
	return a, fact.Fact{}
}

// ends says how all must stand at the end.
func (d *draft) ends(s state.State) fact.Fact {
	d.proc.Goal.State = &s
	return fact.Fact{}
}
