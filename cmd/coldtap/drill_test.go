package main

import (
	"fmt"
	"io"
	"net/http"
	neturl "net/url"
	"os"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"coldtap/internal/testworld"
)

// Technicians answer questions while the application is killed: every answer that was acknowledged is there when it
// is back, marked, and the sitting goes on where it was.
func TestNoAnswerIsLostWhenTheApplicationIsKilled(t *testing.T) {
	t.Parallel()
	dsn := testworld.Demo.Drilled.Copy(t)
	cmd, at := instance(t, "--demo", "--dsn", dsn)
	url := <-at
	who := map[string]*http.Client{"pia": somebody(t, url, "pia"), "sam": somebody(t, url, "sam")}
	sits := map[string]string{}
	for login, c := range who {
		sits[login] = practising(t, url, c)
	}
	const asked = 60
	var mu sync.Mutex
	kept := map[string][]int{}
	var all sync.WaitGroup
	for login, c := range who {
		for hand := range 2 { // each on two phones, which answer the same questions
			all.Go(func() {
				for n := 1 + hand; n <= asked; n++ {
					resp, err := c.PostForm(url+sits[login]+"/answer",
						neturl.Values{"n": {fmt.Sprint(n)}, "pick": {"0"}})
					if err != nil {
						return
					}
					_, err = io.ReadAll(resp.Body)
					resp.Body.Close()
					if err != nil || resp.StatusCode != http.StatusSeeOther {
						return
					}
					mu.Lock()
					kept[login] = append(kept[login], n)
					mu.Unlock()
				}
			})
		}
	}
	require.Eventually(t, func() bool {
		mu.Lock()
		defer mu.Unlock()
		return len(kept["pia"]) > 5 && len(kept["sam"]) > 5
	}, enough, time.Millisecond, "they answer")
	require.NoError(t, cmd.Process.Kill())
	_ = cmd.Wait()
	all.Wait()
	cmd, at = instance(t, "--demo", "--dsn", dsn)
	url = <-at
	defer func() {
		_ = cmd.Process.Signal(os.Interrupt)
		_ = cmd.Wait()
	}()
	for login := range who {
		c := somebody(t, url, login)
		require.NotEmpty(t, kept[login])
		require.Less(t, len(kept[login]), asked, "it was killed while they answered")
		for _, n := range kept[login] {
			page := body(t, c, fmt.Sprintf("%s%s?n=%d", url, sits[login], n))
			require.Contains(t, page, `id="marked"`, "%s: the answer to question %d is lost", login, n)
		}
		page := body(t, c, url+sits[login])
		require.Contains(t, page, "data-open", "it goes on with what is not answered")
	}
}

// practising begins practice on the smallest model, whose questions are made some seconds after somebody asks for them.
func practising(t *testing.T, url string, c *http.Client) string {
	t.Helper()
	form := neturl.Values{"model": {"marl-15-2027"}, "kind": {"where", "heater", "happens"}, "count": {"60"}}
	at := ""
	require.Eventually(t, func() bool {
		resp, err := c.PostForm(url+"/drills/practise", form)
		if err != nil {
			return false
		}
		resp.Body.Close()
		at = resp.Header.Get("Location")
		return strings.HasPrefix(at, "/drills/sit/")
	}, 2*time.Minute, 300*time.Millisecond, "something can be practised")
	return at
}
