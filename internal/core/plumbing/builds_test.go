package plumbing

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestBuildsAreAllOrThoseThatDifferInTwo(t *testing.T) {
	m := &Model{}
	assert.Equal(t, [][]string{nil}, m.Builds())
	for i := range 3 {
		m.Options = append(m.Options, Option{ID: fmt.Sprint("o", i), Standard: i == 0})
	}
	assert.Len(t, m.Builds(), 8)
	m.Options[1].Excludes = []string{"o2"}
	list := m.Builds()
	assert.Len(t, list, 6, "o1 and o2 are never fitted together")
	assert.NotContains(t, list, []string{"o1", "o2"})
	assert.Equal(t, []string{"o0"}, list[0], "the standard one first")
	m.Options = nil
	for i := range 20 {
		m.Options = append(m.Options, Option{ID: fmt.Sprint("o", i), Standard: i < 2})
	}
	list = m.Builds()
	for _, want := range [][]string{{"o0", "o1"}, {"o3"}, {"o3", "o17"}, {"o0"}, {"o0", "o1", "o9"}} {
		assert.Contains(t, list, want)
	}
	assert.Less(t, len(list), 450)
}

// A line that ends at a part of an option is found in the build without it.
func TestABuildThatCantBeMadeIsTold(t *testing.T) {
	m := &Model{Options: []Option{{ID: "heater", Name: "Heater", Standard: true}},
		Parts: []Part{{ID: "a", Kind: OpenEnd, Name: "A"}, {ID: "b", Kind: OpenEnd, Name: "B", Option: "heater"}},
		Lines: []Line{{ID: "l", From: "a.a", To: "b.a"}}}
	m.Lines[0].From = "a." + m.Parts[0].Ports()[0].Name
	m.Lines[0].To = "b." + m.Parts[1].Ports()[0].Name
	err := m.CheckBuilds()
	var no *BuildError
	require.ErrorAs(t, err, &no)
	assert.Empty(t, no.With)
	assert.ErrorContains(t, err, `built without options, line "l" ends at b.`)
	m.Lines[0].Option = "heater"
	require.NoError(t, m.CheckBuilds())
}
