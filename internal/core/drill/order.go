package drill

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"coldtap/internal/core/amend"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/proof"
)

// window is some steps of a procedure that follow one another.
type window struct {
	task *Task
	at   int
}

// orders asks for the order of four steps that follow one another, and of three
// where there are not enough of these. Every order of them is carried out.
func (k *maker) orders() error {
	for _, size := range []int{4, 3} {
		var list []window
		for _, t := range k.proven() {
			for at := 0; at+size <= len(t.Done.Steps); at++ {
				if !slices.ContainsFunc(t.Done.Steps[at:at+size], func(s proof.Step) bool { return !does(&s.Step) }) {
					list = append(list, window{t, at})
				}
			}
		}
		for _, w := range cheap(some("order "+k.Net.Model.ID, list, 2*Most)) {
			if k.set.Count(Order) >= Enough {
				return nil
			}
			if err := k.orderOf(w, size); err != nil {
				return err
			}
		}
	}
	return nil
}

// Enough is how many exercises of a kind are asked for at least, where each takes
// many runs to prove.
const Enough = 24

// ofOne is how many windows of one procedure come before those of others.
const ofOne = 4

// cheap puts first what takes few steps to its end, some of each procedure: every
// order is carried out to there.
func cheap(list []window) []window {
	slices.SortStableFunc(list, func(a, b window) int {
		return len(a.task.Done.Steps) - a.at - len(b.task.Done.Steps) + b.at
	})
	count := map[*Task]int{}
	var first, later []window
	for _, w := range list {
		if count[w.task]++; count[w.task] <= ofOne {
			first = append(first, w)
		} else {
			later = append(later, w)
		}
	}
	return append(first, later...)
}

// soon is after how many orders that are all right a window is given up.
const soon = 8

// orderOf asks for the order of the steps of a window. Heads that read alike are
// not asked: nobody could tell which is which.
func (k *maker) orderOf(w window, size int) error {
	t := w.task
	x := Exercise{Key: t.ID + "/", Ask: fact.Of("drill.ask.order", t.Read.Name), Task: t.ID, Hard: 2,
		Reasons: map[string]Reason{}, Inputs: taskReads(t)}
	keys := amend.Keys(t.Done.Steps)
	x.Key += strings.Join(keys[w.at:w.at+size], ",")
	if w.at > 0 {
		x.Told = []fact.Fact{fact.Of("drill.after", t.Read.Steps[w.at-1].Head)}
	}
	alike := map[string]bool{}
	shown := chance(x.Key).Perm(size) // the steps as they are shown, by their place in the procedure
	x.Options = make([]Option, size)
	for i := range size {
		at := w.at + shown[i]
		head := t.Read.Steps[at].Head
		if alike[head.Key()] {
			k.refuse(LooksAlike)
			return nil
		}
		alike[head.Key()] = true
		x.Options[i] = Option{ID: strconv.Itoa(i), Said: head, Parts: partsOf(t, at)}
	}
	x.Orders = map[string]string{}
	outcomes := map[string]string{} // key of what it breaks to outcome
	right := 0
	all := permutations(size)
	for tried, order := range all {
		if tried == soon && right == soon {
			break // it goes on like this: most windows can be done in any order
		}
		steps := slices.Clone(t.Done.Steps)
		key := ""
		for i, o := range order {
			steps[w.at+i] = t.Done.Steps[w.at+shown[o]]
			key += strconv.Itoa(o)
		}
		pr, err := rerun(k.ctx, k.Net, t, w.at, steps, w.at+size)
		if err != nil {
			return err
		}
		broken := t.fresh(pr)
		if len(broken) == 0 {
			x.Orders[key] = ""
			right++
			continue
		}
		what := ""
		for _, b := range broken {
			what += b.Rule + " " + b.Part + "\n"
		}
		if outcomes[what] == "" {
			outcomes[what] = fmt.Sprint("breaks-", len(outcomes)+1)
			r := reasonOf(broken)
			x.Reasons[outcomes[what]] = r
			x.About = append(x.About, r.Parts...)
		}
		x.Orders[key] = outcomes[what]
	}
	if right == len(x.Orders) {
		k.refuse(AnyOrder)
		return nil
	}
	switch { // the fewer orders are right, the harder
	case size == 4 && right <= 2:
		x.Hard = 4
	case right <= 6:
		x.Hard = 3
	}
	x.Hints = []fact.Fact{fact.Of("drill.hint.first", t.Read.Steps[w.at].Head)}
	k.add(x)
	return nil
}

// permutations are all orders of n things.
func permutations(n int) (list [][]int) {
	if n == 0 {
		return [][]int{nil}
	}
	for _, p := range permutations(n - 1) {
		for at := range n {
			list = append(list, slices.Insert(slices.Clone(p), at, n-1))
		}
	}
	return list
}
