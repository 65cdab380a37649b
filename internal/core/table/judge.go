package table

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"coldtap/internal/core/edit"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/joining"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// State is what would become of a row.
type State string

// States of a row.
const (
	Empty   State = "empty"
	LeftOut State = "left out" // it lists nothing: a total, a heading, heads once more
	Asks    State = "asks"     // it waits for an answer
	Good    State = "new"
	Changes State = "changes"
	Same    State = "same"
	Faulty  State = "faulty"
)

// Row is a row as it was judged.
type Row struct {
	Number int // in the sheet, from 1
	Index  int // in the table's rows
	Cells  []string
	State  State
	ID     string // of the line or part it becomes
	Faults []Fault
	Notes  []Fault // worth a look, no reason to refuse
	Change []Change
	Joins  [2]string // what a row of lines joins, once it is told: "pump.out"
	Asks   []string  // ids of the questions that it waits for
	fields map[string]string
	isNew  bool
	joint  *joining.Joint // of a row of lines, what it joins; nil where it names no ends
	assume []string       // fields that were inferred
}

// Change is a field of a thing that is there, before and after.
type Change struct{ Path, Old, New string }

// Fault is one thing about a row: the column concerned, -1 for the whole row.
type Fault struct {
	Column int
	Words  string
}

// Read says of each row of a table what would become of it in a model, and what has to be asked before all rows can be
// read.
func Read(m *plumbing.Model, t *Table) ([]Row, []joining.Question) {
	rows, plan := judge(m, t)
	if plan == nil {
		return rows, nil
	}
	return rows, plan.Questions
}

// judge judges the rows; of lines it gives what they join as well.
func judge(m *plumbing.Model, t *Table) ([]Row, *joining.Plan) {
	rows := make([]Row, len(t.Rows))
	var plan *joining.Plan
	if t.What == Lines {
		rows, plan = t.join(m)
		m = with(m, plan.Parts)
	}
	seen := map[string]int{}
	var batch []edit.Row
	var index []int
	for i, cells := range t.Rows {
		r := &rows[i]
		if t.What == Parts {
			*r = t.row(i, cells)
			if r.State == Empty || r.State == LeftOut {
				continue
			}
			r.part(m, t)
		} else {
			if r.State == Empty || r.State == LeftOut {
				continue
			}
			r.line(m, t, seen)
		}
		if first, twice := seen[r.ID]; twice && r.ID != "" {
			r.fault(t.column("id", "name"), "%q stands in row %d too; give one of them another name or take it out",
				r.ID, first)
		} else {
			seen[r.ID] = r.Number
		}
		if len(r.Faults) > 0 {
			r.State = Faulty
			continue
		}
		if r.joint != nil && len(r.joint.Asks) > 0 {
			r.State, r.Asks = Asks, r.joint.Asks
			continue
		}
		r.Joins = [2]string{r.fields["from"], r.fields["to"]}
		batch, index = append(batch, r.edit(m, t.What)), append(index, i)
	}
	after, faults, err := edit.Batch(m, t.What.thing(), batch)
	var old, now map[string]map[string]string
	if err == nil {
		old, now = allTexts(m, t.What), allTexts(after, t.What)
	}
	for k, i := range index {
		r := &rows[i]
		switch {
		case err != nil:
			r.State = Faulty
			r.fault(-1, "%v", err)
		case faults[k] != nil:
			r.State = Faulty
			for _, f := range faults[k] {
				r.fault(t.column(f.Path), "%s", f.Why)
			}
		case r.isNew:
			r.State = Good
		case differs(old[r.was(m, t.What)], now[r.ID], r.fields):
			r.State = Changes
			r.changed(old[r.was(m, t.What)], now[r.ID])
		default:
			r.State = Same
		}
	}
	return rows, plan
}

// changed lists the fields that a row changes.
func (r *Row) changed(old, now map[string]string) {
	for _, path := range slices.Sorted(maps.Keys(r.fields)) {
		if old[path] != now[path] {
			r.Change = append(r.Change, Change{path, old[path], now[path]})
		}
	}
}

// edit is the change that a row is.
func (r *Row) edit(m *plumbing.Model, w What) edit.Row {
	return edit.Row{ID: r.was(m, w), New: r.isNew, Fields: r.fields, Assumed: r.assume}
}

// Apply takes the good rows of a table into a model. The rows that wait are
// left as they were judged.
func Apply(m *plumbing.Model, t *Table) (*edit.Done, []Row, error) {
	rows, plan := judge(m, t)
	if plan != nil {
		m = with(m, needed(plan.Parts, rows))
	}
	var batch []edit.Row
	news, changes := 0, 0
	for i := range rows {
		switch r := &rows[i]; r.State {
		case Good:
			news++
		case Changes:
			changes++
		default:
			continue
		}
		batch = append(batch, rows[i].edit(m, t.What))
	}
	if len(batch) == 0 {
		return &edit.Done{Model: m}, rows, nil
	}
	after, faults, err := edit.Batch(m, t.What.thing(), batch)
	if err != nil {
		return nil, rows, err
	}
	if len(faults) > 0 {
		return nil, rows, fmt.Errorf("%d rows can't go in without rows that wait", len(faults))
	}
	return &edit.Done{Model: after, Said: fact.Of("table.took-in", fact.Word("table."+string(t.What)),
		strconv.Itoa(news), strconv.Itoa(changes))}, rows, nil
}

// Replace is Apply for a table that lists all lines there are: those it does
// not have are taken away first, and tees that join nothing any more go too.
func Replace(m *plumbing.Model, t *Table) (*edit.Done, []Row, error) {
	bare := *m
	bare.Lines = []plumbing.Line{}
	done, rows, err := Apply(&bare, t)
	if err != nil {
		return nil, rows, err
	}
	for _, r := range rows {
		if r.State == Faulty || r.State == Asks {
			return nil, rows, fmt.Errorf("row %d can't be read, so the lines there are were left alone", r.Number)
		}
	}
	said := fact.Of("table.replaced", len(done.Model.Lines))
	joined := map[string]bool{}
	for _, l := range done.Model.Lines {
		for _, ref := range []string{l.From, l.To} {
			id, _ := plumbing.PartOf(ref)
			joined[id] = true
		}
	}
	var loose []string
	for _, p := range done.Model.Parts {
		if p.Kind.Info().Mere && !joined[p.ID] {
			loose = append(loose, p.ID)
		}
	}
	if len(loose) == 0 {
		return &edit.Done{Model: done.Model, Said: said}, rows, nil
	}
	less, err := edit.Remove(done.Model, loose...)
	if err != nil {
		return nil, rows, err
	}
	return &edit.Done{Model: less.Model, Said: fact.Of("table.replaced.tees", len(loose), said)}, rows, nil
}

// was is the id of the thing before the row changes it.
func (r *Row) was(m *plumbing.Model, w What) string {
	if r.isNew || w == Lines {
		return r.ID
	}
	if m.Part(r.ID) == nil {
		if p := byName(m, r.fields["name"]); p != nil {
			return p.ID
		}
	}
	return r.ID
}

// Texts are all fields that a table can hold, of every line or part, by id.
func Texts(m *plumbing.Model, w What) map[string]map[string]string { return allTexts(m, w) }

// allTexts are all fields that a table can hold, of every line or part.
func allTexts(m *plumbing.Model, w What) map[string]map[string]string {
	var paths []string
	for _, f := range Fields(w) {
		paths = append(paths, f.Path)
	}
	all, err := edit.AllTexts(m, w.thing(), paths)
	if err != nil {
		return nil // a model that was read can be written
	}
	return all
}

func differs(old, now, fields map[string]string) bool {
	for path := range fields {
		if old[path] != now[path] || path == "id" && old[path] != fields[path] {
			return true
		}
	}
	return false
}

func (r *Row) fault(column int, format string, args ...any) {
	r.Faults = append(r.Faults, Fault{column, fmt.Sprintf(format, args...)})
}

func (r *Row) note(column int, format string, args ...any) {
	r.Notes = append(r.Notes, Fault{column, fmt.Sprintf(format, args...)})
}

// column finds the first column that holds one of some fields, -1 if none.
func (t *Table) column(paths ...string) int {
	for _, p := range paths {
		if i := slices.IndexFunc(t.Columns, func(c Column) bool { return c.Field == p }); i >= 0 {
			return i
		}
	}
	return -1
}

// read gathers a row's cells by field: bare numbers get the column's unit, and
// two columns for the same figure become a pair.
func (t *Table) read(r *Row) {
	for i, c := range t.Columns {
		if c.Field == "" || i >= len(r.Cells) {
			continue
		}
		text := strings.Join(strings.Fields(strings.ReplaceAll(r.Cells[i], "\u00a0", " ")), " ")
		if c.Field == "positions" || c.Field == "spots" {
			text = strings.TrimSpace(r.Cells[i])
		}
		if text == "" {
			continue
		}
		if text[0] == '#' {
			r.fault(i, "the sheet shows %q: its formula failed; write the figure", text)
			continue
		}
		if c.Unit != "" {
			if bare(text) {
				text += " " + c.Unit
			} else if !strings.HasSuffix(strings.ToLower(text), c.Unit) {
				r.note(i, "%q has a unit of its own in a column of %s", text, c.Unit)
			}
		}
		if have := r.fields[c.Field]; have != "" {
			t.pair(r, i, have, text)
			continue
		}
		r.fields[c.Field] = text
	}
}

// bare reports whether a text is a number without a unit.
func bare(text string) bool {
	return strings.IndexFunc(text, func(c rune) bool {
		return !(c >= '0' && c <= '9' || strings.ContainsRune(".,-/ ½¼¾⅓⅔⅛⅜⅝⅞", c))
	}) < 0
}

// pairLimit is how far two figures for the same thing may lie apart.
const pairLimit = 0.02

// pair joins a second figure for the same thing, or says that the two disagree.
func (t *Table) pair(r *Row, column int, have, text string) {
	path := t.Columns[column].Field
	joined := have + " (" + text + ")"
	if strings.HasPrefix(path, "data.capacity") || path == "data.heel" {
		if g, err := quantity.Read[quantity.Litre](joined); err == nil && g.Disagreement() > pairLimit {
			r.fault(column, "%s is not %s, which is %s; mend or empty one of the two", text, have,
				quantity.Both(g.Value(), quantity.SI))
			return
		}
	}
	r.fields[path] = joined
}
