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

// quarter is how full tanks are at the low end; weak is the share of its flow, and of its pressure, that
// a poor supply gives.
const (
	quarter = 0.25
	weak    = 0.5
)

// Corners are the corners that a procedure is carried out in: tanks a quarter full where it begins with
// some in them, a poor supply where it joins one, and 2° off level each way.
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
	for _, a := range state.Attitudes()[1:] {
		list = append(list, Corner{fact.Of("corner.off-level", a), func(q *Procedure) { q.Start.State.Attitude = a }})
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
