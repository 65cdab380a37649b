package app

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"coldtap/internal/core/edit"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/table"
	"coldtap/internal/spreadsheet"
)

// Lists brings lists in from spreadsheets.
type Lists struct {
	Store Transactor
	Edits *Edits
}

// List is what has been done with a file so far.
type List struct {
	Sheets []Sheet `json:"sheets"`
	Chosen int     `json:"chosen"`
}

// Sheet is one sheet of a file.
type Sheet struct {
	Name  string      `json:"name"`
	Notes []string    `json:"notes"`
	Table table.Table `json:"table"`
	Taken []int       `json:"taken"` // rows that went in, by index
}

// Read reads what has been done with an import.
func (im *Import) Read() (*List, error) {
	list := new(List)
	if err := json.Unmarshal([]byte(im.State), list); err != nil {
		return nil, fmt.Errorf("an import that was kept can't be read: %w", err)
	}
	return list, nil
}

// Sheet is the sheet that is looked at.
func (l *List) Sheet() *Sheet { return &l.Sheets[l.Chosen] }

// Upload keeps a file as it came, its columns matched. Nothing goes into the
// model yet.
func (l *Lists) Upload(ctx context.Context, slug string, by By, name string, raw []byte) (*Import, error) {
	sheets, err := spreadsheet.Read(raw)
	if err != nil {
		return nil, err
	}
	var list List
	for _, sh := range sheets {
		list.Sheets = append(list.Sheets, Sheet{Name: sh.Name, Notes: sh.Notes, Table: table.Guess(sh.Rows)})
	}
	text, err := json.Marshal(list)
	if err != nil {
		return nil, err
	}
	im := &Import{Person: by.Name, FileName: name, File: raw, State: string(text)}
	return im, l.Store.Do(ctx, func(tx Tx) error {
		im.ID = 0
		if err := tx.AddImport(ctx, slug, im); err != nil {
			return err
		}
		return tx.Audit(ctx, by, "brought a list", slug, name)
	})
}

// Mend changes how a list is read, beginning from how it is read now, however
// many do so at once.
func (l *Lists) Mend(ctx context.Context, id uint64, change func(*List) error) (list *List, err error) {
	err = l.Store.Do(ctx, func(tx Tx) error {
		list, err = mend(ctx, tx, id, change)
		return err
	})
	return list, err
}

func mend(ctx context.Context, tx Tx, id uint64, change func(*List) error) (*List, error) {
	im, err := tx.LockImport(ctx, id)
	if err != nil {
		return nil, err
	}
	list, err := im.Read()
	if err != nil {
		return nil, err
	}
	if err := change(list); err != nil {
		return nil, err
	}
	text, err := json.Marshal(list)
	if err != nil {
		return nil, err
	}
	return list, tx.SaveImport(ctx, id, string(text))
}

// Take puts the good rows of a list into the model; the others wait. What went
// in and that it did is kept together.
func (l *Lists) Take(ctx context.Context, slug string, from uint64, by By, im *Import,
	list *List) (*Changed, error) {
	sheet := list.Sheet()
	taken := sheet.Taken
	take := func(m *plumbing.Model) (*edit.Done, error) {
		d, rows, err := table.Apply(m, &sheet.Table)
		if err != nil {
			return nil, err
		}
		if !d.Said.IsZero() {
			d.Said = fact.Of("table.took-in.from", d.Said, im.FileName)
		}
		sheet.Taken = slices.Clone(taken)
		for _, r := range rows {
			if r.State == table.Good || r.State == table.Changes {
				sheet.Taken = append(sheet.Taken, r.Index)
			}
		}
		return d, nil
	}
	chosen := list.Chosen
	return l.Edits.Change(ctx, slug, from, by, take, func(tx Tx) error {
		_, err := mend(ctx, tx, im.ID, func(now *List) error { // what is mended meanwhile stays mended
			now.Sheets[chosen].Taken = sheet.Taken
			return nil
		})
		return err
	})
}
