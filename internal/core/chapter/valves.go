package chapter

import (
	"slices"

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
	Kept fact.Fact   // who chose the positions by hand, and why
	Best []fact.Fact // what is wrong where these positions are only the best there are
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

// valves gathers the modes that can be used; modes with the same positions share a column. Of everyday use and of draining
// the best there is is told, with what is wrong in it. Drains stand where some way of use opens them.
func valves(in draft.Inputs) (v Valves) {
	var answers []setting.Answer
	at := map[string]int{}
	for _, a := range setting.Unroll(in.Plan) {
		needed := a.Has() && (a.Mode.Drains || a.Mode.Group == setting.Use)
		if a.Mode.Measure || !a.OK && a.Kept == nil && !needed {
			continue
		}
		in.Net.Note(a.From...)
		c := Column{ID: a.Mode.ID, Name: a.Mode.Name, Acts: a.Mode.Acts}
		if a.Kept != nil {
			c.Kept = fact.Of("setting.by-hand", a.Kept.By, a.Kept.Reason)
		}
		if !a.OK && a.Kept == nil {
			c.Best = a.Wrong(in.Net)
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
		row := Row{Part: h.Part}
		for k := range answers {
			cell := Cell{Position: h.Positions[answers[k].State.Position(i)]}
			cell.Differs = k > 0 && cell.Position != row.Cells[0].Position
			row.Cells = append(row.Cells, cell)
		}
		if h.Part.Role() != plumbing.RoleDrain || slices.ContainsFunc(row.Cells, func(c Cell) bool { return c.Differs }) {
			v.Rows = append(v.Rows, row)
		}
	}
	return v
}

// shut reports whether every drain that stands in no row is closed in all ways of use.
func (v Valves) shut(in draft.Inputs) bool {
	for _, h := range in.Net.AllHandles() {
		told := slices.ContainsFunc(v.Rows, func(r Row) bool { return r.Part == h.Part })
		if h.Part.Role() == plumbing.RoleDrain && !told && h.Normal != h.Index("closed") {
			return false
		}
	}
	return true
}
