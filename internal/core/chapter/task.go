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
	Done   *proof.Procedure // as it was carried out
	Only   Edition          // that has it; "" for all
	Worst  proof.Severity
	Wrong  []fact.Fact    // what its proof found, but for notes
	Inputs []record.Input // what was read to make it and to carry it out
	Known  bool           // from an earlier look, and not carried out again
	Had    bool           // of one that is known: it can be had
}

// Has reports whether the procedure can be had.
func (t *Task) Has() bool { return t.Read != nil || t.Known && t.Had }

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
	return map[setting.Group]Part{setting.Use: Using, setting.Fill: Filling, setting.Clean: Clean,
		setting.Winter: Winter}[g]
}

// Tasks carries out the procedures that readers have need of: those that break nothing, of the schools of
// winterizing the house's, and why there is none where there is none. The error is the context's.
func Tasks(ctx context.Context, in draft.Inputs) ([]Task, error) {
	c, err := Carry(ctx, in, nil)
	if err != nil {
		return nil, err
	}
	return c.Tasks, nil
}

// Carried is what came of the procedures of a model.
type Carried struct {
	Tasks []Task // those that are told
	Looks []Look // at every one, told or not
}

// Look is a procedure that was looked at, and what it stands on: told or not, it may be otherwise when that changes.
type Look struct {
	ID   string         `json:"id"`
	Told bool           `json:"told,omitempty"`
	Had  bool           `json:"had,omitempty"` // it can be had
	Part Part           `json:"part,omitempty"`
	From []record.Input `json:"-"`
}

// Carry is Tasks with a look at each procedure. Those that are known from an earlier look are not carried out again:
// what stands in their place says whether they can be had, and no more.
func Carry(ctx context.Context, in draft.Inputs, known map[string]Look) (*Carried, error) {
	rec := &record.Recorder{}
	in.House = in.House.Recorded(rec)
	in.Net = in.Net.Recorded(rec)
	maker := draft.NewMaker(in)
	var school string
	chosen := rec.During(func() { school = maker.Winter(ctx).ID })
	held := rec.During(func() { holds(in.Net) }) // a run moves what the whole system holds
	c := new(Carried)
	for _, id := range draft.IDs() {
		if strings.HasPrefix(id, "flush-") {
			continue // it is part of another
		}
		winter := strings.HasPrefix(id, "winterize-")
		if winter && id != school && id != "winterize-again" {
			c.Looks = append(c.Looks, Look{ID: id, From: slices.DeleteFunc(with(chosen, through(rec, chosen)),
				isFigure)}) // it is not made for this
			continue
		}
		if k, ok := known[id]; ok {
			c.Looks = append(c.Looks, k)
			if k.Told {
				c.Tasks = append(c.Tasks, Task{ID: id, Part: k.Part, Known: true, Had: k.Had, Inputs: k.From})
			}
			continue
		}
		t, keep, err := carryOne(ctx, in, maker, id, school, held)
		if err != nil {
			return nil, err
		}
		look := Look{ID: id, Told: keep, Had: t.Has(), Part: t.Part, From: t.Inputs}
		if winter {
			look.From = with(look.From, with(chosen, through(rec, chosen)))
		}
		look.From = with(look.From, allData(in.Net))
		look.From = slices.DeleteFunc(slices.Clone(look.From), isFigure) // which are followed to what they stand on
		c.Looks = append(c.Looks, look)
		if keep {
			c.Tasks = append(c.Tasks, t)
		}
	}
	return c, ctx.Err()
}

// carryOne carries out one procedure, with what was read for it.
func carryOne(ctx context.Context, in draft.Inputs, maker *draft.Maker, id, school string,
	held []record.Input) (t Task, keep bool, err error) {
	rec := in.Net.Recorder()
	read := rec.During(func() { t, keep, err = task(ctx, in, maker.Make(ctx, id), school) })
	t.Inputs = with(with(read, held), through(rec, read))
	return t, keep, err
}

func isFigure(x record.Input) bool { return x.Kind == record.Figure }

// with is a list of inputs with those of another that it has not.
func with(list, more []record.Input) []record.Input {
	has := make(map[record.Input]bool, len(list))
	for _, x := range list {
		has[x] = true
	}
	list = slices.Clip(list)
	for _, x := range more {
		if !has[x] {
			has[x] = true
			list = append(list, x)
		}
	}
	return list
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
	// A school that would hurt is never printed. Sanitizing is, with what is wrong in it: whether a heater that can't be passed
	// by may meet it is for its maker to say.
	if t.Worst == proof.Danger && d.ID != "sanitize" {
		i := slices.IndexFunc(pr.Breaches, func(b proof.Breach) bool { return b.Severity == proof.Danger })
		t.Proof, t.Why = pr, fact.Of("cant.danger", pr.Breaches[i].Said)
		return t, true, nil
	}
	ranged, err := proof.InRanges(ctx, in.Net, p, pr)
	if err != nil {
		return t, false, err
	}
	t.Proof, t.Done, t.Read = pr, p, instruction.Of(in.Net, in.House, p, pr)
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
		if t.Known || t.Only != "" && t.Only != d.Edition || !d.wants("task-"+t.ID) {
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
