package setting

import (
	"fmt"
	"slices"
	"strings"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// TargetName names what a clause is about: "Kitchen tap, hot".
func (c *Clause) TargetName() string {
	if c.Side == "" {
		return c.Target.Name
	}
	return c.Target.Name + ", " + c.Side
}

// Words say what the clause asks.
func (c *Clause) Words(fluid state.Fluid) string {
	t := c.TargetName()
	switch c.Aim {
	case Served:
		return fmt.Sprintf("%s gets %s", t, fluid)
	case HeaterIn, TankIn:
		return fmt.Sprintf("%s gets %s", t, fluid)
	case OnlyByHeater:
		return fmt.Sprintf("%s is fed only through the heater", t)
	case HeaterOut:
		return fmt.Sprintf("%s gets no %s", t, fluid)
	case TankOut:
		return fmt.Sprintf("no %s runs into %s", fluid, lower(t))
	case NoSpill:
		return fmt.Sprintf("nothing runs out at %s", lower(t))
	case RunsOut:
		return fmt.Sprintf("%s can run out at an open drain", t)
	case KeptOff:
		return fmt.Sprintf("%s gets none of the strong %s", t, fluid)
	case Spared:
		return fmt.Sprintf("%s is spared the %s", t, fluid)
	case Joined:
		return fmt.Sprintf("%s is joined to the other tank below the water", t)
	case Apart:
		return fmt.Sprintf("no other tank's water runs into %s", lower(t))
	case FilterIn:
		return fmt.Sprintf("%s gets %s", t, fluid)
	case OnlyByFilter:
		return fmt.Sprintf("%s is fed only through the filter", t)
	case FilterOut:
		return fmt.Sprintf("no %s runs through %s", fluid, lower(t))
	default:
		return fmt.Sprintf("the pump draws nothing from %s", lower(t))
	}
}

// breachWords say what a person would notice when the clause is broken.
func breachWords(n *plumbing.Network, m *Mode, c *Clause) string {
	t := c.TargetName()
	switch c.Aim {
	case Served:
		return fmt.Sprintf("%s: no %s comes.", t, m.Fluid)
	case HeaterIn:
		return fmt.Sprintf("%s gets no %s. Heat on would ruin it.", t, m.Fluid)
	case TankIn:
		return fmt.Sprintf("No %s gets into %s.", m.Fluid, lower(t))
	case OnlyByHeater:
		return fmt.Sprintf("%s is also fed past the heater: it stays lukewarm.", t)
	case HeaterOut:
		return fmt.Sprintf("%s would fill with %s.", t, m.Fluid)
	case TankOut:
		return fmt.Sprintf("%s would run into %s.", upper(string(m.Fluid)), lower(t))
	case NoSpill:
		if n.Nodes[c.From[0]].Part.Role() == plumbing.RoleTank {
			return fmt.Sprintf("The tank would run out at %s.", lower(t))
		}
		return fmt.Sprintf("%s would run out at %s.", upper(string(m.Fluid)), lower(t))
	case RunsOut:
		return fmt.Sprintf("%s has no way out: it stays full.", t)
	case Spared:
		return fmt.Sprintf("%s would take %s, which ruins it.", t, m.Fluid)
	case Joined:
		return fmt.Sprintf("%s is not joined to %s.", t, lower(n.Nodes[c.From[0]].Part.Name))
	case Apart:
		return fmt.Sprintf("Water of %s would run into %s.", lower(n.Nodes[c.From[0]].Part.Name), lower(t))
	case FilterIn:
		return fmt.Sprintf("No %s gets to %s.", m.Fluid, lower(t))
	case OnlyByFilter:
		return fmt.Sprintf("%s is also fed past the filter.", t)
	case FilterOut:
		return fmt.Sprintf("%s would run through %s as well.", upper(string(m.Fluid)), lower(t))
	case KeptOff:
		return fmt.Sprintf("%s would get the strong %s before it is thinned in the tank.", t, m.Fluid)
	default:
		switch {
		case c.Target.Role() == plumbing.RoleTank && m.Fluid == "water":
			return fmt.Sprintf("The pump would draw from %s as well.", lower(t))
		case c.Target.Role() == plumbing.RoleTank:
			return fmt.Sprintf("The pump would draw from %s as well: its water thins the %s.", lower(t), m.Fluid)
		}
		return fmt.Sprintf("The pump would draw air at %s.", lower(t))
	}
}

// explain says why no setting meets a mode's goal, from the smallest set of
// clauses that can't be met together. Where a must and a must-not collide in
// one part that every way runs through, it names the part.
func explain(n *plumbing.Network, m *Mode, core []Clause) string {
	if core == nil {
		return ""
	}
	var must, not []Clause
	for _, c := range core {
		if c.Must {
			must = append(must, c)
		} else {
			not = append(not, c)
		}
	}
	every := undecided(n, m.Fixed, m.Start.Pumps)
	if len(must) == 0 {
		// A must-not that fails alone: where it is the heater, a hot side that is
		// fed only through it tells why no valve could help.
		must = servedHot(m)
	}
	for _, c := range must {
		from := lower(n.Nodes[c.From[0]].Part.Name)
		if len(not) == 0 && len(must) == 1 {
			return fmt.Sprintf("No way leads from %s to %s, however the handles stand.", from, lower(c.TargetName()))
		}
		for _, x := range not {
			if x.Target == c.Target {
				continue
			}
			r := flow.Reach(n, every, flow.Query{From: c.From, Without: append([]*plumbing.Part{x.Target}, c.Without...)})
			if hitNode(r, c.To) < 0 {
				why := fmt.Sprintf("Every way from %s to %s runs through %s", from, lower(c.TargetName()), lower(x.Target.Name))
				if x.Target.Role() == plumbing.RoleHeater {
					why += ": this heater has no bypass"
				}
				return why + "."
			}
		}
	}
	for _, x := range not {
		q := x.Query()
		q.View = state.Must
		r := flow.Reach(n, every, q)
		if hitNode(r, x.To) >= 0 {
			return fmt.Sprintf("From %s an open way that no handle shuts leads to %s.", lower(n.Nodes[x.From[0]].Part.Name), lower(x.Target.Name))
		}
	}
	var all []string
	for i := range core {
		all = append(all, core[i].Words(m.Fluid))
	}
	return "No position of the handles gives all of these at once: " + strings.Join(all, "; ") + "."
}

// Words tell what a turn of a sequence does: what it serves, or lets out.
func (t *Turn) Words(n *plumbing.Network, m *Mode) string {
	if m.Drains {
		if t.Out == 0 {
			return "most runs out"
		}
		return quantity.Both(t.Out, n.Model.System()) + " more runs out"
	}
	var list []string
	for i := range t.Meets {
		list = append(list, t.Meets[i].TargetName())
	}
	for i, p := range n.Pumps { // a later pump sends it through itself, to what has it already
		if t.Meets == nil && t.State.Pumps.Has(plumbing.PumpID(i)) {
			list = append(list, lower(p.Name)+" and what leads to it")
		}
	}
	return fmt.Sprintf("%s gets to %s", m.Fluid, strings.Join(list, "; "))
}

func lower(name string) string { return plumbing.Lower(name) }

func upper(text string) string { return plumbing.Upper(text) }

// servedHot lists the clauses that ask for something at a hot side.
func servedHot(m *Mode) []Clause {
	var list []Clause
	for _, c := range m.Clauses {
		if c.Aim == Served && c.Side == "hot" {
			list = append(list, c)
		}
	}
	return list
}

// Tell gives the words of breaches in order, those that say the same of several
// outlet sides in one.
func Tell(m *Mode, list []Breach) []string {
	var words []string
	done := map[Aim]bool{}
	for _, b := range list {
		aim := b.Clause.Aim
		if aim != Served && aim != OnlyByHeater {
			words = append(words, b.Words)
			continue
		}
		if done[aim] {
			continue
		}
		done[aim] = true
		var who []string
		for _, x := range list {
			if x.Clause.Aim == aim {
				who = append(who, plumbing.NoArticle(x.Clause.Target.Name)+" "+x.Clause.Side)
			}
		}
		all := upper(strings.Join(who, ", "))
		switch {
		case aim == Served:
			words = append(words, fmt.Sprintf("%s: no %s comes.", all, m.Fluid))
		case len(who) == 1:
			words = append(words, all+" is also fed past the heater: it stays lukewarm.")
		default:
			words = append(words, all+" are also fed past the heater: they stay lukewarm.")
		}
	}
	return words
}

// Wrong tells what is wrong in the best setting there is, in places and
// litres; none for a setting that meets its goal.
func (a *Answer) Wrong(n *plumbing.Network) []string {
	if a.OK || !a.Has() {
		return nil
	}
	sys := n.Model.System()
	words := Tell(&a.Mode, a.Broken)
	for _, b := range a.Broken {
		switch b.Clause.Aim {
		case HeaterOut:
			words = append(words, fmt.Sprintf("%s takes up to %s.", b.Clause.Target.Name, quantity.Both(b.Clause.Target.Holds(), sys)))
		case TankOut:
			words = append(words, fmt.Sprintf("%s takes what runs back, up to %s.", b.Clause.Target.Name, quantity.Both(b.Clause.Target.Holds(), sys)))
		}
	}
	if stays := a.untouched(n); stays > 0 {
		words = append(words, fmt.Sprintf("%s of line is not reached by the %s.", quantity.Both(stays, sys), a.Mode.Fluid))
	}
	return words
}

// untouched is the content of the lines to sides that a mode should serve and
// does not: what its source could reach with every handle open, and does not as
// they stand.
func (a *Answer) untouched(n *plumbing.Network) (v quantity.Litre) {
	if !slices.ContainsFunc(a.Broken, func(b Breach) bool { return b.Clause.Aim == Served }) {
		return 0
	}
	s := a.State
	now := flow.Reach(n, s, flow.Query{From: a.Mode.From})
	var to []plumbing.NodeID
	for _, b := range a.Broken {
		if b.Clause.Aim == Served {
			to = append(to, b.Clause.To...)
		}
	}
	leads := walkBack(n, undecided(n, a.Mode.Fixed, state.AllPumps(n)), to)
	for _, l := range n.AllLinks() {
		if l.Line != nil && l.Line.Side != plumbing.Air && !now.Node(l.A) && !now.Node(l.B) && leads[l.A] && leads[l.B] {
			v += n.Content(l)
		}
	}
	return v
}

func walkBack(n *plumbing.Network, s state.State, to []plumbing.NodeID) []bool {
	w := newWalker(n)
	return w.spread(n, s, flow.Query{}, to, false, nil)
}
