package web_test

import (
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/people"
	"coldtap/internal/web"
)

// Every route is asked for by every role and by nobody: who may not use it is
// refused, who may is not.
func TestEveryRouteWithEveryRole(t *testing.T) {
	w := open(t)
	byRole := map[people.Role]*http.Client{people.Public: client(t, w.url, "")}
	for _, a := range demo.People() {
		byRole[a.Role] = client(t, w.url, a.Login)
	}
	fill := strings.NewReplacer(":model", "gneiss-24-2027", ":part", "pump", ":line", "trunk-1", ":id", "999999", ":number", "1", ":kind", "tank")
	routes := web.Routes()
	require.NotEmpty(t, routes)
	for _, r := range routes {
		require.NotEmpty(t, r.Roles, r.Path)
		for role, c := range byRole {
			if r.Path == "/sign-out" || r.Path == "/sign-in" && r.Method == http.MethodPost || r.Path == "/me/password" {
				continue // they would change who is signed in
			}
			req, err := http.NewRequest(r.Method, w.url+fill.Replace(r.Path), strings.NewReader(""))
			require.NoError(t, err)
			req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
			resp, err := c.Do(req)
			require.NoError(t, err)
			code, _ := answer(t, resp)
			what := r.Method + " " + r.Path + " as " + string(role)
			switch {
			case role.In(r.Roles):
				assert.NotContains(t, []int{http.StatusForbidden, http.StatusUnauthorized}, code, what)
				assert.Less(t, code, 500, what)
				assert.NotContains(t, resp.Header.Get("Location"), "/sign-in", what)
			case role == people.Public && r.Method == http.MethodGet:
				assert.Equal(t, http.StatusSeeOther, code, what)
				assert.True(t, strings.HasPrefix(resp.Header.Get("Location"), "/sign-in?next="), what)
			case role == people.Public:
				assert.Equal(t, http.StatusUnauthorized, code, what)
			default:
				assert.Equal(t, http.StatusForbidden, code, what)
			}
		}
	}
}

func TestSignInIsLimitedAndSaysNothingOfNames(t *testing.T) {
	w := open(t)
	c := client(t, w.url, "")
	try := func(login, password string) (int, string) {
		resp, err := c.PostForm(w.url+"/sign-in", url.Values{"login": {login}, "password": {password}})
		require.NoError(t, err)
		return answer(t, resp)
	}
	_, none := try("nobody", "wrong password")
	code, wrong := try("imre", "wrong password")
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Equal(t, strings.Replace(none, `value="nobody"`, `value="imre"`, 1), wrong, "the answer does not tell whether the name is there")
	for range 7 {
		code, _ = try("imre", "wrong password")
	}
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	code, body := try("imre", demo.People()[0].Password)
	assert.Equal(t, http.StatusTooManyRequests, code, "the right one has to wait too")
	assert.Contains(t, body, "Wait a quarter of an hour")
	code, _ = try("odile", "check the figures twice")
	assert.Equal(t, http.StatusSeeOther, code, "others are not kept out")
}

func TestSessionsRotateAndEnd(t *testing.T) {
	w := open(t)
	at, err := url.Parse(w.url)
	require.NoError(t, err)
	c := client(t, w.url, "odile")
	cookies := c.Jar.Cookies(at)
	require.Len(t, cookies, 1)
	before := cookies[0].Value
	resp, err := c.PostForm(w.url+"/me/password", url.Values{"old": {"check the figures twice"}, "new": {"and once again"}, "again": {"and once again"}})
	require.NoError(t, err)
	code, _ := answer(t, resp)
	assert.Equal(t, http.StatusOK, code)
	assert.NotEqual(t, before, c.Jar.Cookies(at)[0].Value, "a new password, a new session")
	stolen, err := http.NewRequest(http.MethodGet, w.url+"/", nil)
	require.NoError(t, err)
	stolen.AddCookie(&http.Cookie{Name: "coldtap", Value: before})
	resp, err = client(t, w.url, "").Do(stolen)
	require.NoError(t, err)
	code, _ = answer(t, resp)
	assert.Equal(t, http.StatusSeeOther, code)
	// Shutting the account ends its sessions at once.
	p, err := w.store.Login(t.Context(), "odile")
	require.NoError(t, err)
	p.Active = false
	require.NoError(t, w.store.SavePerson(t.Context(), p))
	resp, err = c.Get(w.url + "/")
	require.NoError(t, err)
	code, _ = answer(t, resp)
	assert.Equal(t, http.StatusSeeOther, code)
}

func TestFormsFromOtherSitesAreRefused(t *testing.T) {
	w := open(t)
	req, err := http.NewRequest(http.MethodPost, w.url+"/me/password", strings.NewReader(""))
	require.NoError(t, err)
	req.Header.Set("Sec-Fetch-Site", "cross-site")
	resp, err := clientOf(t, w.url).Do(req)
	require.NoError(t, err)
	code, _ := answer(t, resp)
	assert.Equal(t, http.StatusForbidden, code)
}

func TestTheKeeperKeepsPeople(t *testing.T) {
	w := open(t)
	c := client(t, w.url, "keeper")
	send := func(path string, form url.Values) string {
		resp, err := c.PostForm(w.url+path, form)
		require.NoError(t, err)
		_, body := answer(t, resp)
		return squeeze(body)
	}
	assert.Contains(t, send("/people", url.Values{"login": {"New One"}, "name": {"New One"}, "role": {"author"}}), "small letters")
	assert.Contains(t, send("/people", url.Values{"login": {"imre"}, "name": {"Imre"}, "role": {"author"}}), "already")
	body := send("/people", url.Values{"login": {"new"}, "name": {"New One"}, "role": {"trainer"}})
	_, password, ok := strings.Cut(body, "with the password ")
	require.True(t, ok)
	password = password[:16]
	fresh := client(t, w.url, "")
	resp, err := fresh.PostForm(w.url+"/sign-in", url.Values{"login": {"new"}, "password": {password}})
	require.NoError(t, err)
	resp.Body.Close()
	assert.Equal(t, http.StatusSeeOther, resp.StatusCode)
	trail := send("/people", url.Values{"login": {""}})
	assert.Contains(t, trail, "New One")
	resp, err = c.Get(w.url + "/audit")
	require.NoError(t, err)
	_, body = answer(t, resp)
	assert.Contains(t, squeeze(body), "added person")
	assert.Contains(t, squeeze(body), "changed model")
}

func TestDemoAccountsAreShownInDemoModeOnly(t *testing.T) {
	w := open(t)
	_, body := get(t, w.url+"/sign-in")
	assert.Contains(t, body, demo.People()[0].Password)
	h, err := web.New(w.store, web.Options{Cost: 4})
	require.NoError(t, err)
	rec := record(h, "/sign-in")
	assert.NotContains(t, rec, demo.People()[0].Password)
}
