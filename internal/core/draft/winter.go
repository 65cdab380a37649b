package draft

import (
	"context"
	"slices"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// DrainDown empties a model for a trip home; nil where nothing of it drains.
func DrainDown(ctx context.Context, in Inputs) *proof.Procedure {
	d := begin(ctx, in, "drain-down")
	everyday := d.at
	d.heaterOff()
	d.pressureOff()
	if !d.empty() {
		return nil
	}
	return d.done(everyday)
}

// Winterize makes a model ready for the winter with antifreeze by its pump; nil
// where no setting brings that to an outlet.
func Winterize(ctx context.Context, in Inputs) *proof.Procedure {
	a := setting.ForMode(in.Plan, setting.Antifreeze)
	if !a.Has() {
		return nil
	}
	d := begin(ctx, in, "winterize-pump")
	d.heaterOff()
	d.pressureOff()
	d.empty()
	d.proc.Goal.Untreated = map[string]bool{}
	for _, p := range amount.Pockets(in.Net, in.Plan, a, amount.Drained, in.House) {
		d.proc.Goal.Untreated[p.ID] = p.Act == amount.NoAct
	}
	low := in.Net.Model.DesignLow.Value()
	d.proc.Goal.Freeze = amount.BurstShare(in.Net.Recorder(), low)
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
			d.step("pick-up", run.Step{Acts: of(&a.Mode, state.TakeOut, state.Plug, state.Join)})
			d.step("pump-on", run.Step{Acts: d.pumps(state.On), Until: run.Until{Sense: run.Silent, For: 60}})
		}
		for _, s := range sides {
			if amount.TurnOf(a, s.node) != turn {
				continue
			}
			until := run.Until{Sense: run.Coloured, At: []plumbing.NodeID{s.node}, Least: least,
				Litre: house.Overrun.Of(in.House), For: 900}
			if s.part.Role() == plumbing.RoleMachine { // it stops by itself
				until = d.cycles(s, func(m run.Mix) bool { return m.Glycol >= least.Glycol })
			}
			d.step("colour", run.Step{Acts: append(d.catch(state.Antifreeze, s.part), s.open()), Until: until, Then: []state.Act{s.shut()}})
		}
		d.lowPoints(a, least)
	}
	d.pressureOff()
	var caps []state.Act
	for at := range d.at.Joined {
		caps = append(caps, state.Act{Verb: state.Cap, Part: in.Net.Nodes[at].Part})
	}
	d.step("cap", run.Step{Acts: slices.Concat(caps, d.fittings())})
	end := d.at
	return d.done(end)
}

// lowPoints colours the low-point drains that antifreeze gets to.
func (d *draft) lowPoints(a *setting.Answer, least run.Mix) {
	_, drains := amount.Ends(d.Net, a, amount.FarthestFirst)
	for _, node := range drains {
		p := d.Net.Nodes[node].Part
		h := d.Net.HandleOf(p.ID)
		mouth := d.Net.Node(p.ID + ".mouth")
		if h == plumbing.None || mouth == plumbing.None || d.Net.Handles[h].Index("open") == plumbing.None {
			continue
		}
		d.step("low-point", run.Step{
			Acts: append(d.catch(state.Antifreeze, p), state.Act{Verb: state.Turn, Part: p, To: "open"}),
			Until: run.Until{Sense: run.Coloured, At: []plumbing.NodeID{mouth}, Least: least,
				Litre: house.RunOut.Of(d.House), For: 300},
			Then: []state.Act{{Verb: state.Turn, Part: p, To: "closed"}}})
	}
}

// usualCycle is what a machine draws where nobody gave it.
const usualCycle quantity.Litre = 4

// mostCycles is how often somebody starts a machine.
const mostCycles = 12

// cycles is as many whole cycles of a machine as it takes until what is waited for comes out of it.
func (d *draft) cycles(s side, is func(run.Mix) bool) run.Until {
	each := plumbing.Field(d.Net, &s.part.Data.Cycle).Or(usualCycle)
	until := run.Until{Sense: run.Ran, At: []plumbing.NodeID{s.node}, For: 900}
	for k := range mostCycles {
		until.Litre = each * quantity.Litre(k+1)
		o := d.try(d.x.Clone(), run.Step{Acts: []state.Act{s.open()}, Until: until})
		if p, ok := o.Arrived[s.node]; ok && p.Gas < 0.5 && is(p.Mix) {
			break
		}
	}
	return until
}

// fittings are the acts that put back what was taken out.
func (d *draft) fittings() (acts []state.Act) {
	for i, f := range d.Net.Fittings {
		if d.at.Out[plumbing.FittingID(i)] {
			acts = append(acts, state.Act{Verb: state.PutBack, Part: f.Part})
		}
	}
	return acts
}
