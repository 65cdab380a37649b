// Package care says what is due on a unit, from what was done on it, how it is
// used and what its model has; and what it will need of what is used up.
package care

import (
	"cmp"
	"math"
	"slices"
	"time"

	"coldtap/internal/core/amount"
)

// Kind is a kind of entry in a unit's log, and of what is due.
type Kind string

// What is done on a unit.
const (
	Sanitized    Kind = "sanitized"
	Winterized   Kind = "winterized"    // Value: jugs that were used; Of: the procedure of the school
	DeWinterized Kind = "de-winterized" // it is taken out of storage
	Changed      Kind = "changed"       // Of: id of the consumable
	AnodeLook    Kind = "anode-look"    // Of: the heater; Value: share used
	AnodeNew     Kind = "anode-new"     // Of: the heater
	Descaled     Kind = "descaled"      // Of: the heater, "" for the lines
	HotCycle     Kind = "hot-cycle"     // Of: the heater
	Repaired     Kind = "repaired"      // lines or parts were opened: it is sanitized again
	Tried        Kind = "tried"         // a trial was made; Of: its procedure
	Noted        Kind = "noted"
)

// Kinds lists them in the order in which they are offered.
func Kinds() []Kind {
	return []Kind{Sanitized, Winterized, DeWinterized, Changed, AnodeLook, AnodeNew, Descaled, HotCycle, Repaired, Noted}
}

// Use is how a unit is used.
type Use string

// The ways.
const (
	Stored   Use = "stored"   // for most of the year
	Holidays Use = "holidays" // now and then, and stored over the winter
	LivedIn  Use = "lived-in"
)

// Uses lists them.
func Uses() []Use { return []Use{Stored, Holidays, LivedIn} }

// Entry is something that was done.
type Entry struct {
	On    time.Time
	Kind  Kind
	Of    string
	Value float64
}

// Spec is what a model has that is cared for.
type Spec struct {
	Sanitize    bool     // it can be
	Winter      string   // id of the procedure of the house's school; "" for none
	Jugs        int      // that it takes by the worksheet; 0 where that is not known
	Anodes      []string // heaters with an anode
	AnodeAt     float64  // share used at which it is replaced
	Descale     []string // heaters that are descaled
	HotCycles   []string // heaters that sanitize themselves
	Consumables []Consumable
}

// Consumable is something that is used up.
type Consumable struct {
	ID    string
	Name  string
	What  string // one of plumbing.ConsumableKinds
	Order string
	Life  int // months; 0 where it is not changed by time
}

// Due is something that is to be done.
type Due struct {
	What Kind
	Of   string
	On   time.Time
	Why  Reason
	Last time.Time // when it was done last; zero for never
}

// Reason is why something is due.
type Reason string

// The reasons.
const (
	Never     Reason = "never"    // it was never done
	Interval  Reason = "interval" // it is time again
	Opened    Reason = "opened"   // something was opened
	Storage   Reason = "storage"  // it stood
	Frost     Reason = "frost"    // before it freezes
	Spring    Reason = "spring"   // when it is used again
	Wear      Reason = "wear"     // two looks say so
	WornOut   Reason = "worn-out" // the last look says so
	FirstLook Reason = "first-look"
)

// Times of the trade: months between sanitizing and between descaling by use,
// between looks at an anode; the day before which a unit is made ready for the
// winter, and when it is used again.
const (
	yearly     = 12
	livedIn    = 4
	descale    = 24
	descaleIn  = 12
	frostMonth = time.October
	frostDay   = 1
	springDay  = 1
	springTime = time.April
)

// log is what was done, in order.
type log []Entry

// last is the last entry of some kinds, of a thing or of all things of its kind; "*" stands for whatever it is of.
func (l log) last(kinds []Kind, of string) (e Entry, ok bool) {
	for i := len(l) - 1; i >= 0; i-- {
		if slices.Contains(kinds, l[i].Kind) && (of == "*" || l[i].Of == of || l[i].Of == "") {
			return l[i], true
		}
	}
	return Entry{}, false
}

// Of lists what is due on a unit that exists since a day, the soonest first.
// Each thing stands once.
func Of(spec Spec, use Use, since time.Time, entries []Entry) (list []Due) {
	l := log(slices.Clone(entries))
	slices.SortStableFunc(l, func(a, b Entry) int { return a.On.Compare(b.On) })
	add := func(what Kind, of string, on time.Time, why Reason, last time.Time) {
		list = append(list, Due{what, of, day(on), why, last})
	}
	months := yearly
	if use == LivedIn {
		months = livedIn
	}
	clean := func(kind Kind, of string) {
		last, ok := l.last([]Kind{kind}, of)
		if !ok {
			add(kind, of, since, Never, time.Time{})
			return
		}
		on, why := last.On.AddDate(0, months, 0), Interval
		if e, ok := l.last([]Kind{Repaired}, "*"); ok && e.On.After(last.On) && e.On.Before(on) {
			on, why = e.On, Opened
		}
		if e, ok := l.last([]Kind{DeWinterized}, "*"); ok && e.On.After(last.On) && e.On.Before(on) {
			on, why = e.On, Storage
		}
		add(kind, of, on, why, last.On)
	}
	if spec.Sanitize {
		clean(Sanitized, "")
	}
	for _, h := range spec.HotCycles {
		clean(HotCycle, h)
	}
	if spec.Winter != "" && use != LivedIn {
		winter(l, since, spec.Winter, add)
	}
	for _, h := range spec.Anodes {
		anode(l, h, since, spec.AnodeAt, add)
	}
	for _, h := range spec.Descale {
		every := descale
		if use == LivedIn {
			every = descaleIn
		}
		if last, ok := l.last([]Kind{Descaled}, h); ok {
			add(Descaled, h, last.On.AddDate(0, every, 0), Interval, last.On)
		} else {
			add(Descaled, h, since.AddDate(0, every, 0), Never, time.Time{})
		}
	}
	for _, c := range spec.Consumables {
		if c.Life <= 0 {
			continue
		}
		if last, ok := l.last([]Kind{Changed}, c.ID); ok {
			add(Changed, c.ID, last.On.AddDate(0, c.Life, 0), Interval, last.On)
		} else {
			add(Changed, c.ID, since.AddDate(0, c.Life, 0), Never, time.Time{})
		}
	}
	slices.SortStableFunc(list, func(a, b Due) int {
		return cmp.Or(a.On.Compare(b.On), cmp.Compare(a.What, b.What), cmp.Compare(a.Of, b.Of))
	})
	return list
}

func day(t time.Time) time.Time {
	y, m, d := t.Date()
	return time.Date(y, m, d, 0, 0, 0, 0, time.UTC)
}

// winter is when a unit is made ready for the winter, or used again.
func winter(l log, since time.Time, school string, add func(Kind, string, time.Time, Reason, time.Time)) {
	in, stands := l.last([]Kind{Winterized}, "*")
	out, used := l.last([]Kind{DeWinterized}, "*")
	if stands && (!used || out.On.Before(in.On)) {
		add(DeWinterized, "", next(in.On, springTime, springDay), Spring, out.On)
		return
	}
	from := since
	if used {
		from = out.On
	}
	add(Winterized, school, next(from, frostMonth, frostDay), Frost, in.On)
}

// next is the first such day of a year that is not before a time.
func next(from time.Time, month time.Month, date int) time.Time {
	on := time.Date(from.Year(), month, date, 0, 0, 0, 0, time.UTC)
	if on.Before(day(from)) {
		on = on.AddDate(1, 0, 0)
	}
	return on
}

// anode is when the anode of a heater is looked at, or changed: where two looks since it was new say how it wears, by
// those.
func anode(l log, heater string, since time.Time, at float64, add func(Kind, string, time.Time, Reason, time.Time)) {
	var looks []Entry
	for _, e := range l {
		switch {
		case e.Of != heater:
		case e.Kind == AnodeNew:
			looks = nil
			since = e.On
		case e.Kind == AnodeLook:
			looks = append(looks, e)
		}
	}
	if len(looks) == 0 {
		add(AnodeLook, heater, since.AddDate(1, 0, 0), FirstLook, time.Time{})
		return
	}
	last := looks[len(looks)-1]
	if last.Value >= at {
		add(AnodeNew, heater, last.On, WornOut, last.On)
		return
	}
	first := Entry{On: since} // new, nothing was used
	if len(looks) > 1 {
		first = looks[len(looks)-2]
	}
	look := last.On.AddDate(1, 0, 0)
	if on, ok := amount.NextChange(first.On, last.On, first.Value, last.Value, at); ok && on.Before(look) {
		add(AnodeNew, heater, on, Wear, last.On)
		return
	}
	add(AnodeLook, heater, look, Interval, last.On)
}

// Need is what a unit needs of something in a year.
type Need struct {
	Consumable
	Count float64 // how many in a year; of liquids how many times
	From  Basis
}

// Basis is what a need is taken from.
type Basis string

// What needs are taken from.
const (
	ByLife     Basis = "life"     // how long one lasts
	ByUse      Basis = "use"      // how often it is used
	ByLog      Basis = "log"      // what it took before on this unit
	ByComputed Basis = "computed" // the worksheet
)

// Jugs is how many jugs of antifreeze a unit will take next: what it took in
// the last winters, up to three, and where nothing was written down what is
// computed.
func Jugs(spec Spec, entries []Entry) (count int, from Basis, winters int) {
	l := log(slices.Clone(entries))
	slices.SortStableFunc(l, func(a, b Entry) int { return a.On.Compare(b.On) })
	sum, n := 0.0, 0
	for i := len(l) - 1; i >= 0 && n < 3; i-- {
		if l[i].Kind == Winterized && l[i].Value > 0 {
			sum, n = sum+l[i].Value, n+1
		}
	}
	if n == 0 {
		return spec.Jugs, ByComputed, 0
	}
	return int(math.Ceil(sum/float64(n) - 1e-9)), ByLog, n
}

// Year lists what a unit needs in a year.
func Year(spec Spec, use Use, entries []Entry) (list []Need) {
	cleans := 1.0
	if use == LivedIn {
		cleans = float64(yearly) / livedIn
	}
	for _, c := range spec.Consumables {
		switch {
		case c.What == "antifreeze" && spec.Winter != "" && use != LivedIn:
			n, from, _ := Jugs(spec, entries)
			list = append(list, Need{c, float64(n), from})
		case c.What == "sanitizer" && spec.Sanitize:
			list = append(list, Need{c, cleans, ByUse})
		case c.Life > 0:
			list = append(list, Need{c, yearly / float64(c.Life), ByLife})
		}
	}
	return list
}
