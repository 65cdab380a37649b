package proof

import (
	"cmp"
	"maps"
	"slices"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
)

// rule is one thing that must not be.
type rule struct {
	code     string
	severity Severity
	watch    func(*moment) []found
}

// trace is how much of a fluid counts as some of it.
const (
	someGlycol                  = 0.003
	someAcid                    = 0.001
	someChlorine                = 4 // mg/L: what drinking water may hold
	brim                        = 0.98
	fullShare                   = 0.9 // of a place that water fills, above which frost bursts it
	drop         quantity.Litre = 0.02
)

// onTheWay is asked after each step.
var onTheWay = []rule{
	{"heat-not-full", Danger, heatNotFull},
	{"heat-apart", Danger, heatApart},
	{"opened-hot", Danger, openedHot},
	{"opened-pressed", Danger, openedPressed},
	{"heater-met", Danger, heaterMet},
	{"shunned", Wrong, shunned},
	{"tank-met-antifreeze", Wrong, tankMet},
	{"acid-met-chlorine", Danger, acidMetChlorine},
	{"too-strong", Danger, tooStrong},
	{"to-the-open", Wrong, toTheOpen},
	{"bilge-flooded", Danger, bilgeFlooded},
	{"no-way-in", Wrong, noWayIn},
	{"pump-dry", Wrong, pumpDry},
	{"pump-shut", Wrong, pumpShut},
	{"air-strong", Danger, airStrong},
	{"air-screened", Note, airScreened},
	{"air-in-tank", Wrong, airInTank},
	{"ammonia-met-chlorine", Danger, ammoniaMetChlorine},
	{"waste-unrinsed", Note, wasteUnrinsed},
	{"waste-over", Wrong, wasteOver},
	{"waste-unnamed", Note, wasteUnnamed},
	{"pump-duty", Wrong, pumpDuty},
	{"cycle-longer", Wrong, cycleLonger},
	{"never-came", Wrong, neverCame},
	{"ran-over", Wrong, ranOver},
}

// atTheEnd is asked when all is done.
var atTheEnd = []rule{
	{"not-back", Wrong, notBack},
	{"left-on", Wrong, leftOn},
	{"not-on", Wrong, notOn},
	{"not-joined", Wrong, notJoined},
	{"left-joined", Wrong, leftJoined},
	{"left-open", Wrong, leftOpen},
	{"left-out", Wrong, leftOut},
	{"left-in", Wrong, leftIn},
	{"stays-full", Wrong, staysFull},
	{"not-filled", Wrong, notFilled},
	{"not-full", Wrong, notFull},
	{"not-fresh", Wrong, notFresh},
	{"not-drinkable", Danger, notDrinkable},
	{"never-wet", Wrong, neverWet},
	{"never-emptied", Wrong, neverEmptied},
	{"never-descaled", Wrong, neverDescaled},
	{"never-steeped", Wrong, neverSteeped},
	{"never-hot", Wrong, neverHot},
	{"acid-left", Wrong, acidLeft},
	{"trap-plain", Wrong, trapPlain},
	{"frost", Wrong, frost},
	{"too-weak", Wrong, tooWeak},
	{"never-coloured", Wrong, neverColoured},
	{"never-strong", Wrong, neverStrong},
	{"never-soaked", Wrong, neverSoaked},
	{"never-clear", Wrong, neverClear},
	{"chlorine-left", Wrong, chlorineLeft},
}

func heatNotFull(m *moment) (list []found) {
	for i, h := range m.net.Heat {
		if !m.after.State.Heat.Has(plumbing.HeatID(i)) {
			continue
		}
		if v := m.after.Vessel(h.Part); v != nil && v.Liquid.Litre < v.Holds*brim {
			list = append(list, about(h.Part, v.Liquid.Litre))
		}
	}
	return list
}

// heatApart finds heaters that are on while a coupling of theirs is apart.
func heatApart(m *moment) (list []found) {
	for i, h := range m.net.Heat {
		if m.after.State.Heat.Has(plumbing.HeatID(i)) && !m.after.State.Coupled(m.net, h.Part) {
			list = append(list, about(h.Part))
		}
	}
	return list
}

func openedHot(m *moment) (list []found) {
	for _, o := range m.out.Opened {
		if o.Hot {
			list = append(list, about(o.Part))
		}
	}
	return list
}

// openedPressed leaves out what is made to let pressure off: a relief valve, and a low-point drain with a valve.
func openedPressed(m *moment) (list []found) {
	for _, o := range m.out.Opened {
		low := o.Part.Role() == plumbing.RoleDrain && !atHeater(m.net, o.Part) && !o.Part.ComesOff()
		if o.Pressed && o.Part.Role() != plumbing.RoleRelief && !low {
			list = append(list, about(o.Part))
		}
	}
	return list
}

// atHeater reports whether a line joins a part to a heater.
func atHeater(n *plumbing.Network, p *plumbing.Part) bool {
	return slices.ContainsFunc(n.PartsOf(plumbing.RoleHeater), func(h *plumbing.Part) bool { return n.Beside(p, h) })
}

// met lists the parts of a role that a fluid came to, the strongest of it as
// a figure.
func (m *moment) met(role plumbing.Role, much func(run.Mix) bool) (list []found) {
	for _, p := range slices.SortedFunc(maps.Keys(m.out.Met), byID) {
		if p.Role() == role && much(m.out.Met[p]) {
			list = append(list, about(p))
		}
	}
	return list
}

func byID(a, b *plumbing.Part) int { return cmp.Compare(a.ID, b.ID) }

func foul(x run.Mix) bool {
	return x.Glycol > someGlycol || x.Chlorine > someChlorine
}

func heaterMet(m *moment) []found { return m.met(plumbing.RoleHeater, foul) }

func shunned(m *moment) (list []found) {
	for _, f := range slices.Concat(m.met(plumbing.RoleFilter, foul), m.met(plumbing.RoleSoftener, foul)) {
		p := m.net.Model.Part(f.part)
		if at := m.net.FittingOf(p); at != plumbing.None && m.after.State.Out[at] {
			continue // the bowl is empty
		}
		list = append(list, f)
	}
	for i, p := range m.pieces() { // one that is put back into it
		at := m.net.Pieces[i].Part
		if at == nil || at.Role() != plumbing.RoleFilter || p.Liquid() < 1e-4 || !foul(p.Mix) {
			continue
		}
		if f := m.net.FittingOf(at); f != plumbing.None && !m.after.State.Out[f] &&
			!slices.ContainsFunc(list, func(x found) bool { return x.part == at.ID }) {
			list = append(list, about(at))
		}
	}
	return list
}

func tankMet(m *moment) []found {
	return m.met(plumbing.RoleTank, func(x run.Mix) bool { return x.Glycol > someGlycol })
}

func acidMetChlorine(m *moment) (list []found) {
	both := func(p run.Plug) bool {
		return p.Liquid() > 1e-4 && p.Mix.Acid > someAcid && p.Mix.Chlorine > 1
	}
	for i, p := range m.pieces() {
		if both(p) {
			id := plumbing.PieceID(i)
			list = append(list, found{part: pieceID(m.net, id), said: fact.Of("", pieceName(m.net, id))})
		}
	}
	for _, t := range m.net.PartsOf(plumbing.RoleWaste) { // its traps and pipes too
		if w := m.after.Waste(t); both(w.Stands) || both(w.Last) {
			list = append(list, about(t))
		}
	}
	for i := range m.net.Model.Parts {
		if p := &m.net.Model.Parts[i]; both(m.after.Bucket(p)) {
			list = append(list, about(p))
		}
	}
	slices.SortFunc(list, func(a, b found) int { return cmp.Compare(a.part, b.part) })
	return list
}

// tooStrong looks at each batch that is poured, and at what the step left.
func tooStrong(m *moment) (list []found) {
	for _, p := range m.step.Pour {
		if m.proc.Limit.Ceiling > 0 && p.Mix.Chlorine > m.proc.Limit.Ceiling {
			list = append(list, about(p.Into, p.Mix.Chlorine))
		}
	}
	for i, p := range m.pieces() {
		if m.proc.Limit.Ceiling > 0 && p.Liquid() > 1e-4 && p.Mix.Chlorine > m.proc.Limit.Ceiling {
			list = append(list, found{part: pieceID(m.net, plumbing.PieceID(i)),
				said: fact.Of("", pieceName(m.net, plumbing.PieceID(i)), p.Mix.Chlorine)})
		}
	}
	return list
}

// noWayIn finds tanks that something is poured into though they have neither a fill to pour at nor
// a hatch.
func noWayIn(m *moment) (list []found) {
	for _, p := range m.step.Pour {
		if p.Into.Role() == plumbing.RoleTank && !WayIn(m.net, p.Into) {
			list = append(list, about(p.Into))
		}
	}
	return list
}

// WayIn reports whether something can be poured into a tank.
func WayIn(n *plumbing.Network, tank *plumbing.Part) bool {
	s := state.Undecided(n)
	for _, p := range n.PartsOf(plumbing.RoleFill, plumbing.RoleHatch) {
		from := n.NodesOf(p, "mouth")
		if flow.Reach(n, s, flow.Query{From: from}).Part(tank) {
			return true
		}
	}
	return false
}

// toTheOpen tells of what ran to the ground, the bilge or overboard in this step.
func toTheOpen(m *moment) (list []found) {
	was := m.before.Account().Out
	for sink, now := range m.after.Account().Out {
		d := now.Less(was[sink])
		if !sink.To.Open() || d.Liquid <= drop {
			continue
		}
		if float64(d.Glycol/d.Liquid) > someGlycol || d.Chlorine/float64(d.Liquid) > someChlorine {
			if p := m.net.Model.Part(sink.Part); p != nil {
				list = append(list, about(p, d.Liquid))
			}
		}
	}
	slices.SortFunc(list, func(a, b found) int { return cmp.Compare(a.part, b.part) })
	return list
}

// mostBilge is what a step may let into the bilge: what lines and a heater hold, not a tank.
const mostBilge quantity.Litre = 60

// bilgeFlooded finds what runs into the bilge in a step, where that is more than a bilge is for.
func bilgeFlooded(m *moment) (list []found) {
	was := m.before.Account().Out
	for sink, now := range m.after.Account().Out {
		v := now.Liquid - was[sink].Liquid
		if p := m.net.Model.Part(sink.Part); p != nil && sink.To == plumbing.ToBilge && v > mostBilge {
			list = append(list, about(p, v))
		}
	}
	slices.SortFunc(list, func(a, b found) int { return cmp.Compare(a.part, b.part) })
	return list
}

func pumpDry(m *moment) (list []found) {
	for _, p := range m.net.Pumps {
		most := plumbing.Field(m.net, &p.Data.DryRun).Or(m.proc.Limit.Dry)
		if t := m.out.Dry[p.ID]; t > most {
			list = append(list, about(p, t))
		}
	}
	return list
}

func neverCame(m *moment) (list []found) {
	if m.out.Came {
		return nil
	}
	for _, at := range m.step.Until.At {
		list = append(list, about(m.net.Nodes[at].Part))
	}
	if t := m.step.Until.Tank; t != nil {
		list = append(list, about(t))
	}
	if list == nil { // it is the pumps that are listened to
		for _, p := range m.net.Pumps {
			list = append(list, about(p))
		}
	}
	return list
}

func ranOver(m *moment) (list []found) {
	for _, p := range slices.SortedFunc(maps.Keys(m.out.Spilled), byID) {
		if m.out.Spilled[p] > drop*10 {
			list = append(list, about(p, m.out.Spilled[p]))
		}
	}
	return list
}

func notBack(m *moment) (list []found) {
	if m.proc.Goal.State == nil {
		return nil
	}
	for i, h := range m.net.Handles {
		id := plumbing.HandleID(i)
		if m.proc.Goal.State.Handles[id]&m.after.State.Handles[id] == 0 {
			list = append(list, about(h.Part))
		}
	}
	return list
}

func leftOn(m *moment) (list []found) {
	if m.proc.Goal.State == nil {
		return nil
	}
	for i, h := range m.net.Heat {
		if id := plumbing.HeatID(i); m.after.State.Heat.Has(id) && !m.proc.Goal.State.Heat.Has(id) {
			list = append(list, about(h.Part))
		}
	}
	for _, h := range m.net.PartsOf(plumbing.RoleHeater) { // nobody said what heats it
		if len(h.HeatBy()) == 0 && m.after.Heated(h) {
			list = append(list, about(h))
		}
	}
	for i, p := range m.net.Pumps {
		if m.after.State.Pumps.Has(plumbing.PumpID(i)) && !m.proc.Goal.State.Pumps.Has(plumbing.PumpID(i)) {
			list = append(list, about(p))
		}
	}
	return list
}

func leftJoined(m *moment) (list []found) {
	if m.proc.Goal.State == nil {
		return nil
	}
	for _, at := range slices.Sorted(maps.Keys(m.after.State.Joined)) {
		if m.after.State.Joined[at].Kind == state.Plugged && m.together(m.net.Nodes[at].Part) {
			continue // there is no end to plug
		}
		if m.after.State.Joined[at].Kind != m.proc.Goal.State.Joined[at].Kind {
			list = append(list, about(m.net.Nodes[at].Part))
		}
	}
	return list
}

// together reports whether the joint of a part is put together again.
func (m *moment) together(p *plumbing.Part) bool {
	h := m.net.HandleOf(p.ID)
	if h == plumbing.None {
		return false
	}
	pos := m.net.Handles[h].Index("together")
	return pos != plumbing.None && m.after.State.Handles[h].Has(pos)
}

func leftOpen(m *moment) (list []found) {
	if m.proc.Goal.State == nil {
		return nil
	}
	for _, at := range slices.Sorted(maps.Keys(m.after.State.Open)) {
		if m.after.State.Open[at] && !m.proc.Goal.State.Open[at] {
			list = append(list, about(m.net.Nodes[at].Part))
		}
	}
	return list
}

// leftOut finds what is out in the end and should not be, leftIn what should be out and is not.
func leftOut(m *moment) []found {
	return m.fitted(func(is, should bool) bool { return is && !should })
}

func leftIn(m *moment) []found {
	return m.fitted(func(is, should bool) bool { return !is && should })
}

// fitted finds fittings by whether they are out in the end, and should be.
func (m *moment) fitted(wrong func(is, should bool) bool) (list []found) {
	if m.proc.Goal.State == nil {
		return nil
	}
	for i, f := range m.net.Fittings {
		if id := plumbing.FittingID(i); wrong(m.after.State.Out[id], m.proc.Goal.State.Out[id]) {
			list = append(list, about(f.Part))
		}
	}
	return list
}

// staysFull finds places that a liquid fills where all should have run out.
func staysFull(m *moment) (list []found) {
	if !m.proc.Goal.Dry {
		return nil
	}
	for i, p := range m.pieces() {
		id := plumbing.PieceID(i)
		name := pieceID(m.net, id)
		if m.net.Pieces[i].Holds < 1e-4 || p.Litre <= 0 || p.Liquid()/p.Litre < fullShare || m.proc.Goal.Untreated[name] {
			continue
		}
		list = append(list, found{part: name, said: fact.Of("", pieceName(m.net, id), p.Liquid())})
	}
	return list
}

// notFilled finds heaters that are not full where they should be.
func notFilled(m *moment) (list []found) {
	for _, v := range m.after.Vessels() {
		if m.proc.Goal.Filled && v.Closed && v.Liquid.Litre < v.Holds*brim {
			list = append(list, about(v.Part, v.Liquid.Litre))
		}
	}
	return list
}

// neverSoaked asks for a time in which every tank stood full at its strength.
func neverSoaked(m *moment) (list []found) {
	if m.proc.Goal.Soak == 0 {
		return nil
	}
	for _, t := range m.net.PartsOf(plumbing.RoleTank) {
		soaked := false
		for i, o := range m.proof.Outcomes {
			v := m.proof.Systems[i+1].Vessel(t)
			soaked = soaked || o.Waited >= m.proc.Goal.Soak-1 && v != nil && v.Liquid.Litre >= v.Holds*0.95 &&
				v.Liquid.Mix.Chlorine >= m.proc.Goal.Target*0.99
		}
		if !soaked {
			list = append(list, about(t))
		}
	}
	return list
}

// neverClear asks that what was last seen at an outlet is clear.
func neverClear(m *moment) (list []found) {
	for _, at := range m.proc.Goal.Clear {
		clear := false
		for _, o := range m.proof.Outcomes {
			if p, ok := o.Arrived[at]; ok && p.Gas < 0.5 {
				clear = p.Mix.Glycol <= someGlycol && (m.proc.Goal.Limit == 0 || p.Mix.Chlorine <= m.proc.Goal.Limit)
			}
		}
		if !clear {
			list = append(list, about(m.net.Nodes[at].Part))
		}
	}
	return list
}

// tooWeak tells where the school does not protect the weakest point to the model's design low. The
// run moves sharp fronts: what stays and thins them is the worksheet's.
func tooWeak(m *moment) []found {
	w := m.proc.Goal.Weakest
	if w == nil || w.Enough {
		return nil
	}
	return []found{{part: w.ID, said: fact.Of("", w.Said(m.net.Model.DesignLow))}}
}

// frost finds places that a liquid fills which bursts them.
func frost(m *moment) (list []found) {
	need := m.proc.Goal.Freeze
	if need == 0 {
		return nil
	}
	for i, p := range m.pieces() {
		id := plumbing.PieceID(i)
		holds := m.net.Pieces[i].Holds
		if p.Litre <= 0 || holds < 1e-4 || p.Mix.Glycol >= need || p.Liquid()/p.Litre < fullShare {
			continue
		}
		name := pieceID(m.net, id)
		if m.proc.Goal.Untreated[name] {
			continue
		}
		list = append(list, found{part: name, said: fact.Of("", pieceName(m.net, id), p.Liquid())})
	}
	return list
}

// seen finds what came to an outlet at the end of some step, of those before the soak where there is
// one.
func (m *moment) seen(at plumbing.NodeID, is func(run.Mix) bool) bool {
	for _, o := range m.proof.Outcomes {
		if m.proc.Goal.Soak > 0 && o.Waited >= m.proc.Goal.Soak-1 {
			return false
		}
		if p, ok := o.Arrived[at]; ok && p.Gas < 0.5 && is(p.Mix) {
			return true
		}
	}
	return false
}

func neverColoured(m *moment) (list []found) {
	for _, at := range m.proc.Goal.Coloured {
		if !m.seen(at, func(x run.Mix) bool { return x.Glycol >= m.proc.Goal.Freeze }) {
			list = append(list, about(m.net.Nodes[at].Part))
		}
	}
	return list
}

func neverStrong(m *moment) (list []found) {
	for _, at := range m.proc.Goal.Strong {
		if !m.seen(at, func(x run.Mix) bool { return x.Chlorine >= m.proc.Goal.Target*0.99 }) {
			list = append(list, about(m.net.Nodes[at].Part))
		}
	}
	return list
}

func chlorineLeft(m *moment) (list []found) {
	if m.proc.Goal.Limit == 0 {
		return nil
	}
	for i, p := range m.pieces() {
		if p.Liquid() > 1e-3 && p.Mix.Chlorine > m.proc.Goal.Limit {
			list = append(list, found{part: pieceID(m.net, plumbing.PieceID(i)),
				said: fact.Of("", pieceName(m.net, plumbing.PieceID(i)), p.Mix.Chlorine)})
		}
	}
	return list
}

// pieceID is the id of the part or line that a piece is in.
func pieceID(n *plumbing.Network, id plumbing.PieceID) string {
	p := &n.Pieces[id]
	if p.Part != nil {
		return p.Part.ID
	}
	return n.Links[p.Link].Line.ID
}

// pieceName is the part or the line that a piece is in, as facts have it.
func pieceName(n *plumbing.Network, id plumbing.PieceID) any {
	p := &n.Pieces[id]
	if p.Part != nil {
		return p.Part
	}
	return amount.LineName(n, &n.Links[p.Link])
}
