package chapter

import (
	"slices"

	"coldtap/internal/core/draft"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/finding"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
)

// Card is what is stuck inside an access panel: the handles that ways of use turn, by the settings.
type Card struct {
	Handles  []*plumbing.Part
	Settings []Column // each with the modes that share it
	Cells    [][]Cell // by setting and handle
	Notes    []fact.Fact
}

// CardOf makes the valve card of a build. What is set day by day stands before what is opened once a year.
func CardOf(in draft.Inputs) Card {
	v := valves(in)
	c := Card{Settings: v.Columns, Notes: cardNotes(in, v)}
	everyday := setting.ByID(setting.Modes(in.Net), setting.Everyday)
	yearly := func(r Row) int {
		if everyday == nil {
			return 0
		}
		if _, fixed := everyday.Fixed[in.Net.HandleOf(r.Part.ID)]; fixed {
			return 1
		}
		return 0
	}
	rows := slices.DeleteFunc(slices.Clone(v.Rows), func(r Row) bool {
		return !slices.ContainsFunc(r.Cells, func(x Cell) bool { return x.Differs })
	})
	slices.SortStableFunc(rows, func(a, b Row) int { return yearly(a) - yearly(b) })
	c.Cells = make([][]Cell, len(c.Settings))
	for _, r := range rows {
		c.Handles = append(c.Handles, r.Part)
		for i := range c.Settings {
			c.Cells[i] = append(c.Cells[i], r.Cells[i])
		}
	}
	return c
}

// cardNotes are what whoever reads the positions must know of the handles: those that a motor drives, those whose
// plate misleads.
func cardNotes(in draft.Inputs, v Valves) (list []fact.Fact) {
	for _, h := range in.Net.AllHandles() {
		for _, m := range in.Net.Motors(h) {
			list = append(list, fact.If(m.Tool == "", fact.Of("card.motor", m)), fact.If(m.Tool != "",
				fact.Of("card.motor-tool", m, m.Tool)))
		}
	}
	for _, f := range finding.Find(in.Net, in.Plan) {
		if f.Code == "label-misleads" {
			list = append(list, f.Said)
		}
	}
	for _, c := range v.Columns {
		for _, x := range append([]Column{c}, c.Also...) {
			list = append(list, fact.If(!x.Kept.IsZero(), fact.Of("card.kept", x.Name, x.Kept)))
			for _, f := range x.Best {
				list = append(list, fact.Of("card.best", x.Name, f))
			}
		}
	}
	if len(in.Net.PartsOf(plumbing.RoleHeater)) > 0 && !bypass(in).empty() {
		list = append(list, fact.Of("card.heater-off"))
	}
	others := "card.others"
	if !v.shut(in) {
		others = "card.others-plain"
	}
	list = append(list, fact.Of(others), fact.Of("card.precedence"))
	return slices.DeleteFunc(list, fact.Fact.IsZero)
}

// TagsOf are the tags that the procedures of a model ask for, each once.
func TagsOf(tasks []Task) (list []Tag) {
	seen := map[string]bool{}
	for _, t := range tasks {
		if t.Read == nil {
			continue
		}
		for _, f := range t.Read.Tags {
			if !seen[f.Key()] {
				seen[f.Key()] = true
				list = append(list, Tag{f, t.ID})
			}
		}
	}
	return list
}

// Tag is a tag to be hung up, and the procedure that first asks for it.
type Tag struct {
	Said fact.Fact
	Task string
}
