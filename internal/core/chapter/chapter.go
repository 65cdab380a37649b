// Package chapter drafts a guide: its blocks in the order in which a reader
// needs them, as facts, parts and positions. Words come later.
package chapter

import (
	"context"
	"slices"

	"coldtap/internal/core/draft"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
)

// Block is a piece of a guide.
type Block struct {
	ID     string // stays as long as it is about the same
	Title  fact.Fact
	Hidden []Edition // that a hand left it out of
	Body   Body
}

// Body is what a block says: one of the types of this package.
type Body interface {
	empty() bool
}

// Edition is for whom a chapter is written.
type Edition string

// The editions.
const (
	Owner  Edition = "owner"
	Dealer Edition = "dealer"
)

// Has reports whether an edition has a block.
func (b *Block) Has(e Edition) bool {
	return !slices.Contains(b.Hidden, e)
}

// Draft makes the blocks of a model's chapter but for its procedures: those that have something to say. The error
// is the context's.
func Draft(ctx context.Context, in draft.Inputs) ([]Block, error) {
	trouble, err := symptoms(ctx, in)
	if err != nil {
		return nil, err
	}
	var list []Block
	for _, b := range []Block{
		{ID: "have", Body: have(in.Net)},
		{ID: "where", Body: Elsewhere{}},
		{ID: "points", Body: points(in)},
		{ID: "bypass", Body: bypass(in)},
		{ID: "valves", Body: Elsewhere{}},
		{ID: "procedures", Body: Elsewhere{}},
		{ID: "trouble", Body: trouble},
		{ID: "figures", Body: Elsewhere{}},
		{ID: "stuff", Body: stuff(in.Net)},
	} {
		if !b.Body.empty() {
			b.Title = fact.Of("block." + b.ID)
			list = append(list, b)
		}
	}
	return Apply(list, in.Net.Model.Chapter), nil
}

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
	for _, p := range n.PartsOf(plumbing.RoleFilter, plumbing.RoleSoftener, plumbing.RoleAccumulator, plumbing.RoleMachine) {
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

// Bypass is each heater that can be passed by: its handles as they stand for either.
type Bypass struct{ Handles []Either }

// Either is a handle with its positions for heater in and heater out.
type Either struct {
	Part    *plumbing.Part
	In, Out string
}

func (b Bypass) empty() bool { return len(b.Handles) == 0 }

func bypass(in draft.Inputs) (b Bypass) {
	with, past := setting.ForMode(in.Plan, setting.Everyday), setting.ForMode(in.Plan, setting.Bypassed)
	if with == nil || past == nil || !with.Has() || !past.Has() || len(in.Net.PartsOf(plumbing.RoleHeater)) == 0 {
		return b
	}
	for i, h := range in.Net.AllHandles() {
		if with.State.Handles[i]&past.State.Handles[i] != 0 {
			continue
		}
		b.Handles = append(b.Handles, Either{h.Part, h.Positions[with.State.Position(i)], h.Positions[past.State.Position(i)]})
	}
	return b
}
