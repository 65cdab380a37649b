package spreadsheet_test

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/spreadsheet"
)

func TestTablesComeBackAsTheyWereWritten(t *testing.T) {
	tables := []spreadsheet.Table{
		{Name: "Line content: kitchen/bath and a name that is far too long", Head: []string{"Part", "Litres"},
			Rows: [][]any{{"trunk", 1.25}, {"=1+1", 3}}},
		{Name: "Line content: kitchen/bath and a name that is far too long", Head: []string{"Rule"},
			Rows: [][]any{{"½ cup"}}},
	}
	var x bytes.Buffer
	require.NoError(t, spreadsheet.WriteXLSX(&x, tables))
	sheets, err := spreadsheet.Read(x.Bytes())
	require.NoError(t, err)
	require.Len(t, sheets, 2)
	assert.Equal(t, [][]string{{"Part", "Litres"}, {"trunk", "1.25"}, {"=1+1", "3"}}, sheets[0].Rows)
	assert.Equal(t, [][]string{{"Rule"}, {"½ cup"}}, sheets[1].Rows)

	var c bytes.Buffer
	require.NoError(t, spreadsheet.WriteCSV(&c, tables[:1]))
	sheets, err = spreadsheet.Read(c.Bytes())
	require.NoError(t, err)
	assert.Equal(t, [][]string{{tables[0].Name}, {"Part", "Litres"}, {"trunk", "1.25"}, {"'=1+1", "3"}}, sheets[0].Rows,
		"a text stays a text")
}
