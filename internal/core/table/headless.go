package table

import (
	"strings"

	"coldtap/internal/core/joining"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// headless is a table without heads: its columns are told by what stands in them. The
// first two columns that name parts are the ends of lines.
func headless(rows [][]string) Table {
	width := 0
	for _, r := range rows {
		width = max(width, len(r))
	}
	t := Table{What: Lines, First: 1, Columns: make([]Column, width), Rows: rows}
	taken := map[string]bool{}
	ends := []string{"from", "to"}
	for i := range t.Columns {
		field := contents(column(rows, i))
		if field == "end" && len(ends) > 0 {
			field, ends = ends[0], ends[1:]
		} else if field == "end" {
			field = ""
		}
		if field != "" && !taken[field] {
			t.Columns[i].Field, taken[field] = field, true
		}
	}
	if len(ends) > 0 { // no list of lines can be made out
		for i := range t.Columns {
			t.Columns[i].Field = ""
		}
	}
	return t
}

// column lists what stands in a column.
func column(rows [][]string, i int) (cells []string) {
	for _, r := range rows {
		if i < len(r) && strings.TrimSpace(r[i]) != "" {
			cells = append(cells, strings.TrimSpace(r[i]))
		}
	}
	return cells
}

// contents is what most cells of a column are: a side, a size, a length, or the end of a
// line; "" for none of them.
func contents(cells []string) string {
	for _, kind := range []struct {
		field string
		is    func(string) bool
	}{
		{"side", func(s string) bool { return sideWord(s) != "" }},
		{"size", isSize},
		{"length", func(s string) bool {
			_, err := quantity.Read[quantity.Millimetre](s)
			return err == nil && !bare(s)
		}},
		{"end", func(s string) bool { _, _, ok := joining.Meaning(s); return ok }},
	} {
		n := 0
		for _, c := range cells {
			if kind.is(c) {
				n++
			}
		}
		if n > 0 && n*3 >= len(cells)*2 {
			return kind.field
		}
	}
	return ""
}

func isSize(text string) bool {
	for _, name := range sizeNames(text, "") {
		if _, err := plumbing.FindSize(name); err == nil && (strings.ContainsAny(text, "/½¾⅜") ||
			strings.ContainsAny(strings.ToLower(text), "px")) {
			return true
		}
	}
	return false
}
