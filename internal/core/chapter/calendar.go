package chapter

import (
	"coldtap/internal/core/fact"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
)

// Calendar is what is to be done when.
type Calendar struct{ Rows []Due }

// Due is something to be done.
type Due struct {
	When fact.Fact
	What fact.Fact
	Task string // id of its procedure; "" for none
}

func (c Calendar) empty() bool { return len(c.Rows) == 0 }

// calendar is the care of a camper, by what it has.
func calendar(in Inputs) (c Calendar) {
	add := func(holds bool, when, what fact.Fact, task string) {
		if holds {
			c.Rows = append(c.Rows, Due{when, what, task})
		}
	}
	n := in.Net
	yearly, spring := fact.Of("when.yearly"), fact.Of("when.spring")
	sanitize := in.has("sanitize")
	add(sanitize, fact.Of("when.sanitize"), fact.Of("due.sanitize"), "sanitize")
	add(sanitize, fact.Of("when.lived-in"), fact.Of("due.sanitize"), "sanitize")
	if in.has("keep-fresh") {
		add(true, fact.Of("when.stands"), fact.Of("due.keep-fresh"), "keep-fresh")
	}
	for _, p := range n.PartsOf(plumbing.RoleStrainer) {
		add(true, spring, fact.Of("due.strainer", p), "")
	}
	for _, p := range n.PartsOf(plumbing.RoleHeater) {
		if !plumbing.Field(n, &p.Data.AnodeNew).IsZero() {
			used := house.Anode.Of(in.House)
			add(true, yearly, fact.Of("due.anode", p, shareOf(used)), in.ifHas("heater-care"))
		}
	}
	add(in.has("descale-heater"), fact.Of("when.scale"), fact.Of("due.descale"), "descale-heater")
	for _, t := range in.Tasks {
		if t.Part == Winter && t.Has() && t.ID != "winterize-again" && t.ID != "storage" {
			add(true, fact.Of("when.frost"), fact.Of("due.task", fact.Of("procedure."+t.ID)), t.ID)
		}
	}
	add(in.has("de-winterize"), spring, fact.Of("due.task", fact.Of("procedure.de-winterize")), "de-winterize")
	if len(n.Pumps) > 0 {
		add(true, spring, fact.Of("due.leak", int(house.LeakTest.Of(in.House)/60)), "")
	}
	for _, x := range n.Model.Consumables {
		if x.Life > 0 {
			add(true, fact.Of("when.months", x.Life), fact.Of("due.change", x.Name), "")
		}
	}
	return c
}

// has reports whether a procedure was carried out.
func (in *Inputs) has(id string) bool { return in.Tasks != nil && in.task(id) }

// ifHas is the id of a procedure that was carried out, "" of another.
func (in *Inputs) ifHas(id string) string {
	if in.has(id) {
		return id
	}
	return ""
}
