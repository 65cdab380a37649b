package web_test

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"net/url"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/crypto/bcrypt"

	"coldtap/demo"
	"coldtap/internal/app"
	"coldtap/internal/web"
)

// p95 reports the 95th percentile of some durations.
func p95(b *testing.B, took []time.Duration) {
	slices.Sort(took)
	b.ReportMetric(float64(took[len(took)/2])/1e6, "p50-ms")
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
		"/models/schist-31-2027/settings/board?mode=everyday&set=bypass-in.b",
		"/models/schist-31-2027/settings/board?mode=antifreeze&set=plate-to.tank",
		"/models/gneiss-24-2027/settings/board?mode=city&set=valve-bypass.open",
		"/models/gneiss-24-2027/settings/board?mode=drain-down&set=valve-heater-out.closed",
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

// lengths names a line of each demo model.
var lengths = map[string]string{"gneiss-24-2027": "trunk-1", "schist-31-2027": "house", "ashlar-20-2027": "trunk-1",
	"ashlar-20-2026": "trunk-1", "marl-15-2027": "to-tail", "feldspar-c7-2027": "trunk-1", "tuff-9-2027": "trunk-1"}

// BenchmarkEditBy20 is twenty people who each change a length on one of all
// models, look at what follows for five seconds, and change the next.
func BenchmarkEditBy20(b *testing.B) {
	const think, edits = 5 * time.Second, 8
	w := open(b)
	slugs := slices.Sorted(maps.Keys(lengths))
	c := clientOf(b, w.url)
	edit := func(slug string, inches int) time.Duration {
		form := url.Values{"from": {"1"}, "part": {lengths[slug]}, "f.length": {fmt.Sprintf("%d in", inches)}}
		req, err := http.NewRequest(http.MethodPost, w.url+"/models/"+slug+"/edit/line/"+lengths[slug],
			strings.NewReader(form.Encode()))
		require.NoError(b, err)
		req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		req.Header.Set("HX-Request", "true")
		start := time.Now()
		resp, err := c.Do(req)
		require.NoError(b, err)
		code, _ := answer(b, resp)
		require.Equal(b, http.StatusOK, code)
		return time.Since(start)
	}
	for _, inches := range []int{99, 98} { // people are at work: what a first edit works out is there
		for _, s := range slugs {
			edit(s, inches)
		}
	}
	for b.Loop() {
		var mu sync.Mutex
		var took []time.Duration
		var people sync.WaitGroup
		for i := range 20 {
			people.Add(1)
			go func() {
				defer people.Done()
				rng := rand.New(rand.NewPCG(uint64(i), 20))
				time.Sleep(think * time.Duration(i) / 20)
				for n := range edits {
					d := edit(slugs[(i+n)%len(slugs)], 20+(i*7+n)%90)
					mu.Lock()
					took = append(took, d)
					mu.Unlock()
					time.Sleep(think - time.Second + time.Duration(rng.Int64N(int64(2*time.Second))))
				}
			}()
		}
		people.Wait()
		p95(b, took)
	}
}

// BenchmarkListOf500 is the list of 500 models: warm, and by a server that was
// just started.
func BenchmarkListOf500(b *testing.B) {
	w := open(b)
	for i := range 493 {
		m, err := demo.Model(slices.Sorted(maps.Keys(lengths))[i%len(lengths)])
		require.NoError(b, err)
		m.ID, m.Name = fmt.Sprintf("copy-%d", i), fmt.Sprintf("Copy %d", i)
		_, err = w.store.Create(b.Context(), m, app.By{Name: "Imre Valk"}, "copy")
		require.NoError(b, err)
	}
	list := func(at string, c *http.Client) (body string, took time.Duration) {
		start := time.Now()
		resp, err := c.Get(at + "/")
		require.NoError(b, err)
		code, body := answer(b, resp)
		require.Equal(b, http.StatusOK, code)
		return body, time.Since(start)
	}
	start := time.Now()
	for body := "being worked out"; strings.Contains(body, "being worked out"); {
		body, _ = list(w.url, clientOf(b, w.url))
	}
	worked := time.Since(start)
	h, err := web.New(w.store, web.Options{Demo: demo.People(), Cost: bcrypt.MinCost})
	require.NoError(b, err)
	again := httptest.NewServer(h)
	defer again.Close()
	c := client(b, again.URL, "imre")
	_, first := list(again.URL, c)
	var took []time.Duration
	for b.Loop() {
		_, d := list(again.URL, c)
		took = append(took, d)
	}
	b.ReportMetric(worked.Seconds(), "first-s")
	b.ReportMetric(float64(first)/1e6, "restarted-ms")
	p95(b, took)
}
