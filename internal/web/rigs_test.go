package web_test

import (
	"html"
	"net/http"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/app"
	"coldtap/internal/rig"
	"coldtap/internal/sample"
)

var tags = regexp.MustCompile(`<[^>]*>`)

// words are what a reader sees of a page, without its marks.
func words(body string) string {
	text := html.UnescapeString(tags.ReplaceAllString(body, " "))
	return strings.Join(strings.Fields(text), " ")
}

// Campers that the demo world does not have: each view answers, and says what
// is true of that camper only.
func TestWholeCampersInEveryView(t *testing.T) {
	t.Parallel()
	w := open(t)
	for _, name := range rig.Names() {
		m, err := rig.Model(name)
		require.NoError(t, err)
		_, err = w.store.Create(t.Context(), m, app.By{Name: "Imre Valk"}, "test")
		require.NoError(t, err)
	}
	for _, name := range sample.Of(t, 6, rig.Names()) {
		for _, path := range []string{"", "/layout", "/settings", "/settings/matrix", "/guide/card/card", "/grid",
			"/settings?mode=drain-down", "/settings?mode=antifreeze", "/amounts", "/guide"} {
			code, body := get(t, w.url+"/models/"+name+path)
			assert.Equal(t, http.StatusOK, code, "%s%s", name, path)
			assert.NotContains(t, body, "NaN", "%s%s", name, path)
			assert.NotContains(t, body, "+Inf", "%s%s", name, path)
		}
	}
	for _, c := range []struct{ path, says string }{
		// No bypass: the best there is, with the reason and what is wrong in it.
		{"/models/no-bypass/settings?mode=antifreeze", "runs through the water heater: this heater has no bypass"},
		{"/models/no-bypass/settings?mode=antifreeze", "Water heater takes up to 6.00 gal"},
		// A diverter that serves one branch at a time: two settings, one after the other.
		{"/models/in-turns/settings?mode=antifreeze", "Done in turns, one setting after the other:"},
		{"/models/in-turns/settings?mode=antifreeze",
			"Galley or rear pointing to the branch: antifreeze gets to Rear shower, cold"},
		{"/models/in-turns/settings?mode=drain-down", "382 mL (13 fl oz) more runs out"},
		// Each pump has its switch, a softener its bypass.
		{"/models/basalt-28/settings", "Bath pump off on"},
		{"/models/softener/settings?mode=antifreeze", "Water softener pointing to bypass"},
		// Two tanks apart: a dose for each.
		{"/models/flint-11/amounts", "Left tank"},
		{"/models/flint-11/amounts", "Right tank"},
		// Joined below the water: one dose, with each tank's share.
		{"/models/tanks-linked/amounts", "60 mL"},
		{"/models/tanks-linked/amounts", "40 mL"},
		// Where it stands matters: linked tanks hold back what the slope keeps.
		{"/models/tanks-linked/settings?mode=drain-down", "If it does not stand level"},
		{"/models/tanks-linked/settings?mode=drain-down", "Right side up park it so to drain it"},
		// What nobody measured is said, not shown as nothing.
		{"/models/unknowns/amounts", "not known: Fresh tank: the inside height is not given"},
	} {
		_, body := get(t, w.url+c.path)
		assert.Contains(t, strings.ReplaceAll(words(body), "\u00a0", " "), c.says, c.path)
	}
}
