package web_test

import (
	"net/http"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// p95 reports the 95th percentile of some durations.
func p95(b *testing.B, took []time.Duration) {
	slices.Sort(took)
	b.ReportMetric(float64(took[len(took)*95/100])/1e6, "p95-ms")
}

func BenchmarkTurnedHandle(b *testing.B) {
	at := serve(b)
	c := clientOf(b, at)
	read := func(path string) {
		resp, err := c.Get(at + path)
		require.NoError(b, err)
		code, _ := answer(b, resp)
		require.Equal(b, http.StatusOK, code)
	}
	addresses := []string{
		"/models/schist-31-2027/settings/board?mode=everyday&set=bypass-in.b", "/models/schist-31-2027/settings/board?mode=antifreeze&set=plate-to.tank",
		"/models/gneiss-24-2027/settings/board?mode=city&set=valve-bypass.open", "/models/gneiss-24-2027/settings/board?mode=drain-down&set=valve-heater-out.closed",
	}
	for _, path := range addresses { // what is kept is worked out once
		read(path)
	}
	var took []time.Duration
	for i := 0; b.Loop(); i++ {
		start := time.Now()
		read(addresses[i%len(addresses)])
		took = append(took, time.Since(start))
	}
	p95(b, took)
}
