package units

import (
	"encoding/csv"
	"fmt"
	"time"

	ics "github.com/arran4/golang-ical"
	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/web/site"
)

// Calendar is what is due on a unit, for calendars.
func (s View) Calendar(c *gin.Context) {
	u := s.unit(c)
	if u == nil {
		return
	}
	dues, err := s.Store.DuesOf(c, u.ID)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	_, names, err := s.Units.Spec(c, u)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	cal := ics.NewCalendar()
	cal.SetProductId("-//Cold Tap//care//EN")
	for _, d := range dues {
		e := cal.AddEvent(fmt.Sprintf("%s-%s-%s@coldtap", u.SerialKey, d.Kind, d.Of))
		e.SetDtStampTime(time.Now())
		e.SetAllDayStartAt(d.On)
		e.SetAllDayEndAt(d.On.AddDate(0, 0, 1))
		e.SetSummary(u.Serial + ": " + s.what(d, names))
		e.SetDescription(site.UpperFirst(why[d.Why]) + ".")
	}
	site.Download(c, "text/calendar; charset=utf-8", "care-"+u.SerialKey+".ics")
	fmt.Fprint(c.Writer, cal.Serialize())
}

// DueFile is what is due on all units that are seen, as CSV or for calendars.
func (s View) DueFile(c *gin.Context) {
	until := time.Now().UTC().AddDate(1, 0, 0)
	rows, err := s.Store.Dues(c, site.Who(c).Scope(), until, "", 5000)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	switch c.Param("kind") {
	case "csv":
		site.Download(c, "text/csv; charset=utf-8", "due.csv")
		w := csv.NewWriter(c.Writer)
		_ = w.Write([]string{"day", "serial", "model", "what", "of", "why"})
		for _, r := range rows {
			_ = w.Write([]string{r.On.Format(time.DateOnly), r.Serial, r.Slug, string(r.Kind), r.Of, string(r.Why)})
		}
		w.Flush()
	case "ics":
		cal := ics.NewCalendar()
		cal.SetProductId("-//Cold Tap//care//EN")
		for _, r := range rows {
			e := cal.AddEvent(fmt.Sprintf("%s-%s-%s@coldtap", app.SerialKey(r.Serial), r.Kind, r.Of))
			e.SetDtStampTime(time.Now())
			e.SetAllDayStartAt(r.On)
			e.SetAllDayEndAt(r.On.AddDate(0, 0, 1))
			e.SetSummary(r.Serial + ": " + s.what(r.UnitDue, nil))
		}
		site.Download(c, "text/calendar; charset=utf-8", "due.ics")
		fmt.Fprint(c.Writer, cal.Serialize())
	default:
		s.NotFound(c, "What is due is written as csv and ics.")
	}
}
