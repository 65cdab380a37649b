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
	t.Parallel()
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

// A guide is written in place: a text comes, with what it must not do taken out of it; a block moves, and leaves an
// edition; undo takes it back; who may not write sees nothing of it.
func TestAGuideIsWrittenInPlace(t *testing.T) {
	t.Parallel()
	w := open(t)
	at := w.url + gneissPath + "/guide"
	p := visit(t, w.url, 1280, 900)
	require.NoError(t, p.Open(at+"?edit=yes"))
	require.NoError(t, p.Click("#b-have .opens-write summary"))
	require.NoError(t, p.Wait(`!!document.querySelector("#text-write-have")`))
	require.NoError(t, p.Fill("#title-write-have", "Before all else"))
	require.NoError(t, p.Fill("#text-write-have", "Read **this**. <script>window.hurt=1</script><img src=x onerror=alert(1)> "+
		"[go](javascript:alert(1)) [on](https://example.org/)"))
	require.NoError(t, p.Click(`#b-have .blocktools button[value="write"]`))
	require.NoError(t, p.WaitText("#b-text-1", "Read this."))
	_, page := get(t, at)
	text := after(t, page, `id="b-text-1"`, "</section>")
	assert.Contains(t, text, "<strong>this</strong>")
	assert.Contains(t, text, `href="https://example.org/"`)
	for _, bad := range []string{"<script", "onerror", "javascript:"} {
		assert.NotContains(t, text, bad)
	}
	assert.Contains(t, page, `<a href="#b-text-1">Before all else</a>`)
	require.NoError(t, p.Click(`#b-valves .blocktools button[value="hide"]`))
	require.NoError(t, p.WaitText("#b-valves", "not in this edition"))
	_, page = get(t, at)
	assert.NotContains(t, page, `id="g-valves"`)
	_, dealer := get(t, at+"?edition=dealer")
	assert.Contains(t, dealer, `id="g-valves"`)
	require.NoError(t, p.Click(`#b-where .blocktools button[value="up"]`))
	require.NoError(t, p.Wait(`[...document.querySelectorAll(".block")].findIndex(b => b.id === "b-where") === 1`))
	require.NoError(t, p.Click("#undo"))
	require.NoError(t, p.Wait(`[...document.querySelectorAll(".block")].findIndex(b => b.id === "b-where") === 2`))
	_, page = get(t, at)
	assert.Contains(t, page, "Write in it")
}

// The dealer's edition has the check before handing over; the owner's has not.
func TestEditionsHaveTheirProcedures(t *testing.T) {
	t.Parallel()
	w := open(t)
	at := w.url + gneissPath + "/guide/whole?edition="
	_, dealer := get(t, at+"dealer")
	assert.Contains(t, dealer, `id="g-task-first-use"`)
	_, owner := get(t, at+"owner")
	assert.NotContains(t, owner, `id="g-task-first-use"`)
	assert.Contains(t, owner, `id="g-task-sanitize"`)
}
