package edit

import (
	"maps"
	"slices"
	"strconv"
	"strings"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
)

// Steps is a change in the steps of a procedure, which stand in an order of keys.
type Steps struct {
	Procedure string
	Name      fact.Fact
	Keys      []string // as they stand now
}

// amend changes a procedure's amendments and says what was done.
func (s Steps) amend(m *plumbing.Model, said fact.Fact, change func(*plumbing.Amended)) (*Done, error) {
	c := clone(m)
	a := plumbing.Amended{Procedure: s.Procedure}
	if was := m.AmendedOf(s.Procedure); was != nil {
		a = plumbing.Amended{Procedure: s.Procedure, Left: slices.Clone(was.Left), Words: maps.Clone(was.Words),
			Added: maps.Clone(was.Added)}
	}
	a.Order = slices.Clone(s.Keys)
	change(&a)
	c.Amended = slices.DeleteFunc(slices.Clone(m.Amended), func(o plumbing.Amended) bool {
		return o.Procedure == s.Procedure
	})
	c.Amended = append(c.Amended, a)
	after, err := Check(c)
	if err != nil {
		return nil, err
	}
	return &Done{after, said}, nil
}

// has is where a step stands, or why there is none.
func (s Steps) has(key string) (int, error) {
	if i := slices.Index(s.Keys, key); i >= 0 {
		return i, nil
	}
	return 0, fault("Step", "this step is no longer there; load the page again")
}

// Move puts a step before another; "" for the end.
func (s Steps) Move(m *plumbing.Model, key, before string) (*Done, error) {
	from, to, err := places(s.has, len(s.Keys), key, before)
	if err != nil {
		return nil, err
	}
	if to == from || to == from+1 {
		return &Done{Model: m}, nil
	}
	said := fact.Of("edit.step-moved", s.Name, strconv.Itoa(from+1), strconv.Itoa(to+1))
	return s.amend(m, said, func(a *plumbing.Amended) { a.Order = reordered(a.Order, from, to) })
}

// places are where something stands in an order, and where what it goes before stands; "" for the end.
func places(has func(string) (int, error), end int, key, before string) (from, to int, err error) {
	if from, err = has(key); err != nil || before == "" {
		return from, end, err
	}
	to, err = has(before)
	return from, to, err
}

// reordered is an order in which one goes before another.
func reordered(order []string, from, to int) []string {
	key := order[from]
	order = slices.Delete(order, from, from+1)
	if to > from {
		to--
	}
	return slices.Insert(order, to, key)
}

// Leave takes a step out; one that a hand added is gone with it.
func (s Steps) Leave(m *plumbing.Model, key string) (*Done, error) {
	at, err := s.has(key)
	if err != nil {
		return nil, err
	}
	return s.amend(m, fact.Of("edit.step-left", s.Name, strconv.Itoa(at+1)), func(a *plumbing.Amended) {
		a.Order = slices.Delete(a.Order, at, at+1)
		delete(a.Words, key)
		if _, byHand := a.Added[key]; byHand {
			delete(a.Added, key)
			return
		}
		a.Left = append(a.Left, key)
	})
}

// TakeBack puts a step back that was taken out.
func (s Steps) TakeBack(m *plumbing.Model, key string) (*Done, error) {
	return s.amend(m, fact.Of("edit.step-back", s.Name), func(a *plumbing.Amended) {
		a.Left = slices.DeleteFunc(a.Left, func(k string) bool { return k == key })
	})
}

// longestWords is how long the words of a step may be.
const longestWords = 600

// Reword gives a step other words; "" for its own.
func (s Steps) Reword(m *plumbing.Model, key, words string) (*Done, error) {
	at, err := s.has(key)
	if err != nil {
		return nil, err
	}
	if words = strings.TrimSpace(words); len(words) > longestWords {
		return nil, fault("Words", "at most 600 characters")
	}
	return s.amend(m, fact.Of("edit.step-reworded", s.Name, strconv.Itoa(at+1)), func(a *plumbing.Amended) {
		if a.Words == nil {
			a.Words = map[string]string{}
		}
		if a.Words[key] = words; words == "" {
			delete(a.Words, key)
		}
	})
}

// Add puts a step of a hand's own behind another; "" for the beginning.
func (s Steps) Add(m *plumbing.Model, after string, step plumbing.AddedStep) (*Done, error) {
	at := 0
	if after != "" {
		i, err := s.has(after)
		if err != nil {
			return nil, err
		}
		at = i + 1
	}
	if step.Words = strings.TrimSpace(step.Words); len(step.Words) > longestWords {
		return nil, fault("Words", "at most 600 characters")
	}
	return s.amend(m, fact.Of("edit.step-added", s.Name, strconv.Itoa(at+1)), func(a *plumbing.Amended) {
		if a.Added == nil {
			a.Added, a.Words = map[string]plumbing.AddedStep{}, maps.Clone(a.Words)
		}
		key := ""
		for i := 1; key == "" || a.Added[key] != (plumbing.AddedStep{}); i++ {
			key = "by-hand-" + strconv.Itoa(i)
		}
		a.Added[key] = step
		if step.Words != "" {
			if a.Words == nil {
				a.Words = map[string]string{}
			}
			a.Words[key] = step.Words
		}
		a.Order = slices.Insert(a.Order, at, key)
	})
}

// Reset gives a procedure its own steps again.
func (s Steps) Reset(m *plumbing.Model) (*Done, error) {
	c := clone(m)
	c.Amended = slices.DeleteFunc(slices.Clone(m.Amended), func(o plumbing.Amended) bool {
		return o.Procedure == s.Procedure
	})
	if len(c.Amended) == len(m.Amended) {
		return &Done{Model: m}, nil
	}
	if len(c.Amended) == 0 {
		c.Amended = nil
	}
	return &Done{c, fact.Of("edit.steps-reset", s.Name)}, nil
}
