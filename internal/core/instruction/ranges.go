package instruction

import (
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
)

// Ranges are what a procedure breaks in some corners and not otherwise, each with the corners in which it does.
func Ranges(list []proof.Ranged) (told []fact.Fact) {
	type broken struct {
		proof.Breach
		in []fact.Fact
	}
	var all []broken
	for _, r := range list {
		if r.Said.ID == proof.OtherOrder && len(r.Breaches) > 0 { // it is the order that matters, whatever it breaks
			said := fact.Of("range.order", r.Breaches[0].Said)
			if more := len(r.Breaches) - 1; more > 0 {
				said = fact.Of("range.order-more", more, r.Breaches[0].Said)
			}
			told = append(told, said)
			continue
		}
		for _, b := range r.Breaches {
			i := slices.IndexFunc(all, func(o broken) bool { return o.Rule == b.Rule && o.Part == b.Part })
			if i < 0 {
				i, all = len(all), append(all, broken{Breach: b})
			}
			all[i].in = append(all[i].in, r.Said)
		}
	}
	for _, b := range all {
		told = append(told, fact.Of("range.breaks", b.Said, b.in))
	}
	return told
}

// who is where each of two stands in a step that two are better for: at the container and at the outlet, or at the
// low point and at what pushes.
func (w *writer) who(i int) fact.Fact {
	s, o := &w.proc.Steps[i], w.proof.Outcomes[i]
	if !w.proc.Limit.Helper || len(s.Until.At) == 0 {
		return fact.Fact{}
	}
	at := w.n.Nodes[s.Until.At[0]].Part
	for _, from := range slices.Sorted(drawn(o)) {
		k := w.joined(i, from).Kind
		if port := w.n.Nodes[from].Part; (k == state.Container || k == state.HandPump) && port != at {
			return fact.Of("who.container", port, at)
		}
	}
	if at.Role() == plumbing.RoleDrain && run.Sources(w.proof.Systems[i].State) {
		return fact.Of("who.low-point", at)
	}
	return fact.Fact{}
}

// drawn are the nodes that something came in at.
func drawn(o *run.Outcome) func(func(plumbing.NodeID) bool) {
	return func(yield func(plumbing.NodeID) bool) {
		for at, v := range inOrder(o.Drew) {
			if v > 0 && !yield(at) {
				return
			}
		}
	}
}
