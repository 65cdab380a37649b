package chapter

import (
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/instruction"
	"coldtap/internal/core/state"
)

// Short is one or several steps of a procedure, as a card has them: outlets that are run in the same way one after
// the other are one.
type Short struct {
	First, Last int               // steps, from 1
	Step        *instruction.Step // the first of them
	Outlets     []fact.Fact       // where it is more than one: each with its side
}

// Shorts gathers the steps of a procedure.
func Shorts(in *instruction.Instruction) (list []Short) {
	for i := range in.Steps {
		s := &in.Steps[i]
		if n := len(list); n > 0 && alikeSteps(list[n-1].Step, s) {
			x := &list[n-1]
			if x.Outlets == nil {
				x.Outlets = []fact.Fact{outletOf(x.Step)}
			}
			x.Last, x.Outlets = i+1, append(x.Outlets, outletOf(s))
			continue
		}
		list = append(list, Short{First: i + 1, Last: i + 1, Step: s})
	}
	return list
}

// alikeSteps reports whether two steps are the same at different outlets, with nothing else in either.
func alikeSteps(a, b *instruction.Step) bool {
	plain := func(s *instruction.Step) bool {
		return len(s.Main) == 1 && len(s.Cautions) == 0 && len(s.Pour) == 0 &&
			!slices.ContainsFunc(s.Acts, func(x state.Act) bool { return x.Verb != state.Catch })
	}
	return a.Head.ID == b.Head.ID && a.Until.ID == b.Until.ID && a.Who.ID == b.Who.ID && plain(b) &&
		len(a.Main) == 1 && len(a.Acts) == len(b.Acts) && len(a.Then) == len(b.Then) && plain(a)
}

// outletOf is the outlet of a step with its side.
func outletOf(s *instruction.Step) fact.Fact {
	if len(s.Head.Args) > 1 {
		if side, ok := s.Head.Args[1].(fact.Fact); ok {
			return fact.Of("short.outlet", s.Main, side)
		}
	}
	return fact.Of("short.outlet", s.Main, fact.Fact{})
}
