package app

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"coldtap/internal/core/cause"
	"coldtap/internal/core/house"
	"coldtap/internal/core/measure"
	"coldtap/internal/core/trial"
	"coldtap/internal/core/words"
)

// Measured is something that was measured, beside what is computed.
type Measured struct {
	Probe    string
	Kind     measure.Kind
	Step     string // its key
	Head     string
	Name     string
	Value    float64
	Computed float64
	Off      float64 // in standard deviations
	Spread   float64
	At       time.Time
}

// Compared is what a trial came to.
type Compared struct {
	Trial   *Trial
	Rows    []Measured
	Lost    []trial.Entry // measurements of steps that the procedure has no more
	Build   *Build
	Subject cause.Subject
	Ranking *cause.Ranking
	Asks    []cause.Correction // of the class, in its order
	Basis   string
}

// rankerBytes is how much is kept of procedures that were carried out with every cause, about perRanker each.
const (
	rankerBytes = 64 << 20
	perRanker   = 3 << 20
)

// Compare holds what a trial measured against its procedure, carried out on the model as it is now as the trial was
// made.
func (t *Trials) Compare(ctx context.Context, x *Trial) (*Compared, error) {
	p, err := t.Publishing.Present(ctx, x.Slug)
	if err != nil {
		return nil, err
	}
	entries, err := t.Entries(ctx, x)
	if err != nil {
		return nil, err
	}
	r, err := t.ready(ctx, p, x.Build, x.Task)
	if err != nil {
		return nil, err
	}
	conditions := trial.Conditions(entries)
	r.Subject = r.Subject.Under(conditions)
	raw, err := json.Marshal(conditions)
	if err != nil {
		return nil, err
	}
	t.begin.Do(func() { t.rankers.Most = rankerBytes })
	ranker, err := t.rankers.Get(p.Basis+" "+x.Build+" "+x.Task+" "+string(raw), func() (*cause.Ranker, int64, error) {
		k, err := cause.NewRanker(ctx, r.Subject)
		return k, perRanker, err
	})
	if err != nil {
		return nil, err
	}
	c := &Compared{Trial: x, Build: r.Build, Subject: r.Subject, Basis: p.Basis}
	readings := trial.Readings(entries, ranker.Probes(), house.Fields(p.House))
	c.fill(entries, ranker, readings, r.steps(words.English(p.Doc.System()), p.Doc.System()))
	if c.Ranking, err = ranker.Rank(ctx, readings); err != nil {
		return nil, err
	}
	for _, f := range c.Ranking.Class {
		ask := cause.Correct(r.Build.Net, p.House, f.Cause)
		if ask.Where == cause.InRule && p.House.Row(ask.Of).Scope == ByModel {
			ask.Path = ofModel
		}
		c.Asks = append(c.Asks, ask)
	}
	return c, nil
}

// fill puts each reading beside what is computed.
func (c *Compared) fill(entries []trial.Entry, k *cause.Ranker, readings []measure.Reading, steps TrialSteps) {
	heads, names := map[string]string{}, map[string]string{}
	for _, s := range steps.Steps {
		heads[s.Key] = s.Head
		for _, p := range s.Probes {
			names[string(p.Kind)+" "+s.Key+" "+p.Of] = p.Name
		}
	}
	next := 0
	for _, e := range trial.Holds(entries) {
		if !slices.Contains(measure.Kinds(), measure.Kind(e.Kind)) {
			continue
		}
		if next < len(readings) && readingOf(readings[next].Probe, e) {
			r := &readings[next]
			next++
			says := k.Base()[r.Probe]
			c.Rows = append(c.Rows, Measured{Probe: r.Probe, Kind: r.Kind, Step: e.Step, Head: heads[e.Step],
				Name: names[string(e.Kind)+" "+e.Step+" "+e.Of], Value: e.Value, Computed: says, Off: r.Off(says),
				Spread: r.Spread, At: time.UnixMilli(e.At).UTC()})
			continue
		}
		c.Lost = append(c.Lost, e)
	}
	order := map[string]int{}
	for i, s := range steps.Steps {
		order[s.Key] = i
	}
	slices.SortStableFunc(c.Rows, func(a, b Measured) int { return order[a.Step] - order[b.Step] })
}

func readingOf(probe string, e trial.Entry) bool {
	id := string(e.Kind) + " " + e.Step
	if e.Of != "" {
		id += " " + e.Of
	}
	return probe == id
}

// Comparison begins to compare a trial, or finds where that is.
func (t *Trials) Comparison(ctx context.Context, x *Trial) (*Job, error) {
	p, err := t.Publishing.Present(ctx, x.Slug)
	if err != nil {
		return nil, err
	}
	rows, err := t.Store.TrialEntries(ctx, x.ID)
	if err != nil {
		return nil, err
	}
	last := ""
	for i := range rows {
		last = max(last, rows[i].Mark)
	}
	key := fmt.Sprintf("trial %s %s %d %s", x.Code, p.Basis, len(rows), last)
	return t.Jobs.Find(key, "Comparing a trial on "+x.Serial, "", 1, func(ctx context.Context, step func()) (any, error) {
		defer step()
		got, err := t.Compare(ctx, x)
		if err != nil {
			return nil, err
		}
		return got, t.Store.Do(ctx, func(tx Tx) error { return tx.SetVerdict(ctx, x.ID, string(got.Ranking.Verdict)) })
	}), nil
}
