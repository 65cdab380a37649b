package cases_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/rig/cases"
)

// Each case is read, and can be built.
func TestCasesAreRead(t *testing.T) {
	assert.Len(t, cases.Whole(), 11)
	assert.Len(t, cases.Small(), 9)
	for _, name := range append(cases.Whole(), cases.Small()...) {
		m, err := cases.Model(name)
		require.NoError(t, err, name)
		b, err := m.Build(m.StandardOptions()...)
		require.NoError(t, err, name)
		_, err = plumbing.NewNetwork(b)
		require.NoError(t, err, name)
	}
	_, err := cases.Model("none")
	assert.Error(t, err)
}
