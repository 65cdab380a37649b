// Command mutate makes deliberate faults in the core, one at a time, runs the
// tests against each, and writes down which went unnoticed.
//
//	mutate --seed 1 --count 200
//
// It can be stopped and started again: what was tried is kept in the state
// file, for as long as the source that it was tried on is the same.
package main

import (
	"bufio"
	"cmp"
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"os/signal"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"coldtap/internal/mutate"
)

// safety are the files whose faults could hurt somebody: what warns, doses,
// drains or sets pressure.
var safety = []string{
	"amount/dose.go", "amount/sanitizer.go", "amount/protection.go", "amount/heatercare.go", "amount/weight.go",
	"amount/antifreeze.go",
	"flow/drain.go", "flow/waterways.go", "flow/openings.go", "flow/blow.go", "fault/effect.go", "procedure/caution.go",
	"flow/levels.go", "words/position.go",
}

// outcome is what became of a mutant.
type outcome struct {
	mutate.Mutant
	Caught bool
	By     string // the test package that noticed
}

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt)
	defer stop()
	if err := run(ctx); err != nil {
		fmt.Fprintln(os.Stderr, "mutate:", err)
		os.Exit(1)
	}
}

func run(ctx context.Context) error {
	seed := flag.Uint64("seed", 1, "decides which faults are tried")
	count := flag.Int("count", 200, "how many are tried")
	state := flag.String("state", "var/mutation.jsonl", "where what was tried is kept")
	report := flag.String("report", "docs/mutation.md", "where the report goes")
	equal := flag.String("equal", "docs/mutation-equal.txt",
		"faults argued to change nothing: an id and the reason on each line")
	only := flag.String("only", "", "only files whose path contains this")
	grave := flag.Bool("grave", false, "only what warns, doses, drains or sets pressure")
	workers := flag.Int("workers", 2, "how many are tried at once")
	flag.Parse()
	all, err := candidates("internal/core", *only)
	if err != nil {
		return err
	}
	if *grave {
		all = slices.DeleteFunc(all, func(m mutate.Mutant) bool { return !isSafety(m.File) })
	}
	done, err := read(*state)
	if err != nil {
		return err
	}
	drawn := mutate.Draw(all, *count, *seed)
	t := &trial{state: *state}
	jobs := make(chan mutate.Mutant)
	var wait sync.WaitGroup
	for range *workers {
		wait.Go(func() {
			for m := range jobs {
				t.try(ctx, m)
			}
		})
	}
	started := time.Now()
	for i, m := range drawn {
		if _, ok := done[m.ID]; ok {
			continue
		}
		select {
		case jobs <- m:
			fmt.Fprintf(os.Stderr, "%d of %d, %s\n", i+1, len(drawn), time.Since(started).Round(time.Second))
		case <-ctx.Done():
		}
		if ctx.Err() != nil || t.err != nil {
			break
		}
	}
	close(jobs)
	wait.Wait()
	if t.err != nil {
		return t.err
	}
	if done, err = read(*state); err != nil {
		return err
	}
	reasons, err := argued(*equal)
	if err != nil {
		return err
	}
	return write(*report, drawn, done, reasons, *seed, len(all))
}

// candidates lists every fault that can be made below a folder.
func candidates(root, only string) (list []mutate.Mutant, err error) {
	err = filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") ||
			!strings.Contains(path, only) {
			return err
		}
		source, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		more, err := mutate.Mutants(path, source)
		list = append(list, more...)
		return err
	})
	return list, err
}

// trial runs tests against mutants and keeps what came of it.
type trial struct {
	state string
	mu    sync.Mutex
	err   error
}

func (t *trial) try(ctx context.Context, m mutate.Mutant) {
	o, err := attempt(ctx, m)
	if ctx.Err() != nil {
		return // not tried
	}
	t.mu.Lock()
	defer t.mu.Unlock()
	if err == nil {
		err = keep(t.state, o)
	}
	if err != nil && t.err == nil {
		t.err = err
	}
}

// attempt runs the tests of the mutant's own package, then the goldens, then
// the tests of the packages that stand on it: those that don't are not run
// again, what they came to is kept.
func attempt(ctx context.Context, m mutate.Mutant) (outcome, error) {
	o := outcome{Mutant: m}
	source, err := os.ReadFile(m.File)
	if err != nil {
		return o, err
	}
	dir, err := os.MkdirTemp("", "mutant")
	if err != nil {
		return o, err
	}
	defer os.RemoveAll(dir)
	changed := filepath.Join(dir, "mutant.go")
	if err := os.WriteFile(changed, m.Apply(source), 0o600); err != nil {
		return o, err
	}
	path, err := filepath.Abs(m.File)
	if err != nil {
		return o, err
	}
	overlay := filepath.Join(dir, "overlay.json")
	text, err := json.Marshal(map[string]map[string]string{"Replace": {path: changed}})
	if err != nil {
		return o, err
	}
	if err := os.WriteFile(overlay, text, 0o600); err != nil {
		return o, err
	}
	own := "./" + filepath.ToSlash(filepath.Dir(m.File))
	for _, pkgs := range [][]string{{own}, {"./internal/golden"}, {"./internal/core/..."}} {
		limited, cancel := context.WithTimeout(ctx, 3*time.Minute)
		args := append([]string{"test", "-short", "-vet=off", "-failfast", "-timeout=2m", "-overlay=" + overlay},
			pkgs...)
		err := exec.CommandContext(limited, "go", args...).Run()
		cancel()
		if err != nil {
			o.Caught, o.By = true, pkgs[0]
			return o, nil
		}
	}
	return o, nil
}

func keep(file string, o outcome) error {
	if err := os.MkdirAll(filepath.Dir(file), 0o755); err != nil {
		return err
	}
	f, err := os.OpenFile(file, os.O_APPEND|os.O_CREATE|os.O_WRONLY, 0o644)
	if err != nil {
		return err
	}
	defer f.Close()
	return json.NewEncoder(f).Encode(o)
}

func read(file string) (map[string]outcome, error) {
	done := map[string]outcome{}
	f, err := os.Open(file)
	if os.IsNotExist(err) {
		return done, nil
	}
	if err != nil {
		return nil, err
	}
	defer f.Close()
	for scan := bufio.NewScanner(f); scan.Scan(); {
		var o outcome
		if err := json.Unmarshal(scan.Bytes(), &o); err != nil {
			return nil, fmt.Errorf("%s: %w", file, err)
		}
		done[o.ID] = o
	}
	return done, nil
}

// argued reads which faults are argued to change nothing that can be seen.
func argued(file string) (map[string]string, error) {
	reasons := map[string]string{}
	raw, err := os.ReadFile(file)
	if os.IsNotExist(err) {
		return reasons, nil
	}
	if err != nil {
		return nil, err
	}
	for _, line := range strings.Split(string(raw), "\n") {
		if id, why, ok := strings.Cut(strings.TrimSpace(line), " "); ok && !strings.HasPrefix(id, "#") {
			reasons[id] = why
		}
	}
	return reasons, nil
}

func isSafety(file string) bool {
	return slices.ContainsFunc(safety, func(s string) bool { return strings.HasSuffix(filepath.ToSlash(file), s) })
}

// share counts what was caught of some mutants.
type share struct{ tried, caught, equal int }

func (s share) String() string {
	if s.tried == s.equal {
		return "–"
	}
	return fmt.Sprintf("%.0f %%", 100*float64(s.caught)/float64(s.tried-s.equal))
}

func write(file string, drawn []mutate.Mutant, done map[string]outcome, reasons map[string]string, seed uint64,
	all int) error {
	t := count(drawn, done, reasons)
	var b strings.Builder
	fmt.Fprintf(&b, "# Deliberate faults\n\nWritten by `make mutate` on %s, seed %d: %d of %d possible faults in the core "+
		"were tried one at a time.\n\n", time.Now().Format("2 January 2006"), seed, t.whole.tried, all)
	t.table(&b)
	fmt.Fprint(&b, "\n\n## Unnoticed\n\n")
	for _, o := range t.survivors {
		fmt.Fprintln(&b, o.line())
	}
	if t.survivors == nil {
		fmt.Fprintln(&b, "None.")
	}
	fmt.Fprint(&b, "\n## Argued to change nothing\n\n")
	for _, o := range t.same {
		fmt.Fprintf(&b, "%s: %s\n", o.line(), reasons[o.ID])
	}
	if t.same == nil {
		fmt.Fprintln(&b, "None.")
	}
	return os.WriteFile(file, []byte(b.String()), 0o644)
}

// line is an outcome as a row of a list.
func (o outcome) line() string {
	return fmt.Sprintf("- `%s` %s:%d, %s: `%s` → `%s`", o.ID, o.File, o.Line, o.Kind, oneLine(o.Was), oneLine(o.Now))
}

// tally is what came of all faults that were tried.
type tally struct {
	whole, grave    share
	kinds, packages map[string]*share
	by              map[string]int // by which tests they were noticed first
	survivors, same []outcome
}

func count(drawn []mutate.Mutant, done map[string]outcome, reasons map[string]string) *tally {
	t := &tally{kinds: map[string]*share{}, packages: map[string]*share{}, by: map[string]int{}}
	for _, m := range drawn {
		o, ok := done[m.ID]
		if !ok {
			continue
		}
		pkg := filepath.ToSlash(filepath.Dir(m.File))
		if t.kinds[m.Kind] == nil {
			t.kinds[m.Kind] = &share{}
		}
		if t.packages[pkg] == nil {
			t.packages[pkg] = &share{}
		}
		list := []*share{&t.whole, t.kinds[m.Kind], t.packages[pkg]}
		if isSafety(m.File) {
			list = append(list, &t.grave)
		}
		for _, s := range list {
			s.tried++
			if o.Caught {
				s.caught++
			} else if reasons[m.ID] != "" {
				s.equal++
			}
		}
		switch {
		case o.Caught:
			t.by[o.By]++
		case reasons[m.ID] != "":
			t.same = append(t.same, o)
		default:
			t.survivors = append(t.survivors, o)
		}
	}
	return t
}

// table writes how many were tried and caught, and by which tests first.
func (t *tally) table(b *strings.Builder) {
	fmt.Fprintf(b, "| what | tried | caught | argued to change nothing | share |\n|---|---|---|---|---|\n")
	row := func(name string, s share) {
		fmt.Fprintf(b, "| %s | %d | %d | %d | %s |\n", name, s.tried, s.caught, s.equal, s)
	}
	row("**all**", t.whole)
	row("**what warns, doses, drains or sets pressure**", t.grave)
	for _, k := range sorted(t.kinds) {
		row(k, *t.kinds[k])
	}
	for _, p := range sorted(t.packages) {
		row("`"+p+"`", *t.packages[p])
	}
	var by []string
	for _, p := range sorted(t.by) {
		name := map[string]string{"./internal/golden": "the goldens", "./internal/core/...": "tests of other packages"}[p]
		by = append(by, fmt.Sprintf("%s %d", cmp.Or(name, "tests of `"+p+"`"), t.by[p]))
	}
	fmt.Fprintf(b, "\nFirst noticed by: %s.", strings.Join(by, ", "))
}

func oneLine(s string) string {
	s = strings.Join(strings.Fields(s), " ")
	if r := []rune(s); len(r) > 90 {
		return string(r[:90]) + "…"
	}
	return s
}

func sorted[V any](m map[string]V) []string {
	var keys []string
	for k := range m {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	return keys
}
