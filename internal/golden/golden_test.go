package golden_test

import (
	"flag"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/golden"
	"coldtap/internal/rig"
)

var update = flag.Bool("update", false, "write the goldens anew")

// demoBuilds are the demo models with their standard options and with all.
func demoBuilds(t *testing.T) map[string]*plumbing.Model {
	t.Helper()
	list := map[string]*plumbing.Model{}
	models, err := demo.Models()
	require.NoError(t, err)
	for _, m := range models {
		list[m.ID], err = m.Build(m.StandardOptions()...)
		require.NoError(t, err)
		var all []string
		for _, o := range m.Options {
			all = append(all, o.ID)
		}
		if len(all) > 0 {
			list[m.ID+"+all"], err = m.Build(all...)
			require.NoError(t, err)
		}
	}
	return list
}

// slow are the rigs that take some seconds each.
var slow = []string{"pumice-9", "basalt-28"}

func rigs(t *testing.T, names []string) map[string]*plumbing.Model {
	t.Helper()
	list := map[string]*plumbing.Model{}
	for _, name := range names {
		m, err := rig.Model(name)
		require.NoError(t, err)
		list[name] = m
	}
	return list
}

// builds are all of them.
func builds(t *testing.T) map[string]*plumbing.Model {
	t.Helper()
	list := demoBuilds(t)
	maps.Copy(list, rigs(t, rig.Names()))
	return list
}

// TestGoldens compares all that is said of each build with what was said
// before. After a change that is meant: go test ./internal/golden -update, and
// the commit says why each line is another.
func TestGoldens(t *testing.T) { say(t, demoBuilds(t)) }

// TestGoldensOfSmallSystems is TestGoldens of the rigs, and the one below of those that take long.
func TestGoldensOfSmallSystems(t *testing.T) {
	say(t, rigs(t, slices.DeleteFunc(rig.Names(), func(name string) bool { return slices.Contains(slow, name) })))
}

func TestGoldensOfLargeSystems(t *testing.T) { say(t, rigs(t, slow)) }

func say(t *testing.T, builds map[string]*plumbing.Model) {
	t.Helper()
	for name, build := range builds {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			got, err := golden.Told(t.Context(), build)
			require.NoError(t, err)
			compare(t, name, got)
		})
	}
}

// What holds for every build, and what each assembly adds.
func TestGoldenLists(t *testing.T) {
	compare(t, "lists", golden.Lists())
	got, err := golden.Assemblies()
	require.NoError(t, err)
	compare(t, "assemblies", got)
}

func compare(t *testing.T, name, got string) {
	t.Helper()
	assert.NotContains(t, got, "%!", "a sentence lacks what it tells of")
	file := filepath.Join("testdata", name+".txt")
	if *update {
		require.NoError(t, os.WriteFile(file, []byte(got), 0o644))
	}
	want, err := os.ReadFile(file)
	require.NoError(t, err)
	assert.Equal(t, string(want), got)
}
