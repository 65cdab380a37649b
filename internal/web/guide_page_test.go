package web_test

import (
	"net/http"
	"net/url"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A guide that nobody changed is answered with 304; a change of the model, of a rule of the house
// or of who asks makes another page of it.
func TestTheGuidePageIsSentOnce(t *testing.T) {
	w := open(t)
	ask := func(c *http.Client, tag string) (*http.Response, string) {
		req, err := http.NewRequest(http.MethodGet, w.url+gneissPath+"/guide", nil)
		require.NoError(t, err)
		if tag != "" {
			req.Header.Set("If-None-Match", tag)
		}
		resp, err := c.Do(req)
		require.NoError(t, err)
		_, body := answer(t, resp)
		return resp, body
	}
	author := clientOf(t, w.url)
	resp, body := ask(author, "")
	require.Equal(t, http.StatusOK, resp.StatusCode)
	assert.Equal(t, "private, no-cache", resp.Header.Get("Cache-Control"))
	assert.Contains(t, body, "<article")
	assert.Contains(t, body, "</html>")
	tag := resp.Header.Get("ETag")
	require.NotEmpty(t, tag)
	resp, _ = ask(author, tag)
	assert.Equal(t, http.StatusNotModified, resp.StatusCode)
	resp, other := ask(client(t, w.url, "odile"), tag)
	assert.Equal(t, http.StatusOK, resp.StatusCode, "another reader's page names another reader")
	assert.Contains(t, other, "Odile Brandt")

	code, _ := post(t, w.url+gneissPath+"/edit/line/trunk-1", url.Values{"from": {"1"}, "f.length": {"80 ft"}})
	require.Equal(t, http.StatusSeeOther, code)
	resp, changed := ask(author, tag)
	assert.Equal(t, http.StatusOK, resp.StatusCode)
	assert.NotEqual(t, body, changed)
	tag = resp.Header.Get("ETag")
	code, _ = post(t, w.url+"/house", url.Values{"bleach": {"6 %"}, "v.bleach": {"0"}})
	require.Equal(t, http.StatusOK, code)
	resp, changed = ask(author, tag)
	assert.Equal(t, http.StatusOK, resp.StatusCode)
	assert.Contains(t, squeeze(changed), "of 6.00")
}
