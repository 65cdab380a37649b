package web_test

import (
	"io"
	"net/http"
	"net/http/httptest"
	"sync"
	"testing"
	"time"

	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/promhttp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/crypto/bcrypt"

	"coldtap/demo"
	"coldtap/internal/store"
	"coldtap/internal/testdb"
	"coldtap/internal/web"
)

// A database that hangs is told to be away, to those who wait as to those who come; /health
// answers all the while, /ready does not; when it goes on, so do the pages, by themselves.
func TestAHungDatabaseIsToldSoon(t *testing.T) {
	t.Parallel()
	cable := testdb.NewCable(t, worlds.Loaded.Copy(t))
	st, err := store.Open(t.Context(), cable.DSN)
	require.NoError(t, err)
	defer st.Close()
	pulse, err := st.Pulse(t.Context())
	require.NoError(t, err)
	registry := prometheus.NewRegistry()
	h, err := web.New(st, web.Options{Demo: demo.People(), Cost: bcrypt.MinCost, Pulse: pulse, Metrics: registry})
	require.NoError(t, err)
	srv := httptest.NewServer(h)
	defer srv.Close()
	c := client(t, srv.URL, "imre")
	ask := func(path string) (int, time.Duration) {
		began := time.Now()
		resp, err := c.Get(srv.URL + path)
		require.NoError(t, err)
		defer resp.Body.Close()
		io.Copy(io.Discard, resp.Body)
		return resp.StatusCode, time.Since(began)
	}
	code, _ := ask(gneissPath)
	require.Equal(t, http.StatusOK, code)

	cable.Hang(true)
	var all sync.WaitGroup
	for _, path := range []string{"/", gneissPath, gneissPath + "/guide", "/house", gneissPath + "/history"} {
		all.Go(func() {
			code, took := ask(path)
			assert.Equal(t, http.StatusServiceUnavailable, code, path)
			t.Logf("%s was told after %v", path, took)
		})
	}
	all.Wait()
	require.Eventually(t, func() bool { return pulse.Away() != nil }, patience, 10*time.Millisecond)
	code, took := ask(gneissPath)
	assert.Equal(t, http.StatusServiceUnavailable, code)
	t.Logf("who came later was told after %v", took)
	code, _ = ask("/ready")
	assert.Equal(t, http.StatusServiceUnavailable, code)
	code, _ = ask("/health")
	assert.Equal(t, http.StatusOK, code)

	cable.Hang(false)
	require.Eventually(t, func() bool { code, _ := ask("/ready"); return code == http.StatusOK }, patience,
		50*time.Millisecond)
	require.Eventually(t, func() bool { code, _ := ask(gneissPath); return code == http.StatusOK }, patience,
		50*time.Millisecond)

	// What was counted, on a handler of its own.
	rec := httptest.NewRecorder()
	promhttp.HandlerFor(registry, promhttp.HandlerOpts{}).ServeHTTP(rec, httptest.NewRequest(http.MethodGet, "/metrics", nil))
	assert.Contains(t, rec.Body.String(), `coldtap_request_seconds_count{method="GET",route="/models/:model",status="200"}`)
	assert.Contains(t, rec.Body.String(), "coldtap_builds_bytes")
	code, _ = ask("/metrics")
	assert.Equal(t, http.StatusNotFound, code, "not where readers come")
}
