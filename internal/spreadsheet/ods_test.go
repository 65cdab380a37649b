package spreadsheet

import (
	"archive/zip"
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// ods packs a content.xml as an OpenDocument spreadsheet.
func ods(t testing.TB, tables string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	w, err := z.CreateHeader(&zip.FileHeader{Name: "mimetype", Method: zip.Store})
	require.NoError(t, err)
	_, err = w.Write([]byte("application/vnd.oasis.opendocument.spreadsheet"))
	require.NoError(t, err)
	w, err = z.Create("content.xml")
	require.NoError(t, err)
	_, err = w.Write([]byte(`<?xml version="1.0"?><office:document-content xmlns:office="o" xmlns:table="t" ` +
		`xmlns:text="x"><office:body><office:spreadsheet>` + tables + `</office:spreadsheet></office:body>` +
		`</office:document-content>`))
	require.NoError(t, err)
	require.NoError(t, z.Close())
	return b.Bytes()
}

func TestAnOpenDocumentIsRead(t *testing.T) {
	sheets, err := Read(ods(t, `<table:table table:name="Lines"><table:table-row><table:table-cell>`+
		`<text:p>From</text:p></table:table-cell><table:table-cell table:number-columns-repeated="2"><text:p>To</text:p>`+
		`</table:table-cell></table:table-row><table:table-row table:number-rows-repeated="2"><table:table-cell>`+
		`<office:annotation><text:p>who wrote this?</text:p></office:annotation><text:p>Pump<text:s text:c="2"/>A</text:p>`+
		`<text:p>second</text:p></table:table-cell><table:table-cell/></table:table-row>`+
		`<table:table-row table:number-rows-repeated="1048000"><table:table-cell table:number-columns-repeated="1024"/>`+
		`</table:table-row></table:table><table:table table:name="Empty"><table:table-row><table:table-cell/>`+
		`</table:table-row></table:table>`))
	require.NoError(t, err)
	require.Len(t, sheets, 1)
	assert.Equal(t, "Lines", sheets[0].Name)
	assert.Equal(t, [][]string{{"From", "To", "To"}, {"Pump  A\nsecond", ""}, {"Pump  A\nsecond", ""}}, sheets[0].Rows)
}

func TestABrokenOrEndlessOpenDocumentIsRefused(t *testing.T) {
	_, err := Read(ods(t, `<table:table table:name="x"><table:table-row>`))
	assert.ErrorContains(t, err, "save it anew")
	_, err = Read(ods(t, ""))
	assert.ErrorContains(t, err, "no rows")
	_, err = Read(ods(t, `<table:table table:name="x"><table:table-row table:number-rows-repeated="99999">`+
		`<table:table-cell><text:p>a</text:p></table:table-cell></table:table-row></table:table>`))
	assert.ErrorContains(t, err, "more than")
	_, err = Read(ods(t, `<table:table table:name="x">`+strings.Repeat(`<table:table-row/>`, 2<<20)+`</table:table>`))
	assert.ErrorContains(t, err, "unpacks to more than")
}
