package web_test

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// BenchmarkOpenGuide measures how long an author waits for a guide: one whose model was just changed, without its
// procedures, and one that has them.
func BenchmarkOpenGuide(b *testing.B) {
	w := open(b)
	const model = "/models/schist-31-2027"
	timed := func(path string) float64 {
		began := time.Now()
		code, _ := get(b, w.url+path)
		require.Equal(b, http.StatusOK, code)
		return float64(time.Since(began).Microseconds()) / 1000
	}
	tell := func(b *testing.B, list []float64) {
		slices.Sort(list)
		b.ReportMetric(list[len(list)*95/100], "p95-ms")
		b.ReportMetric(list[len(list)/2], "p50-ms")
		b.ReportMetric(0, "ns/op")
	}
	b.Run("changed", func(b *testing.B) {
		var list []float64
		for i := range 60 {
			code, _ := post(b, w.url+model+"/edit/line/tank-drain", url.Values{"from": {fmt.Sprint(i + 1)},
				"f.length": {fmt.Sprintf("%d in", 40+i%2)}})
			require.Equal(b, http.StatusSeeOther, code)
			list = append(list, timed(model+"/guide?edition=dealer"))
		}
		tell(b, list)
	})
	b.Run("whole", func(b *testing.B) {
		get(b, w.url+model+"/guide/whole?edition=dealer")
		get(b, w.url+model+"/guide?edition=dealer")
		var list []float64
		for range 200 {
			list = append(list, timed(model+"/guide?edition=dealer"))
		}
		tell(b, list)
	})
}
