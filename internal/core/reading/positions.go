package reading

import (
	"regexp"
	"slices"
	"strings"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
)

// ways are words for ways of use, by the modes that they may mean.
var ways = []struct {
	words *regexp.Regexp
	modes []string
}{
	{re(`antifreeze|winteri[sz]|for winter`), []string{setting.Antifreeze}},
	{re(`everyday|normal use|normal operation|daily use|day to day`), []string{setting.Everyday}},
	{re(`on city water|city water is|connected to city`), []string{setting.City}},
	{re(`saniti[sz]`), []string{setting.Sanitize}},
	{re(`bypass the (water )?heater|heater (is )?bypassed|to bypass`), []string{setting.Bypassed}},
	{re(`drain down|draining down|drain the lines`), []string{setting.DrainDown}},
	{re(`blow|compressed air|air through`), []string{setting.Blow}},
	{re(`descal|vinegar`), []string{setting.HeaterAlone}},
}

// verbs are words for where a handle stands, by what they may be called in a model: positions, or how a lever lies.
var verbs = []struct {
	words *regexp.Regexp
	means string
}{
	{re(`open(s|ed)?\b`), "open"}, {re(`(close[sd]?|shut|shut off)\b`), "closed"},
	{re(`along the pipe|in line with the pipe|parallel to the pipe`), "open"},
	{re(`across the pipe|crosswise|at right angles`), "closed"},
}

// positions holds where a sentence says that handles stand against the settings of the way of use that it, or the head
// above it, speaks of.
func (r *reader) positions(s *Sentence, low, heading string, parts []mention) (list []Claim) {
	for _, m := range parts {
		if !slices.ContainsFunc(m.parts, func(p *plumbing.Part) bool { return r.in.Net.HandleOf(p.ID) != plumbing.None }) {
			continue
		}
		from, to := window(low, m.from, m.to)
		said, at := r.stands(s.Text[from:to], low[from:to], m)
		if said == "" {
			continue
		}
		at = [2]int{at[0] + from, at[1] + from}
		c := Claim{From: at[0], To: at[1], Verdict: CantTell, About: m.about()}
		p := m.one()
		modes := r.modes(low, heading)
		switch {
		case p == nil || r.in.Net.HandleOf(p.ID) == plumbing.None:
			c.Why = fact.Of("unread.several")
		case denied.MatchString(low[from:to]):
			c.Why = fact.Of("unread.denied")
		case len(modes) != 1:
			c.Why = fact.Of("unread.no-mode")
		default:
			r.stand(&c, p, said, modes[0])
		}
		list = append(list, c)
	}
	return list
}

// modes are the ways of use that a sentence speaks of, or where it speaks of none the head above it.
func (r *reader) modes(low, heading string) (list []*setting.Answer) {
	for _, text := range []string{low, lowered(heading)} {
		for _, w := range ways {
			if !w.words.MatchString(text) {
				continue
			}
			for _, id := range w.modes {
				if a := setting.ForMode(r.in.Plan, id); a != nil && a.Has() && (a.OK || a.Kept != nil) {
					list = append(list, a)
				}
			}
		}
		if len(list) > 0 {
			return list
		}
	}
	return nil
}

// stands finds where a stretch of a sentence says that a handle stands, and where it says so: by what is printed
// there, or by a word for open and closed. Nothing where it says several things or none.
func (r *reader) stands(text, low string, m mention) (position string, at [2]int) {
	p := m.one()
	if p == nil {
		p = m.parts[0]
	}
	found := map[string][2]int{}
	for id, label := range p.Reading.Says {
		if i := strings.Index(text, label); i >= 0 && len(label) > 1 {
			found[id] = [2]int{i, i + len(label)}
		}
	}
	has := p.Positions()
	for _, v := range verbs {
		if k := v.words.FindStringIndex(low); k != nil && slices.Contains(has, v.means) {
			found[v.means] = [2]int{k[0], k[1]}
		}
	}
	if len(found) != 1 {
		return "", at
	}
	for id, where := range found {
		position, at = id, where
	}
	return position, at
}

// stand holds a position against the setting of a way of use.
func (r *reader) stand(c *Claim, p *plumbing.Part, said string, a *setting.Answer) {
	h := r.in.Net.HandleOf(p.ID)
	handle := &r.in.Net.Handles[h]
	is := handle.Positions[a.State.Position(h)]
	c.About = fact.Of("about.position", p, a.Mode.Name)
	c.Is = fact.Of("it", plumbing.Standing{Part: p, Position: is})
	if is == said || slices.Contains(a.Either, h) {
		c.Verdict = Agrees
		return
	}
	c.Verdict, c.Handle, c.Ref = Differs, p.Name, "position:"+p.ID+"@"+a.Mode.ID
	for i, o := range r.in.Net.AllHandles() {
		if i == h || o.Part.Role() != p.Role() || !beside(o.Part, p) {
			continue
		}
		if o.Positions[a.State.Position(i)] == said {
			c.Slip = fact.Of("slip.other-handle", o.Part)
			return
		}
	}
}

// beside reports whether two handles are taken for one another: they stand in one place, or their names are alike.
func beside(a, b *plumbing.Part) bool {
	return a.Place.Reach != "" && a.Place.Reach == b.Place.Reach || alikeNames(a.Name, b.Name)
}

// alikeNames reports whether two names have a word in common that is no common one.
func alikeNames(a, b string) bool {
	other := strings.Fields(lowered(b))
	for _, w := range strings.Fields(lowered(a)) {
		if w != "valve" && w != "the" && slices.Contains(other, w) {
			return true
		}
	}
	return false
}
