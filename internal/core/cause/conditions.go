package cause

import (
	"maps"
	"slices"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
)

// Conditions are what a trial was really like, as far as somebody said so.
type Conditions struct {
	Start    map[string]float64      // how full a tank was, 0 to 1, by its id; others as the procedure has them
	Flow     quantity.LitrePerMinute // of the hose at the fill, measured; 0 for not measured
	Chlorine *quantity.MgPerLitre    // of the supply; nil for not measured
	Helper   *bool                   // somebody stood at the low points; nil where nobody said
	Shut     []string                // ids of drains that were not opened
	NotDone  []string                // keys of steps that were left out
}

// Under is a subject as a trial really was. What was said is no longer asked for as a cause.
func (s Subject) Under(c Conditions) Subject {
	known := maps.Clone(s.Known)
	if known == nil {
		known = map[Kind]bool{}
	}
	s = s.steps(func(*proof.Step) {})
	if len(c.Start) > 0 {
		levels := maps.Clone(s.Proc.Start.State.Levels)
		if levels == nil {
			levels = map[string]float64{}
		}
		maps.Copy(levels, c.Start)
		s.Proc.Start.State.Levels = levels
	}
	if c.Flow > 0 {
		known[Supply] = true
		s = s.acts(func(a *state.Act) bool {
			if a.Verb == state.Join && a.With.Kind == state.Supply && a.Part.Role() == plumbing.RoleFill {
				a.With.Flow, a.With.Pressure = c.Flow, state.HosePressure
			}
			return true
		})
	}
	if c.Chlorine != nil {
		s.Proc.Start.Supply.Chlorine = *c.Chlorine
	}
	if c.Helper != nil {
		known[Helper] = true
		if *c.Helper != s.Proc.Limit.Helper {
			s, _ = s.With(Cause{Kind: Helper}) // it can't be wrong: it is no figure of the model
		}
	}
	for _, id := range c.Shut {
		s, _ = s.With(Cause{Kind: Drained, Of: id})
	}
	for i := range s.Proc.Steps {
		if x := &s.Proc.Steps[i]; slices.Contains(c.NotDone, x.Key) {
			x.Acts, x.Then, x.Pour, x.Until = nil, nil, nil, run.Until{}
		}
	}
	s.Known = known
	return s
}

// listens is how long somebody listens at least for what does not fall silent, and how many times as long as it should
// take.
const (
	listens      quantity.Second = 60
	listensTimes quantity.Second = 3
)

// impatient is a subject in which nobody listens much longer for silence than it should take, as a run of it went:
// what is
// wrong then is looked at, not waited for.
func (s Subject) impatient(pr *proof.Proof) Subject {
	i := -1
	return s.steps(func(x *proof.Step) {
		if i++; i < len(pr.Outcomes) && x.Until.Sense == run.Silent {
			x.Until.For = min(x.Until.For, max(listens, listensTimes*pr.Outcomes[i].Took))
		}
	})
}
