package web_test

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"sync"
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

// BenchmarkEditWhile20Edit changes a length while twenty people do the same,
// each about every two seconds, on all models.
func BenchmarkEditWhile20Edit(b *testing.B) {
	w := open(b)
	slugs := []string{"gneiss-24-2027", "schist-31-2027", "ashlar-20-2027", "ashlar-20-2026", "marl-15-2027", "feldspar-c7-2027", "tuff-9-2027"}
	lines := map[string]string{"gneiss-24-2027": "trunk-1", "schist-31-2027": "house", "ashlar-20-2027": "trunk-1", "ashlar-20-2026": "trunk-1", "marl-15-2027": "to-tail", "feldspar-c7-2027": "trunk-1", "tuff-9-2027": "trunk-1"}
	c := clientOf(b, w.url)
	edit := func(slug string, inches int) {
		req, err := http.NewRequest(http.MethodPost, w.url+"/models/"+slug+"/edit/line/"+lines[slug], strings.NewReader(url.Values{"from": {"1"}, "part": {lines[slug]}, "f.length": {fmt.Sprintf("%d in", inches)}}.Encode()))
		require.NoError(b, err)
		req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		req.Header.Set("HX-Request", "true")
		resp, err := c.Do(req)
		require.NoError(b, err)
		code, _ := answer(b, resp)
		require.Contains(b, []int{http.StatusOK, http.StatusConflict}, code)
	}
	for _, s := range slugs {
		edit(s, 99)
	}
	stop := make(chan struct{})
	var people sync.WaitGroup
	for i := range 20 {
		people.Add(1)
		go func() {
			defer people.Done()
			for n := 0; ; n++ {
				select {
				case <-stop:
					return
				case <-time.After(time.Duration(1500+37*i) * time.Millisecond):
					edit(slugs[(i+n)%len(slugs)], 100+(i*7+n)%90)
				}
			}
		}()
	}
	var took []time.Duration
	for i := 0; b.Loop(); i++ {
		time.Sleep(20 * time.Millisecond)
		start := time.Now()
		edit("gneiss-24-2027", 40+i%60)
		took = append(took, time.Since(start))
	}
	close(stop)
	people.Wait()
	p95(b, took)
}
