package table

import (
	"strings"
)

// Column is a column of a table: its head as it stands, what it is taken for
// and the unit of its bare numbers.
type Column struct {
	Head  string `json:"head"`
	Field string `json:"field"` // "" for a column that is left out
	Unit  string `json:"unit"`
}

// Table is a list with its columns matched.
type Table struct {
	What    What       `json:"what"`
	Columns []Column   `json:"columns"`
	First   int        `json:"first"` // number of the first row in the sheet, from 1
	Rows    [][]string `json:"rows"`

	Sheet   [][]string        `json:"sheet,omitempty"`   // as it came, to point at another row of heads
	Answers map[string]string `json:"answers,omitempty"` // to what was asked about the rows
}

// MaxRows and MaxColumns bound what is looked at.
const (
	MaxRows    = 2000
	MaxColumns = 80
)

// Guess finds the row of heads among the first rows of a sheet and matches the
// columns. Without one the columns are told by what stands in them, where they
// can be.
func Guess(rows [][]string) Table {
	best := Table{What: Lines, First: 1}
	hits := 0
	for i := 0; i < min(len(rows), 12); i++ {
		for _, w := range []What{Lines, Parts} {
			t, taken := headed(rows, i, w)
			if w == Lines && !(taken["from"] && taken["to"]) && !taken["id"] {
				continue
			}
			if w == Parts && !taken["name"] && !taken["id"] {
				continue
			}
			if len(taken) > hits {
				best, hits = t, len(taken)
			}
		}
	}
	if hits == 0 {
		best = headless(rows)
	}
	best.trim()
	best.Sheet = rows
	return best
}

// Point makes a row of the sheet the row of heads, by its number from 1; 0 for none.
func (t *Table) Point(row int) {
	if row < 0 || row > len(t.Sheet) {
		return
	}
	rows, answers := t.Sheet, t.Answers
	if row == 0 {
		*t = headless(rows)
	} else {
		lines, asLines := headed(rows, row-1, Lines)
		parts, asParts := headed(rows, row-1, Parts)
		if *t = lines; len(asParts) > len(asLines) {
			*t = parts
		}
	}
	t.trim()
	t.Sheet, t.Answers = rows, answers
}

// headed is a table whose heads stand in a row, and the fields that they were matched
// with.
func headed(rows [][]string, row int, w What) (Table, map[string]bool) {
	t, taken := Table{What: w, First: row + 2, Rows: rows[row+1:]}, map[string]bool{}
	for _, head := range rows[row] {
		path, unit := match(w, head)
		if taken[path+unit] {
			path, unit = "", ""
		}
		if path != "" {
			taken[path+unit] = true
		}
		t.Columns = append(t.Columns, Column{strings.TrimSpace(head), path, unit})
	}
	return t, taken
}

// trim takes empty rows at the end away and makes all rows as wide as the
// columns.
func (t *Table) trim() {
	for len(t.Rows) > 0 && blank(t.Rows[len(t.Rows)-1]) {
		t.Rows = t.Rows[:len(t.Rows)-1]
	}
	rows := make([][]string, len(t.Rows))
	for i, r := range t.Rows {
		rows[i] = make([]string, len(t.Columns))
		copy(rows[i], r)
	}
	t.Rows = rows
}

func blank(row []string) bool {
	for _, c := range row {
		if strings.TrimSpace(c) != "" {
			return false
		}
	}
	return true
}

// Block splits text pasted from a spreadsheet into cells: rows by line, cells
// by tab; a cell in quotes may hold both.
func Block(text string) [][]string {
	var rows [][]string
	var row []string
	var cell strings.Builder
	quoted := false
	endCell := func() { row = append(row, cell.String()); cell.Reset() }
	runes := []rune(strings.ReplaceAll(strings.ReplaceAll(text, "\r\n", "\n"), "\r", "\n"))
	for i := 0; i < len(runes); i++ {
		r := runes[i]
		switch {
		case quoted && r == '"' && i+1 < len(runes) && runes[i+1] == '"':
			cell.WriteRune('"')
			i++
		case quoted && r == '"':
			quoted = false
		case quoted:
			cell.WriteRune(r)
		case r == '"' && cell.Len() == 0 && closes(runes[i+1:]):
			quoted = true
		case r == '\t':
			endCell()
		case r == '\n':
			endCell()
			rows = append(rows, row)
			row = nil
		default:
			cell.WriteRune(r)
		}
	}
	if cell.Len() > 0 || len(row) > 0 {
		endCell()
		rows = append(rows, row)
	}
	return rows
}

// closes reports whether a quote ends right before the end of a cell, so that
// the mark of inches at a cell's start is not taken for one.
func closes(rest []rune) bool {
	for i := 0; i < len(rest); i++ {
		if rest[i] != '"' {
			continue
		}
		if i+1 < len(rest) && rest[i+1] == '"' {
			i++
			continue
		}
		return i+1 == len(rest) || rest[i+1] == '\t' || rest[i+1] == '\n'
	}
	return false
}

// WriteBlock writes cells as Block reads them.
func WriteBlock(rows [][]string) string {
	var b strings.Builder
	for _, r := range rows {
		for i, c := range r {
			if i > 0 {
				b.WriteByte('\t')
			}
			if strings.ContainsAny(c, "\t\n\r\"") {
				c = `"` + strings.ReplaceAll(c, `"`, `""`) + `"`
			}
			b.WriteString(c)
		}
		b.WriteByte('\n')
	}
	return b.String()
}
