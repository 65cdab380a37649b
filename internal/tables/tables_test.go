package tables_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/house"
	"coldtap/internal/core/report"
	"coldtap/internal/rig"
	"coldtap/internal/tables"
)

func reportOf(t *testing.T, name string) *report.Report {
	t.Helper()
	n := rig.Network(t, name)
	r := report.New(n, rig.Plan(t, n), house.Usual(n.Model.System()), report.Ask{})
	return &r
}

func named(t *testing.T, list []tables.Table, name string) tables.Table {
	t.Helper()
	for _, x := range list {
		if x.Name == name {
			return x
		}
	}
	require.Fail(t, "no table "+name)
	return tables.Table{}
}

// Every row has a cell for each head, and none shows a key of the catalogue or
// a sign that something was missing for it.
func TestTablesAreFull(t *testing.T) {
	for _, name := range rig.Names() {
		for _, x := range tables.Of(reportOf(t, name)) {
			require.NotEmpty(t, x.Rows, "%s: %s", name, x.Name)
			for _, row := range x.Rows {
				require.Len(t, row, len(x.Head), "%s: %s", name, x.Name)
				for _, c := range row {
					if text, ok := c.(string); ok {
						assert.NotRegexp(t, `%!|^(row|formula|inputs|source|sheet)\.`, text, "%s: %s", name, x.Name)
					}
				}
			}
		}
	}
}

// A worksheet is a table with its total, and part of its figure: the figure's
// row says how each line was worked out, and by which constants.
func TestAFigureHasItsWorksheetAndItsConstants(t *testing.T) {
	r := reportOf(t, "basalt-28")
	list := tables.Of(r)
	content := named(t, list, "Line content")
	assert.Len(t, content.Rows, len(r.Content.Rows)+1)
	assert.InDelta(t, float64(r.Content.Total), content.Rows[len(content.Rows)-1][4], 1e-9)
	figures := named(t, list, "Figures")
	row := map[string][]any{}
	for _, x := range figures.Rows {
		row[x[0].(string)] = x
	}
	require.Contains(t, row, "content")
	assert.Len(t, strings.Split(row["content"][3].(string), "\n"), len(r.Content.Rows))
	for id, constants := range map[string][]string{
		"weight": {"water-density"}, "air/ceiling": {"most-air"},
	} {
		for _, c := range constants {
			assert.Contains(t, row[id][4], "constant "+c, id)
		}
	}
	found := map[string]bool{}
	for id, x := range row {
		for _, c := range []string{"gravity", "orifice", "protection", "self-venting", "water-heat", "jacket", "room", "bursts-full"} {
			found[c] = found[c] || strings.Contains(x[4].(string), "constant "+c)
		}
		assert.NotContains(t, x[4], "field ?", id)
	}
	for _, c := range []string{"gravity", "orifice", "protection", "self-venting", "bursts-full"} {
		assert.True(t, found[c], c)
	}
}
