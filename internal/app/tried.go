package app

import (
	"context"
	"encoding/json"
	"math"
	"slices"
	"time"

	"coldtap/internal/core/measure"
	"coldtap/internal/core/trial"
)

// TriedOf is how a procedure came out on units, as the envelope of a guide has it.
type TriedOf struct {
	Task   string        `json:"procedure"`
	Title  string        `json:"title"`
	Trials int           `json:"trials"`
	Units  int           `json:"units"` // that they were made on
	Last   time.Time     `json:"last"`
	Came   []TriedFigure `json:"figures,omitempty"`
}

// TriedFigure is a figure of it: what was computed when it was tried, and what was measured in the mean.
type TriedFigure struct {
	Kind     measure.Kind `json:"kind"`
	Step     string       `json:"step"` // as it is read; "" for the whole
	Computed float64      `json:"computed"`
	Measured float64      `json:"measured"`
	Count    int          `json:"count"`
}

// OnUnits is how the procedures of a published guide came out on units.
func (p *PublishedGuide) OnUnits() (list []TriedOf) {
	if p.Tried != "" {
		_ = json.Unmarshal([]byte(p.Tried), &list) // it was written by the program
	}
	return list
}

// Tell keeps, in the envelope of each guide of a model that readers find, how its procedures came out on units.
func (t *Trials) Tell(ctx context.Context, slug string) error {
	row, _, err := t.Store.Head(ctx, slug)
	if err != nil {
		return err
	}
	list, err := t.Store.TrialsOf(ctx, row.ID, Scope{All: true})
	if err != nil {
		return err
	}
	var all []TriedOf
	on := map[[2]string]bool{}             // procedure and unit
	for i := range slices.Backward(list) { // the oldest first
		x := &list[i]
		if x.State != TrialFinished {
			continue
		}
		entries, err := t.Entries(ctx, x)
		if err != nil {
			return err
		}
		k := slices.IndexFunc(all, func(o TriedOf) bool { return o.Task == x.Task })
		if k < 0 {
			k = len(all)
			all = append(all, TriedOf{Task: x.Task, Title: x.Title})
		}
		all[k].Trials++
		if at := [2]string{x.Task, x.Serial}; !on[at] {
			on[at] = true
			all[k].Units++
		}
		if x.FinishedAt != nil {
			all[k].Last = *x.FinishedAt
		}
		for _, f := range figuresOf(x, entries) {
			all[k].add(f)
		}
	}
	text := ""
	if all != nil {
		raw, err := json.Marshal(all)
		if err != nil {
			return err
		}
		text = string(raw)
	}
	guides, err := t.Store.PublishedOf(ctx, slug)
	if err != nil {
		return err
	}
	return t.Store.Do(ctx, func(tx Tx) error {
		for i := range guides {
			if guides[i].State == Published && guides[i].Tried != text {
				if err := tx.SetTried(ctx, guides[i].ID, text); err != nil {
					return err
				}
			}
		}
		return nil
	})
}

// add takes a figure of one more trial into the mean.
func (o *TriedOf) add(f TriedFigure) {
	for i := range o.Came {
		c := &o.Came[i]
		if c.Kind == f.Kind && c.Step == f.Step {
			n := float64(c.Count)
			c.Measured = (c.Measured*n + f.Measured) / (n + 1)
			c.Computed = (c.Computed*n + f.Computed) / (n + 1)
			c.Count++
			return
		}
	}
	f.Count = 1
	o.Came = append(o.Came, f)
}

// figuresOf are the figures of a trial that readers are told: what antifreeze it took in all, how long each filling
// and
// draining took, how often it was filled until it came clear.
func figuresOf(x *Trial, entries []trial.Entry) (list []TriedFigure) {
	holds := trial.Holds(entries)
	var jug *TriedFigure
	for _, s := range x.What().Steps {
		for _, p := range s.Probes {
			i := slices.IndexFunc(holds, func(e trial.Entry) bool {
				return e.Step == s.Key && e.Kind == trial.Kind(p.Kind) && e.Of == p.Of
			})
			if i < 0 {
				continue
			}
			f := TriedFigure{Kind: p.Kind, Step: s.Head, Computed: rounded(p.Computed), Measured: rounded(holds[i].Value)}
			switch p.Kind {
			case measure.Jug:
				f.Step = ""
				jug = &f
			case measure.Clock, measure.Refills:
				list = append(list, f)
			}
		}
	}
	if jug != nil {
		list = append(list, *jug)
	}
	return list
}

func rounded(v float64) float64 { return math.Round(v*1000) / 1000 }
