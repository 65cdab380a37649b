package system

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/compare"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/web/site"
)

// existing is a model file whose id another model has: what it can be brought
// in as.
type existing struct {
	Text    string // the file
	Name    string // what it could be called instead
	Year    string
	Title   string // of the model that is there
	From    uint64 // its state
	Changes int    // parts, lines and heads in which the file differs from it
}

// existingModel asks what a file of an id that is taken shall be.
func (s View) existingModel(c *gin.Context, file *plumbing.Model) (*existing, error) {
	row, rev, err := s.Store.Current(c, file.ID)
	if err != nil {
		return nil, err
	}
	there, err := rev.Read()
	if err != nil {
		return nil, err
	}
	changes, err := compare.Documents(there, file)
	if err != nil {
		return nil, err
	}
	var text strings.Builder
	if err := plumbing.Write(&text, file); err != nil {
		return nil, err
	}
	return &existing{Text: text.String(), Name: file.Name, Year: strconv.Itoa(file.Year), Title: there.Title(),
		From: row.Revision, Changes: len(changes)}, nil
}

// BringFile takes a model file in whose id is taken: under another name or year, or
// as the next state of the model that has the id.
func (s View) BringFile(c *gin.Context) {
	body := beginBody{Units: "us", Blank: "trailer"}
	file, err := plumbing.Read(strings.NewReader(c.PostForm("text")))
	if err != nil {
		s.beginFailed(c, body, err)
		return
	}
	if c.PostForm("as") == "next" {
		s.bringNext(c, body, file)
		return
	}
	asked := beginBody{Name: strings.TrimSpace(c.PostForm("name")), Year: strings.TrimSpace(c.PostForm("year"))}
	head, err := asked.head()
	if err == nil {
		m := *file
		m.ID, m.Name, m.Year = head.ID, head.Name, head.Year
		if err = s.Edits.Create(c, site.By(c), &m, "imported a model file of "+file.Title()); err == nil {
			c.Redirect(http.StatusSeeOther, "/models/"+url.PathEscape(m.ID))
			return
		}
		if errors.Is(err, app.ErrExists) {
			err = fault("Name", "there is a model %q already; give another name or year", m.ID)
		}
	}
	existing, gone := s.existingModel(c, file)
	if gone != nil {
		s.Trouble(c, errors.Join(err, gone))
		return
	}
	existing.Name, existing.Year = asked.Name, asked.Year
	body.Existing = existing
	s.beginFailed(c, body, err)
}

// bringNext makes a file the next state of the model with its id.
func (s View) bringNext(c *gin.Context, body beginBody, file *plumbing.Model) {
	from, err := strconv.ParseUint(c.PostForm("from"), 10, 64)
	if err != nil {
		s.beginFailed(
			c,
			body,
			fault("File", "choose the file again: this page does not say what it is a next state of"),
		)
		return
	}
	_, err = s.Edits.Change(c, file.ID, from, site.By(c), func(now *plumbing.Model) (*edit.Done, error) {
		changes, err := compare.Documents(now, file)
		if err != nil || len(changes) == 0 {
			return &edit.Done{Model: now}, err
		}
		return &edit.Done{Model: file, Said: fact.Of("edit.from-file", len(changes))}, nil
	})
	var late app.HeldError
	to := "/models/" + url.PathEscape(file.ID)
	switch {
	case errors.As(err, &late):
		to += fmt.Sprintf("/held/%d", late.ID)
	case err != nil:
		s.beginFailed(c, body, err)
		return
	}
	c.Redirect(http.StatusSeeOther, to)
}

// fault is one thing wrong with a form.
func fault(where, format string, args ...any) error {
	return &edit.FaultError{Faults: []plumbing.Fault{{Path: where, Why: fmt.Sprintf(format, args...)}}}
}
