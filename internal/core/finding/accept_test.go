package finding_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/finding"
	"coldtap/internal/core/plumbing"
)

func TestAnAcceptedFindingComesBackWhenItsFactsChange(t *testing.T) {
	m := model(t, gneiss)
	all := find(t, m)
	require.NotEmpty(t, all)
	var one finding.Finding
	for _, f := range all {
		if f.Code == "overflow-small" {
			one = f
		}
	}
	require.NotEmpty(t, one.Code)
	accepted := []plumbing.Accepted{one.Acceptance("the fill is slow", "Imre Valk")}
	open, done := finding.Split(all, accepted)
	assert.Len(t, open, len(all)-1)
	require.Len(t, done, 1)
	assert.Equal(t, "the fill is slow", done[0].Reason)

	m.Line("overflow").Size = "hose 5/8 in"
	open, done = finding.Split(find(t, m), accepted)
	assert.Empty(t, done, "the overflow carries more now")
	assert.True(t, has(open, "overflow-small"))
}

func has(list []finding.Finding, code string) bool {
	for _, f := range list {
		if f.Code == code {
			return true
		}
	}
	return false
}

func TestADangerIsNeverAccepted(t *testing.T) {
	m := model(t, gneiss)
	m.Part("city").Data.CheckValve = false
	var accepted []plumbing.Accepted
	for _, f := range find(t, m) {
		accepted = append(accepted, f.Acceptance("no", "Imre Valk"))
	}
	open, _ := finding.Split(find(t, m), accepted)
	require.NotEmpty(t, open)
	for _, f := range open {
		assert.True(t, f.Danger, f.Code)
	}
	assert.True(t, has(open, "city-no-check"))
}
