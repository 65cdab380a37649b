package draft

import (
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
)

// mostOverrun is how many overruns somebody lets run on where what is first seen is not enough yet.
const mostOverrun = 12

// first is what a step waits for at an outlet, by what somebody can tell there first, and whether what
// comes is enough.
type first struct {
	until  run.Until
	enough func(run.Mix) bool
}

// coloured is told for antifreeze: a pale colour is seen before it protects.
func (d *draft) coloured() first {
	need := d.proc.Goal.Freeze
	least := run.Mix{Glycol: need * house.Pale.Of(d.House)}
	return first{run.Until{Sense: run.Coloured, Least: least, For: 900}, func(m run.Mix) bool { return m.Glycol >= need }}
}

// strong is told for sanitizer: by the field of a strip, or by the nose, which answers far below the target.
func (d *draft) strong(target quantity.MgPerLitre) first {
	until := run.Until{Sense: run.Strong, For: 900}
	if house.Told.Of(d.House) == "nose" {
		until.Sense, until.Least.Chlorine = run.Smelled, house.Nose.Of(d.House)
	} else {
		until.Least.Chlorine = target
		for _, f := range house.Fields(d.House) { // the highest that the target reaches
			if f > 0 && f <= target {
				until.Least.Chlorine = f
			}
		}
	}
	return first{until, func(m run.Mix) bool { return m.Chlorine >= target }}
}

// bringTo opens a side until something comes there: where what is first told is not enough yet, it goes on
// by as many overruns as it takes. A machine runs whole cycles.
func (d *draft) bringTo(what string, s side, acts []state.Act, f first) *run.Outcome {
	each := house.Overrun.Of(d.House)
	step := run.Step{Acts: acts, Until: f.until, Then: []state.Act{s.shut()}}
	step.Until.At, step.Until.Litre = []plumbing.NodeID{s.node}, each
	if s.part.Role() == plumbing.RoleMachine {
		step.Until = d.cycles(s, step.Until, f.enough)
		return d.step(what, step)
	}
	for range mostOverrun {
		before := d.mark()
		o := d.step(what, step)
		if p, ok := o.Arrived[s.node]; !o.Came || ok && p.Gas < 0.5 && f.enough(p.Mix) || d.run.Broke != nil {
			return o
		}
		d.back(before) // not enough
		step.Until.Litre += each
	}
	return d.step(what, step)
}

// runOut is how much somebody lets run out at a low point: alone more runs before it is shut.
func (d *draft) runOut() quantity.Litre {
	v := house.RunOut.Of(d.House)
	if !house.Helper.Of(d.House) {
		v *= quantity.Litre(1 + house.Alone.Of(d.House))
	}
	return v
}
