// Package review shows where the guide of a model stands between draft and
// readers: what stands in the way, comments, what was published and what of it
// no longer holds, what readers report.
package review

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/guide/frozen"
	"coldtap/internal/people"
	"coldtap/internal/web/site"
)

// View answers the requests of these pages.
type View struct{ *site.Site }

// stop is something that stands in the way, with the way to it.
type stop struct {
	app.Stop
	Name, Href, Go string
}

// kinds are what stops are called.
var kinds = map[app.StopKind]string{app.StopDanger: "danger", app.StopCaution: "caution", app.StopFinding: "error",
	app.StopUnproven: "not proven", app.StopEdited: "steps by hand", app.StopReason: "no reason",
	app.StopComment: "comment"}

// stops are all that stand in the way, with links.
func (s View) stops(ctx context.Context, x *app.Present, comments []app.Comment) (list []stop, err error) {
	all, err := s.Publishing.Stops(ctx, x, comments)
	base := "/models/" + url.PathEscape(x.Row.Slug)
	for _, one := range all {
		st := stop{Stop: one, Name: kinds[one.Kind]}
		build := ""
		if one.With != nil && !sameBuild(one.With, x.Doc.StandardOptions()) {
			build = "with=" + url.QueryEscape(strings.Join(one.With, ",")) + "&"
		}
		switch {
		case one.Comment > 0:
			st.Href, st.Go = fmt.Sprintf("%s/review/read#c-%d", base, one.Comment), "Open the comment"
		case one.Finding != "":
			st.Href, st.Go = fmt.Sprintf("%s?%spart=%s", base, build, url.QueryEscape(one.Part)), "Open the part"
		case one.Mode != "":
			st.Href, st.Go = base+"/settings?mode="+url.QueryEscape(one.Mode), "Open the positions"
		case one.Procedure != "":
			st.Href, st.Go = fmt.Sprintf("%s/procedures/%s?%s", base, one.Procedure, build), "Open the procedure"
		default:
			st.Href, st.Go = base+"/guide?edit=yes#b-"+one.Block, "Open the block"
		}
		st.Href = strings.TrimRight(st.Href, "?&")
		list = append(list, st)
	}
	return list, err
}

func sameBuild(a, b []string) bool { return frozen.Name(a) == frozen.Name(b) }

// pageBody is the page of a model's review.
type pageBody struct {
	Slug    string
	Basis   string
	State   string // in words
	Step    int    // on the way from draft to readers: 0 to 3
	Round   *app.Review
	Rounds  []app.Review
	Moved   bool // approved, and changed since
	Stops   []stop
	Open    int // comments
	Kept    []app.Kept
	Older   []app.PublishedGuide
	Reports int
	Job     *app.Job
	Serials app.Range
	Author  bool
	Judge   bool // a reviewer
	Own     bool // who looks can't approve it
	Said    string
	Wrong   string
}

// begin finds the model of a request as it is now, or it answers the request and gives nil.
func (s View) begin(c *gin.Context) *app.Present {
	x, err := s.Publishing.Present(c, c.Param("model"))
	switch {
	case errors.Is(err, app.ErrNotFound):
		s.NotFound(c, "There is no such model. It may have another name now; look in the list.")
		return nil
	case err != nil:
		s.Trouble(c, err)
		return nil
	}
	return x
}

// Page shows where the guide of a model stands.
func (s View) Page(c *gin.Context) {
	x := s.begin(c)
	if x == nil {
		return
	}
	s.show(c, x, http.StatusOK, c.Query("said"), "")
}

func (s View) show(c *gin.Context, x *app.Present, status int, said, wrong string) {
	b := s.Model(c)
	if b == nil {
		return
	}
	body, err := s.body(c, x)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	body.Said, body.Wrong = said, wrong
	s.Show(c, status, "review.html", site.Page{Title: "Review: " + b.Model.Title(), Model: b, Tab: "review", Body: body})
}

func (s View) body(c *gin.Context, x *app.Present) (*pageBody, error) {
	who := site.Who(c)
	body := &pageBody{Slug: x.Row.Slug, Basis: x.Basis, Author: who.Role == people.Author,
		Judge: who.Role == people.Reviewer}
	rounds, err := s.Store.Reviews(c, x.Row.ID)
	if err != nil {
		return nil, err
	}
	comments, err := s.Store.Comments(c, x.Row.ID)
	if err != nil {
		return nil, err
	}
	for _, one := range comments {
		if one.OnID == 0 && one.State != app.CommentDone {
			body.Open++
		}
	}
	if body.Stops, err = s.stops(c, x, comments); err != nil {
		return nil, err
	}
	if len(rounds) > 0 {
		body.Round, body.Rounds = &rounds[0], rounds
	}
	body.Step, body.State = 0, "Draft"
	if r := body.Round; r.Open() {
		body.Step, body.State = 1, "In review"
		if r.State == app.Approved {
			body.Step, body.State = 2, "Approved"
			body.Moved = r.Basis != x.Basis
		}
		if body.Own, err = s.own(c, x, r, who.By()); err != nil {
			return nil, err
		}
	}
	all, job, err := s.Keeping.List(c)
	if err != nil {
		return nil, err
	}
	if job != nil && job.Wait(c, waits) {
		if all, job, err = s.Keeping.List(c); err != nil {
			return nil, err
		}
	}
	body.Job = job
	current := map[uint64]bool{}
	for _, k := range all {
		if k.Slug == x.Row.Slug {
			body.Kept = append(body.Kept, k)
			current[k.ID] = true
		}
	}
	published, err := s.Store.PublishedOf(c, x.Row.Slug)
	if err != nil {
		return nil, err
	}
	for _, g := range published {
		if !current[g.ID] {
			body.Older = append(body.Older, g)
		}
	}
	if len(published) > 0 {
		body.Serials = app.Range{From: published[0].FromSerial, To: published[0].ToSerial}
	}
	open, err := s.Store.OpenReports(c)
	body.Reports = open[x.Row.ID]
	return body, err
}

// waits is how long a page waits for published guides to be looked at, before it says how far that is.
const waits = 700 * time.Millisecond

// own reports whether somebody can't approve a round: it is their own.
func (s View) own(ctx context.Context, x *app.Present, r *app.Review, by app.By) (bool, error) {
	if (app.By{ID: r.SentByID, Name: r.SentBy}).Is(by) {
		return true, nil
	}
	list, err := s.Store.PublishedOf(ctx, x.Row.Slug)
	if err != nil {
		return false, err
	}
	var since uint64
	if len(list) > 0 {
		since = list[0].Number
	}
	authors, err := s.Store.AuthorsSince(ctx, x.Row.Slug, since)
	for _, a := range authors {
		if a.Is(by) {
			return true, err
		}
	}
	return false, err
}

// Act carries out what somebody does with the review of a guide.
func (s View) Act(c *gin.Context) {
	x := s.begin(c)
	if x == nil {
		return
	}
	said, err := s.act(c, x)
	s.settled(c, x, said, err)
}

// settled answers what somebody did: on the page it came from, or with what stood in the way.
func (s View) settled(c *gin.Context, x *app.Present, said string, err error) {
	var refused *app.RefusedError
	switch {
	case c.Writer.Written():
	case err == nil:
		to := "/models/" + url.PathEscape(x.Row.Slug) + "/review"
		if at := c.PostForm("back"); strings.HasPrefix(at, "/models/") {
			to = site.Next(at)
		} else if said != "" {
			to += "?said=" + url.QueryEscape(said)
		}
		c.Redirect(http.StatusSeeOther, to)
	case errors.As(err, &refused), errors.Is(err, app.ErrOwn), errors.Is(err, app.ErrRound), errors.Is(err,
		app.ErrChanged),
		errors.Is(err, app.ErrNotPassed), errors.Is(err, app.ErrStale), errors.Is(err, app.ErrNotYours):
		if x = s.begin(c); x != nil {
			s.show(c, x, http.StatusUnprocessableEntity, "", site.UpperFirst(err.Error())+".")
		}
	case errors.Is(err, app.ErrNotFound):
		s.NotFound(c, "This is not there any more.")
	default:
		s.Trouble(c, err)
	}
}

func (s View) act(c *gin.Context, x *app.Present) (said string, err error) {
	slug, by, words := x.Row.Slug, site.By(c), strings.TrimSpace(c.PostForm("words"))
	role := string(site.Who(c).Role)
	judge := role == string(people.Reviewer)
	do := c.PostForm("do")
	if (do == "approve" || do == "send-back" || do == "withdraw") && !judge {
		return "", &app.RefusedError{Words: "this is for a reviewer"}
	}
	if (do == "send" || do == "take-back" || do == "update" || do == "publish") && role != string(people.Author) {
		return "", &app.RefusedError{Words: "this is for an author"}
	}
	switch do {
	case "send":
		return "Sent to review.", s.Reviews.Send(c, slug, by, x.Basis, words)
	case "take-back":
		return "Taken back.", s.Reviews.TakeBack(c, slug, by)
	case "send-back":
		return "Sent back.", s.Reviews.SendBack(c, slug, by, words)
	case "approve":
		comments, err := s.Store.Comments(c, x.Row.ID)
		if err != nil {
			return "", err
		}
		stops, err := s.Publishing.Stops(c, x, comments)
		if err != nil {
			return "", err
		}
		return "Approved.", s.Reviews.Approve(c, slug, by, x.Basis, c.PostForm("basis"), len(stops), words)
	case "publish":
		return "", s.publish(c, x, by)
	case "withdraw":
		return "Withdrawn.", s.Publishing.Withdraw(c, slug, c.PostForm("letter"), by, words)
	case "notice":
		return "The notice is set.", s.Publishing.Notify(c, slug, c.PostForm("letter"), by, words)
	case "update":
		u, err := s.Keeping.Update(c, s.Edits, slug, by)
		return updated(u), err
	case "comment":
		on, _ := strconv.ParseUint(c.PostForm("on"), 10, 64)
		return "", s.Reviews.Comment(c, slug, by, role, app.Comment{OnID: on, Block: c.PostForm("block"),
			Line:  c.PostForm("line"),
			Quote: c.PostForm("quote"), Text: words})
	case "done", "reopen":
		id, _ := strconv.ParseUint(c.PostForm("comment"), 10, 64)
		return "", s.Reviews.Settle(c, slug, by, role, id, do == "done")
	}
	return "", &app.RefusedError{Words: "nothing was chosen"}
}

// updated tells what bringing a draft up to date did.
func updated(u *app.Updated) string {
	if u == nil {
		return ""
	}
	text := fmt.Sprintf("The draft is up to date: %d lines follow what changed", u.Lines)
	if u.Dangers > 0 {
		text += fmt.Sprintf(", %d of them were a danger", u.Dangers)
	}
	if n := len(u.Figures); n > 0 {
		text += fmt.Sprintf("; %d figures set by hand were let go: %s", n, strings.Join(u.Figures, ", "))
	}
	if n := len(u.Sentences); n > 0 {
		text += fmt.Sprintf("; %d reworded sentences were let go, for the guide has none such any more", n)
	}
	return text + ". Readers have what was published until a new revision is out."
}

// publish publishes a guide as a job, whose page says how far it is.
func (s View) publish(c *gin.Context, x *app.Present, by app.By) error {
	units := app.Range{From: strings.TrimSpace(c.PostForm("from")), To: strings.TrimSpace(c.PostForm("to"))}
	scheme := "http"
	if c.Request.TLS != nil || c.GetHeader("X-Forwarded-Proto") == "https" {
		scheme = "https"
	}
	address := scheme + "://" + c.Request.Host + "/read/" + url.PathEscape(x.Row.Slug)
	job := s.Jobs.Start("publish "+x.Row.Slug, "Publishing the guide of "+x.Doc.Title(), by.Name, s.Publishing.Steps(x),
		func(ctx context.Context, step func()) (any, error) {
			g, err := s.Publishing.Publish(ctx, x.Row.Slug, by, units, address, step)
			if err == nil {
				s.Keeping.Soon()
			}
			return g, err
		})
	if job.Wait(c, s.Awaited) {
		return job.Err()
	}
	c.Redirect(http.StatusSeeOther, "/jobs")
	c.Writer.WriteHeaderNow() // that is the answer
	return nil
}
