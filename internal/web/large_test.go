package web_test

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/app"
	"coldtap/internal/core/plumbing"
)

// large is a made-up camper with a long trunk of tees, a tap at each: about so many parts.
func large(t testing.TB, parts int) *plumbing.Model {
	t.Helper()
	type object = map[string]any
	var list, lines []object
	part := func(id, kind, name string, data object) {
		list = append(list, object{"id": id, "kind": kind, "name": name, "data": data,
			"place": object{"front": fmt.Sprintf("%d in", 10+len(list)), "left": "30 in", "height": "24 in"}})
	}
	line := func(from, to, side string) {
		lines = append(lines, object{"id": fmt.Sprint("l", len(lines)), "from": from, "to": to, "side": side,
			"size": "PEX 1/2", "length": "2 ft"})
	}
	part("fresh", "tank", "Fresh tank", object{"type": "rigid", "capacity": "43 gal", "inside_height": "12 in"})
	part("pump", "pump", "Water pump", object{"type": "fixed-speed", "flow": "3.0 gal/min", "cut_out": "55 psi",
		"cut_in": "40 psi"})
	line("fresh.supply", "pump.in", "supply")
	last := "pump.out"
	for i := 0; len(list)+2 < parts; i++ {
		tee, tap := fmt.Sprint("tee-", i), fmt.Sprint("tap-", i)
		part(tee, "tee", fmt.Sprint("Tee ", i), object{})
		part(tap, "outlet", fmt.Sprint("Tap ", i), object{"type": "kitchen", "flow": "1.8 gal/min"})
		line(last, tee+".a", "cold")
		line(tee+".b", tap+".cold", "cold")
		last = tee + ".c"
	}
	part("end", "drain", "Low-point drain", object{})
	line(last, "end.in", "drain")
	raw, err := json.Marshal(object{"format": plumbing.Format, "id": fmt.Sprint("large-", parts), "name": "Large",
		"year": 2027, "kind": "travel trailer", "maker": "Stonecrop Coachbuilders", "units": "us", "parts": list,
		"lines": lines})
	require.NoError(t, err)
	m, err := plumbing.Read(strings.NewReader(string(raw)))
	require.NoError(t, err)
	return m
}

// The page of a large system is there before its drawing, which comes when it is arranged; it is
// kept with the state, for the next process too.
func TestALargeDrawingIsArrangedApartFromThePage(t *testing.T) {
	t.Parallel()
	w := openEmpty(t)
	m := large(t, 780)
	require.NoError(t, (&app.Edits{Store: w.store}).Create(t.Context(), app.By{ID: 1, Name: "Imre Valk"}, m, "made"))
	_, body := get(t, w.url+"/models/"+m.ID)
	assert.Contains(t, body, "The drawing is being arranged; the rest of the page is ready.")
	p := visit(t, w.url, 1280, 900)
	began := time.Now()
	require.NoError(t, p.Open(w.url+"/models/"+m.ID))
	t.Log("page", time.Since(began))
	require.NoError(t, p.Wait(`!!document.querySelector("#drawing svg .part, #drawing svg [data-part]")`))
	t.Log("drawing", time.Since(began))
	code, body := get(t, w.url+"/models/"+m.ID+"/settings")
	assert.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "<svg")

	_, rev, err := w.store.Current(t.Context(), m.ID)
	require.NoError(t, err)
	kept := &watched{DrawingKeeper: w.store}
	later := app.Builds{Drawings: kept}
	b, err := later.Get(context.Background(), m.ID, rev, "")
	require.NoError(t, err)
	s, err := b.Schematic(t.Context())
	require.NoError(t, err)
	require.NotNil(t, s)
	assert.True(t, kept.found)
}

// watched sees whether a kept drawing was found.
type watched struct {
	app.DrawingKeeper
	found bool
}

func (k *watched) Drawing(ctx context.Context, of string) ([]byte, error) {
	raw, err := k.DrawingKeeper.Drawing(ctx, of)
	k.found = raw != nil
	return raw, err
}
