package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/fault"
	"coldtap/internal/core/finding"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/procedure"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/guide"
)

// readModel reads a model file; a file that can't be read exits with 2.
func readModel(name string) (*plumbing.Model, error) {
	f, err := os.Open(name)
	if err != nil {
		return nil, exit{2, err}
	}
	defer f.Close()
	m, err := plumbing.Read(f)
	if err != nil {
		return nil, exit{2, fmt.Errorf("%s: %w", name, err)}
	}
	return m, nil
}

// prepare makes the inputs of everything from a model's standard build.
func prepare(ctx context.Context, m *plumbing.Model) (procedure.Inputs, error) {
	build, err := m.Build(m.StandardOptions()...)
	if err != nil {
		return procedure.Inputs{}, exit{2, err}
	}
	n, err := plumbing.NewNetwork(build)
	if err != nil {
		return procedure.Inputs{}, exit{2, err}
	}
	plan, err := setting.Plan(ctx, n)
	if err != nil {
		return procedure.Inputs{}, err
	}
	return procedure.Inputs{Net: n, Plan: plan, House: amount.DefaultHouse(m.System())}, nil
}

// flagsAnywhere takes known switches out of the arguments, wherever they stand.
func flagsAnywhere(args []string, switches ...string) (rest []string, on map[string]bool) {
	on = map[string]bool{}
next:
	for _, a := range args {
		for _, s := range switches {
			if a == s {
				on[s] = true
				continue next
			}
		}
		rest = append(rest, a)
	}
	return rest, on
}

func check(ctx context.Context, args []string, out io.Writer) error {
	rest, on := flagsAnywhere(args, "--json")
	if len(rest) != 1 {
		return exit{2, errors.New("usage: coldtap check MODEL.json [--json]")}
	}
	m, err := readModel(rest[0])
	if err != nil {
		return err
	}
	in, err := prepare(ctx, m)
	if err != nil {
		return err
	}
	r, err := newReport(ctx, in)
	if err != nil {
		return err
	}
	if on["--json"] {
		enc := json.NewEncoder(out)
		enc.SetIndent("", "  ")
		if err := enc.Encode(r); err != nil {
			return err
		}
	} else {
		r.text(out)
	}
	if r.bad {
		return exit{1, errors.New("there is an error among the findings")}
	}
	return nil
}

func schema(out io.Writer) error {
	enc := json.NewEncoder(out)
	enc.SetIndent("", "  ")
	return enc.Encode(plumbing.Schema())
}

func writeGuide(ctx context.Context, args []string, out io.Writer) error {
	file := ""
	var rest []string
	for i := 0; i < len(args); i++ {
		if args[i] == "-o" && i+1 < len(args) {
			file = args[i+1]
			i++
			continue
		}
		rest = append(rest, args[i])
	}
	if len(rest) != 1 {
		return exit{2, errors.New("usage: coldtap guide MODEL.json [-o FILE]")}
	}
	m, err := readModel(rest[0])
	if err != nil {
		return err
	}
	in, err := prepare(ctx, m)
	if err != nil {
		return err
	}
	if file == "" {
		return guide.NewOwner(in).WriteHTML(out)
	}
	f, err := os.Create(file)
	if err != nil {
		return err
	}
	return errors.Join(guide.NewOwner(in).WriteHTML(f), f.Close())
}

// report is what check says of a model, in JSON as documented in docs/check.md.
type report struct {
	Model    string          `json:"model"`
	Parts    int             `json:"parts"`
	Lines    int             `json:"lines"`
	Findings []findingReport `json:"findings"`
	Content  sheet           `json:"content"`
	Modes    []modeReport    `json:"modes"`
	Amounts  []sheet         `json:"amounts"`
	Dose     *doseReport     `json:"dose,omitempty"`
	Doses    []doseReport    `json:"doses,omitempty"` // one for each body of tank water
	sys      quantity.System
	bad      bool // there is an error finding
}

type findingReport struct {
	Code     string   `json:"code"`
	Severity string   `json:"severity"`
	Parts    []string `json:"parts,omitempty"`
	Words    string   `json:"words"`
	Why      string   `json:"why"`
	Mend     string   `json:"mend"`
}

type modeReport struct {
	ID        string            `json:"id"`
	Name      string            `json:"name"`
	OK        bool              `json:"ok"`
	Why       string            `json:"why,omitempty"`
	SameAs    string            `json:"same_as,omitempty"`
	Positions map[string]string `json:"positions,omitempty"`
	Broken    []string          `json:"broken,omitempty"` // what the best there is breaks, where ok is false
	Either    []string          `json:"either,omitempty"`
	Wrong     []wrongReport     `json:"one_thing_wrong,omitempty"`
	words     []string
}

type wrongReport struct {
	Gravity string   `json:"gravity"`
	Faults  []string `json:"faults"`
	Effects []string `json:"effects"`
}

type sheet struct {
	Title  string  `json:"title"`
	Litres float64 `json:"litres"`
	Jugs   int     `json:"jugs,omitempty"`
	Rows   []row   `json:"rows"`
}

type row struct {
	Part   string  `json:"part,omitempty"`
	What   string  `json:"what"`
	Inputs string  `json:"inputs"`
	Litres float64 `json:"litres"`
}

type doseReport struct {
	Tanks     string  `json:"tanks"`
	TargetMgL float64 `json:"target_mg_per_l"`
	Product   float64 `json:"product_percent"`
	TankL     float64 `json:"tank_litres"`
	DrawnL    float64 `json:"drawn_litres"`
	ExactL    float64 `json:"exact_litres"`
	Measure   string  `json:"measure"`
	FilledMgL float64 `json:"filled_mg_per_l"`
	FinalMgL  float64 `json:"final_mg_per_l"`
}

func newReport(ctx context.Context, in procedure.Inputs) (*report, error) {
	m := in.Net.Model
	r := &report{Model: m.Title(), Parts: len(m.Parts), Lines: len(m.Lines), sys: m.System()}
	for _, f := range finding.Of(in.Net, in.Plan) {
		r.Findings = append(r.Findings, findingReport{f.Code, f.Severity.String(), f.Parts, f.Words, f.Why, f.Mend})
		r.bad = r.bad || f.Severity == finding.Error
	}
	r.Content = newSheet(amount.Contents(in.Net, r.sys), 0)
	for _, a := range in.Plan {
		if !a.Mode.Measure {
			one, err := newModeReport(ctx, in, &a)
			if err != nil {
				return r, err
			}
			r.Modes = append(r.Modes, one)
		}
	}
	for _, id := range []string{setting.Antifreeze, setting.ThroughHeater} {
		if a := setting.Of(in.Plan, id); a.Has() {
			for _, state := range []amount.LineState{amount.Drained, amount.Full} {
				s := amount.Antifreeze(in.Net, a, state, in.House)
				r.Amounts = append(r.Amounts, newSheet(s.Worksheet, s.Jugs[0].Count))
			}
		}
	}
	if a := setting.Of(in.Plan, setting.Sanitize); a.Has() {
		for _, d := range amount.PlanDoses(in.Net, a, in.House) {
			if d.Why == "" {
				r.Doses = append(r.Doses, doseReport{d.Name(), float64(d.Target), float64(d.Product), float64(d.Tank), float64(d.Drawn), float64(d.Exact),
					d.Measured.String(), float64(d.Filled), float64(d.Final)})
			}
		}
		if len(r.Doses) > 0 {
			r.Dose = &r.Doses[0]
		}
	}
	return r, nil
}

func newSheet(w amount.Worksheet, jugs int) sheet {
	s := sheet{Title: w.Title, Litres: float64(w.Total), Jugs: jugs}
	for _, x := range w.Rows {
		s.Rows = append(s.Rows, row{x.Part, x.What, x.Inputs, float64(x.Litre)})
	}
	return s
}

func newModeReport(ctx context.Context, in procedure.Inputs, a *setting.Answer) (modeReport, error) {
	n := in.Net
	r := modeReport{ID: a.Mode.ID, Name: a.Mode.Name, OK: a.OK, Why: a.Why, SameAs: a.SameAs}
	for _, b := range a.Broken {
		r.Broken = append(r.Broken, b.Words)
	}
	if !a.Has() {
		return r, nil
	}
	r.Positions = map[string]string{}
	for i, h := range n.AllHandles() {
		pos := h.Positions[a.State.Position(i)]
		r.Positions[h.Part.ID] = pos
		if _, fixed := a.Mode.Fixed[i]; !fixed {
			r.words = append(r.words, fmt.Sprintf("%s: %s", h.Part.Name, plumbing.PositionWords(h.Part, pos)))
		}
	}
	for _, i := range a.Either {
		r.Either = append(r.Either, n.Handles[i].Part.ID)
	}
	wrong, err := fault.InMode(ctx, n, a, in.Plan)
	if err != nil {
		return r, err
	}
	for _, e := range wrong {
		w := wrongReport{Gravity: e.Gravity.String()}
		for _, f := range e.Faults {
			w.Faults = append(w.Faults, f.Words)
		}
		for i := range e.Effects {
			w.Effects = append(w.Effects, e.Effects[i].Words(n))
		}
		r.Wrong = append(r.Wrong, w)
	}
	return r, nil
}

func (r *report) text(out io.Writer) {
	fmt.Fprintf(out, "%s: %d parts, %d lines, %s in the lines\n", r.Model, r.Parts, r.Lines, quantity.Both(quantity.Litre(r.Content.Litres), r.sys))
	for _, f := range r.Findings {
		fmt.Fprintf(out, "%-8s %s\n", f.Severity, f.Words)
	}
	for _, m := range r.Modes {
		switch {
		case !m.OK:
			fmt.Fprintf(out, "\n%s: no setting\n  %s\n", m.Name, m.Why)
			if len(m.Positions) > 0 {
				fmt.Fprintf(out, "  The best there is:\n  %s\n", strings.Join(append(m.words, m.Broken...), "\n  "))
			}
		case m.SameAs != "":
			fmt.Fprintf(out, "\n%s: same positions as %s\n", m.Name, m.SameAs)
		default:
			fmt.Fprintf(out, "\n%s\n  %s\n", m.Name, strings.Join(m.words, "\n  "))
		}
	}
	fmt.Fprintln(out)
	for _, s := range r.Amounts {
		fmt.Fprintf(out, "%s: %s, %d jugs\n", s.Title, quantity.Both(quantity.Litre(s.Litres), r.sys), s.Jugs)
	}
	for _, d := range r.Doses {
		fmt.Fprintf(out, "%s: bleach of %g %%: %s gives %.1f mg/L in %s, %.1f after topping up\n", d.Tanks, d.Product, d.Measure, d.FilledMgL, quantity.Both(quantity.Litre(d.TankL), r.sys), d.FinalMgL)
	}
}
