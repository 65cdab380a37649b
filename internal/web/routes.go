package web

import (
	"net/http"
	"slices"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/edit"
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
	return slices.Concat(s.houseRoutes(), s.readRoutes(), s.editRoutes())
}

// houseRoutes are those of no one model.
func (s *Server) houseRoutes() []route {
	get, post := http.MethodGet, http.MethodPost
	return []route{
		{get, "/health", anybody, s.health},
		{get, "/sign-in", anybody, s.signInPage},
		{post, "/sign-in", anybody, s.signIn},
		{post, "/sign-out", anybody, s.signOut},

		{get, "/", insiders, s.bench},
		{get, "/figures", insiders, s.figures},
		{get, "/figures/file/:kind", insiders, s.figuresFile},
		{get, "/house", insiders, s.housePage},
		{post, "/house", authors, s.setHouse},
		{get, "/compare", insiders, s.compare},
		{get, "/me", insiders, s.me},
		{get, "/jobs", insiders, s.jobsPage},
		{post, "/me/password", insiders, s.changePassword},

		{get, "/people", admins, s.peoplePage},
		{post, "/people", admins, s.addPerson},
		{post, "/people/:id", admins, s.changePerson},
		{get, "/audit", watchers, s.auditPage},
	}
}

// readRoutes show a model.
func (s *Server) readRoutes() []route {
	get := http.MethodGet
	return []route{
		{get, "/models/:model", insiders, s.system},
		{get, "/models/:model/system/board", insiders, s.systemBoard},
		{get, "/models/:model/layout", insiders, s.layout},
		{get, "/models/:model/settings", insiders, s.settings},
		{get, "/models/:model/settings/board", insiders, s.board},
		{get, "/models/:model/settings/matrix", insiders, s.matrix},
		{get, "/models/:model/settings/card", insiders, s.card},
		{get, "/models/:model/amounts", insiders, s.amounts},
		{get, "/models/:model/amounts/file/:kind", insiders, s.amountsFile},
		{get, "/models/:model/guide", insiders, s.guide},
		{get, "/models/:model/file", insiders, s.file},
		{get, "/models/:model/history", insiders, s.history},
		{get, "/models/:model/photos/:id/image", insiders, s.photoImage},
	}
}

// editRoutes change a model.
func (s *Server) editRoutes() []route {
	get, post := http.MethodGet, http.MethodPost
	return []route{
		{get, "/begin", authors, s.beginPage},
		{post, "/begin", authors, s.begin},
		{get, "/models/:model/grid", authors, s.grid},
		{post, "/models/:model/grid/paste", authors, s.edit(pasteForm)},
		{get, "/models/:model/assemblies/:kind", authors, s.assemblyPage},
		{post, "/models/:model/assemblies/:kind", authors, s.edit(assemblyForm)},
		{post, "/models/:model/edit/part/:id", authors, s.edit(setForm(edit.OfPart))},
		{post, "/models/:model/edit/line/:id", authors, s.edit(setForm(edit.OfLine))},
		{post, "/models/:model/edit/head", authors, s.edit(setForm(edit.OfModel))},
		{post, "/models/:model/edit/remove", authors, s.edit(removeForm)},
		{post, "/models/:model/edit/join", authors, s.edit(joinForm)},
		{post, "/models/:model/edit/add", authors, s.edit(addForm)},
		{post, "/models/:model/edit/nudge", authors, s.edit(nudgeForm)},
		{post, "/models/:model/edit/place", authors, s.edit(placeForm)},
		{post, "/models/:model/undo", authors, s.stepper(s.edits.Undo)},
		{post, "/models/:model/redo", authors, s.stepper(s.edits.Redo)},
		{post, "/models/:model/restore/:number", authors, s.edit(s.restoreForm)},
		{get, "/models/:model/imports", authors, s.imports},
		{post, "/models/:model/imports", authors, s.bring},
		{get, "/models/:model/imports/:id", authors, s.importPage},
		{post, "/models/:model/imports/:id", authors, s.mend},
		{post, "/models/:model/imports/:id/take", authors, s.take},
		{get, "/models/:model/imports/:id/file", authors, s.importFile},
		{post, "/models/:model/parts/:id/photos", authors, s.addPhoto},
		{post, "/models/:model/photos/:id/mark", authors, s.markPhoto},
		{post, "/models/:model/photos/:id/remove", authors, s.removePhoto},
		{get, "/models/:model/held/:id", authors, s.held},
		{post, "/models/:model/held/:id", authors, s.settle},
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
