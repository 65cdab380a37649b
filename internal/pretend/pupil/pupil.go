// Package pupil answers questions like somebody who knows some of it: for demo
// data, loads and tests.
package pupil

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"

	"coldtap/internal/core/drill"
	"coldtap/internal/core/paper"
)

// Answer is a right answer to a question, or a wrong one. Looks are made by
// themselves: see Looks.
func Answer(rng *rand.Rand, x *paper.Paper, right bool) drill.Answer {
	switch {
	case x.Kind == drill.Valves:
		a := drill.Answer{Handles: x.Found, Pumps: x.Pumps}
		if !right {
			a.Handles = x.Start
		}
		return a
	case x.Kind == drill.Order:
		return drill.Answer{Order: order(rng, x, right)}
	case x.Kind == drill.Amount:
		return drill.Answer{Text: amount(x, right)}
	case x.Photo != "":
		at := x.Marks[x.Right[0]]
		if !right {
			at = [2]float64{math.Mod(at[0]+0.5, 1), math.Mod(at[1]+0.5, 1)}
		}
		return drill.Answer{At: &at}
	}
	var picks []string
	for _, o := range x.Options {
		if slices.Contains(x.Right, o.ID) == right {
			picks = append(picks, o.ID)
		}
	}
	return drill.Answer{Pick: picks[rng.IntN(len(picks))]}
}

// order is an order of steps that is right, or one that is not.
func order(rng *rand.Rand, x *paper.Paper, right bool) []int {
	var keys []string
	for key, outcome := range x.Orders {
		if (outcome == "") == right {
			keys = append(keys, key)
		}
	}
	slices.Sort(keys)
	var list []int
	for _, c := range keys[rng.IntN(len(keys))] {
		list = append(list, int(c-'0'))
	}
	return list
}

// amount is an amount within the right band, or half of it.
func amount(x *paper.Paper, right bool) string {
	low := 0.0
	for _, b := range x.Bands {
		if b.Outcome == "" {
			v := (low + b.Below) / 2
			if !right {
				v = low / 2
			}
			return fmt.Sprintf("%.0f mL", 1000*v)
		}
		low = b.Below
	}
	return "0 mL"
}

// Looks are some harmless looks of a question about a fault.
func Looks(rng *rand.Rand, x *paper.Paper, most int) (list []string) {
	for _, i := range rng.Perm(len(x.Looks)) {
		if l := x.Looks[i]; !l.Danger && !l.Free && len(list) < most {
			list = append(list, l.ID)
		}
	}
	return list
}
