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

// Add keeps a unit.
func (s View) Add(c *gin.Context) {
	who := site.Who(c)
	n := newUnit{Serial: c.PostForm("serial"), Slug: c.PostForm("model"), Use: c.PostForm("use"),
		Made:   c.PostForm("made"),
		Dealer: c.PostForm("dealer")}
	dealer, _ := strconv.ParseUint(n.Dealer, 10, 64)
	if who.Role == people.Technician {
		dealer = who.DealerID
	}
	made, err := day(n.Made)
	var u *app.Unit
	if err == nil {
		u, err = s.Units.Add(c, who.By(), who.Scope(), app.NewUnit{Serial: n.Serial, Slug: n.Slug, Dealer: dealer,
			Use: care.Use(n.Use), MadeOn: made})
	}
	var no *app.RefusedError
	switch {
	case errors.As(err, &no):
		s.list(c, http.StatusUnprocessableEntity, listBody{Wrong: no.Words, New: n})
	case err != nil:
		s.Trouble(c, err)
	default:
		c.Redirect(http.StatusSeeOther, fmt.Sprintf("/units/%d", u.ID))
	}
}

// day reads a day as forms write it; nothing is the zero time.
func day(text string) (time.Time, error) {
	if text == "" {
		return time.Time{}, nil
	}
	t, err := time.Parse(time.DateOnly, text)
	if err != nil {
		return t, &app.RefusedError{Words: "A day is written like 2027-04-01."}
	}
	return t, nil
}

// Write writes in a unit's log, takes an entry back, or changes what the unit is.
func (s View) Write(c *gin.Context) {
	u := s.unit(c)
	if u == nil {
		return
	}
	who := site.Who(c)
	var err error
	said := ""
	switch c.PostForm("do") {
	case "write":
		var e app.UnitEntry
		if e, err = entryOf(c); err == nil {
			err = s.Units.Write(c, who.By(), who.Scope(), u.ID, e)
		}
		said = "It stands in the log."
	case "take-back":
		err = s.Units.TakeBack(c, who.By(), who.Scope(), u.ID, c.PostForm("mark"))
		said = "It is taken back."
	case "change":
		dealer, _ := strconv.ParseUint(c.PostForm("dealer"), 10, 64)
		var made time.Time
		if made, err = day(c.PostForm("made")); err == nil {
			err = s.Units.Change(c, who.By(), who.Scope(), u.ID, func(x *app.Unit) {
				x.Use, x.Note = care.Use(c.PostForm("use")), strings.TrimSpace(c.PostForm("note"))
				if build := c.PostForm("build"); build != "" {
					x.Build = build
				}
				if !made.IsZero() {
					x.MadeOn = made
				}
				if who.Scope().All {
					x.DealerID = dealer
				}
			})
		}
		said = "The unit is changed."
	default:
		err = &app.RefusedError{Words: "Choose what to write."}
	}
	var no *app.RefusedError
	switch {
	case errors.As(err, &no):
		s.show(c, http.StatusUnprocessableEntity, "", no.Words)
	case errors.Is(err, app.ErrNotFound):
		s.NotFound(c, "This is not there any more.")
	case err != nil:
		s.Trouble(c, err)
	default:
		c.Redirect(http.StatusSeeOther, fmt.Sprintf("/units/%d?said=%s", u.ID, strings.ReplaceAll(said, " ", "+")))
	}
}

// entryOf reads an entry of a form.
func entryOf(c *gin.Context) (app.UnitEntry, error) {
	e := app.UnitEntry{Mark: c.PostForm("mark"), Kind: care.Kind(c.PostForm("kind")), Words: c.PostForm("words")}
	on, err := day(c.PostForm("on"))
	if err != nil {
		return e, err
	}
	e.On = on
	number := func(name, unit string, by float64) error {
		text := strings.TrimSuffix(strings.TrimSpace(strings.ReplaceAll(c.PostForm(name), ",", ".")), unit)
		if text == "" {
			return nil
		}
		v, err := strconv.ParseFloat(strings.TrimSpace(text), 64)
		if err != nil {
			return &app.RefusedError{Words: fmt.Sprintf("%q is no number.", c.PostForm(name))}
		}
		e.Value = v * by
		return nil
	}
	switch e.Kind {
	case care.Winterized:
		err = number("jugs", "", 1)
	case care.AnodeLook:
		e.Of = c.PostForm("anode")
		if c.PostForm("share") == "" {
			return e, &app.RefusedError{Words: "Say how much of the anode is used, in per cent."}
		}
		err = number("share", "%", 0.01)
	case care.AnodeNew:
		e.Of = c.PostForm("anode")
	case care.Changed:
		e.Of = c.PostForm("of")
	}
	return e, err
}

// ByCode leads from the link on a unit's plate to its log.
func (s View) ByCode(c *gin.Context) {
	u, err := s.Store.UnitByCode(c, c.Param("code"))
	if err == nil && !site.Who(c).Scope().Sees(u.DealerID) {
		err = app.ErrNotFound
	}
	switch {
	case errors.Is(err, app.ErrNotFound):
		s.NotFound(c, "There is no such unit among those that you keep.")
	case err != nil:
		s.Trouble(c, err)
	default:
		c.Redirect(http.StatusSeeOther, fmt.Sprintf("/units/%d", u.ID))
	}
}
