package main

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"
)

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
	for line := range strings.Lines(string(raw)) {
		if id, why, ok := strings.Cut(strings.TrimSpace(line), " "); ok && !strings.HasPrefix(id, "#") {
			reasons[id] = why
		}
	}
	return reasons, nil
}

// share counts what was caught of some faults.
type share struct{ tried, caught, equal, void int }

func (s *share) add(o outcome, reason string) {
	switch {
	case o.Void != "":
		s.void++
		return
	case o.Caught:
		s.caught++
	case reason != "":
		s.equal++
	}
	s.tried++
}

func (s *share) String() string {
	if s.tried == s.equal {
		return "–"
	}
	return fmt.Sprintf("%.1f %%", 100*float64(s.caught)/float64(s.tried-s.equal))
}

// tally is what came of all faults that were tried.
type tally struct {
	all, grave, named   share
	kinds, packages, by map[string]*share
	survivors, same     []outcome
	seconds             float64
	untried, noTest     int
}

func of(m map[string]*share, key string) *share {
	if m[key] == nil {
		m[key] = &share{}
	}
	return m[key]
}

func count(d *drawing, done map[string]outcome, reasons map[string]string) *tally {
	t := &tally{kinds: map[string]*share{}, packages: map[string]*share{}, by: map[string]*share{}}
	for _, m := range d.list {
		o, ok := done[m.ID]
		if !ok {
			t.untried++
			continue
		}
		o.Mutant = m
		why := reasons[m.ID]
		for ids, s := range map[*map[string]bool]*share{&d.all: &t.all, &d.grave: &t.grave, &d.named: &t.named} {
			if (*ids)[m.ID] {
				s.add(o, why)
			}
		}
		if o.Void != "" {
			continue
		}
		of(t.kinds, m.Kind).add(o, why)
		of(t.packages, filepath.ToSlash(filepath.Dir(m.File))).add(o, why)
		t.seconds += o.Seconds
		switch {
		case o.Caught:
			by, _, _ := strings.Cut(o.By, " ")
			of(t.by, by).add(o, why)
		case why != "":
			t.same = append(t.same, o)
		default:
			t.survivors = append(t.survivors, o)
			if o.Reached == 0 {
				t.noTest++
			}
		}
	}
	return t
}

// write writes the report.
func write(o options, d *drawing, done map[string]outcome, reasons map[string]string) error {
	t := count(d, done, reasons)
	var b strings.Builder
	fmt.Fprintf(&b, "# Deliberate faults\n\nWritten by `make mutate SEED=%d COUNT=%d GRAVE=%d` on %s. Faults are made one at a "+
		"time in the core and in what\npublishes, keeps true and lets people in: %d can be made, %d of them in what warns, "+
		"doses, drains, judges or lets through.\nEach is tried with the tests that come to its line, for at most a minute "+
		"([how](testing.md)).\n", o.seed, o.count, o.grave, time.Now().Format("2 January 2006"), d.possible, d.possibleGrave)
	t.table(&b)
	fmt.Fprint(&b, "\n## Unnoticed\n\n")
	rows(&b, t.survivors, func(outcome) string { return "" })
	fmt.Fprint(&b, "\n## Argued to change nothing\n\n")
	rows(&b, t.same, func(o outcome) string { return ": " + reasons[o.ID] })
	return os.WriteFile(o.report, []byte(b.String()), 0o644)
}

func rows(b *strings.Builder, list []outcome, more func(outcome) string) {
	slices.SortFunc(list, func(x, y outcome) int {
		return strings.Compare(fmt.Sprintf("%s %6d", x.File, x.Line), fmt.Sprintf("%s %6d", y.File, y.Line))
	})
	for _, o := range list {
		fmt.Fprintf(b, "- `%s` %s:%d, %s: `%s` → `%s`, %d of %d tests that reach it%s\n", o.ID, o.File, o.Line, o.Kind,
			oneLine(o.Was), oneLine(o.Now), o.Ran, o.Reached, more(o))
	}
	if len(list) == 0 {
		fmt.Fprintln(b, "None.")
	}
}

// table writes how many were tried and caught, and by which tests first.
func (t *tally) table(b *strings.Builder) {
	fmt.Fprintf(b, "\n| what | tried | caught | argued to change nothing | share |\n|---|---|---|---|---|\n")
	row := func(name string, s *share) {
		fmt.Fprintf(b, "| %s | %d | %d | %d | %s |\n", name, s.tried, s.caught, s.equal, s)
	}
	row("**drawn of all**", &t.all)
	row("**drawn of what can hurt**", &t.grave)
	row("**named** (docs/mutation-named.txt)", &t.named)
	for _, k := range sorted(t.kinds) {
		row(k, t.kinds[k])
	}
	for _, p := range sorted(t.packages) {
		row("`"+p+"`", t.packages[p])
	}
	var by []string
	for _, p := range sorted(t.by) {
		by = append(by, fmt.Sprintf("`%s` %d", p, t.by[p].tried))
	}
	fmt.Fprintf(b, "\nFirst noticed by the tests of %s. Left out: %d that are no Go. Not tried yet: %d. Tests ran for %.0f "+
		"min.\n", strings.Join(by, ", "), t.all.void+t.grave.void, t.untried, t.seconds/60)
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
