package sample_test

import (
	"os"
	"os/exec"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/sample"
)

// TestTold is what the tests below run: it tells what it was given.
func TestTold(t *testing.T) {
	t.Log("seeds", sample.Seeds(t, 4, 1000), "of few", sample.Of(t, 4, []string{"a", "b", "c"}))
	if os.Getenv("FAILS") != "" {
		t.Error("as was asked")
	}
}

func told(t *testing.T, env ...string) string {
	t.Helper()
	cmd := exec.CommandContext(t.Context(), os.Args[0], "-test.run", "^TestTold$", "-test.v")
	cmd.Env = append(slices.DeleteFunc(os.Environ(), func(s string) bool { return strings.HasPrefix(s, "COLDTAP_") }), env...)
	out, err := cmd.CombinedOutput()
	require.Equal(t, slices.Contains(env, "FAILS=1"), err != nil, string(out))
	for line := range strings.Lines(string(out)) {
		if strings.Contains(line, "seeds") {
			_, line, _ = strings.Cut(line, "seeds")
			return line + string(out[strings.LastIndex(string(out), line)+len(line):])
		}
	}
	t.Fatal(string(out))
	return ""
}

func TestASeedGivesTheSameAgain(t *testing.T) {
	one, again, other := told(t, "COLDTAP_SEED=1"), told(t, "COLDTAP_SEED=1"), told(t, "COLDTAP_SEED=2")
	first := func(s string) string { line, _, _ := strings.Cut(s, "]"); return line }
	assert.Equal(t, first(one), first(again))
	assert.NotEqual(t, first(one), first(other))
	assert.Len(t, strings.Fields(first(one)), 4)
	assert.Contains(t, one, "[a b c]", "of few none is left out")
}

func TestTheLongRunTriesAll(t *testing.T) {
	got, _, _ := strings.Cut(told(t, "COLDTAP_LONG=1"), "]")
	assert.Len(t, strings.Fields(got), 1000)
}

func TestAFailureTellsItsSeed(t *testing.T) {
	assert.Contains(t, told(t, "COLDTAP_SEED=77", "FAILS=1"), "COLDTAP_SEED=77")
}
