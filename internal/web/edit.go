package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"coldtap/internal/app"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/compare"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/finding"
	"coldtap/internal/core/plumbing"
)

// operation changes a document.
type operation func(*plumbing.Model) (*edit.Done, error)

// saved is what came of an edit.
type saved struct {
	row   *app.Model
	words string // "" where nothing changed
}

// refused says that an edit started from a state that is no longer the newest.
type refused struct{ held uint64 }

func (refused) Error() string { return "somebody else changed the model in the meantime" }

// change carries out an edit that started from a revision and saves it at
// once. An edit of a stale state is kept aside, and refused with where it is.
func (s *Server) change(ctx context.Context, slug string, from uint64, person string, op operation) (*saved, error) {
	row, rev, err := s.store.Current(ctx, slug)
	if err != nil {
		return nil, err
	}
	base := rev
	if row.Revision != from {
		own, err := s.onlyBy(ctx, slug, from, person)
		if err != nil {
			return nil, err
		}
		if own {
			from = row.Revision // one's own changes, made faster than the page followed
		} else if base, err = s.store.Numbered(ctx, slug, from); err != nil {
			return nil, err
		}
	}
	doc, err := base.Read()
	if err != nil {
		return nil, err
	}
	done, err := op(doc)
	if err != nil {
		return nil, err
	}
	if done.Words == "" {
		return &saved{row: row}, nil
	}
	if row.Revision == from {
		row, err = s.store.Save(ctx, done.Model, from, person, done.Words)
		if err == nil {
			return &saved{row, done.Words}, nil
		}
		if !errors.Is(err, app.ErrStale) {
			return nil, err
		}
	}
	var text strings.Builder
	if err := plumbing.Write(&text, done.Model); err != nil {
		return nil, err
	}
	h := app.Held{Base: from, Person: person, Reason: done.Words, Document: text.String()}
	if err := s.store.Hold(ctx, slug, &h); err != nil {
		return nil, err
	}
	return nil, refused{h.ID}
}

// onlyBy reports whether all revisions after one were made by one person.
func (s *Server) onlyBy(ctx context.Context, slug string, after uint64, person string) (bool, error) {
	list, err := s.store.Revisions(ctx, slug)
	if err != nil {
		return false, err
	}
	for _, r := range list {
		if r.Number > after && r.Author != person {
			return false, nil
		}
	}
	return true, nil
}

// notice is told above the drawing after an edit.
type notice struct {
	Words   string // what was done
	Faults  []plumbing.Fault
	Follows []compare.Figure  // figures that are other now
	Gone    []finding.Finding // findings that went
	Come    []finding.Finding
}

// edit is the handler of an edit on the System view: op is made of the form.
func (s *Server) edit(form func(c *gin.Context) (operation, error)) gin.HandlerFunc {
	return func(c *gin.Context) {
		op, err := form(c)
		if err != nil {
			s.edited(c, nil, err)
			return
		}
		from, err := strconv.ParseUint(c.PostForm("from"), 10, 64)
		if err != nil {
			s.edited(c, nil, errors.New("the form does not say which state it started from; load the page again"))
			return
		}
		before := s.modelQuietly(c)
		done, err := s.change(c, c.Param("model"), from, who(c).Name, op)
		if err != nil {
			s.edited(c, nil, err)
			return
		}
		n := &notice{Words: done.words}
		if done.words != "" {
			if after := s.modelQuietly(c); before != nil && after != nil {
				n.follow(before, after)
			}
		}
		s.edited(c, n, nil)
	}
}

// modelQuietly is the request's model where it can be computed, else nil.
func (s *Server) modelQuietly(c *gin.Context) *bench {
	row, rev, err := s.store.Current(c, c.Param("model"))
	if err != nil {
		return nil
	}
	b, err := s.worked(c, row, rev, strings.Join(c.QueryArray("with"), ","))
	if err != nil {
		return nil
	}
	return b
}

// follow compares what is computed before and after an edit.
func (n *notice) follow(before, after *bench) {
	for _, f := range compare.Figures(before.subject(), after.subject()) {
		if f.Differs {
			n.Follows = append(n.Follows, f)
		}
	}
	n.Gone, n.Come = without(before.Findings, after.Findings), without(after.Findings, before.Findings)
}

// without lists findings that another list does not have.
func without(list, other []finding.Finding) []finding.Finding {
	have := map[string]bool{}
	for _, f := range other {
		have[f.Code+f.Words] = true
	}
	var out []finding.Finding
	for _, f := range list {
		if !have[f.Code+f.Words] {
			out = append(out, f)
		}
	}
	return out
}

// edited answers an edit: with the changed board, or with what was wrong and
// what was typed.
func (s *Server) edited(c *gin.Context, n *notice, err error) {
	var fe *edit.FaultError
	var late refused
	switch {
	case errors.As(err, &late):
		to := fmt.Sprintf("/models/%s/held/%d", url.PathEscape(c.Param("model")), late.held)
		if c.GetHeader("HX-Request") != "" {
			c.Header("HX-Redirect", to)
			c.Status(http.StatusConflict)
			return
		}
		c.Redirect(http.StatusSeeOther, to)
		return
	case errors.As(err, &fe):
		n = &notice{Faults: fe.Faults}
	case errors.Is(err, app.ErrNotFound):
		s.notFound(c, "There is no such model. It may have another name now; look in the list.")
		return
	case errors.Is(err, app.ErrNothing):
		n = &notice{Faults: []plumbing.Fault{{Why: "There is nothing left to undo or redo."}}}
	case errors.Is(err, app.ErrStale):
		n = &notice{Faults: []plumbing.Fault{{Why: "Somebody else changed the model in the meantime. This is its newest state; do it once more if it still holds."}}}
	case err != nil && s.store.Ping(c) == nil:
		n = &notice{Faults: []plumbing.Fault{{Why: upperFirst(err.Error()) + "."}}}
	case err != nil:
		s.trouble(c, err)
		return
	}
	status := http.StatusOK
	if len(n.Faults) > 0 {
		status = http.StatusUnprocessableEntity
	}
	back := c.PostForm("back")
	switch {
	case c.GetHeader("HX-Request") != "" && back == "grid":
		s.showGrid(c, status, "gridboard", n)
	case c.GetHeader("HX-Request") != "" && back == "layout":
		s.showLayout(c, status, "layoutboard", n)
	case c.GetHeader("HX-Request") != "":
		s.showSystem(c, status, "sysboard", n)
	case status == http.StatusOK && back != "grid":
		c.Redirect(http.StatusSeeOther, "/models/"+url.PathEscape(c.Param("model"))+"?part="+url.QueryEscape(c.PostForm("part")))
	case back == "grid":
		s.showGrid(c, status, "grid.html", n)
	default:
		s.showSystem(c, status, "system.html", n)
	}
}

// stepper undoes or redoes.
func (s *Server) stepper(step func(ctx context.Context, slug string, from uint64, author string) (*app.Model, error)) gin.HandlerFunc {
	return func(c *gin.Context) {
		from, err := strconv.ParseUint(c.PostForm("from"), 10, 64)
		if err != nil {
			s.edited(c, nil, errors.New("the form does not say which state it started from; load the page again"))
			return
		}
		before := s.modelQuietly(c)
		row, err := step(c, c.Param("model"), from, who(c).Name)
		if err != nil {
			s.edited(c, nil, err)
			return
		}
		n := &notice{}
		if rev, err := s.store.Numbered(c, c.Param("model"), row.Revision); err == nil {
			n.Words = rev.Reason
		}
		if after := s.modelQuietly(c); before != nil && after != nil {
			n.follow(before, after)
		}
		s.edited(c, n, nil)
	}
}

func (s *Server) undo(ctx context.Context, slug string, from uint64, author string) (*app.Model, error) {
	return s.store.Undo(ctx, slug, from, author)
}

func (s *Server) redo(ctx context.Context, slug string, from uint64, author string) (*app.Model, error) {
	return s.store.Redo(ctx, slug, from, author)
}
