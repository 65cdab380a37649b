// Package testdb gives tests a schema of their own on a real server.
package testdb

import (
	"context"
	"fmt"
	"os"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/require"

	"coldtap/internal/mariadb"
)

// Env names the variable that carries the DSN of the test run's server.
const Env = "COLDTAP_TEST_DSN"

var own = sync.OnceValues(func() (string, error) {
	dir, err := os.MkdirTemp("", "coldtap-test")
	if err != nil {
		return "", err
	}
	// It ends with the test process.
	s, err := mariadb.Start(context.Background(), mariadb.Options{Dir: dir, Tests: true})
	if err != nil {
		return "", err
	}
	return s.DSN, nil
})

var count atomic.Int64

// DSN gives the DSN of an empty schema. The server is the one that the test
// command started, or one that this test process starts for itself.
func DSN(t testing.TB) string {
	t.Helper()
	base := server(t)
	schema := fmt.Sprintf("t_%d_%d", os.Getpid(), count.Add(1))
	dsn, err := mariadb.WithSchema(t.Context(), base, schema)
	require.NoError(t, err)
	return dsn
}

// server is the DSN of the server of this run.
func server(t testing.TB) string {
	t.Helper()
	if base := os.Getenv(Env); base != "" {
		return base
	}
	base, err := own()
	require.NoError(t, err)
	return base
}
