package merge_test

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/merge"
	"coldtap/internal/core/plumbing"
)

func gneiss(t *testing.T) *plumbing.Model {
	t.Helper()
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	return m
}

func set(t *testing.T, m *plumbing.Model, what edit.Thing, id, path, value string) *plumbing.Model {
	t.Helper()
	done, err := edit.Set(m, what, id, map[string]string{path: value})
	require.NoError(t, err)
	return done.Model
}

func remove(t *testing.T, m *plumbing.Model, id string) *plumbing.Model {
	t.Helper()
	done, err := edit.Remove(m, id)
	require.NoError(t, err)
	return done.Model
}

func text(t *testing.T, m *plumbing.Model) string {
	t.Helper()
	var b bytes.Buffer
	require.NoError(t, plumbing.Write(&b, m))
	return b.String()
}

func TestWhatDoesNotCollideGoesIn(t *testing.T) {
	base := gneiss(t)
	mine := set(t, set(t, base, edit.OfLine, "trunk-1", "length", "9 ft"), edit.OfPart, "pump", "data.fuse", "10 A")
	theirs := set(t, set(t, base, edit.OfPart, "pump", "data.flow", "3.5 gal/min"), edit.OfLine, "trunk-2", "length",
		"4 ft")
	r, err := merge.Merge(base, mine, theirs)
	require.NoError(t, err)
	assert.Empty(t, r.Conflicts)
	assert.Equal(t, []merge.Change{{"line", "trunk-1", "length", "8 ft", "9 ft"},
		{"part", "pump", "data.fuse", "7.5 A", "10 A"}}, r.Taken)
	want := set(t, set(t, theirs, edit.OfLine, "trunk-1", "length", "9 ft"), edit.OfPart, "pump", "data.fuse", "10 A")
	assert.Equal(t, text(t, want), text(t, r.Model))
}

func TestWhatCollidesIsToldAndStaysTheirs(t *testing.T) {
	base := gneiss(t)
	mine := set(t, remove(t, base, "rinse"), edit.OfLine, "trunk-1", "length", "9 ft")
	theirs := set(t, set(t, base, edit.OfPart, "rinse", "label", "RINSE"), edit.OfLine, "trunk-1", "length", "10 ft")
	r, err := merge.Merge(base, mine, theirs)
	require.NoError(t, err)
	assert.Equal(t, []merge.Conflict{{"line", "trunk-1", "length", "8 ft", "9 ft", "10 ft"},
		{"part", "rinse", "", "there", "", "there"}}, r.Conflicts)
	assert.Equal(t, "10 ft", r.Model.Line("trunk-1").Length.String())
	assert.NotNil(t, r.Model.Part("rinse"))
	assert.Nil(t, r.Model.Line("rinse-line"), "taking its line away does not collide")
}

// Lists whose entries have names are merged entry by entry: options, what is
// assumed of a part, what was accepted.
func TestEntriesOfListsComeTogether(t *testing.T) {
	base, err := demo.Model("ashlar-20-2027")
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(base.Options), 2)
	at := func(path string) int {
		return slices.IndexFunc(base.Parts, func(p plumbing.Part) bool { return p.ID == path })
	}
	pump := at("pump")
	base.Accepted = []plumbing.Accepted{{Code: "z", Reason: "known", By: "Imre Valk"}}
	base.Parts[pump].Assumed = []string{"data.cut_in", "data.cut_out", "data.flow"}
	side := func(change func(m *plumbing.Model)) *plumbing.Model {
		m, err := edit.Read([]byte(text(t, base)))
		require.NoError(t, err)
		change(m)
		return m
	}
	mine := side(func(m *plumbing.Model) {
		m.Options[0].Note = "mine"
		m.Parts[pump].Assumed = []string{"data.cut_out", "data.flow"}
		m.Accepted = append(m.Accepted, plumbing.Accepted{Code: "a", Reason: "mine", By: "Imre Valk"})
	})
	theirs := side(func(m *plumbing.Model) {
		m.Options[1].Note = "theirs"
		m.Parts[pump].Assumed = []string{"data.cut_in", "data.cut_out"}
		m.Accepted = append(m.Accepted, plumbing.Accepted{Code: "b", Reason: "theirs", By: "Odile Brandt"})
	})
	r, err := merge.Merge(base, mine, theirs)
	require.NoError(t, err)
	assert.Empty(t, r.Conflicts)
	assert.Equal(t, []string{"mine", "theirs"}, []string{r.Model.Options[0].Note, r.Model.Options[1].Note})
	assert.Equal(t, []string{"data.cut_out"}, r.Model.Parts[pump].Assumed)
	require.Len(t, r.Model.Accepted, 3)

	// One entry that both changed is the only conflict; one that was taken away is gone.
	mine.Options[1].Note = "mine too"
	mine.Accepted[0].Reason = "a better one"
	theirs.Accepted = theirs.Accepted[1:]
	r, err = merge.Merge(base, mine, theirs)
	require.NoError(t, err)
	var paths []string
	for _, c := range r.Conflicts {
		paths = append(paths, c.Path)
	}
	assert.Equal(t, []string{"accepted.z ", "options." + base.Options[1].ID + ".note"}, paths)
	require.Len(t, r.Model.Accepted, 2, "theirs took z away, and each added one")
}

// What both sides did is no conflict.
func TestTheSameChangeOnBothSidesIsOne(t *testing.T) {
	base := gneiss(t)
	r, err := merge.Merge(base, remove(t, base, "toilet"), remove(t, base, "toilet"))
	require.NoError(t, err)
	assert.Empty(t, r.Conflicts)
	assert.Nil(t, r.Model.Part("toilet"))
	again := set(t, base, edit.OfLine, "trunk-1", "length", "9 ft")
	r, err = merge.Merge(base, again, again)
	require.NoError(t, err)
	assert.Empty(t, r.Conflicts)
	assert.Equal(t, text(t, again), text(t, r.Model))
}

func TestAMergeThatCantBeReadSaysWhy(t *testing.T) {
	base := gneiss(t)
	mine, err := edit.Join(remove(t, base, "c-sprayer"), "tee-c-sprayer.c", "sprayer.cold", plumbing.Line{})
	require.NoError(t, err)
	_, err = merge.Merge(base, mine.Model, remove(t, base, "sprayer"))
	assert.ErrorContains(t, err, `there is no part "sprayer"`)
}

// Changes of different things come together in either order to the same.
func TestMergeOfRandomChangesIsTheSameFromBothSides(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 33))
	base := gneiss(t)
	for range 20 {
		order := rng.Perm(len(base.Lines))
		change := func(of []int) *plumbing.Model {
			m := base
			for _, i := range of {
				m = set(t, m, edit.OfLine, base.Lines[i].ID, "length", fmt.Sprintf("%d in", 120+rng.IntN(90)))
			}
			return m
		}
		mine, theirs := change(order[:4]), change(order[4:9])
		a, err := merge.Merge(base, mine, theirs)
		require.NoError(t, err)
		b, err := merge.Merge(base, theirs, mine)
		require.NoError(t, err)
		assert.Empty(t, a.Conflicts)
		assert.Equal(t, text(t, a.Model), text(t, b.Model))
		again, err := plumbing.Read(strings.NewReader(text(t, a.Model)))
		require.NoError(t, err)
		assert.Equal(t, text(t, a.Model), text(t, again))
	}
}
