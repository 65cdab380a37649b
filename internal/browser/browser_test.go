package browser_test

import (
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/browser"
)

// page opens a page of some HTML in a browser of its own.
func page(t *testing.T, html string) *browser.Page {
	t.Helper()
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		_, _ = w.Write([]byte("<!doctype html><title>" + r.URL.Path + "</title>" + html))
	}))
	t.Cleanup(srv.Close)
	b, err := browser.Start(t.Context(), browser.Still()...)
	require.NoError(t, err)
	t.Cleanup(b.Close)
	p, err := b.NewPageApart(800, 600)
	require.NoError(t, err)
	require.NoError(t, p.Open(srv.URL+"/first"))
	return p
}

const covered = `<button id="b" onclick="document.title = 'done'">Do it</button>
<div id="over" style="position:fixed;inset:0" onclick="this.remove()"></div>`

func TestAClickThatMetSomethingElseIsMadeAgain(t *testing.T) {
	t.Parallel()
	p := page(t, covered)
	require.NoError(t, p.Click("#b"))
	title, err := browser.Eval[string](p, "document.title")
	require.NoError(t, err)
	assert.Equal(t, "done", title)
}

func TestAClickThatNeverMeetsIsTold(t *testing.T) {
	t.Parallel()
	p := page(t, `<button id="b">Do it</button><div style="position:fixed;inset:0"></div>`)
	assert.ErrorContains(t, p.Click("#b"), "something else was clicked")
}

func TestAClickOnceMetIsNotMadeAgain(t *testing.T) {
	t.Parallel()
	p := page(t, `<button id="b" onclick="document.title += '.'">Do it</button><a id="a" href="/second">Go</a>`)
	require.NoError(t, p.Click("#b"))
	require.NoError(t, p.Click("#b"))
	title, err := browser.Eval[string](p, "document.title")
	require.NoError(t, err)
	assert.Equal(t, "/first..", title)
	require.NoError(t, p.Click("#a"))
	require.NoError(t, p.Wait("document.title === '/second'"))
}

func TestABrowserIsFoundUnderEitherName(t *testing.T) {
	for _, name := range []string{"chromium", "chromium-headless-shell"} {
		dir := t.TempDir()
		t.Setenv("PATH", dir)
		_, err := browser.Find()
		require.ErrorIs(t, err, browser.ErrMissing)
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte("#!/bin/sh\n"), 0o700))
		path, err := browser.Find()
		require.NoError(t, err)
		assert.Equal(t, filepath.Join(dir, name), path)
	}
}
