package guide

import (
	"context"
	"slices"

	"coldtap/internal/core/chapter"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/house"
	"coldtap/internal/core/instruction"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/drawing"
	"coldtap/internal/guide/doc"
)

// Plan is the plan of a build as walks point at it.
type Plan struct {
	SVG           string
	Width, Height float64
}

// NewPlan draws it.
func NewPlan(in *chapter.Inputs) Plan {
	l := drawing.NewLayout(in.Net.Model).Sided(house.SideNames(in.House))
	w, h := l.PlanSize()
	return Plan{l.Plan(""), w, h}
}

// Walks puts the procedures of an edition in words as somebody goes through them, a step at a time: those that a hand
// did not leave out of it, in the order of the chapter.
func Walks(ctx context.Context, in chapter.Inputs, o Options) (list []doc.Walk, err error) {
	blocks, err := chapter.Draft(ctx, in)
	if err != nil {
		return nil, err
	}
	w := &writer{teller: newTeller(&in, o.Units), ctx: ctx, o: o}
	spots := drawing.NewLayout(in.Net.Model).PlanSpots()
	for i := range blocks {
		b := &blocks[i]
		t, ok := b.Body.(chapter.Task)
		if !ok || !b.Has(in.Edition) || !b.Only.Holds(o.With) {
			continue
		}
		one := doc.Walk{ID: t.ID, Title: w.Tell(b.Title), Part: w.say("chapter." + string(b.Part)), Foot: w.foot()}
		if t.Read == nil {
			one.Cant = w.line(t.Why)
			list = append(list, one)
			continue
		}
		one.Wrong = w.lines(t.Wrong)
		for _, n := range w.instruction(t.Read, false) {
			if needs, ok := n.(doc.Needs); ok {
				one.Needs = needs.Lists
			}
		}
		for k := range t.Read.Steps {
			stride, err := w.stride(&t.Read.Steps[k], spots)
			if err != nil {
				return nil, err
			}
			one.Steps = append(one.Steps, stride)
		}
		one.Off, one.Tags = w.off(t.Read), w.lines(t.Read.Tags)
		list = append(list, one)
	}
	return list, ctx.Err()
}

// stride is a step with where it is done and what it is waited for.
func (w *writer) stride(s *instruction.Step, spots map[string][2]float64) (doc.Stride, error) {
	one := doc.Stride{Step: w.step(s), Alone: s.Alone, At: stand(s)}
	if s.Waits >= shortWait {
		one.Waits = int(s.Waits)
	}
	for _, n := range s.Notes {
		if n.ID == "note.jug" {
			one.Jug = w.line(n)
		}
	}
	for _, p := range s.Parts {
		spot, ok, err := w.spot(p, spots)
		if err != nil {
			return one, err
		}
		if ok {
			one.Spots = append(one.Spots, spot)
		}
	}
	return one, nil
}

// shortWait is how long a wait is, in seconds, for which somebody wants a clock.
const shortWait = 60

// stand is who of two does a step: at the taps where outlets alone are concerned.
func stand(s *instruction.Step) doc.Stand {
	if !s.Who.IsZero() {
		return doc.ByBoth
	}
	taps := len(s.Main) > 0 && !slices.ContainsFunc(s.Main, func(p *plumbing.Part) bool {
		return p.Role() != plumbing.RoleOutlet && p.Role() != plumbing.RoleMachine
	})
	if taps {
		return doc.AtTaps
	}
	return doc.AtContainer
}

// spot is where a part is; ok is false for one that has no place and no photograph.
func (w *writer) spot(p *plumbing.Part, spots map[string][2]float64) (s doc.Spot, ok bool, err error) {
	s = doc.Spot{Number: w.numbers[p.ID], Name: p.Name, Plate: p.Label, Where: w.Place(p.Place)}
	at, ok := spots[p.ID]
	s.X, s.Y = at[0], at[1]
	for i := range w.in.Photos {
		photo := &w.in.Photos[i]
		k := slices.IndexFunc(photo.Marks, func(m chapter.Mark) bool { return m.Part.ID == p.ID })
		if k < 0 || w.o.Photo == nil {
			continue
		}
		if s.Photo, err = w.o.Photo(w.ctx, photo.ID); err != nil {
			return s, false, err
		}
		one := *photo
		one.Marks = photo.Marks[k : k+1]
		s.Marks, s.Alt, ok = w.marks(&one), w.Tell(fact.Of("walk.photo", p)), true
		break
	}
	return s, ok, nil
}
