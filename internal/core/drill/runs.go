package drill

import (
	"context"
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/record"
	"coldtap/internal/core/run"
)

// rerun carries a procedure out with other steps from a step on; what goes before
// is as in its proof. Where a rule is broken after so many steps already, the rest
// is not carried out.
func rerun(ctx context.Context, n *plumbing.Network, t *Task, at int, steps []proof.Step, soon int) (
	*proof.Proof, error) {
	p := *t.Done
	p.Steps = steps
	r := proof.Run{Outcomes: slices.Clone(t.Proof.Outcomes[:at]), Systems: slices.Clone(t.Proof.Systems[:at+1])}
	x := r.Systems[at].Clone()
	carrier := p.Carrier()
	for i := at; i < len(steps); i++ {
		o, err := carrier.Carry(ctx, x, steps[i].Step)
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		r.Outcomes = append(r.Outcomes, o)
		r.Systems = append(r.Systems, x.Clone())
		if err != nil {
			r.Broke = err
			break
		}
		if i+1 == soon {
			if so := proof.JudgeSoFar(n, &p, r); len(t.fresh(so)) > 0 {
				return so, nil
			}
		}
	}
	return proof.Judge(n, &p, r), nil
}

// fresh are the breaches that a run has and the procedure as it is has not; notes
// are for whoever describes the model.
func (t *Task) fresh(pr *proof.Proof) (list []proof.Breach) {
	for _, b := range pr.Breaches {
		if b.Severity > proof.Note && !slices.ContainsFunc(t.Proof.Breaches, func(o proof.Breach) bool {
			return o.Rule == b.Rule && o.Part == b.Part && o.Severity == b.Severity
		}) {
			list = append(list, b)
		}
	}
	slices.SortStableFunc(list, func(a, b proof.Breach) int { return int(b.Severity) - int(a.Severity) })
	return list
}

// reasonOf tells the first few breaches of a run.
func reasonOf(list []proof.Breach) (r Reason) {
	const most = 3
	for _, b := range list {
		r.Danger = r.Danger || b.Severity == proof.Danger
		if b.Part != "" && !slices.Contains(r.Parts, b.Part) {
			r.Parts = append(r.Parts, b.Part)
		}
		key := b.Said.Key()
		if len(r.Said) < most && !slices.ContainsFunc(r.Said, func(f fact.Fact) bool { return f.Key() == key }) {
			r.Said = append(r.Said, b.Said)
		}
	}
	return r
}

// partsOf are the ids of the parts that a step is at.
func partsOf(t *Task, step int) (ids []string) {
	for _, p := range t.Read.Steps[step].Parts {
		ids = append(ids, p.ID)
	}
	return ids
}

// proven are the procedures whose runs break nothing grave as they are.
func (k *maker) proven() (list []*Task) {
	for i := range k.Tasks {
		t := &k.Tasks[i]
		if t.Proof.Worst() > proof.Note {
			k.refuse(Unproven)
			continue
		}
		list = append(list, t)
	}
	return list
}

// taskReads is what an exercise of a procedure stands on.
func taskReads(t *Task) []record.Input { return with(t.Inputs, record.Input{Kind: record.Plumbing}) }

// does reports whether a step does or waits for anything.
func does(s *run.Step) bool {
	return len(s.Acts)+len(s.Pour)+len(s.Then) > 0 || s.Until.Sense != run.AtOnce
}
