package table

import "strings"

// FillDown writes what stands in a column into the empty cells below it, down to the next
// cell that says something. What lists nothing is passed over.
func (t *Table) FillDown(column int) {
	last := ""
	for i, cells := range t.Rows {
		if column >= len(cells) || alone(cells) || blank(cells) || t.isHeads(cells) || isTotal(cells) {
			continue
		}
		if strings.TrimSpace(cells[column]) == "" {
			t.Rows[i][column] = last
		}
		last = t.Rows[i][column]
	}
}

// Answer keeps the answer to a question.
func (t *Table) Answer(question, answer string) {
	if t.Answers == nil {
		t.Answers = map[string]string{}
	}
	t.Answers[question] = answer
}
