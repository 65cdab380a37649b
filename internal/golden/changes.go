package golden

import (
	"fmt"

	"coldtap/internal/core/compare"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/house"
	"coldtap/internal/core/merge"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/table"
)

// Edits writes down what each change of a model's structure comes to: a valve
// into every line, a tee into every line, every part and line taken away, a
// line between ports that are open.
func Edits(m *plumbing.Model) string {
	w := &writer{}
	for i := range m.Lines {
		id := m.Lines[i].ID
		valve := plumbing.Part{Kind: plumbing.Valve, Name: "Put in", Normal: "open"}
		done, err := edit.InsertInto(m, id, valve, "a", "b")
		w.change(m, "a valve into "+id, done, err)
		again, err := plumbing.ReadKept(text(m))
		if err != nil {
			w.row("%v", err)
			continue
		}
		port, err := edit.TeeInto(again, id, 0.25, "Put in")
		w.change(m, "a tee into "+id+": "+port, &edit.Done{Model: again}, err)
		done, err = edit.Remove(m, id)
		w.change(m, "without "+id, done, err)
	}
	for i := range m.Parts {
		done, err := edit.Remove(m, m.Parts[i].ID)
		w.change(m, "without "+m.Parts[i].ID, done, err)
	}
	open := edit.OpenPorts(m)
	w.row("open: %v", open)
	for _, from := range open {
		for _, line := range m.Lines[:min(4, len(m.Lines))] {
			done, err := edit.Join(m, from, line.To, plumbing.Line{Length: line.Length})
			w.change(m, from+" to "+line.To, done, err)
			w.row("  carries %s", edit.SideOf(m, from, line.To))
		}
	}
	return w.String()
}

func text(m *plumbing.Model) string {
	w := &writer{}
	if err := plumbing.Write(w, m); err != nil {
		return err.Error()
	}
	return w.String()
}

// change writes what a change says, and the rows that are new or gone.
func (w *writer) change(m *plumbing.Model, what string, done *edit.Done, err error) {
	w.head("%s", what)
	if err != nil {
		w.row("refused: %v", err)
		return
	}
	w.row("%s", done.Said)
	now, was := rows(done.Model), rows(m)
	for _, r := range without(was, now) {
		w.row("- %s", r)
	}
	for _, r := range without(now, was) {
		w.row("+ %s", r)
	}
}

// without is one list without what is in another.
func without(list, other []string) (rest []string) {
	has := map[string]bool{}
	for _, s := range other {
		has[s] = true
	}
	for _, s := range list {
		if !has[s] {
			rest = append(rest, s)
		}
	}
	return rest
}

// Import writes down how a list is taken into a model.
func Import(m *plumbing.Model, list string) string {
	w := &writer{}
	t := table.Guess(table.Block(list))
	w.row("%s, the first row is %d", t.What, t.First)
	for _, c := range t.Columns {
		w.row("  %q is %s in %q", c.Head, c.Field, c.Unit)
	}
	done, judged, err := table.Apply(m, &t)
	for _, r := range judged {
		w.row("%d %s %s %q", r.Number, r.State, r.ID, r.Cells)
		for _, f := range r.Faults {
			w.row("    ! %d %s", f.Column, f.Words)
		}
		for _, f := range r.Notes {
			w.row("    ? %d %s", f.Column, f.Words)
		}
	}
	w.change(m, "what goes in", done, err)
	return w.String()
}

// Compared writes down in what two builds differ, and what comes of merging
// each one's changes into the other.
func Compared(base, mine, theirs *plumbing.Model, planOf func(*plumbing.Model) (*plumbing.Network,
	[]setting.Answer)) (string, error) {
	w := &writer{sys: base.System()}
	changes, err := compare.Documents(mine, theirs)
	if err != nil {
		return "", err
	}
	for _, c := range changes {
		w.row("%s %s %s %q %+v", c.What, c.Thing, c.ID, c.Name, c.Fields)
	}
	subject := func(m *plumbing.Model) compare.Subject {
		n, plan := planOf(m)
		return compare.SubjectOf(n, plan, house.Usual(m.System()))
	}
	a, b := subject(mine), subject(theirs)
	for _, f := range compare.Figures(a, b) {
		w.row("%s: %s, %s, differs %v", f.Name, f.Before, f.After, f.Differs)
	}
	names, sheet := compare.Sheet([]compare.Subject{a, b})
	w.row("%v", w.out().TellAll(names))
	for _, r := range sheet {
		w.row("%v", w.out().TellAll(r))
	}
	r, err := merge.Merge(base, mine, theirs)
	if err != nil {
		return "", fmt.Errorf("merge: %w", err)
	}
	for _, c := range r.Taken {
		w.row("taken %+v", c)
	}
	for _, c := range r.Conflicts {
		w.row("conflict %+v", c)
	}
	w.change(theirs, "merged", &edit.Done{Model: r.Model}, nil)
	return w.String(), nil
}
