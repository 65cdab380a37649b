package mutate_test

import (
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/mutate"
	"coldtap/internal/mutate/on"
)

const sampleFile = "testdata/sample/main.go"

// built builds the sample with another source in its place; false where that is no Go.
func built(t *testing.T, source []byte) (binary string, ok bool) {
	t.Helper()
	dir := t.TempDir()
	path, err := filepath.Abs(sampleFile)
	require.NoError(t, err)
	changed := filepath.Join(dir, "main.go")
	require.NoError(t, os.WriteFile(changed, source, 0o600))
	overlay, err := json.Marshal(map[string]map[string]string{"Replace": {path: changed}})
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "overlay.json"), overlay, 0o600))
	binary = filepath.Join(dir, "sample")
	out, err := exec.CommandContext(t.Context(), "go", "build", "-overlay", filepath.Join(dir, "overlay.json"), "-o", binary,
		"./testdata/sample").CombinedOutput()
	if err != nil {
		t.Logf("%s", out)
	}
	return binary, err == nil
}

func output(t *testing.T, binary string, number int) string {
	t.Helper()
	cmd := exec.CommandContext(t.Context(), binary)
	cmd.Env = append(os.Environ(), fmt.Sprintf("%s=%d", on.Env, number))
	out, _ := cmd.CombinedOutput() // a fault may make it panic
	return string(out)
}

// A fault that is built in beside others does what it does by itself, and nothing while it is not on.
func TestAFaultBuiltInDoesWhatItDoesByItself(t *testing.T) {
	t.Parallel()
	source, err := os.ReadFile(sampleFile)
	require.NoError(t, err)
	right, ok := built(t, source)
	require.True(t, ok)
	list, err := mutate.Mutants("main.go", source)
	require.NoError(t, err)
	var faults []mutate.Fault
	for i := range list {
		faults = append(faults, mutate.Fault{Mutant: &list[i], Number: i})
	}
	schema, err := mutate.Build("main.go", source, faults)
	require.NoError(t, err)
	all, ok := built(t, schema.Source)
	require.True(t, ok)
	assert.Equal(t, output(t, right, -1), output(t, all, -1))

	var alone []string
	for _, f := range schema.Alone {
		alone = append(alone, f.Was)
	}
	assert.Equal(t, []string{"2", ">", "at, ok"}, alone, "a constant of the package, and what stands beside a label")
	for _, f := range faults {
		beside := slices.ContainsFunc(schema.Alone, func(a mutate.Fault) bool { return a.Number == f.Number })
		if beside || f.Number%3 != 0 { // a third of them: each needs a build
			continue
		}
		one, ok := built(t, f.Apply(source))
		require.True(t, ok, f.Was)
		assert.Equal(t, output(t, one, -1), output(t, all, f.Number), "%s → %s", f.Was, f.Now)
	}
}

// What the compiler says of a copy is said of its fault.
func TestALineOfACopyTellsItsFault(t *testing.T) {
	source := []byte("package p\n\nfunc f(a int) int {\n\treturn a + 1\n}\n\nfunc g(a int) int {\n\treturn a * 2\n}\n")
	list, err := mutate.Mutants("p.go", source)
	require.NoError(t, err)
	var faults []mutate.Fault
	for i := range list {
		faults = append(faults, mutate.Fault{Mutant: &list[i], Number: 10 + i})
	}
	schema, err := mutate.Build("p.go", source, faults)
	require.NoError(t, err)
	seen := map[int]bool{}
	for i, line := range strings.Split(string(schema.Source), "\n") {
		for _, f := range faults {
			if line == fmt.Sprintf("if mutantOn.This(%d) {", f.Number) {
				assert.Equal(t, f.Number, schema.At(i+1))
				seen[f.Number] = true
			}
		}
	}
	assert.Len(t, seen, len(faults))
	assert.Equal(t, -1, schema.At(1))
}
