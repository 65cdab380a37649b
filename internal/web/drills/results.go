package drills

import (
	"encoding/csv"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"
	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/browser"
	"coldtap/internal/core/drill"
	"coldtap/internal/drawing"
	"coldtap/internal/guide/html"
	"coldtap/internal/web/site"
)

func heaterLook(signs []string) template.HTML { return template.HTML(drawing.HeaterLook(signs)) } // drawn by us

// group is answers that belong together, counted.
type group struct {
	Name   string
	Href   string
	Asked  int
	Rights int
	Danger int
	Void   int
}

// Share is how many were right, in per cent.
func (g group) Share() int {
	if g.Asked == 0 {
		return 0
	}
	return 100 * g.Rights / g.Asked
}

type resultsBody struct {
	Trains       bool
	By           string
	Bys          []choiceOf
	Groups       []group
	Rows         []sheetRow
	Certificates []certificateRow
	Models       []modelOf
	Kinds        []kindOf
	Dealers      []app.Dealer
	Filter       app.DrillFilter
	Query        string
	Most         int
}

type choiceOf struct {
	ID, Name string
	On       bool
}

// filter is which answers a request asks for, within what somebody sees.
func filter(c *gin.Context) app.DrillFilter {
	f := site.Who(c).DrillScope()
	f.Slug, f.Kind, f.Mark = c.Query("model"), drill.Kind(c.Query("kind")), c.Query("question")
	if dealer, err := strconv.ParseUint(c.Query("dealer"), 10, 64); err == nil {
		f.Dealer = dealer
	}
	if person, err := strconv.ParseUint(c.Query("person"), 10, 64); err == nil && f.Person == 0 {
		f.Person = person
	}
	return f
}

// mostAnswers is how many answers a page counts.
const mostAnswers = 5000

// Results counts answers by technician, dealer, model or question.
func (s View) Results(c *gin.Context) {
	who := site.Who(c)
	f := filter(c)
	body := resultsBody{Trains: who.Trains(), By: c.DefaultQuery("by", "person"), Filter: f, Most: mostAnswers,
		Query: c.Request.URL.RawQuery}
	if !body.Trains && c.Query("by") == "" {
		body.By = "model"
	}
	for _, b := range []choiceOf{{"person", "technician", false}, {"dealer", "dealer", false},
		{"model", "model", false}, {"kind", "kind", false}, {"question", "question", false}} {
		b.On = b.ID == body.By
		body.Bys = append(body.Bys, b)
	}
	answers, err := s.Store.DrillAnswers(c, f, mostAnswers)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	if err := s.fillResults(c, &body, answers); err != nil {
		s.Trouble(c, err)
		return
	}
	s.Show(c, http.StatusOK, "drill-results.html", site.Page{Title: "Results", Body: body})
}

func (s View) fillResults(c *gin.Context, body *resultsBody, answers []app.DrillAnswer) error {
	models, err := s.Store.Models(c)
	if err != nil {
		return err
	}
	titles := map[string]string{}
	for _, m := range models {
		titles[m.Slug] = fmt.Sprintf("%s (%d)", m.Name, m.Year)
		body.Models = append(body.Models, modelOf{Slug: m.Slug, Title: titles[m.Slug], On: m.Slug == body.Filter.Slug})
	}
	body.Kinds = kindList(func(k drill.Kind) bool { return k == body.Filter.Kind })
	if body.Dealers, err = s.Store.Dealers(c); err != nil {
		return err
	}
	dealers := namesOf(body.Dealers)
	body.Groups = groups(answers, body.By, titles, dealers)
	for i, a := range answers {
		if i == 100 {
			break
		}
		body.Rows = append(body.Rows, sheetRow{DrillAnswer: a, KindName: names[a.Kind]})
	}
	certificates, err := s.Store.DrillCertificates(c, app.DrillFilter{Person: body.Filter.Person,
		Dealer: body.Filter.Dealer}, 200)
	for _, x := range certificates {
		body.Certificates = append(body.Certificates, certificateRow{x, stateOf(&x, time.Now())})
	}
	return err
}

// groups counts answers by what they have in common, the most missed first.
func groups(answers []app.DrillAnswer, by string, titles map[string]string, dealers map[uint64]string) (list []group) {
	at := map[string]int{}
	for i := range answers {
		a := &answers[i]
		g := group{}
		key := ""
		switch by {
		case "dealer":
			g.Name, g.Href = dealers[a.DealerID], fmt.Sprintf("?by=person&dealer=%d", a.DealerID)
			if key = g.Href; a.DealerID == 0 {
				g.Name, g.Href = "no dealer", ""
			}
		case "model":
			g.Name, g.Href = titles[a.Slug], "?by=question&model="+a.Slug
			if key = a.Slug; g.Name == "" {
				g.Name = a.Slug
			}
		case "kind":
			g.Name, g.Href, key = names[a.Kind], "?by=question&kind="+string(a.Kind), string(a.Kind)
		case "question":
			g.Name, g.Href, key = a.Ask, "?by=person&model="+a.Slug+"&question="+a.Mark, a.Slug+a.Mark
		default:
			g.Name, key = a.PersonName, strconv.FormatUint(a.PersonID, 10)
			g.Href = "?by=question&person=" + key
		}
		k, there := at[key]
		if !there {
			k, at[key] = len(list), len(list)
			list = append(list, g)
		}
		row := &list[k]
		if a.VoidWhy != "" {
			row.Void++
			continue
		}
		row.Asked++
		if a.Right {
			row.Rights++
		}
		if a.Danger {
			row.Danger++
		}
	}
	slices.SortStableFunc(list, func(a, b group) int {
		if d := a.Share() - b.Share(); d != 0 {
			return d
		}
		return strings.Compare(a.Name, b.Name)
	})
	return list
}

// File writes results as CSV, or what expires and is due for calendars.
func (s View) File(c *gin.Context) {
	f := filter(c)
	var err error
	switch c.Param("kind") {
	case "csv":
		err = s.csv(c, f)
	case "ics":
		err = s.calendar(c, f)
	default:
		s.NotFound(c, "Results are written as csv, what is due as ics.")
	}
	if err != nil {
		s.Trouble(c, err)
	}
}

func (s View) csv(c *gin.Context, f app.DrillFilter) error {
	answers, err := s.Store.DrillAnswers(c, f, 100_000)
	if err != nil {
		return err
	}
	dealers, err := s.dealers(c)
	if err != nil {
		return err
	}
	site.Download(c, "text/csv; charset=utf-8", "results.csv")
	w := csv.NewWriter(c.Writer)
	_ = w.Write([]string{"time", "technician", "dealer", "model", "build", "kind", "procedure", "question", "right",
		"danger", "points", "hints", "looks", "fewest looks", "void because"})
	for i := range answers {
		a := &answers[i]
		_ = w.Write([]string{a.CreatedAt.Format(time.RFC3339), site.PlainCell(a.PersonName),
			site.PlainCell(dealers[a.DealerID]), a.Slug, a.Build, string(a.Kind), a.Task, site.PlainCell(a.Ask),
			strconv.FormatBool(a.Right), strconv.FormatBool(a.Danger), strconv.Itoa(a.Points), strconv.Itoa(a.Hints),
			strconv.Itoa(a.Looks), strconv.Itoa(a.Fewest), site.PlainCell(a.VoidWhy)})
	}
	w.Flush()
	return w.Error()
}

// calendar has when certificates expire, and when somebody's own kinds of question are due again.
func (s View) calendar(c *gin.Context, f app.DrillFilter) error {
	certificates, err := s.Store.DrillCertificates(c, f, 2000)
	if err != nil {
		return err
	}
	cal := ics.NewCalendar()
	cal.SetProductId("-//Cold Tap//drills//EN")
	add := func(id string, on time.Time, words string) {
		e := cal.AddEvent(id + "@coldtap")
		e.SetDtStampTime(time.Now())
		e.SetAllDayStartAt(on)
		e.SetAllDayEndAt(on.AddDate(0, 0, 1))
		e.SetSummary(words)
	}
	for i := range certificates {
		x := &certificates[i]
		if !x.ForGood() && x.VoidWhy == "" {
			add("certificate-"+x.Number, x.ExpiresOn, fmt.Sprintf("%s: %s expires", x.PersonName, x.Title))
		}
	}
	memories, err := s.Store.DrillMemories(c, site.Who(c).ID)
	if err != nil {
		return err
	}
	for _, m := range memories {
		add(fmt.Sprintf("drill-%d-%s-%s", m.PersonID, m.Slug, m.Kind), m.DueOn,
			fmt.Sprintf("Drill: %s, %s", names[m.Kind], m.Slug))
	}
	site.Download(c, "text/calendar; charset=utf-8", "drills.ics")
	_, err = fmt.Fprint(c.Writer, cal.Serialize())
	return err
}

type certificateBody struct {
	*app.DrillCertificate
	State  string
	Holds  bool
	Code   template.HTML
	Link   string
	CSS    template.CSS
	Number string // as it is printed
}

// Certificate is a certificate as PDF.
func (s View) Certificate(c *gin.Context) {
	x, err := s.Store.DrillCertificate(c, app.CertificateNumber(c.Param("number")))
	who := site.Who(c)
	switch {
	case errors.Is(err, app.ErrNotFound) || err == nil && x.PersonID != who.ID && !who.Trains():
		s.NotFound(c, "There is no such certificate among those that you see.")
		return
	case err != nil:
		s.Trouble(c, err)
		return
	}
	if _, err := browser.Find(); err != nil {
		s.Show(c, http.StatusServiceUnavailable, "message.html",
			site.Page{Title: "PDF", Body: site.Say("No PDF can be made here",
				"Chromium is missing on the server: ask whoever runs it to install it.")})
		return
	}
	faces, err := html.Faces()
	if err != nil {
		s.Trouble(c, err)
		return
	}
	body := certificateBody{DrillCertificate: x, State: stateOf(x, time.Now()), Number: x.Shown(),
		CSS: template.CSS(faces), Link: site.Origin(c) + "/certificates/" + x.Shown()}
	if body.Code, err = site.Code(body.Link, "Code with the link where this number is checked"); err != nil {
		s.Trouble(c, err)
		return
	}
	page, err := s.Render("certificate-print.html", body)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	raw, err := s.Printer.Print(c, page, browser.A4)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	site.Download(c, "application/pdf", "certificate-"+x.Shown()+".pdf")
	_, _ = c.Writer.Write(raw)
}

type checkBody struct {
	Typed string
	Wrong string
	X     *certificateBody
}

// Check says whether a number is one of a certificate, and whether that holds: for everybody, and nothing else.
func (s View) Check(c *gin.Context) {
	typed := c.Param("number")
	if typed == "" {
		typed = c.Query("number")
	}
	body := checkBody{Typed: strings.TrimSpace(typed)}
	status := http.StatusOK
	if body.Typed != "" {
		number := app.CertificateNumber(body.Typed)
		x, err := s.Store.DrillCertificate(c, number)
		switch {
		case number == "":
			status = http.StatusNotFound
			body.Wrong = "This is no number of a certificate: look whether a letter is typed wrongly."
		case errors.Is(err, app.ErrNotFound):
			status, body.Wrong = http.StatusNotFound, "There is no certificate of this number."
		case err != nil:
			s.Trouble(c, err)
			return
		default:
			body.X = &certificateBody{DrillCertificate: x, State: stateOf(x, time.Now()), Holds: x.Holds(time.Now()),
				Number: x.Shown()}
		}
	}
	s.Show(c, status, "certificate.html", site.Page{Title: "Certificate", Body: body})
}
