package cause

import (
	"math"

	"coldtap/internal/core/amend"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/fault"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// Said is a cause in the catalogue of words: what would have been otherwise,
// and by how much.
func (c Cause) Said(s Subject) fact.Fact {
	n, more := s.Net, math.Abs(c.Size)
	way := fact.Word("cause.more")
	if c.Size < 0 {
		way = fact.Word("cause.less")
	}
	switch c.Kind {
	case Line:
		long := fact.Word("cause.longer")
		if c.Size < 0 {
			long = fact.Word("cause.shorter")
		}
		return fact.Of("cause.line", NameOfLine(n, c.Of), quantity.Millimetre(more), long)
	case Overrun:
		return fact.Of("cause.overrun", quantity.Litre(more), way)
	case Helper:
		if s.Proc.Limit.Helper {
			return fact.Of("cause.alone")
		}
		return fact.Of("cause.helped")
	case Drained:
		return fact.Of("cause.drained", n.Model.Part(c.Of))
	case Heel:
		return fact.Of("cause.heel", n.Model.Part(c.Of), quantity.Litre(more), way)
	case Supply:
		return fact.Of("cause.supply", quantity.Percent(100*more), way)
	case Strength:
		strong := fact.Word("cause.stronger")
		if c.Size < 0 {
			strong = fact.Word("cause.weaker")
		}
		return fact.Of("cause.strength", quantity.Percent(100*more), strong)
	case Left:
		return fact.Of("cause.left", s.turned(c.Of))
	case Check:
		for _, f := range fault.OfNetwork(n) {
			if f.ID() == c.Of {
				return fact.Of("cause.check-leaks", f.Part, quantity.LitrePerMinute(c.Size))
			}
		}
	}
	return fact.Fact{}
}

// NameOfLine is a line by where it leads from and to.
func NameOfLine(n *plumbing.Network, id string) fact.Fact {
	for i := range n.Links {
		if l := &n.Links[i]; l.Line != nil && l.Line.ID == id {
			return fact.Of("line.between", n.Nodes[l.A].Part, n.Nodes[l.B].Part)
		}
	}
	return fact.Of("it", id)
}

// turned are the handles of a step that were left as they stood.
func (s Subject) turned(of string) (list []*plumbing.Part) {
	for i, key := range amend.Keys(s.Proc.Steps) {
		for _, a := range s.Proc.Steps[i].Acts {
			if a.Part != nil && a.To != "" && (of == key || of == key+" "+a.Part.ID) {
				list = append(list, a.Part)
			}
		}
	}
	return list
}

// Said is how a class of causes would be told apart, in the catalogue of words.
func (l Look) Said() fact.Fact { return fact.Of("look." + string(l)) }

// Said is what the measurements come to.
func (v Verdict) Said() fact.Fact { return fact.Of("verdict." + string(v)) }
