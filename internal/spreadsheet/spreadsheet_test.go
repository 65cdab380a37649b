package spreadsheet_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"coldtap/demo"
	"coldtap/internal/core/table"
	"coldtap/internal/spreadsheet"
)

func file(t testing.TB, fill func(f *excelize.File)) []byte {
	t.Helper()
	f := excelize.NewFile()
	fill(f)
	var b bytes.Buffer
	require.NoError(t, f.Write(&b))
	return b.Bytes()
}

func TestEveryPlantedFaultOfTheDemoListIsFound(t *testing.T) {
	lists, err := demo.Lists()
	require.NoError(t, err)
	require.Len(t, lists, 1)
	m, err := demo.Model(lists[0].Model)
	require.NoError(t, err)
	sheets, err := spreadsheet.Read(lists[0].File)
	require.NoError(t, err)
	require.Len(t, sheets, 2)
	assert.Contains(t, sheets[0].Notes[0], "A1:D1")
	type fault struct {
		row, column int
		words       string
	}
	found := func(s spreadsheet.Sheet) (list, notes []fault) {
		tab := table.Guess(s.Rows)
		rows, _ := table.Read(m, &tab)
		for _, r := range rows {
			for _, f := range r.Faults {
				list = append(list, fault{r.Number, f.Column, f.Words})
			}
			for _, f := range r.Notes {
				notes = append(notes, fault{r.Number, f.Column, f.Words})
			}
		}
		return list, notes
	}
	want := []fault{
		{9, 3, `"5/8 in" is not a size`},
		{11, 0, `"c-shower" stands in row 10 too`},
	}
	lines, notes := found(sheets[0])
	for _, w := range want {
		ok := false
		for _, f := range lines {
			ok = ok || f.row == w.row && f.column == w.column && strings.Contains(f.words, w.words)
		}
		assert.True(t, ok, "%+v is not among %+v", w, lines)
	}
	assert.Equal(t, []fault{{7, 4, "the length is missing; the line keeps its 2 ft"},
		{8, 4, `"1.2 m" has a unit of its own in a column of ft`}}, notes)
	tab := table.Guess(sheets[0].Rows)
	_, questions := table.Read(m, &tab)
	require.Len(t, questions, 1)
	assert.Equal(t, []string{"Toilett", "Toilet"}, []string{questions[0].Part, questions[0].Other})
	tanks, _ := found(sheets[1])
	require.Len(t, tanks, 1)
	assert.Equal(t, 2, tanks[0].row)
	assert.Equal(t, 2, tanks[0].column)
	assert.Contains(t, tanks[0].words, "118")
}

func TestWhatIsNoTableIsRefusedInPlainWords(t *testing.T) {
	for name, c := range map[string]struct {
		raw   []byte
		words string
	}{
		"empty":  {[]byte("  \n\n"), "no rows"},
		"pdf":    {[]byte("%PDF-1.7 …"), "a picture or a PDF"},
		"xls":    {[]byte{0xD0, 0xCF, 0x11, 0xE0, 0xA1}, "old XLS"},
		"binary": {[]byte{1, 0, 2, 0}, "neither XLSX, ODS nor CSV"},
		"zip":    {zipped(t, "a.txt", []byte("hello")), "XLSX"},
		"broken": {[]byte("PK\x03\x04 nothing more"), "can't be read"},
		"large":  {make([]byte, spreadsheet.MaxFile+1), "larger than 8 MiB"},
	} {
		_, err := spreadsheet.Read(c.raw)
		var e *spreadsheet.Error
		require.ErrorAs(t, err, &e, name)
		assert.Contains(t, e.Why, c.words, name)
	}
}

func zipped(t testing.TB, name string, content []byte) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	w, err := z.Create(name)
	require.NoError(t, err)
	_, err = w.Write(content)
	require.NoError(t, err)
	require.NoError(t, z.Close())
	return b.Bytes()
}

// bomb is a small file that unpacks to more than a gigabyte.
func bomb(t testing.TB) []byte {
	t.Helper()
	good := file(t, func(f *excelize.File) { require.NoError(t, f.SetCellStr("Sheet1", "A1", "x")) })
	r, err := zip.NewReader(bytes.NewReader(good), int64(len(good)))
	require.NoError(t, err)
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, f := range r.File {
		w, err := z.Create(f.Name)
		require.NoError(t, err)
		if f.Name != "xl/worksheets/sheet1.xml" {
			src, err := f.Open()
			require.NoError(t, err)
			var all bytes.Buffer
			_, err = all.ReadFrom(src)
			require.NoError(t, err)
			_, err = w.Write(all.Bytes())
			require.NoError(t, err)
			continue
		}
		_, err = w.Write([]byte(`<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>`))
		require.NoError(t, err)
		blank := bytes.Repeat([]byte(" "), 1<<20)
		for range 1100 {
			_, err = w.Write(blank)
			require.NoError(t, err)
		}
		_, err = w.Write([]byte(`</sheetData></worksheet>`))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

func TestAFileThatUnpacksToGigabytesIsRefused(t *testing.T) {
	raw := bomb(t)
	require.Less(t, len(raw), spreadsheet.MaxFile)
	_, err := spreadsheet.Read(raw)
	var e *spreadsheet.Error
	require.ErrorAs(t, err, &e)
	assert.Contains(t, e.Why, "unpacks to more than 64 MiB")
}

func TestTooManyRowsAreRefused(t *testing.T) {
	raw := file(t, func(f *excelize.File) {
		w, err := f.NewStreamWriter("Sheet1")
		require.NoError(t, err)
		for i := range 20000 {
			require.NoError(t, w.SetRow(fmt.Sprintf("A%d", i+1), []any{"pump.out", "kitchen.cold", i}))
		}
		require.NoError(t, w.Flush())
	})
	_, err := spreadsheet.Read(raw)
	assert.ErrorContains(t, err, "more than 2000 rows; bring it in pieces")
	_, err = spreadsheet.Read([]byte(strings.Repeat("a,b\n", 20000)))
	assert.ErrorContains(t, err, "more than 2000 rows")
}

func TestFormulasAndMergedCellsAreNoted(t *testing.T) {
	raw := file(t, func(f *excelize.File) {
		require.NoError(t, f.SetSheetRow("Sheet1", "A1", &[]any{"From", "To", "Length"}))
		require.NoError(t, f.SetSheetRow("Sheet1", "A2", &[]any{"pump.out", "kitchen.cold", nil, "x"}))
		require.NoError(t, f.SetCellFormula("Sheet1", "C2", "1+2"))
		require.NoError(t, f.MergeCell("Sheet1", "A3", "B3"))
	})
	sheets, err := spreadsheet.Read(raw)
	require.NoError(t, err)
	notes := strings.Join(sheets[0].Notes, " ")
	assert.Contains(t, notes, "A3:B3")
	assert.Contains(t, notes, "Formulas without a value, the first in C2")
}

func TestCSVOfManyMakes(t *testing.T) {
	want := [][]string{{"From", "To"}, {"pump.out", "Küche, kalt"}}
	for name, raw := range map[string]string{
		"comma":     "From,To\npump.out,\"Küche, kalt\"\n",
		"semicolon": "\xEF\xBB\xBFFrom;To\r\npump.out;Küche, kalt\r\n\r\n",
		"tab":       "From\tTo\npump.out\tKüche, kalt",
		"latin":     "From;To\npump.out;K\xFCche, kalt\n",
	} {
		sheets, err := spreadsheet.Read([]byte(raw))
		require.NoError(t, err, name)
		assert.Equal(t, want, sheets[0].Rows, name)
	}
	sheets, err := spreadsheet.Read([]byte("From,To\n\n\na,b\n"))
	require.NoError(t, err)
	assert.Len(t, sheets[0].Rows, 4, "row numbers are those of the file")
}

func FuzzRead(f *testing.F) {
	f.Add([]byte("From,To\npump.out,kitchen.cold\n"))
	f.Add(file(f, func(x *excelize.File) {
		if err := x.SetSheetRow("Sheet1", "A1", &[]any{"From", "To"}); err != nil {
			f.Fatal(err)
		}
	}))
	f.Fuzz(func(t *testing.T, raw []byte) {
		sheets, err := spreadsheet.Read(raw)
		if err != nil {
			var e *spreadsheet.Error
			require.ErrorAs(t, err, &e, "an error in plain words")
			return
		}
		for _, s := range sheets {
			require.LessOrEqual(t, len(s.Rows), table.MaxRows)
			table.Guess(s.Rows)
		}
	})
}
