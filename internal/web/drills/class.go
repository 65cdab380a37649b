package drills

import (
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strconv"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/drill"
	"coldtap/internal/core/paper"
	"coldtap/internal/web/site"
)

type classBody struct {
	Class    *app.DrillClass
	Number   int // of the question, from 1
	Of       int
	Paper    *paper.Paper
	KindName string
	Choices  []tallyOf
	Counted  bool // how many chose each is shown: not of steps to be put in order
	Others   int  // answers that are no choice
	People   []memberOf
	Answered int
	Rights   int
	Right    string // in words
	Why      []string
	Drawing  string
	Picture  template.HTML
	Link     string
	Code     template.HTML
	Key      string // of what the screen shows: it is taken anew only where that is another
	Last     bool
	Over     bool
	Job      *app.Job
}

// tallyOf is a choice with how many chose it.
type tallyOf struct {
	Said  string
	Count int
	Share int // per cent
	Right bool
}

// memberOf is somebody in a class.
type memberOf struct {
	Name     string
	Answered bool
	Right    bool
	Points   int
}

const noClass = "There is no such class."

// OpenClass opens a class of a course.
func (s View) OpenClass(c *gin.Context) {
	x, job, err := s.Drills.OpenClass(c, site.Who(c), c.Param("code"))
	refused := func(words string) { s.coursePage(c, http.StatusUnprocessableEntity, courseBody{Wrong: words}) }
	switch {
	case s.failed(c, err, noCourse, refused):
	case job != nil:
		s.coursePage(c, http.StatusOK, courseBody{Job: job})
	default:
		c.Redirect(http.StatusSeeOther, "/drills/classes/"+x.Code)
	}
}

// class is the class of a request, or it answers the request and gives nil.
func (s View) class(c *gin.Context) *app.DrillClass {
	x, err := s.Store.DrillClassByCode(c, c.Param("code"))
	if s.failed(c, err, noClass, nil) {
		return nil
	}
	return x
}

// Class is the screen of a class; asked for by htmx it is what changes of it.
func (s View) Class(c *gin.Context) {
	x := s.class(c)
	if x == nil {
		return
	}
	body, err := s.screen(c, x)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	name := "drill-class.html"
	if c.Query("part") != "" && c.Query("key") == body.Key {
		c.Status(http.StatusNoContent)
		return
	}
	if c.Query("part") != "" {
		name = "drill-class-part"
	}
	s.Show(c, http.StatusOK, name, site.Page{Title: "Class: " + x.Title, Body: body})
}

func (s View) screen(c *gin.Context, x *app.DrillClass) (*classBody, error) {
	places := x.Places()
	b := &classBody{Class: x, Number: x.Place + 1, Of: len(places), Last: x.Place == len(places)-1,
		Over: x.State != app.DrillOpen, Link: site.Origin(c) + "/drills/join/" + x.Code}
	var err error
	if b.Code, err = site.Code(b.Link, "Code with the link to take part"); err != nil {
		return nil, err
	}
	q, err := s.Store.DrillQuestion(c, places[x.Place].Question)
	if err != nil {
		return nil, err
	}
	if b.Paper, err = q.Read(); err != nil {
		return nil, err
	}
	b.KindName = names[q.Kind]
	if q.Kind == drill.Heater {
		b.Picture = heaterLook(b.Paper.Signs)
	}
	members, err := s.Store.DrillSittingsOfClass(c, x.ID)
	if err != nil {
		return nil, err
	}
	var ids []uint64
	for _, m := range members {
		ids = append(ids, m.ID)
	}
	answers, err := s.Store.DrillAnswersOf(c, ids...)
	if err != nil {
		return nil, err
	}
	picks := map[string]int{}
	for _, m := range members {
		row := memberOf{Name: m.PersonName, Points: m.Points}
		i := slices.IndexFunc(answers, func(a app.DrillAnswer) bool {
			return a.SittingID == m.ID && a.Place == x.Place
		})
		if i >= 0 {
			row.Answered, row.Right = true, answers[i].Right
			b.Answered++
			if row.Right {
				b.Rights++
			}
			if pick := answers[i].Given().Pick; pick != "" {
				picks[pick]++
			} else {
				b.Others++
			}
		}
		b.People = append(b.People, row)
	}
	for _, o := range b.Paper.Options {
		if q.Kind == drill.Fault && picks[o.ID] == 0 && !slices.Contains(b.Paper.Right, o.ID) {
			continue
		}
		t := tallyOf{Said: o.Said, Count: picks[o.ID], Right: slices.Contains(b.Paper.Right, o.ID)}
		if b.Answered > 0 {
			t.Share = 100 * t.Count / b.Answered
		}
		b.Choices = append(b.Choices, t)
	}
	b.Key = fmt.Sprintf("%d-%t-%s-%d-%d", x.Place, x.Shown, x.State, len(members), b.Answered)
	b.Counted = q.Kind != drill.Order && q.Kind != drill.Valves
	if x.Shown {
		b.reveal(answers, x)
	}
	return b, nil
}

// reveal tells what is right, and why.
func (b *classBody) reveal(answers []app.DrillAnswer, x *app.DrillClass) {
	b.Right = app.RightOf(b.Paper)
	for _, id := range b.Paper.Right {
		b.Why = b.Paper.Reasons[id].Said
	}
	if r, ok := b.Paper.Reasons[drill.RightOutcome]; ok {
		b.Why = r.Said
	}
	for _, a := range answers { // of what is marked on the plumbing, and of orders, somebody's wrong answer says it
		if said := a.Why(); a.Place == x.Place && !a.Right && b.Why == nil {
			b.Why = said.Said
		}
	}
}

// Move lets a class go on.
func (s View) Move(c *gin.Context) {
	at, _ := strconv.Atoi(c.PostForm("at")) // what is no number is no place
	err := s.Drills.Move(c, site.Who(c), c.Param("code"), c.PostForm("do"), at-1)
	refused := func(words string) {
		s.Show(c, http.StatusUnprocessableEntity, "message.html",
			site.Page{Title: "Class", Body: site.Say("Not yet", words)})
	}
	if !s.failed(c, err, noClass, refused) {
		c.Redirect(http.StatusSeeOther, "/drills/classes/"+c.Param("code"))
	}
}

// Join lets somebody take part in a class.
func (s View) Join(c *gin.Context) {
	t, err := s.Drills.Join(c, site.Who(c), c.Param("code"))
	s.begun(c, t, nil, err)
}

// Waiting says whether a class has gone on since a phone looked: its page is taken anew then.
func (s View) Waiting(c *gin.Context) {
	t := s.sitting(c)
	if t == nil {
		return
	}
	n, _ := strconv.Atoi(c.Query("n"))
	shown := c.Query("shown") != ""
	class, err := s.Store.DrillClass(c, t.ClassID)
	if err != nil {
		s.NotFound(c, "This is no sitting of a class.")
		return
	}
	if class.State != app.DrillOpen || class.Place != n-1 || class.Shown != shown {
		c.Header("HX-Redirect", fmt.Sprintf("/drills/sit/%s", t.Code))
	}
	c.Status(http.StatusNoContent)
}
