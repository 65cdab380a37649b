package joining

import (
	"slices"

	"coldtap/internal/core/plumbing"
)

// yesNo are the answers to a plain question.
var yesNo = []Option{{Value: "yes"}, {Value: "no"}}

// directedKinds let water through one way, or are told apart by it.
var directedKinds = []plumbing.Kind{plumbing.Pump, plumbing.CheckValve, plumbing.Filter, plumbing.Strainer,
	plumbing.Softener, plumbing.FloatValve, plumbing.ThreeWay, plumbing.MixingValve, plumbing.Heater}

// way finds out whether From and To tell which way water runs: the heads say so, and no
// row speaks against it. Where rows do, or the heads say nothing, it is asked once.
func (r *reader) way() {
	against := false
	for i := range r.rows {
		a, b := r.ends[i][0].part, r.ends[i][1].part
		if a == nil || b == nil || !a.told || !b.told {
			continue
		}
		if sink(a) && !sink(b) || source(b) && !source(a) && !sink(a) {
			against = true
		}
	}
	var asks []*part
	for _, p := range r.order {
		if !p.told || !slices.Contains(directedKinds, p.kind) || r.portsTold(p) {
			continue
		}
		asks = append(asks, p)
		in, out := r.inOut(p)
		if len(p.ends) > 1 && (in == 0 || out == 0) {
			against = true
		}
	}
	switch answer := r.answers[string(AskWay)]; {
	case answer == "yes":
		r.flows = true
	case answer == "no":
	case r.directed && !against:
		r.flows = true
	default:
		for _, p := range asks {
			r.ask(Question{ID: string(AskWay), What: AskWay, Options: yesNo}, p.rows()...)
		}
	}
}

// portsTold reports whether every row at a part says its port, or is a line that is there.
func (r *reader) portsTold(p *part) bool {
	for _, e := range p.ends {
		if len(r.ends[e.row][e.end].ports) != 1 && r.joints[e.row].Line == "" {
			return false
		}
	}
	return true
}

// inOut counts the rows that go to a part and that come from it.
func (r *reader) inOut(p *part) (in, out int) {
	for _, e := range p.ends {
		if e.end == 1 {
			in++
		} else {
			out++
		}
	}
	return in, out
}

// source reports whether water only comes from a part, sink whether it only goes there.
func source(p *part) bool {
	switch p.kind.Info().Role {
	case plumbing.RoleInlet, plumbing.RoleFill, plumbing.RolePickUp, plumbing.RoleBarrel, plumbing.RoleRinse:
		return true
	}
	return false
}

func sink(p *part) bool {
	switch p.kind.Info().Role {
	case plumbing.RoleOutlet, plumbing.RoleMachine, plumbing.RoleDrain, plumbing.RoleVent, plumbing.RoleFrost,
		plumbing.RoleRelief, plumbing.RoleWaste:
		return true
	}
	return false
}
