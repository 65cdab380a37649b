package web

import (
	"net/http"
	"slices"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/people"
	"coldtap/internal/picture"
	"coldtap/internal/spreadsheet"
	"coldtap/internal/web/accounts"
	"coldtap/internal/web/amounts"
	"coldtap/internal/web/bench"
	"coldtap/internal/web/drills"
	"coldtap/internal/web/guides"
	"coldtap/internal/web/house"
	"coldtap/internal/web/procedures"
	"coldtap/internal/web/reader"
	"coldtap/internal/web/review"
	"coldtap/internal/web/settings"
	"coldtap/internal/web/site"
	"coldtap/internal/web/system"
	"coldtap/internal/web/trials"
	"coldtap/internal/web/units"
)

// route is an address and who may use it.
type route struct {
	method, path string
	roles        []people.Role
	handle       gin.HandlerFunc
}

// filesOf is how many bytes of files a route takes at most; 0 where it takes none.
func filesOf(x route) int64 {
	if x.method != http.MethodPost {
		return 0
	}
	switch x.path {
	case "/begin", "/begin/file":
		return plumbing.MaxFileBytes
	case "/models/:model/imports":
		return spreadsheet.MaxFile
	case "/models/:model/photos", "/models/:model/parts/:id/photos":
		return picture.MaxFile
	case "/trials/:code/photo":
		return picture.MaxFile
	}
	return 0
}

// Roles that routes are open to.
var (
	anybody   = append([]people.Role{people.Public}, people.Roles()...)
	insiders  = people.Roles()
	authors   = []people.Role{people.Author}
	accepters = []people.Role{people.Author, people.Reviewer}
	admins    = []people.Role{people.Admin}
	trainers  = []people.Role{people.Trainer}
	watchers  = []people.Role{people.Admin, people.Reviewer}
	// runners take procedures to units and keep their logs: technicians those of their dealer.
	runners = []people.Role{people.Author, people.Reviewer, people.Trainer, people.Technician}
)

// routes is every address there is, with who may use it.
func routes(s *site.Site, readers reader.View) []route {
	return slices.Concat(commonRoutes(s), readRoutes(s), editRoutes(s), publicRoutes(readers),
		unitRoutes(s, readers.Worker), drillRoutes(s))
}

// drillRoutes are those of exercises, courses and what came of them.
func drillRoutes(s *site.Site) []route {
	get, post := http.MethodGet, http.MethodPost
	v := drills.View{Site: s}
	return []route{
		{get, "/drills", insiders, v.Home},
		{post, "/drills/practise", insiders, v.Practise},
		{get, "/drills/courses", trainers, v.Courses},
		{post, "/drills/courses", trainers, v.AddCourse},
		{get, "/drills/courses/:code", insiders, v.Course},
		{post, "/drills/courses/:code", trainers, v.ChangeCourse},
		{post, "/drills/courses/:code/begin", insiders, v.Begin},
		{post, "/drills/courses/:code/class", trainers, v.OpenClass},
		{get, "/drills/classes/:code", trainers, v.Class},
		{post, "/drills/classes/:code", trainers, v.Move},
		{get, "/drills/join/:code", insiders, v.Join},
		{get, "/drills/sit/:code", insiders, v.Sit},
		{get, "/drills/sit/:code/drawing", insiders, v.Drawing},
		{get, "/drills/sit/:code/waiting", insiders, v.Waiting},
		{post, "/drills/sit/:code/answer", insiders, v.Answer},
		{post, "/drills/sit/:code/hint", insiders, v.Hint},
		{post, "/drills/sit/:code/look", insiders, v.Look},
		{get, "/drills/results", insiders, v.Results},
		{get, "/drills/results/file/:kind", insiders, v.File},
		{get, "/drills/certificates/:number", insiders, v.Certificate},
		{get, "/certificates", anybody, v.Check},
		{get, "/certificates/:number", anybody, v.Check},
		{get, "/models/:model/drills", insiders, v.Model},
		{post, "/models/:model/drills", authors, v.Decide},
		{post, "/trials/:code/signoff", trainers, v.SignOff},
	}
}

// unitRoutes are those of units, and of the trials on them.
func unitRoutes(s *site.Site, worker []byte) []route {
	get, post := http.MethodGet, http.MethodPost
	u, t := units.View{Site: s}, trials.View{Site: s, Worker: worker}
	return []route{
		{get, "/units", insiders, u.List},
		{post, "/units", runners, u.Add},
		{get, "/units/due/:kind", insiders, u.DueFile},
		{get, "/units/:id", insiders, u.Unit},
		{post, "/units/:id", runners, u.Write},
		{get, "/units/:id/calendar.ics", insiders, u.Calendar},
		{get, "/u/:code", insiders, u.ByCode},
		{post, "/dealers", admins, accounts.View{Site: s}.AddDealer},
		{get, "/models/:model/trials", insiders, t.List},
		{post, "/models/:model/trials", runners, t.Begin},
		{get, "/trials/worker.js", insiders, t.Script},
		{get, "/trials/:code", insiders, t.Phone},
		{get, "/trials/:code/entries", insiders, t.Entries},
		{post, "/trials/:code/entries", runners, t.Entries},
		{post, "/trials/:code/photo", runners, t.AddPhoto},
		{get, "/trials/:code/photo/:mark", insiders, t.Photo},
		{post, "/trials/:code/state", runners, t.Set},
		{get, "/trials/:code/compare", insiders, t.Compare},
		{get, "/trials/:code/compare/:cause", insiders, t.Effects},
		{post, "/trials/:code/compare/:cause", accepters, t.Correct},
		{get, "/trials/:code/file/:kind", insiders, t.File},
		{post, "/corrections/:id", accepters, t.Decide},
	}
}

// publicRoutes are those of readers, who do not sign in.
func publicRoutes(v reader.View) []route {
	get, post := http.MethodGet, http.MethodPost
	const guide = "/read/:model/:letter/:build/:units"
	return []route{
		{get, "/read", anybody, v.Find},
		{get, "/read/worker.js", anybody, v.Script},
		{get, "/read/:model", anybody, v.Newest},
		{get, "/read/:model/:letter", anybody, v.Builds},
		{get, "/read/:model/:letter/style.css", anybody, v.Style},
		{get, guide, anybody, v.Home},
		{get, guide + "/chapter", anybody, v.Chapter},
		{get, guide + "/do/:task", anybody, v.Do},
		{get, guide + "/photo/:file", anybody, v.Photo},
		{get, guide + "/envelope.json", anybody, v.Envelope},
		{get, guide + "/keep.json", anybody, v.Keep},
		{post, "/readers/report", anybody, v.Report},
		{get, "/readers/answer/:code", anybody, v.Answer},
		{post, "/readers/walk", anybody, v.Begin},
		{get, "/readers/walk/:code", anybody, v.Walk},
		{get, "/readers/walk/:code/marks", anybody, v.Marks},
		{post, "/readers/walk/:code/marks", anybody, v.Marks},
	}
}

// commonRoutes are those of no one model.
func commonRoutes(s *site.Site) []route {
	get, post := http.MethodGet, http.MethodPost
	list, rules, persons := bench.View{Site: s}, house.View{Site: s}, accounts.View{Site: s}
	return []route{
		{get, "/sign-in", anybody, s.SignInPage},
		{post, "/sign-in", anybody, s.SignIn},
		{post, "/sign-out", anybody, s.SignOut},

		{get, "/", insiders, list.List},
		{get, "/figures", insiders, list.Figures},
		{get, "/figures/file/:kind", insiders, list.FiguresFile},
		{get, "/house", insiders, rules.Page},
		{post, "/house", authors, rules.Set},
		{get, "/compare", insiders, list.Compare},
		{get, "/me", insiders, persons.Me},
		{get, "/me/here", insiders, s.Here},
		{get, "/jobs", insiders, rules.Work},
		{post, "/me/password", insiders, persons.ChangePassword},

		{get, "/people", admins, persons.People},
		{post, "/people", admins, persons.AddPerson},
		{post, "/people/:id", admins, persons.ChangePerson},
		{get, "/audit", watchers, persons.Audit},
	}
}

// readRoutes show a model.
func readRoutes(s *site.Site) []route {
	get := http.MethodGet
	plumbing, handles, figures := system.View{Site: s}, settings.View{Site: s}, amounts.View{Site: s}
	steps, chapters, reviews := procedures.View{Site: s}, guides.View{Site: s}, review.View{Site: s}
	return []route{
		{get, "/models/:model", insiders, plumbing.System},
		{get, "/models/:model/system/board", insiders, plumbing.Board},
		{get, "/models/:model/grid", insiders, plumbing.Grid},
		{get, "/models/:model/layout", insiders, plumbing.Layout},
		{get, "/models/:model/options", insiders, plumbing.Options},
		{get, "/models/:model/settings", insiders, handles.Page},
		{get, "/models/:model/settings/board", insiders, handles.Board},
		{get, "/models/:model/settings/matrix", insiders, handles.Matrix},
		{get, "/models/:model/amounts", insiders, figures.Page},
		{get, "/models/:model/amounts/file/:kind", insiders, figures.File},
		{get, "/models/:model/procedures", insiders, steps.List},
		{get, "/models/:model/procedures/:id", insiders, steps.Page},
		{get, "/models/:model/procedures/:id/board", insiders, steps.Board},
		{get, "/models/:model/procedures/:id/film", insiders, steps.Film},
		{get, "/models/:model/procedures/:id/plan", insiders, steps.Plan},
		{get, "/models/:model/procedures/:id/ranges", insiders, steps.Ranges},
		{get, "/models/:model/procedures/:id/wrong", insiders, steps.Wrong},
		{get, "/models/:model/procedures/:id/adding", authors, steps.Adding},
		{get, "/models/:model/procedures/:id/file/:kind", insiders, steps.File},
		{get, "/models/:model/guide", insiders, chapters.Guide},
		{get, "/models/:model/guide/whole", insiders, chapters.Whole},
		{get, "/models/:model/guide/file/:kind", insiders, chapters.File},
		{get, "/models/:model/guide/card/:kind", insiders, chapters.Card},
		{get, "/models/:model/review", insiders, reviews.Page},
		{get, "/models/:model/review/read", insiders, reviews.Read},
		{get, "/models/:model/review/reports", insiders, reviews.Reports},
		{get, "/models/:model/published/:letter", insiders, reviews.Frozen},
		{get, "/models/:model/published/:letter/changes", insiders, reviews.Changes},
		{get, "/models/:model/published/:letter/standing", insiders, reviews.Standing},
		{get, "/models/:model/file", insiders, plumbing.File},
		{get, "/models/:model/history", insiders, plumbing.History},
		{get, "/models/:model/history/:number", insiders, plumbing.Followed},
		{get, "/models/:model/photos", insiders, plumbing.Photos},
		{get, "/models/:model/photos/:id/image", insiders, plumbing.PhotoImage},
	}
}

// editRoutes change a model.
func editRoutes(s *site.Site) []route {
	get, post := http.MethodGet, http.MethodPost
	v, handles, steps := system.View{Site: s}, settings.View{Site: s}, procedures.View{Site: s}
	chapters, reviews := guides.View{Site: s}, review.View{Site: s}
	return []route{
		{post, "/models/:model/review", accepters, reviews.Act},
		{post, "/models/:model/review/seen", accepters, reviews.Seen},
		{post, "/models/:model/review/reports/:id", authors, reviews.Settle},
		{post, "/models/:model/guide", authors, chapters.Change},
		{post, "/models/:model/guide/preview", authors, chapters.Preview},
		{get, "/models/:model/guide/form", authors, chapters.Form},
		{get, "/models/:model/guide/read", authors, chapters.Read},
		{post, "/models/:model/guide/read", authors, chapters.Read},
		{get, "/models/:model/guide/sentence", authors, chapters.Sentence},
		{post, "/models/:model/procedures/:id/steps", authors, steps.Change},
		{post, "/models/:model/settings/keep", authors, handles.Keep},
		{post, "/models/:model/settings/let-go", authors, handles.LetGo},
		{post, "/models/:model/accept", accepters, v.Accept},
		{post, "/models/:model/reopen", accepters, v.Reopen},
		{get, "/begin", authors, v.BeginPage},
		{post, "/begin", authors, v.Begin},
		{post, "/begin/file", authors, v.BringFile},
		{post, "/models/:model/grid/paste", authors, v.Edit(system.PasteForm)},
		{get, "/models/:model/assemblies/:kind", authors, v.AssemblyPage},
		{post, "/models/:model/assemblies/:kind", authors, v.Edit(system.AssemblyForm)},
		{post, "/models/:model/edit/part/:id", authors, v.Edit(system.SetForm(edit.OfPart))},
		{post, "/models/:model/edit/line/:id", authors, v.Edit(system.SetForm(edit.OfLine))},
		{post, "/models/:model/confirm/part/:id", authors, v.Edit(system.ConfirmForm(edit.OfPart))},
		{post, "/models/:model/confirm/line/:id", authors, v.Edit(system.ConfirmForm(edit.OfLine))},
		{post, "/models/:model/confirm/all", authors, v.Edit(system.ConfirmAllForm)},
		{post, "/models/:model/edit/head", authors, v.Edit(system.SetForm(edit.OfModel))},
		{post, "/models/:model/edit/remove", authors, v.Edit(system.RemoveForm)},
		{post, "/models/:model/edit/join", authors, v.Edit(system.JoinForm)},
		{post, "/models/:model/edit/add", authors, v.Edit(system.AddForm)},
		{post, "/models/:model/edit/nudge", authors, v.Edit(system.NudgeForm)},
		{post, "/models/:model/edit/place", authors, v.Edit(system.PlaceForm)},
		{post, "/models/:model/edit/shift", authors, v.Edit(system.ShiftForm)},
		{post, "/models/:model/edit/renumber", authors, v.Edit(system.RenumberForm)},
		{post, "/models/:model/options/:id", authors, v.Edit(system.OptionForm)},
		{post, "/models/:model/options/:id/things", authors, v.Edit(system.AssignForm)},
		{post, "/models/:model/options/:id/remove", authors, v.Edit(system.UnoptionForm)},
		{post, "/models/:model/retire", authors, v.Edit(system.RetireForm)},
		{post, "/models/:model/bring-back", authors, v.Edit(system.BringBackForm)},
		{post, "/models/:model/undo", authors, v.Stepper(s.Edits.Undo)},
		{post, "/models/:model/redo", authors, v.Stepper(s.Edits.Redo)},
		{post, "/models/:model/restore/:number", authors, v.Edit(v.RestoreForm)},
		{get, "/models/:model/imports", authors, v.Imports},
		{post, "/models/:model/imports", authors, v.Bring},
		{get, "/models/:model/imports/:id", authors, v.ImportPage},
		{post, "/models/:model/imports/:id", authors, v.Mend},
		{post, "/models/:model/imports/:id/take", authors, v.Take},
		{get, "/models/:model/imports/:id/file", authors, v.ImportFile},
		{post, "/models/:model/parts/:id/photos", authors, v.AddPhoto},
		{post, "/models/:model/photos", authors, v.AddPhoto},
		{post, "/models/:model/photos/:id/mark", authors, v.MarkPhoto},
		{post, "/models/:model/photos/:id/unmark", authors, v.UnmarkPhoto},
		{post, "/models/:model/photos/:id/caption", authors, v.CaptionPhoto},
		{post, "/models/:model/photos/:id/remove", authors, v.RemovePhoto},
		{post, "/models/:model/photos/:id/bring-back", authors, v.BringPhotoBack},
		{get, "/models/:model/held/:id", authors, v.Held},
		{post, "/models/:model/held/:id", authors, v.Settle},
	}
}
