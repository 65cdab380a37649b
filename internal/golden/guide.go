package golden

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"coldtap/internal/core/draft"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/house"
	"coldtap/internal/core/instruction"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/report"
	"coldtap/internal/core/scene"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
	"coldtap/internal/tables"
)

// pictures are what goes on in each mode: what is wet and with what, what
// flows and how much, what is broken.
func (w *writer) pictures(ctx context.Context, n *plumbing.Network, plan []setting.Answer) error {
	for i := range plan {
		a := &plan[i]
		if !a.Has() {
			continue
		}
		w.head("picture of %s", a.Mode.ID)
		st := scene.AsMeant(n, &a.Mode, a.State.Handles)
		p, err := scene.Observe(ctx, st, plan, house.Usual(n.Model.System()))
		if err != nil {
			return err
		}
		wet := map[state.Fluid][]string{}
		for link, fluid := range p.Wet {
			wet[fluid] = append(wet[fluid], n.Links[link].Line.ID)
		}
		for _, fluid := range sorted(wet) {
			w.row("%s in: %s", fluid, strings.Join(once(wet[fluid]), " "))
		}
		for _, f := range scene.Goings(st, p) {
			w.row("%s: %s %s", f.Part.ID, f.What, fact.If(f.Flow > 0, fact.Of("it.about", f.Flow)))
		}
		for _, b := range p.Broken {
			w.row("broken: %s; by %s", b.Said, way(n, b.Path))
		}
		w.stands(st, p)
	}
	return nil
}

func (w *writer) stands(st *scene.Scene, p *scene.Observation) {
	for _, s := range scene.Stands(st, p) {
		w.row("%s: %.4f L, least %v", fact.Of("it", s.Attitude), s.Total, s.Least)
		for _, c := range s.Changes {
			w.row("    %s %.4f L", c.ID, c.Stays)
		}
	}
}

// way names the ends of each link of a path.
func way(n *plumbing.Network, links []plumbing.LinkID) string {
	var list []string
	for _, i := range links {
		l := &n.Links[i]
		list = append(list, n.Nodes[l.A].Name()+"–"+n.Nodes[l.B].Name())
	}
	return strings.Join(list, ", ")
}

func sorted[K cmp.Ordered, V any](m map[K]V) []K {
	var keys []K
	for k := range m {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	return keys
}

func once(list []string) []string {
	slices.Sort(list)
	return slices.Compact(list)
}

// procedures writes the steps of each procedure that a model has, and what its proof finds.
func (w *writer) procedures(ctx context.Context, in draft.Inputs) {
	for _, d := range draft.All(ctx, in) {
		w.head("procedure: %s", d.ID)
		if d.Procedure == nil {
			w.row("can't be had: %s; instead %q", d.Why, d.Instead)
			continue
		}
		pr := proof.Judge(in.Net, d.Procedure, *d.Run)
		read := instruction.Of(in.Net, in.House, d.Procedure, pr)
		for _, f := range slices.Concat(read.Site, read.Hand, read.Tags) {
			w.row("%s", f)
		}
		for i, s := range read.Steps {
			w.row("%d %s until %s: %.1f s", i+1, s.Head, s.Until, float64(s.Took))
			for _, a := range slices.Concat(s.Acts, s.Then) {
				w.row("    %s %s %s", a.Verb, a.Part.ID, a.To)
			}
			for _, f := range slices.Concat(s.Pour, s.Notes, s.Tools) {
				w.row("    %s", f)
			}
			for _, c := range s.Cautions {
				w.row("    %s: %s", c.Level, c.Said)
			}
		}
		for _, b := range pr.Breaches {
			w.row("%d %s %s: %s", b.Step+1, b.Severity, b.Rule, b.Said)
		}
	}
}

// tables are the report as a spreadsheet takes it, without those that only
// repeat a worksheet, and what each figure was computed from: that is held
// against a changed model instead.
func (w *writer) tables(r *report.Report) {
	for _, t := range tables.Of(r) {
		if t.Name == "Figures" || slices.Contains(t.Head, "Formula") || slices.Contains(t.Head, "Rule") {
			continue
		}
		w.head("table %s: %s", t.Name, strings.Join(t.Head, " | "))
		for _, row := range t.Rows {
			var cells []string
			for _, c := range row {
				if f, ok := c.(float64); ok {
					c = fmt.Sprintf("%.4f", f)
				}
				cells = append(cells, fmt.Sprint(c))
			}
			w.row("%s", strings.Join(cells, " | "))
		}
	}
}
