package flow

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestSparseIsDense solves random equations both ways.
func TestSparseIsDense(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 33))
	for k := range 200 {
		rows := 2 + rng.IntN(40)
		var pairs []pair
		for range rows + rng.IntN(2*rows) {
			if a, b := rng.IntN(rows), rng.IntN(rows); a < b {
				pairs = append(pairs, pair{a, b}) // some of them twice
			}
		}
		e := &equations{diag: make([]float64, rows), off: make([]float64, len(pairs)), pairs: pairs}
		for i := range e.diag {
			e.diag[i] = 0.1 + rng.Float64()
		}
		for i, p := range pairs {
			v := rng.Float64()
			e.off[i] = -v
			e.diag[p.row] += v
			e.diag[p.col] += v
		}
		want, got := make([]float64, rows), make([]float64, rows)
		for i := range want {
			want[i] = rng.NormFloat64()
			got[i] = want[i]
		}
		require.True(t, (&dense{make([]float64, rows*rows)}).solve(e, want))
		require.True(t, newSparse(rows, pairs).solve(e, got))
		require.InDeltaSlice(t, want, got, 1e-9, "system %d", k)
	}
	// Two rows that say the same have no single answer.
	e := &equations{diag: []float64{1, 1}, off: []float64{-1}, pairs: []pair{{0, 1}}}
	require.False(t, newSparse(2, e.pairs).solve(e, []float64{1, 1}))
}

// TestFewestNeighboursFirst keeps a ladder's factor small: two rows beside
// each other, and no more than the next two below.
func TestFewestNeighboursFirst(t *testing.T) {
	var pairs []pair
	const rungs = 500
	for i := range rungs {
		pairs = append(pairs, pair{2 * i, 2*i + 1})
		if i > 0 {
			pairs = append(pairs, pair{2*i - 2, 2 * i}, pair{2*i - 1, 2*i + 1})
		}
	}
	require.LessOrEqual(t, len(newSparse(2*rungs, pairs).entry), 5*rungs)
}
