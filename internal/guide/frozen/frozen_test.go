package frozen_test

import (
	"bytes"
	"encoding/json"
	"image"
	"image/jpeg"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/chapter"
	"coldtap/internal/core/house"
	"coldtap/internal/guide"
	"coldtap/internal/guide/frozen"
	"coldtap/internal/rig"
	"coldtap/internal/rig/drafted"
)

// Readers get the owner's edition, its procedures and photographs; what is said of dealers, of rules and of people
// stays inside.
func TestOnlyWhatReadersReadIsForEverybody(t *testing.T) {
	t.Parallel()
	for _, path := range []string{"photos/7.jpg", frozen.PhotoPath("7", true), frozen.StylePath,
		frozen.ChapterPath("plain", chapter.Owner, guide.US), frozen.WalkPath("plain", "winterize", guide.SI)} {
		assert.True(t, frozen.Public(path), path)
	}
	for _, path := range []string{frozen.AboutPath, frozen.ModelPath, frozen.RulesPath, frozen.WordsPath, "",
		frozen.ChapterPath("plain", chapter.Dealer, guide.US), frozen.SaidPath("plain", chapter.Owner),
		frozen.HomePath("plain", guide.US), "builds/plain/valves.html", "owner-us.html", "other/do-x-us.html",
		"builds/owner-x/said-owner.json"} {
		assert.False(t, frozen.Public(path), path)
	}
}

// One hash stands for all files, in whatever order they come: another byte, another path or one file less is another.
func TestTheHashIsOfAllFilesAndTheirPaths(t *testing.T) {
	t.Parallel()
	list := []frozen.Listed{{Path: "a", Sum: frozen.Sum([]byte("1"))}, {Path: "b", Sum: frozen.Sum([]byte("2"))},
		{Path: "c", Sum: frozen.Sum([]byte("2"))}}
	whole := frozen.Hash(list)
	turned := slices.Clone(list)
	slices.Reverse(turned)
	assert.Equal(t, whole, frozen.Hash(turned))
	assert.Equal(t, "c", list[2].Path, "the list is left as it was")
	other := slices.Clone(list)
	other[0].Sum = other[1].Sum
	assert.NotEqual(t, whole, frozen.Hash(other))
	swapped := slices.Clone(list)
	swapped[0].Path, swapped[1].Path = "b", "a"
	assert.NotEqual(t, whole, frozen.Hash(swapped))
	assert.NotEqual(t, whole, frozen.Hash(list[:2]))
	assert.Equal(t, "plain", frozen.Name(nil))
	assert.Equal(t, "filter.winch", frozen.Name([]string{"filter", "winch"}))
}

func photo(t *testing.T) []byte {
	t.Helper()
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, image.NewGray(image.Rect(0, 0, 900, 600)), nil))
	return b.Bytes()
}

// The same guide gives the same bytes, and all that it says it has is there.
func TestAGuideIsFrozenTheSameEachTime(t *testing.T) {
	t.Parallel()
	m, err := rig.Model("heater-one-valve")
	require.NoError(t, err)
	in := drafted.Whole(t, m, nil)
	freeze := func() (list []frozen.File) {
		g := &frozen.Guide{Model: m, House: house.Usual(m.System()), Photos: map[string][]byte{"7": photo(t)}, Program: "x",
			Address: "http://example.test/read"}
		common, err := g.Common([][]string{nil})
		require.NoError(t, err)
		files, err := g.Files(t.Context(), frozen.Build{In: in})
		require.NoError(t, err)
		list = append(common, files...)
		slices.SortFunc(list, func(a, b frozen.File) int { return bytes.Compare([]byte(a.Path), []byte(b.Path)) })
		return list
	}
	one, two := freeze(), freeze()
	require.Len(t, two, len(one))
	files := map[string][]byte{}
	for i, f := range one {
		assert.Equal(t, f, two[i], f.Path)
		assert.NotEmpty(t, f.Body, f.Path)
		assert.NotContains(t, files, f.Path, "each path once")
		files[f.Path] = f.Body
	}
	for _, u := range []guide.Units{guide.US, guide.SI} {
		for _, e := range chapter.Editions() {
			assert.Contains(t, files, frozen.ChapterPath("plain", e, u))
			assert.Contains(t, files, frozen.SaidPath("plain", e))
		}
		var home frozen.Home
		require.NoError(t, json.Unmarshal(files[frozen.HomePath("plain", u)], &home))
		require.NotEmpty(t, home.Tasks)
		for _, task := range home.Tasks {
			assert.Contains(t, files, frozen.WalkPath("plain", task.ID, u), "each procedure that it begins with is there")
		}
	}
	assert.Less(t, len(files[frozen.PhotoPath("7", true)]), len(files[frozen.PhotoPath("7", false)]))
	var about frozen.About
	require.NoError(t, json.Unmarshal(files[frozen.AboutPath], &about))
	assert.Equal(t, m.Name, about.Name)
	require.Len(t, about.Builds, 1)
	assert.Equal(t, "plain", about.Builds[0].Name)
	var rules []struct{ ID, Value string }
	require.NoError(t, json.Unmarshal(files[frozen.RulesPath], &rules))
	assert.Len(t, rules, len(house.Rules()))
}
