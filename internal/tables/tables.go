// Package tables writes a report as tables for a spreadsheet.
package tables

import (
	"fmt"
	"slices"
	"strings"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/house"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/record"
	"coldtap/internal/core/report"
	"coldtap/internal/core/words"
)

// Table is a part of a report as a spreadsheet takes it. Cells are strings,
// ints or float64s.
type Table struct {
	Name string
	Head []string
	Rows [][]any
}

func (t *Table) row(cells ...any) { t.Rows = append(t.Rows, cells) }

// Of are the worksheets of a report. Litres are not rounded.
func Of(r *report.Report) []Table {
	w := writer{r, words.English(r.Sys)}
	list := []Table{w.worksheet("Line content", r.Content)}
	for _, s := range r.Antifreeze {
		list = append(list, w.worksheet(w.Tell(s.Title), s.Worksheet))
	}
	if r.HeaterIn != nil {
		list = append(list, w.worksheet(w.Tell(r.HeaterIn.Title), r.HeaterIn.Worksheet))
	}
	if r.Dose.Why.IsZero() {
		list = append(list, w.dose(), w.worksheet("Drawn off", r.Dose.Lines), w.flushing(), w.clock())
	}
	return append(list, w.times(), w.levels(), w.rules(), w.figures())
}

// writer writes a report in words.
type writer struct {
	*report.Report
	*words.Printer
}

func (w *writer) worksheet(name string, sheet amount.Worksheet) Table {
	t := Table{Name: name, Head: []string{"Part", "Id", "Formula", "Inputs", "Litres", "US gallons", "Source"}}
	for _, x := range sheet.Rows {
		t.row(w.Tell(x.What), x.Part, w.Tell(x.Formula), w.Tell(x.Inputs), float64(x.Litre),
			float64(x.Litre/quantity.USGallon), w.Tell(x.Source))
	}
	t.row("Total", "", "", "", float64(sheet.Total), float64(sheet.Total/quantity.USGallon), "")
	return t
}

func (r *writer) dose() Table {
	d := &r.Dose
	t := Table{Name: "Sanitizer", Head: []string{"Figure", "Value", "Unit"}}
	t.row("Strength asked for", float64(d.Target), "mg/L")
	t.row("Bleach, available chlorine", float64(d.Product), "%")
	t.row("Tank", float64(d.Tank), "L")
	t.row("Drawn off through the outlets", float64(d.Drawn), "L")
	t.row("Bleach, exact", float64(d.Exact)*1000, "mL")
	t.row("Bleach, "+d.Measured.String(), float64(d.Measured.Litre)*1000, "mL")
	t.row("In the tank when filled", float64(d.Filled), "mg/L")
	t.row("In the tank after topping up", float64(d.Final), "mg/L")
	for _, b := range d.Batches {
		t.row(fmt.Sprintf("Each of %d batches", b.Count), float64(b.Strength), "mg/L")
	}
	return t
}

func (r *writer) flushing() Table {
	t := Table{Name: "Flushing", Head: []string{"Way", "Refills", "Water, L", "To the grey tank, L",
		"Loads of the grey tank", "Minutes", "mg/L at the end"}}
	for _, w := range r.Flush.Ways {
		end := float64(r.Flush.From)
		if len(w.Left) > 0 {
			end = float64(w.Left[len(w.Left)-1])
		}
		t.row(r.Tell(w.Name), w.Refills, float64(w.Water), float64(w.Waste), w.Loads, float64(w.Time)/60, end)
	}
	return t
}

func (r *writer) clock() Table {
	t := Table{Name: "Schedule", Head: []string{"From", "To", "Minutes", "What", "Somebody is there"}}
	for _, s := range r.Schedule.Stages {
		there := "no"
		if s.Attended {
			there = "yes"
		}
		t.row(s.From.Format("2006-01-02 15:04"), s.To.Format("2006-01-02 15:04"), s.To.Sub(s.From).Minutes(),
			r.Tell(s.Name), there)
	}
	return t
}

func (r *writer) times() Table {
	t := Table{Name: "Times", Head: []string{"What", "Minutes"}}
	for _, f := range r.Times {
		t.row(r.Tell(f.Title), float64(f.Takes)/60)
	}
	return t
}

func (r *writer) levels() Table {
	t := Table{Name: "Levels and weights", Head: []string{"Probes", "At least, L", "At most, L", "Water in all, kg",
		"Carrying capacity left, kg"}}
	for _, l := range r.Levels {
		t.row(r.Tell(l.Reading), float64(l.Low), float64(l.High), float64(l.Weight), float64(l.Left))
	}
	return t
}

// figures lists every figure with what it was computed from.
func (r *writer) figures() Table {
	t := Table{Name: "Figures", Head: []string{"Figure", "Value", "Missing", "Worked out", "Computed from"}}
	for _, f := range r.Figures {
		value := "not known"
		if f.Value != nil {
			value = r.Tell(f.Value.Said())
		}
		var missing, lines, from []string
		for _, m := range f.Missing {
			missing = append(missing, r.Tell(m.Said()))
		}
		if f.Sheet != nil {
			for _, l := range f.Sheet.Lines() {
				lines = append(lines, r.Tell(fact.Of("figure.line", l.What, l.Formula, l.Inputs, l.Result)))
			}
		}
		inputs := slices.SortedFunc(slices.Values(f.Inputs), record.Compare)
		for _, in := range inputs {
			from = append(from, in.String())
		}
		t.row(f.ID, value, strings.Join(missing, "; "), strings.Join(lines, "\n"), strings.Join(from, "; "))
	}
	return t
}

func (r *writer) rules() Table {
	t := Table{Name: "House rules used", Head: []string{"Rule", "Value", "Whose"}}
	for _, rule := range house.Rules() {
		t.row(rule.Name, r.House.Text(rule.ID, r.Sys), r.House.By(rule.ID))
	}
	return t
}
