package drills

import (
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/drill"
	"coldtap/internal/web/site"
)

type courseBody struct {
	Course    *app.DrillCourse
	Trains    bool
	Wrong     string
	Said      string
	Models    string
	Kinds     []string
	Row       courseRow
	Practical []string
	Link      string
	Code      template.HTML // of the link
	People    []personRow
	Job       *app.Job
	Form      courseForm
	Typed     bool // the form has what was typed
	Sittings  int
}

// personRow is how somebody stands in a course.
type personRow struct {
	Name, Dealer string
	Percent      int
	State        string
	Href         string
	On           time.Time
}

// courseForm is a course as it is typed.
type courseForm struct {
	Name, Note              string
	Models                  []modelOf
	Kinds                   []kindOf
	Count, PassMark, Months string
	Practical               []practicalOf
	Action, Button          string
}

// practicalOf is a procedure that may be asked to be seen at a unit.
type practicalOf struct {
	ID, Title string
	On        bool
}

// practical are procedures in words, that are still to be seen at a unit.
func (s View) practical(c *gin.Context, course *app.DrillCourse, person uint64) (list []string, err error) {
	open, err := s.Drills.PracticalOpen(c, course, person)
	if err != nil {
		return nil, err
	}
	for _, p := range open {
		slug, task, _ := strings.Cut(p, "/")
		x, err := s.Publishing.Present(c, slug)
		if err != nil {
			return nil, err
		}
		title, tasks := task, []app.TrialTask(nil)
		if tasks, err = s.Trials.TasksOf(c, x, ""); err != nil {
			return nil, err
		}
		for _, t := range tasks {
			if t.ID == task {
				title = t.Title
			}
		}
		list = append(list, title+", "+x.Doc.Title())
	}
	return list, nil
}

const noCourse = "There is no such course."

// course is the course of a request, or it answers the request and gives nil.
func (s View) course(c *gin.Context) *app.DrillCourse {
	x, err := s.Store.DrillCourseByCode(c, c.Param("code"))
	if s.failed(c, err, noCourse, nil) {
		return nil
	}
	return x
}

// Course is what a course asks for, and who stands how in it.
func (s View) Course(c *gin.Context) {
	s.coursePage(c, http.StatusOK, courseBody{Said: c.Query("said")})
}

func (s View) coursePage(c *gin.Context, status int, body courseBody) {
	x := s.course(c)
	if x == nil {
		return
	}
	who := site.Who(c)
	body.Course, body.Trains, body.Link = x, who.Trains(), site.Origin(c)+"/drills/courses/"+x.Code
	for _, k := range x.KindList() {
		body.Kinds = append(body.Kinds, names[k])
	}
	if err := s.fillCourse(c, who, &body); err != nil {
		s.Trouble(c, err)
		return
	}
	s.Show(c, status, "drill-course.html", site.Page{Title: x.Name, Body: body})
}

func (s View) fillCourse(c *gin.Context, who *app.Person, body *courseBody) error {
	x := body.Course
	var titles []string
	for _, m := range x.Of() {
		row, _, err := s.Store.Head(c, m.Slug)
		if err != nil {
			return err
		}
		titles = append(titles, fmt.Sprintf("%s (%d)", row.Name, row.Year))
	}
	body.Models = strings.Join(titles, ", ")
	sittings, err := s.Store.DrillSittings(c, app.DrillFilter{Person: who.ID, Course: x.ID}, 50)
	if err != nil {
		return err
	}
	certificates, err := s.Store.DrillCertificates(c, app.DrillFilter{Person: who.ID, Course: x.ID}, 50)
	if err != nil {
		return err
	}
	body.Row = s.stands(*x, sittings, certificates, time.Now())
	if body.Practical, err = s.practical(c, x, who.ID); err != nil {
		return err
	}
	if !body.Trains {
		return nil
	}
	if body.Code, err = site.Code(body.Link, "Code with the link to this course"); err != nil {
		return err
	}
	if body.People, body.Sittings, err = s.people(c, x); err != nil {
		return err
	}
	body.Form, err = s.form(c, x)
	body.Form.Action, body.Form.Button = "/drills/courses/"+x.Code, "Change the course"
	if body.Typed {
		body.Form.typed(c)
	}
	return err
}

// people are how all stand in a course, the newest sitting of each.
func (s View) people(c *gin.Context, x *app.DrillCourse) (list []personRow, sittings int, err error) {
	all, err := s.Store.DrillSittings(c, app.DrillFilter{Course: x.ID}, 2000)
	if err != nil {
		return nil, 0, err
	}
	dealers, err := s.dealers(c)
	if err != nil {
		return nil, 0, err
	}
	seen := map[uint64]bool{}
	for _, t := range all {
		if seen[t.PersonID] {
			continue
		}
		seen[t.PersonID] = true
		list = append(list, personRow{t.PersonName, dealers[t.DealerID], t.Percent(), t.State, "/drills/sit/" + t.Code,
			t.CreatedAt})
	}
	slices.SortStableFunc(list, func(a, b personRow) int { return strings.Compare(a.Name, b.Name) })
	return list, len(all), nil
}

// dealers are the names of dealers by their ids.
func (s View) dealers(c *gin.Context) (map[uint64]string, error) {
	list, err := s.Store.Dealers(c)
	return namesOf(list), err
}

func namesOf(dealers []app.Dealer) map[uint64]string {
	names := map[uint64]string{}
	for _, d := range dealers {
		names[d.ID] = d.Name
	}
	return names
}

// form is a course as it is typed; that of a new one where there is none.
func (s View) form(c *gin.Context, x *app.DrillCourse) (f courseForm, err error) {
	f = courseForm{Count: "12", PassMark: "80", Months: "24", Action: "/drills/courses", Button: "Make the course"}
	has := map[string]bool{}
	var kinds []drill.Kind
	var practical []string
	if x != nil {
		f.Name, f.Note = x.Name, x.Note
		f.Count, f.PassMark, f.Months = strconv.Itoa(x.Count), strconv.Itoa(x.PassMark), strconv.Itoa(x.Months)
		for _, m := range x.Of() {
			has[m.Slug] = true
		}
		kinds, practical = x.KindList(), x.PracticalList()
	}
	f.Kinds = kindList(func(k drill.Kind) bool { return x == nil || slices.Contains(kinds, k) })
	models, err := s.Store.Models(c)
	if err != nil {
		return f, err
	}
	for _, m := range models {
		f.Models = append(f.Models, modelOf{Slug: m.Slug, Title: fmt.Sprintf("%s (%d)", m.Name, m.Year),
			On: has[m.Slug]})
		if !has[m.Slug] {
			continue
		}
		p, err := s.Publishing.Present(c, m.Slug)
		if err != nil {
			return f, err
		}
		tasks, err := s.Trials.TasksOf(c, p, "")
		if err != nil {
			return f, err
		}
		for _, t := range tasks {
			id := m.Slug + "/" + t.ID
			f.Practical = append(f.Practical, practicalOf{id, t.Title + ", " + p.Doc.Title(),
				slices.Contains(practical, id)})
		}
	}
	return f, nil
}

// newCourse is a course as a form has it.
func newCourse(c *gin.Context) app.NewCourse {
	n := app.NewCourse{Name: c.PostForm("name"), Note: c.PostForm("note"), Practical: c.PostFormArray("practical")}
	for _, slug := range c.PostFormArray("model") {
		n.Models = append(n.Models, app.DrillModel{Slug: slug})
	}
	for _, k := range c.PostFormArray("kind") {
		n.Kinds = append(n.Kinds, drill.Kind(k))
	}
	number := func(name string) int {
		v, err := strconv.Atoi(strings.TrimSpace(c.PostForm(name)))
		if err != nil {
			return -1
		}
		return v
	}
	n.Count, n.PassMark, n.Months = number("count"), number("pass"), number("months")
	return n
}

// typed takes over what was typed: of what is refused nothing is lost.
func (f *courseForm) typed(c *gin.Context) {
	n := newCourse(c)
	f.Name, f.Note = n.Name, n.Note
	f.Count, f.PassMark, f.Months = c.PostForm("count"), c.PostForm("pass"), c.PostForm("months")
	for i := range f.Models {
		f.Models[i].On = slices.Contains(c.PostFormArray("model"), f.Models[i].Slug)
	}
	for i := range f.Practical {
		f.Practical[i].On = slices.Contains(n.Practical, f.Practical[i].ID)
	}
	f.Kinds = kindList(func(k drill.Kind) bool { return slices.Contains(n.Kinds, k) })
}

type coursesBody struct {
	Wrong string
	List  []app.DrillCourse
	Form  courseForm
}

// Courses lists the courses, and makes new ones.
func (s View) Courses(c *gin.Context) { s.courses(c, http.StatusOK, "") }

func (s View) courses(c *gin.Context, status int, wrong string) {
	body := coursesBody{Wrong: wrong}
	var err error
	if body.List, err = s.Store.DrillCourses(c); err == nil {
		body.Form, err = s.form(c, nil)
	}
	if err != nil {
		s.Trouble(c, err)
		return
	}
	if wrong != "" {
		body.Form.typed(c)
	}
	s.Show(c, status, "drill-courses.html", site.Page{Title: "Courses", Body: body})
}

// AddCourse makes a course.
func (s View) AddCourse(c *gin.Context) {
	x, err := s.Drills.AddCourse(c, site.Who(c).By(), newCourse(c))
	refused := func(words string) { s.courses(c, http.StatusUnprocessableEntity, words) }
	if !s.failed(c, err, "There is no such model.", refused) {
		c.Redirect(http.StatusSeeOther, "/drills/courses/"+x.Code)
	}
}

// ChangeCourse changes, closes or opens a course.
func (s View) ChangeCourse(c *gin.Context) {
	by, code := site.Who(c).By(), c.Param("code")
	var err error
	said := "changed"
	switch do := c.PostForm("do"); do {
	case "close", "open":
		said = map[string]string{"close": "closed", "open": "open again"}[do]
		err = s.Drills.CloseCourse(c, by, code, do == "close")
	default:
		err = s.Drills.ChangeCourse(c, by, code, newCourse(c))
	}
	refused := func(words string) {
		s.coursePage(c, http.StatusUnprocessableEntity, courseBody{Wrong: words, Typed: true})
	}
	if !s.failed(c, err, noCourse, refused) {
		c.Redirect(http.StatusSeeOther, "/drills/courses/"+code+"?said="+url.QueryEscape("The course is "+said+"."))
	}
}

// Begin begins a course, or goes on with it.
func (s View) Begin(c *gin.Context) {
	t, job, err := s.Drills.Begin(c, site.Who(c), c.Param("code"))
	if job != nil && err == nil {
		s.coursePage(c, http.StatusOK, courseBody{Job: job})
		return
	}
	s.begun(c, t, job, err)
}
