// Package cause says what could have made a trial on a unit come out otherwise
// than computed: it carries the procedure out on the model with each of them
// changed, and holds what would then be measured beside what was.
package cause

import (
	"fmt"
	"slices"

	"coldtap/internal/core/amend"
	"coldtap/internal/core/fault"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
)

// Kind is a kind of cause.
type Kind string

// The causes, with the unit of their sizes; those without one are there or not.
const (
	Line     Kind = "line"     // a line is longer than listed, by mm
	Overrun  Kind = "overrun"  // more runs at each outlet side until it is coloured, by L
	Helper   Kind = "helper"   // nobody stood at the low points, or somebody did
	Drained  Kind = "drained"  // a drain was not opened: its lines kept their water
	Heel     Kind = "heel"     // a tank keeps more below its drain than listed, by L
	Supply   Kind = "supply"   // the hose gives more or less, by a share
	Strength Kind = "strength" // the sanitizer is stronger or weaker than printed, by a share
	Left     Kind = "left"     // handles of a step were left as they stood
	Check    Kind = "check"    // a check valve lets back, by L/min at plumbing.SeepAt
)

// Cause is one thing that may have been otherwise.
type Cause struct {
	Kind Kind
	Of   string  // id of the line, the part or the check valve's fault; key of the step
	Size float64 // in the unit of its kind; 0 for none
}

// ID tells a cause from the others, whatever its size.
func (c Cause) ID() string { return string(c.Kind) + " " + c.Of }

// Sized reports whether a cause has a size that is fitted.
func (k Kind) Sized() bool {
	return slices.Contains([]Kind{Line, Overrun, Heel, Supply, Strength, Check}, k)
}

// Subject is a procedure as it was carried out on a unit.
type Subject struct {
	Net    *plumbing.Network
	Proc   *proof.Procedure
	Known  map[Kind]bool                                              // what somebody said of the trial, and is no cause any more
	Drains func(*plumbing.Network) map[*plumbing.Part]quantity.Second // how long tanks take to run out; nil for as Proc says
}

// Candidates lists what may be otherwise with a subject, each with a size that
// is tried first.
func Candidates(s Subject) (list []Cause) {
	add := func(k Kind, of string, size float64) {
		if !s.Known[k] {
			list = append(list, Cause{k, of, size})
		}
	}
	for i := range s.Net.Model.Lines {
		l := &s.Net.Model.Lines[i]
		if l.Side != plumbing.Air && l.Length.Value() > 0 {
			add(Line, l.ID, max(5000, float64(l.Length.Value())))
		}
	}
	for _, t := range s.Net.PartsOf(plumbing.RoleTank) {
		add(Heel, t.ID, max(1, float64(t.Data.Capacity.Value())/20))
	}
	if lowPoints(s) {
		add(Helper, "", 0)
	}
	overruns, supplies, doses := false, false, false
	keys := amend.Keys(s.Proc.Steps)
	for i := range s.Proc.Steps {
		step := &s.Proc.Steps[i]
		overruns = overruns || overrun(s.Net, step)
		doses = doses || slices.ContainsFunc(step.Pour, func(p run.Pour) bool { return p.Mix.Chlorine > 1 })
		turns := 0
		for _, a := range step.Acts {
			supplies = supplies || a.Verb == state.Join && a.With.Kind == state.Supply
			switch {
			case a.Verb != state.Turn:
			case drains(a.Part):
				if step.Until.Sense == run.Dry && !has(list, Drained, a.Part.ID) {
					add(Drained, a.Part.ID, 0)
				}
			case step.Until.Sense == run.AtOnce || step.Until.Sense == run.Full:
				turns++
				add(Left, keys[i]+" "+a.Part.ID, 0)
			}
		}
		if turns > 1 {
			add(Left, keys[i], 0)
		}
	}
	if overruns {
		add(Overrun, "", 0.1)
	}
	if supplies {
		add(Supply, "", 0.2)
	}
	if doses {
		add(Strength, "", -0.4)
	}
	for _, f := range fault.OfNetwork(s.Net) {
		if f.Link >= 0 {
			add(Check, f.ID(), 1)
		}
	}
	return list
}

func has(list []Cause, k Kind, of string) bool {
	return slices.ContainsFunc(list, func(c Cause) bool { return c.Kind == k && c.Of == of })
}

// drains reports whether a part lets the water of lines or of a tank run out.
func drains(p *plumbing.Part) bool { return p.Role() == plumbing.RoleDrain }

// overrun reports whether a step lets more run on at an outlet when what it waits for is there.
func overrun(n *plumbing.Network, s *proof.Step) bool {
	if s.Until.Sense != run.Coloured && s.Until.Sense != run.Strong && s.Until.Sense != run.Smelled {
		return false
	}
	return !slices.ContainsFunc(s.Until.At, func(at plumbing.NodeID) bool { return drains(n.Nodes[at].Part) })
}

// lowPoint reports whether a step lets run out at a low point until it is coloured.
func lowPoint(n *plumbing.Network, s *proof.Step) bool {
	return s.Until.Sense == run.Coloured && len(s.Until.At) > 0 && !overrun(n, s)
}

func lowPoints(s Subject) bool {
	return s.Proc.Limit.Alone > 0 && slices.ContainsFunc(s.Proc.Steps, func(x proof.Step) bool {
		return lowPoint(s.Net, &x)
	})
}

// With is a subject in which a cause is there.
func (s Subject) With(c Cause) (Subject, error) {
	switch c.Kind {
	case Line, Heel:
		return s.changed(c)
	case Overrun:
		return s.steps(func(x *proof.Step) {
			if overrun(s.Net, x) {
				x.Until.Litre = max(0, x.Until.Litre+quantity.Litre(c.Size))
			}
		}), nil
	case Helper:
		by := quantity.Litre(1 + s.Proc.Limit.Alone)
		if !s.Proc.Limit.Helper {
			by = 1 / by
		}
		s = s.steps(func(x *proof.Step) {
			if lowPoint(s.Net, x) {
				x.Until.Litre *= by
			}
		})
		s.Proc.Limit.Helper = !s.Proc.Limit.Helper
		return s, nil
	case Supply:
		return s.acts(func(a *state.Act) bool {
			if a.Verb == state.Join && a.With.Kind == state.Supply {
				a.With.Flow *= quantity.LitrePerMinute(1 + c.Size)
			}
			return true
		}), nil
	case Strength:
		supply, by := s.Proc.Start.Supply.Chlorine, quantity.MgPerLitre(1+c.Size)
		return s.steps(func(x *proof.Step) {
			if x.Until.Sense == run.Strong && by < 1 { // who waits goes on when the strip shows no more
				x.Until.Least.Chlorine *= by * goesOn
			}
			x.Pour = slices.Clone(x.Pour)
			for i := range x.Pour {
				if m := &x.Pour[i].Mix; m.Chlorine > supply {
					m.Chlorine = supply + (m.Chlorine-supply)*by
				}
			}
		}), nil
	case Drained:
		return s.acts(func(a *state.Act) bool { return a.Verb != state.Turn || a.Part.ID != c.Of }), nil
	case Left:
		return s.left(c.Of), nil
	case Check:
		for _, f := range fault.OfNetwork(s.Net) {
			if f.ID() == c.Of {
				l := s.Net.Links[f.Link]
				s.Net = s.Net.With(plumbing.Link{A: l.B, B: l.A, Part: l.Part, OneWay: true, Handle: l.Handle,
					Pump: plumbing.None, Open: l.Open, Seep: quantity.LitrePerMinute(c.Size)})
				return s, nil
			}
		}
	}
	return s, fmt.Errorf("cause %q is none of this model", c.ID())
}

// goesOn is at which share of what comes somebody takes it that no more will come.
const goesOn = 0.95

// left leaves handles of a step as they stood: all that it turns, or one of them.
func (s Subject) left(of string) Subject {
	keys := amend.Keys(s.Proc.Steps)
	s = s.steps(func(*proof.Step) {})
	for i := range s.Proc.Steps {
		x := &s.Proc.Steps[i]
		x.Acts = slices.DeleteFunc(slices.Clone(x.Acts), func(a state.Act) bool {
			return a.Verb == state.Turn && !drains(a.Part) && (of == keys[i] || of == keys[i]+" "+a.Part.ID)
		})
	}
	return s
}

// steps is a subject whose steps are changed.
func (s Subject) steps(change func(*proof.Step)) Subject {
	p := *s.Proc
	p.Steps = slices.Clone(p.Steps)
	for i, key := range amend.Keys(p.Steps) {
		p.Steps[i].Key = key // what it is called does not change with what is done
		change(&p.Steps[i])
	}
	s.Proc = &p
	return s
}

// acts is a subject whose acts are changed; those that the change does not keep are not done.
func (s Subject) acts(change func(*state.Act) bool) Subject {
	one := func(list []state.Act) (kept []state.Act) {
		for _, a := range list {
			if change(&a) {
				kept = append(kept, a)
			}
		}
		return kept
	}
	return s.steps(func(x *proof.Step) { x.Acts, x.Then = one(x.Acts), one(x.Then) })
}

// changed is a subject on a model with another figure.
func (s Subject) changed(c Cause) (Subject, error) {
	m, sys := *s.Net.Model, s.Net.System()
	switch c.Kind {
	case Line:
		m.Lines = slices.Clone(m.Lines)
		i := slices.IndexFunc(m.Lines, func(l plumbing.Line) bool { return l.ID == c.Of })
		if i < 0 {
			return s, fmt.Errorf("there is no line %q", c.Of)
		}
		l := &m.Lines[i]
		l.Length = quantity.Of(max(1, l.Length.Value()+quantity.Millimetre(c.Size)), sys)
	case Heel:
		m.Parts = slices.Clone(m.Parts)
		t := m.Part(c.Of)
		if t == nil {
			return s, fmt.Errorf("there is no tank %q", c.Of)
		}
		t.Data.Heel = quantity.Of(max(0, t.Data.Heel.Value()+quantity.Litre(c.Size)), sys)
	}
	n, err := plumbing.NewNetwork(&m)
	if err != nil {
		return s, err
	}
	proc, err := s.Proc.On(n)
	if err != nil {
		return s, err
	}
	if s.Drains != nil {
		proc.Limit.Drains = s.Drains(n)
	}
	s.Net, s.Proc = n, proc
	return s, nil
}
