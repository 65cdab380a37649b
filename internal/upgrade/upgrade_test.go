package upgrade_test

import (
	"encoding/json"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/crypto/bcrypt"

	"coldtap/internal/sample"
	"coldtap/internal/store"
	"coldtap/internal/testdb"
	"coldtap/internal/upgrade"
	"coldtap/internal/web"
)

// TestEveryReleasesDatabaseOpens opens the databases that released versions
// wrote: nothing in them may be lost, and every model's page must open.
func TestEveryReleasesDatabaseOpens(t *testing.T) {
	dumps, err := filepath.Glob("testdata/*.sql.gz")
	require.NoError(t, err)
	require.NotEmpty(t, dumps)
	for _, dump := range dumps {
		name := strings.TrimSuffix(filepath.Base(dump), ".sql.gz")
		t.Run(name, func(t *testing.T) {
			dsn := testdb.DSN(t)
			require.NoError(t, testdb.Load(t.Context(), dsn, dump))
			st, err := store.Open(t.Context(), dsn)
			require.NoError(t, err)
			defer st.Close()
			raw, err := os.ReadFile("testdata/" + name + ".json")
			require.NoError(t, err)
			var want upgrade.Contents
			require.NoError(t, json.Unmarshal(raw, &want))
			got, err := upgrade.Read(t.Context(), st)
			require.NoError(t, err)
			assert.Equal(t, &want, got)
			pagesOpen(t, st, &want)
		})
	}
}

// pagesOpen walks the pages of every model of the database, signed in.
func pagesOpen(t *testing.T, st *store.Store, c *upgrade.Contents) {
	login, err := st.Login(t.Context(), "imre")
	require.NoError(t, err)
	hash, err := bcrypt.GenerateFromPassword([]byte("a new password"), bcrypt.MinCost)
	require.NoError(t, err)
	_, err = st.SetPassword(t.Context(), login.ID, login.Password, string(hash))
	require.NoError(t, err)
	handler, err := web.New(st, web.Options{})
	require.NoError(t, err)
	srv := httptest.NewServer(handler)
	defer srv.Close()
	client := srv.Client()
	client.Jar, err = cookiejar.New(nil)
	require.NoError(t, err)
	resp, err := client.PostForm(srv.URL+"/sign-in", map[string][]string{"login": {"imre"},
		"password": {"a new password"}})
	require.NoError(t, err)
	resp.Body.Close()
	pages := []string{"/", "/house"}
	for _, m := range c.Models {
		for _, view := range []string{"", "/review", "/settings", "/amounts", "/history", "/layout", "/guide"} {
			pages = append(pages, "/models/"+m.Slug+view)
		}
		require.NotEmpty(t, m.Held)
		require.NotEmpty(t, m.Photos)
	}
	for _, g := range c.Guides {
		at := "/read/" + g.Slug + "/" + g.Letter + "/plain/us"
		pages = append(pages, at, at+"/chapter", at+"/do/sanitize",
			"/models/"+g.Slug+"/published/"+g.Letter+"/changes?against=draft")
	}
	for _, page := range sample.Of(t, 10, pages) {
		resp, err := client.Get(srv.URL + page)
		require.NoError(t, err)
		body, err := io.ReadAll(resp.Body)
		resp.Body.Close()
		require.NoError(t, err)
		assert.Equal(t, http.StatusOK, resp.StatusCode, page)
		assert.NotContains(t, string(body), `name="next"`, "%s asks to sign in", page)
	}
}
