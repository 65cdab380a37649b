package table_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/table"
)

func TestAColumnIsFilledDown(t *testing.T) {
	tab := table.Guess([][]string{{"From", "To", "Size"}, {"Pump", "Tee 1", "PEX 1/2"}, {"Tee 1", "Tee 2", ""},
		{"HOT LINES", "", ""}, {"Heater", "Tee 3", "PEX 3/8"}, {"Tee 3", "Tee 4", ""}, {"Total", "", ""}})
	tab.FillDown(2)
	var sizes []string
	for _, r := range tab.Rows {
		sizes = append(sizes, r[2])
	}
	assert.Equal(t, []string{"PEX 1/2", "PEX 1/2", "", "PEX 3/8", "PEX 3/8", ""}, sizes)
}

func TestAnotherRowOfHeadsCanBePointedAt(t *testing.T) {
	tab := table.Guess([][]string{{"From", "To", "Size"}, {"Source", "Destination", "Cut length"},
		{"Pump", "Tee 1", "3 ft"}})
	assert.Equal(t, 2, tab.First)
	tab.Point(2)
	assert.Equal(t, 3, tab.First)
	assert.Equal(t, "length", tab.Columns[2].Field)
	assert.Equal(t, [][]string{{"Pump", "Tee 1", "3 ft"}}, tab.Rows)
	tab.Point(0)
	assert.Len(t, tab.Rows, 3, "it has no heads")
}
