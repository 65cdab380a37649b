package system

import (
	"cmp"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/joining"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/table"
	"coldtap/internal/drawing"
	"coldtap/internal/spreadsheet"
	"coldtap/internal/web/site"
)

type importsBody struct {
	List   []app.Import
	Base   string
	Faults []plumbing.Fault
}

// Imports lists what was brought in.
func (s View) Imports(c *gin.Context) { s.showImports(c, http.StatusOK, nil) }

func (s View) showImports(c *gin.Context, status int, faults []plumbing.Fault) {
	b := s.Model(c)
	if b == nil {
		return
	}
	list, err := s.Store.Imports(c, b.Row.Slug)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	s.Show(c, status, "imports.html", site.Page{Title: "Import: " + b.Model.Title(), Model: b, Tab: "system",
		Body: importsBody{list, "/models/" + url.PathEscape(b.Row.Slug), faults}})
}

// bring takes a file in: it is kept as it came, its columns are matched, and
// nothing goes into the model yet.
func (s View) Bring(c *gin.Context) {
	raw, name, err := site.Upload(c, spreadsheet.MaxFile)
	var im *app.Import
	if err == nil {
		im, err = s.Lists.Upload(c, c.Param("model"), site.By(c), name, raw)
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
		s.NotFound(c, "There is no such model.")
	case err != nil:
		s.Trouble(c, err)
	default:
		c.Redirect(http.StatusSeeOther, fmt.Sprintf("/models/%s/imports/%d", url.PathEscape(c.Param("model")), im.ID))
	}
}

type importBody struct {
	Import  *app.Import
	State   *app.List
	Sheet   *app.Sheet
	Fields  []table.Field
	Rows    []importRow
	Counts  map[string]int // rows by state
	Base    string
	Notice  *notice
	CanTake bool
	Asked   []asked
	Heads   []headRow // rows that may hold the heads
}

// asked is a question about the rows, with the answers that can be chosen.
type asked struct {
	ID, Words string
	Rows      int // that wait for it
	Answers   []answer
}

type answer struct {
	Value, Words string
	Drawing      template.HTML
}

// headRow is a row at the top of a sheet.
type headRow struct {
	Number int
	Text   string
	Chosen bool
}

type importRow struct {
	table.Row
	Cells []importCell
	Waits []string // what is wrong with it, or what it waits for
	Notes []string
	Taken bool
}

type importCell struct {
	Value  string
	Faulty bool
}

// importOf reads the request's import; it answers the request and gives nil
// where there is none.
func (s View) importOf(c *gin.Context) (*site.Computed, *app.Import, *app.List) {
	b := s.Model(c)
	if b == nil {
		return nil, nil, nil
	}
	id, err := strconv.ParseUint(c.Param("id"), 10, 64)
	var im *app.Import
	if err == nil {
		im, err = s.Store.Import(c, b.Row.Slug, id)
	}
	var number *strconv.NumError
	if errors.Is(err, app.ErrNotFound) || errors.As(err, &number) {
		s.NotFound(c, "There is no such list.")
		return nil, nil, nil
	}
	var st *app.List
	if err == nil {
		st, err = im.Read()
	}
	if err != nil {
		s.Trouble(c, err)
		return nil, nil, nil
	}
	return b, im, st
}

// ImportPage is one list that was brought in, with what waits.
func (s View) ImportPage(c *gin.Context) {
	if b, im, st := s.importOf(c); b != nil {
		s.showImport(c, http.StatusOK, "import.html", b, im, st, nil)
	}
}

func (s View) showImport(c *gin.Context, status int, name string, b *site.Computed, im *app.Import, st *app.List,
	n *notice) {
	sheet := st.Sheet()
	body := importBody{Import: im, State: st, Sheet: sheet, Fields: table.Fields(sheet.Table.What),
		Counts: map[string]int{}, Base: "/models/" + url.PathEscape(b.Row.Slug), Notice: n}
	taken := map[int]bool{}
	for _, i := range sheet.Taken {
		taken[i] = true
	}
	rows, questions := table.Read(b.Doc, &sheet.Table)
	for _, q := range questions {
		body.Asked = append(body.Asked, ask(b, &q))
	}
	for _, r := range rows {
		if r.State == table.Empty {
			continue
		}
		row := importRow{Row: r, Taken: taken[r.Index]}
		row.tell(b, questions)
		body.Counts[string(r.State)]++
		body.Rows = append(body.Rows, row)
	}
	for i, cells := range sheet.Table.Sheet[:min(len(sheet.Table.Sheet), 12)] {
		body.Heads = append(body.Heads, headRow{i + 1, strings.Join(slices.DeleteFunc(slices.Clone(cells),
			func(c string) bool { return strings.TrimSpace(c) == "" }), " · "), i+2 == sheet.Table.First})
	}
	body.CanTake = body.Counts[string(table.Good)]+body.Counts[string(table.Changes)] > 0
	s.Show(c, status, name, site.Page{Title: "Import " + im.FileName, Model: b, Tab: "system", Body: body})
}

// tell gathers what is wrong with a row, what it changes and what it waits for.
func (row *importRow) tell(b *site.Computed, questions []joining.Question) {
	for _, v := range row.Row.Cells {
		row.Cells = append(row.Cells, importCell{Value: v})
	}
	for _, f := range row.Row.Faults {
		if f.Column >= 0 && f.Column < len(row.Cells) {
			row.Cells[f.Column].Faulty = true
		}
		row.Waits = append(row.Waits, site.UpperFirst(f.Words)+".")
	}
	for _, q := range questions {
		if slices.Contains(row.Asks, q.ID) {
			row.Waits = append(row.Waits, b.Words().Tell(q.Said()))
		}
	}
	for _, f := range row.Row.Notes {
		row.Notes = append(row.Notes, site.UpperFirst(f.Words)+".")
	}
	for _, c := range row.Change {
		row.Notes = append(row.Notes, fmt.Sprintf("%s: %s → %s", b.Words().Field(c.Path), cmp.Or(c.Old, "nothing"),
			cmp.Or(c.New, "nothing")))
	}
}

// ask is a question as it is shown.
func ask(b *site.Computed, q *joining.Question) asked {
	a := asked{ID: q.ID, Words: b.Words().Tell(q.Said()), Rows: len(q.Rows)}
	if q.What == joining.AskKind {
		for _, k := range joining.Choices() {
			a.Answers = append(a.Answers, answer{Value: k.Value, Words: site.UpperFirst(k.Name)})
		}
		return a
	}
	for _, o := range q.Options {
		words := b.Words().Tell(q.SaidOf(o))
		ans := answer{Value: o.Value, Words: words}
		names := append(slices.Clone(o.Names), "", "")
		switch q.What {
		case joining.AskFlow:
			ans.Drawing = template.HTML(drawing.Asked(q.Kind, names[0], names[1], "")) // drawn by us, texts escaped
		case joining.AskHot:
			ans.Drawing = template.HTML(drawing.Asked(q.Kind, names[1], names[0], "")) // drawn by us, texts escaped
		case joining.AskCom:
			ans.Drawing = template.HTML(
				drawing.Asked(q.Kind, names[1], names[0], names[2]),
			) // drawn by us, texts escaped
		}
		a.Answers = append(a.Answers, ans)
	}
	return a
}

// mend changes how a list is read: which sheet, what it lists, what a column
// holds, what a cell says. The file as it came stays.
func (s View) Mend(c *gin.Context) {
	b, im, st := s.importOf(c)
	if b == nil {
		return
	}
	var wrong *edit.FaultError
	now, err := s.Lists.Mend(c, im.ID, func(list *app.List) error { return mendList(c, list) })
	switch {
	case errors.As(err, &wrong):
		s.showImport(c, http.StatusUnprocessableEntity, "importboard", b, im, st, &notice{Faults: wrong.Faults})
		return
	case err != nil:
		s.Trouble(c, err)
		return
	}
	st = now
	if c.GetHeader("HX-Request") == "" {
		c.Redirect(http.StatusSeeOther, c.Request.URL.Path)
		return
	}
	s.showImport(c, http.StatusOK, "importboard", b, im, st, nil)
}

// refuseMend says why a list can't be read so.
func refuseMend(format string, args ...any) error {
	return &edit.FaultError{Faults: []plumbing.Fault{{Why: fmt.Sprintf(format, args...)}}}
}

// mendList changes what the form says of how a list is read.
func mendList(c *gin.Context, st *app.List) error {
	number := func(name string, below int) (int, error) {
		n, err := strconv.Atoi(c.PostForm(name))
		if err != nil || n < 0 || n >= below {
			return 0, refuseMend("there is no %s %q", name, c.PostForm(name))
		}
		return n, nil
	}
	var err error
	if c.PostForm("sheet") != "" {
		st.Chosen, err = number("sheet", len(st.Sheets))
		return err
	}
	t := &st.Sheet().Table
	if what := c.PostForm("what"); what != "" {
		if what != string(table.Lines) && what != string(table.Parts) {
			return refuseMend("a list is of lines or parts, not %q", what)
		}
		t.What = table.What(what)
		return nil
	}
	if q := c.PostForm("question"); q != "" {
		t.Answer(q, c.PostForm("answer"))
		return nil
	}
	if c.PostForm("head") != "" {
		head, err := number("head", len(t.Sheet)+1)
		if err == nil {
			t.Point(head)
		}
		return err
	}
	if c.PostForm("fill") != "" {
		column, err := number("fill", len(t.Columns))
		if err == nil {
			t.FillDown(column)
		}
		return err
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
func (s View) Take(c *gin.Context) {
	b, im, st := s.importOf(c)
	if b == nil {
		return
	}
	done, err := s.Lists.Take(c, b.Row.Slug, b.Row.Revision, site.By(c), im, st)
	if err != nil {
		s.edited(c, nil, err)
		return
	}
	n := &notice{Words: done.Words}
	before := b
	if b = s.Model(c); b == nil {
		return
	}
	if err := n.follow(c, before, b); err != nil {
		s.Trouble(c, err)
		return
	}
	name := "importboard"
	if c.GetHeader("HX-Request") == "" {
		name = "import.html"
	}
	s.showImport(c, http.StatusOK, name, b, im, st, n)
}

// importFile gives the file back as it came.
func (s View) ImportFile(c *gin.Context) {
	_, im, _ := s.importOf(c)
	if im == nil {
		return
	}
	site.Download(c, "application/octet-stream", im.FileName)
	c.Data(http.StatusOK, "application/octet-stream", im.File)
}
