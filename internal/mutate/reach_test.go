package mutate_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/mutate"
)

const profile = `mode: set
coldtap/internal/core/a.go:3.20,5.2 2 1
coldtap/internal/core/a.go:5.2,9.3 1 1
coldtap/internal/core/a.go:12.2,14.3 1 0
coldtap/internal/core/b.go:1.1,2.2 1 1
`

func TestWhatATestReachedIsReadFromItsProfile(t *testing.T) {
	reached, err := mutate.Profile(strings.NewReader(profile), "coldtap")
	require.NoError(t, err)
	assert.Equal(t, map[string][]mutate.Span{"internal/core/a.go": {{First: 3, Last: 9}},
		"internal/core/b.go": {{First: 1, Last: 2}}}, reached)
	_, err = mutate.Profile(strings.NewReader("mode: set\nnonsense\n"), "coldtap")
	assert.ErrorContains(t, err, "line 2")
}

func test(pkg, name string, seconds float64, file string, first, last int) mutate.Test {
	return mutate.Test{Package: pkg, Name: name, Seconds: seconds,
		Reached: map[string][]mutate.Span{file: {{First: first, Last: last}}}}
}

func TestThoseThatAreLikelyToNoticeComeFirst(t *testing.T) {
	tests := []mutate.Test{test("p", "TestSlow", 3, "a.go", 1, 9), test("p", "TestQuick", 1, "a.go", 4, 6),
		test("q", "TestBeside", 0.1, "a.go", 7, 9), test("q", "TestElsewhere", 0.2, "b.go", 4, 6)}
	names := func(list []mutate.Test) (names []string) {
		for _, t := range list {
			names = append(names, t.Name)
		}
		return names
	}
	m := &mutate.Mutant{File: "a.go", Line: 5, Last: 6}
	assert.Equal(t, []string{"TestQuick", "TestSlow"}, names(mutate.Reaching(tests, m, nil)))
	beside := &mutate.Mutant{File: "a.go", Line: 20, Last: 20, Within: mutate.Span{First: 4, Last: 21}}
	assert.Equal(t, []string{"TestBeside", "TestQuick", "TestSlow"}, names(mutate.Reaching(tests, beside, nil)), "beside a case")
	assert.Empty(t, mutate.Reaching(tests, &mutate.Mutant{File: "a.go", Line: 20, Last: 20, Within: mutate.Span{First: 19,
		Last: 21}}, nil), "a function that nobody calls")
	uses := map[string][]mutate.Span{"b.go": {{First: 6, Last: 6}}}
	assert.Equal(t, []string{"TestElsewhere", "TestQuick", "TestSlow"}, names(mutate.Reaching(tests, m, uses)))
	tests = append(tests, test("internal/golden", "TestGoldens", 16, "a.go", 1, 9), test("core", "TestOwn", 5, "a.go", 1, 9),
		test("core", "TestOwnSlow", 16, "a.go", 1, 9))
	for i := range tests {
		tests[i].Reached["core/a.go"] = tests[i].Reached["a.go"]
	}
	near := &mutate.Mutant{File: "core/a.go", Line: 5, Last: 6}
	assert.Equal(t, []string{"TestOwn", "TestGoldens", "TestQuick", "TestSlow", "TestOwnSlow"},
		names(mutate.Reaching(tests, near, nil)))
	tests = tests[:4]
	own := &mutate.Mutant{File: "q/c.go", Line: 5, Last: 6}
	assert.Equal(t, []string{"TestBeside", "TestElsewhere"}, names(mutate.Reaching(tests, own, uses)), "its own package's")
}

func TestRunsGrowAndEndInTime(t *testing.T) {
	var tests []mutate.Test
	for i, seconds := range []float64{0.1, 0.2, 0.3, 1, 1, 2, 30, 40} {
		tests = append(tests, mutate.Test{Package: []string{"p", "q"}[i%2], Name: string(rune('A' + i)), Seconds: seconds})
	}
	var got []string
	for _, r := range mutate.Plan(tests, 60) {
		got = append(got, r.Package+" "+strings.Join(r.Tests, ""))
	}
	assert.Equal(t, []string{"p ACE", "q BD", "q F", "p G"}, got, "H would take too long")
	assert.Empty(t, mutate.Plan(nil, 60))
}

func TestWhatStandsOutsideFunctionsIsReachedWhereItIsNamed(t *testing.T) {
	a := mutate.Source{Path: "core/flow/a.go", Text: []byte("package flow\n\nconst limit = 2.5\n\nvar x = limit\n")}
	b := mutate.Source{Path: "core/flow/b.go", Text: []byte("package flow\n\nfunc f() float64 { return limit }\n")}
	c := mutate.Source{Path: "core/run/c.go", Text: []byte("package run\n\nvar y = flow.limit\n\nvar z = tap.limit\n")}
	d := mutate.Source{Path: "core/run/d.go", Text: []byte("package run\n\nvar limit = 3\n")}
	list, err := mutate.Mutants(a.Path, a.Text)
	require.NoError(t, err)
	uses, err := mutate.Uses(&list[0], []mutate.Source{a, b, c, d})
	require.NoError(t, err)
	line := func(n int) mutate.Span { return mutate.Span{First: n, Last: n} }
	assert.Equal(t, map[string][]mutate.Span{a.Path: {line(3), line(5)}, b.Path: {line(3)}, c.Path: {line(3)}}, uses)

	inside, err := mutate.Mutants("core/flow/e.go", []byte("package flow\n\nfunc f() int { return 4 }\n"))
	require.NoError(t, err)
	uses, err = mutate.Uses(&inside[0], []mutate.Source{a, b})
	require.NoError(t, err)
	assert.Empty(t, uses)
}

func TestANamedFaultStandsOnce(t *testing.T) {
	source := []byte("package p\n\nconst nearly = 0.98\n\nvar x, y = 1, 1\n")
	m, err := mutate.Named("p.go", source, "nearly = 0.98", "nearly = 0.9")
	require.NoError(t, err)
	assert.Equal(t, 3, m.Line)
	assert.Contains(t, string(m.Apply(source)), "const nearly = 0.9\n")
	_, err = mutate.Named("p.go", source, "1", "2")
	assert.ErrorContains(t, err, "2 times")
	_, err = mutate.Named("p.go", source, "z", "2")
	assert.ErrorContains(t, err, "0 times")
}
