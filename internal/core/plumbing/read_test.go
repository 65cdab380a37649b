package plumbing_test

import (
	"bytes"
	"encoding/json"
	"maps"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/sample"
)

func gneiss(t testing.TB) *plumbing.Model {
	t.Helper()
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	return m
}

func text(t testing.TB, m *plumbing.Model) string {
	t.Helper()
	var b bytes.Buffer
	require.NoError(t, plumbing.Write(&b, m))
	return b.String()
}

func TestExportImportExportIsIdentical(t *testing.T) {
	models, err := demo.Models()
	require.NoError(t, err)
	for _, m := range models {
		first := text(t, m)
		again, err := plumbing.Read(strings.NewReader(first))
		require.NoError(t, err, m.ID)
		assert.Equal(t, m, again, m.ID)
		assert.Equal(t, first, text(t, again), m.ID)
	}
}

func TestReadRefusesWithPlaceAndWords(t *testing.T) {
	good := text(t, gneiss(t))
	replace := func(old, new string) string {
		require.Contains(t, good, old)
		return strings.Replace(good, old, new, 1)
	}
	for name, c := range map[string]struct {
		doc  string
		want []string
	}{
		"not JSON": {"{\n  \"format\": }", []string{"line 2, column 13", "not JSON"}},
		"unknown field": {replace(`"heel": "0.6 gal"`, `"heal": "0.6 gal"`),
			[]string{"/parts/", `(part "fresh")`, `unknown field "heal"`}},
		"no unit": {replace(`"43 gal (163 L)"`, `"43"`),
			[]string{"/data/capacity", "unit is missing", "43 gal"}},
		"number": {replace(`"43 gal (163 L)"`, `43`), []string{"/data/capacity",
			"a number where a string belongs"}},
		"bad size": {replace(`"size": "PEX 3/8"`, `"size": "PEX 5/9"`),
			[]string{`(line "c-sprayer")/size`, "not a size in the table", "PEX 3/4"}},
		"no such port": {replace(`"from": "pump.out"`, `"from": "pump.outlet"`),
			[]string{`(line "pump-out")/from`, `no port "outlet"`, `"in", "out"`}},
		"no such part": {replace(`"to": "kitchen.hot"`, `"to": "kitchn.hot"`),
			[]string{`(line "h-kitchen")/to`, `no part "kitchn"`}},
		"port taken": {replace(`"to": "kitchen.hot"`, `"to": "kitchen.cold"`),
			[]string{"already joins kitchen.cold", "put a tee in"}},
		"missing data": {replace(`"capacity": "10 gal",`, ``),
			[]string{`(part "heater")/data`, `missing "capacity"`}},
		"bad kind": {replace(`"kind": "strainer"`, `"kind": "sieve"`),
			[]string{`"sieve" is not possible here`, `"strainer"`}},
		"bad position": {replace(`"normal": "open"`, `"normal": "ajar"`),
			[]string{"/normal", `"ajar" is not possible here`, `"open", "closed"`}},
		"double id":     {replace(`"id": "basin"`, `"id": "kitchen"`), []string{"the id stands twice"}},
		"bad id":        {replace(`"id": "basin"`, `"id": "Basin 1"`), []string{"is not an id"}},
		"missing waste": {replace(`"waste": "grey"`, `"waste": "gray"`), []string{`"gray" is not a waste tank`}},
		"other format": {replace(`"coldtap-model/1"`, `"coldtap-model/9"`),
			[]string{"/format", `write "coldtap-model/1"`}},
		"missing lines": {`{"format":"coldtap-model/1","id":"x","name":"X","year":2027,"kind":"van","units":"us","parts":[]}`,
			[]string{`missing "lines"`}},
		"spot off a line": {replace(`"at": "4 ft"`, `"at": "40 ft"`), []string{"beyond the line's length"}},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := plumbing.Read(strings.NewReader(c.doc))
			var re *plumbing.ReadError
			require.ErrorAs(t, err, &re)
			for _, w := range c.want {
				assert.Contains(t, err.Error(), w)
			}
		})
	}
}

func TestReadReportsEveryFaultAtOnce(t *testing.T) {
	doc := strings.NewReplacer(`"from": "pump.out"`, `"from": "pump.outlet"`, `"to": "kitchen.hot"`,
		`"to": "kitchn.hot"`).Replace(text(t, gneiss(t)))
	_, err := plumbing.Read(strings.NewReader(doc))
	var re *plumbing.ReadError
	require.ErrorAs(t, err, &re)
	assert.Len(t, re.Faults, 2)
}

func TestContentOfLines(t *testing.T) {
	foot, hundred := plumbing.PipeContent(0.485*25.4, 304.8), plumbing.PipeContent(0.485*25.4, 100*304.8)
	assert.InDelta(t, 0.03633, float64(foot), 0.000005, "1 ft of 1/2 in PEX CTS")
	assert.InDelta(t, 0.960, float64(hundred)/3.785411784, 0.0005, "100 ft in US gal")
}

func FuzzRead(f *testing.F) {
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(f, err)
	f.Add(text(f, m))
	f.Add(`{"format":"coldtap-model/1"}`)
	f.Add(`[`)
	f.Fuzz(func(t *testing.T, doc string) {
		m, err := plumbing.Read(strings.NewReader(doc))
		if err != nil {
			return
		}
		if _, err := plumbing.Read(strings.NewReader(text(t, m))); err != nil {
			t.Errorf("what was written does not read back: %v", err)
		}
	})
}

// One part or line that was changed is read as strictly as the whole file.
func TestAChangedPartIsReadAsStrictlyAsAFile(t *testing.T) {
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	var b bytes.Buffer
	require.NoError(t, plumbing.Write(&b, m))
	refused := 0
	for _, list := range []string{"parts", "lines"} {
		for i := range map[string]int{"parts": len(m.Parts), "lines": len(m.Lines)}[list] {
			for _, change := range sample.Of(t, 3, []map[string]any{
				{"name": ""}, {"id": "Not An Id"}, {"kind": "samovar"}, {"colour": 7}, {"length": "long"},
				{"length": "3 ft"}, {"side": "lukewarm"},
				{"data": map[string]any{"capacity": "much"}}, {"data": map[string]any{"flow": "3 gal/min"}},
				{"from": "nowhere"}, {"label": "A"}, {"spots": 3},
			}) {
				var doc map[string]any
				require.NoError(t, json.Unmarshal(b.Bytes(), &doc))
				maps.Copy(doc[list].([]any)[i].(map[string]any), change)
				raw, err := json.Marshal(doc)
				require.NoError(t, err)
				whole, want := plumbing.Read(bytes.NewReader(raw))
				item, err := json.Marshal(doc[list].([]any)[i])
				require.NoError(t, err)
				got, err := plumbing.ReadChanged(m, list, i, item)
				require.Equal(t, want, err, "%s %d %v", list, i, change)
				require.Equal(t, whole, got)
				if err != nil {
					refused++
				}
			}
		}
	}
	assert.Greater(t, refused, 20)
}

// A file of before is read as it was meant, and written as files are now.
func TestOlderNamesOfFieldsAreRead(t *testing.T) {
	var now bytes.Buffer
	m := gneiss(t)
	m.Part("pump").Data.FrostSensitive = true
	m.Notes = "it says: breaks_on_little"
	require.NoError(t, plumbing.Write(&now, m))
	older := strings.ReplaceAll(now.String(), `"frost_sensitive":`, `"breaks_on_little" :`)
	require.NotEqual(t, now.String(), older)
	read, err := plumbing.Read(strings.NewReader(older))
	require.NoError(t, err)
	kept, err := plumbing.ReadKept(older)
	require.NoError(t, err)
	for _, got := range []*plumbing.Model{read, kept} {
		assert.True(t, got.Part("pump").Data.FrostSensitive)
		var again bytes.Buffer
		require.NoError(t, plumbing.Write(&again, got))
		assert.Equal(t, now.String(), again.String())
	}
}

// Which fields of a part's data are yes or no is known by their names.
func TestYesNoFieldsAreKnown(t *testing.T) {
	t.Parallel()
	for name, yes := range map[string]bool{"check_valve": true, "electric": false, "capacity": false, "type": false,
		"no-such-field": false} {
		assert.Equal(t, yes, plumbing.IsYesNo(name), name)
	}
}
