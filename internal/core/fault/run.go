package fault

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"math"
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
)

// Shown is a fault that is there while a procedure is carried out: what of it somebody who does each step as it is
// written notices first, and what it leads to.
type Shown struct {
	Fault
	Step     int            // where it is first noticed, from 0; plumbing.None where it is not
	Sign     fact.Fact      // how
	Breaches []proof.Breach // that the procedure has not without it
}

// Worst is how grave the worst is that it leads to.
func (s *Shown) Worst() (worst proof.Severity) {
	for _, b := range s.Breaches {
		worst = max(worst, b.Severity)
	}
	return worst
}

// ID tells a fault from the others of a network.
func (f *Fault) ID() string {
	id := f.Part.ID
	switch {
	case f.Link >= 0:
		return fmt.Sprintf("check.%s.%d", id, f.Link)
	case f.Off != 0:
		return "off." + id
	}
	for _, t := range f.Turns {
		id += fmt.Sprintf(".%d", t.Position)
	}
	return "stands." + id
}

// OfNetwork lists what can be wrong with a network whatever it is used for: each handle that does not leave one of its
// positions, each pump that does not run, each check valve that lets water back.
func OfNetwork(n *plumbing.Network) (list []Fault) {
	for i, h := range n.AllHandles() {
		for pos, name := range h.All() {
			list = append(list, Fault{Part: h.Part, Turns: []Turn{{i, pos}}, Link: plumbing.None,
				Said: handleSaid(n, h, name)})
		}
	}
	for i, p := range n.Pumps {
		list = append(list, Fault{Part: p, Link: plumbing.None, Off: state.Pumps(0).With(plumbing.PumpID(i), true),
			Said: fact.Of("fault.switch-off", p)})
	}
	for i, l := range n.AllLinks() {
		if l.OneWay {
			list = append(list, Fault{Part: l.Part, Link: i, Said: checkSaid(l.Part)})
		}
	}
	return list
}

// Of is a procedure, and the network that it is carried out on, with the fault there whatever hands do.
func (f *Fault) Of(n *plumbing.Network, p *proof.Procedure) (*plumbing.Network, *proof.Procedure) {
	q := *p
	q.Wrong = f.In
	return f.Network(n), &q
}

// InProcedure carries a procedure out with each fault that its network can have, and tells those that somebody
// notices or that lead to something: the gravest first. The error is the context's.
func InProcedure(ctx context.Context, n *plumbing.Network, p *proof.Procedure, right *proof.Proof) ([]Shown, error) {
	var list []Shown
	for _, f := range OfNetwork(n) {
		with, q := f.Of(n, p)
		got, err := proof.Prove(ctx, with, q)
		if err != nil {
			return nil, err
		}
		s := Shown{Fault: f}
		s.Step, s.Sign = firstSign(p, right, got)
		for _, b := range got.Breaches {
			if !slices.ContainsFunc(right.Breaches, func(o proof.Breach) bool { return o.Rule == b.Rule && o.Part == b.Part }) {
				s.Breaches = append(s.Breaches, b)
			}
		}
		if s.Step != plumbing.None || s.Breaches != nil {
			list = append(list, s)
		}
	}
	slices.SortStableFunc(list, func(a, b Shown) int { return cmp.Compare(b.Worst(), a.Worst()) })
	return list, nil
}

// What of a step somebody notices: that it takes this much longer or shorter, in seconds and as a share, or that
// so much more or less runs out.
const (
	noticedTime                  = 10
	noticedShare                 = 0.25
	noticedLitre  quantity.Litre = 0.3
	noticedDry                   = 3
	noticedSpills quantity.Litre = 0.2
)

// firstSign is the first step in which something is otherwise than it should be, and what.
func firstSign(p *proof.Procedure, right, wrong *proof.Proof) (int, fact.Fact) {
	for i, o := range wrong.Outcomes {
		if i >= len(right.Outcomes) {
			break
		}
		if sign := signOf(&p.Steps[i], right.Outcomes[i], o); !sign.IsZero() {
			return i, sign
		}
	}
	return plumbing.None, fact.Fact{}
}

func signOf(s *proof.Step, should, is *run.Outcome) fact.Fact {
	for _, id := range slices.Sorted(maps.Keys(is.Dry)) {
		if is.Dry[id]-should.Dry[id] > noticedDry {
			return fact.Of("sign.races")
		}
	}
	var spilled, ran, runs quantity.Litre
	for _, v := range is.Spilled {
		spilled += v
	}
	for _, v := range should.Spilled {
		spilled -= v
	}
	for _, at := range s.Until.At {
		ran, runs = ran+is.Ran[at], runs+should.Ran[at]
	}
	took, takes := float64(is.Took), float64(should.Took)
	longer := math.Abs(took-takes) > noticedTime && math.Abs(took-takes) > noticedShare*takes
	switch {
	case spilled > noticedSpills:
		return fact.Of("sign.runs-over", spilled)
	case should.Came && !is.Came && ran < noticedLitre:
		return fact.Of("sign.nothing")
	case should.Came && !is.Came:
		return fact.Of("sign.never")
	case ran-runs > noticedLitre && ran > runs*(1+noticedShare):
		return fact.Of("sign.more", ran, runs)
	case runs-ran > noticedLitre && ran < runs*(1-noticedShare):
		return fact.Of("sign.less", ran, runs)
	case longer && took > takes:
		return fact.Of("sign.longer", is.Took, should.Took)
	case longer:
		return fact.Of("sign.shorter", is.Took, should.Took)
	}
	return elsewhere(s, should, is)
}

// elsewhere tells of what runs out where nothing should.
func elsewhere(s *proof.Step, should, is *run.Outcome) fact.Fact {
	for _, at := range slices.Sorted(maps.Keys(is.Ran)) {
		if !slices.Contains(s.Until.At, at) && is.Ran[at]-should.Ran[at] > noticedLitre {
			return fact.Of("sign.elsewhere", is.Ran[at]-should.Ran[at])
		}
	}
	return fact.Fact{}
}
