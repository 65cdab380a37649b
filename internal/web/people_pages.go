package web

import (
	"errors"
	"net/http"
	"strconv"
	"strings"

	"coldtap/internal/app"

	"github.com/gin-gonic/gin"

	"coldtap/internal/people"
)

type meBody struct{ Wrong, Done string }

func (s *Server) me(c *gin.Context) {
	s.show(c, http.StatusOK, "me.html", page{Title: "Your account", Body: meBody{}})
}

func (s *Server) changePassword(c *gin.Context) {
	p := who(c)
	refuse := func(words string) {
		s.show(c, http.StatusUnprocessableEntity, "me.html", page{Title: "Your account", Body: meBody{Wrong: words}})
	}
	if c.PostForm("new") != c.PostForm("again") {
		refuse("The new password was not typed the same twice.")
		return
	}
	err := s.accounts.ChangePassword(c, p, c.PostForm("old"), c.PostForm("new"))
	var no *app.RefusedError
	if errors.As(err, &no) {
		refuse(upperFirst(strings.TrimSuffix(no.Words, ".")) + ".")
		return
	}
	if err == nil {
		err = s.sessions.RenewToken(c.Request.Context())
	}
	if err != nil {
		s.trouble(c, err)
		return
	}
	s.show(c, http.StatusOK, "me.html", page{Title: "Your account",
		Body: meBody{Done: "The new password holds from now on."}})
}

type peopleBody struct {
	People      []app.Person
	Roles       []people.Role
	Wrong, Done string
	Login, Name string
	Role        people.Role
}

func (s *Server) showPeople(c *gin.Context, status int, body peopleBody) {
	list, err := s.store.People(c)
	if err != nil {
		s.trouble(c, err)
		return
	}
	body.People, body.Roles = list, people.Roles()
	s.show(c, status, "people.html", page{Title: "People", Body: body})
}

func (s *Server) peoplePage(c *gin.Context) { s.showPeople(c, http.StatusOK, peopleBody{}) }

func (s *Server) addPerson(c *gin.Context) {
	body := peopleBody{Login: strings.TrimSpace(c.PostForm("login")), Name: strings.TrimSpace(c.PostForm("name")),
		Role: people.Role(c.PostForm("role"))}
	password, err := s.accounts.Add(c, who(c).Name, body.Login, body.Name, body.Role)
	var no *app.RefusedError
	switch {
	case errors.As(err, &no):
		body.Wrong = no.Words
		s.showPeople(c, http.StatusUnprocessableEntity, body)
	case err != nil:
		s.trouble(c, err)
	default:
		s.showPeople(c, http.StatusOK, peopleBody{Done: body.Name + " can sign in as " + body.Login +
			" with the password " + password + ". It is shown this once; it should be changed at the first sign-in."})
	}
}

func (s *Server) changePerson(c *gin.Context) {
	id, err := strconv.ParseUint(c.Param("id"), 10, 64)
	var p *app.Person
	if err == nil {
		p, err = s.store.Person(c, id)
	}
	var number *strconv.NumError
	if errors.Is(err, app.ErrNotFound) || errors.As(err, &number) {
		s.notFound(c, "There is no such person.")
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
		s.trouble(c, err)
	default:
		s.showPeople(c, http.StatusOK, peopleBody{Done: done})
	}
}

// changed changes an account as the form says, and tells what was done.
func (s *Server) changed(c *gin.Context, p *app.Person) (string, error) {
	switch act := c.PostForm("act"); act {
	case "role":
		role := people.Role(c.PostForm("role"))
		return p.Name + " is " + string(role) + " now.", s.accounts.SetRole(c, who(c), p, role)
	case "shut", "open":
		return p.Name + "'s account is " + act + " now.", s.accounts.SetActive(c, who(c), p, act == "open")
	case "password":
		password, err := s.accounts.Reset(c, who(c), p)
		return p.Name + "'s new password is " + password + ". It is shown this once.", err
	}
	return "", &app.RefusedError{Words: "Choose what to change."}
}

func (s *Server) auditPage(c *gin.Context) {
	list, err := s.store.AuditTrail(c, 500)
	if err != nil {
		s.trouble(c, err)
		return
	}
	s.show(c, http.StatusOK, "audit.html", page{Title: "Audit trail", Body: list})
}
