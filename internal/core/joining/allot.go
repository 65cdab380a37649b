package joining

import (
	"slices"

	"coldtap/internal/core/plumbing"
)

// allot gives the rows at a part their ports: first those that say one, then the rest by
// what is safe for the kind of part.
func (r *reader) allot(p *part) {
	if !p.told {
		return
	}
	var open []at
	for _, e := range p.ends {
		if r.joints[e.row].Line != "" {
			continue
		}
		switch said := r.ends[e.row][e.end].ports; {
		case len(said) == 1: // whether it is free shows when the line is put in
			if has := p.ports(); !slices.Contains(has, said[0]) {
				r.fault(e, Fault{Code: "no-port", End: e.end, Part: p.name, Said: said[0], Ports: has})
				continue
			}
			p.used[said[0]] = true
			r.joints[e.row].Ends[e.end] = End{p.id, said[0], false}
		case len(said) > 1: // the first of what it may mean that is free
			if i := slices.IndexFunc(said, func(s string) bool { return !p.used[s] }); i >= 0 {
				r.put(p, e, said[i], false)
			}
		default:
			open = append(open, e)
		}
	}
	if len(open) == 0 {
		return
	}
	if free := p.free(); len(open) > len(free) && p.kind != plumbing.Tank {
		have := len(p.ports()) - len(free)
		for _, e := range p.ends {
			r.fault(
				e,
				Fault{Code: "crowded", End: e.end, Part: p.name, Rows: p.rows(), Most: len(p.ports()), Have: have},
			)
		}
		return
	}
	switch p.kind.Info().Role {
	case plumbing.RoleJunction, plumbing.RoleShutOff, plumbing.RoleCoupling, plumbing.RoleJoint:
		r.anyPort(p, open)
	case plumbing.RoleOutlet, plumbing.RoleMachine:
		r.bySide(p, open)
	case plumbing.RoleTank:
		r.atTank(p, open)
	case plumbing.RoleHeater:
		r.atHeater(p, open)
	case plumbing.RoleDiverter:
		r.atDiverter(p, open)
	case plumbing.RoleMixer:
		r.atMixer(p, open)
	default:
		if len(p.ports()) == 1 {
			r.put(p, open[0], p.ports()[0], false) // there is no other
			return
		}
		r.through(p, open)
	}
}

// free lists the ports of a part that no line has.
func (p *part) free() []string {
	return slices.DeleteFunc(p.ports(), func(s string) bool { return p.used[s] })
}

func (r *reader) put(p *part, e at, port string, inferred bool) {
	if has := p.ports(); !slices.Contains(has, port) {
		r.fault(e, Fault{Code: "no-port", End: e.end, Part: p.name, Said: port, Ports: has})
		return
	}
	if p.used[port] {
		r.fault(e, Fault{Code: "crowded", End: e.end, Part: p.name, Rows: p.rows(), Most: 1, Have: 1})
		return
	}
	p.used[port] = true
	r.joints[e.row].Ends[e.end] = End{p.id, port, inferred}
}

func (r *reader) fault(e at, f Fault) {
	r.joints[e.row].Faults = append(r.joints[e.row].Faults, f)
}

// anyPort serves parts whose ports are all alike.
func (r *reader) anyPort(p *part, open []at) {
	free := p.free()
	if p.kind == plumbing.Manifold && r.flows && !p.used["in"] {
		if i := slices.IndexFunc(open, func(e at) bool { return e.end == 1 }); i >= 0 {
			r.put(p, open[i], "in", true)
			open, free = slices.Delete(slices.Clone(open), i, i+1), p.free()
		}
	}
	for i, e := range open {
		r.put(p, e, free[i], true)
	}
}

// bySide serves what has a cold and a hot port: by the side of each line.
func (r *reader) bySide(p *part, open []at) {
	known := map[plumbing.Side]bool{}
	for _, port := range []plumbing.Side{plumbing.Cold, plumbing.Hot} {
		known[port] = p.used[string(port)]
	}
	var unknown []at
	for _, e := range open {
		switch side := r.sideOf(e); side {
		case plumbing.Cold, plumbing.Hot:
			known[side] = true
			r.put(p, e, string(side), true)
		case plumbing.Supply: // unpressurised water is cold
			known[plumbing.Cold] = true
			r.put(p, e, "cold", true)
		default:
			unknown = append(unknown, e)
		}
	}
	for _, e := range unknown {
		if known[plumbing.Cold] != known[plumbing.Hot] { // the other one
			side := plumbing.Hot
			if known[plumbing.Hot] {
				side = plumbing.Cold
			}
			r.joints[e.row].Side, r.joints[e.row].SideInferred = side, true
			r.put(p, e, string(side), true)
			known[side] = true
			continue
		}
		id := string(AskSide) + ":" + p.key + ":" + r.other(e).key
		switch side := plumbing.Side(r.answers[id]); side {
		case plumbing.Cold, plumbing.Hot:
			r.joints[e.row].Side = side
			r.put(p, e, string(side), false)
		default:
			r.ask(Question{ID: id, What: AskSide, Part: p.name, Other: r.other(e).name,
				Options: []Option{{Value: "cold"}, {Value: "hot"}}}, e.row)
		}
	}
}

// sideOf is the side of a row; "" while nobody told it.
func (r *reader) sideOf(e at) plumbing.Side { return r.joints[e.row].Side }

// atTank serves a tank by what each line leads to.
func (r *reader) atTank(p *part, open []at) {
	plain := 0 // lines that lead on to fittings: where there is one, it is the supply
	for _, e := range open {
		if o := r.other(e); o != nil && o.told && !source(o) && !sink(o) && o.kind != plumbing.Tank {
			plain++
		}
	}
	for _, e := range open {
		o := r.other(e)
		if o == nil || !o.told {
			continue
		}
		var port string
		switch role := o.kind.Info().Role; {
		case role == plumbing.RoleFill:
			port = "fill"
		case role == plumbing.RoleVent && slices.Contains(tokens(o.name), "overflow"):
			port = "overflow"
		case role == plumbing.RoleVent:
			port = "vent"
		case role == plumbing.RoleDrain, role == plumbing.RoleFrost, role == plumbing.RoleHull:
			port = "drain"
		case role == plumbing.RoleTank:
			port = "link"
		case plain == 1 && !p.used["supply"]:
			port = "supply"
		case e.end == 1 && r.flows:
			port = "return"
		case e.end == 0 && r.flows, role == plumbing.RolePump, role == plumbing.RoleStrainer:
			port = "supply"
		}
		if port == "" || p.used[port] {
			r.choose(p, e)
			continue
		}
		r.put(p, e, port, true)
	}
}

// choose asks which port of a part a line comes to.
func (r *reader) choose(p *part, e at) {
	id := string(AskPort) + ":" + p.key + ":" + r.other(e).key
	if port := r.answers[id]; slices.Contains(p.free(), port) {
		r.put(p, e, port, false)
		return
	}
	q := Question{ID: id, What: AskPort, Part: p.name, Other: r.other(e).name, Kind: p.kind}
	for _, port := range p.free() {
		q.Options = append(q.Options, Option{Value: port, Names: []string{port}})
	}
	r.ask(q, e.row)
}

// atHeater serves a heater: drain and relief by what they lead to, cold and hot by the
// side of the line or by the way water runs.
func (r *reader) atHeater(p *part, open []at) {
	var rest []at
	for _, e := range open {
		o := r.other(e)
		switch {
		case o != nil && o.told && o.kind.Info().Role == plumbing.RoleRelief && !p.used["relief"]:
			r.put(p, e, "relief", true)
		case o != nil && o.told && o.kind.Info().Role == plumbing.RoleDrain && !p.used["drain"]:
			r.put(p, e, "drain", true)
		case r.told(e) && (r.sideOf(e) == plumbing.Hot || r.sideOf(e) == plumbing.Cold):
			r.put(p, e, string(r.sideOf(e)), true)
		default:
			rest = append(rest, e)
		}
	}
	if len(rest) == 0 || r.waits(rest, AskWay) {
		return
	}
	if len(rest) == 1 && p.used["cold"] != p.used["hot"] {
		port := "hot"
		if p.used["hot"] {
			port = "cold"
		}
		r.put(p, rest[0], port, true)
		return
	}
	r.pick(p, rest, AskHot, "hot", "cold")
}

// told reports whether a row's own words, or the way water runs, tell its side: not
// only its neighbours.
func (r *reader) told(e at) bool {
	return !r.joints[e.row].SideInferred || r.flows
}

// atDiverter serves a 3-way valve: what all water passes is its common port. Where one
// line comes and two go, or one goes and two come, it is the one.
func (r *reader) atDiverter(p *part, open []at) {
	if p.used["com"] {
		r.anyPort(p, open)
		return
	}
	if r.waits(open, AskWay) {
		return
	}
	if in, out := r.inOut(p); r.flows && len(open) == 3 && (in == 1 || out == 1) {
		one := 1
		if out == 1 {
			one = 0
		}
		i := slices.IndexFunc(open, func(e at) bool { return e.end == one })
		r.put(p, open[i], "com", true)
		r.anyPort(p, slices.Delete(slices.Clone(open), i, i+1))
		return
	}
	r.pick(p, open, AskCom, "com", "")
}

// atMixer serves a mixing valve: hot and cold by their sides where those are told, and
// what it gives.
func (r *reader) atMixer(p *part, open []at) {
	if r.waits(open, AskWay) {
		return
	}
	if !r.flows {
		for _, e := range open {
			r.choose(p, e)
		}
		return
	}
	for _, e := range open {
		switch side := r.sideOf(e); {
		case e.end == 0 && !p.used["mixed"]:
			r.put(p, e, "mixed", true)
		case e.end == 1 && (side == plumbing.Hot || side == plumbing.Cold) && !p.used[string(side)]:
			r.put(p, e, string(side), true)
		default:
			r.choose(p, e)
		}
	}
}

// waits reports whether rows wait for a question of a kind.
func (r *reader) waits(list []at, what Ask) bool {
	return slices.ContainsFunc(list, func(e at) bool { return slices.Contains(r.joints[e.row].Asks, string(what)) })
}

// pick asks which of some lines comes to a port; the only other line comes to the other
// port, where there is one.
func (r *reader) pick(p *part, open []at, what Ask, port, other string) {
	id := string(what) + ":" + p.key
	answer := r.answers[id]
	at := slices.IndexFunc(open, func(e at) bool { return r.other(e) != nil && r.other(e).key == answer })
	if at < 0 {
		q := Question{ID: id, What: what, Part: p.name, Kind: p.kind}
		var rows []int
		for _, e := range open {
			if o := r.other(e); o != nil {
				q.Options = append(q.Options, Option{Value: o.key, Names: r.neighbours(p, open, e)})
			}
			rows = append(rows, e.row)
		}
		r.ask(q, rows...)
		return
	}
	r.put(p, open[at], port, false)
	rest := slices.Delete(slices.Clone(open), at, at+1)
	if other == "" {
		r.anyPort(p, rest)
		return
	}
	for _, e := range rest {
		r.put(p, e, other, false)
	}
}

// neighbours names what stands around a part: that of one line first.
func (r *reader) neighbours(p *part, open []at, first at) []string {
	list := []string{r.other(first).name}
	for _, e := range open {
		if o := r.other(e); e != first && o != nil {
			list = append(list, o.name)
		}
	}
	return list
}

// through serves parts that water runs through one way: by From and To where those tell
// it, or it is asked.
func (r *reader) through(p *part, open []at) {
	if r.waits(open, AskWay) {
		return
	}
	if r.flows {
		clear := true
		for i, e := range open {
			for _, f := range open[:i] {
				clear = clear && e.end != f.end
			}
			port := []string{"out", "in"}[e.end]
			clear = clear && !p.used[port]
		}
		if clear {
			for _, e := range open {
				r.put(p, e, []string{"out", "in"}[e.end], true)
			}
			return
		}
	}
	if len(open) == 1 && p.used["in"] != p.used["out"] {
		r.anyPort(p, open)
		return
	}
	for i, e := range open { // the neighbours tell
		port := r.fromNeighbour(e)
		if port == "" || p.used[port] {
			continue
		}
		r.put(p, e, port, true)
		if rest := slices.Delete(slices.Clone(open), i, i+1); len(rest) == 1 {
			r.anyPort(p, rest)
		}
		return
	}
	for _, e := range open { // the answer for a neighbour will tell
		i := slices.IndexFunc(r.questions, func(q Question) bool {
			return q.What == AskFlow && slices.Contains(q.Rows, e.row)
		})
		if i >= 0 {
			r.ask(r.questions[i], p.rows()...)
			return
		}
	}
	r.pick(p, open, AskFlow, "in", "out")
}

// fromNeighbour is the port of a part that a line comes to by what stands at the line's
// other end: from a source, or where another part lets water out, it comes in; "" where
// that tells nothing.
func (r *reader) fromNeighbour(e at) string {
	o, far := r.other(e), r.joints[e.row].Ends[1-e.end].Port
	if o == nil || !o.told {
		return ""
	}
	switch role := o.kind.Info().Role; {
	case source(o), role == plumbing.RoleTank && far == "supply":
		return "in"
	case sink(o):
		return "out"
	case role == plumbing.RoleHeater && far == "cold":
		return "out"
	case role == plumbing.RoleHeater && far == "hot":
		return "in"
	case slices.Contains(directedKinds, o.kind) && far == "in":
		return "out"
	case slices.Contains(directedKinds, o.kind) && far == "out":
		return "in"
	}
	return ""
}

// oneWays gives ports to the parts that water passes one way: each may tell the next, so
// those that can be told come first, and one of a chain is asked for all of it.
func (r *reader) oneWays(list []*part) {
	for len(list) > 0 {
		at := slices.IndexFunc(list, r.canTell)
		if at < 0 {
			at = 0
		}
		p := list[at]
		list = slices.Delete(list, at, at+1)
		r.allot(p)
	}
}

// canTell reports whether a part's ports can be told without asking for them.
func (r *reader) canTell(p *part) bool {
	if r.flows || r.answers[string(AskFlow)+":"+p.key] != "" {
		return true
	}
	return slices.ContainsFunc(p.ends, func(e at) bool {
		return len(r.ends[e.row][e.end].ports) == 1 || r.joints[e.row].Line != "" || r.fromNeighbour(e) != ""
	})
}
