package chapter_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/chapter"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/rig/drafted"
)

func ids(list []chapter.Block) (got []string) {
	for _, b := range list {
		got = append(got, b.ID)
	}
	return got
}

// What a hand wrote, moved and left out is there when the draft is made anew, with a block more and one less.
func TestWhatHandsWroteOutlivesAChange(t *testing.T) {
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	drafted := func(m *plumbing.Model) []chapter.Block {
		list, err := chapter.Draft(t.Context(), drafted.Inputs(t, m))
		require.NoError(t, err)
		return list
	}
	first := drafted(m)
	s := edit.Chapter{Blocks: ids(first)}
	done, err := s.Move(m, "trouble", "points")
	require.NoError(t, err)
	s.Blocks = ids(drafted(done.Model))
	assert.Equal(t, []string{"have", "where", "trouble", "points"}, s.Blocks[:4])
	done, err = s.Write(done.Model, "have", "", plumbing.Prose{Title: "Welcome", Text: "Read this *first*."})
	require.NoError(t, err)
	list := drafted(done.Model)
	s.Blocks = ids(list)
	assert.Equal(t, []string{"have", "text-1", "where"}, s.Blocks[:3])
	assert.Equal(t, chapter.Written{Prose: plumbing.Prose{Title: "Welcome", Text: "Read this *first*."}}, list[1].Body)
	done, err = s.Hide(done.Model, "valves", "owner", true)
	require.NoError(t, err)
	for _, b := range drafted(done.Model) {
		assert.Equal(t, b.ID != "valves", b.Has(chapter.Owner), b.ID)
		assert.True(t, b.Has(chapter.Dealer), b.ID)
	}
	shown, err := s.Hide(done.Model, "valves", "owner", false)
	require.NoError(t, err)
	assert.Empty(t, shown.Model.Chapter.Hidden)

	fewer := []chapter.Block{first[0], {ID: "new", Body: chapter.Written{}}, first[2]}
	assert.Equal(t, []string{"have", "new", "text-1", "points"}, ids(chapter.Apply(fewer, done.Model.Chapter)))
	assert.Equal(t, ids(first), ids(chapter.Apply(first, nil)))

	for name, try := range map[string]func() (*edit.Done, error){
		"nothing": func() (*edit.Done, error) { return s.Write(m, "have", "", plumbing.Prose{}) },
		"too long": func() (*edit.Done, error) {
			return s.Write(m, "have", "", plumbing.Prose{Text: strings.Repeat("x", 20_001)})
		},
		"no such":  func() (*edit.Done, error) { return s.Move(m, "gone", "have") },
		"not mine": func() (*edit.Done, error) { return s.Write(m, "", "have", plumbing.Prose{Text: "other"}) },
	} {
		_, err := try()
		assert.ErrorAs(t, err, new(*edit.FaultError), name)
	}
	gone, err := s.Write(done.Model, "", "text-1", plumbing.Prose{})
	require.NoError(t, err)
	assert.NotContains(t, ids(drafted(gone.Model)), "text-1")
}
