package reader

import (
	"errors"
	"net/http"
	"net/url"
	"strconv"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/web/site"
)

// fail answers a request that could not be carried out.
func (s View) fail(c *gin.Context, err error) {
	status, words := http.StatusInternalServerError, "This did not work. Try again in a moment."
	var refused *app.RefusedError
	switch {
	case errors.As(err, &refused):
		status, words = http.StatusUnprocessableEntity, refused.Error()
	case errors.Is(err, app.ErrTooMany):
		status, words = http.StatusTooManyRequests,
			"Too much was sent from here in the last hour. It is kept on this phone; try again later."
	case errors.Is(err, app.ErrNotFound):
		status, words = http.StatusNotFound, "There is no such page."
	default:
		s.Trouble(c, err)
		return
	}
	secure(c.Writer.Header())
	c.Header("Cache-Control", "no-store")
	if c.GetHeader("Accept") == "application/json" {
		c.JSON(status, gin.H{"error": words})
		return
	}
	s.bare(c, status, "reader-said.html", "Not sent", map[string]any{"Head": "Not sent", "Words": words, "Back": back(c)})
}

// back is the page that a form came from, of ours.
func back(c *gin.Context) string { return site.Next(c.PostForm("back")) }

// sent is the guide that a form is about.
func (s View) sent(c *gin.Context) (*app.PublishedGuide, error) {
	return s.Store.PublishedGuide(c, c.PostForm("model"), c.PostForm("letter"))
}

// Report takes what did not work.
func (s View) Report(c *gin.Context) {
	g, err := s.sent(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	step, err := strconv.Atoi(c.DefaultPostForm("step", "0"))
	if err != nil {
		step = -1
	}
	code := c.PostForm("code")
	if code == "" { // a page without scripts
		code = app.NewCode()
	}
	err = s.Readers.Send(c, g, app.Report{Code: code, Build: c.PostForm("build"), Task: c.PostForm("task"), Step: step,
		Said: c.PostForm("said"), Words: c.PostForm("words")}, site.AddressOf(c))
	if err != nil {
		s.fail(c, err)
		return
	}
	answer := "/readers/answer/" + code
	if c.GetHeader("Accept") == "application/json" {
		c.JSON(http.StatusOK, gin.H{"answer": answer})
		return
	}
	c.Redirect(http.StatusSeeOther, answer+"?back="+url.QueryEscape(back(c)))
}

// Answer is what came of a report, for who has its word.
func (s View) Answer(c *gin.Context) {
	if !app.IsCode(c.Param("code")) {
		s.missing(c)
		return
	}
	r, err := s.Store.ReportByCode(c, c.Param("code"))
	switch {
	case errors.Is(err, app.ErrNotFound):
		s.missing(c)
		return
	case err != nil:
		s.Trouble(c, err)
		return
	}
	s.bare(c, http.StatusOK, "reader-answer.html", "What you wrote", map[string]any{"Words": r.Words, "Said": r.Said,
		"State": r.State, "Answer": r.Answer, "Date": r.CreatedAt.Format("2 January 2006"),
		"Back": site.Next(c.Query("back"))})
}

// Begin begins a walk of two phones.
func (s View) Begin(c *gin.Context) {
	g, err := s.sent(c)
	if err == nil {
		var w *app.Walk
		if w, err = s.Readers.Begin(c, g, c.PostForm("build"), c.PostForm("task"), site.AddressOf(c)); err == nil {
			c.JSON(http.StatusOK, gin.H{"code": w.Code, "link": "/readers/walk/" + w.Code})
			return
		}
	}
	s.fail(c, err)
}

// Walk leads the second phone to the procedure.
func (s View) Walk(c *gin.Context) {
	if !app.IsCode(c.Param("code")) {
		s.missing(c)
		return
	}
	w, err := s.Store.Walk(c, c.Param("code"))
	if err != nil {
		s.missing(c)
		return
	}
	list, err := s.Store.AllPublished(c)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	for i := range list {
		if g := &list[i]; g.ID == w.PublishedID {
			c.Redirect(http.StatusSeeOther, s.home(g, w.Build, "")+"/do/"+w.Task+"#walk="+w.Code+"&as=taps")
			return
		}
	}
	s.missing(c)
}

// marks is what a phone sends: what it ticked that it does not know to be kept.
type marks struct {
	Marks []app.WalkMark `json:"marks"`
}

// Marks takes what a phone ticked, and gives all that was.
func (s View) Marks(c *gin.Context) {
	var body marks
	if c.Request.Method == http.MethodPost {
		if err := c.ShouldBindJSON(&body); err != nil {
			c.JSON(http.StatusUnprocessableEntity, gin.H{"error": "This is no list of ticks."})
			return
		}
	}
	all, err := s.Readers.Join(c, c.Param("code"), body.Marks)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Cache-Control", "no-store")
	c.JSON(http.StatusOK, marks{all})
}
