package site

import (
	"crypto/rand"
	"errors"
	"net/http"
	"net/netip"
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

// What a session keeps: whose it is, the epoch of the account when it began, whether the demo
// ran then.
const (
	whoKey   = "person"
	epochKey = "epoch"
	demoKey  = "demo"
)

// browserCookie tells a browser from which somebody has signed in before.
const browserCookie = "coldtap-browser"

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
// A route takes files of some bytes at most, 0 where it takes none.
func (s *Site) Guard(roles []people.Role, files int64, handle gin.HandlerFunc) gin.HandlerFunc {
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
			s.withBody(c, person, files, handle)
			if person != nil && !asks(c.Request.Method) {
				s.Keeping.Soon() // what guides stand on may be another
			}
		case person == nil && asks(c.Request.Method) && c.GetHeader("HX-Request") == "":
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

// asks reports whether a method only asks for a page.
func asks(method string) bool { return method == http.MethodGet || method == http.MethodHead }

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
	case !p.Active, p.Epoch != s.Sessions.GetInt64(c.Request.Context(), epochKey):
		return nil, nil
	case s.Demo == nil && s.Sessions.GetBool(c.Request.Context(), demoKey):
		return nil, nil // it began while the demo ran
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

// Next is an address of this site to go on to: a path, whatever is asked for.
func Next(value string) string {
	u, err := url.Parse(value)
	if err != nil || u.Scheme != "" || u.Opaque != "" || u.Host != "" || u.User != nil || strings.ContainsAny(value,
		"\\\r\n\t") ||
		!strings.HasPrefix(u.EscapedPath(), "/") || strings.HasPrefix(u.EscapedPath(), "//") {
		return "/"
	}
	return (&url.URL{Path: u.Path, RawPath: u.RawPath, RawQuery: u.RawQuery, Fragment: u.Fragment}).String()
}

// SignInPage asks who it is.
func (s *Site) SignInPage(c *gin.Context) {
	s.Show(c, http.StatusOK, "sign-in.html", Page{Title: "Sign in",
		Body: signInBody{Next: Next(c.Query("next")), Demo: s.Demo}})
}

// SignIn signs somebody in.
func (s *Site) SignIn(c *gin.Context) {
	login, password := strings.TrimSpace(c.PostForm("login")), c.PostForm("password")
	body := signInBody{Next: Next(c.PostForm("next")), Login: login, Demo: s.Demo}
	over := c.GetHeader("X-Over") != "" // a dialog over a page asks
	refuse := func(status int, words string) {
		if over {
			c.String(status, words)
			return
		}
		body.Wrong = words
		s.Show(c, status, "sign-in.html", Page{Title: "Sign in", Body: body})
	}
	browser, err := c.Cookie(browserCookie)
	if err != nil || len(browser) > 64 {
		browser = rand.Text()
	}
	p, err := s.Accounts.SignIn(c, login, password, app.From{Address: AddressOf(c), Browser: browser})
	switch {
	case errors.Is(err, app.ErrTooMany):
		refuse(http.StatusTooManyRequests, "Too many sign-ins have failed. Wait a quarter of an hour, then try again.")
		return
	case errors.Is(err, app.ErrNotRight):
		refuse(http.StatusUnprocessableEntity, "Name or password is not right.")
		return
	case errors.Is(err, app.ErrDemo):
		refuse(http.StatusUnprocessableEntity, "This account of the demo world is open only while the server runs with "+
			"--demo. Whoever runs the server gives it a password of its own: coldtap password "+login)
		return
	case err != nil:
		s.Trouble(c, err)
		return
	}
	c.SetSameSite(http.SameSiteLaxMode)
	c.SetCookie(browserCookie, browser, int((90 * 24 * time.Hour).Seconds()), "/sign-in", "", s.Sessions.Cookie.Secure,
		true)
	ctx := c.Request.Context()
	if err := s.Sessions.RenewToken(ctx); err != nil {
		s.Trouble(c, err)
		return
	}
	s.Sessions.Put(ctx, whoKey, int64(p.ID))
	s.Sessions.Put(ctx, epochKey, p.Epoch)
	s.Sessions.Put(ctx, demoKey, s.Demo != nil)
	if over {
		c.Status(http.StatusNoContent)
		return
	}
	c.Redirect(http.StatusSeeOther, body.Next)
}

// AddressOf is where a request comes from: of IPv6 the network, of which one household has many
// addresses. Behind proxies that are trusted it is what they say.
func AddressOf(c *gin.Context) string {
	at, err := netip.ParseAddr(c.ClientIP())
	if err != nil {
		return c.Request.RemoteAddr
	}
	if at = at.Unmap(); at.Is6() {
		if net, err := at.Prefix(64); err == nil {
			return net.String()
		}
	}
	return at.String()
}

// GoOn lets the present session go on in an account's new epoch.
func (s *Site) GoOn(c *gin.Context, p *app.Person) error {
	s.Sessions.Put(c.Request.Context(), epochKey, p.Epoch)
	return s.Sessions.RenewToken(c.Request.Context())
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
