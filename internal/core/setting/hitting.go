package setting

import (
	"context"
	"errors"
	"math/bits"
	"slices"

	"coldtap/internal/core/plumbing"
)

// literal says that a handle stands in one of some positions.
type literal struct {
	handle plumbing.HandleID
	in     plumbing.Positions
}

// reason is learned from a setting that failed: whatever the other handles do,
// one of its literals must hold. links are those of the forbidden way that it
// was learned from, nil where it was a way that is missing.
type reason struct {
	literals []literal
	clause   int // of the goal
	links    []plumbing.LinkID
}

// ErrGivenUp says that a search was ended by its limit.
var ErrGivenUp = errors.New("the search was given up: too many handles play together")

// mostNodes is the most steps that one search takes before it is given up.
const mostNodes = 400_000

// hitting finds positions that satisfy all reasons with the fewest handles
// away from base, and of those the ones that leave the earlier handles alone:
// a hitting set, by branch and bound over the literals of a reason that does
// not hold yet.
type hitting struct {
	ctx     context.Context
	domain  []plumbing.Positions // each handle may take
	base    []plumbing.Position
	reasons []reason
	nodes   *int // steps left
	err     error

	any   bool // whatever it costs: the first answer will do
	bound int  // only cheaper ones are looked for
	best  []plumbing.Positions
	used  []bool // of lower, kept from one call to the next
}

// solve gives the domains narrowed to the answer, or false if there is none.
func (h *hitting) solve() ([]plumbing.Positions, bool, error) {
	h.used = make([]bool, len(h.domain))
	h.bound = len(h.domain) + 1
	h.branch(slices.Clone(h.domain))
	if h.err != nil || h.best == nil || h.any {
		return nil, h.best != nil, h.err
	}
	cost := h.bound
	// The cost is known; now the first in the order of handles that has it.
	fixed := slices.Clone(h.domain)
	for i := range fixed {
		if bits.OnesCount32(uint32(fixed[i])) < 2 || !h.mentioned(plumbing.HandleID(i)) {
			continue
		}
		for _, pos := range order(h.base[i], fixed[i]) {
			was := fixed[i]
			fixed[i] = pos.Only()
			h.bound, h.best = cost+1, nil
			h.branch(slices.Clone(fixed))
			if h.err != nil {
				return nil, false, h.err
			}
			if h.best != nil {
				break
			}
			fixed[i] = was
		}
	}
	return h.settled(fixed), true, nil
}

// order is the order in which a handle's positions are tried: as it stands
// first.
func order(base plumbing.Position, left plumbing.Positions) []plumbing.Position {
	var list []plumbing.Position
	if left.Has(base) {
		list = append(list, base)
	}
	for p := range plumbing.Position(32) {
		if p != base && left.Has(p) {
			list = append(list, p)
		}
	}
	return list
}

func (h *hitting) mentioned(handle plumbing.HandleID) bool {
	return slices.ContainsFunc(h.reasons, func(r reason) bool {
		return slices.ContainsFunc(r.literals, func(l literal) bool { return l.handle == handle })
	})
}

// settled puts each handle where it stands in base if it may, else in the
// first position it may take.
func (h *hitting) settled(domain []plumbing.Positions) []plumbing.Positions {
	out := make([]plumbing.Positions, len(domain))
	for i, d := range domain {
		out[i] = d & h.base[i].Only()
		if out[i] == 0 {
			out[i] = d & -d
		}
	}
	return out
}

// branch looks for an answer within some domains that is cheaper than bound.
func (h *hitting) branch(domain []plumbing.Positions) {
	if h.err != nil || h.any && h.best != nil {
		return
	}
	if *h.nodes--; *h.nodes < 0 {
		h.err = ErrGivenUp
		return
	}
	if *h.nodes%256 == 0 && h.ctx.Err() != nil {
		h.err = h.ctx.Err()
		return
	}
	if !h.propagate(domain) || h.lower(domain) >= h.bound {
		return
	}
	at := h.settled(domain)
	open := -1
	for i := range h.reasons {
		if !holds(&h.reasons[i], at) && (open < 0 || len(h.reasons[i].literals) < len(h.reasons[open].literals)) {
			open = i
		}
	}
	if open < 0 {
		h.bound, h.best = h.cost(domain), at
		return
	}
	// Each literal in turn, with those before it ruled out.
	left := slices.Clone(domain)
	for _, l := range h.reasons[open].literals {
		if in := left[l.handle] & l.in; in != 0 {
			next := slices.Clone(left)
			next[l.handle] = in
			h.branch(next)
		}
		if left[l.handle] &^= l.in; left[l.handle] == 0 {
			return
		}
	}
}

// propagate narrows domains by reasons of which one literal is left. It
// reports false where a reason can't hold.
func (h *hitting) propagate(domain []plumbing.Positions) bool {
	for again := true; again; {
		again = false
		for i := range h.reasons {
			var only *literal
			count, held := 0, false
			for k := range h.reasons[i].literals {
				l := &h.reasons[i].literals[k]
				if domain[l.handle]&l.in == 0 {
					continue
				}
				count, only = count+1, l
				held = held || domain[l.handle]&^l.in == 0
			}
			if count == 0 {
				return false
			}
			if count == 1 && !held {
				domain[only.handle] &= only.in
				again = true
			}
		}
	}
	return true
}

func holds(r *reason, at []plumbing.Positions) bool {
	return slices.ContainsFunc(r.literals, func(l literal) bool { return at[l.handle]&l.in != 0 })
}

// cost counts the handles that can't stand as in base.
func (h *hitting) cost(domain []plumbing.Positions) (cost int) {
	for i, d := range domain {
		if !d.Has(h.base[i]) {
			cost++
		}
	}
	return cost
}

// lower is a lower bound of the cost: what is decided, and one for each of
// some reasons that share no handle and none of which holds for nothing.
func (h *hitting) lower(domain []plumbing.Positions) int {
	cost := h.cost(domain)
	clear(h.used)
	for i := range h.reasons {
		r := &h.reasons[i]
		free := slices.ContainsFunc(r.literals, func(l literal) bool {
			in := domain[l.handle] & l.in
			away := !domain[l.handle].Has(h.base[l.handle])
			return in != 0 && (h.used[l.handle] || away || in.Has(h.base[l.handle]))
		})
		if free {
			continue
		}
		for _, l := range r.literals {
			if domain[l.handle]&l.in != 0 {
				h.used[l.handle] = true
			}
		}
		cost++
	}
	return cost
}
