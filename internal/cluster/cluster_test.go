//go:build cluster

package cluster_test

import (
	"context"
	"fmt"
	"io"
	"maps"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/crypto/bcrypt"

	"coldtap/demo"
	"coldtap/internal/store"
	"coldtap/internal/testdb"
	"coldtap/internal/web"
	"coldtap/internal/world"
)

// instance is one of the servers of the application.
type instance struct {
	url   string
	store *store.Store
}

func serve(t *testing.T, dsn string) *instance {
	t.Helper()
	st, err := store.Open(context.Background(), dsn)
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	require.NoError(t, st.Alone(t.Context(), func(ctx context.Context) error {
		return world.Load(ctx, st, bcrypt.MinCost)
	}))
	pulse, err := st.Pulse(t.Context())
	require.NoError(t, err)
	h, err := web.New(st, web.Options{Demo: demo.People(), Cost: bcrypt.MinCost, Pulse: pulse})
	require.NoError(t, err)
	srv := httptest.NewServer(h)
	t.Cleanup(srv.Close)
	return &instance{srv.URL, st}
}

// editor changes one line again and again, and sends what got no answer again, as a page does.
type editor struct {
	at   *instance
	c    *http.Client
	line string

	done   []string // values that were acknowledged, in order
	again  int      // requests that were sent again
	failed []string // that were given up
}

func (e *editor) signIn(t *testing.T) {
	t.Helper()
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	e.c = &http.Client{Jar: jar, Timeout: 10 * time.Second,
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	resp, err := e.c.PostForm(e.at.url+"/sign-in", url.Values{"login": {"imre"}, "password": {demo.People()[0].Password}})
	require.NoError(t, err)
	resp.Body.Close()
	require.Equal(t, http.StatusSeeOther, resp.StatusCode)
}

const model = "/models/gneiss-24-2027"

func (e *editor) work(ctx context.Context, id int) {
	for i := 1; ctx.Err() == nil; i++ {
		value := fmt.Sprintf("%d in", 24+i)
		form := url.Values{"from": {"1"}, "f.length": {value}}.Encode()
		word := fmt.Sprintf("editor-%d-change-%06d", id, i)
		ok := false
		for try := range 30 {
			req, err := http.NewRequest(http.MethodPost, e.at.url+model+"/edit/line/"+e.line, strings.NewReader(form))
			if err != nil {
				break
			}
			req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
			req.Header.Set("HX-Request", "true")
			req.Header.Set("X-Request", word)
			resp, err := e.c.Do(req)
			if err == nil {
				body, _ := io.ReadAll(resp.Body)
				resp.Body.Close()
				if resp.StatusCode == http.StatusOK && strings.Contains(string(body), "Saved:") {
					ok = true
					break
				}
				if resp.StatusCode < 500 {
					_, told, _ := strings.Cut(string(body), `class="notice`)
					e.failed = append(e.failed, fmt.Sprintf("%s: status %d: %s", value, resp.StatusCode,
						strings.Join(strings.Fields(told[:min(len(told), 600)]), " ")))
					return
				}
			}
			e.again++
			time.Sleep(min(2*time.Second, 100*time.Millisecond<<min(try, 5)))
		}
		if !ok {
			e.failed = append(e.failed, value)
			return
		}
		e.done = append(e.done, value)
		time.Sleep(50 * time.Millisecond)
	}
}

// people work on both instances until stop is called; it gives them back.
func people(t *testing.T, instances ...*instance) (stop func() []*editor) {
	t.Helper()
	lines := []string{"trunk-1", "fill", "pump-out", "suction", "trunk-2", "trunk-3"}
	models, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	for i := range lines {
		lines[i] = models.Lines[i*5].ID
	}
	ctx, cancel := context.WithCancel(context.Background())
	var all sync.WaitGroup
	var list []*editor
	for i, line := range lines {
		e := &editor{at: instances[i%len(instances)], line: line}
		e.signIn(t)
		list = append(list, e)
		all.Go(func() { e.work(ctx, i) })
	}
	return func() []*editor {
		cancel()
		all.Wait()
		return list
	}
}

// proves says that every change that was acknowledged is a state of the model on each of some
// nodes, once, and that the nodes have the same.
func proves(t *testing.T, list []*editor, nodes ...*node) {
	t.Helper()
	var same []string
	for _, n := range nodes {
		st, err := store.Open(t.Context(), dsn(n.address()))
		require.NoError(t, err)
		defer st.Close()
		states, err := st.Revisions(t.Context(), "gneiss-24-2027")
		require.NoError(t, err)
		var all []string
		count := map[string]int{}
		for _, r := range states {
			all = append(all, fmt.Sprintf("%d %s %s", r.Number, r.Hash, r.Reason))
			count[r.Reason]++
		}
		if same == nil {
			same = all
		}
		assert.Equal(t, same, all, "%s has the same", n.name)
		assert.Len(t, count, len(states), "%s: no change is there twice", n.name)
		for _, e := range list {
			for _, value := range e.done {
				found := false
				for reason := range maps.Keys(count) {
					found = found || strings.Contains(reason, e.line) && strings.HasSuffix(reason, "→ "+value)
				}
				assert.True(t, found, "%s: %s of %s was acknowledged", n.name, value, e.line)
			}
		}
	}
	total, again := 0, 0
	for _, e := range list {
		assert.Empty(t, e.failed, "nobody sees an error")
		assert.Greater(t, len(e.done), 5, "%s went on", e.line)
		total += len(e.done)
		again += e.again
	}
	t.Logf("%d changes acknowledged, %d requests sent again", total, again)
}

// One node is killed while people work on two instances, and comes back: no acknowledged change
// is lost, none is there twice, nobody gets an error that stays.
func TestANodeIsKilledAndComesBack(t *testing.T) {
	c := form(t)
	a := serve(t, dsn(c.nodes[0].address(), c.nodes[1].address(), c.nodes[2].address()))
	b := serve(t, dsn(c.nodes[1].address(), c.nodes[2].address(), c.nodes[0].address()))
	stop := people(t, a, b)
	time.Sleep(4 * time.Second)
	c.nodes[0].kill()
	time.Sleep(8 * time.Second)
	c.start(t, 0, false)
	time.Sleep(4 * time.Second)
	proves(t, stop(), c.nodes[:]...)
}

// A node whose port is refused to an instance is left for another one.
func TestANodeIsCutOff(t *testing.T) {
	c := form(t)
	cable := testdb.NewCable(t, dsn(c.nodes[0].address()))
	cut := strings.TrimSuffix(strings.SplitN(cable.DSN, "(", 2)[1], ")/coldtap")
	cut, _, _ = strings.Cut(cut, ")")
	a := serve(t, dsn(cut, c.nodes[2].address()))
	b := serve(t, dsn(c.nodes[1].address(), c.nodes[2].address()))
	stop := people(t, a, b)
	time.Sleep(4 * time.Second)
	cable.Pull()
	time.Sleep(6 * time.Second)
	cable.Plug()
	time.Sleep(3 * time.Second)
	proves(t, stop(), c.nodes[:]...)
}

// A node that has lost its group refuses to answer; its instance goes to another.
func TestANodeLosesItsGroup(t *testing.T) {
	c := form(t)
	a := serve(t, dsn(c.nodes[0].address(), c.nodes[1].address()))
	stop := people(t, a)
	time.Sleep(3 * time.Second)
	c.nodes[0].desync(t)
	time.Sleep(6 * time.Second)
	proves(t, stop(), c.nodes[1:]...)
}
