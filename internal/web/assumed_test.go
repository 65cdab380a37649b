package web_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/browser"
	"coldtap/internal/core/plumbing"
)

// What an assembly brought looks different until somebody confirms it or puts
// another value in its place.
func TestAssumedValuesAreMarkedUntilConfirmed(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 900)
	begin(t, p, w.url, "Guess", "van", "trailer")
	const slug = "guess-2028"
	tank := func() *plumbing.Part {
		m, err := plumbing.Read(strings.NewReader(w.document(t, slug)))
		require.NoError(t, err)
		return m.Part("fresh-tank")
	}
	require.Contains(t, tank().Assumed, "data.capacity")
	require.NoError(t, p.Open(w.url+"/models/"+slug+"?part=fresh-tank"))
	require.NoError(t, p.WaitText("#rail p.assumed", "assumed"))
	require.NoError(t, p.WaitText(".findings", "values are assumed and not confirmed"))
	require.NoError(t, p.Wait(`!!document.querySelector("span.assumed [id='in-part-data.capacity']")`))
	require.NoError(t, p.Click("[id='right-data.capacity']"))
	require.NoError(t, p.WaitText(".notice", "Fresh tank: confirmed capacity"))
	require.NoError(t, p.Wait(`!document.querySelector("span.assumed [id='in-part-data.capacity']")`))
	assert.NotContains(t, tank().Assumed, "data.capacity")

	require.NoError(t, p.Open(w.url+"/models/"+slug+"?part=water-pump"))
	require.NoError(t, p.Fill("[id='in-part-data.flow']", "11 L/min"))
	require.NoError(t, p.WaitText(".notice", "flow"))
	require.NoError(t, p.Wait(`!document.querySelector("span.assumed [id='in-part-data.flow']")`))
	require.NoError(t, p.Click("#confirm-all"))
	require.NoError(t, p.WaitText(".notice", "Water pump: confirmed"))
	require.NoError(t, p.Wait(`!document.querySelector(".inspect .assumed")`))

	require.NoError(t, p.Open(w.url+"/models/"+slug+"/grid"))
	require.NoError(t, p.Wait(`document.querySelectorAll(".grid td.assumed").length > 0`))
	found, err := p.Axe("testdata/axe.min.js")
	require.NoError(t, err)
	assert.Empty(t, found)
}

// Findings that are alike are told together, with one way to mend them all.
func TestFindingsAlikeAreToldTogether(t *testing.T) {
	t.Parallel()
	w := open(t)
	p := visit(t, w.url, 1280, 900)
	begin(t, p, w.url, "Guess", "van", "trailer")
	require.NoError(t, p.Open(w.url+"/models/guess-2028"))
	require.NoError(t, p.WaitText(".findings summary", "parts have no height."))
	rows, err := browser.Eval[int](p, `document.querySelectorAll(".findings > ol > li").length`)
	require.NoError(t, err)
	assert.Less(t, rows, 15)
	_, err = browser.Eval[bool](p, `document.querySelector(".findings summary").click(), true`)
	require.NoError(t, err)
	require.NoError(t, p.Click(".findings details[open] p a"))
	require.NoError(t, p.Wait(`location.pathname.endsWith("/grid") &&
		document.getElementById(decodeURIComponent(location.hash.slice(1))).value === ""`))
}
