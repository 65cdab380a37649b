package instruction

import (
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
)

// whole is what a procedure comes to: what it takes beside its worksheet, what runs where, how long pumps run.
func (w *writer) whole() {
	add := func(holds bool, f fact.Fact) {
		if holds {
			w.Whole = append(w.Whole, f)
		}
	}
	used := w.drew(frosty)
	add(used > 0 && w.proc.Goal.Sheet > 0, fact.Of("whole.antifreeze", used, w.proc.Goal.Sheet))
	machines := w.byMachines()
	add(used > 0 && machines > 0, fact.Of("whole.machines", machines))
	if bound := w.proc.Goal.FlushBound; bound > 0 {
		id := "whole.flush"
		if w.flushed() > bound {
			id = "whole.flush-more"
		}
		add(true, fact.Of(id, w.flushed(), bound))
	}
	start, end := w.proof.Systems[0].Account(), w.proof.Systems[len(w.proof.Systems)-1].Account()
	for _, t := range w.n.PartsOf(plumbing.RoleWaste) {
		var sum quantity.Litre
		for sink, s := range sinks(end.Out) {
			if sink.Tank == t.ID {
				sum += s.Liquid - start.Out[sink].Liquid
			}
		}
		add(sum > 0.05, fact.Of("whole.waste", t, sum))
	}
	for _, p := range w.n.Pumps {
		var runs quantity.Second
		rests := 0
		for _, o := range w.proof.Outcomes {
			runs += o.Pumps[p.ID]
			rests += o.Rests
		}
		add(runs > 1 && rests == 0, fact.Of("whole.pump", p, rounded(runs)))
		add(runs > 1 && rests > 0, fact.Of("whole.pump-rests", rests, p, rounded(runs)))
	}
	add(true, fact.Of("whole.time", span(w.Elapsed), span(w.Attended)))
}

// drew is how much of a fluid came by ports.
func (w *writer) drew(is func(run.Mix) bool) (sum quantity.Litre) {
	for i, o := range w.proof.Outcomes {
		for at, v := range inOrder(o.Drew) {
			if is(w.proc.Start.Fluids[w.joined(i, at).Fluid]) {
				sum += v
			}
		}
	}
	return sum
}

// byMachines is how much ran through machines by their own cycles.
func (w *writer) byMachines() (sum quantity.Litre) {
	for i, o := range w.proof.Outcomes {
		if m := machine(&w.proc.Steps[i]); m != nil {
			for at, v := range inOrder(o.Ran) {
				if w.n.Nodes[at].Part == m {
					sum += v
				}
			}
		}
	}
	return sum
}

// flushed is the water that came by hoses or was poured after the soak.
func (w *writer) flushed() (sum quantity.Litre) {
	for i, o := range slices.Backward(w.proof.Outcomes) {
		if o.Waited >= w.proc.Goal.Soak-1 && w.proc.Goal.Soak > 0 {
			break
		}
		for at, v := range inOrder(o.Drew) {
			if w.joined(i, at).Kind == state.Supply {
				sum += v
			}
		}
		for _, p := range w.proc.Steps[i].Pour {
			sum += p.Litre
		}
	}
	return sum
}
