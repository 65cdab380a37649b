package habits

import (
	"archive/zip"
	"bytes"
	"encoding/csv"
	"encoding/xml"
	"fmt"

	"github.com/xuri/excelize/v2"
)

// File writes a list in its format.
func (l *List) File() ([]byte, error) {
	var b bytes.Buffer
	var err error
	switch l.Format {
	case "csv":
		err = csv.NewWriter(&b).WriteAll(l.Sheets[0].Rows)
	case "xlsx":
		err = l.xlsx(&b)
	case "ods":
		err = l.ods(&b)
	default:
		err = fmt.Errorf("no format %q", l.Format)
	}
	return b.Bytes(), err
}

func (l *List) xlsx(b *bytes.Buffer) error {
	f := excelize.NewFile()
	for i, s := range l.Sheets {
		if _, err := f.NewSheet(s.Name); err != nil {
			return err
		}
		for r, row := range s.Rows {
			at, err := excelize.CoordinatesToCellName(1, r+1)
			if err == nil {
				err = f.SetSheetRow(s.Name, at, &row)
			}
			if err != nil {
				return err
			}
		}
		if len(s.Rows[0]) > 1 && s.Rows[0][1] == "" { // a title over all columns
			if err := f.MergeCell(s.Name, "A1", "F1"); err != nil {
				return err
			}
		}
		f.SetActiveSheet(i)
	}
	if l.Sheets[0].Name != "Sheet1" {
		if err := f.DeleteSheet("Sheet1"); err != nil {
			return err
		}
	}
	return f.Write(b)
}

func (l *List) ods(b *bytes.Buffer) error {
	z := zip.NewWriter(b)
	w, err := z.CreateHeader(&zip.FileHeader{Name: "mimetype", Method: zip.Store})
	if err != nil {
		return err
	}
	fmt.Fprint(w, "application/vnd.oasis.opendocument.spreadsheet")
	if w, err = z.Create("content.xml"); err != nil {
		return err
	}
	fmt.Fprint(w, `<office:document-content xmlns:office="o" xmlns:table="t" xmlns:text="x">`)
	for _, s := range l.Sheets {
		fmt.Fprintf(w, `<table:table table:name="%s">`, s.Name)
		for _, row := range s.Rows {
			fmt.Fprint(w, `<table:table-row>`)
			for _, v := range row {
				fmt.Fprint(w, `<table:table-cell><text:p>`)
				if err := xml.EscapeText(w, []byte(v)); err != nil {
					return err
				}
				fmt.Fprint(w, `</text:p></table:table-cell>`)
			}
			fmt.Fprint(w, `</table:table-row>`)
		}
		fmt.Fprint(w, `</table:table>`)
	}
	fmt.Fprint(w, `</office:document-content>`)
	return z.Close()
}
