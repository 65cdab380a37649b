package draft

import (
	"context"
	"slices"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/flow"
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
	d.step("pump-off", run.Step{Acts: d.pumps(state.Off)})
	if !d.empty() {
		return nil
	}
	d.proc.Goal.Dry, d.proc.Goal.Untreated = true, d.stuck()
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
	everyday := d.at
	d.heaterOff()
	d.step("pump-off", run.Step{Acts: d.pumps(state.Off)})
	d.empty()
	d.proc.Goal.Untreated = map[string]bool{}
	for _, p := range amount.Pockets(in.Net, in.Plan, a, amount.Drained, in.House) {
		d.proc.Goal.Untreated[p.ID] = p.Act == amount.NoAct
	}
	low := in.Net.Model.DesignLow.Value()
	d.proc.Goal.Freeze = amount.BurstShare(in.Net.Recorder(), low)
	if weak, err := amount.WeakestPoint(in.Net, in.Plan, a, amount.Drained, in.House); err == nil {
		d.proc.Goal.Weakest = weak
	}
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
				until = d.cycles(s, until, func(m run.Mix) bool { return m.Glycol >= least.Glycol })
			}
			d.step("colour", run.Step{Acts: append(d.catch(state.Antifreeze, s.part), s.open()), Until: until,
				Then: []state.Act{s.shut()}})
		}
		d.colourLowPoints(a, least)
	}
	d.pressureOff()
	var caps []state.Act
	for at := range d.at.Joined {
		caps = append(caps, state.Act{Verb: state.Cap, Part: in.Net.Nodes[at].Part})
	}
	back := d.turns(everyday, func(p *plumbing.Part) bool { return p.Role() == plumbing.RoleJoint })
	d.step("cap", run.Step{Acts: slices.Concat(caps, back, d.fittings())})
	end := d.at
	return d.done(end)
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
func (d *draft) colourLowPoints(a *setting.Answer, least run.Mix) {
	for _, t := range d.lowPoints(a) {
		d.proc.Goal.Coloured = append(d.proc.Goal.Coloured, t.mouths...)
		d.step("low-point", run.Step{Acts: append(d.catch(state.Antifreeze, t.parts...), t.open),
			Until: run.Until{Sense: run.Coloured, At: t.mouths, Least: least, Litre: house.RunOut.Of(d.House), For: 300},
			Then:  []state.Act{t.shut}})
	}
}

// stuck are the parts and lines that no draining empties and no hand: findings tell of them.
func (d *draft) stuck() map[string]bool {
	stuck := map[string]bool{}
	a := setting.ForMode(d.Plan, setting.DrainDown)
	s := a.Last()
	s.Joined, s.Open, s.Out = a.Mode.Start.Joined, a.Mode.Start.Open, a.Mode.Start.Out
	for _, p := range flow.Drain(d.Net, s).Pieces {
		stuck[p.ID(d.Net)] = stuck[p.ID(d.Net)] || p.Share() > 0.9
	}
	hands := []amount.Act{amount.PressCheck, amount.BlowRinse, amount.RunDry}
	if af := setting.ForMode(d.Plan, setting.Antifreeze); af.Has() {
		for _, p := range amount.Pockets(d.Net, d.Plan, af, amount.Drained, d.House) {
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
