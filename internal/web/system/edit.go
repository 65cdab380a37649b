package system

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"net/url"
	"path"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/compare"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/finding"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/web/site"
)

// notice is told above the drawing after an edit.
type notice struct {
	Words   string // what was done
	Others  string // who changed the model meanwhile
	Made    string // id of the line that was made, "" for none
	Faults  []plumbing.Fault
	Follows []site.ToldFigure  // figures that are other now
	Gone    []site.ToldFinding // findings that went
	Come    []site.ToldFinding
	Errors  int // of those that came
	Confirm *confirm
	Late    string // address of the edit that is kept aside; "" where none is
}

// refused says that what was typed was not saved, and still stands in its field.
func (n *notice) refused() bool { return n != nil && (len(n.Faults) > 0 || n.Late != "") }

// confirm asks before somebody else's change is taken back.
type confirm struct {
	app.OthersError
	Step string // "undo" or "redo"
	From string
	Back string // the view that asked
	What string // of the grid
	Base string
}

// edit is the handler of an edit on the System view: op is made of the form.
func (s View) Edit(form func(c *gin.Context) (app.Operation, error)) gin.HandlerFunc {
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
		done, err := s.Edits.Change(c, c.Param("model"), from, site.By(c), op)
		if err != nil {
			s.edited(c, nil, err)
			return
		}
		s.followed(c, done)
	}
}

// Carry carries out an edit of another view, and goes on to an address; what refuses it is
// told on the System view.
func (s View) Carry(c *gin.Context, op app.Operation, to string) {
	from, err := strconv.ParseUint(c.PostForm("from"), 10, 64)
	if err == nil {
		_, err = s.Edits.Change(c, c.Param("model"), from, site.By(c), op)
	}
	if err != nil {
		s.edited(c, nil, err)
		return
	}
	c.Redirect(http.StatusSeeOther, to)
}

// comesBack reports whether an edit goes back to a view of its own: a procedure, the guide.
func comesBack(to string) bool {
	return (strings.HasPrefix(to, "procedures/") || strings.HasPrefix(to, "guide?")) && !strings.Contains(to, "..")
}

// followed answers an edit with what follows from it.
func (s View) followed(c *gin.Context, done *app.Changed) {
	n := &notice{Words: done.Words, Others: names(done.Others)}
	if c.PostForm("port-from") != "" && done.Doc != nil && len(done.Doc.Lines) > 0 {
		n.Made = done.Doc.Lines[len(done.Doc.Lines)-1].ID
	}
	n.renamed(c.Param("id"), done)
	after, err := s.afterEdit(c, done, n)
	if err != nil {
		// What was changed is kept, and can't be worked out: the page says why.
		slog.Warn("after an edit", "model", c.Param("model"), "error", err)
	} else {
		site.Keep(c, after)
	}
	s.edited(c, n, nil)
}

// afterEdit works out the state that an edit made, and tells in a notice what
// is other than in the one before.
func (s View) afterEdit(c *gin.Context, done *app.Changed, n *notice) (*site.Computed, error) {
	rules, err := s.Store.HouseRules(c)
	if err != nil {
		return nil, err
	}
	with := strings.Join(c.QueryArray("with"), ",")
	build, err := s.Builds.After(c, done.Row.Slug, done, with)
	if err != nil {
		return nil, err
	}
	h, err := app.HouseOf(rules, done.Row.Slug, build.Model.System())
	if err != nil {
		return nil, err
	}
	if err := build.Work(c, h); err != nil {
		return nil, err
	}
	after, err := s.Under(c, rules, done.Row, done.After, with)
	if err != nil || done.Words == "" {
		return after, err
	}
	before, err := s.Under(c, rules, done.Row, done.Before, with)
	if err != nil {
		return after, nil // there is nothing to compare with
	}
	return after, n.follow(c, before, after)
}

// renamed keeps a line chosen that got another id by its change.
func (n *notice) renamed(id string, done *app.Changed) {
	if done.Doc == nil || done.Doc.Line(id) != nil {
		return
	}
	before, err := done.Before.Read()
	if err != nil {
		return
	}
	for i := range before.Lines {
		if before.Lines[i].ID == id && i < len(done.Doc.Lines) && len(before.Lines) == len(done.Doc.Lines) {
			n.Made = done.Doc.Lines[i].ID
		}
	}
}

// follow compares what is site.Computed before and after an edit.
func (n *notice) follow(ctx context.Context, before, after *site.Computed) error {
	a, err := before.Subject(ctx)
	if err != nil {
		return err
	}
	b, err := after.Subject(ctx)
	if err != nil {
		return err
	}
	for _, f := range site.ToldFigures(compare.Figures(a, b), before.Sys(), after.Sys()) {
		if f.Differs && f.Before != f.After { // less than what is shown is nothing to tell
			n.Follows = append(n.Follows, f)
		}
	}
	was, now := before.ToldAll(before.Findings), after.ToldAll(after.Findings)
	n.Gone, n.Come = without(was, now), without(now, was)
	for _, f := range n.Come {
		if f.Severity == finding.Error {
			n.Errors++
		}
	}
	slices.SortStableFunc(n.Come, func(a, b site.ToldFinding) int { return cmp.Compare(b.Severity, a.Severity) })
	return nil
}

// without lists findings that another list does not have. Those that read the
// same are the same to whoever made the change.
func without(list, other []site.ToldFinding) []site.ToldFinding {
	have := map[string]bool{}
	for _, f := range other {
		have[f.Code+f.Words] = true
	}
	var out []site.ToldFinding
	for _, f := range list {
		if !have[f.Code+f.Words] {
			out = append(out, f)
		}
	}
	return out
}

// edited answers an edit: with the changed board, or with what was wrong and
// what was typed.
func (s View) edited(c *gin.Context, n *notice, err error) {
	var fe *edit.FaultError
	var late app.HeldError
	var others app.OthersError
	switch {
	case errors.As(err, &late):
		s.EditHeld()
		to := fmt.Sprintf("/models/%s/held/%d", url.PathEscape(c.Param("model")), late.ID)
		if c.GetHeader("HX-Request") != "" {
			n = &notice{Late: to}
			break
		}
		c.Redirect(http.StatusSeeOther, to)
		return
	case errors.As(err, &others):
		n = &notice{Confirm: &confirm{others, path.Base(c.Request.URL.Path), c.PostForm("from"), c.PostForm("back"),
			c.PostForm("what"), "/models/" + url.PathEscape(c.Param("model"))}}
	case errors.As(err, &fe):
		n = &notice{Faults: fe.Faults}
	case errors.Is(err, app.ErrNotFound):
		s.NotFound(c, "There is no such model. It may have another name now; look in the list.")
		return
	case errors.Is(err, app.ErrNoState):
		n = &notice{Faults: []plumbing.Fault{{Why: site.UpperFirst(app.ErrNoState.Error()) + "."}}}
	case errors.Is(err, app.ErrNothing):
		n = &notice{Faults: []plumbing.Fault{{Why: "There is nothing left to undo or redo."}}}
	case errors.Is(err, app.ErrStale):
		n = &notice{Faults: []plumbing.Fault{{Why: "Somebody else changed the model in the meantime. This is its " +
			"newest state; do it once more if it still holds."}}}
	case errors.As(err, new(*app.KeepError)):
		s.Trouble(c, err)
		return
	case err != nil:
		slog.Warn("edit", "model", c.Param("model"), "error", err)
		n = &notice{Faults: []plumbing.Fault{{Why: site.UpperFirst(site.Words(err)) + "."}}}
	}
	status := http.StatusOK
	if n.refused() || n.Confirm != nil {
		status = http.StatusUnprocessableEntity
	}
	back := c.PostForm("back")
	switch {
	case status == http.StatusOK && comesBack(back):
		c.Redirect(http.StatusSeeOther, "/models/"+url.PathEscape(c.Param("model"))+"/"+back)
	case c.GetHeader("HX-Request") != "" && back == "grid":
		s.showGrid(c, status, "gridboard", n)
	case back == "options" && c.GetHeader("HX-Request") == "" && status == http.StatusOK:
		c.Redirect(http.StatusSeeOther, "/models/"+url.PathEscape(c.Param("model"))+"/options")
	case back == "options":
		name := "options.html"
		if c.GetHeader("HX-Request") != "" {
			name = "optionboard"
		}
		s.showOptions(c, status, name, n)
	case c.GetHeader("HX-Request") != "" && back == "layout":
		s.showLayout(c, status, "layoutboard", n)
	case c.GetHeader("HX-Request") != "":
		s.showSystem(c, status, "sysboard", n)
	case status == http.StatusOK && back != "grid":
		c.Redirect(http.StatusSeeOther,
			"/models/"+url.PathEscape(c.Param("model"))+"?part="+url.QueryEscape(c.PostForm("part")))
	case back == "grid":
		s.showGrid(c, status, "grid.html", n)
	default:
		s.showSystem(c, status, "system.html", n)
	}
}

// stepper undoes or redoes.
func (s View) Stepper(step func(ctx context.Context, slug string, from uint64,
	by app.By, anyones bool) (*app.Changed, error)) gin.HandlerFunc {
	return func(c *gin.Context) {
		from, err := strconv.ParseUint(c.PostForm("from"), 10, 64)
		if err != nil {
			s.edited(c, nil, errors.New("the form does not say which state it started from; load the page again"))
			return
		}
		done, err := step(c, c.Param("model"), from, site.By(c), c.PostForm("anyones") == "yes")
		if err != nil {
			s.edited(c, nil, err)
			return
		}
		s.followed(c, done)
	}
}
