// Package trial is what somebody writes down while a procedure is carried out
// on a unit: entries that are made on phones, with or without a network, and
// joined in any order without loss.
package trial

import (
	"cmp"
	"fmt"
	"regexp"
	"slices"
	"unicode/utf8"

	"coldtap/internal/core/cause"
	"coldtap/internal/core/measure"
	"coldtap/internal/core/quantity"
)

// Kind is a kind of entry.
type Kind string

// What is written down. Measurements have the kinds of package measure.
const (
	Done   Kind = "done"   // a step
	Undone Kind = "undone" // its tick is taken back
	Begun  Kind = "begun"  // a stop-watch is started; Of says for what
	Gone   Kind = "gone"   // an entry is taken back; Of is its id

	StartLevel  Kind = "start-level" // share of a tank at the beginning; Of is its id
	HoseFlow    Kind = "hose-flow"   // L/min of the hose at the fill
	Chlorine    Kind = "chlorine"    // mg/L of the supply
	Helper      Kind = "helper"      // 1: somebody stood at the low points; 0: nobody
	Left        Kind = "left-out"    // the step was left out
	Shut        Kind = "shut"        // a drain was not opened; Of is its id
	Outside     Kind = "outside"     // °C
	Pressure    Kind = "pressure"    // kPa; Of is where
	Temperature Kind = "temperature" // °C; Of is where
	Warm        Kind = "warm"        // 0 to 3: a pump is cold, hand-warm, hot, too hot to touch; Of is its id
	CutOut      Kind = "cut-out"     // a pump stopped by itself; Of is its id
	Rest        Kind = "rest"        // s that the pumps rested
	Anode       Kind = "anode"       // share used; Of is the heater, Text how it was judged
	Smelt       Kind = "smelt"       // 1: by the nose, 0: nothing smelt; Text is who
	Photo       Kind = "photo"       // Text is its caption
	Instead     Kind = "instead"     // it could not be done as written; Text is what worked
	Note        Kind = "note"
)

// Entry is one thing that was written down. It never changes: who errs writes
// another.
type Entry struct {
	ID    string  `json:"id"` // made up on the phone
	At    int64   `json:"at"` // ms since 1970, by the phone's clock
	Who   string  `json:"who,omitempty"`
	Step  string  `json:"step,omitempty"` // key of the step; "" of the whole
	Kind  Kind    `json:"kind"`
	Of    string  `json:"of,omitempty"`
	Value float64 `json:"value,omitempty"`
	Text  string  `json:"text,omitempty"`
}

// several are the kinds of which all entries hold, not the last alone.
var several = []Kind{Rest, CutOut, Photo, Instead, Note, Pressure, Temperature}

// single are the kinds that there is one of, beside the measurements.
var single = []Kind{Done, Undone, Begun, Gone, StartLevel, HoseFlow, Chlorine, Helper, Left, Shut, Outside, Warm,
	Anode,
	Smelt}

// Known reports whether there is such a kind.
func (k Kind) Known() bool {
	return slices.Contains(single, k) || slices.Contains(several, k) || slices.Contains(measure.Kinds(), measure.Kind(k))
}

var idPattern = regexp.MustCompile(`^[A-Za-z0-9-]{8,40}$`)

// mostText is how many letters an entry has at most.
const mostText = 1200

// Check says what is wrong with an entry that comes from a phone; nil for nothing.
func (e *Entry) Check() error {
	switch {
	case !idPattern.MatchString(e.ID):
		return fmt.Errorf("an entry has no name of its own")
	case !e.Kind.Known():
		return fmt.Errorf("there is no entry of the kind %q", e.Kind)
	case len(e.Step) > 120 || len(e.Of) > 120 || utf8.RuneCountInString(e.Text) > mostText:
		return fmt.Errorf("an entry has at most %d letters", mostText)
	case e.Value != e.Value || e.Value > 1e9 || e.Value < -1e6:
		return fmt.Errorf("%v is no value of an entry", e.Value)
	case e.At <= 0:
		return fmt.Errorf("an entry has no time")
	}
	return nil
}

// slot is what an entry is about: of those in the same slot the last holds.
type slot struct {
	step string
	kind Kind
	of   string
	id   string
}

func (e *Entry) slot() slot {
	s := slot{e.Step, e.Kind, e.Of, ""}
	switch {
	case e.Kind == Undone:
		s.kind = Done
	case slices.Contains(several, e.Kind):
		s.id = e.ID
	}
	return s
}

// Compare puts entries in the order in which they were made, those of one
// moment by their ids, so that it is the same on every phone.
func Compare(a, b Entry) int { return cmp.Or(cmp.Compare(a.At, b.At), cmp.Compare(a.ID, b.ID)) }

// Join is all entries of two lists, each once, in order.
func Join(a, b []Entry) []Entry {
	all := slices.Concat(a, b)
	slices.SortFunc(all, Compare)
	return slices.CompactFunc(all, func(x, y Entry) bool { return x.ID == y.ID })
}

// Holds are the entries that hold, in order: of each thing the last, without
// those that were taken back.
func Holds(entries []Entry) (list []Entry) {
	all := Join(entries, nil)
	gone, last := map[string]bool{}, map[slot]string{}
	for i := range all {
		if all[i].Kind == Gone {
			gone[all[i].Of] = true
		}
	}
	for i := range all {
		if e := &all[i]; e.Kind != Gone && !gone[e.ID] {
			last[e.slot()] = e.ID
		}
	}
	for i := range all {
		if e := &all[i]; e.Kind != Gone && e.Kind != Undone && last[e.slot()] == e.ID {
			list = append(list, *e)
		}
	}
	return list
}

// Readings are the measurements that hold, of those that can be measured.
func Readings(entries []Entry, probes []measure.Probe, fields []quantity.MgPerLitre) (list []measure.Reading) {
	for _, e := range Holds(entries) {
		for i := range probes {
			p := &probes[i]
			if Kind(p.Kind) == e.Kind && p.Key == e.Step && p.Of == e.Of {
				list = append(list, measure.Of(p, e.Value, fields))
			}
		}
	}
	return list
}

// Conditions are what the entries say of what a trial was like.
func Conditions(entries []Entry) (c cause.Conditions) {
	for _, e := range Holds(entries) {
		switch e.Kind {
		case StartLevel:
			if c.Start == nil {
				c.Start = map[string]float64{}
			}
			c.Start[e.Of] = e.Value
		case HoseFlow:
			c.Flow = quantity.LitrePerMinute(e.Value)
		case Chlorine:
			v := quantity.MgPerLitre(e.Value)
			c.Chlorine = &v
		case Helper:
			there := e.Value > 0
			c.Helper = &there
		case Shut:
			c.Shut = append(c.Shut, e.Of)
		case Left:
			c.NotDone = append(c.NotDone, e.Step)
		}
	}
	return c
}
