// Package planner lays a procedure out on the clock, for one or several units
// and one or several people: who is busy when, and when all is ready.
package planner

import (
	"slices"
	"time"

	"coldtap/internal/core/instruction"
	"coldtap/internal/core/quantity"
)

// Block is a run of steps that somebody is busy with, or one in which nobody has to be there.
type Block struct {
	First, Last int // steps, from 1
	Takes       quantity.Second
	Busy        bool
}

// Blocks are the blocks of a procedure in their order.
func Blocks(in *instruction.Instruction) (list []Block) {
	add := func(step int, takes quantity.Second, busy bool) {
		if takes <= 0 {
			return
		}
		if last := len(list) - 1; last >= 0 && list[last].Busy == busy {
			list[last].Last = step
			list[last].Takes += takes
			return
		}
		list = append(list, Block{step, step, takes, busy})
	}
	for i, s := range in.Steps {
		add(i+1, s.Attended, true)
		add(i+1, s.Took-s.Attended, false)
	}
	return list
}

// Slot is a block on the clock, at one unit.
type Slot struct {
	Block
	Unit   int // from 1
	Person int // from 1; 0 where nobody has to be there
	From   quantity.Second
	To     quantity.Second // since the first begins
}

// Lay lays blocks out for some units and people: whoever is free begins what is ready first, the unit
// of the lower number where two are. Nobody is busy with two at a time.
func Lay(blocks []Block, units, people int) (list []Slot) {
	next, ready := make([]int, units), make([]quantity.Second, units)
	free := make([]quantity.Second, max(1, people))
	for {
		unit, begins := -1, quantity.Second(0)
		person := slices.Index(free, slices.Min(free))
		for u := range units {
			if next[u] == len(blocks) {
				continue
			}
			at := ready[u]
			if blocks[next[u]].Busy {
				at = max(at, free[person])
			}
			if unit < 0 || at < begins {
				unit, begins = u, at
			}
		}
		if unit < 0 {
			break
		}
		b := blocks[next[unit]]
		s := Slot{Block: b, Unit: unit + 1, From: begins, To: begins + b.Takes}
		if b.Busy {
			s.Person = person + 1
			free[person] = s.To
		}
		ready[unit] = s.To
		next[unit]++
		list = append(list, s)
	}
	slices.SortStableFunc(list, func(a, b Slot) int {
		switch {
		case a.From < b.From:
			return -1
		case a.From > b.From:
			return 1
		}
		return a.Unit - b.Unit
	})
	return list
}

// Whole is how long all slots take together.
func Whole(list []Slot) (t quantity.Second) {
	for _, s := range list {
		t = max(t, s.To)
	}
	return t
}

// Begin is when the first slot begins so that all is ready at a time.
func Begin(list []Slot, ready time.Time) time.Time {
	return ready.Add(-time.Duration(float64(Whole(list)) * float64(time.Second)))
}
