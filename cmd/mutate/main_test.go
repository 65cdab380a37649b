package main

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/mutate"
)

func mutant(id, file string) mutate.Mutant {
	return mutate.Mutant{ID: id, File: file, Line: 3, Kind: "sign", Was: "+", Now: "-"}
}

// What is argued to change nothing is left out of a share, and so is what is no Go; what was not tried counts nowhere.
func TestSharesAreOfWhatCouldBeNoticed(t *testing.T) {
	d := &drawing{named: map[string]bool{"n": true}, all: map[string]bool{"a": true, "b": true, "c": true, "v": true,
		"u": true},
		grave: map[string]bool{"b": true}}
	for _, id := range []string{"n", "a", "b", "c", "v", "u"} {
		d.list = append(d.list, mutant(id, "internal/core/flow/law.go"))
	}
	done := map[string]outcome{"n": {Caught: true, By: "p TestOne"}, "a": {Caught: true, By: "q TestTwo"}, "b": {},
		"c": {},
		"v": {Void: "no Go"}}
	tally := count(d, done, map[string]string{"c": "a tolerance"})
	assert.Equal(t, share{tried: 3, caught: 1, equal: 1, void: 1}, tally.all)
	assert.Equal(t, "50.0 %", tally.all.String())
	assert.Equal(t, share{tried: 1}, tally.grave)
	assert.Equal(t, "100.0 %", tally.named.String())
	assert.Equal(t, 1, tally.untried)
	require.Len(t, tally.survivors, 1)
	assert.Equal(t, "b", tally.survivors[0].ID)
	require.Len(t, tally.same, 1)
	assert.Equal(t, "–", new(share).String())

	file := filepath.Join(t.TempDir(), "report.md")
	require.NoError(t, write(options{report: file, seed: 7}, d, done, map[string]string{"c": "a tolerance"}))
	text, err := os.ReadFile(file)
	require.NoError(t, err)
	assert.Contains(t, string(text), "| **drawn of all** | 3 | 1 | 1 | 50.0 % |")
	assert.Contains(t, string(text), "- `b` internal/core/flow/law.go:3, sign: `+` → `-`")
	assert.Contains(t, string(text), ": a tolerance")
}

func TestWhatWasTriedIsKept(t *testing.T) {
	file := filepath.Join(t.TempDir(), "tried.jsonl")
	none, err := readOutcomes(file)
	require.NoError(t, err)
	assert.Empty(t, none)
	k := &keeper{path: file}
	k.keep(outcome{Mutant: mutant("a", "x.go")})
	k.keep(outcome{Mutant: mutant("b", "x.go"), Void: "no Go"})
	k.keep(outcome{Mutant: mutant("a", "x.go"), Caught: true, By: "p TestOne"})
	require.NoError(t, k.err)
	done, err := readOutcomes(file)
	require.NoError(t, err)
	assert.Len(t, done, 2)
	assert.True(t, done["a"].Caught, "the last holds")
	require.NoError(t, os.WriteFile(file, []byte("{}\nnonsense\n"), 0o600))
	_, err = readOutcomes(file)
	assert.ErrorContains(t, err, "line 2")
}

// The faults that are always tried stand in the sources, once each; each argued one has a reason.
func TestNamedAndArguedFaultsCanBeRead(t *testing.T) {
	t.Chdir("../..")
	files, err := sources("")
	require.NoError(t, err)
	list, err := readNamed("docs/mutation-named.txt", files)
	require.NoError(t, err)
	assert.GreaterOrEqual(t, len(list), 25)
	reasons, err := argued("docs/mutation-equal.txt")
	require.NoError(t, err)
	for id, why := range reasons {
		assert.Len(t, id, 12)
		assert.NotEmpty(t, why, id)
	}
	wrong := filepath.Join(t.TempDir(), "named.txt")
	require.NoError(t, os.WriteFile(wrong, []byte("# one\ninternal/people/people.go\nfunc\n"), 0o600))
	_, err = readNamed(wrong, files)
	assert.ErrorContains(t, err, "three lines are wanted")
	require.NoError(t, os.WriteFile(wrong, []byte("internal/people/people.go\nno such text\nx\n"), 0o600))
	_, err = readNamed(wrong, files)
	assert.ErrorContains(t, err, "0 times")
}

func TestOnlyWhatCanHurtIsGrave(t *testing.T) {
	for file, is := range map[string]bool{"internal/core/proof/rules.go": true, "internal/core/words/position.go": true,
		"internal/app/stops.go": true, "internal/core/table/judge.go": false, "internal/app/units.go": false} {
		assert.Equal(t, is, in(grave, file), file)
		assert.True(t, in(scope, file), file)
	}
	assert.False(t, in(scope, "internal/drawing/route.go"))
}
