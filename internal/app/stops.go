package app

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"coldtap/internal/core/chapter"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/finding"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/state"
	"coldtap/internal/core/words"
)

// StopKind is a kind of thing that stands in the way of an approval.
type StopKind string

// The kinds of it, the gravest first.
const (
	StopDanger   StopKind = "danger"   // a finding or a step that can hurt somebody
	StopCaution  StopKind = "caution"  // that is missing, or that a hand reworded and no reviewer has looked at
	StopFinding  StopKind = "finding"  // an error that no reviewer has accepted
	StopUnproven StopKind = "unproven" // a procedure whose run breaks a rule
	StopEdited   StopKind = "edited"   // steps by hand that the run does not bear out
	StopReason   StopKind = "reason"   // something set by hand without a reason
	StopComment  StopKind = "comment"  // that is not settled
)

// Stop is something that stands in the way of an approval.
type Stop struct {
	Kind      StopKind
	Words     string
	Block     string // of the guide; "" for none
	Procedure string
	Finding   string // code
	Part      string
	Mode      string
	Comment   uint64
	With      []string // the build
}

// Stops is all that stands in the way of approving a guide as it is, over all builds, each once.
func (p *Publishing) Stops(ctx context.Context, x *Present, comments []Comment) (list []Stop, err error) {
	seen := map[string]bool{}
	add := func(s Stop) {
		if key := string(s.Kind) + s.Words + s.Block + s.Procedure; !seen[key] {
			seen[key] = true
			list = append(list, s)
		}
	}
	for _, c := range comments {
		if c.OnID == 0 && c.State != CommentDone {
			add(Stop{Kind: StopComment, Words: c.Person + ": " + c.Text, Block: c.Block, Comment: c.ID})
		}
	}
	if w := x.Doc.Chapter; w != nil {
		for id, o := range w.Figures {
			if strings.TrimSpace(o.Reason) == "" {
				add(Stop{Kind: StopReason, Words: "The figure " + id + " was set by hand.", Block: "figures"})
			}
		}
	}
	for _, k := range x.Doc.Kept {
		if strings.TrimSpace(k.Reason) == "" {
			add(Stop{Kind: StopReason, Words: "The positions of " + k.Mode + " were chosen by hand.", Mode: k.Mode})
		}
	}
	for _, with := range x.Doc.Builds() {
		if err := p.stopsOf(ctx, x, with, comments, add); err != nil {
			return nil, err
		}
	}
	order := []StopKind{StopDanger, StopCaution, StopFinding, StopUnproven, StopEdited, StopReason, StopComment}
	slices.SortStableFunc(list, func(a, b Stop) int { return slices.Index(order, a.Kind) - slices.Index(order, b.Kind) })
	return list, nil
}

// stopsOf adds what stands in the way in one build.
func (p *Publishing) stopsOf(ctx context.Context, x *Present, with []string, comments []Comment,
	add func(Stop)) error {
	b, err := p.Build(ctx, x, with)
	if err != nil {
		return err
	}
	tell := words.English(x.Doc.System())
	open, err := b.Findings(ctx)
	if err != nil {
		return err
	}
	for _, f := range open {
		s := Stop{Kind: StopFinding, Words: tell.Tell(f.Said), Finding: f.Code, With: with}
		if len(f.Parts) > 0 {
			s.Part = f.Parts[0]
		}
		switch {
		case f.Danger:
			s.Kind = StopDanger
		case f.Severity < finding.Error:
			continue
		}
		add(s)
	}
	in, err := x.Inputs(ctx, b, true)
	if err != nil {
		return err
	}
	if x.Doc.Chapter != nil {
		for id, o := range x.Doc.Chapter.Figures {
			if err := in.Judge(id, o.Value); err != nil {
				add(Stop{Kind: StopDanger, Words: "The figure " + id + " set by hand to " + o.Value +
					" is not told: it would do harm.",
					Block: "figures", With: with})
			}
		}
	}
	for i := range in.Tasks {
		t := &in.Tasks[i]
		s := Stop{Procedure: t.ID, Block: "task-" + t.ID, With: with}
		name := tell.Tell(fact.Of("procedure." + t.ID))
		if t.Proof != nil {
			for _, br := range t.Proof.Breaches {
				one := s
				one.Words = name + ": " + tell.Tell(br.Said)
				switch {
				case br.Severity == proof.Danger:
					one.Kind = StopDanger
				case br.Severity <= proof.Note:
					continue
				case x.Doc.AmendedOf(t.ID) != nil:
					one.Kind = StopEdited
				default:
					one.Kind = StopUnproven
				}
				add(one)
			}
		}
		for _, id := range missingCautions(t) {
			one := s
			one.Kind, one.Words = StopCaution, name+": the caution is missing: "+tell.Tell(fact.Of("caution."+id))
			add(one)
		}
	}
	return p.reworded(ctx, x, &in, comments, add)
}

// needsCaution are cautions that steps need by what is done in them, looked at apart from what writes them.
func needsCaution(t *chapter.Task) map[string]bool {
	need := map[string]bool{}
	if t.Read == nil {
		return need
	}
	for i := range t.Read.Steps {
		s := &t.Read.Steps[i]
		for _, p := range s.Pour {
			switch p.ID {
			case "pour.bleach":
				need["chlorine"] = true
			case "pour.antifreeze":
				need["potable-only"] = true
			case "pour.vinegar":
				need["vinegar"] = true
			}
		}
		for _, a := range s.Acts {
			switch {
			case a.Verb == state.HeatOn:
				need["never-dry"] = true
			case a.Verb == state.Join && a.With.Kind == state.Compressed:
				need["air"] = true
			}
		}
	}
	return need
}

// missingCautions are those that a procedure needs and does not have.
func missingCautions(t *chapter.Task) (ids []string) {
	need := needsCaution(t)
	if t.Read != nil {
		for i := range t.Read.Steps {
			for _, c := range t.Read.Steps[i].Cautions {
				delete(need, strings.TrimPrefix(c.Said.ID, "caution."))
			}
		}
	}
	for id := range need {
		ids = append(ids, id)
	}
	slices.Sort(ids)
	return ids
}

// reworded adds the cautions that a hand reworded and the steps that are words alone, which no run bears out, unless a reviewer
// settled a comment on the line.
func (p *Publishing) reworded(ctx context.Context, x *Present, in *chapter.Inputs, comments []Comment, add func(Stop)) error {
	looked := func(key string) bool {
		return slices.ContainsFunc(comments, func(c Comment) bool {
			return c.Line == key && c.State == CommentDone && c.Role == "reviewer"
		})
	}
	tell := words.English(x.Doc.System())
	for i := range in.Tasks {
		t := &in.Tasks[i]
		if t.Read == nil {
			continue
		}
		block := "task-" + t.ID
		for k := range t.Read.Steps {
			s := &t.Read.Steps[k]
			if s.Head.ID == "step.by-hand" && len(s.Acts)+len(s.Pour)+len(s.Then) == 0 && !looked(chapter.Key(s.Head)) {
				add(Stop{Kind: StopEdited, Block: block, Procedure: t.ID, Words: fmt.Sprintf("%s, step %d: “%s” is words alone, which no "+
					"run bears out. A reviewer comments on it and settles that.", tell.Tell(fact.Of("procedure."+t.ID)), k+1,
					tell.Tell(s.Head))})
			}
			for _, c := range s.Cautions {
				key := chapter.Key(c.Said)
				if text, own := ownWords(x.Doc)[key]; own && !looked(key) {
					add(Stop{Kind: StopCaution, Block: block, Words: "A caution was reworded: “" + text +
						"”. A reviewer comments on it and settles that."})
				}
			}
		}
	}
	return ctx.Err()
}

// ownWords are the sentences of a model's guide that a hand reworded.
func ownWords(m *plumbing.Model) map[string]string {
	if m.Chapter == nil {
		return nil
	}
	return m.Chapter.Words
}
