package edit_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
)

func TestALinesNameFollowsWhatItJoins(t *testing.T) {
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	done, err := edit.Set(m, edit.OfLine, "c-basin", map[string]string{"id": "tee-c-basin-basin"})
	require.NoError(t, err)
	done, err = edit.Set(done.Model, edit.OfPart, "basin", map[string]string{"id": "washbasin"})
	require.NoError(t, err)
	require.NotNil(t, done.Model.Line("tee-c-basin-washbasin"), "the part has another id")
	assert.NotNil(t, done.Model.Line("h-basin"), "a name that a hand gave stays")

	done, err = edit.Remove(done.Model, "c-toilet")
	require.NoError(t, err)
	done, err = edit.Set(done.Model, edit.OfLine, "tee-c-basin-washbasin", map[string]string{"to": "toilet.cold"})
	require.NoError(t, err)
	assert.Equal(t, "toilet.cold", done.Model.Line("tee-c-basin-toilet").To, "it leads elsewhere")
	assert.Nil(t, done.Model.Line("tee-c-basin-washbasin"))
}

func TestWhatNamesAPartFollowsItsId(t *testing.T) {
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	m.Kept = []plumbing.Kept{
		{Mode: "everyday", Handles: map[string]string{"valve-bypass": "closed"}, Reason: "r", By: "b"},
	}
	m.Accepted = []plumbing.Accepted{
		{Code: "pocket", Parts: []string{"valve-bypass"}, Facts: "f", Reason: "r", By: "b"},
	}
	done, err := edit.Set(m, edit.OfPart, "valve-bypass", map[string]string{"id": "bypass"})
	require.NoError(t, err)
	assert.Equal(t, map[string]string{"bypass": "closed"}, done.Model.Kept[0].Handles)
	assert.Equal(t, []string{"bypass"}, done.Model.Accepted[0].Parts)
}
