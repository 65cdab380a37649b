package guide

import (
	"context"
	"io"
	"strings"

	"coldtap/internal/core/amend"
	"coldtap/internal/core/chapter"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/instruction"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/state"
	"coldtap/internal/core/words"
	"coldtap/internal/drawing"
)

// Chapter is a procedure as it stands in a guide.
type Chapter struct {
	ID, Name string
	CantDo   string   // why not, "" where it can be had
	Wrong    []string // what its proof found; none where it is proven
	Site     []string
	Ranges   []string // what breaks where a unit or a site is not as it is taken to be
	Hand     []string
	Steps    []Step
	TakenOff []Taken
	Tags     []string
}

// Step is a step in a guide.
type Step struct {
	words.Step
	Turn []Turned
}

// Turned is a handle and the position that a step turns it to.
type Turned struct {
	Part     *plumbing.Part
	Position string
}

// Taken is what was taken off, and at which steps it goes off and back.
type Taken struct {
	Part     *plumbing.Part
	At, Back int
}

// chapters are the procedures that an owner has need of: those that break nothing, of the schools of
// winterizing the house's, and why there is none where there is none.
func (o *Owner) chapters(ctx context.Context, in draft.Inputs, edition chapter.Edition) {
	maker := draft.NewMaker(in)
	school := maker.Winter(ctx)
	for _, id := range draft.IDs() {
		other := strings.HasPrefix(id, "winterize-") && id != school.ID && id != "winterize-again"
		if other || id == "first-use" && edition != chapter.Dealer || strings.HasPrefix(id, "flush-") {
			continue // it is not made for this, or part of another
		}
		d := maker.Make(ctx, id)
		switch {
		case d.Procedure == nil && d.ID != "sanitize" && d.ID != school.ID:
			continue
		case d.Procedure == nil:
			o.Procedures = append(o.Procedures, Chapter{ID: d.ID, Name: o.tell(fact.Of("procedure." + d.ID)),
				CantDo: o.tell(d.Why)})
			continue
		}
		p, pr, err := amend.Carried(ctx, in.Net, d.Procedure, d.Run)
		if err != nil {
			return // nobody waits for it any longer
		}
		if pr.Worst() > proof.Note && d.ID != school.ID && d.ID != "sanitize" && d.ID != "winterize-again" {
			continue
		}
		told := instruction.Of(in.Net, in.House, p, pr)
		ranged, err := proof.InRanges(ctx, in.Net, p, pr)
		if err != nil {
			return
		}
		told.Ranges = instruction.Ranges(ranged)
		o.Procedures = append(o.Procedures, o.chapter(told, pr))
	}
}

// NewChecklist is one procedure as somebody ticks it off.
func NewChecklist(m *plumbing.Model, in *instruction.Instruction, pr *proof.Proof) *Owner {
	o := &Owner{Model: m, Sys: m.System()}
	o.Places = drawing.NewLayout(m).Places()
	o.Procedures = []Chapter{o.chapter(in, pr)}
	return o
}

// WriteChecklist writes it as an article element, for a page around it.
func (o *Owner) WriteChecklist(w io.Writer) error {
	return ownerTemplate.ExecuteTemplate(w, "checklist", o)
}

// chapter puts an instruction in words.
func (o *Owner) chapter(in *instruction.Instruction, pr *proof.Proof) Chapter {
	tell := words.English(o.Sys)
	c := Chapter{ID: in.ID, Name: tell.Tell(in.Name), Site: tell.TellAll(in.Site), Hand: tell.TellAll(in.Hand),
		Ranges: tell.TellAll(in.Ranges), Tags: tell.TellAll(in.Tags)}
	for _, b := range pr.Breaches {
		if b.Severity > proof.Note { // notes are for whoever describes the model
			c.Wrong = append(c.Wrong, tell.Tell(b.Said))
		}
	}
	for i := range in.Steps {
		s := in.Steps[i]
		var step Step
		var rest []state.Act
		for _, a := range s.Acts {
			if a.Verb == state.Turn {
				step.Turn = append(step.Turn, Turned{a.Part, a.To})
			} else {
				rest = append(rest, a)
			}
		}
		s.Acts = rest
		step.Step = tell.Step(&s)
		c.Steps = append(c.Steps, step)
	}
	for _, t := range in.TakenOff {
		if t.Back != t.At {
			c.TakenOff = append(c.TakenOff, Taken{t.Part, t.At, t.Back})
		}
	}
	return c
}
