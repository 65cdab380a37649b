package spreadsheet

import (
	"encoding/csv"
	"fmt"
	"io"
	"strings"

	"github.com/xuri/excelize/v2"
)

// Table is what a sheet is written from. Cells are strings, ints or float64s.
type Table struct {
	Name string
	Head []string
	Rows [][]any
}

// longestName is what the format allows for the name of a sheet.
const longestName = 31

// WriteXLSX writes tables as the sheets of a workbook.
func WriteXLSX(to io.Writer, tables []Table) error {
	f := excelize.NewFile()
	defer f.Close()
	first := f.GetSheetName(0)
	bold, err := f.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	if err != nil {
		return fmt.Errorf("xlsx: %w", err)
	}
	for i, t := range tables {
		name := sheetName(t.Name, i)
		if _, err := f.NewSheet(name); err != nil {
			return fmt.Errorf("sheet %s: %w", name, err)
		}
		if err := f.SetSheetRow(name, "A1", &t.Head); err != nil {
			return fmt.Errorf("sheet %s: %w", name, err)
		}
		for j := range t.Rows {
			cell, err := excelize.CoordinatesToCellName(1, j+2)
			if err == nil {
				err = f.SetSheetRow(name, cell, &t.Rows[j])
			}
			if err != nil {
				return fmt.Errorf("sheet %s: %w", name, err)
			}
		}
		if err := f.SetRowStyle(name, 1, 1, bold); err != nil {
			return fmt.Errorf("sheet %s: %w", name, err)
		}
		if err := f.SetColWidth(name, "A", "A", 44); err != nil {
			return fmt.Errorf("sheet %s: %w", name, err)
		}
	}
	if err := f.DeleteSheet(first); err != nil {
		return fmt.Errorf("xlsx: %w", err)
	}
	_, err = f.WriteTo(to)
	return err
}

// sheetName makes a name that the format allows and no other sheet has.
func sheetName(name string, i int) string {
	name = strings.Map(func(r rune) rune {
		if strings.ContainsRune(`:\/?*[]'`, r) {
			return ' '
		}
		return r
	}, name)
	n := []rune(fmt.Sprintf("%d %s", i+1, name))
	return string(n[:min(len(n), longestName)])
}

// WriteCSV writes tables one beneath the other, each with its name first. A
// text that a spreadsheet would run as a formula is written as a text.
func WriteCSV(to io.Writer, tables []Table) error {
	w := csv.NewWriter(to)
	for i, t := range tables {
		if i > 0 {
			w.Write([]string{""}) // errors stay with the writer
		}
		w.Write([]string{plainText(t.Name)})
		head := make([]string, len(t.Head))
		for j, name := range t.Head {
			head[j] = plainText(name)
		}
		w.Write(head)
		for _, row := range t.Rows {
			cells := make([]string, len(row))
			for j, v := range row {
				if s, ok := v.(string); ok {
					cells[j] = plainText(s)
				} else {
					cells[j] = fmt.Sprint(v)
				}
			}
			w.Write(cells)
		}
	}
	w.Flush()
	return w.Error()
}

func plainText(s string) string {
	if s != "" && strings.ContainsRune("=+-@\t\r", rune(s[0])) {
		return "'" + s
	}
	return s
}
