package web

import (
	"context"
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/scene"
	"coldtap/internal/core/setting"
)

// settingsView is a mode with what was changed away from what was found for
// it. All of it is in the page's address.
type settingsView struct {
	ctx   context.Context
	b     *bench
	a     *setting.Answer
	path  string
	found *scene.State
	now   *scene.State
	why   int // number of the clause that is shown, 0 for none
	fault int // number of the fault that is shown, 0 for none
}

// newSettingsView reads the changes of an address.
func newSettingsView(ctx context.Context, b *bench, a *setting.Answer, q url.Values) (*settingsView, error) {
	v := &settingsView{ctx: ctx, b: b, a: a, path: "/models/" + url.PathEscape(b.Row.Slug) + "/settings"}
	set := a.Setting
	if !a.Has() {
		set = flow.Normal(b.Net)
		if e := setting.Of(b.Plan, setting.Everyday); e != nil && e.OK {
			set = e.Setting
		}
	}
	v.found = scene.Begin(b.Net, &a.Mode, set)
	now := *v.found
	v.now = &now
	v.why, _ = strconv.Atoi(q.Get("why"))
	v.fault, _ = strconv.Atoi(q.Get("fault"))
	for _, read := range []func(url.Values) error{v.readHandles, v.readOpen, v.readPump, v.readPorts} {
		if err := read(q); err != nil {
			return nil, err
		}
	}
	return v, nil
}

// list splits "a.b,c.d"; an empty text has no entries.
func list(text string) []string {
	return slices.DeleteFunc(strings.Split(text, ","), func(s string) bool { return s == "" || s == "-" })
}

func (v *settingsView) readHandles(q url.Values) error {
	n := v.b.Net
	for _, change := range list(q.Get("set")) {
		id, pos := plumbing.PartOf(change)
		h := n.HandleOf(id)
		if h < 0 || n.Handles[h].Index(pos) < 0 {
			return fmt.Errorf("there is no handle %q with a position %q on this model", id, pos)
		}
		v.now.Setting = v.now.Setting.With(h, n.Handles[h].Index(pos))
	}
	return nil
}

func (v *settingsView) readOpen(q url.Values) error {
	if !q.Has("open") {
		return nil
	}
	v.now.Open = map[plumbing.NodeID]bool{}
	for _, side := range list(q.Get("open")) {
		node := v.b.Net.Node(side)
		if node < 0 || !v.b.Net.Nodes[node].Part.Kind.Info().Target {
			return fmt.Errorf("there is no outlet side %q on this model", side)
		}
		v.now.Open[node] = true
	}
	return nil
}

func (v *settingsView) readPump(q url.Values) error {
	switch pump := q.Get("pump"); pump {
	case "":
	case "on", "off":
		v.now.Pump = pump == "on"
	default:
		return fmt.Errorf("a pump is on or off, not %q", pump)
	}
	return nil
}

func (v *settingsView) readPorts(q url.Values) error {
	if !q.Has("at") {
		return nil
	}
	v.now.At = map[plumbing.NodeID]scene.Joint{}
	for _, joint := range list(q.Get("at")) {
		id, kind := plumbing.PartOf(joint)
		node := v.b.Net.Node(id + ".mouth")
		if node < 0 || !v.joinable(node, scene.Joint(kind)) {
			return fmt.Errorf("there is no port %q that takes %q on this model", id, kind)
		}
		v.now.At[node] = scene.Joint(kind)
	}
	return nil
}

func (v *settingsView) joinable(node plumbing.NodeID, j scene.Joint) bool {
	p := v.b.Net.Nodes[node].Part
	return slices.Contains(scene.Joints(p), j) || p.Kind == plumbing.Union && j == scene.Jug
}

// query writes a state as the page's address; more is added to it.
func (v *settingsView) query(s *scene.State, more ...string) string {
	n := v.b.Net
	q := "?mode=" + url.QueryEscape(v.a.Mode.ID)
	if build := v.b.Build(); build != "" {
		q += "&" + build
	}
	var set []string
	for i, h := range n.AllHandles() {
		if s.Setting.Handles[i] != v.found.Setting.Handles[i] {
			set = append(set, h.Part.ID+"."+h.Positions[s.Setting.Position(i)])
		}
	}
	add := func(key string, list []string) {
		if list == nil {
			list = []string{"-"}
		}
		q += "&" + key + "=" + url.QueryEscape(strings.Join(list, ","))
	}
	if set != nil {
		add("set", set)
	}
	if !sameOpen(s.Open, v.found.Open) {
		add("open", openSides(n, s.Open))
	}
	if s.Pump != v.found.Pump {
		q += "&pump=" + onOff(s.Pump)
	}
	if !sameJoints(s.At, v.found.At) {
		var joints []string
		for i, node := range n.AllNodes() {
			if j := s.At[i]; j != "" && j != scene.Closed {
				joints = append(joints, node.Part.ID+"."+string(j))
			}
		}
		add("at", joints)
	}
	for _, m := range more {
		q += "&" + m
	}
	return q
}

func openSides(n *plumbing.Network, open map[plumbing.NodeID]bool) []string {
	var sides []string
	for i, node := range n.AllNodes() {
		if open[i] {
			sides = append(sides, node.Name())
		}
	}
	return sides
}

func sameOpen(a, b map[plumbing.NodeID]bool) bool {
	for _, m := range []map[plumbing.NodeID]bool{a, b} {
		for k := range m {
			if a[k] != b[k] {
				return false
			}
		}
	}
	return true
}

func sameJoints(a, b map[plumbing.NodeID]scene.Joint) bool {
	at := func(m map[plumbing.NodeID]scene.Joint, k plumbing.NodeID) scene.Joint {
		if m[k] == "" {
			return scene.Closed
		}
		return m[k]
	}
	for _, m := range []map[plumbing.NodeID]scene.Joint{a, b} {
		for k := range m {
			if at(a, k) != at(b, k) {
				return false
			}
		}
	}
	return true
}

func onOff(on bool) string {
	if on {
		return "on"
	}
	return "off"
}

// turned is the state with a handle in its next position.
func (v *settingsView) turned(h plumbing.HandleID) *scene.State {
	s := *v.now
	s.Setting = s.Setting.With(h, v.b.Net.Handles[h].Next(s.Setting.Position(h)))
	return &s
}

// opened is the state with an outlet's sides open or shut.
func (v *settingsView) opened(p *plumbing.Part, sides ...string) *scene.State {
	s := *v.now
	s.Open = map[plumbing.NodeID]bool{}
	for k, yes := range v.now.Open {
		if yes && v.b.Net.Nodes[k].Part != p {
			s.Open[k] = true
		}
	}
	for _, side := range sides {
		s.Open[v.b.Net.Node(p.ID+"."+side)] = true
	}
	return &s
}

func (v *settingsView) pumped(on bool) *scene.State {
	s := *v.now
	s.Pump = on
	return &s
}

func (v *settingsView) joined(node plumbing.NodeID, j scene.Joint) *scene.State {
	s := *v.now
	s.At = map[plumbing.NodeID]scene.Joint{}
	for k, x := range v.now.At {
		s.At[k] = x
	}
	s.At[node] = j
	return &s
}

// choices lists the ways an outlet can stand, the present one first found by
// its sides.
func choices(n *plumbing.Network, p *plumbing.Part) [][]string {
	cold, hot := n.Joined(n.Node(p.ID+".cold")), n.Joined(n.Node(p.ID+".hot"))
	list := [][]string{nil}
	if cold {
		list = append(list, []string{"cold"})
	}
	if hot {
		list = append(list, []string{"hot"})
	}
	if cold && hot {
		list = append(list, []string{"cold", "hot"})
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
	var sides []string
	for _, side := range []string{"cold", "hot"} {
		if v.now.Open[v.b.Net.Node(p.ID+"."+side)] {
			sides = append(sides, side)
		}
	}
	return sides
}
