// Package trials takes procedures to units: the check list on a phone, what was
// written down there beside what is computed, and what it asks to be corrected.
package trials

import (
	"context"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/measure"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/trial"
	"coldtap/internal/people"
	"coldtap/internal/picture"
	"coldtap/internal/web/site"
)

// View answers the requests of these pages.
type View struct {
	*site.Site
	Worker []byte // the script that keeps pages for when there is no network
}

// Show writes a value of a kind of measurement in a system of units.
func Show(k measure.Kind, v float64, sys quantity.System) string {
	switch k {
	case measure.Jug, measure.Caught:
		return quantity.Both(quantity.Litre(v), sys)
	case measure.Clock:
		return quantity.Both(quantity.Second(v), sys)
	case measure.Level:
		return fmt.Sprintf("%.0f %%", 100*v)
	case measure.Strip:
		return quantity.Show(quantity.MgPerLitre(v), sys)
	}
	return strconv.FormatFloat(v, 'f', -1, 64)
}

// kindNames are what is measured, in words.
var kindNames = map[measure.Kind]string{measure.Jug: "Antifreeze drawn so far", measure.Clock: "Time",
	measure.Level: "Level", measure.Strip: "Test strip", measure.Caught: "Caught", measure.Refills: "Refills until clear"}

// item is a trial in a list.
type item struct {
	app.Trial
	Href, Compare string
	Done          int
}

type listBody struct {
	Slug    string
	List    []item
	Tasks   []app.TrialTask
	Serial  string
	Task    string
	Place   string
	Weather string
	Runs    bool // who looks may take a procedure to a unit
	Pools   []poolOf
	Untried []string
	Asked   []app.Correction
	Past    []app.Correction
	Reports []reportsOf
	Slow    bool // its procedures are still being carried out
	Wrong   string
	Said    string
}

// runs reports whether somebody takes procedures to units.
func runs(p *app.Person) bool {
	return p != nil && p.Role.In([]people.Role{people.Author, people.Reviewer, people.Trainer, people.Technician})
}

// carryingOut is how long a page waits for procedures to be carried out, before it says so.
const carryingOut = 8 * time.Second

// List shows the trials of a model, and what they come to together.
func (s View) List(c *gin.Context) {
	s.list(c, http.StatusOK, listBody{Serial: c.Query("serial"), Task: c.Query("task"), Said: c.Query("said")})
}

func (s View) list(c *gin.Context, status int, body listBody) {
	b := s.Model(c)
	if b == nil {
		return
	}
	who := site.Who(c)
	body.Slug, body.Runs = b.Row.Slug, runs(who)
	trials, err := s.Store.TrialsOf(c, b.Row.ID, who.Scope())
	if err != nil {
		s.Trouble(c, err)
		return
	}
	for _, t := range trials {
		body.List = append(body.List, item{Trial: t, Href: "/trials/" + t.Code, Compare: "/trials/" + t.Code + "/compare"})
	}
	x, err := s.Publishing.Present(c, b.Row.Slug)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	ctx, end := context.WithTimeout(c, carryingOut)
	defer end()
	body.Tasks, err = s.Trials.TasksOf(ctx, x, "")
	if err == nil && who.Scope().All {
		err = s.together(ctx, x, trials, &body)
	}
	switch {
	case errors.Is(err, context.DeadlineExceeded) && c.Request.Context().Err() == nil:
		body.Slow = true
	case err != nil:
		s.Trouble(c, err)
		return
	}
	s.Show(c, status, "trials.html", site.Page{Title: "Trials: " + b.Model.Title(), Model: b, Tab: "trials", Body: body})
}

// Begin takes a procedure to a unit, by its serial number.
func (s View) Begin(c *gin.Context) {
	who := site.Who(c)
	form := listBody{Serial: strings.TrimSpace(c.PostForm("serial")), Task: c.PostForm("task"),
		Place: c.PostForm("place"), Weather: c.PostForm("weather")}
	u, err := s.Units.Find(c, who.Scope(), form.Serial)
	switch {
	case errors.Is(err, app.ErrNotFound):
		form.Wrong = "There is no unit of this serial number that you keep. Look whether it is typed as on the plate, or add the unit first."
		s.list(c, http.StatusUnprocessableEntity, form)
		return
	case err == nil && u.Slug != c.Param("model"):
		form.Wrong = fmt.Sprintf("%s is a unit of another model.", u.Serial)
		s.list(c, http.StatusUnprocessableEntity, form)
		return
	}
	var t *app.Trial
	if err == nil {
		t, err = s.Trials.Begin(c, who.By(), who.Scope(), u.ID, form.Task, form.Place, form.Weather, c.PostForm("units"))
	}
	var no *app.RefusedError
	switch {
	case errors.As(err, &no):
		form.Wrong = no.Words
		s.list(c, http.StatusUnprocessableEntity, form)
	case err != nil:
		s.Trouble(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/trials/"+t.Code)
	}
}

// trial is the trial of a request, or it answers the request and gives nil.
func (s View) trial(c *gin.Context) *app.Trial {
	t, err := s.Trials.Get(c, site.Who(c).Scope(), c.Param("code"))
	switch {
	case errors.Is(err, app.ErrNotFound):
		s.NotFound(c, "There is no such trial among those that you see.")
		return nil
	case err != nil:
		s.Trouble(c, err)
		return nil
	}
	return t
}

type phoneBody struct {
	*app.Trial
	Who    string
	Inside template.HTML
	What   app.TrialSteps
	Model  string
}

// Phone is the check list of a trial.
func (s View) Phone(c *gin.Context) {
	t := s.trial(c)
	if t == nil {
		return
	}
	body := phoneBody{Trial: t, Who: site.Who(c).Name, What: t.What(), Model: "/models/" + url.PathEscape(t.Slug),
		Inside: template.HTML(t.Page)} // written by a template of ours when the trial began
	s.Show(c, http.StatusOK, "trial.html", site.Page{Title: "Trial: " + t.Title, Body: body})
}

// Script keeps pages of trials for when there is no network.
func (s View) Script(c *gin.Context) {
	c.Data(http.StatusOK, "text/javascript; charset=utf-8", s.Worker)
}

type sent struct {
	Entries []trial.Entry `json:"entries"`
}

// Entries joins what a phone wrote down to what there is, and gives it all.
func (s View) Entries(c *gin.Context) {
	who := site.Who(c)
	var in sent
	if c.Request.Method == http.MethodPost {
		if err := c.ShouldBindJSON(&in); err != nil {
			c.JSON(http.StatusUnprocessableEntity, gin.H{"error": "This is no list of entries."})
			return
		}
	}
	all, err := s.Trials.Join(c, who.By(), who.Scope(), c.Param("code"), in.Entries)
	var no *app.RefusedError
	switch {
	case errors.Is(err, app.ErrNotFound):
		c.JSON(http.StatusNotFound, gin.H{"error": "There is no such trial."})
	case errors.As(err, &no):
		c.JSON(http.StatusUnprocessableEntity, gin.H{"error": no.Words})
	case errors.Is(err, app.ErrTooMany):
		c.JSON(http.StatusTooManyRequests, gin.H{"error": "This trial has as many entries as it can have."})
	case err != nil:
		s.Trouble(c, err)
	default:
		c.JSON(http.StatusOK, sent{Entries: all})
	}
}

// AddPhoto keeps a photograph of a trial.
func (s View) AddPhoto(c *gin.Context) {
	raw, _, err := site.Upload(c, picture.MaxFile)
	var p *picture.Picture
	if err == nil {
		p, err = picture.Of(raw, func(points int64) (func(), error) { return s.Bounds.Pixels(c, points) })
	}
	if err == nil {
		err = s.Trials.Photo(c, site.Who(c).Scope(), c.Param("code"),
			&app.TrialPhoto{Mark: c.PostForm("id"), Mime: "image/jpeg", Body: p.JPEG})
	}
	var no *app.RefusedError
	var bad *picture.Error
	var fault *edit.FaultError
	switch {
	case errors.As(err, &bad):
		c.JSON(http.StatusUnprocessableEntity, gin.H{"error": bad.Why})
	case errors.As(err, &fault):
		c.JSON(http.StatusUnprocessableEntity, gin.H{"error": fault.Error()})
	case errors.Is(err, app.ErrNotFound):
		c.JSON(http.StatusNotFound, gin.H{"error": "There is no such trial."})
	case errors.As(err, &no):
		c.JSON(http.StatusUnprocessableEntity, gin.H{"error": no.Words})
	case err != nil:
		s.Trouble(c, err)
	default:
		c.JSON(http.StatusOK, gin.H{"kept": c.PostForm("id")})
	}
}

// Photo is a photograph of a trial.
func (s View) Photo(c *gin.Context) {
	t := s.trial(c)
	if t == nil {
		return
	}
	p, err := s.Store.TrialPhoto(c, t.ID, c.Param("mark"))
	switch {
	case errors.Is(err, app.ErrNotFound):
		s.NotFound(c, "There is no such photograph, or it has not come from the phone yet.")
	case err != nil:
		s.Trouble(c, err)
	default:
		c.Data(http.StatusOK, p.Mime, p.Body)
	}
}

// Set finishes a trial, opens it again or drops it.
func (s View) Set(c *gin.Context) {
	who := site.Who(c)
	err := s.Trials.Finish(c, who.By(), who.Scope(), c.Param("code"), c.PostForm("to"))
	var no *app.RefusedError
	switch {
	case errors.Is(err, app.ErrNotFound):
		s.NotFound(c, "There is no such trial among those that you see.")
	case errors.As(err, &no):
		s.compare(c, http.StatusUnprocessableEntity, no.Words)
	case err != nil:
		s.Trouble(c, err)
	default:
		if t := s.trial(c); t != nil && t.State == app.TrialFinished {
			if _, err := s.Trials.Comparison(c, t); err != nil { // it goes on by itself
				s.Trouble(c, err)
				return
			}
		}
		c.Redirect(http.StatusSeeOther, "/trials/"+c.Param("code")+"/compare")
	}
}

func moment(ms int64) string { return time.UnixMilli(ms).UTC().Format("2 January 2006, 15:04") }
