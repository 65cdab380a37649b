package turn_test

import (
	"context"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/turn"
)

func TestNoMoreReadThanProcessorsButOne(t *testing.T) {
	turns := &turn.Turns{Most: 3, Longest: time.Hour} // however slow the machine is
	var now, most atomic.Int64
	var all sync.WaitGroup
	for range 50 {
		all.Go(func() {
			end, err := turns.Take(t.Context())
			assert.NoError(t, err)
			if n := now.Add(1); n > most.Load() {
				most.Store(n)
			}
			time.Sleep(time.Millisecond)
			now.Add(-1)
			end()
		})
	}
	all.Wait()
	assert.LessOrEqual(t, most.Load(), int64(2))
}

func TestWhoWritesIsNotKeptWaitingByWhoReads(t *testing.T) {
	turns := &turn.Turns{Most: 2, Longest: time.Hour}
	read, err := turns.Take(t.Context())
	require.NoError(t, err)
	write, err := turns.Take(turn.Writing(t.Context()))
	require.NoError(t, err, "one processor is left to who writes")
	ctx, cancel := context.WithTimeout(turn.Writing(t.Context()), 20*time.Millisecond)
	defer cancel()
	_, err = turns.Take(ctx)
	require.ErrorIs(t, err, context.DeadlineExceeded, "both are taken")
	read()
	read() // ends it once
	again, err := turns.Take(turn.Writing(t.Context()))
	require.NoError(t, err)
	write()
	again()
}

func TestLongWorkLetsOthersIn(t *testing.T) {
	turns := &turn.Turns{Most: 1}
	long, err := turns.Take(t.Context())
	require.NoError(t, err)
	short, err := turns.Take(t.Context()) // though the long one has not ended
	require.NoError(t, err)
	short()
	long()
	last, err := turns.Take(t.Context())
	require.NoError(t, err, "it was given back once")
	last()
}

func TestNoTurnsAreNoBound(t *testing.T) {
	var none *turn.Turns
	for range 3 {
		_, err := none.Take(t.Context())
		require.NoError(t, err)
	}
}
