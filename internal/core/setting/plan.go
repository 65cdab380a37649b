package setting

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"runtime"
	"slices"

	"golang.org/x/sync/errgroup"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/record"
	"coldtap/internal/core/state"
)

// Answer is what was found for one mode.
type Answer struct {
	Mode   Mode
	OK     bool                // the setting meets the goal
	State  state.State         // where it is not OK, the best there is, if Has says so
	SameAs string              // id of an earlier mode with the same positions
	Why    fact.Fact           // if not OK: why no setting meets the goal, or why the mode is left out
	Either []plumbing.HandleID // handles that may all be turned at once, in any combination
	Broken []Breach            // what the best there is breaks
	Keeps  []Keep              // of a mode that drains: what stays in tanks and heaters above their heel
	Turns  []Turn              // settings one after the other that do what no single one does
	Clash  []Clause            // the smallest set of clauses that can't be met together

	Kept    *plumbing.Kept // the setting was chosen by hand; nil where it was found
	Found   state.State    // where it was chosen by hand, the one that was found
	Refused *plumbing.Kept // a setting chosen by hand that is not used, for it would be a danger

	From []record.Input // what was read to find it, where somebody wanted to know
}

// Keep is what a tank or heater keeps that should be empty.
type Keep struct {
	Part  *plumbing.Part
	Stays quantity.Litre
}

// Has reports whether there is a setting to show, be it only the best there is.
func (a *Answer) Has() bool { return a != nil && a.State.Handles != nil }

// States are the settings in which a mode's job is done: the one that was
// found, or where no single one does it those that follow one another.
func (a *Answer) States() []state.State {
	if a.Turns == nil || a.OK && !a.Mode.Drains {
		return []state.State{a.State}
	}
	list := make([]state.State, len(a.Turns))
	for i := range a.Turns {
		list[i] = a.Turns[i].State
	}
	return list
}

// Last is the setting that a mode's job ends with.
func (a *Answer) Last() state.State {
	list := a.States()
	return list[len(list)-1]
}

// Breaks reports whether the best there is breaks a clause of an aim.
func (a *Answer) Breaks(aim Aim) bool {
	return slices.ContainsFunc(a.Broken, func(b Breach) bool { return b.Clause.Aim == aim })
}

// Proof shows whether a clause holds: the links of a path from the source where
// it is reached, the smallest set of shut passages that separates where not.
type Proof struct {
	Clause Clause
	Holds  bool
	Start  plumbing.NodeID // where the path begins
	Path   []plumbing.LinkID
	Cut    []plumbing.LinkID
}

// Plan finds the setting of every mode. Everyday is the fewest changes from
// the handles' stated normal positions, every other mode the fewest from
// everyday, or from the mode that it follows. Where no setting meets a goal
// the best there is stands with what is wrong in it. The error is the
// context's.
func Plan(ctx context.Context, n *plumbing.Network) ([]Answer, error) {
	var modes []Mode
	goals := n.Recorder().During(func() { modes = Modes(n) })
	plan := make([]Answer, len(modes))
	for i, m := range modes {
		plan[i] = Answer{Mode: m, Why: m.LeftOut, From: goals}
	}
	// Each mode waits for those that it begins from: everyday, and the mode that
	// it follows.
	for _, wave := range waves(plan) {
		group, ctx := errgroup.WithContext(ctx)
		group.SetLimit(runtime.GOMAXPROCS(0))
		if n.Recorder() != nil {
			group.SetLimit(1) // a recorder is for one goroutine
		}
		for _, i := range wave {
			group.Go(func() error { return plan[i].work(ctx, n, plan) })
		}
		if err := group.Wait(); err != nil {
			return nil, err
		}
	}
	sameAs(plan)
	return plan, nil
}

// waves are the modes that a model has, by their place in the plan: everyday,
// those that begin from it, those that begin from one of these.
func waves(plan []Answer) [3][]int {
	var list [3][]int
	for i := range plan {
		switch m := &plan[i].Mode; {
		case !m.LeftOut.IsZero():
		case m.ID == Everyday:
			list[0] = append(list[0], i)
		case m.Base == "":
			list[1] = append(list[1], i)
		default:
			list[2] = append(list[2], i)
		}
	}
	return list
}

// work finds the setting of one mode of a plan.
func (a *Answer) work(ctx context.Context, n *plumbing.Network, plan []Answer) (err error) {
	base := state.Normal(n)
	if from := ForMode(plan, a.Mode.Base); from.Has() {
		base = from.State
	} else if from := ForMode(plan, Everyday); from != a && from != nil && from.OK {
		base = from.State
	}
	read := n.Recorder().During(func() {
		readBase(n, plan, &a.Mode)
		if err = a.answer(ctx, n, base); err == nil {
			a.keep(n)
		}
	})
	a.From = slices.Concat(a.From, read)
	return err
}

// sameAs says of each setting which earlier mode has the same positions.
func sameAs(plan []Answer) {
	for i := range plan {
		a := &plan[i]
		for k := range plan[:i] {
			if earlier := &plan[k]; a.OK && earlier.OK && earlier.SameAs == "" &&
				slices.Equal(earlier.State.Handles, a.State.Handles) {
				a.SameAs = earlier.Mode.ID
				break
			}
		}
	}
}

// readBase notes from which modes' positions a mode begins: of everyday, those
// before it in the plan excepted, and of the mode that it follows.
func readBase(n *plumbing.Network, plan []Answer, m *Mode) {
	for i := range plan {
		id := plan[i].Mode.ID
		if id == m.ID {
			break
		}
		if id == Everyday || id == m.Base {
			n.Note(record.Input{Kind: record.Setting, Of: id})
		}
	}
}

// answer finds the mode's setting, or the best there is.
func (a *Answer) answer(ctx context.Context, n *plumbing.Network, base state.State) error {
	m := &a.Mode
	s := newSearch(n, m, base, nil)
	var err error
	if a.State, a.OK, err = s.found(ctx); err == nil && !a.OK {
		if a.Why, err = nothingComes(ctx, n, m, base); err != nil || !a.Why.IsZero() {
			if m.Group == Fill || m.ID == DoseTank {
				m.LeftOut = a.Why
			}
			a.State = state.State{}
			return err
		}
		if a.Clash, err = s.conflict(ctx); err == nil {
			a.Why = explain(n, m, a.Clash)
			if m.inTurns() && !m.Drains {
				a.Turns, err = s.sequence(ctx, base)
			}
			if err == nil {
				a.State, err = s.best(ctx, a.Clash)
			}
		}
	}
	if errors.Is(err, ErrGivenUp) {
		a.State, a.Why = state.State{}, fact.Of("setting.given-up")
		return nil
	}
	if err != nil || !a.Has() {
		return err
	}
	if m.Drains {
		if a.State, err = Least(ctx, n, m, a.State); err != nil {
			return err
		}
		if a.Turns, err = drainInTurns(ctx, n, m, a.State); err != nil {
			return err
		}
		if keeps := KeptFull(n, flow.Drain(n, a.State)); a.OK && len(keeps) > 0 {
			a.OK, a.Why = false, fact.Of("setting.keeps-all", keptFacts(keeps))
		}
		a.Keeps = KeptFull(n, flow.Drain(n, a.Last())) // what no turn lets out
	}
	a.Mode.does(n, cartridges(n, m, a.State)...)
	a.Mode.does(n, kept(n, m, a.State)...)
	a.State = m.State(a.State.Handles)
	for i := range a.Turns { // what is taken out for the whole is out in each turn
		now := m.State(a.Turns[i].State.Handles)
		now.Contents = a.Turns[i].State.Contents
		a.Turns[i].State = now
	}
	a.Broken = Judge(n, m, a.State)
	if a.OK && a.Turns == nil {
		a.Turns = pumpByPump(n, m, a.State)
	}
	a.Either = a.either(n)
	return nil
}

// nothingComes tells why there is no setting at all for a mode whose water gets to none of the
// places it should, however the handles stand; nothing if it gets to one.
func nothingComes(ctx context.Context, n *plumbing.Network, m *Mode, base state.State) (fact.Fact, error) {
	first := -1
	for i := range m.Clauses {
		if c := &m.Clauses[i]; !c.Must || c.Aim == RunsOut {
			continue
		}
		if first < 0 {
			first = i
		}
		counts := make([]bool, len(m.Clauses))
		counts[i] = true
		if _, ok, err := newSearch(n, m, base, counts).found(ctx); ok || err != nil {
			return fact.Fact{}, err
		}
	}
	if first < 0 {
		return fact.Fact{}, nil
	}
	c := &m.Clauses[first]
	id := "setting.no-way.outlet"
	if c.Aim == TankIn {
		id = "setting.no-way.tank"
	}
	return fact.Of(id, n.Nodes[c.From[0]].Part), nil
}

// best gives up clauses that can't be met with the others, those that are
// held to least first, until a setting meets the rest.
func (s *search) best(ctx context.Context, clash []Clause) (state.State, error) {
	m := s.mode
	counts := make([]bool, len(m.Clauses))
	for i := range counts {
		counts[i] = true
	}
	for {
		if len(clash) == 0 {
			return state.State{}, nil
		}
		least := slices.MinFunc(clash, func(x, y Clause) int { return cmp.Compare(heldTo(&x), heldTo(&y)) })
		for i := range m.Clauses {
			if c := &m.Clauses[i]; c.Aim == least.Aim && c.Target == least.Target && c.Side == least.Side &&
				slices.Equal(c.From, least.From) {
				counts[i] = false
			}
		}
		next := s.with(counts)
		at, ok, err := next.run(ctx)
		if ok || err != nil {
			return at, err
		}
		s = next
		if clash, err = s.conflict(ctx); err != nil {
			return state.State{}, err
		}
	}
}

// first are the aims that are given up before all others, in this order.
var first = []Aim{KeptOff, HeaterOut, Spared, OnlyByHeater, OneSource, Served, HeaterIn, TankOut}

// last are those that are held to longest, the last of them the longest.
var last = []Aim{RunsOut, TankIn}

// heldTo orders clauses by how long they are held to when not all can be met.
func heldTo(c *Clause) int {
	if i := slices.Index(first, c.Aim); i >= 0 {
		return i
	}
	return len(first) + 1 + slices.Index(last, c.Aim) // -1 of the others comes first
}

// KeptFull lists the tanks and heaters that don't run empty when a system is
// drained; a splash above the heel is not told.
func KeptFull(n *plumbing.Network, d *flow.Drained) []Keep {
	const splash = 0.02 // share of what it holds
	var list []Keep
	for _, p := range d.Pieces {
		if p.Vessel && !p.Unknown && p.Stays() > p.Part.Data.Heel.Value()+p.Holds()*splash && inUse(n, p.Part) {
			list = append(list, Keep{p.Part, p.Stays()})
		}
	}
	return list
}

// inUse reports whether any line comes to a part by which water gets there.
func inUse(n *plumbing.Network, p *plumbing.Part) bool {
	return slices.ContainsFunc(p.Ports(), func(i plumbing.PortInfo) bool {
		return n.Joined(n.Node(p.ID + "." + i.Name))
	})
}

// either is Either, of modes that do not drain worked out once for all networks
// of one structure.
func (a *Answer) either(n *plumbing.Network) []plumbing.HandleID {
	if a.Mode.Drains {
		return Either(n, &a.Mode, a.State)
	}
	key := eitherKey{a.Mode.ID, fmt.Sprint(a.State.Handles)}
	return plumbing.Structural(n, key, func() ([]plumbing.HandleID, bool) { return Either(n, &a.Mode, a.State), true })
}

// eitherKey tells a mode's setting from others of a network's structure.
type eitherKey struct{ mode, handles string }

func keptFacts(list []Keep) []fact.Fact {
	var facts []fact.Fact
	for _, k := range list {
		facts = append(facts, fact.Of("setting.keeps", k.Part, k.Stays))
	}
	return facts
}

// ForMode finds a mode's answer in a plan; nil if there is none.
func ForMode(plan []Answer, id string) *Answer {
	for i := range plan {
		if plan[i].Mode.ID == id {
			return &plan[i]
		}
	}
	return nil
}

// Prove shows for every clause of a goal that it holds in a setting.
func Prove(n *plumbing.Network, m *Mode, s state.State) []Proof {
	g := newGoal(n, m)
	list := make([]Proof, len(m.Clauses))
	for i := range m.Clauses {
		c, p := &m.Clauses[i], &list[i]
		p.Clause = *c
		r := g.reach(i, s, state.Can)
		hit := hitNode(r, c.To)
		if p.Holds = (hit != plumbing.None) == c.Must; hit == plumbing.None {
			p.Cut = flow.Cut(n, s, c.Query(), c.To)
			continue
		}
		p.Path, p.Start = r.Path(hit), hit
		for _, li := range slices.Backward(p.Path) {
			p.Start = n.Links[li].Other(p.Start)
		}
	}
	return list
}

// Either finds handles that may be turned without breaking the goal, all at
// once and in any combination, and without leaving more water, a weaker
// strength or another spill than the setting as it is. A handle joins the set
// if every must still holds with what the set passes in all positions, and
// every must-not with what it passes in any; if all positions sweep the same
// stretches; and of a mode that drains, if the most that may stay is no more
// than what stays. That is enough, though not always needed.
func Either(n *plumbing.Network, m *Mode, s state.State) []plumbing.HandleID {
	g := newGoal(n, m)
	held := g.holding(s)
	swept := sweptBy(n, m, s, state.Can)
	var left quantity.Litre
	if m.Drains {
		left = flow.Drain(n, s).Total()
	}
	var list []plumbing.HandleID
	for i, h := range n.AllHandles() {
		if _, fixed := m.Fixed[i]; fixed {
			continue
		}
		free := s
		free.Handles = slices.Clone(s.Handles)
		free.Handles[i] = h.Every()
		if !g.certain(free, held) {
			continue
		}
		if m.Drains && flow.DrainWorst(n, free).Total() > left+worth {
			continue
		}
		if !m.Drains && (!slices.Equal(sweptBy(n, m, free, state.Must), swept) ||
			!slices.Equal(sweptBy(n, m, free, state.Can), swept)) {
			continue
		}
		s = free
		list = append(list, i)
	}
	return list
}

// sweptBy marks the lines that a mode's flow runs through on its way to what
// it serves or fills. What a mode sweeps is treated by it.
func sweptBy(n *plumbing.Network, m *Mode, s state.State, v state.View) []bool {
	lines := make([]bool, len(n.Links))
	if m.Drains {
		return lines
	}
	var to []plumbing.NodeID
	for i := range m.Clauses {
		if c := &m.Clauses[i]; c.Must {
			to = append(to, c.To...)
		}
	}
	for _, f := range m.From {
		for i, yes := range flow.SweptIn(n, s, f, to, v) {
			lines[i] = lines[i] || yes && n.Links[i].Line != nil
		}
	}
	return lines
}

const worth quantity.Litre = 0.001 // less than this is no reason to turn a handle

// Least turns the handles of a setting that meets the mode's goal so that
// less water stays when it is drained; a handle that makes no difference is
// left alone. Opening a valve never keeps more water, so all that may be opened
// are opened; 3-ways and selectors are tried one at a time, and again; then
// what made no difference is turned back.
func Least(ctx context.Context, n *plumbing.Network, m *Mode, s state.State) (state.State, error) {
	broken := len(Judge(n, m, s))
	return leastBy(ctx, n, m, s, broken, func(at state.State) quantity.Litre { return flow.Drain(n, at).Total() })
}

// leastBy is Least by a measure of what stays, while no more clauses than some
// are broken.
func leastBy(ctx context.Context, n *plumbing.Network, m *Mode, s state.State, broken int,
	stays func(state.State) quantity.Litre) (state.State, error) {
	meets := func(at state.State) bool { return len(Judge(n, m, at)) <= broken }
	first := s
	var several []plumbing.HandleID
	for i, h := range n.AllHandles() {
		if _, fixed := m.Fixed[i]; fixed {
			continue
		}
		if open := h.Index("open"); open < 0 || len(h.Positions) != 2 || h.Part.Role() == plumbing.RoleSelector {
			several = append(several, i)
		} else if next := s.With(i, open); meets(next) {
			s = next
		}
	}
	left := stays(s)
	for turned := true; turned; {
		turned = false
		for _, i := range several {
			for pos := range n.Handles[i].All() {
				if pos == s.Position(i) {
					continue
				}
				if err := ctx.Err(); err != nil {
					return s, err
				}
				next := s.With(i, pos)
				if total := stays(next); total < left-worth && meets(next) {
					s, left, turned = next, total, true
				}
			}
		}
	}
	for i := range n.AllHandles() {
		if s.Position(i) == first.Position(i) {
			continue
		}
		if err := ctx.Err(); err != nil {
			return s, err
		}
		if next := s.With(i, first.Position(i)); stays(next) <= left+worth/10 && meets(next) {
			s = next
		}
	}
	return s, nil
}

// cartridges lists what is done to the filters that a mode's antifreeze or
// sanitizer comes to: neither passes a cartridge.
func cartridges(n *plumbing.Network, m *Mode, s state.State) []state.Act {
	r := flow.Reach(n, s, flow.Query{From: m.From})
	var list []state.Act
	for _, f := range n.PartsOf(plumbing.RoleFilter) {
		switch {
		case !slices.Contains(f.Kind.Info().Shuns, string(m.Fluid)), !r.Part(f):
		case f.Sealed():
			list = append(list, state.Act{Verb: state.KeepShut, Part: f, For: m.Fluid})
		default:
			list = append(list, state.Act{Verb: state.TakeOut, Part: f, For: m.Fluid})
		}
	}
	return list
}
