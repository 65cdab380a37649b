package app

import (
	"context"

	"coldtap/internal/core/house"
	"coldtap/internal/core/measure"
	"coldtap/internal/core/pool"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/trial"
	"coldtap/internal/core/words"
)

// Pool is what the finished trials of a procedure measured together.
type Pool struct {
	Task, Title string
	Trials      int
	Rows        []PoolRow
	Untried     int // measurements of it that nobody took yet
}

// PoolRow is one thing that was measured.
type PoolRow struct {
	pool.Pooled
	Kind       measure.Kind
	Head, Name string
}

// Pool puts together what the finished trials of a model measured, by procedure, beside what is computed now for each
// as it was made; procedures that nobody has tried are listed by their names.
func (t *Trials) Pool(ctx context.Context, x *Present, list []Trial) (pools []Pool, untried []string, err error) {
	tasks, err := t.TasksOf(ctx, x, "")
	if err != nil {
		return nil, nil, err
	}
	p := words.English(x.Doc.System())
	for _, task := range tasks {
		one := Pool{Task: task.ID, Title: task.Title}
		var points []pool.Point
		var first *onUnit
		for i := range list {
			if list[i].Task != task.ID || list[i].State != TrialFinished {
				continue
			}
			r, err := t.ready(ctx, x, list[i].Build, task.ID)
			if err != nil {
				continue // the build has it no more
			}
			entries, err := t.Entries(ctx, &list[i])
			if err != nil {
				return nil, nil, err
			}
			one.Trials++
			got, err := r.points(ctx, &list[i], entries)
			if err != nil {
				return nil, nil, err
			}
			points = append(points, got...)
			if first == nil {
				first = r
			}
		}
		if one.Trials == 0 {
			untried = append(untried, task.Title)
			continue
		}
		one.rows(first, points, p)
		pools = append(pools, one)
	}
	return pools, untried, nil
}

// points are the measurements of a trial beside what is computed for it as it was made.
func (r *onUnit) points(ctx context.Context, x *Trial, entries []trial.Entry) (list []pool.Point, err error) {
	s := r.Subject.Under(trial.Conditions(entries))
	pr, err := proof.Prove(ctx, s.Net, s.Proc)
	if err != nil {
		return nil, err
	}
	says := measure.Says(s.Net, s.Proc, pr, r.Probes)
	for _, m := range trial.Readings(entries, r.Probes, house.Fields(r.Present.House)) {
		on := x.CreatedAt
		if x.FinishedAt != nil {
			on = *x.FinishedAt
		}
		list = append(list, pool.Point{Probe: m.Probe, Computed: says[m.Probe], Measured: m.Low, On: on, Trial: x.Code})
	}
	return list, nil
}

// rows are what was measured, in the order of the steps.
func (o *Pool) rows(r *onUnit, points []pool.Point, p *words.Printer) {
	var ids []string
	by := map[string]*measure.Probe{}
	for i := range r.Probes {
		ids = append(ids, r.Probes[i].ID())
		by[r.Probes[i].ID()] = &r.Probes[i]
	}
	for _, x := range pool.Of(ids, points) {
		if x.Count == 0 {
			o.Untried++
			continue
		}
		m := by[x.Probe]
		o.Rows = append(o.Rows, PoolRow{Pooled: x, Kind: m.Kind, Head: p.Step(&r.Task.Read.Steps[m.Step]).Head,
			Name: nameOf(p, m)})
	}
}
