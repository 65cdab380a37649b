package web

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strconv"

	"coldtap/internal/app"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/table"
	"coldtap/internal/spreadsheet"
)

// importState is what has been done with a list so far.
type importState struct {
	Sheets []importSheet `json:"sheets"`
	Chosen int           `json:"chosen"`
}

type importSheet struct {
	Name  string      `json:"name"`
	Notes []string    `json:"notes"`
	Table table.Table `json:"table"`
	Taken []int       `json:"taken"` // rows that went in, by index
}

type importsBody struct {
	List   []app.Import
	Base   string
	Faults []plumbing.Fault
}

func (s *Server) imports(c *gin.Context) { s.showImports(c, http.StatusOK, nil) }

func (s *Server) showImports(c *gin.Context, status int, faults []plumbing.Fault) {
	b := s.model(c)
	if b == nil {
		return
	}
	list, err := s.store.Imports(c, b.Row.Slug)
	if err != nil {
		s.trouble(c, err)
		return
	}
	s.show(c, status, "imports.html", page{Title: "Import: " + b.Model.Title(), Model: b, Tab: "system", Body: importsBody{list, "/models/" + url.PathEscape(b.Row.Slug), faults}})
}

// bring takes a file in: it is kept as it came, its columns are matched, and
// nothing goes into the model yet.
func (s *Server) bring(c *gin.Context) {
	raw, name, err := upload(c, spreadsheet.MaxFile)
	var im *app.Import
	if err == nil {
		im, err = Bring(c, s.store, c.Param("model"), who(c).Name, name, raw)
	}
	var fe *edit.FaultError
	var se *spreadsheet.Error
	switch {
	case errors.As(err, &fe):
		s.showImports(c, http.StatusUnprocessableEntity, fe.Faults)
		return
	case errors.As(err, &se):
		s.showImports(c, http.StatusUnprocessableEntity, []plumbing.Fault{{Path: name, Why: se.Why}})
		return
	case errors.Is(err, app.ErrNotFound):
		s.notFound(c, "There is no such model.")
	case err != nil:
		s.trouble(c, err)
	default:
		s.noted(c, who(c).Name, "brought a list", c.Param("model"), name)
		c.Redirect(http.StatusSeeOther, fmt.Sprintf("/models/%s/imports/%d", url.PathEscape(c.Param("model")), im.ID))
	}
}

// Bring keeps an uploaded list with its columns matched.
func Bring(ctx context.Context, st interface {
	AddImport(ctx context.Context, slug string, im *app.Import) error
}, slug, person, name string, raw []byte) (*app.Import, error) {
	sheets, err := spreadsheet.Read(raw)
	if err != nil {
		return nil, err
	}
	var state importState
	for _, sh := range sheets {
		state.Sheets = append(state.Sheets, importSheet{Name: sh.Name, Notes: sh.Notes, Table: table.Guess(sh.Rows)})
	}
	text, err := json.Marshal(state)
	if err != nil {
		return nil, err
	}
	im := app.Import{Person: person, FileName: name, File: raw, State: string(text)}
	return &im, st.AddImport(ctx, slug, &im)
}

type importBody struct {
	Import  *app.Import
	State   *importState
	Sheet   *importSheet
	Fields  []table.Field
	Rows    []importRow
	Counts  map[string]int // rows by state
	Base    string
	Notice  *notice
	CanTake bool
}

type importRow struct {
	table.Row
	Cells  []importCell
	Faults []string // of the row as a whole
	Taken  bool
}

type importCell struct {
	Value string
	Words string // what is wrong with it
	Note  string
}

// importOf reads the request's import; it answers the request and gives nil
// where there is none.
func (s *Server) importOf(c *gin.Context) (*bench, *app.Import, *importState) {
	b := s.model(c)
	if b == nil {
		return nil, nil, nil
	}
	id, err := strconv.ParseUint(c.Param("id"), 10, 64)
	var im *app.Import
	if err == nil {
		im, err = s.store.Import(c, b.Row.Slug, id)
	}
	var number *strconv.NumError
	if errors.Is(err, app.ErrNotFound) || errors.As(err, &number) {
		s.notFound(c, "There is no such list.")
		return nil, nil, nil
	}
	var st importState
	if err == nil {
		err = json.Unmarshal([]byte(im.State), &st)
	}
	if err != nil {
		s.trouble(c, err)
		return nil, nil, nil
	}
	return b, im, &st
}

func (s *Server) importPage(c *gin.Context) {
	if b, im, st := s.importOf(c); b != nil {
		s.showImport(c, http.StatusOK, "import.html", b, im, st, nil)
	}
}

func (s *Server) showImport(c *gin.Context, status int, name string, b *bench, im *app.Import, st *importState, n *notice) {
	sheet := &st.Sheets[st.Chosen]
	body := importBody{Import: im, State: st, Sheet: sheet, Fields: table.Fields(sheet.Table.What), Counts: map[string]int{}, Base: "/models/" + url.PathEscape(b.Row.Slug), Notice: n}
	taken := map[int]bool{}
	for _, i := range sheet.Taken {
		taken[i] = true
	}
	for _, r := range table.Judge(b.Doc, &sheet.Table) {
		if r.State == table.Empty {
			continue
		}
		row := importRow{Row: r, Taken: taken[r.Index]}
		for _, v := range r.Cells {
			row.Cells = append(row.Cells, importCell{Value: v})
		}
		for _, f := range r.Faults {
			if f.Column >= 0 && f.Column < len(row.Cells) {
				row.Cells[f.Column].Words = f.Words
			} else {
				row.Faults = append(row.Faults, f.Words)
			}
		}
		for _, f := range r.Notes {
			row.Cells[f.Column].Note = f.Words
		}
		body.Counts[string(r.State)]++
		body.Rows = append(body.Rows, row)
	}
	body.CanTake = body.Counts[string(table.Good)]+body.Counts[string(table.Changes)] > 0
	s.show(c, status, name, page{Title: "Import " + im.FileName, Model: b, Tab: "system", Body: body})
}

// mend changes how a list is read: which sheet, what it lists, what a column
// holds, what a cell says. The file as it came stays.
func (s *Server) mend(c *gin.Context) {
	b, im, st := s.importOf(c)
	if b == nil {
		return
	}
	if err := st.mend(c); err != nil {
		s.showImport(c, http.StatusUnprocessableEntity, "importboard", b, im, st, &notice{Faults: []plumbing.Fault{{Why: err.Error()}}})
		return
	}
	text, err := json.Marshal(st)
	if err == nil {
		err = s.store.SaveImport(c, im.ID, string(text))
	}
	if err != nil {
		s.trouble(c, err)
		return
	}
	if c.GetHeader("HX-Request") == "" {
		c.Redirect(http.StatusSeeOther, c.Request.URL.Path)
		return
	}
	s.showImport(c, http.StatusOK, "importboard", b, im, st, nil)
}

func (st *importState) mend(c *gin.Context) error {
	number := func(name string, below int) (int, error) {
		n, err := strconv.Atoi(c.PostForm(name))
		if err != nil || n < 0 || n >= below {
			return 0, fmt.Errorf("there is no %s %q", name, c.PostForm(name))
		}
		return n, nil
	}
	var err error
	if c.PostForm("sheet") != "" {
		st.Chosen, err = number("sheet", len(st.Sheets))
		return err
	}
	t := &st.Sheets[st.Chosen].Table
	if what := c.PostForm("what"); what != "" {
		if what != string(table.Lines) && what != string(table.Parts) {
			return fmt.Errorf("a list is of lines or parts, not %q", what)
		}
		t.What = table.What(what)
		return nil
	}
	column, err := number("column", len(t.Columns))
	if err != nil {
		return err
	}
	if c.PostForm("row") != "" {
		row, err := number("row", len(t.Rows))
		if err != nil {
			return err
		}
		t.Rows[row][column] = c.PostForm("cell")
		return nil
	}
	t.Columns[column].Field, t.Columns[column].Unit = c.PostForm("field"), c.PostForm("unit")
	return nil
}

// take puts the good rows of a list into the model; the others wait.
func (s *Server) take(c *gin.Context) {
	b, im, st := s.importOf(c)
	if b == nil {
		return
	}
	sheet := &st.Sheets[st.Chosen]
	var rows []table.Row
	done, err := s.change(c, b.Row.Slug, b.Row.Revision, who(c).Name, func(m *plumbing.Model) (*edit.Done, error) {
		d, judged, err := table.Apply(m, &sheet.Table)
		rows = judged
		if err == nil && d.Words != "" {
			d.Words += " of " + im.FileName
		}
		return d, err
	})
	if err != nil {
		s.edited(c, nil, err)
		return
	}
	for _, r := range rows {
		if r.State == table.Good || r.State == table.Changes {
			sheet.Taken = append(sheet.Taken, r.Index)
		}
	}
	text, err := json.Marshal(st)
	if err == nil {
		err = s.store.SaveImport(c, im.ID, string(text))
	}
	if err != nil {
		s.trouble(c, err)
		return
	}
	n := &notice{Words: done.words}
	before := b
	if b = s.model(c); b == nil {
		return
	}
	n.follow(before, b)
	name := "importboard"
	if c.GetHeader("HX-Request") == "" {
		name = "import.html"
	}
	s.showImport(c, http.StatusOK, name, b, im, st, n)
}

// importFile gives the file back as it came.
func (s *Server) importFile(c *gin.Context) {
	_, im, _ := s.importOf(c)
	if im == nil {
		return
	}
	c.Header("Content-Disposition", "attachment; filename*=UTF-8''"+url.PathEscape(im.FileName))
	c.Data(http.StatusOK, "application/octet-stream", im.File)
}
