package web_test

import (
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/app"
	"coldtap/internal/core/plumbing"
)

// No edit makes a model that a page can't show; one that is there all the same, from before, has
// its history and can be taken back.
func TestAModelThatCantBeBuiltIsRefusedAndLeft(t *testing.T) {
	t.Parallel()
	w := open(t)
	const slug = "ashlar-20-2027"
	m, err := plumbing.Read(strings.NewReader(w.document(t, slug)))
	require.NoError(t, err)
	require.NotEmpty(t, m.Options)
	var part string // of no option, with a line of none
	for _, l := range m.Lines {
		id, _, _ := strings.Cut(l.From, ".")
		if p := m.Part(id); l.Option == "" && l.Without == "" && p.Option == "" && p.Without == "" {
			part = id
			break
		}
	}
	require.NotEmpty(t, part)
	code, body := post(t, w.url+"/models/"+slug+"/edit/part/"+part, url.Values{"from": {w.from(t, slug)},
		"f.option": {m.Options[0].ID}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, squeeze(body), "which this build does not have")

	m.Part(part).Option = m.Options[0].ID
	require.Error(t, m.CheckBuilds())
	row, _, err := w.store.Current(t.Context(), slug)
	require.NoError(t, err)
	require.NoError(t, w.store.Do(t.Context(), func(tx app.Tx) error {
		_, _, err := tx.Save(t.Context(), m, row.Revision, app.By{ID: 1, Name: "Imre Valk"}, "broken from before")
		return err
	}))
	with := "?with=none"
	for _, path := range []string{"", "/settings", "/amounts", "/layout", "/guide", "/grid"} {
		code, body := get(t, w.url+"/models/"+slug+path+with)
		assert.Equal(t, http.StatusUnprocessableEntity, code, path)
		assert.Contains(t, squeeze(body), "which this build does not have", path)
		assert.Contains(t, body, "/history", path)
	}
	code, body = get(t, w.url+"/models/"+slug+"/history"+with)
	assert.Equal(t, http.StatusOK, code)
	assert.Contains(t, squeeze(body), "broken from before")
	code, _ = post(t, w.url+"/models/"+slug+"/undo"+with, url.Values{"from": {w.from(t, slug)}, "anyones": {"yes"}})
	assert.Equal(t, http.StatusSeeOther, code)
	code, _ = get(t, w.url+"/models/"+slug+with)
	assert.Equal(t, http.StatusOK, code)
}

// An option that the model does not have is refused, and nothing is computed for it.
func TestUnknownOptionsAreRefused(t *testing.T) {
	t.Parallel()
	w := open(t)
	code, body := get(t, w.url+"/models/ashlar-20-2027/amounts?with=none&with=gold-taps")
	assert.Equal(t, http.StatusNotFound, code)
	assert.Contains(t, squeeze(body), "This model has no option &#34;gold-taps&#34;.")
	assert.Contains(t, body, "Show the standard build")
}
