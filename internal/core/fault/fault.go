// Package fault says what happens in a mode when one thing is not as it should
// be: a handle in another position, a check valve that fails. It is told as a
// person would notice it, with volumes.
package fault

import (
	"cmp"
	"context"
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// Fault is one thing that is wrong.
type Fault struct {
	Part  *plumbing.Part
	Turns []Turn          // handles in another position; none for a check valve
	Link  plumbing.LinkID // of the check valve that fails, None for handles and switches
	Off   state.Pumps     // pumps that stand still: their switch is off, or the battery
	Said  fact.Fact
}

// Turn is a handle of the network in a position.
type Turn struct {
	Handle   plumbing.HandleID
	Position plumbing.Position
}

// Severity says how bad the worst of a fault's effects is.
type Severity int

// From what is noticed at once and put right to what hurts somebody.
const (
	Nuisance Severity = iota
	Waste
	Damage
	Danger
)

func (g Severity) String() string { return [...]string{"nuisance", "waste", "damage", "danger"}[g] }

// Entry is what one or several faults lead to: they have the same effects.
type Entry struct {
	Modes    []*setting.Mode
	Faults   []Fault
	Severity Severity
	Effects  []Effect
}

// InMode finds what one thing wrong leads to in one mode of a plan.
func InMode(ctx context.Context, n *plumbing.Network, a *setting.Answer, plan []setting.Answer) ([]Entry, error) {
	w := newRight(ctx, n, a)
	index := map[string]int{}
	var list []Entry
	for _, f := range append(bypassLeft(n, a, plan), Faults(n, a)...) {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		effects := w.effects(f)
		if len(effects) == 0 {
			continue
		}
		bySeverity(effects)
		e := Entry{Modes: []*setting.Mode{&a.Mode}, Faults: []Fault{f}, Severity: effects[0].Severity, Effects: effects}
		key := keyOf(effects)
		if i, ok := index[key]; ok {
			list[i].Faults = append(list[i].Faults, f)
			continue
		}
		index[key] = len(list)
		list = append(list, e)
	}
	slices.SortStableFunc(list, func(x, y Entry) int { return cmp.Compare(y.Severity, x.Severity) })
	return list, nil
}

// Faults lists what can be wrong while a mode is set: each handle in each of
// its other positions, each check valve letting water back.
func Faults(n *plumbing.Network, a *setting.Answer) []Fault {
	var list []Fault
	for i, h := range n.AllHandles() {
		for pos, name := range h.All() {
			if pos != a.State.Position(i) {
				list = append(list, Fault{Part: h.Part, Turns: []Turn{{i, pos}}, Link: plumbing.None,
					Said: handleSaid(n, h, name)})
			}
		}
	}
	for i, p := range n.Pumps {
		if a.State.Pumps.Has(plumbing.PumpID(i)) {
			list = append(list, Fault{Part: p, Link: plumbing.None, Off: state.Pumps(0).With(plumbing.PumpID(i), true),
				Said: fact.Of("fault.switch-off", p)})
		}
	}
	for _, p := range n.PartsOf(plumbing.RoleIsolator) {
		if a.State.Pumps != 0 {
			list = append(list, Fault{Part: p, Link: plumbing.None, Off: a.State.Pumps,
				Said: fact.Of("fault.isolator-off", p)})
		}
	}
	for i, l := range n.AllLinks() {
		if l.OneWay {
			list = append(list, Fault{Part: l.Part, Link: i, Said: checkSaid(l.Part)})
		}
	}
	return list
}

// bypassLeft is the heater's bypass left as another season has it: where more
// than one handle belongs to it, all of them.
func bypassLeft(n *plumbing.Network, a *setting.Answer, plan []setting.Answer) []Fault {
	in, out := setting.ForMode(plan, setting.Everyday), setting.ForMode(plan, setting.Bypassed)
	if in == nil || out == nil || !in.OK || !out.OK || a.Mode.Drains {
		return nil
	}
	var here, as *setting.Answer
	id := ""
	switch {
	case same(n, a, in, out):
		here, as, id = in, out, "fault.left-bypassed"
	case same(n, a, out, in):
		here, as, id = out, in, "fault.left-in"
	default:
		return nil
	}
	f := Fault{Link: plumbing.None}
	for i := range n.AllHandles() {
		if here.State.Handles[i] != as.State.Handles[i] {
			f.Turns = append(f.Turns, Turn{i, as.State.Position(i)})
		}
	}
	heaters := n.PartsOf(plumbing.RoleHeater)
	if len(f.Turns) < 2 || len(heaters) == 0 {
		return nil // a single handle is told by itself
	}
	f.Part, f.Said = heaters[0], fact.Of(id, heaters[0])
	return []Fault{f}
}

// same reports whether a mode's handles stand as in one answer wherever that
// differs from another.
func same(n *plumbing.Network, a, as, other *setting.Answer) bool {
	for i := range n.AllHandles() {
		if as.State.Handles[i] != other.State.Handles[i] && a.State.Handles[i] != as.State.Handles[i] {
			return false
		}
	}
	return true
}

func handleSaid(n *plumbing.Network, h *plumbing.Handle, position string) fact.Fact {
	p := h.Part
	if p.Role() == plumbing.RoleFrost && position == "open" {
		return fact.Of("fault.frost-valve", p, p.Data.OpensBelow)
	}
	var stays []any
	for _, m := range n.Motors(h) {
		tool := fact.If(m.Tool != "", fact.Of("fault.motor.tool", m.Tool))
		if m == p {
			stays = append(stays, fact.Of("fault.motor.itself", tool))
		} else {
			stays = append(stays, fact.Of("fault.motor", m, tool))
		}
	}
	return fact.Of("fault.handle", p, plumbing.Standing{Part: p, Position: position}, stays)
}

func checkSaid(p *plumbing.Part) fact.Fact {
	if p.Role() == plumbing.RoleCheck {
		return fact.Of("fault.check", p)
	}
	return fact.Of("fault.check-of", p)
}

// Network is the network in which the fault has happened. A check valve that
// fails does not run full: it seeps, by a way of its own beside it.
func (f *Fault) Network(n *plumbing.Network) *plumbing.Network {
	if f.Link < 0 {
		return n
	}
	l := n.Links[f.Link]
	return n.With(plumbing.Link{A: l.B, B: l.A, Part: l.Part, OneWay: true, Handle: l.Handle, Pump: plumbing.None,
		Open: l.Open, Seep: f.Seep()})
}

// Seep is what the check valve that fails lets back, at plumbing.SeepAt.
func (f *Fault) Seep() quantity.LitrePerMinute {
	return f.Part.Data.Seep.Or(plumbing.AssumedSeep)
}

// In is a state in which the fault has happened.
func (f *Fault) In(s state.State) state.State {
	for _, t := range f.Turns {
		s = s.With(t.Handle, t.Position)
	}
	s.Pumps &^= f.Off
	return s
}
