package chapter

import (
	"context"
	"fmt"
	"slices"

	"coldtap/internal/core/draft"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/fault"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
)

// Troubles tell what somebody notices, what may be wrong on this plumbing, and what to do.
type Troubles struct{ Rows []Symptom }

// Symptom is one thing that is noticed: an effect of something wrong, or a fact where equipment tells it.
type Symptom struct {
	Effect *fault.Effect // with the figures of the first way of use; nil where Said says it
	Said   fact.Fact
	Modes  []fact.Fact // ways of use in which it is so
	Causes []Cause
}

// Cause is what may be wrong, and what to do.
type Cause struct {
	Said  fact.Fact
	Do    fact.Fact
	Modes []fact.Fact // ways of use in which it is one; nil where that is no matter
}

func (t Troubles) empty() bool { return len(t.Rows) == 0 }

// used are the ways of use in which an owner notices something.
var used = []string{setting.Everyday, setting.City, setting.FillGravity, setting.FillPressure, setting.FillContainer,
	setting.BackFill, setting.FillBarrel}

// symptoms turns what one thing wrong leads to around: the effect first, then its causes.
func symptoms(ctx context.Context, in draft.Inputs) (t Troubles, err error) {
	at := map[string]int{}
	for _, id := range used {
		a := setting.ForMode(in.Plan, id)
		if a == nil || !a.OK {
			continue
		}
		entries, err := fault.InMode(ctx, in.Net, a, in.Plan)
		if err != nil {
			return t, err
		}
		for _, e := range entries {
			for k := range e.Effects {
				effect := &e.Effects[k]
				i, there := at[alike(effect)]
				if !there {
					i, at[alike(effect)] = len(t.Rows), len(t.Rows)
					t.Rows = append(t.Rows, Symptom{Effect: effect})
				}
				row := &t.Rows[i]
				if !slices.ContainsFunc(row.Modes, func(f fact.Fact) bool { return f.Key() == a.Mode.Name.Key() }) {
					row.Modes = append(row.Modes, a.Mode.Name)
				}
				for _, f := range e.Faults {
					row.add(Cause{f.Said, remedy(in.Net, a, &f), []fact.Fact{a.Mode.Name}})
				}
			}
		}
	}
	slices.SortStableFunc(t.Rows, func(a, b Symptom) int { return int(b.Effect.Severity) - int(a.Effect.Severity) })
	t.Rows = append(equipment(in.Net), t.Rows...)
	return t, nil
}

// alike is the same for effects that somebody takes for the same: of one kind at one place, however much it is.
func alike(e *fault.Effect) string {
	name := func(p *plumbing.Part) string {
		if p == nil {
			return ""
		}
		return p.ID
	}
	return fmt.Sprintln(e.What, e.Fluid, name(e.Part), e.Sides, name(e.From), name(e.Frost), name(e.Loses), e.Harm)
}

// add adds a cause; one that is there with the same remedy is so in another way of use too.
func (s *Symptom) add(c Cause) {
	for i := range s.Causes {
		if o := &s.Causes[i]; o.Said.Key() == c.Said.Key() && o.Do.Key() == c.Do.Key() {
			if !slices.ContainsFunc(o.Modes, func(f fact.Fact) bool { return f.Key() == c.Modes[0].Key() }) {
				o.Modes = append(o.Modes, c.Modes...)
			}
			return
		}
	}
	s.Causes = append(s.Causes, c)
}

// Only are the ways of use in which a cause is one, where the symptom has others; nil where it is one in all.
func (s *Symptom) Only(c *Cause) []fact.Fact {
	if len(c.Modes) < len(s.Modes) {
		return c.Modes
	}
	return nil
}

// remedy is what to do about a fault in a way of use.
func remedy(n *plumbing.Network, a *setting.Answer, f *fault.Fault) fact.Fact {
	switch {
	case f.Link >= 0:
		return fact.Of("do.replace", f.Part)
	case f.Off != 0:
		return fact.Of("do.switch-on", f.Part)
	}
	var to []fact.Fact
	for _, t := range f.Turns {
		h := &n.Handles[t.Handle]
		to = append(to, fact.Of("do.turn", h.Part,
			plumbing.Standing{Part: h.Part, Position: h.Positions[a.State.Position(t.Handle)]}))
	}
	if len(to) == 1 {
		return to[0]
	}
	return fact.Of("do.turn-all", to)
}

// equipment are the troubles that come back, of what this camper has.
func equipment(n *plumbing.Network) (list []Symptom) {
	row := func(id string, causes ...Cause) {
		if len(causes) > 0 {
			list = append(list, Symptom{Said: fact.Of("trouble." + id), Causes: causes})
		}
	}
	each := func(said, do string, roles ...plumbing.Role) (causes []Cause) {
		for _, p := range n.PartsOf(roles...) {
			causes = append(causes, Cause{Said: fact.Of(said, p), Do: fact.Of(do, p)})
		}
		return causes
	}
	if len(n.Pumps) > 0 {
		var silent []Cause
		for _, p := range n.Pumps {
			if fuse := plumbing.Field(n, &p.Data.Fuse); !fuse.IsZero() {
				silent = append(silent, Cause{Said: fact.Of("cause.fuse", p), Do: fact.Of("do.fuse", fuse.Value())})
			}
		}
		silent = append(silent, each("cause.isolator", "do.isolator", plumbing.RoleIsolator)...)
		silent = append(silent, Cause{Said: fact.Of("cause.battery"), Do: fact.Of("do.battery")})
		row("pump-silent", silent...)
		cycles := append([]Cause{{Said: fact.Of("cause.air"), Do: fact.Of("do.bleed")},
			{Said: fact.Of("cause.leak"), Do: fact.Of("do.leak")}},
			each("cause.strainer-cap", "do.strainer-cap", plumbing.RoleStrainer)...)
		row("pump-cycles", append(cycles, each("cause.check", "do.replace", plumbing.RoleCheck)...)...)
	}
	weak := each("cause.strainer", "do.strainer", plumbing.RoleStrainer)
	weak = append(weak, each("cause.cartridge", "do.cartridge", plumbing.RoleFilter)...)
	if len(n.PartsOf(plumbing.RoleOutlet)) > 0 {
		weak = append(weak, Cause{Said: fact.Of("cause.aerator"), Do: fact.Of("do.aerator")})
	}
	row("weak", weak...)
	row("under-floor", each("cause.overflow", "do.overflow", plumbing.RoleVent)...)
	row("level-wrong", each("cause.probe", "do.probe", plumbing.RoleProbe)...)
	return list
}
