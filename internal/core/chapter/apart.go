package chapter

import (
	"context"

	"coldtap/internal/core/diagnose"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/setting"
)

// Apart says in how few looks what can be wrong is told apart, and by which.
type Apart struct{ Modes []ApartIn }

// ApartIn is that of one way of use.
type ApartIn struct {
	Said fact.Fact
	Rows []ApartRow
}

// ApartRow is one thing that can be wrong, with what shows it.
type ApartRow struct {
	Looks  []fact.Fact // with what is seen, in order
	Faults []fact.Fact // that no look tells apart
}

func (a Apart) empty() bool { return len(a.Modes) == 0 }

// apart looks at everyday use and at city water: what a dealer is called for.
func apart(ctx context.Context, in draft.Inputs) (list Apart, err error) {
	limit := draft.NewMaker(in).Limits()
	for _, id := range []string{setting.Everyday, setting.City} {
		a := setting.ForMode(in.Plan, id)
		if a == nil || !a.OK {
			continue
		}
		s, err := diagnose.New(ctx, diagnose.Case{Net: in.Net, Mode: a, Limit: limit})
		if err != nil {
			return list, err
		}
		if len(s.Classes) < 2 {
			continue
		}
		splits := s.Splits()
		var all []int
		for c := range s.Classes {
			all = append(all, c)
		}
		p := splits.Fewest(all)
		of := ApartIn{Said: fact.Of("apart.exact", p.Most, a.Mode.Name, len(all))}
		if !p.Exact() {
			of.Said = fact.Of("apart.between", p.Most, a.Mode.Name, len(all), p.Least)
		}
		for c := range s.Classes {
			of.Rows = append(of.Rows, apartRow(s, splits, p, c))
		}
		list.Modes = append(list.Modes, of)
	}
	return list, nil
}

// apartRow follows a plan to a class.
func apartRow(s *diagnose.Study, splits *diagnose.Splits, p *diagnose.Plan, class int) (row ApartRow) {
	for _, f := range s.Classes[class] {
		row.Faults = append(row.Faults, s.Faults[f].Said)
	}
	for at := p.Root; at.Look >= 0; at = at.Next[splits.Groups[at.Look][class]] {
		seen := s.Seen[s.Classes[class][0]][at.Look]
		var said []any
		for i := range seen.Signs {
			said = append(said, seen.Signs[i].Said())
		}
		row.Looks = append(row.Looks, fact.Of("apart.look", s.Looks[at.Look].Said(s.Net), said))
	}
	return row
}
