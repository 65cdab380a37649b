package chapter

import (
	"context"
	"slices"
	"strings"

	"coldtap/internal/core/amend"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/figure"
	"coldtap/internal/core/instruction"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/record"
	"coldtap/internal/core/setting"
)

// Task is a procedure as it was carried out, or why it can't be had.
type Task struct {
	ID     string
	Part   Part
	Why    fact.Fact                // why it can't be had
	Read   *instruction.Instruction // nil where it can't be had
	Proof  *proof.Proof
	Only   Edition // that has it; "" for all
	Worst  proof.Severity
	Wrong  []fact.Fact    // what its proof found, but for notes
	Inputs []record.Input // what was read to make it and to carry it out
}

func (t Task) empty() bool { return t.Read == nil && t.Why.IsZero() }

// musts are the procedures that are told of even where they can't be had or are not proven.
func must(id, school string) bool { return id == "sanitize" || id == school || id == "winterize-again" }

// partOf is the part of a chapter that a procedure belongs to.
func partOf(id string, g setting.Group) Part {
	switch id {
	case "first-use":
		return Before
	case "leave-site", "drain-down":
		return Leaving
	case "heater-care", "descale-heater", "descale-lines", "hot-cycle", "bleed-air":
		return Care
	case "de-winterize":
		return Spring
	}
	return map[setting.Group]Part{setting.Use: Using, setting.Fill: Filling, setting.Clean: Clean, setting.Winter: Winter}[g]
}

// Tasks carries out the procedures that readers have need of: those that break nothing, of the schools of
// winterizing the house's, and why there is none where there is none. The error is the context's.
func Tasks(ctx context.Context, in draft.Inputs) (list []Task, err error) {
	rec := &record.Recorder{}
	in.House = in.House.Recorded(rec)
	in.Net = in.Net.Recorded(rec)
	maker := draft.NewMaker(in)
	school := maker.Winter(ctx).ID
	held := rec.During(func() { holds(in.Net) }) // a run moves what the whole system holds
	for _, id := range draft.IDs() {
		other := strings.HasPrefix(id, "winterize-") && id != school && id != "winterize-again"
		if other || strings.HasPrefix(id, "flush-") {
			continue // it is not made for this, or part of another
		}
		var t Task
		var keep bool
		read := rec.During(func() { t, keep, err = task(ctx, in, maker.Make(ctx, id), school) })
		if err != nil {
			return nil, err
		}
		t.Inputs = read
		for _, x := range slices.Concat(held, through(rec, read)) {
			if !slices.Contains(t.Inputs, x) {
				t.Inputs = append(t.Inputs, x)
			}
		}
		if keep {
			list = append(list, t)
		}
	}
	return list, ctx.Err()
}

// through is what was read for the figures that were read, some of which are worked out for procedures alone.
func through(rec *record.Recorder, read []record.Input) (list []record.Input) {
	var ids []string
	for _, in := range read {
		if in.Kind == record.Figure {
			ids = append(ids, in.Of)
		}
	}
	if ids == nil {
		return nil
	}
	return figure.Reads(figure.List(rec), ids...)
}

// holds reads what every stretch and vessel of a system holds.
func holds(n *plumbing.Network) {
	for _, l := range n.AllLinks() {
		n.Content(l)
	}
	for _, p := range n.AllParts() {
		plumbing.Field(n, &p.Data.Capacity)
	}
}

// task carries a procedure out, and tells whether it is one to be told.
func task(ctx context.Context, in draft.Inputs, d draft.Drafted, school string) (t Task, keep bool, err error) {
	t = Task{ID: d.ID, Part: partOf(d.ID, d.Group), Why: d.Why}
	if d.ID == "first-use" {
		t.Only = Dealer
	}
	if d.Procedure == nil {
		return t, d.ID == "sanitize" || d.ID == school, nil
	}
	p, pr, err := amend.Carried(ctx, in.Net, d.Procedure, d.Run)
	if err != nil {
		return t, false, err
	}
	if t.Worst = pr.Worst(); t.Worst > proof.Note && !must(d.ID, school) {
		return t, false, nil
	}
	ranged, err := proof.InRanges(ctx, in.Net, p, pr)
	if err != nil {
		return t, false, err
	}
	t.Proof, t.Read = pr, instruction.Of(in.Net, in.House, p, pr)
	t.Read.Ranges = instruction.Ranges(ranged)
	for _, b := range pr.Breaches {
		if b.Severity > proof.Note { // notes are for whoever describes the model
			t.Wrong = append(t.Wrong, b.Said)
		}
	}
	return t, true, nil
}

// tasks adds a block for each procedure of the edition.
func (d *drafting) tasks() {
	for _, t := range d.Tasks {
		if t.Only != "" && t.Only != d.Edition {
			continue
		}
		d.list = append(d.list, Block{ID: "task-" + t.ID, Part: t.Part, Title: fact.Of("procedure." + t.ID), From: t.Inputs,
			Body: t})
	}
}

// Times are how long each procedure takes.
type Times struct{ Tasks []Task }

func (t Times) empty() bool { return len(t.Tasks) == 0 }

func times(list []Task) Times {
	return Times{slices.DeleteFunc(slices.Clone(list), func(t Task) bool { return t.Read == nil })}
}
