package chapter

import (
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
)

// Written is a text of a hand's own.
type Written struct{ plumbing.Prose }

func (w Written) empty() bool { return w.Prose == plumbing.Prose{} }

// Apply is a draft as hands left it: what they wrote stands in it, in their order. Blocks that came since stand behind
// the one that they follow as they are drafted.
func Apply(list []Block, by *plumbing.Written) []Block {
	if by == nil {
		return list
	}
	at := map[string]Block{}
	for _, b := range list {
		at[b.ID] = b
	}
	for id, p := range by.Prose {
		at[id] = Block{ID: id, Title: fact.Of("block.written", p.Title), Body: Written{p}}
	}
	var order []string
	for _, id := range by.Order {
		if _, there := at[id]; there && !slices.Contains(order, id) {
			order = append(order, id)
		}
	}
	for i, b := range list {
		if slices.Contains(order, b.ID) {
			continue
		}
		to := 0
		for k := i - 1; k >= 0 && to == 0; k-- {
			to = slices.Index(order, list[k].ID) + 1
		}
		order = slices.Insert(order, to, b.ID)
	}
	var got []Block
	for _, id := range order {
		b := at[id]
		for edition, hidden := range by.Hidden {
			if slices.Contains(hidden, id) {
				b.Hidden = append(b.Hidden, Edition(edition))
			}
		}
		slices.Sort(b.Hidden)
		b.Only = by.Only[id]
		got = append(got, b)
	}
	return got
}
