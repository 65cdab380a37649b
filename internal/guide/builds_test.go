package guide_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/guide"
	"coldtap/internal/guide/doc"
	"coldtap/internal/rig/drafted"
)

func variants(t *testing.T, m *plumbing.Model) (list []guide.Variant) {
	t.Helper()
	for _, with := range m.Builds() {
		in := drafted.Whole(t, m, with)
		d, err := guide.New(t.Context(), in, guide.Options{})
		require.NoError(t, err)
		list = append(list, guide.Variant{With: with, Doc: d})
	}
	return list
}

// The guide of all builds has all that each build's own has; what not all have says for which it holds, and the rest
// says nothing of builds.
func TestBuildsAreToldWhereTheyDiffer(t *testing.T) {
	m := drafted.Model(t, "ashlar-20-2027")
	list := variants(t, m)
	require.Len(t, list, 4)
	all := guide.Together(m, list)
	text := plain(all)
	for _, v := range list {
		for _, l := range lines(v.Doc) {
			require.NotEmpty(t, plainLine(l), "%+v", l)
			assert.Contains(t, text, plainLine(l), "%v", v.With)
		}
	}
	assert.Contains(t, text, "Washing machine (only with Washing machine)")
	assert.Contains(t, text, "With Winter pack (from serial number A20-2700001) and Washing machine")
	holds := func(only string, with []string) bool {
		for _, part := range strings.Split(strings.TrimSuffix(strings.TrimPrefix(only, "Only "), "."), " and ") {
			name, without := strings.CutPrefix(part, "without ")
			name = strings.TrimPrefix(name, "with ")
			id := map[string]string{"Winter pack": "winter-pack", "Washing machine": "washing-machine"}[name]
			require.NotEmpty(t, id, part)
			if slices.Contains(with, id) == without {
				return false
			}
		}
		return true
	}
	split := 0
	for _, v := range list { // each build finds each of its sections once, as it is
		for _, s := range v.Doc.Sections {
			var found []doc.Section
			for _, x := range all.Sections {
				if x.Title == s.Title && (x.Only == "" || holds(x.Only, v.With)) {
					found = append(found, x)
				}
			}
			if assert.Len(t, found, 1, "%v %s", v.With, s.ID) && found[0].Only != "" {
				split++
				assert.Equal(t, s.Nodes, found[0].Nodes, "%v %s", v.With, s.ID)
			}
		}
	}
	assert.Positive(t, split)

	gneiss := drafted.Model(t, "gneiss-24-2027")
	one := variants(t, gneiss)
	assert.Equal(t, one[0].Doc.Sections, guide.Together(gneiss, one).Sections)
}

// plainLine is a line as the plain text has it.
func plainLine(l doc.Line) string {
	d := &doc.Document{Sections: []doc.Section{{Nodes: []doc.Node{doc.Para{Line: l}}}}}
	text := plain(d)
	text = text[strings.Index(text, "\n\n\n\n")+4:]
	return strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(text), "---"))
}
