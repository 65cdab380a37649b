package diagnose

import (
	"context"
	"slices"

	"coldtap/internal/core/fault"
)

// Study is what every look shows with every fault of a case.
type Study struct {
	Case
	Looks   []Look
	Usual   []*Seen // by look, with nothing wrong
	Faults  []fault.Fault
	Seen    [][]*Seen // by fault and look
	Classes [][]int   // of Faults that no harmless look tells apart, without those of Silent
	Silent  []int     // of Faults: those that show in no look but at the part itself
}

// New studies a case. The error is the context's.
func New(ctx context.Context, c Case) (*Study, error) {
	s := &Study{Case: c, Looks: Looks(c.Net, c.Mode)}
	for i := range s.Looks {
		l := &s.Looks[i]
		seen, err := c.Look(ctx, nil, l, 0)
		if err != nil {
			return nil, err
		}
		s.Usual = append(s.Usual, seen)
	}
	usual := make([]float64, len(s.Looks))
	for i := range s.Looks {
		for k := range s.Usual[i].Signs {
			if x := &s.Usual[i].Signs[k]; x.Kind == Stream && x.Word != "nothing" {
				usual[i], x.Value, x.Word = x.Value, 1, word(x.Word)
			}
		}
	}
	for _, f := range fault.Faults(c.Net, c.Mode) {
		var row []*Seen
		for i := range s.Looks {
			seen, err := c.Look(ctx, &f, &s.Looks[i], usual[i])
			if err != nil {
				return nil, err
			}
			row = append(row, seen)
		}
		s.Faults = append(s.Faults, f)
		s.Seen = append(s.Seen, row)
	}
	s.classes()
	return s, nil
}

// word is what a stream is called where it is the usual one.
func word(w string) string {
	if w == "spits" {
		return w
	}
	return "usual"
}

// Harmless reports whether a look hurts nobody with any of the faults there.
func (s *Study) Harmless(look int) bool {
	if len(s.Usual[look].Dangers) > 0 {
		return false
	}
	for i := range s.Seen {
		if len(s.Seen[i][look].Dangers) > 0 {
			return false
		}
	}
	return true
}

// classes puts faults together that no harmless look tells apart, not even in
// steps: what is told from neither of two others does not tell them apart.
func (s *Study) classes() {
	var harmless []int
	for i := range s.Looks {
		if s.Harmless(i) {
			harmless = append(harmless, i)
		}
	}
	apart := func(a, b []*Seen) bool {
		return slices.ContainsFunc(harmless, func(l int) bool { return a[l].Apart(b[l]) })
	}
	shows := func(f int) bool {
		return slices.ContainsFunc(harmless, func(l int) bool {
			k := s.Looks[l].Kind
			return (k == Open || k == Wait) && s.Seen[f][l].Apart(s.Usual[l])
		})
	}
	for f := range s.Faults {
		if !shows(f) {
			s.Silent = append(s.Silent, f)
			continue
		}
		class := -1
		for c := 0; c < len(s.Classes); c++ {
			if !slices.ContainsFunc(s.Classes[c], func(o int) bool { return !apart(s.Seen[f], s.Seen[o]) }) {
				continue
			}
			if class < 0 {
				class = c
				continue
			}
			s.Classes[class] = append(s.Classes[class], s.Classes[c]...) // f joins both
			s.Classes = slices.Delete(s.Classes, c, c+1)
			c--
		}
		if class < 0 {
			class = len(s.Classes)
			s.Classes = append(s.Classes, nil)
		}
		s.Classes[class] = append(s.Classes[class], f)
	}
	for i := range s.Classes {
		slices.Sort(s.Classes[i])
	}
}

// Complaints are the looks in which a class differs from the usual, that an
// owner makes without looking for anything.
func (s *Study) Complaints(class int) (looks []int) {
	for l := range s.Looks {
		if k := s.Looks[l].Kind; k != Open && k != Wait || !s.Harmless(l) {
			continue
		}
		all := true
		for _, f := range s.Classes[class] {
			all = all && s.Seen[f][l].Apart(s.Usual[l])
		}
		if all {
			looks = append(looks, l)
		}
	}
	return looks
}

// Alike lists the classes that a look shows the same of as of one, as far as a
// person can tell.
func (s *Study) Alike(class, look int) (list []int) {
	for c := range s.Classes {
		same := false
		for _, a := range s.Classes[class] {
			for _, b := range s.Classes[c] {
				same = same || !s.Seen[a][look].Apart(s.Seen[b][look])
			}
		}
		if same {
			list = append(list, c)
		}
	}
	return list
}
