package mutate

import (
	"bufio"
	"cmp"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"
)

// Span is some lines of a file, both ends among them.
type Span struct{ First, Last int }

// Test is a test by itself: what it reached, and how long it took.
type Test struct {
	Package string // by its folder, internal/core/flow
	Name    string
	Seconds float64
	Reached map[string][]Span // by file
}

// Profile reads what a test reached out of a coverage profile of Go; files are told below the module's path.
func Profile(r io.Reader, module string) (map[string][]Span, error) {
	reached := map[string][]Span{}
	scan := bufio.NewScanner(r)
	for n := 1; scan.Scan(); n++ {
		line := scan.Text()
		if strings.HasPrefix(line, "mode:") {
			continue
		}
		path, rest, ok := strings.Cut(line, ":")
		var first, col, last, end, statements, count int
		if _, err := fmt.Sscanf(rest, "%d.%d,%d.%d %d %d", &first, &col, &last, &end, &statements, &count); !ok ||
			err != nil {
			return nil, fmt.Errorf("line %d of the profile: %q", n, line)
		}
		if count > 0 {
			file := strings.TrimPrefix(path, module+"/")
			reached[file] = append(reached[file], Span{first, last})
		}
	}
	for file, spans := range reached {
		reached[file] = merged(spans)
	}
	return reached, scan.Err()
}

// merged joins spans that touch.
func merged(spans []Span) (out []Span) {
	slices.SortFunc(spans, func(a, b Span) int { return cmp.Compare(a.First, b.First) })
	for _, s := range spans {
		if n := len(out); n > 0 && s.First <= out[n-1].Last+1 {
			out[n-1].Last = max(out[n-1].Last, s.Last)
			continue
		}
		out = append(out, s)
	}
	return out
}

// Reaches reports whether a test came to any of some lines.
func (t *Test) Reaches(file string, lines Span) bool {
	return slices.ContainsFunc(t.Reached[file], func(s Span) bool { return s.First <= lines.Last && s.Last >= lines.First })
}

// Reaching lists the tests that come to a fault, those first that are likely to notice: of its own package the quick
// ones, then those that hold all that is said against what was said before, then the rest, the quickest first. A
// constant or variable of a package is reached where it is named: uses tells those lines. The tests of its own package
// may name it themselves. Coverage does not count what stands beside a case: it is reached with its function.
func Reaching(tests []Test, m *Mutant, uses map[string][]Span) (list []Test) {
	var beside []Test
	for _, t := range tests {
		if t.Reaches(m.File, Span{m.Line, m.Last}) {
			list = append(list, t)
		}
	}
	for _, t := range tests {
		if len(list) == 0 && t.Reaches(m.File, m.Within) {
			beside = append(beside, t)
		}
	}
	list = append(list, beside...)
	for _, t := range tests {
		near := t.reachesAny(uses) || t.Package == path.Dir(m.File)
		if len(uses) > 0 && near && !slices.ContainsFunc(list, t.is) {
			list = append(list, t)
		}
	}
	slices.SortStableFunc(list, func(a, b Test) int { return cmp.Compare(a.Seconds, b.Seconds) })
	rank := map[string]int{}
	own := 0.0
	for _, t := range list {
		rank[t.Package+" "+t.Name] = 2
		switch own += t.Seconds; {
		case t.Package != path.Dir(m.File):
			own -= t.Seconds
			if t.Package == goldens {
				rank[t.Package+" "+t.Name] = 1
			}
		case own <= ownSeconds:
			rank[t.Package+" "+t.Name] = 0
		}
	}
	slices.SortStableFunc(list, func(a, b Test) int {
		return cmp.Compare(rank[a.Package+" "+a.Name], rank[b.Package+" "+b.Name])
	})
	return list
}

// ownSeconds is for how long the tests of a fault's own package come first; goldens is the package of the tests that
// come next.
const (
	ownSeconds = 20
	goldens    = "internal/golden"
)

func (t *Test) is(o Test) bool { return t.Package == o.Package && t.Name == o.Name }

func (t *Test) reachesAny(uses map[string][]Span) bool {
	for file, lines := range uses {
		if slices.ContainsFunc(lines, func(s Span) bool { return t.Reaches(file, s) }) {
			return true
		}
	}
	return false
}

// Run is some tests of a package that are run together.
type Run struct {
	Package string
	Tests   []string
	Seconds float64 // that they took by themselves
}

// Plan puts tests into runs: two seconds of them first, then about as many as took as long as all before, so that a
// fault which many notice is noticed soon and one that few notice costs few starts. No more than a time in all.
func Plan(tests []Test, most float64) (runs []Run) {
	const least = 2
	all, round := 0.0, 0.0
	var now []Run
	for _, t := range tests {
		cost := max(t.Seconds, 0.02)
		if all+cost > most {
			break
		}
		i := slices.IndexFunc(now, func(r Run) bool { return r.Package == t.Package })
		if i < 0 {
			now = append(now, Run{Package: t.Package})
			i = len(now) - 1
		}
		now[i].Tests = append(now[i].Tests, t.Name)
		now[i].Seconds += cost
		all, round = all+cost, round+cost
		if round >= max(least, all/2) {
			runs, now, round = append(runs, now...), nil, 0
		}
	}
	return append(runs, now...)
}
