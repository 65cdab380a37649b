package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"math/rand/v2"
	"net/http"
	neturl "net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/sample"
	"coldtap/internal/store"
	"coldtap/internal/testdb"
	"coldtap/internal/testworld"
	"coldtap/internal/upgrade"
)

var program = sync.OnceValues(func() (string, error) {
	dir, err := os.MkdirTemp("", "coldtap-program")
	if err != nil {
		return "", err
	}
	bin := filepath.Join(dir, "coldtap")
	out, err := exec.Command("go", "build", "-o", bin, ".").CombinedOutput()
	if err != nil {
		return "", &exec.Error{Name: string(out), Err: err}
	}
	return bin, nil
})

func TestMain(m *testing.M) {
	code := m.Run()
	if bin, err := program(); err == nil {
		os.RemoveAll(filepath.Dir(bin))
	}
	os.Exit(code)
}

// instance begins an instance, which tells its address on a channel once it serves.
func instance(t *testing.T, args ...string) (*exec.Cmd, chan string) {
	bin, err := program()
	require.NoError(t, err)
	cmd := exec.Command(bin, append([]string{"serve", "--addr", "127.0.0.1:0"}, args...)...)
	at := make(chan string, 1)
	cmd.Stdout = &firstLine{at: at}
	cmd.Stderr = os.Stderr
	require.NoError(t, cmd.Start())
	return cmd, at
}

// firstLine sends the address that a server prints.
type firstLine struct {
	text bytes.Buffer
	at   chan string
}

func (w *firstLine) Write(b []byte) (int, error) {
	w.text.Write(b)
	if _, url, ok := strings.Cut(w.text.String(), "serves on "); ok && strings.Contains(url, "\n") {
		select {
		case w.at <- strings.TrimSpace(url):
		default:
		}
	}
	return len(b), nil
}

// comesUp starts an instance that must serve, and stops it.
func comesUp(t *testing.T, within time.Duration, args ...string) time.Duration {
	t.Helper()
	began := time.Now()
	cmd, at := instance(t, args...)
	ended := make(chan error, 1)
	go func() { ended <- cmd.Wait() }()
	select {
	case <-at:
	case err := <-ended:
		t.Fatalf("it ended instead of serving: %v", err)
	case <-time.After(within):
		cmd.Process.Kill()
		t.Fatal("it does not come up")
	}
	took := time.Since(began)
	require.NoError(t, cmd.Process.Signal(os.Interrupt))
	require.NoError(t, <-ended)
	return took
}

// killed begins some instances at once and kills each at a moment of its own
// before it would have come up.
func killed(t *testing.T, rng *rand.Rand, instances int, most time.Duration, args ...string) {
	var all sync.WaitGroup
	for range instances {
		cmd, _ := instance(t, args...)
		all.Add(1)
		time.AfterFunc(time.Duration(rng.Int64N(int64(most))), func() {
			defer all.Done()
			cmd.Process.Kill()
			cmd.Wait()
		})
	}
	all.Wait()
}

const enough = 60 * time.Second

// kills are how often each of the three is killed in each of some rounds: together three hundred times in the long run.
func kills(rounds, pairs int) (int, int) {
	if sample.Whole() {
		return rounds, pairs
	}
	return 1, 2
}

// Two instances load the demo world into one empty database and are killed
// while they do: whenever that was, the next start has all of it, once.
func TestTheDemoWorldIsCompleteHoweverOftenItsLoadWasKilled(t *testing.T) {
	t.Parallel()
	rng := sample.Rand(t)
	took := comesUp(t, enough, "--demo", "--dsn", testdb.DSN(t))
	rounds, pairs := kills(12, 5)
	for range rounds {
		dsn := testdb.DSN(t)
		args := []string{"--demo", "--dsn", dsn}
		for range pairs {
			killed(t, rng, 2, took+took/4, args...)
		}
		comesUp(t, enough, args...)
		complete(t, dsn)
	}
}

// complete reports whether the demo world is there as it is in its files.
func complete(t *testing.T, dsn string) {
	t.Helper()
	st, err := store.Open(t.Context(), dsn)
	require.NoError(t, err)
	defer st.Close()
	list, err := st.Models(t.Context())
	require.NoError(t, err)
	models, err := demo.Models()
	require.NoError(t, err)
	require.Len(t, list, len(models))
	for _, m := range models {
		row, rev, err := st.Current(t.Context(), m.ID)
		require.NoError(t, err)
		require.Contains(t, []uint64{1, 3}, row.Revision, "a guide is published in two edits, or not yet")
		var want strings.Builder
		require.NoError(t, plumbing.Write(&want, m.WithNumbers()))
		require.Equal(t, want.String(), rev.Document)
	}
	people, err := st.People(t.Context())
	require.NoError(t, err)
	require.Len(t, people, len(demo.People()))
	lists, err := demo.Lists()
	require.NoError(t, err)
	for _, l := range lists {
		imports, err := st.Imports(t.Context(), l.Model)
		require.NoError(t, err)
		require.Len(t, imports, 1)
	}
}

// Two instances of this version open a database of the first release and are
// killed while they bring its tables up to date: nothing in it is lost.
func TestAnUpgradeIsCompleteHoweverOftenItWasKilled(t *testing.T) {
	t.Parallel()
	const release = "../../internal/upgrade/testdata/v1"
	raw, err := os.ReadFile(release + ".json")
	require.NoError(t, err)
	var want upgrade.Contents
	require.NoError(t, json.Unmarshal(raw, &want))
	rng := sample.Rand(t)
	old := func() string {
		dsn := testdb.DSN(t)
		require.NoError(t, testdb.Load(t.Context(), dsn, release+".sql.gz"))
		return dsn
	}
	took := comesUp(t, enough, "--dsn", old())
	rounds, pairs := kills(12, 5)
	for range rounds {
		dsn := old()
		for range pairs {
			killed(t, rng, 2, took+took/4, "--dsn", dsn)
		}
		comesUp(t, enough, "--dsn", dsn)
		st, err := store.Open(t.Context(), dsn)
		require.NoError(t, err)
		got, err := upgrade.Read(t.Context(), st)
		st.Close()
		require.NoError(t, err)
		assert.Equal(t, &want, got)
	}
}

// The first start of a private server is killed at any moment: the next one
// makes the server and loads all.
func TestTheFirstStartIsCompleteHoweverOftenItWasKilled(t *testing.T) {
	t.Parallel()
	above, err := os.MkdirTemp("", "coldtap-first")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(above, 0o755))
	t.Cleanup(func() { os.RemoveAll(above) })
	rng := sample.Rand(t)
	took := comesUp(t, enough, "--demo", "--data", filepath.Join(above, "measured"))
	rounds, each := kills(6, 10)
	for round := range rounds {
		data := filepath.Join(above, string(rune('a'+round)))
		for range each {
			killed(t, rng, 1, took, "--demo", "--data", data)
		}
		comesUp(t, enough, "--demo", "--data", data)
		comesUp(t, enough, "--demo", "--data", data)
	}
}

// Readers tick steps and report while the server is killed: what was acknowledged is there when it is back.
func TestWhatReadersSentIsThereAfterAKill(t *testing.T) {
	t.Parallel()
	dsn := testworld.Demo.Drilled.Copy(t)
	cmd, at := instance(t, "--demo", "--dsn", dsn)
	url := <-at
	form := neturl.Values{"model": {"gneiss-24-2027"}, "letter": {"A"}, "build": {"plain"}, "task": {"sanitize"}}
	var walk struct{ Code string }
	require.NoError(t, json.Unmarshal(posted(t, url+"/readers/walk", form), &walk))
	require.NotEmpty(t, walk.Code)
	var mu sync.Mutex
	var ticks []string
	var reports []string
	var all sync.WaitGroup
	for phone := range 4 {
		all.Go(func() {
			for n := 0; ; n++ {
				name := fmt.Sprintf("phone-%d-tick-%d", phone, n)
				body := fmt.Sprintf(`{"marks":[{"mark":%q,"step":%d,"what":"done","at":%d,"side":"taps"}]}`, name, n%40, n)
				resp, err := http.Post(url+"/readers/walk/"+walk.Code+"/marks", "application/json", strings.NewReader(body))
				if err != nil {
					return
				}
				_, err = io.ReadAll(resp.Body)
				resp.Body.Close()
				if err != nil || resp.StatusCode != http.StatusOK {
					return
				}
				mu.Lock()
				ticks = append(ticks, name)
				mu.Unlock()
			}
		})
	}
	report := maps.Clone(form)
	report.Set("words", "It drips.")
	for range 3 {
		var got struct{ Answer string }
		require.NoError(t, json.Unmarshal(posted(t, url+"/readers/report", report), &got))
		reports = append(reports, got.Answer)
	}
	require.Eventually(t, func() bool {
		mu.Lock()
		defer mu.Unlock()
		return len(ticks) > 40
	}, enough, time.Millisecond, "they tick on")
	require.NoError(t, cmd.Process.Kill())
	_ = cmd.Wait()
	all.Wait()
	require.NotEmpty(t, ticks)
	cmd, at = instance(t, "--demo", "--dsn", dsn)
	url = <-at
	defer func() {
		_ = cmd.Process.Signal(os.Interrupt)
		_ = cmd.Wait()
	}()
	resp, err := http.Get(url + "/readers/walk/" + walk.Code + "/marks")
	require.NoError(t, err)
	raw, err := io.ReadAll(resp.Body)
	resp.Body.Close()
	require.NoError(t, err)
	for _, name := range ticks {
		require.Contains(t, string(raw), `"`+name+`"`)
	}
	for _, answer := range reports {
		resp, err := http.Get(url + answer)
		require.NoError(t, err)
		resp.Body.Close()
		require.Equal(t, http.StatusOK, resp.StatusCode)
	}
}

// publishes waits until the guide of the demo world is published, some seconds after the first start.
func publishes(t *testing.T, at string) {
	t.Helper()
	require.Eventually(t, func() bool {
		resp, err := http.Get(at + "/read/gneiss-24-2027/A/plain/us")
		if err != nil {
			return false
		}
		resp.Body.Close()
		return resp.StatusCode == http.StatusOK
	}, enough, 100*time.Millisecond, "the guide of the demo world is published")
}

// posted sends a form as a page with scripts does, and gives the answer.
func posted(t *testing.T, address string, form neturl.Values) []byte {
	t.Helper()
	req, err := http.NewRequestWithContext(t.Context(), http.MethodPost, address, strings.NewReader(form.Encode()))
	require.NoError(t, err)
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	req.Header.Set("Accept", "application/json")
	resp, err := http.DefaultClient.Do(req)
	require.NoError(t, err)
	defer resp.Body.Close()
	raw, err := io.ReadAll(resp.Body)
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, resp.StatusCode, string(raw))
	return raw
}
