package rig

import (
	"testing"

	"github.com/stretchr/testify/require"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
)

// Plan finds the settings of a network, for tests.
func Plan(t testing.TB, n *plumbing.Network) []setting.Answer {
	t.Helper()
	plan, err := setting.Plan(t.Context(), n)
	require.NoError(t, err)
	return plan
}

// Network makes the network of a rig, for tests.
func Network(t testing.TB, name string) *plumbing.Network {
	t.Helper()
	m, err := Model(name)
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(m)
	require.NoError(t, err)
	return n
}
