package web

import (
	"context"
	"errors"
	"net/http"
	"regexp"
	"strconv"
	"strings"

	"coldtap/internal/app"

	"github.com/gin-gonic/gin"

	"coldtap/internal/people"
	"coldtap/internal/store"
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
	fresh := c.PostForm("new")
	if !people.Fits(p.Password, c.PostForm("old")) {
		refuse("The present password is not right.")
		return
	}
	if fresh != c.PostForm("again") {
		refuse("The new password was not typed the same twice.")
		return
	}
	if err := people.CheckPassword(p.Login, fresh); err != nil {
		refuse(upperFirst(err.Error()) + ".")
		return
	}
	if !s.setPassword(c, p, fresh) {
		return
	}
	if err := s.sessions.RenewToken(c.Request.Context()); err != nil {
		s.trouble(c, err)
		return
	}
	s.noted(c, p.Name, "changed password", p.Login, "")
	s.show(c, http.StatusOK, "me.html", page{Title: "Your account", Body: meBody{Done: "The new password holds from now on."}})
}

func (s *Server) setPassword(c *gin.Context, p *app.Person, password string) bool {
	h, err := people.Hash(password, s.cost)
	if err == nil {
		p.Password = h
		err = s.store.SavePerson(c, p)
	}
	if err != nil {
		s.trouble(c, err)
	}
	return err == nil
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

// SignUp adds people with the passwords they have at first.
func SignUp(ctx context.Context, st *store.Store, accounts []people.Account, cost int) error {
	for _, a := range accounts {
		h, err := people.Hash(a.Password, cost)
		if err != nil {
			return err
		}
		if err := st.AddPerson(ctx, &app.Person{Login: a.Login, Name: a.Name, Role: a.Role, Password: h, Active: true}); err != nil {
			return err
		}
	}
	return nil
}

func (s *Server) peoplePage(c *gin.Context) { s.showPeople(c, http.StatusOK, peopleBody{}) }

var loginPattern = regexp.MustCompile(`^[a-z][a-z0-9.-]{1,39}$`)

func (s *Server) addPerson(c *gin.Context) {
	body := peopleBody{Login: strings.TrimSpace(c.PostForm("login")), Name: strings.TrimSpace(c.PostForm("name")), Role: people.Role(c.PostForm("role"))}
	refuse := func(words string) {
		body.Wrong = words
		s.showPeople(c, http.StatusUnprocessableEntity, body)
	}
	switch {
	case !loginPattern.MatchString(body.Login):
		refuse("A sign-in name has 2 to 40 small letters, digits, dots or hyphens and begins with a letter.")
		return
	case body.Name == "":
		refuse("Give the person's name, as it stands in the history.")
		return
	case !body.Role.Valid():
		refuse("Choose a role.")
		return
	}
	password := people.NewPassword()
	h, err := people.Hash(password, s.cost)
	if err != nil {
		s.trouble(c, err)
		return
	}
	err = s.store.AddPerson(c, &app.Person{Login: body.Login, Name: body.Name, Role: body.Role, Password: h, Active: true})
	switch {
	case errors.Is(err, app.ErrExists):
		refuse("Somebody signs in as “" + body.Login + "” already.")
		return
	case err != nil:
		s.trouble(c, err)
		return
	}
	s.noted(c, who(c).Name, "added person", body.Login, string(body.Role))
	s.showPeople(c, http.StatusOK, peopleBody{Done: body.Name + " can sign in as " + body.Login + " with the password " + password + ". It is shown this once; it should be changed at the first sign-in."})
}

func (s *Server) changePerson(c *gin.Context) {
	id, err := strconv.ParseUint(c.Param("id"), 10, 64)
	if err != nil {
		s.notFound(c, "There is no such person.")
		return
	}
	p, err := s.store.Person(c, id)
	if errors.Is(err, app.ErrNotFound) {
		s.notFound(c, "There is no such person.")
		return
	}
	if err != nil {
		s.trouble(c, err)
		return
	}
	own := p.ID == who(c).ID
	done := ""
	switch act := c.PostForm("act"); act {
	case "role":
		role := people.Role(c.PostForm("role"))
		if !role.Valid() || own {
			s.showPeople(c, http.StatusUnprocessableEntity, peopleBody{Wrong: "Choose a role; your own can't be changed here."})
			return
		}
		p.Role, done = role, p.Name+" is "+string(role)+" now."
	case "shut", "open":
		if own {
			s.showPeople(c, http.StatusUnprocessableEntity, peopleBody{Wrong: "You can't shut your own account."})
			return
		}
		p.Active, done = act == "open", p.Name+"'s account is "+act+" now."
	case "password":
		password := people.NewPassword()
		if !s.setPassword(c, p, password) {
			return
		}
		done = p.Name + "'s new password is " + password + ". It is shown this once."
	default:
		s.showPeople(c, http.StatusUnprocessableEntity, peopleBody{Wrong: "Choose what to change."})
		return
	}
	if err := s.store.SavePerson(c, p); err != nil {
		s.trouble(c, err)
		return
	}
	s.noted(c, who(c).Name, "changed person", p.Login, c.PostForm("act")+" "+c.PostForm("role"))
	s.showPeople(c, http.StatusOK, peopleBody{Done: done})
}

func (s *Server) auditPage(c *gin.Context) {
	list, err := s.store.Notes(c, 500)
	if err != nil {
		s.trouble(c, err)
		return
	}
	s.show(c, http.StatusOK, "audit.html", page{Title: "Audit trail", Body: list})
}
