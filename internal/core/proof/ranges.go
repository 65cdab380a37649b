package proof

import (
	"context"
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
)

// Corner is what a unit or a site may be like beside what a procedure was made for.
type Corner struct {
	Said   fact.Fact
	change func(*Procedure)
}

// OtherOrder is the id of the corner in which the outlets come the other way round.
const OtherOrder = "corner.order"

// quarter is how full tanks are at the low end; weak is the share of its flow, and of its pressure, that
// a poor supply gives.
const (
	quarter = 0.25
	weak    = 0.5
)

// Corners are the corners that a procedure is carried out in: tanks a quarter full where it begins with
// some in them, a poor supply where it joins one, the outlets the other way round, somebody alone or with a helper
// at the low points, and 2° off level each way.
func Corners(n *plumbing.Network, p *Procedure) (list []Corner) {
	if p.After == nil && len(n.PartsOf(plumbing.RoleTank)) > 0 {
		list = append(list, Corner{fact.Of("corner.low-tank"), func(q *Procedure) {
			q.Start.State.Levels = map[string]float64{}
			for _, t := range n.PartsOf(plumbing.RoleTank) {
				q.Start.State.Levels[t.ID] = quarter
			}
		}})
	}
	supplied := func(a state.Act) bool { return a.Verb == state.Join && a.With.Kind == state.Supply }
	if slices.ContainsFunc(p.Steps, func(s Step) bool { return slices.ContainsFunc(s.Acts, supplied) }) {
		list = append(list, Corner{fact.Of("corner.weak-supply"), func(q *Procedure) {
			for i := range q.Steps {
				acts := slices.Clone(q.Steps[i].Acts)
				for k := range acts {
					if a := &acts[k]; supplied(*a) {
						a.With.Flow *= quantity.LitrePerMinute(weak)
						a.With.Pressure *= quantity.Kilopascal(weak)
					}
				}
				q.Steps[i].Acts = acts
			}
		}})
	}
	if turned := otherWayRound(p.Steps); turned != nil {
		list = append(list, Corner{fact.Of(OtherOrder), func(q *Procedure) { q.Steps = turned }})
	}
	if at := atLowPoints(n, p.Steps); at != nil && p.Limit.Alone > 0 {
		said, share := fact.Of("corner.alone"), quantity.Litre(1+p.Limit.Alone)
		if !p.Limit.Helper {
			said, share = fact.Of("corner.helper"), 1/share
		}
		list = append(list, Corner{said, func(q *Procedure) {
			for _, i := range at {
				q.Steps[i].Until.Litre *= share
			}
		}})
	}
	for _, a := range state.Attitudes()[1:] {
		list = append(list, Corner{fact.Of("corner.off-level", a), func(q *Procedure) { q.Start.State.Attitude = a }})
	}
	return list
}

// otherWayRound are the steps with those that open one outlet after the other for the same in the other order;
// nil where there are none.
func otherWayRound(steps []Step) []Step {
	turned := slices.Clone(steps)
	found := false
	for i := 0; i < len(turned); {
		k := i
		for k < len(turned) && turned[k].For == turned[i].For && opensOnly(&turned[k]) {
			k++
		}
		if k > i+1 {
			slices.Reverse(turned[i:k])
			found = true
		}
		i = max(k, i+1)
	}
	if !found {
		return nil
	}
	return turned
}

// opensOnly reports whether hands do nothing in a step but open an outlet and shut it again.
func opensOnly(s *Step) bool {
	opens := 0
	for _, a := range slices.Concat(s.Acts, s.Then) {
		switch a.Verb {
		case state.Open:
			opens++
		case state.Shut, state.Catch:
		default:
			return false
		}
	}
	return opens == 1 && len(s.Pour) == 0 && len(s.Until.At) == 1
}

// atLowPoints are the steps that let something run out at low points.
func atLowPoints(n *plumbing.Network, steps []Step) (list []int) {
	for i := range steps {
		u := &steps[i].Until
		if u.Litre > 0 && len(u.At) > 0 && n.Nodes[u.At[0]].Part.Role() == plumbing.RoleDrain {
			list = append(list, i)
		}
	}
	return list
}

// Ranged is a corner with what a procedure breaks there and not otherwise.
type Ranged struct {
	Corner
	Breaches []Breach
}

// InRanges carries a procedure out in each of its corners. The error is the context's.
func InRanges(ctx context.Context, n *plumbing.Network, p *Procedure, nominal *Proof) (list []Ranged, err error) {
	for _, c := range Corners(n, p) {
		q := *p
		q.Steps = slices.Clone(p.Steps)
		c.change(&q)
		pr, err := Prove(ctx, n, &q)
		if err != nil {
			return nil, err
		}
		r := Ranged{Corner: c}
		for _, b := range pr.Breaches {
			if !slices.ContainsFunc(nominal.Breaches, func(o Breach) bool { return o.Rule == b.Rule && o.Part == b.Part }) {
				r.Breaches = append(r.Breaches, b)
			}
		}
		list = append(list, r)
	}
	return list, nil
}

// stand lets a system stand as a procedure has it begin.
func stand(x *run.System, p *Procedure) *run.System {
	x.State.Attitude = p.Start.State.Attitude
	return x
}
