package site

import (
	"errors"
	"net"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/people"
)

// How long a session lasts; how many sign-ins may fail before it has to wait.
const (
	sessionMost = 24 * time.Hour
)

const whoKey = "person"

// requestHeader carries a word that a page makes up for a request, so that sending it again
// does nothing twice.
const requestHeader = "X-Request"

var requestPattern = regexp.MustCompile(`^[A-Za-z0-9-]{16,64}$`)

func newSessions(st scs.Store, secure bool) *scs.SessionManager {
	m := scs.New()
	m.Store = st
	m.Lifetime = sessionMost
	m.Cookie.Name, m.Cookie.HttpOnly, m.Cookie.SameSite, m.Cookie.Secure = "coldtap", true, http.SameSiteLaxMode, secure
	m.HashTokenInStore = true
	return m
}

// Guard lets through who may use a route; others are asked to sign in, or told.
func (s *Site) Guard(roles []people.Role, handle gin.HandlerFunc) gin.HandlerFunc {
	return func(c *gin.Context) {
		person, err := s.identify(c)
		if err != nil {
			s.Trouble(c, err)
			return
		}
		role := people.Public
		if person != nil {
			role = person.Role
			c.Set(whoKey, person)
		}
		if word := c.GetHeader(requestHeader); requestPattern.MatchString(word) {
			c.Request = c.Request.WithContext(app.WithRequest(c.Request.Context(), word))
		}
		switch {
		case role.In(roles):
			handle(c)
		case person == nil && c.Request.Method == http.MethodGet && c.GetHeader("HX-Request") == "":
			c.Redirect(http.StatusSeeOther, "/sign-in?next="+url.QueryEscape(c.Request.URL.RequestURI()))
		case person == nil:
			// The page asks over itself, and goes on where it was (keep.js).
			s.Show(c, http.StatusUnauthorized, "message.html", Page{Title: "Sign in",
				Body: Say("You are not signed in",
					"Your session has ended. Go back to the page, where what you typed still stands, and sign in there.")})
		default:
			s.Show(c, http.StatusForbidden, "message.html", Page{Title: "Not allowed",
				Body: Say("This is not for your role",
					"You are signed in as "+string(person.Role)+". Ask the people who keep the accounts if you need it.")})
		}
	}
}

// identify finds who is signed in; nil for nobody. An account that was shut
// is nobody at once.
func (s *Site) identify(c *gin.Context) (*app.Person, error) {
	id := s.Sessions.GetInt64(c.Request.Context(), whoKey)
	if id == 0 {
		return nil, nil
	}
	p, err := s.Store.Person(c, uint64(id))
	switch {
	case errors.Is(err, app.ErrNotFound):
		return nil, nil
	case err != nil:
		return nil, err
	case !p.Active:
		return nil, nil
	}
	return p, nil
}

// Who is the person of a request; nil for nobody.
func Who(c *gin.Context) *app.Person {
	if v, ok := c.Get(whoKey); ok {
		return v.(*app.Person)
	}
	return nil
}

type signInBody struct {
	Next, Login, Wrong string
	Demo               []people.Account
}

// next is an address of this site to go on to.
func next(c *gin.Context, value string) string {
	if strings.HasPrefix(value, "/") && !strings.HasPrefix(value, "//") && !strings.HasPrefix(value, "/\\") {
		return value
	}
	return "/"
}

// SignInPage asks who it is.
func (s *Site) SignInPage(c *gin.Context) {
	s.Show(c, http.StatusOK, "sign-in.html", Page{Title: "Sign in",
		Body: signInBody{Next: next(c, c.Query("next")), Demo: s.Demo}})
}

// SignIn signs somebody in.
func (s *Site) SignIn(c *gin.Context) {
	login, password := strings.TrimSpace(c.PostForm("login")), c.PostForm("password")
	body := signInBody{Next: next(c, c.PostForm("next")), Login: login, Demo: s.Demo}
	from, _, err := net.SplitHostPort(c.Request.RemoteAddr)
	if err != nil {
		from = c.Request.RemoteAddr
	}
	over := c.GetHeader("X-Over") != "" // a dialog over a page asks
	refuse := func(status int, words string) {
		if over {
			c.String(status, words)
			return
		}
		body.Wrong = words
		s.Show(c, status, "sign-in.html", Page{Title: "Sign in", Body: body})
	}
	p, err := s.Accounts.SignIn(c, login, password, from)
	switch {
	case errors.Is(err, app.ErrTooMany):
		refuse(http.StatusTooManyRequests, "Too many sign-ins have failed. Wait a quarter of an hour, then try again.")
		return
	case errors.Is(err, app.ErrNotRight):
		refuse(http.StatusUnprocessableEntity, "Name or password is not right.")
		return
	case err != nil:
		s.Trouble(c, err)
		return
	}
	ctx := c.Request.Context()
	if err := s.Sessions.RenewToken(ctx); err != nil {
		s.Trouble(c, err)
		return
	}
	s.Sessions.Put(ctx, whoKey, int64(p.ID))
	if over {
		c.Status(http.StatusNoContent)
		return
	}
	c.Redirect(http.StatusSeeOther, body.Next)
}

// Here says that who asks is signed in and the database answers: a page asks before it sends a
// form that would leave it.
func (s *Site) Here(c *gin.Context) { c.Status(http.StatusNoContent) }

// SignOut signs out.
func (s *Site) SignOut(c *gin.Context) {
	if err := s.Sessions.Destroy(c.Request.Context()); err != nil {
		s.Trouble(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/sign-in")
}

// By is the person of a request as who does something.
func By(c *gin.Context) app.By {
	if p := Who(c); p != nil {
		return p.By()
	}
	return app.By{}
}
