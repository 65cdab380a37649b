package edit

import (
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
)

// SetOption puts an option in, or changes the one with its id; was is its id before, ""
// for a new one.
func SetOption(m *plumbing.Model, was string, o plumbing.Option) (*Done, error) {
	c := clone(m)
	if o.ID == "" {
		o.ID = ID(o.Name, func(id string) bool { return c.Option(id) != nil && id != was })
	}
	said := fact.Of("edit.option.set", fact.Name(o.Name))
	if was == "" {
		c.Options = append(c.Options, o)
		said = fact.Of("edit.option.added", fact.Name(o.Name))
	} else {
		i := slices.IndexFunc(c.Options, func(x plumbing.Option) bool { return x.ID == was })
		if i < 0 {
			return nil, fault("", "there is no option %q any more", was)
		}
		c.Options[i] = o
		if o.ID != was {
			bind(c, was, o.ID)
		}
	}
	after, err := Check(c)
	if err != nil {
		return nil, err
	}
	return &Done{after, said}, nil
}

// RemoveOption takes an option away. What it would have taken away stays, what it would
// have added goes with it.
func RemoveOption(m *plumbing.Model, id string) (*Done, error) {
	o := m.Option(id)
	if o == nil {
		return nil, fault("", "there is no option %q any more", id)
	}
	said := fact.Of("edit.option.removed", fact.Name(o.Name))
	var gone []string
	for _, p := range m.Parts {
		if p.Option == id {
			gone = append(gone, p.ID)
		}
	}
	for _, l := range m.Lines {
		if l.Option == id {
			gone = append(gone, l.ID)
		}
	}
	c := clone(m)
	if len(gone) > 0 {
		for _, l := range m.Lines { // lines that go with their parts are gone by then
			from, _ := plumbing.PartOf(l.From)
			to, _ := plumbing.PartOf(l.To)
			if slices.Contains(gone, from) || slices.Contains(gone, to) {
				gone = slices.DeleteFunc(gone, func(g string) bool { return g == l.ID })
			}
		}
		done, err := Remove(c, gone...)
		if err != nil {
			return nil, err
		}
		c = clone(done.Model)
	}
	c.Options = slices.DeleteFunc(c.Options, func(x plumbing.Option) bool { return x.ID == id })
	bind(c, id, "")
	after, err := Check(c)
	if err != nil {
		return nil, err
	}
	return &Done{after, said}, nil
}

// bind gives what names an option another name for it, "" for none.
func bind(c *plumbing.Model, was, now string) {
	swap := func(s *string) {
		if *s == was {
			*s = now
		}
	}
	for i := range c.Parts {
		swap(&c.Parts[i].Option)
		swap(&c.Parts[i].Without)
	}
	for i := range c.Lines {
		swap(&c.Lines[i].Option)
		swap(&c.Lines[i].Without)
	}
	for i := range c.Options {
		list := slices.Clone(c.Options[i].Excludes)
		for k := range list {
			swap(&list[k])
		}
		c.Options[i].Excludes = slices.DeleteFunc(list, func(s string) bool { return s == "" })
	}
}

// Assign says which parts and lines an option adds, and which it takes away; all others
// have nothing to do with it.
func Assign(m *plumbing.Model, id string, adds, without []string) (*Done, error) {
	o := m.Option(id)
	if o == nil {
		return nil, fault("", "there is no option %q any more", id)
	}
	c := clone(m)
	changed := false
	set := func(of string, option, left *string) {
		for _, x := range []struct {
			field *string
			has   bool
		}{{option, slices.Contains(adds, of)}, {left, slices.Contains(without, of)}} {
			switch {
			case x.has && *x.field != id:
				*x.field, changed = id, true
			case !x.has && *x.field == id:
				*x.field, changed = "", true
			}
		}
	}
	for i := range c.Parts {
		set(c.Parts[i].ID, &c.Parts[i].Option, &c.Parts[i].Without)
	}
	for i := range c.Lines {
		set(c.Lines[i].ID, &c.Lines[i].Option, &c.Lines[i].Without)
	}
	if !changed {
		return &Done{Model: m}, nil
	}
	after, err := Check(c)
	if err != nil {
		return nil, err
	}
	return &Done{after, fact.Of("edit.option.assigned", fact.Name(o.Name), len(adds), len(without))}, nil
}
