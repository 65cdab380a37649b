package reading

import (
	"regexp"
	"slices"
	"strings"

	"coldtap/internal/core/chapter"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
)

// newReader gathers how the parts of a model may be named.
func newReader(in chapter.Inputs) *reader {
	r := &reader{in: in}
	add := func(words string, p *plumbing.Part) {
		words = lowered(strings.ReplaceAll(words, "gray", "grey"))
		for i := range r.names {
			if r.names[i].words == words {
				if !slices.Contains(r.names[i].parts, p) {
					r.names[i].parts = append(r.names[i].parts, p)
				}
				return
			}
		}
		r.names = append(r.names, naming{words, []*plumbing.Part{p}})
	}
	for _, p := range in.Net.AllParts() {
		if p.Kind.Info().Mere {
			continue
		}
		add(p.Name, p)
		for _, words := range others[p.Role()] {
			add(words, p)
		}
		if p.Role() == plumbing.RoleWaste || p.Role() == plumbing.RoleTank {
			add(strings.Replace(lowered(p.Name), " tank", " water tank", 1), p)
		}
		if p.Role() == plumbing.RoleWaste {
			for _, colour := range []string{"grey", "black"} {
				if strings.Contains(lowered(p.Name), colour) {
					add(colour+" tank", p)
					add(colour+" water tank", p)
				}
			}
		}
	}
	// what is longer is found first
	slices.SortStableFunc(r.names, func(a, b naming) int { return len(b.words) - len(a.words) })
	return r
}

// others are what parts of a role may be called beside their names; where several are called so, none is meant.
var others = map[plumbing.Role][]string{
	plumbing.RoleTank:   {"fresh tank", "fresh water tank", "freshwater tank"},
	plumbing.RoleHeater: {"water heater", "heater", "boiler"},
	plumbing.RolePump:   {"water pump", "pump"},
	plumbing.RoleInlet:  {"city water inlet", "city inlet", "mains inlet"},
	plumbing.RoleFill:   {"gravity fill"},
}

// mention is where a sentence names a part, or one of several.
type mention struct {
	from, to int
	parts    []*plumbing.Part
}

// one is the part that is named; nil where it may be several.
func (m mention) one() *plumbing.Part {
	if len(m.parts) == 1 {
		return m.parts[0]
	}
	return nil
}

func (m mention) about() fact.Fact {
	if p := m.one(); p != nil {
		return fact.Of("it", p)
	}
	return fact.Of("it", m.parts)
}

// parts finds the parts that a sentence names, each place once, the longest name there.
func (r *reader) parts(low string) (list []mention) {
	low = strings.ReplaceAll(low, "gray", "grey")
	taken := func(from, to int) bool {
		return slices.ContainsFunc(list, func(m mention) bool { return from < m.to && m.from < to })
	}
	for _, n := range r.names {
		for at := 0; ; {
			i := strings.Index(low[at:], n.words)
			if i < 0 {
				break
			}
			from := at + i
			at = from + len(n.words)
			if wordAt(low, from, at) && !taken(from, at) {
				list = append(list, mention{from, at, n.parts})
			}
		}
	}
	slices.SortFunc(list, func(a, b mention) int { return a.from - b.from })
	return list
}

// wordAt reports whether a stretch of a text begins and ends with words; an "s" may follow.
func wordAt(s string, from, to int) bool {
	letter := func(i int) bool { return i >= 0 && i < len(s) && (s[i] >= 'a' && s[i] <= 'z' || s[i] >= 128) }
	return !letter(from-1) && (!letter(to) || s[to] == 's' && !letter(to+1))
}

// conditional is why a sentence claims nothing of this camper.
func (r *reader) conditional(low string) fact.Fact {
	if m := maybe.FindString(low); m != "" {
		return fact.Of("unread.conditional", strings.TrimSpace(m))
	}
	for _, o := range r.in.Net.Model.Options {
		if strings.Contains(low, lowered(o.Name)) {
			return fact.Of("unread.option", o.Name)
		}
	}
	if years := year.FindString(low); years != "" {
		return fact.Of("unread.conditional", years)
	}
	return fact.Fact{}
}

var (
	maybe = regexp.MustCompile(`\b(if|unless|except|some|other|older|earlier|optional|where fitted|depending|may|might|` +
		`could|should you|instead of|rather than|used to|formerly|last year|typically|usually|most campers)\b`)
	year = regexp.MustCompile(`\b(19|20)\d\d\b`)
)

// lacks are words for what a camper may have, and whether it has it.
var lacks = []struct {
	words *regexp.Regexp
	has   func(r *reader) bool
}{
	{regexp.MustCompile(`\b(city water|mains water|city inlet|shore water)\b`), hasRole(plumbing.RoleInlet)},
	{regexp.MustCompile(`\b(gr[ae]y|black)( water)? tank`), hasRole(plumbing.RoleWaste)},
	{regexp.MustCompile(`\b(anode|anode rod)\b`), hasNamed("anode")},
	{regexp.MustCompile(`\bice[ -]?maker\b`), hasNamed("ice maker")},
	{regexp.MustCompile(`\b(washing machine|washer)\b`), hasNamed("wash")},
	{regexp.MustCompile(`\bdishwasher\b`), hasNamed("dishwasher")},
	{regexp.MustCompile(`\b(outside|outdoor|exterior) shower\b`), hasNamed("outside shower")},
	{regexp.MustCompile(`\b(hot tap|hot taps|hot faucet)\b`), hasHot},
	{regexp.MustCompile(`\bstrainer\b`), hasRole(plumbing.RoleStrainer)},
	{regexp.MustCompile(`\baccumulator\b`), hasRole(plumbing.RoleAccumulator)},
	{regexp.MustCompile(`\b(water heater|heater|boiler)\b`), hasRole(plumbing.RoleHeater)},
}

func hasRole(role plumbing.Role) func(*reader) bool {
	return func(r *reader) bool { return len(r.in.Net.PartsOf(role)) > 0 }
}

func hasNamed(words string) func(*reader) bool {
	return func(r *reader) bool {
		return slices.ContainsFunc(r.in.Net.AllParts(), func(p *plumbing.Part) bool {
			return strings.Contains(lowered(p.Name), words)
		})
	}
}

func hasHot(r *reader) bool {
	return slices.ContainsFunc(r.in.Net.PartsOf(plumbing.RoleOutlet), func(p *plumbing.Part) bool {
		return slices.Contains(r.in.Net.SidesOf(p), "hot")
	})
}

// lacking are the things that a sentence speaks of and this camper has not; who says that there is none agrees.
func (r *reader) lacking(low string) (list []Claim) {
	for _, l := range lacks {
		m := l.words.FindStringIndex(low)
		if m == nil || l.has(r) {
			continue
		}
		if denied.MatchString(low) {
			list = append(list, Claim{From: m[0], To: m[1], Verdict: CantTell, Why: fact.Of("unread.denied")})
			continue
		}
		list = append(list, Claim{From: m[0], To: m[1], Verdict: Differs,
			Is: fact.Of("unread.has-none", low[m[0]:m[1]])})
	}
	return list
}

// denied is what turns a sentence around.
var denied = regexp.MustCompile(`\b(not|never|no|none|without|nor|neither|don't|doesn't|cannot|can't|isn't|avoid)\b`)
