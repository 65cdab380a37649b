package reading

import (
	"cmp"
	"math"
	"regexp"
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

func sortAmounts(list []amount) {
	slices.SortFunc(list, func(a, b amount) int { return cmp.Compare(a.from, b.from) })
}

// figures holds the amounts of a sentence against what they are about.
func (r *reader) figures(s *Sentence, low string, parts []mention, found []amount) (list []Claim) {
	var last tied
	for i := 0; i < len(found); i++ {
		a := found[i]
		if i+1 < len(found) && recipeOf(low, a, found[i+1]) {
			list = append(list, r.recipe(low, a, found[i+1]))
			i++
			last = tied{}
			continue
		}
		if a.bracket && last.topic != nil { // the same once more, in other units
			c := r.compare(s, a, last)
			if n := len(list); c.Verdict == Agrees && list[n-1].Ref != "" && list[n-1].Verdict == Agrees {
				list[n-1].To = a.to + closing(s.Text[a.to:])
				continue // one reference says both
			}
			c.Ref = ""
			list = append(list, c)
			continue
		}
		var why fact.Fact
		if last, why = r.tie(low, parts, a); !why.IsZero() {
			list = append(list, Claim{From: a.from, To: a.to, Verdict: CantTell, Why: why})
			continue
		}
		list = append(list, r.compare(s, a, last))
	}
	return list
}

// closing is how long a closing bracket at the beginning of a text is.
func closing(s string) int {
	if len(s) > 0 && s[0] == ')' {
		return 1
	}
	return 0
}

// tied is what an amount is about.
type tied struct {
	topic   *topic
	targets []target
	about   bool // it is said to be so roughly
}

var (
	bounds = re(`at least|at most|no more than|not more than|not over|never over|never above|never more than|up to|` +
		`maximum|max\b|` +
		`minimum|less than|more than|below|above|under|over|not exceed|never exceed|exceed`)
	roughly = re(`about|approximately|approx|roughly|around|some|nearly|almost|ca\b`)
)

// tie finds the one thing that an amount is about: by the words around it, and where these say nothing by those of the
// whole sentence. What it can't be tied to is told.
func (r *reader) tie(low string, parts []mention, a amount) (tied, fact.Fact) {
	from, to := window(low, a.from, a.to)
	got, why := r.tieIn(low, low[from:to], within(parts, from, to), parts, a)
	if got.topic == nil && why.ID == "unread.about" {
		return r.tieIn(low, low, parts, parts, a)
	}
	return got, why
}

func within(parts []mention, from, to int) (list []mention) {
	for _, m := range parts {
		if m.from >= from && m.to <= to {
			list = append(list, m)
		}
	}
	return list
}

func (r *reader) tieIn(low, around string, near, parts []mention, a amount) (tied, fact.Fact) {
	bound := bounds.MatchString(around)
	if !bound && denied.MatchString(through.ReplaceAllString(around, "")) {
		return tied{}, fact.Of("unread.denied")
	}
	var got tied
	for i := range topics {
		t := &topics[i]
		_, _, _, ok := t.kind(a)
		if !ok || t.none != nil && t.none.MatchString(around) || !t.says(around) || t.bound != bound {
			continue
		}
		p, ok := r.partFor(t, near, parts)
		if !ok {
			continue
		}
		targets := t.of(r, p, around)
		if len(targets) == 0 {
			continue
		}
		if got.topic != nil && got.targets[0].ref != targets[0].ref {
			return tied{}, fact.Of("unread.several")
		}
		got = tied{t, targets, roughly.MatchString(around)}
	}
	switch {
	case got.topic != nil:
		return got, fact.Fact{}
	case bound:
		return tied{}, fact.Of("unread.bound")
	}
	return tied{}, fact.Of("unread.about")
}

func (t *topic) says(around string) bool {
	return !slices.ContainsFunc(t.words, func(w *regexp.Regexp) bool { return !w.MatchString(around) })
}

// partFor is the part of a topic: the one that is named near by, or in the sentence, or the only one there is where
// it need not be named.
func (r *reader) partFor(t *topic, near, parts []mention) (*plumbing.Part, bool) {
	if t.roles == nil {
		return nil, true
	}
	for _, list := range [][]mention{near, parts} {
		var fit []*plumbing.Part
		several := false
		for _, m := range list {
			for _, p := range m.parts {
				if slices.Contains(t.roles, p.Role()) {
					several = several || len(m.parts) > 1
					if !slices.Contains(fit, p) {
						fit = append(fit, p)
					}
				}
			}
		}
		if len(fit) == 1 && !several {
			return fit[0], true
		}
		if len(fit) > 0 {
			return nil, false // it may be either
		}
	}
	only := r.in.Net.PartsOf(t.roles...)
	if t.sole && len(only) == 1 {
		return only[0], true
	}
	return nil, false
}

// compare holds an amount against what it is about.
func (r *reader) compare(s *Sentence, a amount, t tied) Claim {
	low, high, digits, ok := t.topic.kind(a)
	first := t.targets[0]
	c := Claim{From: a.from, To: a.to, Ref: first.ref, About: first.about, Is: first.is}
	switch {
	case a.count > 0 && a.number > 0:
		c.To = a.number // what is counted stays as it is written
	case a.count > 0:
		c.After = " times"
	}
	if !ok {
		return Claim{From: a.from, To: a.to, Verdict: CantTell, Why: fact.Of("unread.about")}
	}
	for _, x := range t.targets {
		if x.agrees(low, high, digits, t.about) {
			c.Verdict = Agrees
			return c
		}
	}
	c.Verdict, c.Slip = Differs, r.slip(a, low, t)
	return c
}

// How near a figure must be: as it is rounded, within rounding of its last digit but no more than a share of it; or
// where it is said to be about so.
const (
	exactly   = 0.01
	byDigits  = 0.025
	saidAbout = 0.04
)

// agrees reports whether numbers are what the model gives. One within a range that the model gives agrees with it.
func (x target) agrees(low, high, digits float64, about bool) bool {
	near := func(v, is float64) bool {
		off := math.Abs(v - is)
		share := exactly
		if about {
			share = saidAbout
		}
		return off <= share*math.Abs(is)+1e-9 || off <= digits && off <= byDigits*math.Abs(is)
	}
	if x.high > x.low && low == high {
		return low >= x.low*(1-exactly) && low <= x.high*(1+exactly)
	}
	return near(low, x.low) && near(high, x.high)
}

func same(a, b, share float64) bool { return math.Abs(a-b) <= share*math.Max(math.Abs(a), math.Abs(b)) }

// recipeOf reports whether two amounts are a recipe: so much to so much water.
func recipeOf(low string, a, b amount) bool {
	_, _, _, one := as[quantity.Litre](a)
	_, _, _, other := as[quantity.Litre](b)
	return one && other && per.MatchString(low[a.to:b.from]) && bleach.MatchString(low)
}

var (
	per    = regexp.MustCompile(`\b(per|to|for each|for every|in|into|for)\b`)
	bleach = re(`bleach|chlorine`)
)

// recipe holds a recipe of bleach against the strength that the house asks for: within its allowance it agrees.
func (r *reader) recipe(low string, a, b amount) Claim {
	c := Claim{From: a.from, To: b.to, Verdict: CantTell, About: fact.Of("about.recipe")}
	bleach, _, _, _ := as[quantity.Litre](a)
	water, _, _, _ := as[quantity.Litre](b)
	target, product := house.Target.Of(r.in.House), house.Bleach.Of(r.in.House)
	if water <= 0 || denied.MatchString(low) || len(r.in.Report.Doses) == 0 {
		c.Why = fact.Of("unread.about")
		return c
	}
	makes := quantity.MgPerLitre(bleach * float64(product) * 10_000 / water)
	c.Is = fact.Of("recipe.makes", makes, product, target)
	c.Verdict = Differs
	least, most := 0.99*target, quantity.MgPerLitre(1+house.Over.Of(r.in.House))*target
	if makes >= least && makes <= most {
		c.Verdict = Agrees
	}
	return c
}

// swaps are units that are taken for one another: what is written, what was meant.
var swaps = []struct {
	id             string
	written, meant float64 // in litres, or in the unit of what is compared
	volume         bool
}{
	{"gallons-for-litres", float64(quantity.USGallon), 1, true},
	{"litres-for-gallons", 1, float64(quantity.USGallon), true},
	{"tablespoons-for-ounces", float64(quantity.Tablespoon), float64(quantity.FluidOunce), true},
	{"ounces-for-tablespoons", float64(quantity.FluidOunce), float64(quantity.Tablespoon), true},
	{"teaspoons-for-tablespoons", float64(quantity.Teaspoon), float64(quantity.Tablespoon), true},
	{"tablespoons-for-teaspoons", float64(quantity.Tablespoon), float64(quantity.Teaspoon), true},
	{"cups-for-ounces", float64(quantity.Cup), float64(quantity.FluidOunce), true},
	{"imperial", float64(quantity.USGallon), float64(quantity.ImpGallon), true},
	{"hours-for-minutes", 3600, 60, false}, {"minutes-for-hours", 60, 3600, false},
	{"pounds-for-kilograms", float64(quantity.Pound), 1, false},
	{"kilograms-for-pounds", 1, float64(quantity.Pound), false},
}

// slip is what was likely mistaken where a figure differs: its unit, its digits, the part. Nothing where nothing
// explains it.
func (r *reader) slip(a amount, low float64, t tied) fact.Fact {
	x := t.targets[0]
	_, isVolume, _ := volumeOf(a)
	for _, w := range swaps {
		if w.volume != isVolume || !r.writtenIn(a, w.written) {
			continue
		}
		if same(low/w.written*w.meant, x.low, byDigits) {
			return fact.Of("slip." + w.id)
		}
	}
	if x.low != 0 && (same(low, 10*x.low, exactly) || same(10*low, x.low, exactly)) {
		return fact.Of("slip.decimal")
	}
	if t.topic.roles != nil {
		for _, p := range r.in.Net.PartsOf(t.topic.roles...) {
			for _, o := range t.topic.of(r, p, "") {
				if o.about.Key() != x.about.Key() && o.agrees(low, low, 0, false) {
					return fact.Of("slip.other-part", p)
				}
			}
		}
	}
	return fact.Fact{}
}

func volumeOf(a amount) (float64, bool, float64) {
	v, _, d, ok := as[quantity.Litre](a)
	return v, ok, d
}

// writtenIn reports whether an amount is written in a unit of a size.
func (r *reader) writtenIn(a amount, size float64) bool {
	one := amount{low: "1 " + a.unit, high: "1 " + a.unit, unit: a.unit}
	for _, k := range []kind{as[quantity.Litre], as[quantity.Second], as[quantity.Kilogram]} {
		if v, _, _, ok := k(one); ok && same(v, size, 1e-6) {
			return true
		}
	}
	return false
}
