package report

import (
	"fmt"
	"slices"
	"strings"

	"coldtap/internal/core/record"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/house"
	"coldtap/internal/core/quantity"
)

// Table is a part of a report as a spreadsheet takes it. Cells are strings,
// ints or float64s.
type Table struct {
	Name string
	Head []string
	Rows [][]any
}

func (t *Table) row(cells ...any) { t.Rows = append(t.Rows, cells) }

// Tables are the report's worksheets. Litres are not rounded.
func (r *Report) Tables() []Table {
	list := []Table{worksheet("Line content", r.Content)}
	for _, s := range r.Antifreeze {
		list = append(list, worksheet(s.Title, s.Worksheet))
	}
	if r.HeaterIn != nil {
		list = append(list, worksheet(r.HeaterIn.Title, r.HeaterIn.Worksheet))
	}
	if r.Dose.Why == "" {
		list = append(list, r.dose(), worksheet("Drawn off", r.Dose.Lines), r.flushing(), r.clock())
	}
	return append(list, r.times(), r.levels(), r.rulesTable(), r.figures())
}

func worksheet(name string, w amount.Worksheet) Table {
	t := Table{Name: name, Head: []string{"Part", "Id", "Formula", "Inputs", "Litres", "US gallons", "Source"}}
	for _, x := range w.Rows {
		t.row(x.What, x.Part, x.Formula, x.Inputs, float64(x.Litre), float64(x.Litre/quantity.USGallon), x.Source)
	}
	t.row("Total", "", "", "", float64(w.Total), float64(w.Total/quantity.USGallon), "")
	return t
}

func (r *Report) dose() Table {
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

func (r *Report) flushing() Table {
	t := Table{Name: "Flushing", Head: []string{"Way", "Refills", "Water, L", "To the grey tank, L", "Loads of the grey tank", "Minutes", "mg/L at the end"}}
	for _, w := range r.Flush.Ways {
		end := float64(r.Flush.From)
		if len(w.Left) > 0 {
			end = float64(w.Left[len(w.Left)-1])
		}
		t.row(w.Name, w.Refills, float64(w.Water), float64(w.Waste), w.Loads, float64(w.Time)/60, end)
	}
	return t
}

func (r *Report) clock() Table {
	t := Table{Name: "Schedule", Head: []string{"From", "To", "Minutes", "What", "Somebody is there"}}
	for _, s := range r.Schedule.Stages {
		there := "no"
		if s.Attended {
			there = "yes"
		}
		t.row(s.From.Format("2006-01-02 15:04"), s.To.Format("2006-01-02 15:04"), s.To.Sub(s.From).Minutes(), s.Name, there)
	}
	return t
}

func (r *Report) times() Table {
	t := Table{Name: "Times", Head: []string{"What", "Minutes"}}
	for _, f := range r.Times {
		t.row(f.Title, float64(f.Takes)/60)
	}
	return t
}

func (r *Report) levels() Table {
	t := Table{Name: "Levels and weights", Head: []string{"Probes", "At least, L", "At most, L", "Water in all, kg", "Carrying capacity left, kg"}}
	for _, l := range r.Levels {
		t.row(l.Reading, float64(l.Low), float64(l.High), float64(l.Weight), float64(l.Left))
	}
	return t
}

// figures lists every figure with what it was computed from.
func (r *Report) figures() Table {
	t := Table{Name: "Figures", Head: []string{"Figure", "Value", "Missing", "Computed from"}}
	for _, f := range r.Figures {
		value := "not known"
		if f.Value != nil {
			value = f.Value.Text(r.Sys)
		}
		var missing, from []string
		for _, m := range f.Missing {
			missing = append(missing, m.Words())
		}
		inputs := slices.SortedFunc(slices.Values(f.Inputs), record.Compare)
		for _, in := range inputs {
			from = append(from, in.String())
		}
		t.row(f.ID, value, strings.Join(missing, "; "), strings.Join(from, "; "))
	}
	return t
}

func (r *Report) rulesTable() Table {
	t := Table{Name: "House rules used", Head: []string{"Rule", "Value", "Whose"}}
	for _, rule := range house.Rules() {
		t.row(rule.Name, r.House.Text(rule.ID, r.Sys), r.House.By(rule.ID))
	}
	return t
}
