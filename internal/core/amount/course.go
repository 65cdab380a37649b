package amount

import (
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/record"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// course is how a mode's job is done: in one setting, or in several that
// follow one another, with what each gets to.
type course struct {
	net    *plumbing.Network
	states []state.State
	reach  []*flow.Reached
}

// courseOf follows a mode's fluid from where it comes, parts taken out of the
// way.
func courseOf(n *plumbing.Network, a *setting.Answer, without ...*plumbing.Part) course {
	read(n, a)
	c := course{net: n, states: a.States()}
	for _, s := range c.states {
		c.reach = append(c.reach, flow.Reach(n, s, flow.Query{From: a.Mode.From, Without: without}))
	}
	return c
}

// read notes that a figure is computed from the positions found for a mode.
func read(n *plumbing.Network, a *setting.Answer) {
	if a != nil {
		n.Note(record.Input{Kind: record.Setting, Of: a.Mode.ID})
	}
}

// answer finds a mode's answer in a plan for a figure that is computed from
// it.
func answer(n *plumbing.Network, plan []setting.Answer, mode string) *setting.Answer {
	a := setting.ForMode(plan, mode)
	read(n, a)
	return a
}

// in is the first setting that gets to a node, None for none.
func (c course) in(node plumbing.NodeID) int {
	for i, r := range c.reach {
		if r.Node(node) {
			return i
		}
	}
	return plumbing.None
}

// node reports whether some setting gets to a node.
func (c course) node(node plumbing.NodeID) bool { return c.in(node) != plumbing.None }

// part reports whether some setting gets to a part.
func (c course) part(p *plumbing.Part) bool {
	for _, r := range c.reach {
		if r.Part(p) {
			return true
		}
	}
	return false
}

// path is the way on which a node is got to, in the first setting that does.
func (c course) path(node plumbing.NodeID) []plumbing.LinkID {
	if i := c.in(node); i != plumbing.None {
		return c.reach[i].Path(node)
	}
	return nil
}

// swept marks the links that something runs through on its way to some nodes,
// in any of the settings.
func (c course) swept(from, to []plumbing.NodeID) []bool {
	marks := make([]bool, len(c.net.Links))
	for _, s := range c.states {
		for _, f := range from {
			for i, yes := range flow.Swept(c.net, s, f, to) {
				marks[i] = marks[i] || yes
			}
		}
	}
	return marks
}
