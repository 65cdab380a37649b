package joining

import (
	"slices"

	"coldtap/internal/core/plumbing"
)

// passing kinds have the same water on all their lines.
var passing = []plumbing.Kind{plumbing.Tee, plumbing.Manifold, plumbing.Valve, plumbing.CheckValve, plumbing.Filter,
	plumbing.Strainer, plumbing.Softener, plumbing.Coupling, plumbing.Union, plumbing.FloatValve, plumbing.ThreeWay,
	plumbing.Accumulator}

// sides gives each row a side: what it says, what its ends say, or that of the nearest
// row through parts that pass the same water on.
func (r *reader) sides() {
	var queue []int
	far := make([]int, len(r.rows)) // from a row that says its side; 0 for not reached
	for i, row := range r.rows {
		j := &r.joints[i]
		if j.Line != "" {
			j.Side = r.model.Line(j.Line).Side
		}
		if row.Side != "" {
			j.Side = row.Side
		}
		if j.Side == "" {
			if j.Side = r.ownSide(i); j.Side != "" {
				j.SideInferred = true
			}
		}
		if spreads(j.Side) && !r.endsLine(i) {
			queue, far[i] = append(queue, i), 1
		}
	}
	for len(queue) > 0 {
		i := queue[0]
		queue = queue[1:]
		for _, e := range r.ends[i] {
			if e.part == nil || !slices.Contains(passing, e.part.kind) {
				continue
			}
			for _, next := range e.part.ends {
				if far[next.row] != 0 || r.joints[next.row].Side != "" {
					continue
				}
				r.joints[next.row].Side, r.joints[next.row].SideInferred = r.joints[i].Side, true
				r.spread = append(r.spread, next.row)
				far[next.row] = far[i] + 1
				queue = append(queue, next.row)
			}
		}
	}
}

// spreads reports whether what joins a line of a side carries the same water.
func spreads(s plumbing.Side) bool {
	return s == plumbing.Cold || s == plumbing.Hot || s == plumbing.Supply
}

// endsLine reports whether a row ends where nothing goes on but by its own side.
func (r *reader) endsLine(i int) bool {
	for _, e := range r.ends[i] {
		if e.part != nil && e.part.told && (e.part.kind.Info().Role == plumbing.RoleDrain ||
			e.part.kind.Info().Role == plumbing.RoleVent) {
			return true
		}
	}
	return false
}

// ownSide is the side that the parts at a row's ends tell; "" for none.
func (r *reader) ownSide(i int) plumbing.Side {
	for e := range 2 {
		p := r.ends[i][e].part
		if p == nil || !p.told {
			continue
		}
		ports := r.ends[i][e].ports
		one := ""
		if len(ports) == 1 {
			one = ports[0]
		}
		other := r.ends[i][1-e].part
		switch role := p.kind.Info().Role; {
		case role == plumbing.RoleVent:
			return plumbing.Air
		case role == plumbing.RoleDrain, role == plumbing.RoleFrost, role == plumbing.RoleRinse:
			return plumbing.Drain
		case role == plumbing.RoleRelief:
			return plumbing.Drain
		case role == plumbing.RoleFill, role == plumbing.RolePickUp, role == plumbing.RoleBarrel:
			return plumbing.Supply
		case role == plumbing.RoleInlet:
			return plumbing.Cold
		case role == plumbing.RoleHeater && (one == "hot" || one == "cold"):
			return plumbing.Side(one)
		case role == plumbing.RoleHeater && r.answers[string(AskHot)+":"+p.key] != "" && other != nil && !sink(other):
			if r.answers[string(AskHot)+":"+p.key] == other.key {
				return plumbing.Hot
			}
			return plumbing.Cold
		case role == plumbing.RoleHeater && r.flows && len(ports) == 0 && other != nil && other.told && !sink(other):
			if e == 0 {
				return plumbing.Hot
			}
			return plumbing.Cold
		case role == plumbing.RoleTank && (other == nil || other.told && !sink(other) && !source(other)):
			return plumbing.Supply
		case role == plumbing.RolePump && one == "in":
			return plumbing.Supply
		case role == plumbing.RolePump && one == "out":
			return plumbing.Cold
		case role == plumbing.RolePump && one == "" && r.flows:
			if e == 0 {
				return plumbing.Cold
			}
			return plumbing.Supply
		case (role == plumbing.RoleOutlet || role == plumbing.RoleMachine) && (one == "hot" || one == "cold"):
			return plumbing.Side(one)
		}
	}
	return ""
}

// settleSides: what is still asked about the way of water may change every side that
// was told by neighbours, so those rows wait too. A side that nobody told is cold, as most
// are, and marked.
func (r *reader) settleSides() {
	for _, q := range slices.Clone(r.questions) {
		if q.What != AskHot && q.What != AskWay {
			continue
		}
		r.ask(q, r.spread...)
		for _, i := range r.spread { // what is crowded by a side that may be another
			j := &r.joints[i]
			j.Faults = slices.DeleteFunc(j.Faults, func(f Fault) bool { return f.Code == "crowded" })
		}
	}
	for i := range r.joints {
		if j := &r.joints[i]; j.Side == "" {
			j.Side, j.SideInferred = plumbing.Cold, true
		}
	}
}
