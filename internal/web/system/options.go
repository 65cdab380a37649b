package system

import (
	"net/http"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/people"
	"coldtap/internal/web/site"
)

// optionsBody is the options of a model with what each adds and takes away.
type optionsBody struct {
	frame
	List   []optionRow
	Notice *notice
}

type optionRow struct {
	plumbing.Option
	Others        []choice // options that it may exclude
	Things        []bound  // parts and lines
	Adds, Without []string // by name
	Link          string   // the build with it
}

// choice is one of several things, chosen or not.
type choice struct {
	ID, Name string
	On       bool
}

// bound is a part or line and whether the option adds it or takes it away.
type bound struct {
	ID, Name      string
	Adds, Without bool
	Elsewhere     string // another option that has it, "" for none
}

// Options is what a model can be built with.
func (s View) Options(c *gin.Context) { s.showOptions(c, http.StatusOK, "options.html", nil) }

func (s View) showOptions(c *gin.Context, status int, name string, n *notice) {
	b := s.Model(c)
	if b == nil {
		return
	}
	body := optionsBody{frame: newFrame("options", "#optionboard", ""), Notice: n}
	body.Back = "options"
	if site.Who(c).Role == people.Author {
		if err := s.steps(c, b, &body.frame); err != nil {
			s.Trouble(c, err)
			return
		}
	}
	for _, o := range b.Doc.Options {
		body.List = append(body.List, newOptionRow(b, o))
	}
	s.Show(c, status, name, site.Page{Title: "Options: " + b.Model.Title(), Model: b, Tab: "system", Framed: "list",
		Body: body})
}

func newOptionRow(b *site.Computed, o plumbing.Option) optionRow {
	row := optionRow{Option: o, Link: "/models/" + b.Row.Slug + "?with=" + o.ID}
	for _, other := range b.Doc.Options {
		if other.ID != o.ID {
			row.Others = append(row.Others, choice{other.ID, other.Name, slices.Contains(o.Excludes, other.ID)})
		}
	}
	add := func(id, name, option, without string) {
		t := bound{ID: id, Name: name, Adds: option == o.ID, Without: without == o.ID}
		if x := b.Doc.Option(option); x != nil && option != o.ID {
			t.Elsewhere = x.Name
		}
		row.Things = append(row.Things, t)
		if t.Adds {
			row.Adds = append(row.Adds, name)
		}
		if t.Without {
			row.Without = append(row.Without, name)
		}
	}
	for i := range b.Doc.Parts {
		p := &b.Doc.Parts[i]
		add(p.ID, p.Name, p.Option, p.Without)
	}
	for i := range b.Doc.Lines {
		l := &b.Doc.Lines[i]
		add(l.ID, "line "+lineName(b.Doc, l), l.Option, l.Without)
	}
	return row
}

// OptionForm reads an option; the address says which, "new" for one more.
func OptionForm(c *gin.Context) (app.Operation, error) {
	text := func(name string) string { return strings.TrimSpace(c.PostForm(name)) }
	o := plumbing.Option{ID: text("id"), Name: text("name"), Note: text("note"), Standard: text("standard") == "yes",
		FromSerial: text("from-serial"), ToSerial: text("to-serial"), FromDate: text("from-date"),
		ToDate: text("to-date"), Excludes: c.PostFormArray("excludes")}
	if o.Name == "" {
		return nil, &edit.FaultError{Faults: []plumbing.Fault{{Path: "Name", Why: "an option needs a name"}}}
	}
	was := c.Param("id")
	if was == "new" {
		was = ""
	}
	return func(m *plumbing.Model) (*edit.Done, error) { return edit.SetOption(m, was, o) }, nil
}

// AssignForm reads what an option adds and takes away.
func AssignForm(c *gin.Context) (app.Operation, error) {
	id, adds, without := c.Param("id"), c.PostFormArray("adds"), c.PostFormArray("without")
	return func(m *plumbing.Model) (*edit.Done, error) { return edit.Assign(m, id, adds, without) }, nil
}

// UnoptionForm reads which option is taken away.
func UnoptionForm(c *gin.Context) (app.Operation, error) {
	id := c.Param("id")
	return func(m *plumbing.Model) (*edit.Done, error) { return edit.RemoveOption(m, id) }, nil
}
