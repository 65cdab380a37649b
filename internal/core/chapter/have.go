package chapter

import (
	"slices"

	"coldtap/internal/core/draft"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
)

// Have is what a camper has, a fact for each thing.
type Have struct{ Lines []fact.Fact }

func (h Have) empty() bool { return len(h.Lines) == 0 }

// have tells of each thing that a reader has to do with, with its figures as far as they are given.
func have(n *plumbing.Network) (h Have) {
	holds := func(id string, p *plumbing.Part) {
		v := plumbing.Field(n, &p.Data.Capacity)
		if v.IsZero() {
			h.Lines = append(h.Lines, fact.Of("have.part", p))
			return
		}
		h.Lines = append(h.Lines, fact.Of(id, p, v.Value()))
	}
	for _, p := range n.PartsOf(plumbing.RoleTank) {
		holds("have.tank", p)
	}
	for _, p := range n.PartsOf(plumbing.RoleHeater) {
		holds("have.heater", p)
		var sources []fact.Fact
		for _, by := range p.HeatBy() {
			sources = append(sources, fact.Of("heat."+string(by)))
		}
		if sources != nil {
			h.Lines = append(h.Lines, fact.Of("have.heat", p, sources))
		}
	}
	for _, p := range n.Pumps {
		h.Lines = append(h.Lines, fact.Of("have.pump", p, plumbing.Field(n, &p.Data.Flow).Value()))
	}
	for _, p := range n.PartsOf(plumbing.RoleFilter, plumbing.RoleSoftener, plumbing.RoleAccumulator,
		plumbing.RoleMachine) {
		h.Lines = append(h.Lines, fact.Of("have.part", p))
	}
	for _, p := range n.PartsOf(plumbing.RoleOutlet) {
		sides := n.SidesOf(p)
		if len(sides) == 1 {
			h.Lines = append(h.Lines, fact.Of("have.outlet.one", p, fact.Word("side."+sides[0])))
			continue
		}
		h.Lines = append(h.Lines, fact.Of("have.outlet", p))
	}
	for _, p := range n.PartsOf(plumbing.RoleWaste) {
		holds("have.waste", p)
	}
	return h
}

// Places are where things are, by the numbers of the layout.
type Places struct{ Parts []*plumbing.Part }

func (p Places) empty() bool { return len(p.Parts) == 0 }

func places(n *plumbing.Network) (list Places) {
	numbers := n.Model.Numbers()
	for _, p := range n.AllParts() {
		if numbers[p.ID] > 0 {
			list.Parts = append(list.Parts, p)
		}
	}
	slices.SortFunc(list.Parts, func(a, b *plumbing.Part) int { return numbers[a.ID] - numbers[b.ID] })
	return list
}

// Lines are sentences, a fact each.
type Lines struct{ Said []fact.Fact }

func (l Lines) empty() bool { return len(l.Said) == 0 }

// before is what must hold before the system is used.
func before(in Inputs) (l Lines) {
	n := in.Net
	add := func(holds bool, f fact.Fact) {
		if holds {
			l.Said = append(l.Said, f)
		}
	}
	drains := n.PartsOf(plumbing.RoleDrain)
	add(len(drains) > 0, fact.Of("before.drains", drains))
	add(in.task("sanitize"), fact.Of("before.sanitize"))
	for _, h := range n.PartsOf(plumbing.RoleHeater) {
		add(true, fact.Of("before.heater", h))
	}
	for _, p := range n.Pumps {
		fuse := plumbing.Field(n, &p.Data.Fuse)
		add(!fuse.IsZero(), fact.Of("before.fuse", p, fuse.Value()))
	}
	weighs, left := in.value("weight"), in.value("weight/left")
	add(!weighs.IsZero(), fact.Of("before.weight", weighs))
	add(!left.IsZero(), fact.Of("before.left", left))
	add(setting.ForMode(in.Plan, setting.City).Has(), fact.Of("before.city"))
	return l
}

// task reports whether a procedure can be had: told as possible while it is being carried out.
func (in *Inputs) task(id string) bool {
	for i := range in.Tasks {
		if in.Tasks[i].ID == id {
			return in.Tasks[i].Has()
		}
	}
	return in.Tasks == nil
}

// Stuff is what is used up, with its order number, and the tools that the parts take.
type Stuff struct {
	Used  []fact.Fact
	Tools []Tool
}

// Tool is a tool and the parts that it is for.
type Tool struct {
	Name  string
	Parts []*plumbing.Part
}

func (s Stuff) empty() bool { return len(s.Used) == 0 && len(s.Tools) == 0 }

func stuff(n *plumbing.Network) (s Stuff) {
	for _, c := range n.Model.Consumables {
		said := fact.Of("stuff.used", c.Name)
		if c.Order != "" {
			said = fact.Of("stuff.ordered", c.Name, c.Order)
		}
		s.Used = append(s.Used, said)
		if c.Life > 0 {
			s.Used[len(s.Used)-1] = fact.Of("stuff.lasts", c.Life, said)
		}
	}
	for _, p := range n.AllParts() {
		if p.Tool == "" {
			continue
		}
		i := 0
		for i < len(s.Tools) && s.Tools[i].Name != p.Tool {
			i++
		}
		if i == len(s.Tools) {
			s.Tools = append(s.Tools, Tool{Name: p.Tool})
		}
		s.Tools[i].Parts = append(s.Tools[i].Parts, p)
	}
	return s
}

// Bypass is each heater that can be passed by: its handles as they stand for either, and how to see which it is.
type Bypass struct {
	Handles []Either
	See     []fact.Fact
}

// Either is a handle with its positions for heater in and heater out.
type Either struct {
	Part    *plumbing.Part
	In, Out string
}

func (b Bypass) empty() bool { return len(b.Handles) == 0 }

func bypass(in draft.Inputs) (b Bypass) {
	with, past := setting.ForMode(in.Plan, setting.Everyday), setting.ForMode(in.Plan, setting.Bypassed)
	heaters := in.Net.PartsOf(plumbing.RoleHeater)
	if with == nil || past == nil || !with.Has() || !past.Has() || len(heaters) == 0 {
		return b
	}
	for i, h := range in.Net.AllHandles() {
		if with.State.Handles[i]&past.State.Handles[i] != 0 {
			continue
		}
		b.Handles = append(b.Handles, Either{h.Part, h.Positions[with.State.Position(i)],
			h.Positions[past.State.Position(i)]})
	}
	for _, h := range heaters {
		b.See = append(b.See, fact.Of("bypass.see", h))
	}
	return b
}
