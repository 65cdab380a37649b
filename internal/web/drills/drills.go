// Package drills is where dealers learn models on their own plumbing: questions
// on phone or desk, alone or as a class; courses, results and certificates.
package drills

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/drill"
	"coldtap/internal/web/site"
)

// View answers the requests of these pages.
type View struct{ *site.Site }

// names are the kinds of question in words.
var names = app.DrillNames()

// kindOf is a kind of question in a form.
type kindOf struct {
	ID   drill.Kind
	Name string
	On   bool
}

func kindList(on func(drill.Kind) bool) (list []kindOf) {
	for _, k := range drill.Kinds() {
		list = append(list, kindOf{k, names[k], on(k)})
	}
	return list
}

// modelOf is a model in a form.
type modelOf struct {
	Slug, Title string
	On          bool
	Due         int // kinds of question that are due again
}

type homeBody struct {
	Wrong        string
	Said         string
	Trains       bool
	Open         []app.DrillSitting // begun, not ended
	Courses      []courseRow
	Models       []modelOf
	Kinds        []kindOf
	Due          int
	Certificates []certificateRow
	Practical    []app.DrillSignoff
	Past         []app.DrillSitting
	Job          *app.Job
	Again        string // where to look for what is being made
}

// courseRow is a course with how somebody stands in it.
type courseRow struct {
	app.DrillCourse
	Stands string
	Next   string // what there is to do: "Begin", "Go on", "Again"
	Models int
}

// certificateRow is a certificate as it is listed.
type certificateRow struct {
	app.DrillCertificate
	State string
}

// failed answers a request that went wrong, and reports whether it did: refused shows what the application refused,
// missing says what is not there.
func (s View) failed(c *gin.Context, err error, missing string, refused func(words string)) bool {
	var no *app.RefusedError
	switch {
	case err == nil:
		return false
	case refused != nil && errors.As(err, &no):
		refused(no.Words)
	case errors.Is(err, app.ErrNotFound):
		s.NotFound(c, missing)
	default:
		s.Trouble(c, err)
	}
	return true
}

// Home is what somebody has to learn, and how far they are.
func (s View) Home(c *gin.Context) { s.home(c, http.StatusOK, homeBody{Said: c.Query("said")}) }

func (s View) home(c *gin.Context, status int, body homeBody) {
	who := site.Who(c)
	body.Trains = who.Trains()
	body.Kinds = kindList(func(drill.Kind) bool { return false })
	if err := s.fillHome(c, who, &body); err != nil {
		s.Trouble(c, err)
		return
	}
	s.Show(c, status, "drills.html", site.Page{Title: "Drills", Body: body})
}

// pastShown is how many sittings are listed.
const pastShown = 12

func (s View) fillHome(ctx context.Context, who *app.Person, body *homeBody) error {
	mine := app.DrillFilter{Person: who.ID}
	sittings, err := s.Store.DrillSittings(ctx, mine, 200)
	if err != nil {
		return err
	}
	certificates, err := s.Store.DrillCertificates(ctx, mine, 100)
	if err != nil {
		return err
	}
	now := time.Now()
	for _, x := range certificates {
		body.Certificates = append(body.Certificates, certificateRow{x, stateOf(&x, now)})
	}
	for _, x := range sittings {
		switch {
		case x.State == app.DrillOpen && x.ClassID == 0:
			body.Open = append(body.Open, x)
		case x.State != app.DrillOpen && len(body.Past) < pastShown:
			body.Past = append(body.Past, x)
		}
	}
	courses, err := s.Store.DrillCourses(ctx)
	if err != nil {
		return err
	}
	for _, x := range courses {
		row := s.stands(x, sittings, certificates, now)
		if x.State == app.DrillOpen || row.Stands != "" {
			body.Courses = append(body.Courses, row)
		}
	}
	if body.Practical, err = s.Store.DrillSignoffs(ctx, who.ID); err != nil {
		return err
	}
	memories, err := s.Store.DrillMemories(ctx, who.ID)
	if err != nil {
		return err
	}
	models, err := s.Store.Models(ctx)
	if err != nil {
		return err
	}
	for _, m := range models {
		row := modelOf{Slug: m.Slug, Title: fmt.Sprintf("%s (%d)", m.Name, m.Year)}
		for _, x := range memories {
			if x.Slug == m.Slug && !x.DueOn.After(now) {
				row.Due++
			}
		}
		body.Due += row.Due
		body.Models = append(body.Models, row)
	}
	for i := range body.Models { // what is most due stands first in the form
		m := &body.Models[i]
		m.On = m.Due > 0 && !slices.ContainsFunc(body.Models, func(o modelOf) bool { return o.Due > m.Due || o.On })
	}
	return nil
}

// stands is how somebody stands in a course.
func (s View) stands(x app.DrillCourse, sittings []app.DrillSitting, certificates []app.DrillCertificate,
	now time.Time) courseRow {
	row := courseRow{DrillCourse: x, Next: "Begin", Models: len(x.Of())}
	for _, c := range certificates { // the newest first
		if c.CourseID == x.ID {
			row.Stands, row.Next = "certificate "+stateOf(&c, now), "Again"
			break
		}
	}
	for _, t := range sittings {
		if t.CourseID != x.ID || t.ClassID != 0 {
			continue
		}
		switch {
		case t.State == app.DrillOpen:
			row.Stands, row.Next = fmt.Sprintf("%d of %d answered", t.Answered, t.Asked), "Go on"
		case row.Stands != "":
		case t.State == app.DrillPassed:
			row.Stands, row.Next = "passed; the practical part is open", "Again"
		default:
			row.Stands, row.Next = fmt.Sprintf("not passed, %d %%", t.Percent()), "Again"
		}
		break
	}
	return row
}

// stateOf is how a certificate stands, in words.
func stateOf(c *app.DrillCertificate, now time.Time) string {
	switch {
	case c.VoidWhy != "":
		return "due again: the model was changed"
	case !now.Before(c.ExpiresOn):
		return "expired " + c.ExpiresOn.Format("2 January 2006")
	case c.ForGood():
		return "holds for good"
	}
	return "holds until " + c.ExpiresOn.Format("2 January 2006")
}

// Practise begins practice.
func (s View) Practise(c *gin.Context) {
	count, _ := strconv.Atoi(c.DefaultPostForm("count", "10"))
	var kinds []drill.Kind
	for _, k := range c.PostFormArray("kind") {
		if slices.Contains(drill.Kinds(), drill.Kind(k)) {
			kinds = append(kinds, drill.Kind(k))
		}
	}
	t, job, err := s.Drills.Practise(c, site.Who(c), app.DrillModel{Slug: c.PostForm("model")}, kinds, count)
	s.begun(c, t, job, err)
}

// begun goes on to a sitting that was begun, or says what is still being made.
func (s View) begun(c *gin.Context, t *app.DrillSitting, job *app.Job, err error) {
	refused := func(words string) { s.home(c, http.StatusUnprocessableEntity, homeBody{Wrong: words}) }
	switch {
	case s.failed(c, err, "There is no such course or model.", refused):
	case job != nil:
		s.home(c, http.StatusOK, homeBody{Job: job, Again: "/drills"})
	default:
		c.Redirect(http.StatusSeeOther, "/drills/sit/"+t.Code)
	}
}

func parse(text string) (uint64, error) { return strconv.ParseUint(text, 10, 64) }
