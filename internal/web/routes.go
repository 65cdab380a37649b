package web

import (
	"net/http"

	"github.com/gin-gonic/gin"

	"coldtap/internal/people"
)

// route is an address and who may use it.
type route struct {
	method, path string
	roles        []people.Role
	handle       gin.HandlerFunc
}

// Route is an address with its roles, for those who check them.
type Route struct {
	Method, Path string
	Roles        []people.Role
}

// Roles that routes are open to.
var (
	anybody  = append([]people.Role{people.Public}, people.Roles()...)
	insiders = people.Roles()
	authors  = []people.Role{people.Author}
	admins   = []people.Role{people.Admin}
	watchers = []people.Role{people.Admin, people.Reviewer}
)

// routes is every address there is, with who may use it.
func (s *Server) routes() []route {
	get, post := http.MethodGet, http.MethodPost
	return []route{
		{get, "/health", anybody, s.health},
		{get, "/sign-in", anybody, s.signInPage},
		{post, "/sign-in", anybody, s.signIn},
		{post, "/sign-out", anybody, s.signOut},

		{get, "/", insiders, s.bench},
		{get, "/figures", insiders, s.figures},
		{get, "/compare", insiders, s.compare},
		{get, "/me", insiders, s.me},
		{post, "/me/password", insiders, s.changePassword},

		{get, "/people", admins, s.peoplePage},
		{post, "/people", admins, s.addPerson},
		{post, "/people/:id", admins, s.changePerson},
		{get, "/audit", watchers, s.auditPage},

		{get, "/models/:model", insiders, s.system},
		{get, "/models/:model/system/board", insiders, s.systemBoard},
		{get, "/models/:model/layout", insiders, s.layout},
		{get, "/models/:model/settings", insiders, s.settings},
		{get, "/models/:model/settings/board", insiders, s.board},
		{get, "/models/:model/settings/matrix", insiders, s.matrix},
		{get, "/models/:model/settings/card", insiders, s.card},
		{get, "/models/:model/amounts", insiders, s.amounts},
		{get, "/models/:model/guide", insiders, s.guide},
		{get, "/models/:model/file", insiders, s.file},
	}
}

// Routes lists every address with its roles.
func Routes() []Route {
	var list []Route
	for _, r := range (&Server{}).routes() {
		list = append(list, Route{r.method, r.path, r.roles})
	}
	return list
}
