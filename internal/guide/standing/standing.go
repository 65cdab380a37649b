// Package standing tells what a guide says that no longer holds: old against
// new, by what its blocks stand on.
package standing

import (
	"context"
	"encoding/json"
	"maps"
	"slices"
	"strings"

	"coldtap/internal/core/chapter"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/record"
	"coldtap/internal/core/words"
	"coldtap/internal/guide"
	"coldtap/internal/guide/said"
)

// Standing is what of a guide no longer holds.
type Standing struct {
	List    []Broken `json:"list,omitempty"`
	Changed []Change `json:"changed,omitempty"` // of what it stands on, told or not
}

// Broken is a line that no longer holds.
type Broken struct {
	said.Difference
	Danger  bool   `json:"danger,omitempty"`
	Why     string `json:"why,omitempty"`     // it is a danger
	Because []int  `json:"because,omitempty"` // numbers of changes that its block stands on
}

// Change is something that a guide stands on and that is another now.
type Change struct {
	Kind  record.Kind `json:"kind"`
	Of    string      `json:"of,omitempty"`
	Field string      `json:"field,omitempty"`
	Was   string      `json:"was"`
	Is    string      `json:"is"`
}

// Dangers is how many lines are a danger.
func (s *Standing) Dangers() (n int) {
	for i := range s.List {
		if s.List[i].Danger {
			n++
		}
	}
	return n
}

// Blocks are the ids of the blocks that no longer hold, in order.
func (s *Standing) Blocks() (ids []string) {
	for i := range s.List {
		if id := s.List[i].Block; !slices.Contains(ids, id) {
			ids = append(ids, id)
		}
	}
	return ids
}

// Now is a build as it is: what its guide is drafted from, with its procedures and the looks at them where they are
// at hand.
type Now struct {
	In      chapter.Inputs
	Options guide.Options
	Program string // tells this program from others
	Carry   Carry  // carries procedures out; nil for chapter.Carry
}

// Carry carries out the procedures that are not known.
type Carry func(ctx context.Context, known map[string]chapter.Look) (*chapter.Carried, error)

// Said is what a guide says now, whole.
func (n *Now) Said(ctx context.Context) (*said.Guide, error) {
	if err := n.carry(ctx, nil); err != nil {
		return nil, err
	}
	g, err := n.said(ctx)
	if err != nil {
		return nil, err
	}
	for _, f := range n.In.AllFigures() {
		if low, high, ok := n.In.Numbers(f.ID); ok {
			g.Figures = append(g.Figures, said.Number{ID: f.ID, Low: low, High: high})
		}
	}
	return g, nil
}

func (n *Now) said(ctx context.Context) (*said.Guide, error) {
	us, si, err := guide.Both(ctx, n.In, n.Options)
	if err != nil {
		return nil, err
	}
	is, err := chapter.NewIs(&n.In, n.Program)
	if err != nil {
		return nil, err
	}
	return said.Of(us, si, is.Of, n.In.Looks)
}

// carry carries out the procedures that are not known, unless all are at hand.
func (n *Now) carry(ctx context.Context, known map[string]chapter.Look) error {
	if n.In.Tasks != nil && n.In.Looks != nil {
		return nil
	}
	carry := n.Carry
	if carry == nil {
		carry = func(ctx context.Context, known map[string]chapter.Look) (*chapter.Carried, error) {
			return chapter.Carry(ctx, n.In.Inputs, known)
		}
	}
	c, err := carry(ctx, known)
	if err != nil {
		return err
	}
	n.In.Tasks, n.In.Looks = c.Tasks, c.Looks
	return nil
}

// CheckAll holds what a guide said in several editions against a build as it is now. Only blocks that stand on something
// that changed are made anew, and only procedures that do are carried out, once for all editions.
func CheckAll(ctx context.Context, was []*said.Guide, of []chapter.Edition, now Now) ([]*Standing, error) {
	is, err := chapter.NewIs(&now.In, now.Program)
	if err != nil {
		return nil, err
	}
	checks := make([]check, len(was))
	var known map[string]chapter.Look
	for i, g := range was {
		c := check{was: g, edition: of[i], Standing: new(Standing)}
		if err := c.compare(is); err != nil {
			return nil, err
		}
		if checks[i] = c; c.Changed == nil {
			continue
		}
		its := c.known()
		if known == nil {
			known = its
		}
		maps.DeleteFunc(known, func(id string, _ chapter.Look) bool { _, too := its[id]; return !too })
	}
	var list []*Standing
	whole := now.In.Tasks != nil
	for _, c := range checks {
		list = append(list, c.Standing)
		if c.Changed == nil {
			continue
		}
		if err := now.carry(ctx, known); err != nil {
			return nil, err
		}
		if whole {
			known = nil
		}
		if err := c.differ(ctx, now, known); err != nil {
			return nil, err
		}
	}
	return list, nil
}

// check is an edition that is held against a build.
type check struct {
	*Standing
	was     *said.Guide
	edition chapter.Edition
	changed []bool  // by input
	numbers [][]int // of the changes that each input comes to
}

// compare finds which inputs are others now.
func (c *check) compare(is *chapter.Is) error {
	var values []string
	var err error
	if c.changed, values, err = c.was.Changed(is.Of); err != nil {
		return err
	}
	c.numbers = make([][]int, len(c.changed))
	for i, changed := range c.changed {
		if !changed {
			continue
		}
		x := c.was.Inputs[i]
		for _, one := range Single(Change{x.Kind, x.Of, x.Field, x.Is, values[i]}) {
			k := slices.Index(c.Changed, one)
			if k < 0 {
				k = len(c.Changed)
				c.Changed = append(c.Changed, one)
			}
			c.numbers[i] = append(c.numbers[i], k)
		}
	}
	return nil
}

// known are the procedures that need not be carried out again.
func (c *check) known() map[string]chapter.Look {
	known := c.was.Known(c.changed)
	if touchedOf(c.was, c.changed, "figures", "sheets") || touchedProse(c.was, c.changed) {
		delete(known, "sanitize") // its run has the refills
	}
	for i := range c.was.Blocks { // what is put in words otherwise is made anew too
		if task, ok := strings.CutPrefix(c.was.Blocks[i].ID, "task-"); ok && c.was.Blocks[i].Touched(c.changed) {
			delete(known, task)
		}
	}
	return known
}

// differ makes the blocks anew that stand on something that changed, and compares them. Known are the procedures that
// were not carried out; nil where all are at hand.
func (c *check) differ(ctx context.Context, now Now, known map[string]chapter.Look) error {
	wants := func(id string) bool {
		b := c.was.Block(id)
		return b == nil || b.Touched(c.changed)
	}
	now.In.Blocks, now.In.Edition = wants, c.edition
	now.In.Looks = nil // lines alone are compared, whatever they stand on
	g, err := now.said(ctx)
	if err != nil {
		return err
	}
	before := slices.Clone(c.was.Blocks)
	if known != nil {
		withoutKnown(before, known)
		withoutTitle(before, g.Blocks, "times")
	}
	for _, d := range said.Blocks(before, g.Blocks, wants) {
		one := Broken{Difference: d}
		if b := c.was.Block(d.Block); b != nil {
			for _, n := range b.From {
				for _, k := range c.numbers[n] {
					if !slices.Contains(one.Because, k) {
						one.Because = append(one.Because, k)
					}
				}
			}
		}
		c.List = append(c.List, one)
	}
	c.judge(c.was, &now.In)
	slices.SortStableFunc(c.List, func(a, b Broken) int { return first(b.Danger) - first(a.Danger) })
	return nil
}

// Single tells a change of all figures of a part as changes of each.
func Single(c Change) []Change {
	var was, is map[string]any
	if json.Unmarshal([]byte(c.Was), &was) != nil || json.Unmarshal([]byte(c.Is), &is) != nil {
		return []Change{c} // it is no set of figures
	}
	names := map[string]bool{}
	for name := range was {
		names[name] = true
	}
	for name := range is {
		names[name] = true
	}
	var list []Change
	for _, name := range slices.Sorted(maps.Keys(names)) {
		one := c
		one.Field, one.Was, one.Is = c.Field+"."+name, chapter.Text(was[name]), chapter.Text(is[name])
		if one.Was != one.Is {
			list = append(list, one)
		}
	}
	return list
}

func first(danger bool) int {
	if danger {
		return 1
	}
	return 0
}

func touchedOf(g *said.Guide, changed []bool, ids ...string) bool {
	for _, id := range ids {
		if b := g.Block(id); b != nil && b.Touched(changed) {
			return true
		}
	}
	return false
}

// touchedProse reports whether a text that a hand wrote stands on something that changed.
func touchedProse(g *said.Guide, changed []bool) bool {
	return slices.ContainsFunc(g.Blocks, func(b said.Block) bool {
		return strings.HasPrefix(b.ID, "text-") && b.Touched(changed)
	})
}

// withoutKnown leaves rows of the table of times out that belong to procedures which were not carried out again.
func withoutKnown(blocks []said.Block, known map[string]chapter.Look) {
	tell := words.English(quantity.US)
	for i := range blocks {
		if blocks[i].ID != "times" {
			continue
		}
		blocks[i].Lines = slices.DeleteFunc(slices.Clone(blocks[i].Lines), func(l said.Line) bool {
			for id, look := range known {
				name := tell.Tell(fact.Of("procedure." + id))
				if look.Told && (l.Of == "" && l.Text[0] == name || strings.HasPrefix(l.Of, name+" · ")) {
					return true
				}
			}
			return false
		})
	}
}

// withoutTitle leaves the title of a block out which has but one side, for its rows were left out.
func withoutTitle(was, now []said.Block, id string) {
	if slices.ContainsFunc(now, func(b said.Block) bool { return b.ID == id }) {
		return
	}
	for i := range was {
		if was[i].ID == id && len(was[i].Lines) > 0 {
			was[i].Lines = was[i].Lines[1:]
		}
	}
}

// judge says which lines are a danger: a caution that is missing, be it no note, a handle that stands otherwise, a
// procedure that is gone, and what the published figures would be refused for if a hand had set them.
func (s *Standing) judge(was *said.Guide, in *chapter.Inputs) {
	refused := map[string]string{} // why, by figure
	tell := words.English(in.Net.Model.System())
	told := map[string]bool{}
	for _, b := range was.Blocks {
		for _, l := range b.Lines {
			told[l.Ref] = true
		}
	}
	for _, f := range was.Figures {
		if !told[f.ID] {
			continue // it stands nowhere in the guide
		}
		if why := in.Danger(f.ID, f.Low, f.High); !why.IsZero() {
			refused[f.ID] = tell.Tell(why)
		}
	}
	for i := range s.List {
		b := &s.List[i]
		l := b.Line()
		switch {
		case l.Kind == said.Caution && b.Now != nil && !b.Moved && l.Level != "note" && (b.Was == nil ||
			b.Was.Key != b.Now.Key):
			b.Danger = true
		case l.Kind == said.Position && b.Was != nil && !b.Moved:
			b.Danger = true
		case strings.HasPrefix(b.Block, "task-") && gone(s, b.Block, in):
			b.Danger = true
		case b.Was != nil && refused[b.Was.Ref] != "":
			b.Danger, b.Why = true, refused[b.Was.Ref]
		case l.Kind == said.Step && b.Was != nil && b.Now != nil && !b.Moved && b.Was.Key != "" && b.Was.Key == b.Now.Key:
			b.Why = refusedIn(b.Block, refused)
			b.Danger = b.Why != ""
		}
	}
}

// gone reports whether a block is no longer there.
func gone(s *Standing, id string, in *chapter.Inputs) bool {
	for i := range s.List {
		if s.List[i].Block == id && s.List[i].Now != nil {
			return false
		}
	}
	task := strings.TrimPrefix(id, "task-")
	return !slices.ContainsFunc(in.Tasks, func(t chapter.Task) bool { return t.ID == task && t.Has() })
}

// refusedIn is why amounts of a procedure are a danger: by the figures of its kind that are.
func refusedIn(block string, refused map[string]string) string {
	var begins []string
	switch {
	case block == "before":
		begins = []string{"weight"}
	case strings.HasPrefix(block, "task-sanitize"):
		begins = []string{"dose/", "batch/", "flush/"}
	case block == "task-keep-fresh":
		begins = []string{"keep-fresh"}
	case strings.HasPrefix(block, "task-winterize"):
		begins = []string{"antifreeze/", "air", "time/"}
	case strings.HasPrefix(block, "task-"):
		begins = []string{"time/"}
	}
	var ids []string
	for id := range refused {
		if slices.ContainsFunc(begins, func(p string) bool { return strings.HasPrefix(id, p) }) {
			ids = append(ids, id)
		}
	}
	if ids == nil {
		return ""
	}
	return refused[slices.Min(ids)]
}
