package web_test

import (
	"context"
	"net/http"
	"net/http/httptest"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/store"
	"coldtap/internal/testdb"
	"coldtap/internal/web"
)

// p95 reports the 95th percentile of some durations.
func p95(b *testing.B, took []time.Duration) {
	slices.Sort(took)
	b.ReportMetric(float64(took[len(took)*95/100])/1e6, "p95-ms")
}

func BenchmarkTurnedHandle(b *testing.B) {
	st, err := store.Open(context.Background(), testdb.DSN(b))
	require.NoError(b, err)
	defer st.Close()
	models, err := demo.Models()
	require.NoError(b, err)
	require.NoError(b, st.Seed(context.Background(), models, "Imre Valk", "bench"))
	h, err := web.New(st)
	require.NoError(b, err)
	addresses := []string{
		"/models/schist-31-2027/settings/board?mode=everyday&set=bypass-in.b", "/models/schist-31-2027/settings/board?mode=antifreeze&set=plate-to.tank",
		"/models/gneiss-24-2027/settings/board?mode=city&set=valve-bypass.open", "/models/gneiss-24-2027/settings/board?mode=drain-down&set=valve-heater-out.closed",
	}
	for _, at := range addresses { // what is kept is worked out once
		h.ServeHTTP(httptest.NewRecorder(), httptest.NewRequest(http.MethodGet, at, nil))
	}
	var took []time.Duration
	for i := 0; b.Loop(); i++ {
		start := time.Now()
		rec := httptest.NewRecorder()
		h.ServeHTTP(rec, httptest.NewRequest(http.MethodGet, addresses[i%len(addresses)], nil))
		if rec.Code != http.StatusOK {
			b.Fatal(rec.Code)
		}
		took = append(took, time.Since(start))
	}
	p95(b, took)
}
