package said

import (
	"slices"
)

// Difference is a line that says something else in another state of a guide.
type Difference struct {
	Block string    `json:"block"`
	Title [2]string `json:"title"`           // of the block
	Was   *Line     `json:"was,omitempty"`   // nil for what is new
	Now   *Line     `json:"now,omitempty"`   // nil for what is gone
	Moved bool      `json:"moved,omitempty"` // it says the same at another place
}

// Line is the line as it is, or as it was where it is gone.
func (d *Difference) Line() *Line {
	if d.Now != nil {
		return d.Now
	}
	return d.Was
}

// Blocks tells what differs between the blocks of two states of a guide, those of some ids; nil for all.
func Blocks(was, now []Block, of func(id string) bool) (list []Difference) {
	seen := map[string]bool{}
	find := func(list []Block, id string) *Block {
		for i := range list {
			if list[i].ID == id {
				return &list[i]
			}
		}
		return &Block{ID: id}
	}
	for _, all := range [][]Block{was, now} {
		for _, b := range all {
			if seen[b.ID] || of != nil && !of(b.ID) {
				continue
			}
			seen[b.ID] = true
			a, b := find(was, b.ID), find(now, b.ID)
			title := b.Title
			if title == [2]string{} {
				title = a.Title
			}
			for _, d := range Lines(a.Lines, b.Lines) {
				d.Block, d.Title = a.ID, title
				list = append(list, d)
			}
		}
	}
	return list
}

// Lines tells what differs between two lists of lines, in their order: as few lines as can be.
func Lines(was, now []Line) (list []Difference) {
	for len(was) > 0 && len(now) > 0 && was[0].same(&now[0]) {
		was, now = was[1:], now[1:]
	}
	for len(was) > 0 && len(now) > 0 && was[len(was)-1].same(&now[len(now)-1]) {
		was, now = was[:len(was)-1], now[:len(now)-1]
	}
	kept := longest(was, now)
	i, k := 0, 0
	for _, pair := range append(kept, [2]int{len(was), len(now)}) {
		list = append(list, gap(was[i:pair[0]], now[k:pair[1]])...)
		i, k = pair[0]+1, pair[1]+1
	}
	return moved(list)
}

// longest is the longest list of pairs of lines that are the same, in order.
func longest(a, b []Line) (pairs [][2]int) {
	most := make([][]int32, len(a)+1)
	for i := range most {
		most[i] = make([]int32, len(b)+1)
	}
	for i := len(a) - 1; i >= 0; i-- {
		for k := len(b) - 1; k >= 0; k-- {
			if a[i].same(&b[k]) {
				most[i][k] = most[i+1][k+1] + 1
			} else {
				most[i][k] = max(most[i+1][k], most[i][k+1])
			}
		}
	}
	for i, k := 0, 0; i < len(a) && k < len(b); {
		switch {
		case a[i].same(&b[k]):
			pairs = append(pairs, [2]int{i, k})
			i, k = i+1, k+1
		case most[i+1][k] >= most[i][k+1]:
			i++
		default:
			k++
		}
	}
	return pairs
}

// gap pairs lines of a stretch in which nothing is the same: those that are known by the same key, then those that
// are said of the same, then those of a kind in their order.
func gap(was, now []Line) (list []Difference) {
	taken := make([]bool, len(was))
	pair := make([]int, len(now))
	for k := range pair {
		pair[k] = -1
	}
	for _, alike := range []func(a, b *Line) bool{
		func(a, b *Line) bool { return a.Key != "" && a.Key == b.Key && a.Of == b.Of },
		func(a, b *Line) bool { return a.Key != "" && a.Key == b.Key },
		func(a, b *Line) bool { return a.Key == "" && b.Key == "" && a.Kind == b.Kind && a.Of == b.Of },
		func(a, b *Line) bool { return a.Key == "" && b.Key == "" && a.Kind == b.Kind },
	} {
		for k := range now {
			for i := range was {
				if pair[k] < 0 && !taken[i] && alike(&was[i], &now[k]) {
					pair[k], taken[i] = i, true
				}
			}
		}
	}
	for i := range was {
		if !taken[i] {
			list = append(list, Difference{Was: &was[i]})
		}
	}
	for k := range now {
		d := Difference{Now: &now[k]}
		if pair[k] >= 0 {
			d.Was = &was[pair[k]]
		}
		list = append(list, d)
	}
	return list
}

// moved joins what is gone at one place and new at another, and says the same.
func moved(list []Difference) []Difference {
	for i := range list {
		if list[i].Was == nil || list[i].Now != nil {
			continue
		}
		k := slices.IndexFunc(list, func(d Difference) bool {
			return d.Was == nil && d.Now != nil && d.Now.same(list[i].Was)
		})
		if k >= 0 {
			list[k].Was, list[k].Moved = list[i].Was, true
			list[i].Was = nil
		}
	}
	return slices.DeleteFunc(list, func(d Difference) bool { return d.Was == nil && d.Now == nil })
}
