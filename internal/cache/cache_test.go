package cache

import (
	"errors"
	"fmt"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestOneMakingForAllWhoAsk(t *testing.T) {
	c := Cache[string]{Most: 10}
	var made atomic.Int64
	var all sync.WaitGroup
	for range 20 {
		all.Go(func() {
			v, err := c.Get("one", func() (string, int64, error) {
				made.Add(1)
				return "page", 4, nil
			})
			assert.NoError(t, err)
			assert.Equal(t, "page", v)
		})
	}
	all.Wait()
	assert.EqualValues(t, 1, made.Load())
	no := errors.New("no")
	for range 2 {
		_, err := c.Get("bad", func() (string, int64, error) { return "", 0, no })
		require.ErrorIs(t, err, no, "what failed is tried again")
	}
}

// What was asked for last stays, within the bytes; one value stays however large it is.
func TestBytesAreBounded(t *testing.T) {
	c := Cache[int]{Most: 10}
	made := 0
	get := func(name string, bytes int64) {
		t.Helper()
		_, err := c.Get(name, func() (int, int64, error) { made++; return made, bytes, nil })
		require.NoError(t, err)
	}
	get("a", 4)
	get("b", 4)
	get("a", 4)
	get("c", 4) // b goes
	require.Equal(t, 3, made)
	require.EqualValues(t, 8, c.Bytes())
	get("a", 4)
	require.Equal(t, 3, made)
	get("b", 4)
	require.Equal(t, 4, made)
	get("large", 50)
	require.EqualValues(t, 50, c.Bytes())
	for i := range 100 {
		get(fmt.Sprint(i), 3)
		require.LessOrEqual(t, c.Bytes(), int64(10))
	}
}
