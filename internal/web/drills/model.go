package drills

import (
	"net/http"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/drill"
	"coldtap/internal/people"
	"coldtap/internal/web/site"
)

// refusals are why questions are not asked, in words.
var refusals = map[drill.Refusal]string{
	drill.NoEquipment: "the model has nothing to ask about", drill.SameAlready: "the unit stands right as it is",
	drill.AnyOrder: "no order that was tried breaks a rule", drill.NothingShown: "the fault shows in no look",
	drill.NoComplaint: "nothing shows all of what can’t be told apart", drill.AllAlike: "no look tells it from others",
	drill.FewWrong:  "there are not three answers that are shown to be wrong",
	drill.NotMissed: "without the step no rule breaks", drill.NotKnown: "a figure is missing in the model",
	drill.OutOfReach: "no amount that may be used comes to it",
	drill.TooNear:    "another place lies too near", drill.ManyLie: "more than one label lies",
	drill.NoneLies: "the exchange makes no label lie", drill.LooksAlike: "something else reads or looks the same",
	drill.Unproven: "the procedure breaks rules as it is",
}

// kindRow is what can be asked of a kind, and what not.
type kindRow struct {
	app.DrillCount
	Name string
	Not  []refusedOf
	Left int // refused in all
}

type refusedOf struct {
	Why   string
	Count int
}

type modelBody struct {
	Slug      string
	Kinds     []kindRow
	Asked     int
	Job       *app.Job
	Trains    bool
	Authors   bool
	Proposals []app.ProposalOf
	Questions []app.DrillQuestion
	Names     map[drill.Kind]string
	Wrong     string
	Said      string
}

// Model is what can be asked of a model, what can't and why, and what most get wrong.
func (s View) Model(c *gin.Context) { s.model(c, http.StatusOK, modelBody{Said: c.Query("said")}) }

func (s View) model(c *gin.Context, status int, body modelBody) {
	b := s.Site.Model(c)
	if b == nil {
		return
	}
	who := site.Who(c)
	body.Slug, body.Trains, body.Authors = b.Row.Slug, who.Trains(), who.Role == people.Author
	bank, job, err := s.Drills.Bank(c, b.Row.Slug, "")
	if err != nil {
		s.Trouble(c, err)
		return
	}
	body.Job, body.Names = job, names
	if bank != nil {
		for _, k := range bank.Kinds() {
			row := kindRow{DrillCount: k, Name: names[k.Kind]}
			for _, why := range drill.Refusals() {
				if n := k.Refused[why]; n > 0 {
					row.Not = append(row.Not, refusedOf{refusals[why], n})
					row.Left += n
				}
			}
			body.Asked += k.Asked
			body.Kinds = append(body.Kinds, row)
		}
		if body.Trains {
			if body.Questions, err = s.Store.DrillHeads(c, bank.ID); err != nil {
				s.Trouble(c, err)
				return
			}
		}
	}
	if body.Trains || body.Authors {
		if body.Proposals, err = s.Drills.Proposals(c, b.Row.Slug); err != nil {
			s.Trouble(c, err)
			return
		}
	}
	s.Show(c, status, "drill-model.html", site.Page{Title: "Drills: " + b.Model.Title(), Model: b, Tab: "drills",
		Body: body})
}

// Decide keeps what an author does about what most get wrong.
func (s View) Decide(c *gin.Context) {
	slug := c.Param("model")
	err := s.Drills.Decide(c, site.Who(c).By(), slug, c.PostForm("question"), c.PostForm("state"), c.PostForm("words"))
	refused := func(words string) { s.model(c, http.StatusUnprocessableEntity, modelBody{Wrong: words}) }
	if !s.failed(c, err, "There is no such proposal.", refused) {
		c.Redirect(http.StatusSeeOther, "/models/"+slug+"/drills?said=It+is+kept.")
	}
}

// SignOff keeps that somebody was seen to do a trial, or takes that back.
func (s View) SignOff(c *gin.Context) {
	who := site.Who(c)
	t, err := s.Trials.Get(c, who.Scope(), c.Param("code"))
	if err == nil {
		person, _ := parse(c.PostForm("person"))
		if c.PostForm("do") == "back" {
			err = s.Drills.TakeSignOffBack(c, who, t, person)
		} else {
			err = s.Drills.SignOff(c, who, t, person, c.PostForm("note"))
		}
	}
	refused := func(words string) {
		s.Show(c, http.StatusUnprocessableEntity, "message.html",
			site.Page{Title: "Sign-off", Body: site.Say("Not signed off", words)})
	}
	if !s.failed(c, err, "There is no such trial among those that you see.", refused) {
		c.Redirect(http.StatusSeeOther, "/trials/"+t.Code+"/compare#signed")
	}
}
