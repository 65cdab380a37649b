// Package golden writes down everything the core says about a build, as text
// that a person can read and compare: findings, positions, what stays, what
// one wrong thing leads to, every figure and worksheet.
package golden

import (
	"context"
	"fmt"
	"strings"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/fault"
	"coldtap/internal/core/finding"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/report"
	"coldtap/internal/core/scene"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
	"coldtap/internal/core/words"
)

// writer writes rows under heads, facts among them in words.
type writer struct {
	strings.Builder
	sys quantity.System
}

func (w *writer) out() *words.Printer { return words.English(w.sys) }

func (w *writer) tell(f fact.Fact) string { return w.out().Tell(f) }

func (w *writer) head(format string, args ...any) {
	w.WriteString("\n== ")
	w.row(format, args...)
}

func (w *writer) row(format string, args ...any) {
	for i, a := range args {
		if f, ok := a.(fact.Fact); ok {
			args[i] = w.tell(f)
		}
	}
	w.WriteString(strings.ReplaceAll(fmt.Sprintf(format, args...), "\u00a0", " ") + "\n")
}

// Told writes a build down.
func Told(ctx context.Context, build *plumbing.Model) (string, error) {
	n, err := plumbing.NewNetwork(build)
	if err != nil {
		return "", err
	}
	w := &writer{sys: build.System()}
	w.row("%s, %d parts, %d lines", build.Title(), len(build.Parts), len(build.Lines))
	plan, err := setting.Plan(ctx, n)
	if err != nil {
		return "", err
	}
	w.findings(finding.Find(n, plan))
	for i := range plan {
		w.answer(ctx, n, &plan[i])
	}
	if err := w.drained(ctx, n, plan); err != nil {
		return "", err
	}
	faults, err := Faults(ctx, n, plan)
	if err != nil {
		return "", err
	}
	w.faults(n, faults)
	rules := house.Usual(build.System())
	r := report.New(n, plan, rules, report.Ask{})
	w.report(r)
	w.tables(&r)
	if err := w.pictures(ctx, n, plan); err != nil {
		return "", err
	}
	w.procedures(ctx, draft.Inputs{Net: n, Plan: plan, House: rules})
	return w.String(), nil
}

func (w *writer) findings(list []finding.Finding) {
	w.head("findings")
	for _, f := range list {
		w.row("%s %s %v: %s", f.Severity, f.Code, f.Parts, f.Said)
	}
}

func (w *writer) answer(ctx context.Context, n *plumbing.Network, a *setting.Answer) {
	w.head("%s: %s", a.Mode.ID, a.Mode.Name)
	if !a.Mode.LeftOut.IsZero() {
		w.row("left out: %s", a.Mode.LeftOut)
		return
	}
	if !a.OK {
		w.row("no setting: %s", a.Why)
	}
	w.mends(ctx, n, a)
	if !a.Has() {
		return
	}
	for _, words := range a.Wrong(n) {
		w.row("  broken: %s", words)
	}
	if a.SameAs != "" {
		w.row("as for %s", a.SameAs)
	}
	var either []string
	for _, h := range a.Either {
		either = append(either, n.Handles[h].Part.ID)
	}
	for i, h := range n.AllHandles() {
		at := h.Positions[a.State.Position(i)]
		turned := ""
		if a.State.Position(i) != h.Normal {
			turned = " *"
		}
		w.row("  %s %s%s", h.Part.ID, at, turned)
	}
	w.turns(n, a)
	if either != nil {
		w.row("either: %s", strings.Join(either, ", "))
	}
	for _, h := range a.Mode.Acts {
		w.row("  at %s: %s", h.Part.ID, w.out().Act(h))
	}
}

// turns are the settings that follow one another, by what each turns.
func (w *writer) turns(n *plumbing.Network, a *setting.Answer) {
	for i, t := range a.Turns {
		var at, meets []string
		for h, hd := range n.AllHandles() {
			if i == 0 && t.State.Position(h) != hd.Normal || i > 0 &&
				t.State.Position(h) != a.Turns[i-1].State.Position(h) {
				at = append(at, hd.Part.ID+" "+hd.Positions[t.State.Position(h)])
			}
		}
		for k := range t.Meets {
			meets = append(meets, w.tell(fact.Of("it", t.Meets[k].Subject())))
		}
		for _, x := range t.Acts {
			at = append(at, x.Part.ID+" "+w.out().Act(x))
		}
		w.row("  turn %d: %s; meets %s; lets out %.4f L", i+1, strings.Join(at, ", "), strings.Join(meets, ", "), t.Out)
	}
}

// mends are what a fitting more would do about a mode without a setting.
func (w *writer) mends(ctx context.Context, n *plumbing.Network, a *setting.Answer) {
	if a.OK {
		return
	}
	list, err := setting.Remedies(ctx, n, &a.Mode, state.Normal(n))
	if err != nil {
		w.row("  no mends: %v", err)
	}
	for _, m := range list {
		w.row("  mend: %s", m.Said(n))
	}
}

func (w *writer) drained(ctx context.Context, n *plumbing.Network, plan []setting.Answer) error {
	a := setting.ForMode(plan, setting.DrainDown)
	if !a.Has() {
		return nil
	}
	w.head("what stays, drained down")
	st := scene.AsMeant(n, &a.Mode, a.State.Handles)
	p, err := scene.Observe(ctx, st, plan, house.Usual(n.Model.System()))
	if err != nil {
		return err
	}
	w.row("in all %.4f L", p.Left.Total())
	for _, s := range scene.Stays(n, p) {
		w.row("  %s %.4f L, %.0f %%: %s", s.ID, s.Stays, s.Share*100, fact.Of("it", s.Why))
	}
	for _, h := range scene.Helps(st, p) {
		w.row("  %s %s: %.4f L less", h.Part.ID, h.Position, h.Less)
	}
	for _, c := range setting.Dry(n) {
		w.row("  dry: %s", fact.Of("it", c.Subject()))
	}
	return nil
}

func (w *writer) faults(n *plumbing.Network, list []fault.Entry) {
	w.head("one thing wrong")
	for i := range list {
		e := &list[i]
		var modes, what []string
		for _, m := range e.Modes {
			modes = append(modes, m.ID)
		}
		for _, f := range e.Faults {
			what = append(what, w.tell(f.Said))
		}
		w.row("%s [%s] %s", e.Severity, strings.Join(modes, " "), strings.Join(what, " / "))
		w.row("    %s", w.out().Effects(n, e.Effects))
	}
}

func (w *writer) report(r report.Report) {
	w.sheet(r.Content)
	if !r.NoBypass.IsZero() {
		w.head("no bypass")
		w.row("%s", r.NoBypass)
	}
	for _, s := range r.Antifreeze {
		w.sheet(s.Worksheet)
		for _, j := range s.Jugs {
			w.row("  %s", j.Said())
		}
	}
	if r.HeaterIn != nil {
		w.sheet(r.HeaterIn.Worksheet)
	}
	w.winter(&r)
	w.dose(&r)
	w.flush(&r)
	w.head("times")
	for _, f := range r.Times {
		w.figure(f)
	}
	w.head("weights, levels, pressure, care")
	w.figure(r.Weight.Figure)
	for _, l := range r.Levels {
		w.row("  %s: %.3f to %.3f L, %.2f kg, %.2f kg left", l.Reading, l.Low, l.High, l.Weight, l.Left)
	}
	for _, l := range r.Loads {
		w.row("  %s: %d containers of %.3f L, %.3f L left", fact.Of("names.and", l.Tanks), l.Count, l.Container, l.Left)
	}
	for _, p := range r.Products {
		w.row("  %s for %s: %s, %.3f mg/L %s", p.Product.ID, p.Tanks, p.Said(), p.Strength, p.Wrong)
	}
	for _, s := range r.Supplies {
		w.row("  %s draws from %v, pick-ups %v, serves %d sides", s.Pump.ID, ids(s.Tanks), ids(s.PickUps), len(s.Sides))
	}
	by := ""
	if r.Pressure.By != nil {
		by = r.Pressure.By.ID
	}
	w.row("  water %.2f kPa, air %.2f kPa, weakest %s, chosen %.2f kPa", r.Pressure.Water, r.Pressure.Air, by,
		r.Pressure.Chosen)
	for _, b := range r.Care.Baths {
		w.row("  bath %s: %.3f L of %v %%: %.3f %%, %.4f kg", b.Heater.ID, b.Vinegar, b.Bought, b.Result.Strength,
			b.Result.Scale)
	}
	w.row("  keep fresh: %s, %.3f mg/L, over %v", r.Care.Keep, r.Care.KeepReally, r.Care.KeepOver)
	w.head("what is wrong with the figures")
	for _, f := range r.Findings {
		w.row("%s", f)
	}
}

func (w *writer) sheet(s amount.Worksheet) {
	w.head("%s: %.4f L", s.Title, s.Total)
	for _, r := range s.Rows {
		w.row("  %s %s = %s [%s] %.4f L; %s", r.Part, r.What, r.Formula, r.Inputs, r.Litre, r.Source)
	}
	for _, l := range s.LeftOut {
		w.row("  without %s %s: %s", l.Part, l.What, l.Why)
	}
}

func (w *writer) figure(f amount.Figure) {
	w.row("%s %s: %s", f.ID, f.Title, f.Value)
	for _, s := range f.Steps {
		w.row("    %s %s = %s [%s] %s; %s", s.Part, s.What, s.Formula, s.Inputs, s.Result, s.Source)
	}
	for _, x := range f.Findings {
		w.row("    ! %s", x)
	}
}

func (w *writer) winter(r *report.Report) {
	w.head("schools of winter")
	for _, s := range r.Winter {
		if !s.Cant.IsZero() {
			w.row("%s can't: %s", s.ID, s.Cant)
			continue
		}
		w.row("%s: stays %.4f L, advised %v", s.ID, s.Stays, s.Advised)
		if s.Sheet != nil {
			w.row("    takes %.4f L, %d jugs", s.Sheet.Total, s.Sheet.Jugs[0].Count)
		}
		if k := s.Weakest; k != nil {
			w.row("    weakest %s %s: share %.4f, %.4f of %.4f L, through %.4f L, bursts %s, enough %v", k.ID, k.Name,
				k.Share, k.Left, k.Holds, k.Through, k.Burst.Said(), k.Enough)
			for _, p := range k.Pockets {
				w.row("    pocket %s %s: %.4f of %.4f L; %s", p.ID, p.Name, p.Stays, p.Holds, p.Act.Said())
			}
		}
	}
	for _, s := range r.Stops {
		next := ""
		if s.Next {
			next = ", next jug"
		}
		w.row("  %s: %.4f L, %.4f L so far%s", s.Name, s.Takes, s.Sum, next)
	}
}

func (w *writer) dose(r *report.Report) {
	w.sheet(r.Dose.Lines)
	w.head("sanitizer")
	if !r.NoDose.IsZero() {
		w.row("no dose: %s", r.NoDose)
	}
	d := &r.Dose
	if !d.Why.IsZero() {
		w.row("%s", d.Why)
		return
	}
	w.row("tank %.4f L, start %.4f L, drawn %.4f L, exact %.2f mL, measured %s, filled %.3f mg/L, final %.3f mg/L",
		d.Tank, d.Start, d.Drawn, d.Exact*1000, d.Measured, d.Filled, d.Final)
	for _, b := range d.Batches {
		w.row("  %d batches of %.3f mL in %.3f L: %.2f mg/L", b.Count, b.Bleach*1000, b.Water, b.Strength)
	}
	for _, l := range d.Pockets {
		w.row("  pocket %s %s: %s", l.Part, l.What, l.Why)
	}
	w.row("  lines alone: %s in %.3f L: %.2f mg/L %s", r.Batch.Bleach, r.Batch.Water, r.Batch.Really, r.Batch.Wrong)
}

func (w *writer) flush(r *report.Report) {
	w.head("flushing")
	f := &r.Flush
	if !f.Refused.IsZero() {
		w.row("refused: %s", f.Refused)
		return
	}
	w.row("from %.3f to %.3f mg/L, r = %.5f", f.From, f.Limit, f.Share)
	for _, p := range f.Parts {
		w.row("  %s: %s %.4f L", p.What, p.Formula, p.Litre)
	}
	for _, way := range f.Ways {
		w.row("  %s: %d refills, %.2f L, %.2f L to the grey tank, %d loads, %.0f min, %.4f", way.Name, way.Refills,
			way.Water, way.Waste, way.Loads, way.Time/60, way.Left)
	}
	for _, s := range r.Schedule.Stages {
		w.row("  %s: %.0f min", s.Name, s.To.Sub(s.From).Minutes())
	}
}

// ids lists the ids of parts.
func ids(parts []*plumbing.Part) []string {
	list := []string{}
	for _, p := range parts {
		list = append(list, p.ID)
	}
	return list
}
