package site

import (
	"bytes"
	"compress/gzip"
	"io"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// A page of parts that were compressed apart unpacks to the parts one after the other.
func TestPartsMakeOneGzipFile(t *testing.T) {
	var p packer
	rng := rand.New(rand.NewPCG(4, 2))
	for range 50 {
		var parts [3]string
		for i := range parts {
			parts[i] = strings.Repeat("valve positions ", rng.IntN(3000)) + strings.Repeat("x", rng.IntN(9))
		}
		leaf, err := p.leaf([]byte(parts[1]))
		require.NoError(t, err)
		file, err := p.gzipped([]byte(parts[0]), leaf, []byte(parts[2]))
		require.NoError(t, err)
		r, err := gzip.NewReader(bytes.NewReader(bytes.Join(file, nil)))
		require.NoError(t, err)
		got, err := io.ReadAll(r)
		require.NoError(t, err)
		require.Equal(t, strings.Join(parts[:], ""), string(got))
	}
}
