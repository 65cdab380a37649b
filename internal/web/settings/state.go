package settings

import (
	"context"
	"maps"
	"net/url"
	"slices"
	"strconv"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/scene"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
	"coldtap/internal/web/site"
)

// settingsView is a mode with what was changed away from what was found for
// it. All of it is in the page's address.
type settingsView struct {
	ctx   context.Context
	b     *site.Computed
	a     *setting.Answer
	path  string
	found *scene.Scene
	now   *scene.Scene
	why   int    // number of the clause that is shown, 0 for none
	fault int    // number of the fault that is shown, 0 for none
	pane  string // the one pane of the rail that is asked for; "" for all
}

// newSettingsView reads the changes of an address.
func newSettingsView(ctx context.Context, b *site.Computed, a *setting.Answer, q url.Values) (*settingsView, error) {
	v := &settingsView{ctx: ctx, b: b, a: a, path: "/models/" + url.PathEscape(b.Row.Slug) + "/settings"}
	handles := a.State.Handles
	if !a.Has() {
		handles = state.Normal(b.Net).Handles
		if e := setting.ForMode(b.Plan, setting.Everyday); e != nil && e.OK {
			handles = e.State.Handles
		}
	}
	v.found = scene.AsMeant(b.Net, &a.Mode, handles)
	v.why, _ = strconv.Atoi(q.Get("why"))
	v.fault, _ = strconv.Atoi(q.Get("fault"))
	v.pane = q.Get("pane")
	text := map[string][]string{}
	for key, value := range q {
		text[key] = state.Words(value[0])
	}
	now, err := state.Read(b.Net, v.found.State, a.Mode.Fluid, text)
	if err != nil {
		return nil, err
	}
	v.now = v.with(now)
	return v, nil
}

// with is the scene in another state.
func (v *settingsView) with(s state.State) *scene.Scene {
	sc := *v.found
	if v.now != nil {
		sc.Net = v.now.Net // with the fault that is shown
	}
	sc.State = s
	return &sc
}

// query writes a scene as the page's address; more is added to it.
func (v *settingsView) query(s *scene.Scene, more ...string) string {
	q := "?mode=" + url.QueryEscape(v.a.Mode.ID)
	if build := v.b.Chosen(); build != "" {
		q += "&" + build
	}
	text := state.Write(v.b.Net, v.found.State, s.State)
	for _, key := range slices.Sorted(maps.Keys(text)) {
		q += "&" + key + "=" + url.QueryEscape(state.Text(text[key]))
	}
	for _, m := range more {
		q += "&" + m
	}
	return q
}

// turned is the scene with a handle in its next position.
func (v *settingsView) turned(h plumbing.HandleID) *scene.Scene {
	return v.with(v.now.With(h, v.b.Net.Handles[h].Next(v.now.Position(h))))
}

// opened is the scene with an outlet's sides open or shut.
func (v *settingsView) opened(p *plumbing.Part, sides ...string) *scene.Scene {
	s := v.now.State
	for _, side := range v.b.Net.SidesOf(p) {
		s = s.WithOpen(v.b.Net.Node(p.ID+"."+side), slices.Contains(sides, side))
	}
	return v.with(s)
}

// pumped is the scene with a pump switched on or off.
func (v *settingsView) pumped(p plumbing.PumpID, on bool) *scene.Scene {
	s := v.now.State
	s.Pumps = s.Pumps.With(p, on)
	return v.with(s)
}

// joined is the scene with something else joined to a port.
func (v *settingsView) joined(mouth plumbing.NodeID, kind state.ConnectionKind) *scene.Scene {
	c := state.ConnectionOf(v.b.Net.Nodes[mouth].Part, kind, v.a.Mode.Fluid)
	if was := v.found.Joined[mouth]; was.Kind == kind {
		c = was
	}
	return v.with(v.now.WithJoined(mouth, c))
}

// joints lists what a port is offered: what it can be joined to by hand in any
// mode, and what this mode joins to it.
func (v *settingsView) joints(mouth plumbing.NodeID) []state.ConnectionKind {
	node := v.b.Net.Nodes[mouth]
	if node.Port != "mouth" || node.Part.Role() == plumbing.RoleJoint && !v.apart(node.Part) {
		return nil
	}
	found, now := v.found.Joined[mouth].Kind, v.now.Joined[mouth].Kind
	return slices.DeleteFunc(state.Choices(v.b.Net.Nodes[mouth].Part), func(k state.ConnectionKind) bool {
		return (k == state.HandPump || k == state.Compressed) && k != found && k != now
	})
}

// apart reports whether a joint is taken apart.
func (v *settingsView) apart(p *plumbing.Part) bool {
	h := v.b.Net.HandleOf(p.ID)
	return v.now.Position(h) == v.b.Net.Handles[h].Index("apart")
}

// choices lists the ways an outlet can stand, the present one first found by
// its sides.
func choices(n *plumbing.Network, p *plumbing.Part) [][]string {
	list := [][]string{nil}
	sides := n.SidesOf(p)
	for _, side := range sides {
		list = append(list, []string{side})
	}
	if len(sides) > 1 {
		list = append(list, sides)
	}
	return list
}

// choiceWords names a way an outlet can stand.
func choiceWords(sides []string) string {
	switch len(sides) {
	case 0:
		return "shut"
	case 1:
		return sides[0]
	}
	return "half-way"
}

// sidesOpen lists an outlet's open sides.
func (v *settingsView) sidesOpen(p *plumbing.Part) []string {
	return slices.DeleteFunc(v.b.Net.SidesOf(p), func(side string) bool {
		return !v.now.Open[v.b.Net.Node(p.ID+"."+side)]
	})
}
