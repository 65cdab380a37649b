package web_test

import (
	"coldtap/internal/web"
	"fmt"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

func BenchmarkEditSeq(b *testing.B) {
	w := open(b)
	slugs := slices.Sorted(maps.Keys(lengths))
	c := clientOf(b, w.url)
	n := 0
	edit := func(slug string) time.Duration {
		n++
		form := url.Values{"from": {"1"}, "part": {lengths[slug]}, "f.length": {fmt.Sprintf("%d in", 20+n)}}
		req, err := http.NewRequest(http.MethodPost, w.url+"/models/"+slug+"/edit/line/"+lengths[slug], strings.NewReader(form.Encode()))
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
	for _, s := range slugs {
		edit(s)
	}
	for b.Loop() {
		var took []time.Duration
		for i := range 210 {
			took = append(took, edit(slugs[i%len(slugs)]))
			time.Sleep(20 * time.Millisecond)
		}
		by := map[string]time.Duration{}
		for i := range took {
			by[slugs[i%len(slugs)]] += took[i] / 30
		}
		fmt.Println(by)
		web.Laps()
		p95(b, took)
	}
}
