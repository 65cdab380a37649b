package spreadsheet

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"io"
	"strconv"
	"strings"

	"coldtap/internal/core/table"
)

// isODS reports whether a ZIP file says that it is an OpenDocument spreadsheet: its
// first entry is the media type, stored as it is (OpenDocument 1.3, part 2, 3.3).
func isODS(raw []byte) bool {
	const media = "mimetypeapplication/vnd.oasis.opendocument.spreadsheet"
	return len(raw) > 30+len(media) && bytes.HasPrefix(raw[30:], []byte(media))
}

func readODS(raw []byte) ([]Sheet, error) {
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		return nil, refuse("the ODS file is broken; save it anew and bring it again")
	}
	content, err := z.Open("content.xml")
	if err != nil {
		return nil, refuse("the ODS file has no content; save it anew and bring it again")
	}
	defer content.Close()
	sheets, err := odsSheets(io.LimitReader(content, maxSheet+1))
	var told *Error
	switch {
	case errors.As(err, &told):
		return nil, err
	case err != nil:
		return nil, refuse("the ODS file can't be read; save it anew and bring it again")
	case len(sheets) == 0:
		return nil, refuse("the file has no rows")
	}
	return sheets, nil
}

// odsReader gathers the cells of the sheets as their elements go by.
type odsReader struct {
	sheets []Sheet
	sheet  *Sheet
	row    []string
	cell   strings.Builder
	paras  int
	rows   int // how often the row stands there
	cells  int // how often the cell stands in its row
	note   int // depth within an annotation, which is no content
}

// odsSheets reads the tables of a content.xml. Rows and cells that are repeated are
// written out, but for empty ones at the end.
func odsSheets(in io.Reader) ([]Sheet, error) {
	d := xml.NewDecoder(in)
	var r odsReader
	for {
		token, err := d.Token()
		if err == io.EOF {
			return r.sheets, nil
		}
		if d.InputOffset() >= maxSheet {
			return nil, refuse("the file unpacks to more than %d MiB; bring the list alone", maxSheet>>20)
		}
		if err != nil {
			return nil, err
		}
		switch t := token.(type) {
		case xml.StartElement:
			r.start(t)
		case xml.EndElement:
			if err := r.end(t.Name.Local); err != nil {
				return nil, err
			}
		case xml.CharData:
			if r.paras > 0 && r.note == 0 {
				r.cell.Write(t)
			}
		}
	}
}

func (r *odsReader) start(t xml.StartElement) {
	switch t.Name.Local {
	case "table":
		r.sheet = &Sheet{Name: attribute(t, "name")}
	case "table-row":
		r.row, r.rows = nil, count(t, "number-rows-repeated")
	case "table-cell", "covered-table-cell":
		r.cell.Reset()
		r.paras, r.cells = 0, count(t, "number-columns-repeated")
	case "annotation":
		r.note++
	case "p":
		if r.note == 0 {
			if r.paras++; r.paras > 1 {
				r.cell.WriteByte('\n')
			}
		}
	case "s": // spaces
		if r.note == 0 {
			r.cell.WriteString(strings.Repeat(" ", min(count(t, "c"), maxCell)))
		}
	case "line-break", "tab":
		r.cell.WriteByte(' ')
	}
}

// count is a number that an attribute tells; 1 where it tells none.
func count(t xml.StartElement, name string) int {
	n, err := strconv.Atoi(attribute(t, name))
	if err != nil {
		return 1
	}
	return max(1, n)
}

func (r *odsReader) end(name string) error {
	switch name {
	case "annotation":
		r.note--
	case "table-cell", "covered-table-cell":
		for range min(r.cells, table.MaxColumns-min(len(r.row), table.MaxColumns)) {
			r.row = append(r.row, r.cell.String())
		}
		r.paras = 0
	case "table-row":
		if r.sheet == nil {
			return nil
		}
		row := bound(r.row)
		empty := strings.TrimSpace(strings.Join(row, "")) == ""
		if empty && r.rows > table.MaxRows {
			return nil // the rest of the sheet
		}
		for range r.rows {
			if len(r.sheet.Rows) >= table.MaxRows {
				if empty {
					return nil
				}
				return refuse("the sheet %q has more than %d rows; bring it in pieces", r.sheet.Name, table.MaxRows)
			}
			r.sheet.Rows = append(r.sheet.Rows, row)
		}
	case "table":
		if r.sheet != nil {
			if r.sheet.trim(); len(r.sheet.Rows) > 0 {
				r.sheets = append(r.sheets, *r.sheet)
			}
		}
		r.sheet = nil
	}
	return nil
}

func attribute(t xml.StartElement, name string) string {
	for _, a := range t.Attr {
		if a.Name.Local == name {
			return a.Value
		}
	}
	return ""
}
