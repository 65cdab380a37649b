package chapter

import (
	"coldtap/internal/core/draft"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// Valves are the positions of the handles by ways of use.
type Valves struct {
	Columns []Column
	Rows    []Row
}

// Column is a way of using the system.
type Column struct {
	ID   string // of its mode
	Name fact.Fact
	Kept fact.Fact // who chose the positions by hand, and why
	Acts []state.Act
	Also []Column // modes with the same positions, each with what stands beside them in it
}

// Row is a handle with its position in every column.
type Row struct {
	Part  *plumbing.Part
	Cells []Cell
}

// Cell is a handle as it stands in a way of use.
type Cell struct {
	Position string
	Differs  bool // from the first column
}

func (v Valves) empty() bool { return len(v.Columns) == 0 }

// valves gathers the modes that can be used; modes with the same positions share a column. Drains are named in the
// steps that open them.
func valves(in draft.Inputs) (v Valves) {
	var answers []setting.Answer
	at := map[string]int{}
	for _, a := range setting.Unroll(in.Plan) {
		if a.Mode.Measure || !a.OK && a.Kept == nil {
			continue
		}
		in.Net.Note(a.From...)
		c := Column{ID: a.Mode.ID, Name: a.Mode.Name, Acts: a.Mode.Acts}
		if a.Kept != nil {
			c.Kept = fact.Of("setting.by-hand", a.Kept.By, a.Kept.Reason)
		}
		if i, ok := at[a.SameAs]; ok && a.SameAs != "" {
			v.Columns[i].Also = append(v.Columns[i].Also, c)
			continue
		}
		at[a.Mode.ID] = len(v.Columns)
		v.Columns = append(v.Columns, c)
		answers = append(answers, a)
	}
	for i, h := range in.Net.AllHandles() {
		if h.Part.Role() == plumbing.RoleDrain {
			continue
		}
		row := Row{Part: h.Part}
		for k := range answers {
			cell := Cell{Position: h.Positions[answers[k].State.Position(i)]}
			cell.Differs = k > 0 && cell.Position != row.Cells[0].Position
			row.Cells = append(row.Cells, cell)
		}
		v.Rows = append(v.Rows, row)
	}
	return v
}
