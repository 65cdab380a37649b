// Package amend gives a procedure as a hand left it: steps moved, taken out,
// reworded or added. What it then leads to says its proof.
package amend

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
)

// ByHand begins the key of a step that a hand added.
const ByHand = "by-hand-"

// Keys names each step of a procedure by what it is for and where it is done, so that it is known
// again in one that is made anew; those alike are counted.
func Keys(steps []proof.Step) []string {
	keys, seen := make([]string, len(steps)), map[string]int{}
	for i := range steps {
		if steps[i].Key != "" {
			keys[i] = steps[i].Key
			continue
		}
		key := steps[i].For
		if at := place(&steps[i]); at != "" {
			key += "@" + at
		}
		if seen[key]++; seen[key] > 1 {
			key += "~" + strconv.Itoa(seen[key])
		}
		keys[i] = key
	}
	return keys
}

// place is where a step is done: at the outlet that it opens, else at its first part.
func place(s *proof.Step) string {
	for _, a := range s.Acts {
		if a.Verb == state.Open {
			return a.Part.ID + "." + strings.Join(a.Sides, "+")
		}
	}
	for _, a := range s.Acts {
		if a.Verb != state.Catch && a.Part != nil {
			return a.Part.ID
		}
	}
	if len(s.Pour) > 0 {
		return s.Pour[0].Into.ID
	}
	return ""
}

// Apply is a procedure as it was amended. Steps that came since stand behind the one that they follow
// as it is made; those that are no longer made are gone.
func Apply(n *plumbing.Network, p *proof.Procedure, by *plumbing.Amended) *proof.Procedure {
	q := *p
	keys := Keys(p.Steps)
	q.Steps = slices.Clone(p.Steps)
	for i := range q.Steps {
		q.Steps[i].Key = keys[i]
	}
	if by == nil {
		return &q
	}
	at := map[string]int{}
	for i, k := range keys {
		at[k] = i
	}
	var order []string
	for _, k := range by.Order {
		_, made := at[k]
		_, added := by.Added[k]
		if (made || added) && !slices.Contains(by.Left, k) {
			order = append(order, k)
		}
	}
	for i, k := range keys { // what came since
		if slices.Contains(order, k) || slices.Contains(by.Left, k) {
			continue
		}
		to := 0
		for j := i - 1; j >= 0 && to == 0; j-- {
			to = slices.Index(order, keys[j]) + 1
		}
		order = slices.Insert(order, to, k)
	}
	q.Steps = nil
	for _, k := range order {
		var s proof.Step
		if i, ok := at[k]; ok {
			s = p.Steps[i]
		} else {
			added := by.Added[k]
			s = step(n, &added)
		}
		s.Key, s.Words = k, by.Words[k]
		q.Steps = append(q.Steps, s)
	}
	return &q
}

// Carried is a procedure as a hand left it, with its proof: the run that it was made by, where no hand changed
// anything. The error is the context's.
func Carried(ctx context.Context, n *plumbing.Network, p *proof.Procedure, r *proof.Run) (*proof.Procedure,
	*proof.Proof, error) {
	by := n.Model.AmendedOf(p.ID)
	q := Apply(n, p, by)
	if by == nil {
		return q, proof.Judge(n, q, *r), nil
	}
	pr, err := proof.Prove(ctx, n, q)
	return q, pr, err
}

// step is a step that a hand added. One whose part is no longer there is a step of words.
func step(n *plumbing.Network, a *plumbing.AddedStep) proof.Step {
	s := proof.Step{For: "by-hand"}
	if a.Seconds > 0 {
		s.Until = run.Until{Sense: run.Passed, For: quantity.Second(a.Seconds)}
	}
	p := n.Model.Part(a.Part)
	if p == nil || a.Verb == "" {
		return s
	}
	act := state.Act{Verb: state.Verb(a.Verb), Part: p, To: a.To}
	switch act.Verb {
	case state.HeatOff:
		act.Until = state.Cold
	case state.Rinse:
		act.For = state.Sanitizer
	case state.Open:
		if act.Sides = n.SidesOf(p); a.To != "" {
			act.Sides = []string{a.To}
		}
	}
	s.Acts = []state.Act{act}
	return s
}

// Verbs are what a step that a hand adds can do.
func Verbs() []state.Verb {
	return []state.Verb{state.Turn, state.Open, state.Shut, state.On, state.Off, state.HeatOff, state.TakeOut,
		state.PutBack, state.Press, state.Dump, state.Rinse}
}

// Deeds are the acts at a part that a step can have which a hand adds.
func Deeds(n *plumbing.Network, p *plumbing.Part) (list []state.Act) {
	for _, v := range Verbs() {
		for _, to := range choices(n, v, p) {
			s := step(n, &plumbing.AddedStep{Verb: string(v), Part: p.ID, To: to})
			if _, err := state.Normal(n).Do(n, s.Acts[0]); err == nil {
				list = append(list, s.Acts[0])
			}
		}
	}
	return list
}

// choices are the positions or sides among which an act of a kind chooses at a part; "" where there is one way to
// do it, none where it can't be done there.
func choices(n *plumbing.Network, v state.Verb, p *plumbing.Part) []string {
	waste, heater := p.Role() == plumbing.RoleWaste, p.Role() == plumbing.RoleHeater
	switch v {
	case state.Turn:
		if h := n.HandleOf(p.ID); h != plumbing.None {
			return n.Handles[h].Positions
		}
		return nil
	case state.Open:
		if sides := n.SidesOf(p); len(sides) > 1 {
			return append(slices.Clone(sides), "")
		}
	case state.Dump, state.Rinse:
		if !waste {
			return nil
		}
	case state.HeatOff:
		if !heater {
			return nil
		}
	}
	return []string{""}
}

// Check is what is wrong with a step that a hand adds; nil for nothing.
func Check(n *plumbing.Network, a *plumbing.AddedStep) error {
	if a.Verb == "" {
		if strings.TrimSpace(a.Words) == "" && a.Seconds == 0 {
			return fmt.Errorf("say what is done, or how long is waited")
		}
		return nil
	}
	if !slices.Contains(Verbs(), state.Verb(a.Verb)) || n.Model.Part(a.Part) == nil {
		return fmt.Errorf("choose what is done, and a part of this model")
	}
	for _, act := range step(n, a).Acts {
		if _, err := state.Normal(n).Do(n, act); err != nil {
			return err
		}
	}
	return nil
}

// Faulty is a procedure in which somebody forgets something: a whole step, or what is done at one
// part in it; steps count from 0.
type Faulty struct {
	Skip  []int
	Leave map[int][]string // step to parts
}

// Without is a procedure with faults on purpose.
func Without(p *proof.Procedure, f Faulty) *proof.Procedure {
	q := *p
	q.Steps = nil
	for i, s := range p.Steps {
		if slices.Contains(f.Skip, i) {
			s.Acts, s.Pour, s.Then, s.Until = nil, nil, nil, run.Until{}
		}
		if parts := f.Leave[i]; parts != nil {
			forgot := func(a state.Act) bool { return slices.Contains(parts, a.Part.ID) }
			s.Acts = slices.DeleteFunc(slices.Clone(s.Acts), forgot)
			s.Then = slices.DeleteFunc(slices.Clone(s.Then), forgot)
		}
		q.Steps = append(q.Steps, s)
	}
	return &q
}
