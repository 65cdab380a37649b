package rig_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/rig"
)

func TestEveryRigIsAModel(t *testing.T) {
	names := rig.Names()
	require.GreaterOrEqual(t, len(names), 15)
	for _, name := range names {
		m, err := rig.Model(name)
		if assert.NoError(t, err) {
			assert.Equal(t, name, m.ID)
			_, err = plumbing.NewNetwork(m)
			assert.NoError(t, err, name)
		}
	}
}

func TestFaultsOfARigAreTold(t *testing.T) {
	for text, want := range map[string]string{
		`tank fresh "Fresh tank`: "a quote is not closed",
		"a.b > c.d cold":         "a line has two ends",
		"tank fresh":             "a part has a kind",
		"position a A":           "follows its selector",
		`model a "A" us` + "\n" + `teapot t "Pot"`: "teapot",
	} {
		_, err := rig.Read(text)
		assert.ErrorContains(t, err, want)
	}
}
