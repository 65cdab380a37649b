package demotrials

import (
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The trials of the demo world are those that the simulator makes.
func TestTheDemoTrialsAreTheSimulators(t *testing.T) {
	made, err := Make(t.Context())
	require.NoError(t, err)
	kept, err := os.ReadFile("../../../demo/trials.json")
	require.NoError(t, err)
	assert.Equal(t, string(kept), string(made), "go run ./cmd/trialdata demo/trials.json")
}
