// Package units keeps the logs of the campers that were built: what was done on
// each, what is due, what it will need.
package units

import (
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/care"
	"coldtap/internal/people"
	"coldtap/internal/web/site"
)

// View answers the requests of these pages.
type View struct{ *site.Site }

// Names of what is done and due, of why, and of how units are used.
var (
	done = map[care.Kind]string{care.Sanitized: "Sanitized", care.Winterized: "Made ready for the winter",
		care.DeWinterized: "Taken out of storage", care.Changed: "Changed", care.AnodeLook: "Looked at the anode",
		care.AnodeNew: "New anode", care.Descaled: "Descaled", care.HotCycle: "Hot cycle",
		care.Repaired: "Repaired: lines were opened",
		care.Tried:    "Trial", care.Noted: "Note"}
	toDo = map[care.Kind]string{care.Sanitized: "Sanitize", care.Winterized: "Make ready for the winter",
		care.DeWinterized: "Take out of storage", care.Changed: "Change", care.AnodeLook: "Look at the anode",
		care.AnodeNew: "Change the anode", care.Descaled: "Descale", care.HotCycle: "Let the hot cycle run"}
	why = map[care.Reason]string{care.Never: "never done", care.Interval: "it is time again",
		care.Opened:  "lines were opened",
		care.Storage: "it stood in storage", care.Frost: "before it freezes", care.Spring: "before it is used again",
		care.Wear: "two looks say how it wears", care.WornOut: "the last look says so", care.FirstLook: "first look"}
	uses = map[care.Use]string{care.Stored: "stored for most of the year", care.Holidays: "on holidays",
		care.LivedIn: "lived in"}
)

type choice struct{ ID, Name string }

func useChoices() (list []choice) {
	for _, u := range care.Uses() {
		list = append(list, choice{string(u), uses[u]})
	}
	return list
}

// dueRow is something that is due, in words.
type dueRow struct {
	Href, Serial, Model string
	What, Why           string
	On                  time.Time
	Late                bool
	Task                string // id of its procedure
}

type listBody struct {
	Find    string
	Wrong   string
	Said    string
	Due     []dueRow
	Count   int64
	Ahead   int // days
	Kind    care.Kind
	Kinds   []choice
	Units   []unitRow
	Job     *app.Job
	Keeps   bool
	Dealers []app.Dealer
	Own     string // the dealer of who looks; "" where they see all
	None    bool   // they belong to no dealer
	Models  []app.Model
	Uses    []choice
	New     newUnit
}

type unitRow struct {
	Href, Serial, Model, Use, Dealer string
}

type newUnit struct{ Serial, Slug, Use, Made, Dealer string }

// keeps reports whether somebody keeps logs.
func keeps(p *app.Person) bool {
	return p.Role.In([]people.Role{people.Author, people.Reviewer, people.Trainer, people.Technician})
}

// most rows of a list.
const most = 200

// waits is how long a page waits for what is due to be worked out again.
const waits = 300 * time.Millisecond

// List finds units and lists what is due.
func (s View) List(c *gin.Context) {
	scope := site.Who(c).Scope()
	if text := strings.TrimSpace(c.Query("find")); text != "" {
		u, err := s.Units.Find(c, scope, text)
		if err == nil {
			c.Redirect(http.StatusSeeOther, fmt.Sprintf("/units/%d", u.ID))
			return
		}
		if !errors.Is(err, app.ErrNotFound) {
			s.Trouble(c, err)
			return
		}
	}
	s.list(c, http.StatusOK, listBody{Find: strings.TrimSpace(c.Query("find")), Said: c.Query("said")})
}

func (s View) list(c *gin.Context, status int, body listBody) {
	who := site.Who(c)
	scope := who.Scope()
	body.Keeps, body.Uses = keeps(who), useChoices()
	if job := s.Units.Soon(); job != nil && !job.Wait(c, waits) {
		body.Job = job
	}
	body.Ahead, _ = strconv.Atoi(c.DefaultQuery("ahead", "30"))
	body.Ahead = max(0, min(400, body.Ahead))
	body.Kind = care.Kind(c.Query("kind"))
	for _, k := range care.Kinds() {
		if toDo[k] != "" {
			body.Kinds = append(body.Kinds, choice{string(k), toDo[k]})
		}
	}
	var err error
	if body.Dealers, err = s.Store.Dealers(c); err != nil {
		s.Trouble(c, err)
		return
	}
	names := map[uint64]string{}
	for _, d := range body.Dealers {
		names[d.ID] = d.Name
	}
	if !scope.All {
		body.Own, body.None = names[scope.Dealer], scope.Dealer == 0
	}
	titles, err := s.titles(c, &body)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	now := time.Now().UTC()
	until := now.AddDate(0, 0, body.Ahead)
	rows, err := s.Store.Dues(c, scope, until, body.Kind, most)
	if err == nil {
		body.Count, err = s.Store.CountDues(c, scope, until)
	}
	if err != nil {
		s.Trouble(c, err)
		return
	}
	for _, r := range rows {
		body.Due = append(body.Due, dueRow{Href: fmt.Sprintf("/units/%d", r.UnitID), Serial: r.Serial, Model: titles[r.Slug],
			What: s.what(r.UnitDue, nil), Why: why[r.Why], On: r.On, Late: r.On.Before(now)})
	}
	if key := app.SerialKey(body.Find); key != "" || body.Count == 0 {
		list, err := s.Store.Units(c, scope, key, 50)
		if err != nil {
			s.Trouble(c, err)
			return
		}
		for _, u := range list {
			body.Units = append(body.Units, unitRow{fmt.Sprintf("/units/%d", u.ID), u.Serial, titles[u.Slug], uses[u.Use],
				names[u.DealerID]})
		}
		if key != "" && len(list) == 0 {
			body.Wrong = "There is no unit whose serial number begins like this among those that you keep."
			body.New.Serial = body.Find
		}
	}
	s.Show(c, status, "units.html", site.Page{Title: "Units", Body: body})
}

// titles are what models are called, by their slugs.
func (s View) titles(c *gin.Context, body *listBody) (map[string]string, error) {
	models, err := s.Store.Models(c)
	titles := map[string]string{}
	for _, m := range models {
		titles[m.Slug] = fmt.Sprintf("%s (%d)", m.Name, m.Year)
	}
	body.Models = models
	return titles, err
}

// what is what is due, in words; names are of parts and consumables.
func (s View) what(d app.UnitDue, names map[string]string) string {
	text := toDo[d.Kind]
	if name := names[d.Of]; name != "" && d.Kind != care.Winterized {
		if d.Kind == care.Changed {
			return text + ": " + name
		}
		return text + " (" + name + ")"
	}
	if d.Kind == care.Changed {
		return text + ": " + d.Of
	}
	return text
}
