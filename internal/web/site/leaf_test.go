package site

import (
	"bytes"
	"compress/gzip"
	"errors"
	"io"
	"math/rand/v2"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A page of parts that were compressed apart unpacks to the parts one after the other.
func TestPartsMakeOneGzipFile(t *testing.T) {
	rng := rand.New(rand.NewPCG(4, 2))
	for range 50 {
		var parts [3]string
		for i := range parts {
			parts[i] = strings.Repeat("valve positions ", rng.IntN(3000)) + strings.Repeat("x", rng.IntN(9))
		}
		leaf, err := newLeaf([]byte(parts[1]))
		require.NoError(t, err)
		file, err := gzipped([]byte(parts[0]), leaf, []byte(parts[2]))
		require.NoError(t, err)
		r, err := gzip.NewReader(bytes.NewReader(bytes.Join(file, nil)))
		require.NoError(t, err)
		got, err := io.ReadAll(r)
		require.NoError(t, err)
		require.Equal(t, strings.Join(parts[:], ""), string(got))
	}
}

func TestALeafIsWrittenOnceForAllWhoAsk(t *testing.T) {
	var s Leaves
	var written atomic.Int64
	var all sync.WaitGroup
	for range 20 {
		all.Go(func() {
			_, err := s.Get("one", func(b *bytes.Buffer) error {
				written.Add(1)
				b.WriteString("page")
				return nil
			})
			assert.NoError(t, err)
		})
	}
	all.Wait()
	assert.EqualValues(t, 1, written.Load())
	_, err := s.Get("bad", func(*bytes.Buffer) error { return errors.New("no") })
	require.Error(t, err)
	large := make([]byte, leavesMost/4)
	for _, name := range []string{"a", "b", "c", "d", "e", "f"} {
		_, err := s.Get(name, func(b *bytes.Buffer) error { b.Write(large); return nil })
		require.NoError(t, err)
	}
	assert.LessOrEqual(t, s.bytes, leavesMost)
	assert.Positive(t, s.kept.Len())
}
