package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"os"
	"runtime"
	"slices"
	"strings"
	"sync/atomic"

	"github.com/spf13/cobra"
	"golang.org/x/sync/errgroup"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/fault"
	"coldtap/internal/core/finding"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
	"coldtap/internal/core/words"
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

// builds are the builds that a command is asked for.
type builds struct {
	with, without []string
	all           bool
}

func (b *builds) flags(c *cobra.Command) {
	c.Flags().StringSliceVar(&b.with, "with", nil, "options that are fitted beside the standard ones")
	c.Flags().StringSliceVar(&b.without, "without", nil, "standard options that are left out")
	c.Flags().BoolVar(&b.all, "all-builds", false, "every build that the options allow")
	c.MarkFlagsMutuallyExclusive("with", "all-builds")
	c.MarkFlagsMutuallyExclusive("without", "all-builds")
}

// mostBuilds is how many builds of one model are worked out at once.
const mostBuilds = 256

// of lists the builds of a model by their options.
func (b *builds) of(m *plumbing.Model) ([][]string, error) {
	var ids []string
	for _, o := range m.Options {
		ids = append(ids, o.ID)
	}
	for _, id := range slices.Concat(b.with, b.without) {
		if !slices.Contains(ids, id) {
			return nil, fmt.Errorf("model %s has no option %q; it has %s", m.ID, id, strings.Join(ids, ", "))
		}
	}
	if !b.all {
		fitted := append(slices.Clone(b.with), m.StandardOptions()...)
		fitted = slices.DeleteFunc(fitted, func(id string) bool { return slices.Contains(b.without, id) })
		slices.Sort(fitted)
		return [][]string{slices.Compact(fitted)}, nil
	}
	if 1<<len(ids) > mostBuilds {
		return nil, fmt.Errorf("model %s has %d options: more than %d builds; name one by --with and --without", m.ID,
			len(ids), mostBuilds)
	}
	var list [][]string
	for set := range 1 << len(ids) {
		var fitted []string
		for i, id := range ids {
			if set&(1<<i) != 0 {
				fitted = append(fitted, id)
			}
		}
		list = append(list, fitted)
	}
	return list, nil
}

// prepare makes the inputs of everything from a build of a model.
func prepare(ctx context.Context, m *plumbing.Model, options []string) (draft.Inputs, error) {
	build, err := m.Build(options...)
	if err != nil {
		return draft.Inputs{}, err
	}
	n, err := plumbing.NewNetwork(build)
	if err != nil {
		return draft.Inputs{}, err
	}
	plan, err := setting.Plan(ctx, n)
	if err != nil {
		return draft.Inputs{}, err
	}
	return draft.Inputs{Net: n, Plan: plan, House: house.Usual(m.System())}, nil
}

// each works on every asked build of a model file.
func (b *builds) each(ctx context.Context, file string, do func(options []string, in draft.Inputs) error) error {
	m, err := readModel(file)
	if err != nil {
		return err
	}
	list, err := b.of(m)
	if err != nil {
		return exit{2, fmt.Errorf("%s: %w", file, err)}
	}
	for _, options := range list {
		in, err := prepare(ctx, m, options)
		if err != nil {
			return exit{2, fmt.Errorf("%s, built with %s: %w", file, built(options), err)}
		}
		if err := do(options, in); err != nil {
			return err
		}
	}
	return nil
}

// built names the options of a build.
func built(options []string) string {
	if len(options) == 0 {
		return "no option"
	}
	return strings.Join(options, ", ")
}

func checkCommand() *cobra.Command {
	var b builds
	var asJSON bool
	c := &cobra.Command{
		Use:   "check MODEL.json...",
		Short: "Tell findings, positions and amounts of model files",
		Long: "Tell findings, positions and amounts of model files.\n\n" +
			"Exits with 0 where all is well, 1 where there is an error among the findings or\n" +
			"a danger in a procedure, 2 where a file can't be read.",
		Args: cobra.MinimumNArgs(1),
		RunE: func(c *cobra.Command, files []string) error {
			collectSeldom()
			return check(c.Context(), files, &b, asJSON, c.OutOrStdout(), c.ErrOrStderr())
		},
	}
	b.flags(c)
	c.Flags().BoolVar(&asJSON, "json", false, "as JSON, see docs/check.md")
	return c
}

// many is from how many files on it is told how far the work is, and every how many files.
const (
	many          = 10
	progressEvery = 10
)

// check reports on files; one that can't be read does not keep the others from
// being looked at.
func check(ctx context.Context, files []string, b *builds, asJSON bool, out, progress io.Writer) error {
	found := make([][]*report, len(files)) // in the order of the files, whichever is done first
	faults := make([]error, len(files))
	var pool errgroup.Group
	pool.SetLimit(runtime.NumCPU())
	var done atomic.Int64
	for i, file := range files {
		pool.Go(func() error {
			faults[i] = b.each(ctx, file, func(options []string, in draft.Inputs) error {
				r, err := newReport(ctx, in)
				if err != nil {
					return err
				}
				r.File, r.Options = file, options
				found[i] = append(found[i], r)
				return nil
			})
			if n := done.Add(1); len(files) >= many && (n%progressEvery == 0 || int(n) == len(files)) {
				fmt.Fprintf(progress, "%d of %d files looked at\n", n, len(files))
			}
			return nil
		})
	}
	_ = pool.Wait() // what a file's fault is stands with the file
	list, unread := slices.Concat(found...), slices.DeleteFunc(faults, func(err error) bool { return err == nil })
	bad := slices.ContainsFunc(list, func(r *report) bool { return r.bad })
	if err := show(list, len(files) == 1 && !b.all, asJSON, out); err != nil {
		return err
	}
	if len(unread) > 0 {
		return exit{2, errors.Join(unread...)}
	}
	if bad {
		return exit{1, errors.New("there is an error among the findings, or a danger in a procedure")}
	}
	return nil
}

// show writes reports: a single one as it is, several as a list.
func show(list []*report, single, asJSON bool, out io.Writer) error {
	if !asJSON {
		for i, r := range list {
			if !single {
				if i > 0 {
					fmt.Fprintln(out)
				}
				fmt.Fprintf(out, "== %s, with %s\n", r.File, built(r.Options))
			}
			r.text(out)
		}
		return nil
	}
	var value any = list
	if single {
		if len(list) == 0 {
			return nil
		}
		value = list[0]
	}
	enc := json.NewEncoder(out)
	enc.SetIndent("", "  ")
	return enc.Encode(value)
}

func schemaCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "schema",
		Short: "Write the JSON Schema of the model file",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			enc := json.NewEncoder(c.OutOrStdout())
			enc.SetIndent("", "  ")
			return enc.Encode(plumbing.Schema())
		},
	}
}

// report is what check says of a model, in JSON as documented in docs/check.md.
type report struct {
	File     string            `json:"file"`
	Options  []string          `json:"options"` // of the build
	Model    string            `json:"model"`
	Parts    int               `json:"parts"`
	Lines    int               `json:"lines"`
	Findings []findingReport   `json:"findings"`
	Content  sheet             `json:"content"`
	Modes    []modeReport      `json:"modes"`
	Amounts  []sheet           `json:"amounts"`
	Dose     *doseReport       `json:"dose,omitempty"`
	Doses    []doseReport      `json:"doses,omitempty"` // one for each body of tank water
	Proofs   []procedureReport `json:"procedures,omitempty"`
	sys      quantity.System
	bad      bool // there is an error finding, or a procedure is a danger
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
	Turns     []turnReport      `json:"turns,omitempty"` // settings one after the other, where no single one does
	Wrong     []wrongReport     `json:"one_thing_wrong,omitempty"`
	words     []string
}

type wrongReport struct {
	Severity string   `json:"severity"`
	Faults   []string `json:"faults"`
	Effects  []string `json:"effects"`
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

func newReport(ctx context.Context, in draft.Inputs) (*report, error) {
	m := in.Net.Model
	tell := words.English(m.System())
	r := &report{Model: m.Title(), Parts: len(m.Parts), Lines: len(m.Lines), sys: m.System()}
	for _, f := range finding.Find(in.Net, in.Plan) {
		told := tell.Finding(f)
		r.Findings = append(r.Findings, findingReport{f.Code, f.Severity.String(), f.Parts, told.Words, told.Why,
			told.Remedy})
		r.bad = r.bad || f.Severity == finding.Error
	}
	r.Content = newSheet(tell, amount.Contents(in.Net, r.sys), 0)
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
		if a := setting.ForMode(in.Plan, id); a.Has() {
			for _, state := range []amount.LineState{amount.Drained, amount.Full} {
				s := amount.Antifreeze(in.Net, a, state, in.House)
				r.Amounts = append(r.Amounts, newSheet(tell, s.Worksheet, s.Jugs[0].Count))
			}
		}
	}
	if a := setting.ForMode(in.Plan, setting.Sanitize); a.Has() {
		for _, d := range amount.PlanDoses(in.Net, a, in.House) {
			if d.Why.IsZero() {
				r.Doses = append(r.Doses, doseReport{tell.Tell(d.Name()), float64(d.Target), float64(d.Product),
					float64(d.Tank), float64(d.Drawn), float64(d.Exact),
					d.Measured.String(), float64(d.Filled), float64(d.Final)})
			}
		}
		if len(r.Doses) > 0 {
			r.Dose = &r.Doses[0]
		}
	}
	var err error
	if r.Proofs, err = newProcedureReports(ctx, in); err != nil {
		return r, err
	}
	for i := range r.Proofs {
		r.bad = r.bad || r.Proofs[i].danger
	}
	return r, nil
}

func newSheet(tell *words.Printer, w amount.Worksheet, jugs int) sheet {
	s := sheet{Title: tell.Tell(w.Title), Litres: float64(w.Total), Jugs: jugs}
	for _, x := range w.Rows {
		s.Rows = append(s.Rows, row{x.Part, tell.Tell(x.What), tell.Tell(x.Inputs), float64(x.Litre)})
	}
	return s
}

type turnReport struct {
	Positions map[string]string `json:"positions"`
	Does      string            `json:"does"`
}

func positionsOf(n *plumbing.Network, s *state.State) map[string]string {
	at := map[string]string{}
	for i, h := range n.AllHandles() {
		at[h.Part.ID] = h.Positions[s.Position(i)]
	}
	return at
}

func newModeReport(ctx context.Context, in draft.Inputs, a *setting.Answer) (modeReport, error) {
	n := in.Net
	tell := words.English(n.Model.System())
	r := modeReport{ID: a.Mode.ID, Name: tell.Tell(a.Mode.Name), OK: a.OK, Why: tell.Tell(a.Why), SameAs: a.SameAs}
	for _, b := range a.Broken {
		r.Broken = append(r.Broken, tell.Tell(b.Said))
	}
	if !a.Has() {
		return r, nil
	}
	r.Positions = positionsOf(n, &a.State)
	for i := range a.Turns {
		t := &a.Turns[i]
		r.Turns = append(r.Turns, turnReport{positionsOf(n, &t.State), tell.Tell(t.Said(n, &a.Mode))})
	}
	for i, h := range n.AllHandles() {
		pos := h.Positions[a.State.Position(i)]
		if _, fixed := a.Mode.Fixed[i]; !fixed {
			r.words = append(r.words, fmt.Sprintf("%s: %s", h.Part.Name, tell.Position(h.Part, pos)))
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
		w := wrongReport{Severity: e.Severity.String()}
		for _, f := range e.Faults {
			w.Faults = append(w.Faults, tell.Tell(f.Said))
		}
		for i := range e.Effects {
			w.Effects = append(w.Effects, tell.Effect(n, &e.Effects[i]))
		}
		r.Wrong = append(r.Wrong, w)
	}
	return r, nil
}

func (r *report) text(out io.Writer) {
	fmt.Fprintf(out, "%s: %d parts, %d lines, %s in the lines\n", r.Model, r.Parts, r.Lines,
		quantity.Both(quantity.Litre(r.Content.Litres), r.sys))
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
	for _, m := range r.Modes {
		for i, t := range m.Turns {
			fmt.Fprintf(out, "\n%s, turn %d: %s\n", m.Name, i+1, t.Does)
			for _, id := range slices.Sorted(maps.Keys(t.Positions)) {
				fmt.Fprintf(out, "  %s %s\n", id, t.Positions[id])
			}
		}
	}
	fmt.Fprintln(out)
	for _, s := range r.Amounts {
		fmt.Fprintf(out, "%s: %s, %d jugs\n", s.Title, quantity.Both(quantity.Litre(s.Litres), r.sys), s.Jugs)
	}
	for _, d := range r.Doses {
		fmt.Fprintf(out, "%s: bleach of %g %%: %s gives %.1f mg/L in %s, %.1f after topping up\n", d.Tanks, d.Product,
			d.Measure, d.FilledMgL, quantity.Both(quantity.Litre(d.TankL), r.sys), d.FinalMgL)
	}
	if len(r.Proofs) > 0 {
		fmt.Fprintln(out, "\nProcedures, carried out on this plumbing:")
	}
	for i := range r.Proofs {
		r.Proofs[i].text(out)
	}
}
