// Package spreadsheet reads tables out of files that people upload: XLSX, ODS and
// CSV, with bounds on what is taken in.
package spreadsheet

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strings"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"
	"golang.org/x/text/encoding/charmap"

	"coldtap/internal/core/table"
)

// MaxFile is the largest file that is taken.
const MaxFile = 8 << 20

// Bounds of what a file may unpack to.
const (
	maxUnpacked = 64 << 20
	maxSheet    = 24 << 20
	maxCell     = 2000 // characters
)

// Sheet is one table of a file.
type Sheet struct {
	Name  string
	Rows  [][]string
	Notes []string // what a reader should know: merged cells, formulas without a value
}

// Error says why a file is not taken, in plain words.
type Error struct{ Why string }

func (e *Error) Error() string { return e.Why }

func refuse(format string, args ...any) error { return &Error{fmt.Sprintf(format, args...)} }

// Read reads the sheets of a file. What kind of file it is is told by its
// content, not by its name.
func Read(raw []byte) ([]Sheet, error) {
	switch {
	case len(raw) > MaxFile:
		return nil, refuse("the file is larger than %d MiB", MaxFile>>20)
	case isODS(raw):
		return readODS(raw)
	case bytes.HasPrefix(raw, []byte("PK\x03\x04")):
		return readXLSX(raw)
	case bytes.HasPrefix(raw, []byte{0xD0, 0xCF, 0x11, 0xE0}):
		return nil, refuse("this is an old XLS file; save it as XLSX, ODS or CSV and bring it again")
	case bytes.HasPrefix(raw, []byte("%PDF")), bytes.HasPrefix(raw, []byte("\x89PNG")),
		bytes.HasPrefix(raw, []byte("\xFF\xD8\xFF")):
		return nil, refuse("this is a picture or a PDF, not a table; bring XLSX, ODS or CSV")
	case bytes.IndexByte(raw, 0) >= 0:
		return nil, refuse("this is neither XLSX, ODS nor CSV")
	}
	return readCSV(raw)
}

func readXLSX(raw []byte) (sheets []Sheet, err error) {
	defer func() { // the library panics on some broken files
		if r := recover(); r != nil {
			sheets, err = nil, refuse("the XLSX file is broken; save it anew and bring it again")
		}
	}()
	f, err := excelize.OpenReader(bytes.NewReader(raw), excelize.Options{UnzipSizeLimit: maxUnpacked,
		UnzipXMLSizeLimit: maxSheet})
	if err != nil {
		if errors.Is(err, excelize.ErrWorkbookFileFormat) {
			return nil, refuse("this is a ZIP file, but no XLSX")
		}
		if strings.Contains(err.Error(), "unzip size exceeds") {
			return nil, refuse("the file unpacks to more than %d MiB; bring the list alone", maxUnpacked>>20)
		}
		return nil, refuse("the XLSX file can't be read; save it anew and bring it again")
	}
	defer f.Close()
	for _, name := range f.GetSheetList() {
		s, err := readSheet(f, name)
		if err != nil {
			return nil, err
		}
		if len(s.Rows) > 0 {
			sheets = append(sheets, *s)
		}
	}
	if sheets == nil {
		return nil, refuse("the file has no rows")
	}
	return sheets, nil
}

func readSheet(f *excelize.File, name string) (*Sheet, error) {
	s := &Sheet{Name: name}
	rows, err := f.Rows(name)
	if err != nil {
		return nil, refuse("the sheet %q can't be read", name)
	}
	defer rows.Close()
	for rows.Next() {
		cells, err := rows.Columns()
		if err != nil {
			return nil, refuse("row %d of the sheet %q can't be read", len(s.Rows)+1, name)
		}
		if len(s.Rows) >= table.MaxRows {
			return nil, refuse("the sheet %q has more than %d rows; bring it in pieces", name, table.MaxRows)
		}
		s.Rows = append(s.Rows, bound(cells))
	}
	if err := rows.Error(); err != nil {
		return nil, refuse("the sheet %q can't be read", name)
	}
	s.trim()
	if merged, err := f.GetMergeCells(name); err == nil && len(merged) > 0 {
		var at []string
		for i, m := range merged {
			if i == 5 {
				at = append(at, "…")
				break
			}
			at = append(at, m.GetStartAxis()+":"+m.GetEndAxis())
		}
		s.Notes = append(s.Notes, "Merged cells hold their value in the first cell only: "+strings.Join(at, ", ")+".")
	}
	s.formulas(f, name)
	return s, nil
}

// formulas notes cells whose formula has no value in the file.
func (s *Sheet) formulas(f *excelize.File, name string) {
	empty := 0
	first := ""
	for r, row := range s.Rows {
		for c, cell := range row {
			if cell != "" || empty > 50 {
				continue
			}
			axis, err := excelize.CoordinatesToCellName(c+1, r+1)
			if err != nil {
				continue
			}
			if formula, err := f.GetCellFormula(name, axis); err == nil && formula != "" {
				if empty == 0 {
					first = axis
				}
				empty++
			}
		}
	}
	if empty > 0 {
		s.Notes = append(s.Notes,
			fmt.Sprintf("Formulas without a value, the first in %s: open the file in its program, save it, and bring it "+
				"again, or write the figures.", first))
	}
}

func (s *Sheet) trim() {
	for len(s.Rows) > 0 {
		for _, c := range s.Rows[len(s.Rows)-1] {
			if strings.TrimSpace(c) != "" {
				return
			}
		}
		s.Rows = s.Rows[:len(s.Rows)-1]
	}
}

// bound cuts a row to the columns, and cells to the length, that are looked at.
func bound(cells []string) []string {
	if len(cells) > table.MaxColumns {
		cells = cells[:table.MaxColumns]
	}
	for i, c := range cells {
		if utf8.RuneCountInString(c) > maxCell {
			cells[i] = string([]rune(c)[:maxCell])
		}
	}
	return cells
}

func readCSV(raw []byte) ([]Sheet, error) {
	raw = bytes.TrimPrefix(raw, []byte("\xEF\xBB\xBF"))
	if !utf8.Valid(raw) {
		// Old programs write the letters of western Europe in one byte each.
		decoded, err := charmap.Windows1252.NewDecoder().Bytes(raw)
		if err != nil {
			return nil, refuse("the text can't be read; save it as UTF-8")
		}
		raw = decoded
	}
	r := csv.NewReader(bytes.NewReader(raw))
	r.Comma, r.FieldsPerRecord, r.LazyQuotes = comma(raw), -1, true
	s := Sheet{Name: "CSV"}
	for {
		cells, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, refuse("line %d can't be read: %v", len(s.Rows)+1, errors.Unwrap(err))
		}
		line, _ := r.FieldPos(0)
		for len(s.Rows) < line-1 { // empty lines keep the numbers right
			s.Rows = append(s.Rows, nil)
		}
		if len(s.Rows) >= table.MaxRows {
			return nil, refuse("the file has more than %d rows; bring it in pieces", table.MaxRows)
		}
		s.Rows = append(s.Rows, bound(cells))
	}
	s.trim()
	if len(s.Rows) == 0 {
		return nil, refuse("the file has no rows")
	}
	return []Sheet{s}, nil
}

// comma is the sign that parts most of the first line.
func comma(raw []byte) rune {
	line, _, _ := bytes.Cut(raw, []byte("\n"))
	best, most := ',', 0
	for _, c := range ",;\t" {
		if n := bytes.Count(line, []byte(string(c))); n > most {
			best, most = c, n
		}
	}
	return best
}
