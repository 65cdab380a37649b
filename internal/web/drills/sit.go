package drills

import (
	"fmt"
	"hash/fnv"
	"html/template"
	"math/rand/v2"
	"net/http"
	"net/url"
	"slices"
	"strconv"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/drill"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/words"
	"coldtap/internal/drawing"
	"coldtap/internal/web/site"
)

// choice is an answer that can be chosen.
type choice struct {
	At    int // of the paper's options
	Said  string
	On    bool
	Right bool
}

// lookOf is a look that can be made, or was.
type lookOf struct {
	At   int
	Look string
	Seen []string
	Part string
}

// looks are the looks of a kind together.
type looks struct {
	Kind string
	Name string
	List []lookOf
}

// knob is a handle as it can be set.
type knob struct {
	Part  *plumbing.Part
	Lets  bool // it is a drain, a plug or a cap
	Place string
	Ways  []way
}

// way is a position of a handle.
type way struct {
	Position string
	Said     string
	Pic      template.HTML
	On       bool
}

type pumpOf struct {
	ID, Name string
	On       bool
}

type sitBody struct {
	*app.DrillTurn
	Code     string
	Number   int // from 1
	Kind     drill.Kind
	KindName string
	Open     bool // may be answered
	Mine     bool
	Wrong    string
	Choices  []choice
	Knobs    []knob
	Pumps    []pumpOf
	Made     []lookOf
	Looks    []looks
	Used     int // looks that count
	Hints    []string
	MoreHint bool
	HintCost int // points
	Why      app.DrillSaid
	Drawing  string // address of the drawing beside the question; "" for none
	Plan     template.HTML
	Picture  template.HTML
	Photo    string
	Asks     string // typed before, where it was no answer
	Next     string
	Class    *app.DrillClass
}

const noQuestion = "This sitting has no such question."

// Sit is a question of a sitting, or what the sitting came to.
func (s View) Sit(c *gin.Context) { s.sit(c, http.StatusOK, "", "") }

// sitting is the sitting of a request, or it answers the request and gives nil.
func (s View) sitting(c *gin.Context) *app.DrillSitting {
	t, err := s.Drills.Sitting(c, site.Who(c), c.Param("code"))
	if s.failed(c, err, "There is no such sitting among yours.", nil) {
		return nil
	}
	return t
}

func (s View) sit(c *gin.Context, status int, wrong, typed string) {
	t := s.sitting(c)
	if t == nil {
		return
	}
	place := -1
	if n, err := strconv.Atoi(c.Query("n")); err == nil && n > 0 {
		place = n - 1
	}
	if t.State != app.DrillOpen && place < 0 {
		s.sheet(c, t)
		return
	}
	turn, err := s.Drills.Turn(c, t, place)
	if s.failed(c, err, noQuestion, nil) {
		return
	}
	body, err := s.question(c, turn)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	body.Wrong, body.Asks = wrong, typed
	s.Show(c, status, "drill-sit.html", site.Page{Title: fmt.Sprintf("%s, question %d", t.Title, body.Number),
		Body: body})
}

// question is a question as its page shows it.
func (s View) question(c *gin.Context, t *app.DrillTurn) (*sitBody, error) {
	who := site.Who(c)
	x := t.Paper
	b := &sitBody{DrillTurn: t, Code: t.Sitting.Code, Number: t.Place + 1, Kind: x.Kind, KindName: names[x.Kind],
		Mine: t.Sitting.PersonID == who.ID}
	b.Open = t.Answer == nil && t.Sitting.State == app.DrillOpen && b.Mine && !t.Waits
	if t.Sitting.ClassID != 0 {
		class, err := s.Store.DrillClass(c, t.Sitting.ClassID)
		if err != nil {
			return nil, err
		}
		b.Class = class
		if class.State == app.DrillOpen && !class.Shown {
			t.Answer = nil // nobody is told before the screen shows it
		}
	}
	b.Hints = x.Hints[:min(t.Try.Hints, len(x.Hints))]
	b.HintCost = drill.HintCosts
	b.MoreHint = b.Open && t.Try.Hints < len(x.Hints)
	given := answerOf(t.Answer)
	b.choices(t, given)
	if t.Answer != nil {
		b.Why = t.Answer.Why()
	}
	b.Next = "/drills/sit/" + b.Code
	b.looks(t)
	if err := s.drawings(c, b, given); err != nil {
		return nil, err
	}
	return b, nil
}

func answerOf(a *app.DrillAnswer) (given drill.Answer) {
	if a != nil {
		given = a.Given()
	}
	return given
}

// shuffled is the order in which a sitting shows choices; those that have an order of their own keep it.
func shuffled(t *app.DrillTurn) []int {
	n := len(t.Paper.Options)
	order := make([]int, n)
	for i := range order {
		order[i] = i
	}
	switch t.Paper.Kind {
	case drill.Order, drill.Where, drill.Fault, drill.Heater:
		return order
	}
	h := fnv.New64a()
	fmt.Fprint(h, t.Sitting.Code, t.Place)
	rand.New(rand.NewPCG(h.Sum64(), 2)).Shuffle(n, func(i, j int) { order[i], order[j] = order[j], order[i] })
	return order
}

// choices are the answers that can be chosen, as somebody chose.
func (b *sitBody) choices(t *app.DrillTurn, given drill.Answer) {
	x := t.Paper
	order := shuffled(t)
	if len(given.Order) == len(order) {
		order = given.Order
	}
	for _, i := range order {
		o := x.Options[i]
		b.Choices = append(b.Choices, choice{At: i, Said: o.Said, On: o.ID == given.Pick && given.Pick != "",
			Right: t.Answer != nil && slices.Contains(x.Right, o.ID)})
	}
}

// lookNames are the kinds of look, as buttons have them.
var lookNames = []looks{{Kind: "open", Name: "Open an outlet"}, {Kind: "see", Name: "Look at a handle or switch"},
	{Kind: "turn", Name: "Turn a handle and open an outlet"}, {Kind: "wait", Name: "Wait"},
	{Kind: "heat", Name: "Heat"}}

// looks are what was looked at, and what can be.
func (b *sitBody) looks(t *app.DrillTurn) {
	x := t.Paper
	if x.Kind != drill.Fault {
		return
	}
	made := t.Try.LookList()
	for _, id := range made {
		if i := slices.IndexFunc(x.Looks, func(l drill.LookOf) bool { return l.ID == id }); i >= 0 {
			b.Made = append(b.Made, lookOf{At: i, Look: site.UpperFirst(x.Shows[i].Look), Seen: x.Shows[i].Seen})
			if !x.Looks[i].Free {
				b.Used++
			}
		}
	}
	for _, kind := range lookNames {
		for i, l := range x.Looks {
			if l.Kind == kind.Kind && !l.Free && !slices.Contains(made, l.ID) {
				kind.List = append(kind.List, lookOf{At: i, Look: site.UpperFirst(x.Shows[i].Look), Part: l.Part})
			}
		}
		if kind.List != nil {
			b.Looks = append(b.Looks, kind)
		}
	}
}

// drawings are what stands beside a question.
func (s View) drawings(c *gin.Context, b *sitBody, given drill.Answer) error {
	x := b.Paper
	here := fmt.Sprintf("/drills/sit/%s/drawing?n=%d", b.Code, b.Number)
	if b.Answer != nil && len(b.Why.Parts) > 0 {
		b.Drawing = here
	}
	switch x.Kind {
	case drill.Valves, drill.Fault, drill.Happens, drill.Label:
		b.Drawing = here
	case drill.Heater:
		b.Picture = template.HTML(drawing.HeaterLook(x.Signs)) // drawn by us
	}
	if x.Photo != "" {
		b.Photo = fmt.Sprintf("/models/%s/photos/%s/image", b.Question.Slug, x.Photo)
	}
	if x.Kind != drill.Valves && (x.Kind != drill.Where || x.Photo != "") {
		return nil
	}
	build, err := s.Drills.BuildOf(c, b.Question, b.DrillTurn.Number)
	if err != nil {
		return err
	}
	if x.Kind == drill.Where {
		chosen := ""
		if x.Number > 0 || b.Answer != nil {
			chosen = x.Right[0]
		}
		layout := drawing.NewLayout(build.Model)
		if b.Answer == nil {
			layout = layout.Unnamed()
		}
		b.Plan = template.HTML(layout.Plan(chosen) + layout.Side(chosen)) // drawn by us, texts escaped
		return nil
	}
	p := words.English(build.Model.System())
	for _, h := range build.Net.AllHandles() {
		at := x.Start[h.Part.ID]
		if v, ok := given.Handles[h.Part.ID]; ok {
			at = v
		}
		k := knob{Part: h.Part, Lets: h.Part.Lets(), Place: p.Place(h.Part.Place)}
		for _, pos := range h.Positions {
			k.Ways = append(k.Ways, way{pos, p.Position(h.Part, pos), template.HTML(drawing.Handle(h.Part, pos)),
				pos == at})
		}
		b.Knobs = append(b.Knobs, k)
	}
	for _, pump := range build.Net.Pumps {
		b.Pumps = append(b.Pumps, pumpOf{pump.ID, pump.Name, slices.Contains(given.Pumps, pump.ID)})
	}
	return nil
}

// at is which question a form is about.
func at(c *gin.Context) int {
	n, err := strconv.Atoi(c.PostForm("n"))
	if err != nil {
		return -1
	}
	return n - 1
}

// Answer marks an answer.
func (s View) Answer(c *gin.Context) {
	t := s.sitting(c)
	if t == nil {
		return
	}
	place := at(c)
	turn, err := s.Drills.Turn(c, t, place)
	if err != nil {
		s.back(c, err)
		return
	}
	a, err := given(c, turn)
	if err == nil {
		_, err = s.Drills.Answer(c, site.Who(c), t.Code, turn.Place, a)
	}
	s.back(c, err)
}

// given is the answer that a form has.
func given(c *gin.Context, t *app.DrillTurn) (a drill.Answer, err error) {
	x := t.Paper
	switch {
	case x.Kind == drill.Valves:
		a.Handles = map[string]string{}
		for id := range x.Start {
			if v := c.PostForm("h-" + id); v != "" {
				a.Handles[id] = v
			}
		}
		a.Pumps = c.PostFormArray("pump")
	case x.Kind == drill.Order:
		places := map[int]int{}
		for i := range x.Options {
			at, err := strconv.Atoi(c.PostForm(fmt.Sprintf("at-%d", i)))
			if _, taken := places[at]; err != nil || taken || at < 1 || at > len(x.Options) {
				return a, &app.RefusedError{Words: "Give each step a place of its own."}
			}
			places[at] = i
		}
		for i := range x.Options {
			a.Order = append(a.Order, places[i+1])
		}
	case x.Kind == drill.Amount:
		a.Text = c.PostForm("text")
		if len(a.Text) > 60 {
			return a, &app.RefusedError{Words: "An amount is a number and a unit."}
		}
	case x.Photo != "":
		px, errX := strconv.ParseFloat(c.PostForm("x"), 64)
		py, errY := strconv.ParseFloat(c.PostForm("y"), 64)
		if errX == nil && errY == nil {
			a.At = &[2]float64{px, py}
		}
	default:
		i, err := strconv.Atoi(c.PostForm("pick"))
		if err == nil && i >= 0 && i < len(x.Options) {
			a.Pick = x.Options[i].ID
		}
	}
	return a, nil
}

// Hint gives a hint more.
func (s View) Hint(c *gin.Context) {
	s.back(c, s.Drills.Hint(c, site.Who(c), c.Param("code"), at(c)))
}

// Look makes a look.
func (s View) Look(c *gin.Context) {
	t := s.sitting(c)
	if t == nil {
		return
	}
	turn, err := s.Drills.Turn(c, t, at(c))
	if err != nil {
		s.back(c, err)
		return
	}
	look := ""
	if i, err := strconv.Atoi(c.PostForm("look")); err == nil && i >= 0 && i < len(turn.Paper.Looks) {
		look = turn.Paper.Looks[i].ID
	}
	s.back(c, s.Drills.Look(c, site.Who(c), t.Code, turn.Place, look))
}

// back goes back to the question that was worked on.
func (s View) back(c *gin.Context, err error) {
	n := url.QueryEscape(c.PostForm("n"))
	refused := func(words string) {
		c.Request.URL.RawQuery = "n=" + n
		s.sit(c, http.StatusUnprocessableEntity, words, c.PostForm("text"))
	}
	if !s.failed(c, err, noQuestion, refused) {
		c.Redirect(http.StatusSeeOther, fmt.Sprintf("/drills/sit/%s?n=%s", c.Param("code"), n))
	}
}

// sheetRow is an answer of a sitting that is over.
type sheetRow struct {
	app.DrillAnswer
	KindName string
	Href     string
}

type sheetBody struct {
	*app.DrillSitting
	Mine        bool
	Course      *app.DrillCourse
	Rows        []sheetRow
	Certificate *app.DrillCertificate
	Practical   []string // what is still to be seen at a unit
}

// sheet is what a sitting came to.
func (s View) sheet(c *gin.Context, t *app.DrillSitting) {
	body := sheetBody{DrillSitting: t, Mine: t.PersonID == site.Who(c).ID}
	answers, err := s.Store.DrillAnswersOf(c, t.ID)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	for _, a := range answers {
		body.Rows = append(body.Rows, sheetRow{a, names[a.Kind], fmt.Sprintf("/drills/sit/%s?n=%d", t.Code, a.Place+1)})
	}
	if t.CourseID != 0 {
		if body.Course, err = s.Store.DrillCourse(c, t.CourseID); err != nil {
			s.Trouble(c, err)
			return
		}
		if body.Practical, err = s.practical(c, body.Course, t.PersonID); err != nil {
			s.Trouble(c, err)
			return
		}
		list, err := s.Store.DrillCertificates(c, app.DrillFilter{Person: t.PersonID, Course: t.CourseID}, 50)
		if err != nil {
			s.Trouble(c, err)
			return
		}
		if i := slices.IndexFunc(list, func(x app.DrillCertificate) bool { return x.SittingID == t.ID }); i >= 0 {
			body.Certificate = &list[i]
		}
	}
	s.Show(c, http.StatusOK, "drill-sheet.html", site.Page{Title: t.Title, Body: body})
}
