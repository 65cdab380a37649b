package accounts

import (
	"errors"
	"net/http"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/people"
	"coldtap/internal/web/site"
)

type meBody struct{ Wrong, Done string }

// Me is one's own account.
func (s View) Me(c *gin.Context) {
	s.Show(c, http.StatusOK, "me.html", site.Page{Title: "Your account", Body: meBody{}})
}

// ChangePassword sets one's own password.
func (s View) ChangePassword(c *gin.Context) {
	p := site.Who(c)
	refuse := func(words string) {
		s.Show(c, http.StatusUnprocessableEntity, "me.html", site.Page{Title: "Your account", Body: meBody{Wrong: words}})
	}
	if c.PostForm("new") != c.PostForm("again") {
		refuse("The new password was not typed the same twice.")
		return
	}
	err := s.Accounts.ChangePassword(c, p, c.PostForm("old"), c.PostForm("new"))
	var no *app.RefusedError
	if errors.As(err, &no) {
		refuse(site.UpperFirst(strings.TrimSuffix(no.Words, ".")) + ".")
		return
	}
	if err == nil {
		err = s.GoOn(c, p)
	}
	if err != nil {
		s.Trouble(c, err)
		return
	}
	s.Show(c, http.StatusOK, "me.html", site.Page{Title: "Your account",
		Body: meBody{Done: "The new password holds from now on."}})
}

type peopleBody struct {
	Dealers     []app.Dealer
	People      []app.Person
	Roles       []people.Role
	Wrong, Done string
	Login, Name string
	Role        people.Role
}

func (s View) showPeople(c *gin.Context, status int, body peopleBody) {
	list, err := s.Store.People(c)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	if body.Dealers, err = s.Store.Dealers(c); err != nil {
		s.Trouble(c, err)
		return
	}
	body.People, body.Roles = list, people.Roles()
	s.Show(c, status, "people.html", site.Page{Title: "People", Body: body})
}

// People lists who has an account.
func (s View) People(c *gin.Context) { s.showPeople(c, http.StatusOK, peopleBody{}) }

// AddPerson opens an account.
func (s View) AddPerson(c *gin.Context) {
	body := peopleBody{Login: strings.TrimSpace(c.PostForm("login")), Name: strings.TrimSpace(c.PostForm("name")),
		Role: people.Role(c.PostForm("role"))}
	password, err := s.Accounts.Add(c, site.By(c), body.Login, body.Name, body.Role)
	var no *app.RefusedError
	switch {
	case errors.As(err, &no):
		body.Wrong = no.Words
		s.showPeople(c, http.StatusUnprocessableEntity, body)
	case err != nil:
		s.Trouble(c, err)
	default:
		s.showPeople(c, http.StatusOK, peopleBody{Done: body.Name + " can sign in as " + body.Login +
			" with the password " + password + ". It is shown this once; it should be changed at the first sign-in."})
	}
}

// ChangePerson changes somebody's role, password or access.
func (s View) ChangePerson(c *gin.Context) {
	id, err := strconv.ParseUint(c.Param("id"), 10, 64)
	var p *app.Person
	if err == nil {
		p, err = s.Store.Person(c, id)
	}
	var number *strconv.NumError
	if errors.Is(err, app.ErrNotFound) || errors.As(err, &number) {
		s.NotFound(c, "There is no such person.")
		return
	}
	var done string
	if err == nil {
		done, err = s.changed(c, p)
	}
	var no *app.RefusedError
	switch {
	case errors.As(err, &no):
		s.showPeople(c, http.StatusUnprocessableEntity, peopleBody{Wrong: no.Words})
	case err != nil:
		s.Trouble(c, err)
	default:
		s.showPeople(c, http.StatusOK, peopleBody{Done: done})
	}
}

// changed changes an account as the form says, and tells what was done.
func (s View) changed(c *gin.Context, p *app.Person) (string, error) {
	switch act := c.PostForm("act"); act {
	case "role":
		role := people.Role(c.PostForm("role"))
		return p.Name + " is " + string(role) + " now.", s.Accounts.SetRole(c, site.Who(c), p, role)
	case "shut", "open":
		return p.Name + "'s account is " + act + " now.", s.Accounts.SetActive(c, site.Who(c), p, act == "open")
	case "dealer":
		id, err := strconv.ParseUint(c.PostForm("dealer"), 10, 64)
		if err != nil {
			return "", &app.RefusedError{Words: "Choose a dealer."}
		}
		return p.Name + " belongs to that dealer now, and has to sign in again.", s.Units.Assign(c, site.By(c), p, id)
	case "password":
		password, err := s.Accounts.Reset(c, site.Who(c), p)
		return p.Name + "'s new password is " + password + ". It is shown this once.", err
	}
	return "", &app.RefusedError{Words: "Choose what to change."}
}

// Audit is who did what, the newest first.
func (s View) Audit(c *gin.Context) {
	list, err := s.Store.AuditTrail(c, 500)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	s.Show(c, http.StatusOK, "audit.html", site.Page{Title: "Audit trail", Body: list})
}

// AddDealer opens a dealer.
func (s View) AddDealer(c *gin.Context) {
	name := strings.TrimSpace(c.PostForm("name"))
	err := s.Units.AddDealer(c, site.By(c), name, c.PostForm("place"))
	var no *app.RefusedError
	switch {
	case errors.As(err, &no):
		s.showPeople(c, http.StatusUnprocessableEntity, peopleBody{Wrong: no.Words})
	case err != nil:
		s.Trouble(c, err)
	default:
		s.showPeople(c, http.StatusOK, peopleBody{Done: name + " is among the dealers now."})
	}
}
