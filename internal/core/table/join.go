package table

import (
	"slices"
	"strings"

	"coldtap/internal/core/joining"
	"coldtap/internal/core/plumbing"
)

// row reads the cells of a row; what lists nothing is left out.
func (t *Table) row(i int, cells []string) Row {
	r := Row{Number: t.First + i, Index: i, Cells: cells, State: Empty, fields: map[string]string{}}
	if blank(cells) {
		return r
	}
	t.read(&r)
	if t.isHeads(cells) || t.What == Parts && isTotal(cells) && r.fields["kind"] == "" {
		r.State, r.Faults = LeftOut, nil
		return r
	}
	r.State = Faulty // until it is found to be good
	return r
}

// isHeads reports whether a row says the heads once more, as sheets do on each page.
func (t *Table) isHeads(cells []string) bool {
	same := 0
	for i, c := range t.Columns {
		if c.Field == "" || c.Head == "" {
			continue
		}
		if i >= len(cells) || !strings.EqualFold(strings.TrimSpace(cells[i]), c.Head) {
			return false
		}
		same++
	}
	return same > 1
}

// isTotal reports whether a row sums others up.
func isTotal(cells []string) bool {
	for _, c := range cells {
		if w := strings.Fields(strings.ToLower(c)); len(w) > 0 {
			return slices.Contains([]string{"total", "totals", "total:", "totals:", "sum", "sum:", "subtotal", "grand"}, w[0])
		}
	}
	return false
}

// join reads the rows of a list of lines and tells what they join. A row that names no
// ends and no line lists nothing; a heading among the rows tells the side of those below.
func (t *Table) join(m *plumbing.Model) ([]Row, *joining.Plan) {
	rows := make([]Row, len(t.Rows))
	var named []joining.Row
	var index []int
	var section plumbing.Side
	for i, cells := range t.Rows {
		rows[i] = t.row(i, cells)
		r := &rows[i]
		if r.State == Empty || r.State == LeftOut {
			continue
		}
		known := m.Line(r.fields["id"]) != nil
		if alone(cells) && !known || r.fields["from"] == "" && r.fields["to"] == "" {
			if !known {
				r.State, r.Faults = LeftOut, nil
				if side, ok := heading(cells); ok {
					section = side
				}
			}
			continue
		}
		side := sideWord(r.fields["side"])
		if side == "" && r.fields["side"] != "" {
			r.fault(t.column("side"), "%q is no side; write supply, cold, hot, drain or air", r.fields["side"])
		}
		if side == "" {
			side = section
		}
		delete(r.fields, "side")
		if known && (r.fields["from"] == "" || r.fields["to"] == "") {
			continue // a line that is there, with one end changed
		}
		named, index = append(named, joining.Row{From: r.fields["from"], To: r.fields["to"], Side: side}), append(index, i)
	}
	plan := joining.Read(m, named, t.directed(), t.Answers)
	for k, i := range index {
		rows[i].joint = &plan.Joints[k]
		for f := range rows[i].joint.Faults {
			for n, row := range rows[i].joint.Faults[f].Rows {
				rows[i].joint.Faults[f].Rows[n] = index[row]
			}
		}
	}
	for q := range plan.Questions {
		for n, row := range plan.Questions[q].Rows {
			plan.Questions[q].Rows[n] = index[row]
		}
	}
	return rows, plan
}

// alone reports whether one cell of a row says something, and no other.
func alone(cells []string) bool {
	n := 0
	for _, c := range cells {
		if strings.TrimSpace(c) != "" {
			n++
		}
	}
	return n == 1
}

// heading reads the one cell of a row as the head of a group: "COLD LINES" tells a side.
func heading(cells []string) (side plumbing.Side, ok bool) {
	text := ""
	for _, c := range cells {
		if strings.TrimSpace(c) == "" {
			continue
		}
		if text != "" {
			return "", false
		}
		text = c
	}
	for _, w := range strings.Fields(strings.ToLower(text)) {
		if s := sideWord(strings.Trim(w, ":.,")); s != "" {
			return s, true
		}
	}
	return "", !isTotal(cells)
}

// directed reports whether the heads tell which way water runs.
func (t *Table) directed() bool {
	is := func(field string, heads []string) bool {
		i := t.column(field)
		return i >= 0 && slices.Contains(heads, strings.ToLower(strings.TrimSpace(t.Columns[i].Head)))
	}
	return is("from", comesFrom) && is("to", goesTo)
}

// with is a model with more parts.
func with(m *plumbing.Model, parts []plumbing.Part) *plumbing.Model {
	if len(parts) == 0 {
		return m
	}
	c := *m
	c.Parts = slices.Concat(m.Parts, parts)
	return &c
}

// needed are the new parts that the rows which go in join.
func needed(parts []plumbing.Part, rows []Row) (list []plumbing.Part) {
	used := map[string]bool{}
	for _, r := range rows {
		if r.joint != nil && (r.State == Good || r.State == Changes) {
			used[r.joint.Ends[0].Part], used[r.joint.Ends[1].Part] = true, true
		}
	}
	for _, p := range parts {
		if used[p.ID] {
			list = append(list, p)
		}
	}
	return list
}
