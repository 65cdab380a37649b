package procedure

import (
	"cmp"
	"slices"
	"strings"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// wasteTanks, heaters … are short for the network's parts of a kind.
func (g *generator) parts(roles ...plumbing.Role) []*plumbing.Part { return g.Net.PartsOf(roles...) }

// drainsBeside lists drains that a line joins to a part of a role.
func (g *generator) drainsBeside(role plumbing.Role) []*plumbing.Part {
	var list []*plumbing.Part
	for _, d := range g.parts(plumbing.RoleDrain) {
		if g.beside(d, role) {
			list = append(list, d)
		}
	}
	return list
}

// lowPoints lists the drains of the lines: those of tank and heater are left out.
func (g *generator) lowPoints() []*plumbing.Part {
	var list []*plumbing.Part
	for _, d := range g.parts(plumbing.RoleDrain) {
		if !g.beside(d, plumbing.RoleTank) && !g.beside(d, plumbing.RoleHeater) {
			list = append(list, d)
		}
	}
	return list
}

func (g *generator) beside(p *plumbing.Part, role plumbing.Role) bool {
	node := g.Net.Node(p.ID + ".in")
	if node < 0 {
		return false
	}
	return slices.ContainsFunc(g.Net.Nodes[node].Links, func(li plumbing.LinkID) bool {
		return g.Net.Nodes[g.Net.Links[li].Other(node)].Part.Role() == role
	})
}

// outletSides is an outlet with the sides it has.
type outletSides struct {
	part *plumbing.Part
	cold bool
	hot  bool
	far  float64 // millimetres of line from the source
}

func (o outletSides) words(hotFirst bool) string {
	switch {
	case o.cold && o.hot && hotFirst:
		return "hot, then cold"
	case o.cold && o.hot:
		return "cold, then hot"
	case o.hot:
		return "hot"
	default:
		return "cold"
	}
}

// outlets lists what water is wanted at, the farthest from the source first.
func (g *generator) outlets(s state.State, from []plumbing.NodeID) []outletSides {
	s.Pumps = state.AllPumps(g.Net)
	r := flow.Reach(g.Net, s, flow.Query{From: from})
	of := map[*plumbing.Part]*outletSides{}
	var list []*outletSides
	for i, n := range g.Net.AllNodes() {
		if !n.Part.Kind.Info().Target || !r.Node(i) {
			continue
		}
		o := of[n.Part]
		if o == nil {
			o = &outletSides{part: n.Part}
			of[n.Part] = o
			list = append(list, o)
		}
		o.cold = o.cold || n.Port == "cold"
		o.hot = o.hot || n.Port == "hot"
		far := 0.0
		for _, li := range r.Path(i) {
			if l := g.Net.Links[li].Line; l != nil {
				far += float64(l.Length.Value())
			}
		}
		o.far = max(o.far, far)
	}
	slices.SortStableFunc(list, func(a, b *outletSides) int { return cmp.Compare(b.far, a.far) })
	out := make([]outletSides, len(list))
	for i, o := range list {
		out[i] = *o
	}
	return out
}

// names joins part names into running text: "kitchen tap, basin tap and shower".
func names(parts []*plumbing.Part) string {
	var list []string
	for _, p := range parts {
		list = append(list, plumbing.NoArticle(p.Name))
	}
	return join(list)
}

func join(list []string) string {
	switch len(list) {
	case 0:
		return ""
	case 1:
		return list[0]
	}
	return strings.Join(list[:len(list)-1], ", ") + " and " + list[len(list)-1]
}
