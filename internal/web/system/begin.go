package system

import (
	"bytes"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/assembly"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/web/site"
)

type beginBody struct {
	Models                  []app.Model
	Blanks                  []assembly.Blank
	Faults                  []plumbing.Fault
	Name, Year, Kind, Units string
	Blank, Copy             string
	Existing                *existing // a model file whose id is taken
}

// BeginPage asks what a new model begins with.
func (s View) BeginPage(c *gin.Context) {
	body := beginBody{Units: "us", Blank: "trailer", Copy: c.Query("copy")}
	if row, _, err := s.Store.Current(c, body.Copy); body.Copy != "" && err == nil { // the next model year
		body.Name, body.Year, body.Kind = row.Name, strconv.Itoa(row.Year+1), row.Kind
	}
	s.showBegin(c, http.StatusOK, body)
}

func (s View) showBegin(c *gin.Context, status int, body beginBody) {
	var err error
	if body.Models, err = s.Store.Models(c); err != nil {
		s.Trouble(c, err)
		return
	}
	body.Blanks = assembly.Blanks()
	s.Show(c, status, "begin.html", site.Page{Title: "Begin a model", Body: body})
}

// begin makes a model: of a blank, of another model, or of a file.
func (s View) Begin(c *gin.Context) {
	body := beginBody{Name: strings.TrimSpace(c.PostForm("name")), Year: strings.TrimSpace(c.PostForm("year")),
		Kind:  strings.TrimSpace(c.PostForm("kind")),
		Units: c.PostForm("units"), Blank: c.PostForm("blank"), Copy: c.PostForm("copy")}
	var m *plumbing.Model
	var err error
	reason := ""
	switch c.PostForm("how") {
	case "file":
		m, err = uploaded(c)
		reason = "imported a model file"
	case "copy":
		m, err = s.copyOf(c, &body)
		reason = "began from " + body.Copy
	default:
		m, err = blankOf(&body)
		reason = "began from a blank: " + body.Blank
	}
	if err == nil {
		err = s.Edits.Create(c, site.By(c), m, reason)
	}
	switch {
	case err == nil:
		c.Redirect(http.StatusSeeOther, "/models/"+url.PathEscape(m.ID))
		return
	case !errors.Is(err, app.ErrExists):
	case c.PostForm("how") == "file":
		if body.Existing, err = s.existingModel(c, m); err != nil {
			break
		}
		body.Units, body.Blank = "us", "trailer"
		s.showBegin(c, http.StatusConflict, body)
		return
	default:
		err = fault("Name", "there is a model %q already; give another name or year", m.ID)
	}
	s.beginFailed(c, body, err)
}

// beginFailed shows what is wrong beside what was typed.
func (s View) beginFailed(c *gin.Context, body beginBody, err error) {
	var fe *edit.FaultError
	var re *plumbing.ReadError
	switch {
	case errors.As(err, &fe):
		body.Faults = fe.Faults
	case errors.As(err, &re):
		body.Faults = re.Faults
	case errors.Is(err, app.ErrNotFound):
		body.Faults = []plumbing.Fault{{Why: "choose the model to copy"}}
	default:
		s.Trouble(c, err)
		return
	}
	s.showBegin(c, http.StatusUnprocessableEntity, body)
}

// head reads the name and year of a new model.
func (b *beginBody) head() (plumbing.Model, error) {
	year, err := strconv.Atoi(b.Year)
	switch {
	case b.Name == "":
		return plumbing.Model{}, &edit.FaultError{Faults: []plumbing.Fault{{Path: "Name",
			Why: "give the model's name"}}}
	case err != nil:
		return plumbing.Model{}, &edit.FaultError{Faults: []plumbing.Fault{{Path: "Year",
			Why: fmt.Sprintf("%q is not a year", b.Year)}}}
	}
	id := edit.ID(fmt.Sprintf("%s %d", b.Name, year), func(string) bool { return false })
	return plumbing.Model{Format: plumbing.Format, ID: id, Name: b.Name, Year: year, Kind: b.Kind, Units: b.Units}, nil
}

func blankOf(b *beginBody) (*plumbing.Model, error) {
	head, err := b.head()
	if err != nil {
		return nil, err
	}
	return assembly.Begin(head, b.Blank)
}

func (s View) copyOf(c *gin.Context, b *beginBody) (*plumbing.Model, error) {
	head, err := b.head()
	if err != nil {
		return nil, err
	}
	_, rev, err := s.Store.Current(c, b.Copy)
	if err != nil {
		return nil, err
	}
	m, err := rev.Read()
	if err != nil {
		return nil, err
	}
	m.ID, m.Name, m.Year, m.Retired = head.ID, head.Name, head.Year, nil
	return edit.Check(m)
}

// uploaded reads the model file of a form.
func uploaded(c *gin.Context) (*plumbing.Model, error) {
	raw, _, err := site.Upload(c, plumbing.MaxFileBytes)
	if err != nil {
		return nil, err
	}
	return plumbing.Read(bytes.NewReader(raw))
}
